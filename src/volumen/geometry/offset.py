"""Parallel curves of areas, checked against an independent polygon offset."""

from __future__ import annotations

import math

import numpy as np
import shapely

from volumen.geometry.affine import IDENTITY, invert, multiply, scaling, translation
from volumen.geometry.boolean import SIZE, cleaned, fitted, union_all
from volumen.geometry.crossings import is_tangle
from volumen.geometry.engine import Join, PathOpError, drop_specks, engine_op, outline_of_line
from volumen.geometry.path import Box, Path
from volumen.geometry.polygon_check import IntPolygons, area, from_grid, grow, thick_difference, to_grid
from volumen.geometry.primitives import rectangle
from volumen.geometry.tidy import without_needless_points

_CHORD = 0.2
_FLAT = 1e-5  # of its length: as high as a thousandth of a pixel
_SLACK = 0.5  # of the normalised size: both sides come from chords, and arcs are chords on one of them
_SPECK = 0.05
_ARC = 0.05  # how far the band's own curves may be off


def offset(path: Path, distance: float, join: Join = "round", miter: float = 4.0) -> Path:
    """The area grown by ``distance`` units, or shrunk by a negative one; even-odd filled, maybe empty.

    ``join`` shapes what grows round a convex corner; ``miter`` limits sharp ones, in multiples of the distance.
    Raises PathOpError for shapes that are too large.
    """
    box = path.hull() if distance > 0 else path.bounds()
    if box is None or distance == 0 or not math.isfinite(distance):
        return path
    if distance < 0 and -distance * 2 >= min(box[2] - box[0], box[3] - box[1]):
        return Path((), True)  # nothing lies that far inside
    # The result must fit the normal size as well.
    size = max(box[2] - box[0], box[3] - box[1]) + 2 * max(distance, 0.0)
    if size > 1e9:
        raise PathOpError("the shape is too large to offset")
    normal = multiply(scaling(SIZE / size, SIZE / size), translation(*_minus_middle(box)))
    back = invert(normal) or IDENTITY
    near = path.transformed(normal)
    if min(box[2] - box[0], box[3] - box[1]) < _FLAT * size:
        near = _boxes_of(near)
    source = cleaned(near)
    d = distance * SIZE / size
    return without_needless_points(_checked(source, d, join, miter), 0.01).transformed(back)


def _boxes_of(path: Path) -> Path:
    """The boxes of contours, for those so flat that only their length shows: their points would be a tangle."""
    boxes = [b for c in path.contours if (b := Path((c,)).bounds()) is not None]
    return union_all([rectangle(l, t, max(r - l, 1e-3), max(b - t, 1e-3)) for l, t, r, b in boxes])


def _minus_middle(box: Box) -> tuple[float, float]:
    return -(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2


def _checked(source: Path, d: float, join: Join, miter: float) -> Path:
    grid = to_grid(source, _CHORD)
    wanted = grow(grid, d, "round" if join == "bevel" else join, miter)
    for detail in (4.0, 8.0):
        try:
            band = outline_of_line(source, 2 * abs(d), "butt", join, miter, detail)
            if is_tangle([source, band], _CHORD):  # the engine might never end
                break
            made = drop_specks(engine_op(source, band, "union" if d > 0 else "subtract"), _SPECK)
        except RuntimeError:
            continue
        # The judge has no flat joins, so it can only tell where nothing of the kind was asked for.
        if join == "bevel" and d > 0:
            return made
        found = to_grid(made, _CHORD)
        if join == "round" and _is_level(found, wanted, grid, abs(d)):
            return made
        wrong = thick_difference(found, True, wanted, True, _SLACK, seams=True)
        if wrong <= max(1e-4 * abs(area(wanted)), 0.5):
            return made
    return drop_specks(fitted(wanted, 2 * _CHORD), _SPECK)


def _is_level(found: IntPolygons, wanted: IntPolygons, source: IntPolygons, d: float) -> bool:
    """Whether an area is surely the wanted one: all of its border lies ``d`` from the source, and it has as many
    contours and the same area as the clipper's. False where that cannot be told so quickly."""
    if len(found) != len(wanted) or not found:
        return False
    rings = shapely.multilinestrings([shapely.linearrings(p) for p in from_grid(source)])
    points = np.concatenate([p[::2] for p in from_grid(found)])  # every other one: with as many contours that will do
    if np.abs(shapely.distance(shapely.points(points), rings) - d).max() > _SLACK / 2 + _ARC:
        return False
    border = shapely.length(rings) + 2 * math.pi * d
    return bool(abs(abs(area(found)) - abs(area(wanted))) <= border * _SLACK / 4)
