"""Pictures of what seldom changes in a widget that is painted often, such as all that lies behind a moving hand."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPixmap

from volumen.app.canvas.sheet import PaintedOn


class Still:
    """One picture as large as its widget, painted again only when what it ``shows`` changes."""

    def __init__(self) -> None:
        self._pixmap = QPixmap()
        self._shows: object = None

    def paint(self, onto: QPainter, widget: PaintedOn, shows: object, draw: Callable[[QPainter], None]) -> None:
        ratio = widget.devicePixelRatioF()
        key = (shows, widget.size().toTuple(), ratio)
        if self._shows != key:
            self._shows = key
            self._pixmap = QPixmap(widget.size() * ratio)
            self._pixmap.setDevicePixelRatio(ratio)
            self._pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(self._pixmap)
            painter.setRenderHints(onto.renderHints())
            draw(painter)
            painter.end()
        onto.drawPixmap(0, 0, self._pixmap)
