"""The page that artwork sits on, and the units that people measure it in."""

from __future__ import annotations

from typing import Literal, NamedTuple

import msgspec

from volumen.shading.paint import Colour

Unit = Literal["px", "mm", "in", "pt"]
# User units in one of each: 96 to the inch, as in SVG.
PER_UNIT: dict[str, float] = {"px": 1.0, "mm": 96 / 25.4, "in": 96.0, "pt": 96 / 72}


class Sheet(msgspec.Struct, frozen=True):
    """The page: size in user units, and its colour (None is a clear ground).

    ``unit`` is the one that its lengths are shown in. Artwork is printed ``bleed`` (user units) beyond its edges, to
    be cut off. ``dpi`` is the resolution on the printed sheet of what becomes pixels.
    """

    width: float = 800.0
    height: float = 800.0
    ground: Colour | None = Colour(1.0, 1.0, 1.0)
    unit: Unit = "px"
    bleed: float = 0.0
    dpi: float = 300.0

    @property
    def size_in_unit(self) -> str:
        """The size as people say it: '210 × 297 mm'."""
        w, h = (f"{v / PER_UNIT[self.unit]:.2f}".rstrip("0").rstrip(".") for v in (self.width, self.height))
        return f"{w} × {h} {self.unit}"


class SheetFormat(NamedTuple):
    """A usual size of sheet, upright, in its own unit."""

    name: str
    width: float
    height: float
    unit: Unit = "mm"

    @property
    def size(self) -> tuple[float, float]:
        """In user units."""
        return self.width * PER_UNIT[self.unit], self.height * PER_UNIT[self.unit]


FORMATS = (
    SheetFormat("A2 poster", 420, 594),
    SheetFormat("A3", 297, 420),
    SheetFormat("A4", 210, 297),
    SheetFormat("A5", 148, 210),
    SheetFormat("A6 card", 105, 148),
    SheetFormat("square sheet", 210, 210),
    SheetFormat("bag print", 280, 320),
    SheetFormat("tin label", 85, 230),
    SheetFormat("round sticker", 60, 60),
    SheetFormat("letter", 8.5, 11, "in"),
    SheetFormat("screen", 1080, 1920, "px"),
    SheetFormat("icon", 512, 512, "px"),
)


def format_of(sheet: Sheet) -> SheetFormat | None:
    """The usual size that a sheet has, upright or across, to a tenth of a user unit; None for any other."""
    size = sorted((sheet.width, sheet.height))
    for row in FORMATS:
        w, h = sorted(row.size)
        if abs(w - size[0]) < 0.1 and abs(h - size[1]) < 0.1:
            return row
    return None
