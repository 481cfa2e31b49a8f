"""A tube along a line: a gradient mesh in the tones of its surface, however the line bends.

At the share s (-1..1) of half its width from the middle its normal leans outwards by asin(roundness s). At a corner
two tubes meet where they would be sawn, along the line that halves it (the mitre); where the line is joined roundly,
the surface turns about the corner outside. A round end is half a ball.
"""

from __future__ import annotations

from dataclasses import replace as changed
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.geometry.curve import Ruler, leaving, ruler
from volumen.geometry.engine import Cap, Join
from volumen.geometry.path import Contour
from volumen.geometry.widths import EVEN, Profile, widths_at
from volumen.shading.mesh import Mesh, all_slopes
from volumen.shading.mesh_make import straight_handles
from volumen.shading.mesh_paints import laid_in
from volumen.shading.paint import LaidMesh
from volumen.shading.surfaces import lean_of
from volumen.shading.tones import Lighting, Look, lit

_ACROSS = 8  # patches from edge to edge
_MOST = 60  # patches along a line
_MOST_CORNERS = 400  # beyond, the tube is laid along the line as if it had none
_TURN = 0.35  # radians: what turns less at once is a bend
_FAN = 0.4  # radians of a patch round a corner
_ENDS = np.radians([20.0, 40.0, 60.0, 75.0, 87.0])  # lines across a round end, as seen from its middle
_CLEAR = 1.5  # times a mitre's reach: where the next line across lies, so that patches inside the corner have a width
_FARTHEST = 6.0  # times half the width that a mitre reaches
_WIDTHS = 200  # places at which a changing width is read
_S = np.sin(np.linspace(-0.5, 0.5, _ACROSS + 1) * np.pi)[:, None]  # closer together where tones change fast
_known: Cache[_Laid] = Cache("tubes along lines", 2000)


def tube_along(
    course: Contour, width: float, look: Look, light: Lighting, profile: Profile | None = None, cap: Cap = "butt",
    join: Join = "miter",
) -> LaidMesh | None:  # fmt: skip
    """A round tube along a line, in the line's coordinates; None for a line of no length."""
    laid = _laid_on(course, width, profile or EVEN, cap, join)
    if laid is None:
        return None
    outwards = laid.outwards
    lean = look.roundness * outwards
    up = np.sqrt(np.maximum(1 - (lean**2).sum(axis=2, keepdims=True), 0))
    towards = outwards @ np.array(lean_of(light))
    rgb = lit(look, light, np.concatenate([lean, up], axis=2).reshape(-1, 3), towards.reshape(-1))
    paint = laid_in(laid.mesh, rgb, look.base.a)
    return LaidMesh(_broken_at(paint.mesh, laid.breaks)) if laid.breaks else paint


class _Laid(NamedTuple):
    """What no lamp changes of a tube: its mesh without colours, how its surface leans outwards at each point
    (rows, columns, 2), and the columns at which colours break off."""

    mesh: Mesh
    outwards: Floats
    breaks: list[int]


def _laid_on(course: Contour, width: float, profile: Profile, cap: Cap, join: Join) -> _Laid | None:
    """A tube on its course; the same object for the same one. None for a line of no length."""
    key = (id(course), width, profile, cap, join)
    hit = _known.get(key)
    if hit is not None:
        return hit
    measured = ruler(course)
    if measured.total <= 0 or width <= 0:
        return None
    tube = _Tube(measured, width / 2, profile)
    tube.lay(cap, join)
    at = np.stack(tube.at, axis=1)
    shape = at.shape[:2]
    mesh = Mesh(
        at, straight_handles(at, False), np.zeros((*shape, 4)), np.zeros(shape, bool),
        np.full((*shape, 4, 3, 4), np.nan), False,
    )  # fmt: skip
    return _known.put(key, course, _Laid(mesh.for_keeping(), np.stack(tube.outwards, axis=1), tube.breaks))


def _broken_at(mesh: Mesh, breaks: list[int]) -> Mesh:
    """A mesh whose colours run on smoothly along it but at some columns, where each side has its own slopes."""
    mesh = changed(mesh, slopes=mesh.slopes.copy())
    for a, b in pairwise([0, *breaks, mesh.at.shape[1] - 1]):
        part = slice(a, b + 1)
        if b > a and np.ptp(mesh.at[:, part], axis=1).any():  # two lines in one place have nothing between them
            slopes = all_slopes(
                changed(
                    mesh, at=mesh.at[:, part], handles=mesh.handles[:, part], mixing=mesh.mixing[:, part],
                    crease=mesh.crease[:, part], slopes=mesh.slopes[:, part] * np.nan,
                )
            )  # fmt: skip
            mesh.slopes[:, a:b, 0::2], mesh.slopes[:, a + 1 : b + 1, 1::2] = slopes[:, :-1, 0::2], slopes[:, 1:, 1::2]
    return mesh


class _Tube:
    """Lines across a tube, one after the other: where each lies (_ACROSS + 1, 2), how its surface leans outwards
    there (the same shape, 1 at the edge), and at which of them colours break off."""

    def __init__(self, measured: Ruler, half: float, profile: Profile) -> None:
        self.measured, self.half = measured, half
        self._shares = np.linspace(0, 1, 2 if profile == EVEN else _WIDTHS)
        self._widths = widths_at(profile, self._shares)
        self.at: list[Floats] = []
        self.outwards: list[Floats] = []
        self.breaks: list[int] = []

    def lay(self, cap: Cap, join: Join) -> None:
        """All lines from end to end; a closed line begins and ends in the middle of its longest segment."""
        total, closed = self.measured.total, self.measured.contour.closed
        corners = _corners(self.measured)
        start = _longest_middle(self.measured) if closed else 0.0
        corners = sorted((((d - start) % total if closed else d, t) for d, t in corners), key=lambda c: c[0])
        places = [0.0, *(d for d, _ in corners), total]
        room = np.diff(places)
        if not closed:
            self._end(0.0, -1.0, cap)
        for k in range(len(places) - 1):
            before, after = (corners[k - 1][1] if k else None), (corners[k][1] if k < len(corners) else None)
            self._run(start, places[k], places[k + 1], before, after)
            if after is not None:
                self._corner(start, places[k + 1], after, float(min(room[k : k + 2])), join)
        if not closed:
            self._end(total, 1.0, cap)

    def _put(self, middle: Floats, left: Floats, right: Floats, outwards: Floats) -> None:
        """A line across from ``middle - right`` to ``middle + left``, its surface leaning ``outwards`` at its left."""
        self.at.append(middle + _S * np.where(_S > 0, left, right))
        self.outwards.append(_S * outwards)

    def _sides(self, distance: float) -> tuple[float, float]:
        at = distance / self.measured.total
        left, right = (float(np.interp(at, self._shares, w)) for w in self._widths)
        return self.half * left, self.half * right

    def _place(self, start: float, distance: float) -> float:
        return (start + distance) % self.measured.total if start else distance

    def _run(self, start: float, first: float, last: float, before: Turn | None, after: Turn | None) -> None:
        """Lines square to a part of the line, as far from the corners at its ends as their mitres reach."""
        length = last - first
        clear = [min(_CLEAR * self.half * _reach(t), 0.45 * length) for t in (before, after)]
        steps = max(int(min(length / (0.8 * self.half), np.ceil(_MOST * length / self.measured.total))), 1)
        distances = np.linspace(first + clear[0], last - clear[1], steps + 1)
        points, ahead = self.measured.at(np.array([self._place(start, d) for d in distances]))
        if after is not None and not clear[1]:
            ahead[-1] = after[0]
        for d, p, t in zip(distances.tolist(), points, ahead, strict=True):
            across, (left, right) = _left_of(t), self._sides(self._place(start, d))
            self._put(p, left * across, right * across, across)

    def _corner(self, start: float, distance: float, turn: Turn, room: float, join: Join) -> None:
        """Lines along a mitre: one for the tube that comes, one for the tube that goes, and those of a turn between."""
        place = self._place(start, distance)
        middle, (left, right) = self.measured.at(np.array([place]))[0][0], self._sides(place)
        n0, n1 = (_left_of(t) for t in turn)
        bend = _angle(turn)
        to_left = n0 @ turn[1] > 0  # then the left is inside
        half = n0 + n1 if abs(bend) < 3.1 else (-turn[0] if to_left else turn[0])
        half = half / np.hypot(*half)
        long = 1 / max(np.cos(bend / 2), 1e-9)
        inside = half * min(long, np.hypot(1, room / self.half), _FARTHEST)
        fan = np.linspace(0, bend, max(round(abs(bend) / _FAN), 1) + 1)
        self.breaks.append(len(self.at))
        for angle in fan.tolist() if join == "round" else [0.0, bend]:
            normal = _turned(n0, angle)
            outside = normal if join == "round" else half * min(long, _FARTHEST)
            l, r = (inside, outside) if to_left else (outside, inside)
            self._put(middle, left * l, right * r, normal)
        self.breaks.append(len(self.at) - 1)

    def _end(self, distance: float, way: float, cap: Cap) -> None:
        """Lines across what lies beyond an end: half a ball, or the tube going on under a square cap."""
        points, ahead = self.measured.at(np.array([distance]))
        across, onwards, (left, right) = _left_of(ahead[0]), way * ahead[0], self._sides(distance)
        if cap != "round":
            self._put(points[0] + onwards * self.half, left * across, right * across, across)
            return
        radius = max(left, right)
        for angle in _ENDS if way > 0 else _ENDS[::-1]:
            far, near = np.sin(angle), np.cos(angle)
            self._put(points[0] + onwards * far * radius, near * left * across, near * right * across, near * across)
            self.outwards[-1] += far * onwards


Turn = tuple[Floats, Floats]  # the directions into a corner and out of it


def _corners(measured: Ruler) -> list[tuple[float, Turn]]:
    """Where a line turns at once: distances from its start, and the turns."""
    segments = measured.contour.segments
    into, out = np.array([-leaving(s[::-1]) for s in segments]), np.array([leaving(s) for s in segments])
    joints = range(len(segments)) if measured.contour.closed else range(1, len(segments))
    found = [k for k in joints if abs(_angle((into[k - 1], out[k]))) > _TURN]
    if len(found) > _MOST_CORNERS:
        return []
    distances = np.interp(found, measured.places, measured.distances)
    return [(float(d), (into[k - 1], out[k])) for d, k in zip(distances, found, strict=True)]


def _longest_middle(measured: Ruler) -> float:
    ends = np.interp(np.arange(len(measured.contour.segments) + 1), measured.places, measured.distances)
    k = int(np.diff(ends).argmax())
    return float(ends[k] + ends[k + 1]) / 2


def _left_of(ahead: Floats) -> Floats:
    return np.array([ahead[1], -ahead[0]])


def _angle(turn: Turn) -> float:
    """The angle from one direction to another, -pi..pi."""
    (a, b), (c, d) = turn
    return float(np.arctan2(a * d - b * c, a * c + b * d))


def _turned(v: Floats, angle: float) -> Floats:
    c, s = np.cos(angle), np.sin(angle)
    return np.array([c * v[0] - s * v[1], s * v[0] + c * v[1]])


def _reach(turn: Turn | None) -> float:
    """How far a mitre reaches along the line, in half widths."""
    return 0.0 if turn is None else float(min(np.tan(min(abs(_angle(turn)) / 2, 1.5)), _FARTHEST))
