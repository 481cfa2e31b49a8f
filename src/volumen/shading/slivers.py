"""Slivers: what an outline leaves of itself beside a moved copy, on the side where light or shade belongs."""

from __future__ import annotations

from typing import Literal, NamedTuple

from volumen.geometry.affine import Affine, Point, rotation, scaling, translation
from volumen.geometry.crossings import cross_too_often
from volumen.geometry.engine import PathOpError, combine, drop_specks, in_cubics, made_later, outline_of_line
from volumen.geometry.path import Path

SliverKind = Literal["shade", "light"]
SliverBy = Literal["shift", "scale", "turn", "inset", "outline"]


def moved_copy(path: Path, by: SliverBy, depth: float, side: Point) -> Affine | None:
    """The move that uncovers the ``side`` (unit vector) of the outline by ``depth`` units; None for an inset.

    ``shift`` pushes the copy off that side, ``scale`` shrinks it towards the opposite rim, ``turn`` swings it
    about the rim point a quarter turn away.
    """
    box = path.bounds()
    if box is None:
        return None
    cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    rx, ry = max((box[2] - box[0]) / 2, 1e-9), max((box[3] - box[1]) / 2, 1e-9)
    reach = 1.0 / max(((side[0] / rx) ** 2 + (side[1] / ry) ** 2) ** 0.5, 1e-12)
    if by == "shift":
        return translation(-side[0] * depth, -side[1] * depth)
    if by == "scale":
        k = 1 - depth / (2 * reach)
        return scaling(k, k, (cx - side[0] * reach, cy - side[1] * reach))
    if by == "turn":
        quarter = (-side[1], side[0])
        degrees = 57.29577951308232 * depth / max(reach, 1e-9)
        return rotation(-degrees, (cx + quarter[0] * reach, cy + quarter[1] * reach))
    return None


_LEAST = 1e-6  # of the size of an outline


class Cut(NamedTuple):
    """A sliver, and the map of the copy that leaves it uncovered; None where it is no rest beside a copy."""

    path: Path
    move: Affine | None = None


def _is_below_sight(path: Path, depth: float) -> bool:
    """Whether a sliver, or the outline itself, is as thin as a millionth of the outline's size: there the engine's
    numbers end, and it may never have done with cutting an outline by what seems its own copy."""
    box = path.hull()
    if box is None:
        return True
    wide, high = box[2] - box[0], box[3] - box[1]
    return depth < _LEAST * max(wide, high) or min(wide, high) < 20 * _LEAST * max(wide, high)


def sliver(path: Path, by: SliverBy, depth: float, side: Point, min_area: float) -> Cut:
    """The sliver of ``path`` on ``side``, without specks below ``min_area`` square units.

    An inset leaves a band of even width all round. The others are cut when someone asks for their outline: while a
    lamp turns, they are painted as what the moved copy leaves of the path. Empty if the outlines cannot be cut.
    """
    if depth <= 0 or not path or _is_below_sight(path, depth):
        return Cut(Path())
    if by == "inset":
        band = outline_of_line(path, 2 * depth, "round", "round", 4)
        try:
            return Cut(in_cubics(drop_specks(combine(path, band, "intersect"), min_area)))
        except PathOpError:
            return Cut(Path())
    move, box = moved_copy(path, by, depth, side), path.hull()
    if move is None or box is None or cross_too_often(path, path, move):
        return Cut(Path())

    def cut() -> Path:
        try:
            return drop_specks(combine(path, path, "subtract", move), min_area)
        except PathOpError:
            return Path()

    return Cut(made_later(cut, box), move)
