"""Motifs bent round the corners of a path as a frame is mitred: each leg runs straight on past the corner, and is cut
where it meets the next."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

from volumen.geometry.affine import Point
from volumen.geometry.curve import leaving
from volumen.geometry.path import Box, Contour, Path, contour_from_lines, joined
from volumen.geometry.spine import Spine
from volumen.model.nodes import Node, Shape
from volumen.outline.bent import bent
from volumen.outline.courses import Lay
from volumen.outline.forms import path_form
from volumen.outline.making import made_id

_STRAIGHT = 3.0  # degrees: joints that turn less are no corners
_LONGEST = 4.0  # half heights that a leg runs on at most
_LAP = 0.1  # units by which legs overlap, so that no ground shows between them


class _Corner(NamedTuple):
    """Where a path turns: the place, the direction half way between both legs', and how far a leg of half height 1
    runs on there."""

    place: Point
    ahead: Point
    reach: float


class _Leg(NamedTuple):
    """A part of a path without corners: from where on it runs, its spine, and the corners at its ends."""

    start: float
    spine: Spine
    first: _Corner | None
    last: _Corner | None


def mitred(
    nodes: tuple[Node, ...], lays: list[Lay], spine: Spine, box: Box, of: tuple[int, ...]
) -> Iterator[tuple[Node, ...]]:
    """Some nodes at each of the places, cut at the corners of the spine. ``box`` is round the nodes."""
    legs = _legs(spine)
    made: list[list[Node]] = [[] for _ in lays]
    for number, leg in enumerate(legs):
        rows = [(k, shown) for k, lay in enumerate(lays) for shown in _on_leg(lay, leg, spine, box)]
        places = [row for _, row in rows]
        for (k, lay), bent_nodes in zip(rows, bent(nodes, places, leg.spine, (*of, number)), strict=True):
            made[k] += _cut(bent_nodes, lay, leg, box, (*of, number))
    yield from (tuple(m) for m in made)


def _legs(spine: Spine) -> list[_Leg]:
    """The legs of a spine, in their order; a closed one without a corner is one."""
    segments = spine.segments
    found: list[tuple[int, _Corner]] = []
    for k in range(0 if spine.closed else 1, len(segments)):
        arrive, leave = (-leaving(segments[k - 1][::-1])).tolist(), leaving(segments[k]).tolist()
        turn = math.atan2(arrive[0] * leave[1] - arrive[1] * leave[0], arrive[0] * leave[0] + arrive[1] * leave[1])
        if abs(math.degrees(turn)) < _STRAIGHT:
            continue
        x, y = arrive[0] + leave[0], arrive[1] + leave[1]
        size = math.hypot(x, y)
        ahead = (x / size, y / size) if size > 1e-6 else arrive
        px, py = segments[k][0].tolist()
        found.append((k, _Corner((px, py), ahead, min(abs(math.tan(turn / 2)), _LONGEST))))
    if not found:
        return [_Leg(0.0, spine, None, None)]
    if spine.closed:
        turns = [*found, (found[0][0] + len(segments), found[0][1])]
        return [_leg(spine, a, b, p, q) for (a, p), (b, q) in zip(turns, turns[1:], strict=False)]
    ends: list[tuple[int, _Corner | None]] = [(0, None), *found, (len(segments), None)]
    return [_leg(spine, a, b, p, q) for (a, p), (b, q) in zip(ends, ends[1:], strict=False)]


def _leg(spine: Spine, a: int, b: int, first: _Corner | None, last: _Corner | None) -> _Leg:
    n = len(spine.segments)
    points = joined([spine.segments[k % n] for k in range(a, b)])
    return _Leg(float(spine.knots[a % n]), Spine(Contour(points, False)), first, last)


def _span(lay: Lay, box: Box) -> tuple[float, float, float]:
    """From where to where a box lies along its path, and how far it reaches across."""
    sx, _, _, sy, tx, ty = lay.along
    along = sorted((box[0] * sx + tx, box[2] * sx + tx))
    return along[0], along[1], max(abs(box[1] * sy + ty), abs(box[3] * sy + ty))


def _on_leg(lay: Lay, leg: _Leg, spine: Spine, box: Box) -> Iterator[Lay]:
    """A place as seen from a leg that shows some of it: nothing, once, or twice round a closed path."""
    low, high, half = _span(lay, box)
    before = half * leg.first.reach if leg.first else math.inf
    after = half * leg.last.reach if leg.last else math.inf
    for turn in (-1, 0, 1) if spine.closed else (0,):
        shift = turn * spine.total - leg.start
        if high + shift > -before and low + shift < leg.spine.total + after:
            a, b, c, d, x, y = lay.along
            yield lay._replace(along=(a, b, c, d, x + shift, y))


def _cut(nodes: tuple[Node, ...], lay: Lay, leg: _Leg, box: Box, of: tuple[int, ...]) -> tuple[Node, ...]:
    """Nodes held on their leg's side of the corners that they come near."""
    low, high, half = _span(lay, box)
    size = 4 * (high - low + (_LONGEST + 1) * half)
    for corner, side, room in ((leg.first, -1.0, low), (leg.last, 1.0, leg.spine.total - high)):
        if corner is not None and room < half * corner.reach:
            form = path_form(_half_plane(corner, side, size))
            number = made_id(*of, lay.number, int(side), round(lay.along[4] * 1e3))
            nodes = (Shape(number, "mitre", form, (), nodes, substance=False),)
    return nodes


def _half_plane(corner: _Corner, side: float, size: float) -> Path:
    """All within ``size`` on the side of a corner from which a path comes (1), or to which it goes (-1)."""
    (x, y), (ax, ay) = corner.place, corner.ahead
    rows = [(_LAP * side, size), (_LAP * side, -size), (-side * size, -size), (-side * size, size)]
    return Path((contour_from_lines([(x + ax * u - ay * v, y + ay * u + ax * v) for u, v in rows]),))
