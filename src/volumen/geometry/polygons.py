"""Polygons cut by an independent clipper: the judge of the curve engine's results.

Coordinates are rounded to a grid of 2**-12 of the unit they come in, so callers bring shapes to a size of
some hundreds of units first.
"""

from __future__ import annotations

from contextlib import suppress

import numpy as np
import pyclipper

from volumen.geometry.affine import Floats
from volumen.geometry.curve import polygons
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path

_GRID = 4096.0
_KINDS = {
    "union": pyclipper.CT_UNION,
    "subtract": pyclipper.CT_DIFFERENCE,
    "intersect": pyclipper.CT_INTERSECTION,
    "exclude": pyclipper.CT_XOR,
}
_JOINS = {"round": pyclipper.JT_ROUND, "miter": pyclipper.JT_MITER, "bevel": pyclipper.JT_SQUARE}
IntPolygons = list[list[list[int]]]


def to_grid(path: Path, tolerance: float) -> IntPolygons:
    """A path as polygons on the grid, its chords within ``tolerance``."""
    return [np.rint(p * _GRID).astype(np.int64).tolist() for p in polygons(path, tolerance) if len(p) > 2]


def from_grid(found: IntPolygons) -> list[Floats]:
    return [np.array(p, dtype=np.float64) / _GRID for p in found if len(p) > 2]


def clip(a: IntPolygons, a_evenodd: bool, b: IntPolygons, b_evenodd: bool, operation: str) -> IntPolygons:
    """The boolean of two sets of polygons, each by its own fill rule."""
    clipper = pyclipper.Pyclipper()
    _add(clipper, a, pyclipper.PT_SUBJECT)
    _add(clipper, b, pyclipper.PT_CLIP)
    rules = [pyclipper.PFT_EVENODD if e else pyclipper.PFT_NONZERO for e in (a_evenodd, b_evenodd)]
    try:
        found: IntPolygons = clipper.Execute(_KINDS[operation], *rules) if a or b else []
    except pyclipper.ClipperException as error:
        raise PathOpError(f"cannot {operation} these outlines") from error
    return found


def _add(clipper: pyclipper.Pyclipper, polygons_: IntPolygons, role: int) -> None:
    if polygons_:
        with suppress(pyclipper.ClipperException):  # raised when no polygon has any area: they add nothing
            clipper.AddPaths(polygons_, role, True)


def grow(a: IntPolygons, distance: float, join: str, miter: float) -> IntPolygons:
    """Parallel polygons of even-odd ones at a distance (negative: inwards)."""
    offset = pyclipper.PyclipperOffset(max(miter, 1.0), 0.01 * _GRID)
    flat = pyclipper.SimplifyPolygons(a, pyclipper.PFT_EVENODD)
    offset.AddPaths(flat, _JOINS[join], pyclipper.ET_CLOSEDPOLYGON)
    try:
        found: IntPolygons = offset.Execute(distance * _GRID)
    except pyclipper.ClipperException as error:
        raise PathOpError("cannot offset this outline") from error
    return found


def thick_difference(a: IntPolygons, a_evenodd: bool, b: IntPolygons, b_evenodd: bool, slack: float) -> float:
    """The area in square units of where two areas differ by more than a seam ``slack`` units thick.

    Along an edge the chords of both differ by a long, thin seam; eroding the difference by half the slack
    leaves only what is really wrong.
    """
    difference = clip(a, a_evenodd, b, b_evenodd, "exclude")
    if max((abs(pyclipper.Area(p)) for p in difference), default=0.0) < slack * slack * 4 * _GRID**2:
        return 0.0  # no piece is large enough to be thick
    shrunk = pyclipper.PyclipperOffset()
    shrunk.AddPaths(difference, pyclipper.JT_MITER, pyclipper.ET_CLOSEDPOLYGON)
    return abs(area(shrunk.Execute(-slack / 2 * _GRID)))


def area(polygons_: IntPolygons) -> float:
    return float(sum(pyclipper.Area(p) for p in polygons_)) / _GRID**2
