"""A labelled slider with a number: the slider spans the usual range, the number takes any."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from volumen.app import theme
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.painting import painted

_STEPS = {
    Qt.Key.Key_Left: -0.01, Qt.Key.Key_Right: 0.01, Qt.Key.Key_Down: -0.01, Qt.Key.Key_Up: 0.01,
    Qt.Key.Key_PageDown: -0.1, Qt.Key.Key_PageUp: 0.1,
}  # fmt: skip
_ENDS = {Qt.Key.Key_Home: 0.0, Qt.Key.Key_End: 1.0}


class Track(QWidget):
    """The slider itself, 0..1; ``colours`` shows a gradient along it."""

    moved = Signal(float)
    released = Signal()

    def __init__(self, label: str) -> None:
        super().__init__()
        self.position = 0.0
        self.colours: list[QColor] = []
        self.mark: float | None = None
        self.setFixedHeight(20)
        self.setMinimumWidth(60)
        self.setAccessibleName(label)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def show_position(self, position: float) -> None:
        if position != self.position:
            self.position = position
            self.update()

    def show_colours(self, colours: list[QColor]) -> None:
        self.colours = colours
        self.update()

    def show_mark(self, position: float) -> None:
        """A tick on the track: beyond it lies what a screen cannot show."""
        self.mark = position
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_track(painter, QRectF(self.rect()), self.position, self.colours, self.hasFocus())
        if self.mark is not None and self.mark < 1:
            x = 7 + self.mark * max(self.width() - 14, 1)
            painter.setPen(QPen(QColor(theme.INK), 1.2))
            painter.drawLine(QPointF(x, 2), QPointF(x, self.height() - 2))

    def _to(self, event: QMouseEvent) -> None:
        span = max(self.width() - 14, 1)
        self.position = min(max((event.position().x() - 7) / span, 0.0), 1.0)
        self.update()
        self.moved.emit(self.position)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.released.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = Qt.Key(event.key())
        step = _STEPS.get(key)
        if step is None and key not in _ENDS:
            super().keyPressEvent(event)
            return
        coarse = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        here = min(max(self.position, 0.0), 1.0)
        self.position = _ENDS[key] if step is None else min(max(here + step * coarse, 0.0), 1.0)
        self.update()
        self.moved.emit(self.position)
        self.released.emit()


def paint_track(painter: QPainter, box: QRectF, position: float, colours: list[QColor], focused: bool) -> None:
    """The groove, filled up to the knob (or showing colours), and the knob."""
    y, left, right = box.center().y(), box.left() + 7, box.right() - 7
    x = left + min(max(position, 0.0), 1.0) * (right - left)
    painter.setPen(Qt.PenStyle.NoPen)
    if colours:
        gradient = QLinearGradient(left, 0, right, 0)
        for i, c in enumerate(colours):
            gradient.setColorAt(i / (len(colours) - 1), c)
        painter.setBrush(gradient)
        painter.drawRoundedRect(QRectF(left - 4, y - 4, right - left + 8, 8), 4, 4)
    else:
        painter.setBrush(QColor("#dcdad3"))
        painter.drawRoundedRect(QRectF(left, y - 1.5, right - left, 3), 1.5, 1.5)
        painter.setBrush(QColor(theme.INK))
        painter.drawRoundedRect(QRectF(left, y - 1.5, x - left, 3), 1.5, 1.5)
    painter.setBrush(QColor("white"))
    painter.setPen(QPen(QColor(theme.AMBER_DARK if focused else theme.INK), 1.8 if focused else 1.3))
    painter.drawEllipse(QPointF(x, y), 5.6, 5.6)


class SliderRow(QWidget):
    """``preview`` while a hand is on it, ``done`` at the end. ``factor`` turns stored values into shown ones."""

    preview = Signal(float)
    done = Signal(float)
    value: float

    def __init__(
        self, label: str, low: float, high: float, unit: str = "", factor: float = 1.0,
        hard_low: float = -math.inf, hard_high: float = math.inf, digits: int = 1,
    ) -> None:  # fmt: skip
        super().__init__()
        self.low, self.high, self.factor = low, high, factor
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.name = QLabel(label)
        self.name.setObjectName("quiet")
        self.name.setFixedWidth(76)
        row.addWidget(self.name)
        self.track = Track(label)
        row.addWidget(self.track, 1)
        step = factor / 100 if factor != 1 else (0.1 if high - low <= 10 else 1.0)
        step = 1.0 if factor == 100 else step
        self.number = NumberField(label, unit, step, hard_low * factor, hard_high * factor, digits)
        self.number.setFixedWidth(58)
        row.addWidget(self.number)
        self.track.moved.connect(lambda t: self._preview(low + t * (high - low)))
        self.track.released.connect(lambda: self.done.emit(self.value))
        self.number.preview.connect(lambda v: self._preview(v / factor))
        self.number.done.connect(self._typed)
        self.value = low

    def narrow(self) -> None:
        """As slim as the toolbox needs it."""
        self.name.setFixedWidth(58)
        self.number.setFixedWidth(50)
        self.track.setMinimumWidth(30)

    def show_value(self, value: float, mixed: bool = False) -> None:
        self.value = value
        self.number.show_value(value * self.factor, mixed)
        self.track.show_position((value - self.low) / (self.high - self.low))

    def _preview(self, value: float) -> None:
        self.show_value(value)
        self.preview.emit(value)

    def _typed(self, value: float) -> None:
        self.show_value(value / self.factor)
        self.done.emit(self.value)
