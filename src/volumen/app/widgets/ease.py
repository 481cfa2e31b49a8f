"""A small square with an easing curve, drawn by its two handles."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.widgets.painting import painted
from volumen.geometry.ease import EVEN, Ease

_SIDE, _EDGE = 76, 8
_KEYS = {
    Qt.Key.Key_Left: (-0.05, 0.0), Qt.Key.Key_Right: (0.05, 0.0),
    Qt.Key.Key_Up: (0.0, 0.05), Qt.Key.Key_Down: (0.0, -0.05),
}  # fmt: skip


class EaseBox(QWidget):
    """Emits the whole curve: ``preview`` while a handle is dragged, ``done`` at the end. Double click evens it."""

    preview = Signal(object)
    done = Signal(object)

    def __init__(self, label: str) -> None:
        super().__init__()
        self.ease: Ease = EVEN
        self.held = 0
        self.setFixedSize(_SIDE, _SIDE)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(f"{label}: curve")
        self.setToolTip("Drag the two handles; double click makes it even. Keys: Tab in, arrows move, Space the other")

    def show_ease(self, ease: Ease) -> None:
        self.ease = ease
        self.update()

    def at(self, x: float, y: float) -> QPointF:
        """Where a point of the unit square lies in the widget."""
        span = _SIDE - 2 * _EDGE
        return QPointF(_EDGE + x * span, _SIDE - _EDGE - y * span)

    def _handles(self) -> tuple[QPointF, QPointF]:
        x1, y1, x2, y2 = self.ease
        return self.at(x1, min(max(y1, 0.0), 1.0)), self.at(x2, min(max(y2, 0.0), 1.0))

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme.AMBER_DARK if self.hasFocus() else theme.EDGE), 1))
        painter.setBrush(QColor("white"))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)
        first, second = self._handles()
        start, end = self.at(0, 0), self.at(1, 1)
        painter.setPen(QPen(QColor(theme.FAINT), 1))
        painter.drawLine(start, first)
        painter.drawLine(end, second)
        curve = QPainterPath(start)
        curve.cubicTo(first, second, end)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(theme.INK), 1.6))
        painter.drawPath(curve)
        painter.setPen(QPen(QColor("white"), 1.2))
        for k, p in enumerate((first, second)):
            painter.setBrush(QColor(theme.AMBER_DARK if k == self.held and self.hasFocus() else theme.INK))
            painter.drawEllipse(p, 4.2, 4.2)

    def _moved(self, x: float, y: float) -> None:
        own = list(self.ease)
        own[2 * self.held] = min(max(x, 0.0), 1.0)
        own[2 * self.held + 1] = min(max(y, 0.0), 1.0)
        self.show_ease((own[0], own[1], own[2], own[3]))
        self.preview.emit(self.ease)

    def _to(self, event: QMouseEvent) -> None:
        span = _SIDE - 2 * _EDGE
        p = event.position()
        self._moved((p.x() - _EDGE) / span, (_SIDE - _EDGE - p.y()) / span)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        far = [(h - event.position()).manhattanLength() for h in self._handles()]
        self.held = int(far[1] < far[0])
        self._to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.done.emit(self.ease)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.show_ease(EVEN)
        self.done.emit(self.ease)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = _KEYS.get(Qt.Key(event.key()))
        if step is not None:
            self._moved(self.ease[2 * self.held] + step[0], self.ease[2 * self.held + 1] + step[1])
            self.done.emit(self.ease)
        elif event.key() == Qt.Key.Key_Space:
            self.held = 1 - self.held
            self.update()
        else:
            super().keyPressEvent(event)
