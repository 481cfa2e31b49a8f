"""New, open, save: the window's dealings with files, every problem said in words."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QMessageBox

from volumen.demo import DEMOS
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.formats.svg_read import open_svg
from volumen.model.nodes import Document

if TYPE_CHECKING:
    from volumen.app.window import Window

FILTER = "Volumen artwork (*.volumen)"
OPEN_FILTER = "Artwork (*.volumen *.svg)"


class Documents:
    def __init__(self, window: Window) -> None:
        self.window = window
        self.session = window.session

    def new(self) -> None:
        if self.may_leave():
            self.session.open(Document(), None, "untitled")
            self.window.canvas.fit()

    def open(self) -> None:
        if self.may_leave():
            name, _ = QFileDialog.getOpenFileName(self.window, "Open", self._folder(), OPEN_FILTER)
            if name:
                self.load(name)

    def load(self, name: str) -> bool:
        """Open a file or ``demo:NAME``; on a problem the open document stays. False if it did not open."""
        try:
            if name.startswith("demo:"):
                self.session.open(DEMOS[name[5:]][1](), None, name[5:])
            elif name.lower().endswith(".svg"):
                document, notes = open_svg(Path(name))
                self.session.open(document, None, Path(name).stem)
                self.window.exchange.tell_missing(notes)
            else:
                path = Path(name)
                self.session.open(native.load(path), path, path.stem)
        except FileProblem as problem:
            self.tell(str(problem))
            return False
        self.window.canvas.fit()
        return True

    def save(self) -> bool:
        return self.save_to(self.session.path) if self.session.path else self.save_as()

    def save_as(self) -> bool:
        start = Path(self._folder()) / f"{self.session.name}.volumen"
        name, _ = QFileDialog.getSaveFileName(self.window, "Save as", str(start), FILTER)
        if not name:
            return False
        path = Path(name)
        return self.save_to(path if path.suffix == ".volumen" else path.with_name(path.name + ".volumen"))

    def save_to(self, path: Path) -> bool:
        from volumen.formats.export import preview_png  # loaded at the first save, not at the start

        document = self.session.history.committed
        try:
            native.save(document, path, preview_png(document))
        except FileProblem as problem:
            self.tell(str(problem))
            return False
        self.session.saved(path)
        self.session.say(f"saved {path}")
        self.window.autosave.clear()
        return True

    def may_leave(self) -> bool:
        """Ask what to do with unsaved work; True if the document may go."""
        if not self.session.history.changed:
            return True
        box = QMessageBox(self.window)
        box.setText(f"'{self.session.name}' has changes that are not saved.")
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        drop = box.addButton("Discard the changes", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
        box.exec()
        if box.clickedButton() is save:
            return self.save()
        return box.clickedButton() is drop

    def tell(self, message: str) -> None:
        """A problem: in the status bar, and beside the window until it is read."""
        self.session.say(message)
        self.window.notice(message)

    def _folder(self) -> str:
        return str(self.session.path.parent if self.session.path else Path.home())
