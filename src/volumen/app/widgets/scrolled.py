"""What a scroll area shows, exchanged without pulling it away from under an event."""

from __future__ import annotations

from PySide6.QtWidgets import QScrollArea, QWidget

_leaving: set[QWidget] = set()  # held until they are deleted


def show_body(area: QScrollArea, body: QWidget) -> None:
    """Let a scroll area show another body. The old one goes when no event is under way any more: the area itself
    deletes it at once, and a field whose entry led here would be gone before it has done with its key."""
    old = area.widget()
    if old is None:
        area.setWidget(body)
        return
    for child in old.findChildren(QWidget):
        child.blockSignals(True)  # what was typed and not entered is not taken now: it belonged to what was there
    area.takeWidget()  # takes the focus from a field at once
    area.setWidget(body)
    old.hide()
    old.setParent(None)
    _leaving.add(old)
    old.destroyed.connect(lambda: _leaving.discard(old))
    old.deleteLater()
