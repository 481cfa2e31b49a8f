"""A garment printer: the white underbase that is laid under the ink, on cloth of any colour.

A stand-in: it knows areas, not how much white a cloth soaks up; half clear ink gets full white.
"""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from volumen.devices.cover import DeviceProblem, cover
from volumen.geometry.boolean import boolean
from volumen.geometry.engine import PathOpError
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.geometry.winding import simplified
from volumen.model.nodes import Document
from volumen.model.sheet import PER_UNIT

MM = PER_UNIT["mm"]


class GarmentPrinter(msgspec.Struct, frozen=True):
    """``choke``: how far the white stays within the ink, mm, so that it never looks out. ``finest``: the thinnest line
    of white that holds, mm."""

    choke: float = 0.3
    finest: float = 0.3


USUAL = GarmentPrinter()


class Underbase(NamedTuple):
    """Areas on the sheet (user units): what is printed, its white, and what gets none as it is too
    thin; with areas in mm2."""

    ink: Path
    white: Path
    bare: Path
    ink_mm2: float
    white_mm2: float
    bare_mm2: float


def underbase(document: Document, printer: GarmentPrinter = USUAL) -> Underbase:
    """The white under a document's artwork; knockouts stay free. Raises DeviceProblem."""
    ink = cover(document)
    if not ink:
        raise DeviceProblem("there is nothing to print: no object of the artwork covers anything")
    try:
        white = offset(ink, -printer.choke * MM) if printer.choke > 0 else ink
        half = printer.finest * MM / 2
        if half > 0 and white:
            white = offset(offset(white, -half), half)  # what is thinner than the finest line is not laid
        reached = offset(white, printer.choke * MM + half) if white else Path()
        bare = boolean(ink, reached, "subtract") if reached else ink
    except PathOpError as error:
        raise DeviceProblem(f"the underbase cannot be worked out: {error}") from error
    return Underbase(ink, white, bare, *(_area(p) for p in (ink, white, bare)))


def _area(path: Path) -> float:
    """In mm2, of an even-odd filled area."""
    return abs(simplified(path).area()) / MM**2 if path else 0.0
