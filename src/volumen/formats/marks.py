"""The marks round a sheet that is to be cut: where its corners are, and crosses to lay plates on one another."""

from __future__ import annotations

import numpy as np

from volumen.geometry.affine import Point
from volumen.model.nodes import Sheet
from volumen.model.sheet import PER_UNIT

MM = PER_UNIT["mm"]
MARGIN = 8 * MM  # beyond the bleed
WIDTH = 0.25 * PER_UNIT["pt"]
_LENGTH, _AWAY = 5 * MM, 2 * MM  # of a corner's lines, and how far from the bleed or the edge they begin
_CROSS = 2.5 * MM

Line = tuple[Point, Point]


def margin_of(sheet: Sheet, bleed: bool, marks: bool) -> float:
    """How much wider than the cut sheet an output is on each side, in user units."""
    return (sheet.bleed if bleed else 0.0) + (MARGIN if marks else 0.0)


def mark_lines(sheet: Sheet) -> list[Line]:
    """All marks as lines in user units; (0, 0) is the left upper corner of the cut sheet."""
    away = max(sheet.bleed, _AWAY)
    out: list[Line] = []
    for x, side_x in ((0.0, -1), (sheet.width, 1)):
        for y, side_y in ((0.0, -1), (sheet.height, 1)):
            out.append(((x + side_x * away, y), (x + side_x * (away + _LENGTH), y)))
            out.append(((x, y + side_y * away), (x, y + side_y * (away + _LENGTH))))
    reach = away + _LENGTH / 2
    middle_x, middle_y = sheet.width / 2, sheet.height / 2
    for x, y in (
        (-reach, middle_y),
        (sheet.width + reach, middle_y),
        (middle_x, -reach),
        (middle_x, sheet.height + reach),
    ):
        out.append(((x - _CROSS, y), (x + _CROSS, y)))
        out.append(((x, y - _CROSS), (x, y + _CROSS)))
        turns = np.linspace(0, 2 * np.pi, 25)
        ring = [(x + _CROSS * 0.6 * float(np.cos(t)), y + _CROSS * 0.6 * float(np.sin(t))) for t in turns]
        out.extend(zip(ring, ring[1:], strict=False))
    return out
