"""What a scroll area shows, exchanged without pulling it away from under an event."""

from __future__ import annotations

from PySide6.QtWidgets import QScrollArea, QWidget


def show_body(area: QScrollArea, body: QWidget) -> None:
    """Let a scroll area show another body. The old one goes when no event is under way any more: the area itself
    deletes it at once, and a field whose entry led here would be gone before it has done with its key."""
    old = area.takeWidget()
    area.setWidget(body)
    if old is not None:
        for child in old.findChildren(QWidget):
            child.blockSignals(True)  # what was typed and not entered is not taken now
        old.setParent(area)  # it belongs to someone until then
        old.hide()
        old.deleteLater()
