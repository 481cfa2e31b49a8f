"""Walls too small to be seen as faces, joined to a neighbour: near-tangent corners leave them."""

from __future__ import annotations

import math

from volumen.geometry.path import Path
from volumen.geometry.wall import Ends, Wall, ends_of

_TINY = 5e-5  # of the square of the front's size: one square unit on a letter 140 high
_DIGITS = 4  # to which places are told apart


def with_tiny_joined(walls: list[Wall], size: float) -> list[Wall]:
    """Walls of which those that are tiny belong to the one that they share the longest edge with, or most corners where
    edges meet in part. One that touches no other stays."""
    least = _TINY * size * size
    large = [k for k, w in enumerate(walls) if abs(w.path.area()) >= least]
    if len(large) == len(walls):
        return walls
    sides = {k: _sides(walls[k]) for k in range(len(walls))}
    joined = {k: walls[k] for k in large}
    for k in sorted(set(range(len(walls))) - set(large)):
        shared = {j: _shared(sides[k], sides[j]) for j in large}
        best = max(shared, key=lambda j: shared[j], default=None)
        if best is None or shared[best] == (0.0, 0):
            joined[k] = walls[k]
            continue
        inner = set(sides[k]) & set(sides[best])
        neighbour, tiny = joined[best], walls[k]
        joined[best] = neighbour._replace(
            path=Path((*neighbour.path.contours, *tiny.path.contours)),
            behind=tuple(b for b in (*neighbour.behind, *tiny.behind) if ends_of(b.points, _DIGITS) not in inner),
        )
    return [joined[k] for k in sorted(joined)]


def _shared(a: dict[Ends, float], b: dict[Ends, float]) -> tuple[float, int]:
    """The length of the edges that two outlines share, and the number of their corners."""
    corners = [{p for s in sides for p in s} for sides in (a, b)]
    return sum(v for s, v in a.items() if s in b), len(corners[0] & corners[1])


def _sides(wall: Wall) -> dict[Ends, float]:
    """The segments of a wall's outline by their ends, with their lengths."""
    return {ends_of(s, _DIGITS): math.dist(s[0], s[3]) for c in wall.path.contours for s in c.segments}
