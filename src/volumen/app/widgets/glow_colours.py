"""The colours of a glow: one all through, or a gradient from the edge to where the light ends."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from volumen.app.widgets.colours import ColourPanel
from volumen.app.widgets.segment import segment
from volumen.app.widgets.stopbar import StopBar
from volumen.model.ingredients import InnerGlow, OuterGlow
from volumen.model.recolour import shifted
from volumen.shading.paint import Colour, Linear, Stop

replace = msgspec.structs.replace
Glow = OuterGlow | InnerGlow


class GlowColours(QWidget):
    """Tells the fields of a glow that change: ``colour`` or ``stops``."""

    preview = Signal(dict)
    done = Signal(dict)

    def __init__(self) -> None:
        super().__init__()
        self.glow: Glow = OuterGlow(Colour(1, 1, 1))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(2)
        self.plain, self.many = segment("one colour", wide=True), segment("gradient", wide=True)
        self.plain.clicked.connect(lambda: self._turn(False))
        self.many.clicked.connect(lambda: self._turn(True))
        row.addWidget(self.plain, 1)
        row.addWidget(self.many, 1)
        column.addLayout(row)
        self.bar = StopBar()
        self.bar.setAccessibleName("colours from the edge to where the light ends")
        column.addWidget(self.bar)
        self.panel = ColourPanel()
        column.addWidget(self.panel)
        self.bar.preview.connect(lambda g: self.preview.emit({"stops": g.stops}))
        self.bar.done.connect(lambda g: self.done.emit({"stops": g.stops}))
        self.bar.chosen.connect(self._choose)
        self.panel.preview.connect(lambda c: self.preview.emit(self._with(c)))
        self.panel.done.connect(lambda c: self.done.emit(self._with(c)))

    def show_glow(self, glow: Glow) -> None:
        self.glow = glow
        self.plain.setChecked(not glow.stops)
        self.many.setChecked(bool(glow.stops))
        self.bar.setVisible(bool(glow.stops))
        if glow.stops:
            self.bar.show_gradient(Linear(glow.stops, (0, 0), (1, 0)), self.bar.index)
        self.panel.show_colour(glow.stops[self.bar.index].colour if glow.stops else glow.colour)

    def _choose(self, index: int) -> None:
        self.bar.index = index
        self.show_glow(self.glow)

    def _turn(self, gradient: bool) -> None:
        """From one colour to a gradient that begins with it, or back to the first colour."""
        if gradient == bool(self.glow.stops):
            self.show_glow(self.glow)
        elif gradient:
            near = self.glow.colour
            self.done.emit({"stops": (Stop(0.0, near), Stop(1.0, shifted(near, 40.0, -0.15, 0.1)))})
        else:
            self.done.emit({"stops": (), "colour": self.glow.stops[0].colour})

    def _with(self, colour: Colour) -> dict[str, object]:
        if not self.glow.stops:
            return {"colour": colour}
        at = self.bar.index
        return {
            "stops": tuple(
                replace(s, colour=colour, swatch=None) if k == at else s for k, s in enumerate(self.glow.stops)
            )
        }
