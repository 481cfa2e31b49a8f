"""The arcs of an outline that has depth: cut where it runs along the depth, and sorted into slabs across it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.cubics import Ints, root_between
from volumen.geometry.curve import derivative, evaluate
from volumen.geometry.depth import Along, Depth
from volumen.geometry.path import Path

_NEAR = 1e-7  # of the size: ends of arcs so near to one another across the depth lie on one line of it


@dataclass(frozen=True, slots=True)
class Arcs:
    """Arcs that run one way across the depth: their segments (n, 4, 2), from and to which parameters, the numbers of
    the critical lines where they begin and end, whether they leave the front along the depth (-1: their wall is seen),
    enter it (1) or run along it (0), and the run of smoothly joined leaving arcs that each is in. ``number`` is that of
    its segment among all of the outline's, ``after`` that of the next one in its contour. ``critical`` are the u of
    the lines."""

    segments: Floats
    start: Floats
    end: Floats
    first: Ints
    last: Ints
    sign: Ints
    run: Ints
    owner: Ints
    number: Ints
    after: Ints
    critical: Floats
    depth: Depth

    def source(self, arc: int) -> int:
        """The first arc on the same segment of the outline."""
        return int(self.owner[arc])

    @property
    def crossed(self) -> int:
        """How many slabs all arcs cross, each counted by itself: what finding the walls takes grows with it."""
        return int(np.abs(self.last - self.first).sum())

    def in_slabs(self) -> tuple[Ints, Ints, Floats, Floats]:
        """Each arc in each slab that it crosses: the arc, the slab, and its parameters at both lines of the slab."""
        low, high = np.minimum(self.first, self.last), np.maximum(self.first, self.last)
        count = high - low
        arc = np.repeat(np.arange(len(low)), count)
        slab = np.arange(len(arc)) - np.repeat(np.cumsum(count) - count, count) + low[arc]
        return arc, slab, self._meets(arc, slab), self._meets(arc, slab + 1)

    def _meets(self, arc: Ints, at: Ints) -> Floats:
        """The parameters at which arcs meet critical lines."""
        t = root_between(self.depth.over(self.segments[arc], self.critical[at]), self.start[arc], self.end[arc])
        t = np.where(at == self.first[arc], self.start[arc], t)
        return np.where(at == self.last[arc], self.end[arc], t)


def arcs_of(path: Path, depth: Depth, smooth: float) -> Arcs | None:
    """The arcs of an outline; None for one without extent. Leaving arcs that join within ``smooth`` degrees are one
    run."""
    box = path.bounds()
    if box is None:
        return None
    size = max(box[2] - box[0], box[3] - box[1], 1e-9)
    segments, start, end, owner, number, after, rows = _cut(path, depth, size)
    if not len(segments):
        return None
    middle = depth.uv(evaluate(segments, (start + end) / 2))[0]
    u = np.concatenate([depth.unwrapped(depth.uv(evaluate(segments, t))[0], middle) for t in (start, end)])
    order = np.argsort(u)
    near = _NEAR * (size if isinstance(depth, Along) else 1.0)
    rank = np.concatenate([[0], np.cumsum(np.diff(u[order]) > near)])
    line = np.empty(len(u), np.int64)
    line[order] = rank
    critical = np.bincount(rank, u[order]) / np.bincount(rank)
    first, last = line[: len(segments)], line[len(segments) :]
    sign = np.sign(last - first)
    run = _runs(segments, start, end, sign, rows, math.cos(math.radians(smooth)), size)
    return Arcs(segments, start, end, first, last, sign, run, owner, number, after, critical, depth)


def _cut(path: Path, depth: Depth, size: float) -> tuple[Floats, Floats, Floats, Ints, Ints, Ints, list[list[int]]]:
    """Segments with the parameters between which each is an arc, the first arc of each segment, its own number and that
    of the next one, and the numbers of the arcs of each contour."""
    chosen: list[Floats] = []
    start: list[float] = []
    end: list[float] = []
    owner: list[int] = []
    number: list[int] = []
    after: list[int] = []
    rows: list[list[int]] = []
    before = 0
    for contour in path.contours:
        segments = contour.segments
        first, before = before, before + len(segments)
        if not contour.closed:
            continue
        row: list[int] = []
        for k, (segment, turns) in enumerate(zip(segments, depth.turns(segments), strict=True)):
            if np.abs(segment - segment[:1]).max() <= 1e-9 * size:
                continue
            cuts = [0.0, *turns, 1.0]
            head = len(chosen)
            for a, b in zip(cuts, cuts[1:], strict=False):
                if b - a >= 1e-9:
                    row.append(len(chosen))
                    chosen.append(segment)
                    start.append(a)
                    end.append(b)
                    owner.append(head)
                    number.append(first + k)
                    after.append(first + (k + 1) % len(segments))
        rows.append(row)
    whole = [np.array(v, dtype=np.int64) for v in (owner, number, after)]
    return np.array(chosen), np.array(start), np.array(end), whole[0], whole[1], whole[2], rows


def _runs(
    segments: Floats, start: Floats, end: Floats, sign: Ints, rows: list[list[int]], close: float, size: float
) -> Ints:
    leave, arrive = _directions(segments, start, end, size), _directions(segments, end, start, size)
    run = np.full(len(segments), -1)
    count = 0
    for row in rows:
        joins = [
            bool(sign[i] == sign[row[j - 1]] == -1 and arrive[row[j - 1]] @ leave[i] > close) for j, i in enumerate(row)
        ]
        begin = next((j for j, follows in enumerate(joins) if not follows), 0)
        for k in range(len(row)):
            j = (begin + k) % len(row)
            if sign[row[j]] != -1:
                continue
            if k and joins[j]:
                run[row[j]] = run[row[j - 1]]
            else:
                run[row[j]] = count
                count += 1
    return run


def _directions(segments: Floats, at: Floats, other: Floats, size: float) -> Floats:
    """Unit tangents at one end of arcs, the way the outline runs."""
    d = derivative(segments, at)
    weak = np.hypot(d[:, 0], d[:, 1]) < 1e-6 * size
    if weak.any():
        chord = evaluate(segments, at + (other - at) * 1e-3) - evaluate(segments, at)
        d = np.where(weak[:, None], chord * np.sign(other - at)[:, None], d)
    return np.asarray(d / np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-300)[:, None])
