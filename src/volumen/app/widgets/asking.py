"""Questions with named answers, and file names with the suffix they need."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

_Role = QMessageBox.ButtonRole


def ask(parent: QWidget, text: str, *answers: str) -> str:
    """A question; the first answer is the usual one, the last is what Escape and closing mean."""
    box = QMessageBox(parent)
    box.setText(text)
    roles = [_Role.AcceptRole, *[_Role.DestructiveRole] * (len(answers) - 2), _Role.RejectRole]
    buttons = [box.addButton(a, role) for a, role in zip(answers, roles, strict=True)]
    box.setDefaultButton(buttons[0])
    box.setEscapeButton(buttons[-1])
    box.exec()
    clicked = box.clickedButton()
    return next((a for a, b in zip(answers, buttons, strict=True) if b is clicked), answers[-1])


def ask_save_name(parent: QWidget, title: str, start: str, kinds: str, suffixes: tuple[str, ...]) -> Path | None:
    """Where to write. The first of the suffixes is added where none of them was typed, and a file that is met only
    then is asked about; the dialog itself asks about the name as it was typed."""
    name, _ = QFileDialog.getSaveFileName(parent, title, start, kinds)
    if not name:
        return None
    path = Path(name)
    if path.suffix.lower() in suffixes:
        return path
    path = path.with_name(path.name + suffixes[0])
    if path.exists() and ask(parent, f"'{path.name}' is there already.", "Replace it", "Stay") == "Stay":
        return None
    return path
