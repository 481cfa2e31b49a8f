"""Snapping: what a point being placed is drawn to, and the word for it.

A ``SnapField`` is made once for a gesture from what is visible; asking it is quick. Everything is in sheet units.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from volumen.geometry.affine import Floats, Point
from volumen.geometry.crossings import meetings
from volumen.geometry.curve import chords_of, derivative, evaluate, segments_of
from volumen.geometry.path import Box, Path

# What can be snapped to, in order of preference where several are as near.
KINDS = (
    "points", "crossings", "midpoints", "centres", "handles", "guides", "tangents", "outlines", "edges", "gaps",
    "sheet", "grid",
)  # fmt: skip
_CHORD = 0.02


@dataclass(frozen=True, slots=True)
class Snap:
    """Where a point goes, and what it was drawn to; ``note`` names it for the artist."""

    at: Point
    kind: str
    note: str


def _by_x(points: Floats) -> Floats:
    return np.asarray(points[np.argsort(points[:, 0])])


def _between(points: Floats, low: float, high: float) -> Floats:
    """Those of points in the order of x whose x lies between two numbers."""
    first, last = np.searchsorted(points[:, 0], [low, high], side="left")
    return points[first : last + 1]


class SnapField:
    """Places of visible outlines, boxes, guides, grid and sheet."""

    def __init__(
        self, outlines: Sequence[Path], boxes: Sequence[Box] = (), sheet: Box | None = None, grid: float = 0.0,
        guides: Iterable[tuple[Point, float]] = (), circles: Iterable[tuple[Point, float]] = (),
    ) -> None:  # fmt: skip
        self.boxes, self.sheet, self.grid = list(boxes), sheet, grid
        self.guides = [(p, (math.cos(math.radians(a)), math.sin(math.radians(a)))) for p, a in guides]
        self.circles = list(circles)
        contours = [c for path in outlines for c in path.contours]
        self.table = segments = segments_of([c for c in contours if len(c.points) > 3])
        single = [c.points[:1] for c in contours if len(c.points) < 4]
        middles = [((b[0] + b[2]) / 2, (b[1] + b[3]) / 2) for b in self.boxes]
        marks = {
            "points": np.concatenate([segments[:, 0], segments[:, 3], *single]),
            "handles": segments[:, 1:3].reshape(-1, 2),
            "midpoints": evaluate(segments, np.full(len(segments), 0.5)),
            "centres": np.array(middles + [p for p, _ in self.circles]).reshape(-1, 2),
        }
        self.marks = {k: _by_x(v) for k, v in marks.items()}
        self.chords, self.owner, t, steps = chords_of(segments, _CHORD)
        self.places = np.stack([t, t + 1 / steps[self.owner]], axis=1)
        # In the order of their left ends, so that those near a point are found without looking at all.
        low, high = self.chords.min(axis=1), self.chords.max(axis=1)
        self._order = np.argsort(low[:, 0])
        self._low, self._high = low[self._order], high[self._order]
        self._widest = float((high[:, 0] - low[:, 0]).max()) if len(low) else 0.0

    # -- one point

    def snap(self, p: Point, reach: float, kinds: Iterable[str], origin: Point | None = None) -> Snap | None:
        """The best thing within ``reach`` of a point; ``origin`` is where a line being drawn starts."""
        wanted = set(kinds)
        found: list[tuple[float, int, Snap]] = []

        def offer(at: Point, kind: str, note: str, penalty: float = 0.0) -> None:
            d = math.dist(p, at)
            if d <= reach:
                found.append((d + penalty, KINDS.index(kind), Snap(at, kind, note)))

        for kind, note in (
            ("points", "point"),
            ("midpoints", "midpoint"),
            ("centres", "centre"),
            ("handles", "handle"),
        ):
            if kind in wanted:
                self._offer_nearest(_between(self.marks[kind], p[0] - reach, p[0] + reach), p, kind, note, offer)
        near = self._chords_near(p, reach)
        if "crossings" in wanted:
            for at in self._crossings(near):
                offer(at, "crossings", "crossing")
        if "tangents" in wanted and origin is not None:
            for at in self._tangent_points(near, origin):
                offer(at, "tangents", "tangent")
            for centre, r in self.circles:
                for at in circle_tangents(origin, centre, r):
                    offer(at, "tangents", "tangent of circle")
        weak = reach  # a place within reach beats all that is only a line through it
        if "outlines" in wanted and len(near):
            offer(self._nearest_on(near, p), "outlines", "outline", weak)
        if "guides" in wanted:
            self._guides(p, offer, weak)
        if "edges" in wanted:
            self._edges(p, reach, self.boxes, "edges", "edge of box", offer, weak)
        if self.sheet is not None and "sheet" in wanted:
            self._edges(p, reach, [self.sheet], "sheet", "sheet", offer, weak)
        if self.grid > 0 and "grid" in wanted:
            g = self.grid
            offer((round(p[0] / g) * g, round(p[1] / g) * g), "grid", "grid", weak)
        return min(found, key=lambda f: f[:2])[2] if found else None

    def _offer_nearest(self, marks: Floats, p: Point, kind: str, note: str, offer: Callable[..., None]) -> None:
        if len(marks):
            d = np.abs(marks - p).sum(axis=1)
            i = int(d.argmin())
            offer((float(marks[i, 0]), float(marks[i, 1])), kind, note)

    def _chords_near(self, p: Point, reach: float) -> np.ndarray[tuple[int], np.dtype[np.int64]]:
        if not len(self.chords):
            return np.zeros(0, np.int64)
        at = np.array(p)
        first, last = np.searchsorted(self._low[:, 0], [p[0] - reach - self._widest, p[0] + reach])
        part = slice(first, last)
        close = ((self._low[part] - reach <= at) & (self._high[part] + reach >= at)).all(axis=1)
        return np.sort(self._order[part][close])

    def _nearest_on(self, near: np.ndarray[tuple[int], np.dtype[np.int64]], p: Point) -> Point:
        a, b = self.chords[near, 0], self.chords[near, 1]
        d = b - a
        t = np.clip(((np.array(p) - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-300), 0, 1)
        foot = a + d * t[:, None]
        i = int(np.hypot(*(foot - p).T).argmin())
        # From the chord onto the curve itself.
        k = int(near[i])
        place = self.places[k, 0] + (self.places[k, 1] - self.places[k, 0]) * t[i]
        q = evaluate(self.table[self.owner[k]][None], np.array([place]))[0]
        return (float(q[0]), float(q[1]))

    def _crossings(self, near: np.ndarray[tuple[int], np.dtype[np.int64]]) -> list[Point]:
        """Crossings among chords, moved onto the curves by Newton's method."""
        if len(near) < 2 or len(near) > 400:
            return []
        i, j = np.triu_indices(len(near), 1)
        first, second = near[i], near[j]
        a, b = self.chords[first], self.chords[second]
        s, t, cross = meetings(a, b)
        slack = 1e-6
        hit = (np.abs(cross) > 1e-12) & (s >= -slack) & (s <= 1 + slack) & (t >= -slack) & (t <= 1 + slack)
        hit &= np.abs(first - second) > 1  # neighbours of one curve share their end
        first, second, s, t = first[hit], second[hit], s[hit], t[hit]
        low, high = self.places[first], self.places[second]
        x, y = low[:, 0] + (low[:, 1] - low[:, 0]) * s, high[:, 0] + (high[:, 1] - high[:, 0]) * t
        met = _polished(self.table[self.owner[first]], self.table[self.owner[second]], x, y)
        return [(px, py) for px, py in met.tolist()]

    def _tangent_points(self, near: np.ndarray[tuple[int], np.dtype[np.int64]], origin: Point) -> list[Point]:
        """Points of near curves whose tangent runs through ``origin``."""
        out = []
        for k in near[:400]:
            segment = self.table[self.owner[k]][None]
            low, high = self.places[k]
            sides = []
            for t in (low, high):
                at, d = evaluate(segment, np.array([t]))[0], derivative(segment, np.array([t]))[0]
                sides.append(float((at[0] - origin[0]) * d[1] - (at[1] - origin[1]) * d[0]))
            if sides[0] * sides[1] > 0:
                continue
            for _ in range(40):
                middle = (low + high) / 2
                at, d = evaluate(segment, np.array([middle]))[0], derivative(segment, np.array([middle]))[0]
                side = float((at[0] - origin[0]) * d[1] - (at[1] - origin[1]) * d[0])
                low, high = (middle, high) if side * sides[0] > 0 else (low, middle)
            out.append((float(at[0]), float(at[1])))
        return out

    def tangent(self, at: Point, slack: float) -> Point | None:
        """The direction in which a circle or an outline runs through a point that lies on it, within ``slack``; None
        where none does."""
        for centre, r in self.circles:
            away = math.dist(at, centre)
            if away > 1e-9 and abs(away - r) <= slack:
                return (centre[1] - at[1]) / away, (at[0] - centre[0]) / away
        near = self._chords_near(at, slack)
        if not len(near):
            return None
        a, b = self.chords[near, 0], self.chords[near, 1]
        d = b - a
        t = np.clip(((np.array(at) - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-300), 0, 1)
        far = np.hypot(*(a + d * t[:, None] - at).T)
        i = int(far.argmin())
        if far[i] > slack:
            return None
        k = int(near[i])
        place = self.places[k, 0] + (self.places[k, 1] - self.places[k, 0]) * t[i]
        way = derivative(self.table[self.owner[k]][None], np.array([place]))[0]
        length = math.hypot(*way)
        return (float(way[0] / length), float(way[1] / length)) if length > 1e-9 else None

    def _guides(self, p: Point, offer: Callable[..., None], weak: float) -> None:
        feet = []
        for q, d in self.guides:
            along = (p[0] - q[0]) * d[0] + (p[1] - q[1]) * d[1]
            feet.append(((q[0] + along * d[0], q[1] + along * d[1]), (q, d)))
        for foot, _ in feet:
            offer(foot, "guides", "guide", weak)
        for i, (_, (p0, d0)) in enumerate(feet):
            for _, (p1, d1) in feet[i + 1 :]:
                cross = d0[0] * d1[1] - d0[1] * d1[0]
                if abs(cross) > 1e-6:
                    s = ((p1[0] - p0[0]) * d1[1] - (p1[1] - p0[1]) * d1[0]) / cross
                    offer((p0[0] + d0[0] * s, p0[1] + d0[1] * s), "guides", "crossing of guides")
        for centre, r in self.circles:
            away = math.dist(p, centre)
            if away > 1e-9:
                k = r / away
                at = (centre[0] + (p[0] - centre[0]) * k, centre[1] + (p[1] - centre[1]) * k)
                offer(at, "guides", "construction circle", weak)

    def _edges(
        self,
        p: Point,
        reach: float,
        boxes: Sequence[Box],
        kind: str,
        note: str,
        offer: Callable[..., None],
        weak: float,
    ) -> None:
        """Edges and middles of boxes, in x and y on their own."""
        xs = [v for b in boxes for v in (b[0], (b[0] + b[2]) / 2, b[2])]
        ys = [v for b in boxes for v in (b[1], (b[1] + b[3]) / 2, b[3])]
        x = min(xs, key=lambda v: abs(v - p[0]), default=math.inf)
        y = min(ys, key=lambda v: abs(v - p[1]), default=math.inf)
        near_x, near_y = abs(x - p[0]) <= reach, abs(y - p[1]) <= reach
        if near_x and near_y:
            offer((x, y), kind, note, weak * 0.8)
        if near_x:
            offer((x, p[1]), kind, note, weak)
        if near_y:
            offer((p[0], y), kind, note, weak)

    # -- a box being moved

    def snap_box(self, box: Box, reach: float, kinds: Iterable[str]) -> tuple[Point, str]:
        """How far a moving box must still go so that its edges, middles or gaps fall into place, and why."""
        wanted = set(kinds)
        shift, notes = [0.0, 0.0], []
        for axis in (0, 1):
            own = (box[axis], (box[axis] + box[axis + 2]) / 2, box[axis + 2])
            targets: list[tuple[float, str]] = []
            if "edges" in wanted:
                targets += [(v, "edge of box") for b in self.boxes for v in (b[axis], b[axis + 2])]
            if "centres" in wanted:
                targets += [((b[axis] + b[axis + 2]) / 2, "centre") for b in self.boxes]
            if "sheet" in wanted and self.sheet is not None:
                s = self.sheet
                targets += [
                    (s[axis], "sheet"),
                    ((s[axis] + s[axis + 2]) / 2, "middle of sheet"),
                    (s[axis + 2], "sheet"),
                ]
            if "guides" in wanted:
                targets += [(q[axis], "guide") for q, d in self.guides if abs(d[axis]) < 1e-9]
            if "grid" in wanted and self.grid > 0:
                targets.append((round(own[0] / self.grid) * self.grid, "grid"))
            best = min(((abs(v - o), v - o, n) for v, n in targets for o in own), default=None)
            if "gaps" in wanted:
                gap = self._gap(box, axis)
                if gap is not None and (best is None or abs(gap) < best[0]):
                    best = (abs(gap), gap, "equal gap")
            if best is not None and best[0] <= reach:
                shift[axis] = best[1]
                if best[2] not in notes:
                    notes.append(best[2])
        return (shift[0], shift[1]), " · ".join(notes)

    def _gap(self, box: Box, axis: int) -> float | None:
        """The shift that makes the gaps to both neighbours equal, or repeats the gap between two on one side."""
        across = 1 - axis
        row = sorted(
            (b for b in self.boxes if b[across] < box[across + 2] and b[across + 2] > box[across]),
            key=lambda b: b[axis],
        )
        before = [b for b in row if b[axis + 2] <= (box[axis] + box[axis + 2]) / 2]
        after = [b for b in row if b[axis] >= (box[axis] + box[axis + 2]) / 2]
        options = []
        if before and after:
            room = after[0][axis] - before[-1][axis + 2] - (box[axis + 2] - box[axis])
            options.append(before[-1][axis + 2] + room / 2 - box[axis])
        if len(before) > 1:
            gap = before[-1][axis] - before[-2][axis + 2]
            options.append(before[-1][axis + 2] + gap - box[axis])
        if len(after) > 1:
            gap = after[1][axis] - after[0][axis + 2]
            options.append(after[0][axis] - gap - box[axis + 2])
        return min(options, key=abs, default=None)


def _polished(a: Floats, b: Floats, x: Floats, y: Floats) -> Floats:
    """Where pairs of cubics (n, 4, 2) meet near their parameters (n,), by Newton's method, as (n, 2)."""
    for _ in range(6):
        gap = evaluate(b, y) - evaluate(a, x)
        da, db = derivative(a, x), derivative(b, y)
        det = db[:, 0] * da[:, 1] - db[:, 1] * da[:, 0]
        k = np.where(np.abs(det) < 1e-12, 0.0, 1 / np.where(np.abs(det) < 1e-12, 1.0, det))
        x = np.clip(x + (db[:, 0] * gap[:, 1] - db[:, 1] * gap[:, 0]) * k, 0.0, 1.0)
        y = np.clip(y + (da[:, 0] * gap[:, 1] - da[:, 1] * gap[:, 0]) * k, 0.0, 1.0)
    return evaluate(a, x)


def circle_tangents(p: Point, centre: Point, r: float) -> list[Point]:
    """The two points where lines from ``p`` touch a circle; none from inside."""
    d = math.dist(p, centre)
    if d <= r or r <= 0:
        return []
    base = math.atan2(p[1] - centre[1], p[0] - centre[0])
    half = math.acos(r / d)
    return [(centre[0] + r * math.cos(base + s * half), centre[1] + r * math.sin(base + s * half)) for s in (1, -1)]
