"""What belongs to the colour in hand: tints and shades, its lit ramp, harmonies, values, contrast, gamut marks."""

from __future__ import annotations

from collections.abc import Callable
from typing import ClassVar

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.painting import painted
from volumen.app.widgets.segment import ListBox
from volumen.colour import relatives
from volumen.colour.press import PRINTABLE, ProfileProblem, inks_of, levels_of, look_of, press_difference
from volumen.colour.press_settings import Press
from volumen.colour.relatives import HARMONIES, Rgb
from volumen.geometry.affine import IDENTITY
from volumen.shading.bodies import body_gradient
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour


class Strip(QWidget):
    """A row of colours to click."""

    taken = Signal(object)

    def __init__(self, label: str) -> None:
        super().__init__()
        self.colours: list[Rgb] = []
        self.setFixedHeight(18)
        self.setAccessibleName(label)
        self.setToolTip(label)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_colours(self, colours: list[Rgb]) -> None:
        self.colours = colours
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        n = max(len(self.colours), 1)
        for i, rgb in enumerate(self.colours):
            x0, x1 = round(i * self.width() / n), round((i + 1) * self.width() / n)
            painter.fillRect(QRectF(x0, 1, x1 - x0, self.height() - 2), theme.qcolor(rgb))
        painter.setPen(QPen(QColor("#8f8d86"), 1))
        painter.drawRect(QRectF(0.5, 1.5, self.width() - 1, self.height() - 3))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.colours:
            i = int(event.position().x() * len(self.colours) / max(self.width(), 1))
            self.taken.emit(self.colours[min(max(i, 0), len(self.colours) - 1)])


def lit_ramp(rgb: Rgb, material: str = "clay", count: int = 9) -> list[Rgb]:
    """The tones of a ball of a colour, from its highlight to its reflected light."""
    gradient = body_gradient("ball", (0, 0, 100, 100), Colour(*rgb), Lamp(), IDENTITY, material)
    stops = gradient.stops
    return [stops[round(k * (len(stops) - 1) / (count - 1))].colour.rgb for k in range(count)]


_NOTATIONS: dict[str, tuple[tuple[str, ...], Callable[[Rgb], tuple[float, ...]], Callable[..., Rgb]]] = {
    "RGB": (
        ("red", "green", "blue"),
        lambda c: (c[0] * 255, c[1] * 255, c[2] * 255),
        lambda *v: (v[0] / 255, v[1] / 255, v[2] / 255),
    ),
    "HSL": (("hue", "saturation", "lightness"), relatives.hsl, relatives.from_hsl),
    "Lab": (("L", "a", "b"), relatives.lab, relatives.from_lab),
    "press": (
        ("cyan", "magenta", "yellow", "black"),
        lambda c: inks_of(c, press_in_use()),
        lambda *v: look_of(v, press_in_use()),
    ),
}


def press_in_use() -> Press:
    """The press that is proofed for."""
    return ColourGuide.press


class ColourGuide(QWidget):
    """Harmonies, lit tones, contrast and what the press makes of a colour."""

    taken = Signal(object)  # an (r, g, b) to use
    press: ClassVar[Press] = Press()  # the one that is proofed for, in every guide of the window

    def __init__(self) -> None:
        super().__init__()
        self.rgb: Rgb = (0.5, 0.5, 0.5)
        self._typed_inks: tuple[Rgb, tuple[float, ...]] | None = None  # what a colour was made of, and the inks
        self.behind: Colour | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(2)
        self.tones = self._strip(column, "tones", "tints and shades")
        self.lit = self._strip(column, "lit", "the tones of a lit form in this colour")
        line = QHBoxLayout()
        self.harmony = ListBox()
        self.harmony.setAccessibleName("harmony")
        self.harmony.addItems(list(HARMONIES))
        self.harmony.setFixedWidth(104)
        self.harmony.activated.connect(lambda _: self._refresh())
        self.relatives = Strip("harmony of this colour")
        self.relatives.taken.connect(self.taken)
        line.addWidget(self.harmony)
        line.addWidget(self.relatives, 1)
        column.addLayout(line)
        self.notation = ListBox()
        self.notation.setAccessibleName("values as")
        self.notation.addItems(list(_NOTATIONS))
        self.notation.setFixedWidth(62)
        self.notation.activated.connect(lambda _: self._refresh())
        row = QHBoxLayout()
        row.setSpacing(3)
        row.addWidget(self.notation)
        self.fields = [NumberField(f"value {k + 1}", "", 1) for k in range(4)]
        for k, field in enumerate(self.fields):
            field.done.connect(lambda v, n=k: self._typed(n, v))
            row.addWidget(field, 1)
        column.addLayout(row)
        self.note = QLabel()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        column.addWidget(self.note)

    def _strip(self, column: QVBoxLayout, label: str, tip: str) -> Strip:
        line = QHBoxLayout()
        name = QLabel(label)
        name.setObjectName("quiet")
        name.setFixedWidth(76)
        strip = Strip(tip)
        strip.taken.connect(self.taken)
        line.addWidget(name)
        line.addWidget(strip, 1)
        column.addLayout(line)
        return strip

    def show_colour(self, rgb: Rgb, behind: Colour | None = None) -> None:
        self.rgb, self.behind = rgb, behind
        self._refresh()

    def _refresh(self) -> None:
        self.tones.show_colours(relatives.tints_and_shades(self.rgb))
        self.lit.show_colours(lit_ramp(self.rgb))
        self.relatives.show_colours(relatives.harmony(self.rgb, self.harmony.currentText()))
        names, read, _ = _NOTATIONS[self.notation.currentText()]
        values = self._inks() if self.notation.currentText() == "press" else read(self.rgb)
        for k, field in enumerate(self.fields):
            field.setVisible(k < len(names))
            if k < len(names):
                field.setAccessibleName(names[k])
                field.setToolTip(names[k])
                field.show_value(values[k])
        self.note.setText(self._remarks())

    def _remarks(self) -> str:
        parts = []
        if self.behind is not None:
            ratio = relatives.contrast(self.rgb, self.behind.rgb)
            verdict = "reads well" if ratio >= 4.5 else "large letters only" if ratio >= 3 else "hard to read"
            parts.append(f"{ratio:.1f} : 1 against what lies behind, {verdict}")
        try:
            miss = float(press_difference(levels_of([self.rgb]), self.press)[0])
            if miss > PRINTABLE:
                parts.append(f"the {self.press.name} press misses it by {miss:.0f}")
        except ProfileProblem as problem:
            parts.append(str(problem))
        return "; ".join(parts)

    def _inks(self) -> tuple[float, ...]:
        """The inks of the colour: those that were typed, as long as it is what they gave."""
        if self._typed_inks is not None and self._typed_inks[0] == self.rgb:
            return self._typed_inks[1]
        try:
            return inks_of(self.rgb, self.press)
        except ProfileProblem:
            return (0.0, 0.0, 0.0, 0.0)

    def _typed(self, index: int, value: float) -> None:
        notation = self.notation.currentText()
        names, read, make = _NOTATIONS[notation]
        values = list(self._inks() if notation == "press" else read(self.rgb))
        values[index] = value
        try:
            r, g, b = (min(max(float(v), 0.0), 1.0) for v in make(*values[: len(names)]))
        except ProfileProblem:
            return
        if notation == "press":
            self._typed_inks = ((r, g, b), tuple(values))
        self.taken.emit((r, g, b))
