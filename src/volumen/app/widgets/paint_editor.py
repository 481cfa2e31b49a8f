"""Editing a paint in its card: plain, linear or radial, its colour or its stops."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from volumen.app.widgets.colours import ColourPanel
from volumen.app.widgets.segment import segment
from volumen.app.widgets.stopbar import StopBar
from volumen.geometry.path import Box
from volumen.shading.paint import Colour, Linear, Paint, Radial, Solid, Stop

replace = msgspec.structs.replace
_KINDS = (("plain", Solid), ("linear", Linear), ("radial", Radial))


def lighter_and_darker(colour: Colour) -> tuple[Stop, ...]:
    """Stops for a gradient made of one colour: a tint, the colour, a shade."""
    from volumen.colour import oklab

    l, c, h = oklab.to_lch(oklab.from_srgb(colour.rgb))

    def tone(lightness: float, chroma: float) -> Colour:
        r, g, b = (float(v) for v in oklab.lch_to_srgb([lightness, chroma, h]))
        return Colour(r, g, b, colour.a)

    return (Stop(0.0, tone(l + (1 - l) * 0.55, c * 0.75)), Stop(0.5, colour), Stop(1.0, tone(l * 0.55, c * 0.85)))


def converted(paint: Paint, kind: type, box: Box | None) -> Paint:
    """A paint as another kind, laid out for an outline's box."""
    if isinstance(paint, kind):
        return paint
    if kind is Solid:
        stops = paint.stops if isinstance(paint, Linear | Radial) else ()
        return Solid(stops[len(stops) // 2].colour if stops else Colour(0.5, 0.5, 0.5))
    stops = paint.stops if isinstance(paint, Linear | Radial) else lighter_and_darker(paint.colour)
    mixed = paint.oklab if isinstance(paint, Linear | Radial) else True
    l, t, r, b = box or (0.0, 0.0, 100.0, 100.0)
    if kind is Linear:
        return Linear(stops, ((l + r) / 2, t), ((l + r) / 2, b), mixed)
    centre, radius = ((l + r) / 2, (t + b) / 2), max(r - l, b - t) / 2
    return Radial(stops, centre, radius, (centre[0] - radius * 0.3, centre[1] - radius * 0.35), oklab=mixed)


class PaintEditor(QWidget):
    preview = Signal(object)
    done = Signal(object)
    stop_chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.paint: Paint = Solid(Colour(0.5, 0.5, 0.5))
        self.box: Box | None = None
        self.index = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.buttons: dict[type, QToolButton] = {}
        for label, kind in _KINDS:
            button = segment(label)
            button.clicked.connect(lambda _=False, k=kind: self._convert(k))
            self.buttons[kind] = button
            row.addWidget(button)
        self.reverse = segment("reverse", checkable=False)
        self.reverse.clicked.connect(self._reversed)
        row.addStretch(1)
        row.addWidget(self.reverse)
        column.addLayout(row)
        self.bar = StopBar()
        column.addWidget(self.bar)
        self.colours = ColourPanel()
        column.addWidget(self.colours)
        self.bar.preview.connect(self.preview)
        self.bar.done.connect(self.done)
        self.bar.chosen.connect(self.stop_chosen)
        self.colours.preview.connect(lambda c: self.preview.emit(self._with(c)))
        self.colours.done.connect(lambda c: self.done.emit(self._with(c)))

    def show_paint(self, paint: Paint, index: int, box: Box | None) -> None:
        self.paint, self.box = paint, box
        for kind, button in self.buttons.items():
            button.setChecked(isinstance(paint, kind))
        gradient = not isinstance(paint, Solid)
        self.bar.setVisible(gradient)
        self.reverse.setVisible(gradient)
        if isinstance(paint, Solid):
            self.colours.show_colour(paint.colour)
        elif paint.stops:
            self.index = min(index, len(paint.stops) - 1)
            self.bar.show_gradient(paint, self.index)
            self.colours.show_colour(paint.stops[self.index].colour)

    def _with(self, colour: Colour) -> Paint:
        if isinstance(self.paint, Solid):
            return Solid(colour)
        stops = list(self.paint.stops)
        stops[self.index] = replace(stops[self.index], colour=colour)
        return replace(self.paint, stops=tuple(stops))

    def _convert(self, kind: type) -> None:
        changed = converted(self.paint, kind, self.box)
        if changed is self.paint:
            self.buttons[kind].setChecked(True)
        else:
            self.done.emit(changed)

    def _reversed(self) -> None:
        if isinstance(self.paint, Solid):
            return
        old = self.paint.stops
        middles = [1 - s.middle for s in old[:-1]][::-1] + [0.5]
        stops = tuple(Stop(1 - s.at, s.colour, m) for s, m in zip(reversed(old), middles, strict=True))
        self.done.emit(replace(self.paint, stops=stops))
