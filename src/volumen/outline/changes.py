"""Form changes: an outline rounded, offset, bent or thickened.

Lengths stay even on the sheet: where a place squeezes or skews, changes act on the squeezed outline, and the result is
mapped back. So an inset keeps its thickness however its part is squashed.
"""

from __future__ import annotations

from volumen.geometry.affine import Affine, invert, mean_scale
from volumen.geometry.bend import bend
from volumen.geometry.boolean import union_all
from volumen.geometry.engine import PathOpError, in_cubics, outline_of_line
from volumen.geometry.halves import whole_of_half
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.geometry.rounding import round_corners
from volumen.geometry.widths import profiled_outline
from volumen.geometry.winding import wound
from volumen.model.ingredients import Bend, FormChange, Halves, Offset, Rounding, Thickness

_MOST_OF_A_BAND = 6000


def changed(path: Path, changes: tuple[FormChange, ...], squeeze: Affine | None = None) -> Path:
    """An outline after form changes; ``squeeze`` is the uneven part of its place."""
    if not changes:
        return path
    inverse = invert(squeeze) if squeeze is not None else None
    if squeeze is None or inverse is None:
        for change in changes:
            path = _change(path, change, 1.0)
        return path
    path = path.transformed(squeeze)
    for change in changes:
        if isinstance(change, Halves):  # its axis is one of the object, not of the sheet
            path = _change(path.transformed(inverse), change, 1.0).transformed(squeeze)
        else:
            path = _change(path, change, mean_scale(squeeze))
    return path.transformed(inverse)


def _change(path: Path, change: FormChange, scale: float) -> Path:
    try:
        if isinstance(change, Rounding):
            own = {index: radius * scale for index, radius in change.own}
            return round_corners(path, change.radius * scale, own, change.everywhere)
        if isinstance(change, Offset):
            return offset(path, _distance(path, change, scale), change.join)
        if isinstance(change, Bend):
            return bend(path, change.kind, change.amount, change.turn, change.count, change.cage)
        if isinstance(change, Halves):
            return whole_of_half(path, change.centre, change.angle, change.other)
        return thick_line(path, change, scale)
    except PathOpError:
        return path


def _distance(path: Path, change: Offset, scale: float) -> float:
    box = path.bounds()
    if not change.percent or box is None:
        return change.distance * scale
    return change.distance / 100 * min(box[2] - box[0], box[3] - box[1])


def thick_line(path: Path, change: Thickness, scale: float) -> Path:
    """The outline of a line along a path, as the thickness says."""
    if change.profile is not None:
        return profiled_outline(path, change.width * scale, change.profile, change.cap)
    band = outline_of_line(path, change.width * scale, change.cap, change.join, 4.0)
    if sum(len(c.points) for c in band.contours) > _MOST_OF_A_BAND:
        return in_cubics(band)  # it shows the same; only its overlaps are not cleared
    try:
        return wound(union_all([band])) if band else band
    except PathOpError:
        return in_cubics(band)
