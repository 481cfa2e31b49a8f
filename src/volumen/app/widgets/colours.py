"""Choosing a colour inside a card: OKLCH sliders that show where they lead, alpha, hex, a row of the demo palette.

It opens in place, so it never covers the artwork.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.widgets.colour_guide import ColourGuide
from volumen.app.widgets.painting import painted
from volumen.app.widgets.slider import SliderRow
from volumen.colour import oklab
from volumen.colour.relatives import most_chroma
from volumen.colour.srgb import Floats, from_hex, to_hex
from volumen.shading.paint import Colour

# A northern harbour: sea, brass, bone, fog, vermilion, ink.
HARBOUR = (
    "#0f4a49",
    "#2b8577",
    "#7fd0bd",
    "#c98f35",
    "#e6c793",
    "#efe6d6",
    "#d9dbd3",
    "#c8402a",
    "#6b3a22",
    "#20242a",
    "#ffffff",
)


class Swatch(QAbstractButton):
    """A button in a colour; a checker shows through where it is clear."""

    def __init__(self, label: str, size: int = 22) -> None:
        super().__init__()
        self.colour = Colour(0.5, 0.5, 0.5)
        self.setFixedSize(size, size)
        self.setAccessibleName(label)
        self.setToolTip(label)

    def show_colour(self, value: Colour) -> None:
        self.colour = value
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        if self.colour.a < 1:
            painter.fillRect(box, QColor("white"))
            painter.fillRect(box, Qt.BrushStyle.Dense5Pattern)
        painter.setBrush(theme.qcolor(self.colour.rgb, self.colour.a))
        painter.setPen(QPen(QColor(theme.INK if self.hasFocus() or self.isChecked() else "#8f8d86"), 1))
        painter.drawRoundedRect(box, 4, 4)


class ColourPanel(QWidget):
    """Chooses a colour by lightness, chroma and hue, by notation or from the harbour's own."""

    preview = Signal(object)
    done = Signal(object)

    def __init__(self, compact: bool = False) -> None:
        super().__init__()
        self.colour = Colour(0.5, 0.5, 0.5)
        self.lch = np.array([0.5, 0.0, 0.0])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        self.light = SliderRow("lightness", 0, 1, " %", 100, 0, 1)
        self.chroma = SliderRow("chroma", 0, 0.32, "", 100, 0, 0.5)
        self.hue = SliderRow("hue", 0, 360, "°", 1)
        self.alpha = SliderRow("alpha", 0, 1, " %", 100, 0, 1)
        for row in (self.light, self.chroma, self.hue, self.alpha):
            column.addWidget(row)
            row.preview.connect(lambda _: self._moved(False))
            row.done.connect(lambda _: self._moved(True))
        column.addLayout(self._hex_row())
        self.guide = ColourGuide()
        self.guide.taken.connect(lambda rgb: self._take(Colour(rgb[0], rgb[1], rgb[2], self.colour.a)))
        column.addWidget(self.guide)
        if compact:
            self.guide.hide()
        self.behind: Callable[[], Colour | None] | None = None  # asked only when the contrast is shown anew

    def _hex_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        label = QLabel("hex")
        label.setObjectName("quiet")
        label.setFixedWidth(76)
        self.hex = QLineEdit()
        self.hex.setAccessibleName("hex colour")
        self.hex.editingFinished.connect(self._hex_typed)
        row.addWidget(label)
        row.addWidget(self.hex)
        return row

    def show_colour(self, value: Colour) -> None:
        if value == self.colour and self.hex.text():
            return
        self.colour = value
        shown = oklab.lch_to_srgb(self.lch)
        if np.abs(shown - np.array(value.rgb)).max() > 1 / 512:
            lch = oklab.to_lch(oklab.from_srgb(value.rgb))
            # A grey has no hue of its own: keep the one on the slider.
            self.lch = lch if lch[1] > 1e-3 else np.array([lch[0], 0.0, self.lch[2]])
        self._refresh()

    def _refresh(self) -> None:
        l, c, h = (float(v) for v in self.lch)
        self.light.show_value(l)
        self.chroma.show_value(c)
        self.hue.show_value(h)
        self.alpha.show_value(self.colour.a)
        self.hex.setText(to_hex(self.colour.rgb))
        t = np.linspace(0, 1, 13)
        one = np.ones(13)
        self.light.track.show_colours(_ramp(t, c * one, h * one))
        self.chroma.track.show_colours(_ramp(l * one, t * 0.32, h * one))
        self.hue.track.show_colours(_ramp(l * one, max(c, 0.08) * one, t * 360))
        self.alpha.track.show_colours([QColor("#dcdad3"), theme.qcolor(self.colour.rgb)])
        self.chroma.track.show_mark(most_chroma(l, h) / 0.32)
        if self.guide.isVisibleTo(self):
            self.guide.show_colour(self.colour.rgb, self.behind() if self.behind else None)

    def _moved(self, final: bool) -> None:
        self.lch = np.array(
            [self.light.value, self.chroma.value, self.hue.value % 360 if self.hue.value != 360 else 360.0]
        )
        r, g, b = (float(v) for v in oklab.lch_to_srgb(self.lch))
        self.colour = Colour(r, g, b, min(max(self.alpha.value, 0.0), 1.0))
        self._refresh()
        (self.done if final else self.preview).emit(self.colour)

    def _take(self, value: Colour) -> None:
        self.show_colour(value)
        self.done.emit(value)

    def _hex_typed(self) -> None:
        try:
            rgb = from_hex(self.hex.text())
        except ValueError:
            self.hex.setText(to_hex(self.colour.rgb))
            return
        if to_hex(rgb) != to_hex(self.colour.rgb):
            self._take(Colour(*rgb, self.colour.a))


def _ramp(l: Floats, c: Floats, h: Floats) -> list[QColor]:
    return [theme.qcolor(tuple(v)) for v in oklab.lch_to_srgb(np.stack([l, c, h], axis=-1)).tolist()]
