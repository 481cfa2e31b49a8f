"""A wall of an outline with depth, and its edges."""

from __future__ import annotations

from typing import NamedTuple

from volumen.geometry.affine import Floats, Point
from volumen.geometry.path import Path

Ends = frozenset[tuple[float, float]]


class Behind(NamedTuple):
    """An edge of a wall that is not on the front: a cubic (4, 2) along the depth, begun at the front, or of the back.

    ``of`` is the number of the outline's segment whose back it is, or at whose start it begins.
    """

    of: int
    at_back: bool
    points: Floats


class Wall(NamedTuple):
    """One wall: its outline, places (n, 2) along its front edge, and the unit normals (n, 2) out of it there, those of
    its edges that are not on the front, and its way to the back where that is one of its own."""

    path: Path
    edge: Floats
    normals: Floats
    behind: tuple[Behind, ...] = ()
    way: Point | None = None


def ends_of(points: Floats, digits: int) -> Ends:
    """The two ends of a run of points (n, 2), rounded, whichever way it goes: by them edges are told to be the same."""
    return frozenset((round(x, digits), round(y, digits)) for x, y in points[[0, -1]].tolist())
