"""A gradient as a bar with its stops: drag, double-click for a new one, drag off or Delete to remove."""

from __future__ import annotations

import msgspec
import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.widgets.painting import painted
from volumen.edit.gradients import with_stop_at
from volumen.shading.paint import Gradient, Linear, Stop
from volumen.shading.ramp import ramp

replace = msgspec.structs.replace
_MARGIN = 9
_REMOVING = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)


def paint_ramp(painter: QPainter, box: QRectF, stops: tuple[Stop, ...], oklab: bool) -> None:
    """The true colours of a gradient along a bar."""
    painter.fillRect(box, QColor("white"))
    painter.fillRect(box, QColor("#cfcdc6") if any(s.colour.a < 1 for s in stops) else QColor("white"))
    t = np.linspace(0, 1, 65)
    gradient = QLinearGradient(box.left(), 0, box.right(), 0)
    for x, (r, g, b, a) in zip(t, ramp(stops, t, oklab).tolist(), strict=True):
        gradient.setColorAt(float(x), theme.qcolor((r, g, b), a))
    painter.setBrush(gradient)
    painter.setPen(QPen(QColor("#8f8d86"), 1))
    painter.drawRoundedRect(box, 3, 3)


class StopBar(QWidget):
    """A gradient as a bar with its stops."""

    preview = Signal(object)
    done = Signal(object)
    chosen = Signal(int)

    def __init__(self, editable: bool = True) -> None:
        super().__init__()
        self.gradient: Gradient = Linear((), (0, 0), (1, 0))
        self.index = 0
        self.editable = editable
        self._drag: str = ""
        self._before: Gradient = self.gradient
        self.setFixedHeight(40 if editable else 22)
        self.setAccessibleName("stops")
        if editable:
            self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
            self.setToolTip("Double-click for a new stop; drag a stop off the bar to remove it")

    def show_gradient(self, gradient: Gradient, index: int) -> None:
        self.gradient, self.index = gradient, min(index, max(len(gradient.stops) - 1, 0))
        self.update()

    def _x(self, t: float) -> float:
        return _MARGIN + t * (self.width() - 2 * _MARGIN)

    def _t(self, x: float) -> float:
        return min(max((x - _MARGIN) / max(self.width() - 2 * _MARGIN, 1), 0.0), 1.0)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_ramp(
            painter, QRectF(_MARGIN, 4, self.width() - 2 * _MARGIN, 15), self.gradient.stops, self.gradient.oklab
        )
        if not self.editable:
            return
        stops = self.gradient.stops
        for s, t in zip(stops, stops[1:], strict=False):
            if t.at - s.at > 0.03:
                _diamond(painter, self._x(s.at + (t.at - s.at) * s.middle), 22)
        for i, stop in enumerate(stops):
            x = self._x(stop.at)
            painter.setPen(
                QPen(QColor(theme.VERMILION if i == self.index else theme.INK), 2 if i == self.index else 1.2)
            )
            painter.setBrush(theme.qcolor(stop.colour.rgb))
            painter.drawEllipse(QPointF(x, 30), 6, 6)
            painter.drawLine(QPointF(x, 19), QPointF(x, 24))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self.editable:
            return
        x, y = event.position().x(), event.position().y()
        self._before, self._drag = self.gradient, ""
        stops = self.gradient.stops
        nearest = min(range(len(stops)), key=lambda i: abs(self._x(stops[i].at) - x), default=None)
        if nearest is not None and abs(self._x(stops[nearest].at) - x) < 8 and y > 17:
            self._drag, self.index = "stop", nearest
            self.chosen.emit(nearest)
            self.update()
            return
        for i, (s, t) in enumerate(zip(stops, stops[1:], strict=False)):
            if abs(self._x(s.at + (t.at - s.at) * s.middle) - x) < 6 and y > 15:
                self._drag, self.index = "middle", i
                return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self._drag:
            return
        t, i, stops = self._t(event.position().x()), self.index, list(self._before.stops)
        if self._drag == "middle":
            span = stops[i + 1].at - stops[i].at
            stops[i] = replace(stops[i], middle=min(max((t - stops[i].at) / max(span, 1e-6), 0.02), 0.98))
        elif abs(event.position().y() - 20) > 46 and len(stops) > 1:
            del stops[i]
        else:
            low = stops[i - 1].at if i else 0.0
            high = stops[i + 1].at if i + 1 < len(stops) else 1.0
            stops[i] = replace(stops[i], at=min(max(t, low), high))
        self.gradient = replace(self._before, stops=tuple(stops))
        self.update()
        self.preview.emit(self.gradient)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag and self.gradient is not self._before:
            self.done.emit(self.gradient)
        self._drag = ""

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.editable and event.position().y() < 22:
            changed, index = with_stop_at(self.gradient, self._t(event.position().x()))
            self.done.emit(changed)
            self.chosen.emit(index)

    def event(self, event: QEvent) -> bool:
        """Delete is the stop's while the bar has the keys, not the object's."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent) and event.key() in _REMOVING:
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in _REMOVING and len(self.gradient.stops) > 1:
            stops = self.gradient.stops[: self.index] + self.gradient.stops[self.index + 1 :]
            self.done.emit(replace(self.gradient, stops=stops))
            self.chosen.emit(max(self.index - 1, 0))
        else:
            super().keyPressEvent(event)


def _diamond(painter: QPainter, x: float, y: float) -> None:
    path = QPainterPath(QPointF(x, y - 4))
    for dx, dy in ((4, 4), (0, 8), (-4, 4)):
        path.lineTo(x + dx, y - 4 + dy)
    path.closeSubpath()
    painter.setPen(QPen(QColor(theme.INK), 1))
    painter.setBrush(QColor("white"))
    painter.drawPath(path)
