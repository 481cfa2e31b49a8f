"""Polygons cut by an independent clipper: the judge of the curve engine's results.

Coordinates are rounded to a grid of 2**-12 of the unit they come in, so callers bring shapes to a size of
some hundreds of units first.
"""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress

import numpy as np
import pyclipper

from volumen.geometry.affine import Floats
from volumen.geometry.curve import chord_ends, segments_of
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path

_GRID = 4096.0
_ARC = 0.05  # how far the chords of a round join may lie from its arc
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
    return to_grids([path], tolerance)[0]


def to_grids(paths: Sequence[Path], tolerance: float) -> list[IntPolygons]:
    """Paths as polygons on the grid, all curves flattened in one go; open contours count as closed by their chord."""
    contours = [c for p in paths for c in p.contours if len(c.points) > 3]
    if not contours:
        return [[] for _ in paths]
    counts = [len(c.points) // 3 for c in contours]
    points, _, _, steps = chord_ends(segments_of(contours), tolerance)
    rows = np.rint(points * _GRID).astype(np.int64).tolist()
    ends = np.cumsum(np.add.reduceat(steps, np.cumsum([0, *counts[:-1]]))).tolist()
    pieces = (rows[a:b] for a, b in zip([0, *ends], ends, strict=False))
    out: list[IntPolygons] = []
    for path in paths:
        own = [(next(pieces), c) for c in path.contours if len(c.points) > 3]
        closed = [row if c.closed else [*row, _grid_point(c.points[-1])] for row, c in own]
        out.append([row for row in closed if len(row) > 2])
    return out


def _grid_point(p: Floats) -> list[int]:
    return [round(float(v) * _GRID) for v in p]


def from_grid(found: IntPolygons) -> list[Floats]:
    """Polygons (n, 2) in units from the clipper's whole numbers."""
    return [np.array(p, dtype=np.float64) / _GRID for p in found if len(p) > 2]


def clip(
    a: IntPolygons, a_evenodd: bool, b: IntPolygons, b_evenodd: bool, operation: str, simple: bool = False
) -> IntPolygons:
    """The boolean of two sets of polygons, each by its own fill rule; ``simple`` polygons pass no point twice."""
    clipper = pyclipper.Pyclipper()
    clipper.StrictlySimple = simple
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
    offset = pyclipper.PyclipperOffset(max(miter, 1.0), _ARC * _GRID)
    flat = pyclipper.SimplifyPolygons(a, pyclipper.PFT_EVENODD) if len(a) > 1 else a  # tells holes from borders
    offset.AddPaths(flat, _JOINS[join], pyclipper.ET_CLOSEDPOLYGON)
    try:
        found: IntPolygons = offset.Execute(distance * _GRID)
    except pyclipper.ClipperException as error:
        raise PathOpError("cannot offset this outline") from error
    return found


def thick_difference(
    a: IntPolygons, a_evenodd: bool, b: IntPolygons, b_evenodd: bool, slack: float, seams: bool = False
) -> float:
    """The area in square units of where two areas differ by more than a seam ``slack`` units thick.

    Along an edge the chords of both differ by a long, thin seam; eroding the difference by half the slack
    leaves only what is really wrong. ``seams`` tells that they differ along most edges: it saves time then.
    """
    found = _large(clip(a, a_evenodd, b, b_evenodd, "exclude", simple=seams), slack)
    if found and not seams:
        # Where the two outlines cross, the pieces of a seam hang together in one ring.
        found = _large(clip(found, True, [], True, "union", simple=True), slack)
    if not found:
        return 0.0  # no piece is large enough to be thick
    shrunk = pyclipper.PyclipperOffset()
    shrunk.AddPaths(found, pyclipper.JT_MITER, pyclipper.ET_CLOSEDPOLYGON)
    return abs(area(shrunk.Execute(-slack / 2 * _GRID)))


def _large(polygons_: IntPolygons, slack: float) -> IntPolygons:
    """The polygons that could hold something ``slack`` units thick."""
    least = slack * slack * 4 * _GRID**2
    return [p for p in polygons_ if abs(pyclipper.Area(p)) >= least]


def area(polygons_: IntPolygons) -> float:
    """The signed area of the clipper's polygons, in square units."""
    return float(sum(pyclipper.Area(p) for p in polygons_)) / _GRID**2
