"""A path that things run along: distances from its start, directions, and outlines bent to follow it.

Arc lengths are Gauss sums over pieces of each cubic that are short enough, inverted by Newton's method, so what runs
along a path stays where it is when points are added to it.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.cubics import Ints, parts, sign_changes
from volumen.geometry.curve import derivative, evaluate, segment_lengths, tangents
from volumen.geometry.path import Contour

_STEPS = 16
_FINER = 20  # how often pieces are halved near a cusp
_DEPTH = 12  # how often a cubic is halved to follow its image
_MOST_PIECES = 20_000  # that are halved further: more is a thousand copies of something large, and takes seconds


class Frames(NamedTuple):
    """Points (n, 2) of a spine, unit directions along it and to its right (y down), and curvatures (n,)."""

    at: Floats
    along: Floats
    across: Floats
    curvature: Floats


class Spine:
    """A contour measured from its start; an open one goes straight on beyond its ends."""

    def __init__(self, contour: Contour) -> None:
        self.contour = contour
        self.segments = contour.segments
        self.closed = contour.closed
        self._of, self._low, self._high = self._pieces()
        pieces = parts(self.segments[self._of], self._low, self._high)
        self.ends = np.concatenate([[0.0], np.cumsum(segment_lengths(pieces))])

    def _pieces(self) -> tuple[Ints, Floats, Floats]:
        """Segments in pieces so short that Gauss sums over them are exact: of which they are, from and to where."""
        n = len(self.segments)
        t = np.linspace(0, 1, _STEPS + 1)
        of, low, high = np.repeat(np.arange(n), _STEPS), np.tile(t[:-1], n), np.tile(t[1:], n)
        for _ in range(_FINER):
            middle = (low + high) / 2
            of2, low2, high2 = np.repeat(of, 2), np.ravel([low, middle], "F"), np.ravel([middle, high], "F")
            whole = segment_lengths(parts(self.segments[of], low, high))
            halves = segment_lengths(parts(self.segments[of2], low2, high2)).reshape(-1, 2).sum(axis=1)
            rough = np.abs(whole - halves) > 1e-12 * max(float(whole.sum()), 1e-300)
            if not rough.any():
                break
            kept, split = ~rough, np.repeat(rough, 2)
            of, low, high = (np.concatenate([x[kept], y[split]]) for x, y in ((of, of2), (low, low2), (high, high2)))
            order = np.lexsort((low, of))
            of, low, high = of[order], low[order], high[order]
        return of, low, high

    @property
    def total(self) -> float:
        """The length."""
        return float(self.ends[-1])

    @property
    def knots(self) -> Floats:
        """The distances at which its segments meet, both ends included."""
        return np.asarray(self.ends[np.searchsorted(self._of, np.arange(len(self.segments) + 1))])

    def place(self, distance: Floats) -> tuple[Ints, Floats]:
        """The segments, and the parameters on them, at distances from the start."""
        s = np.mod(distance, self.total) if self.closed else np.clip(distance, 0.0, self.total)
        k = np.clip(np.searchsorted(self.ends, s, side="right") - 1, 0, len(self.ends) - 2)
        i, low, high = self._of[k], self._low[k], self._high[k]
        rest = s - self.ends[k]
        t = low + rest / np.maximum(self.ends[k + 1] - self.ends[k], 1e-12) * (high - low)
        for _ in range(3):
            gone = segment_lengths(parts(self.segments[i], low, t))
            speed = np.hypot(*derivative(self.segments[i], t).T)
            t = np.clip(t - (gone - rest) / np.maximum(speed, 1e-9), low, high)
        return i, t

    def distance(self, place: float) -> float:
        """The distance from the start to a place: the number of a segment and a share of its parameter."""
        segment = min(int(place), len(self.segments) - 1)
        t = place - segment
        first = int(np.searchsorted(self._of, segment))
        k = first + max(int(np.searchsorted(self._low[self._of == segment], t, side="right")) - 1, 0)
        rest = segment_lengths(parts(self.segments[[segment]], self._low[[k]], np.array([t])))
        return float(self.ends[k] + rest[0])

    def frames(self, distance: Floats) -> Frames:
        """Where the spine is at distances, and how it runs there."""
        i, t = self.place(distance)
        p = self.segments[i]
        d = derivative(p, t)
        speed = np.maximum(np.hypot(*d.T), 1e-9)
        along = tangents(p, t)
        bend = 6 * (
            (p[:, 0] - 2 * p[:, 1] + p[:, 2]) * (1 - t)[:, None] + (p[:, 1] - 2 * p[:, 2] + p[:, 3]) * t[:, None]
        )
        curvature = (d[:, 0] * bend[:, 1] - d[:, 1] * bend[:, 0]) / speed**3
        curvature = np.where(speed > 1e-6 * self.total, curvature, 0.0)
        at = evaluate(p, t)
        if not self.closed:
            beyond = np.minimum(distance, 0.0) + np.maximum(distance - self.total, 0.0)
            at = at + along * beyond[:, None]
            curvature = np.where(beyond == 0, curvature, 0.0)
        return Frames(at, along, np.stack([-along[:, 1], along[:, 0]], axis=1), curvature)

    def moved(self, points: Floats) -> Floats:
        """Points (n, 2) given as distance along and across, on the sheet."""
        f = self.frames(points[:, 0])
        return np.asarray(f.at + f.across * points[:, 1:])

    def bent(self, segments: Floats, tolerance: float) -> tuple[Floats, Ints]:
        """Cubics (n, 4, 2), given along and across, bent to follow the spine: cubics within ``tolerance`` of their
        images, and which of the given ones each is a piece of, in their order."""
        index, low, high = self._cut_at_knots(segments)
        done: list[tuple[Ints, Floats, Floats]] = []
        for level in range(_DEPTH + 1):
            made = self._images(segments[index], low, high)
            miss = np.zeros(len(index))
            for t in (0.25, 0.5, 0.75):
                truth = self.moved(evaluate(segments[index], low + (high - low) * t))
                miss = np.maximum(miss, np.hypot(*(truth - evaluate(made, np.full(len(index), t))).T))
            good = (miss <= tolerance) | (level == _DEPTH) | (len(index) > _MOST_PIECES)
            done.append((index[good], low[good], made[good]))
            index, low, high = index[~good], low[~good], high[~good]
            if not len(index):
                break
            half = (low + high) / 2
            index = np.concatenate([index, index])
            low, high = np.concatenate([low, half]), np.concatenate([half, high])
        which, first, cubics = (np.concatenate([d[k] for d in done]) for k in range(3))
        order = np.lexsort((first, which))
        return cubics[order], which[order]

    def _cut_at_knots(self, segments: Floats) -> tuple[Ints, Floats, Floats]:
        """Pieces of cubics that do not run over a joint of the spine, where its curvature jumps."""
        knots = self.knots
        if self.closed:
            rounds = range(int(segments[..., 0].min() // self.total), int(segments[..., 0].max() // self.total) + 1)
            knots = np.concatenate([knots[:-1] + k * self.total for k in rounds])
        x = segments[..., 0]
        least, most = x.min(axis=1), x.max(axis=1)
        first, last = np.searchsorted(knots, least, side="right"), np.searchsorted(knots, most, side="left")
        counts = np.maximum(last - first, 0)
        own = np.repeat(np.arange(len(segments)), counts)
        knot = knots[np.arange(len(own)) - np.repeat(np.cumsum(counts) - counts, counts) + np.repeat(first, counts)]
        row, t = sign_changes(x[own] - knot[:, None])
        inside = (t > 1e-9) & (t < 1 - 1e-9)
        index = np.concatenate([np.arange(len(segments)), own[row[inside]]])
        low = np.concatenate([np.zeros(len(segments)), t[inside]])
        order = np.lexsort((low, index))
        index, low = index[order], low[order]
        following = np.append(index[1:] == index[:-1], False)
        return index, low, np.where(following, np.append(low[1:], 1.0), 1.0)

    def _images(self, segments: Floats, low: Floats, high: Floats) -> Floats:
        """The cubics that have ends and end derivatives of the images of pieces."""
        third = ((high - low) / 3)[:, None]
        a, b = evaluate(segments, low), evaluate(segments, high)
        da, db = derivative(segments, low) * third, derivative(segments, high) * third
        nudge = 1e-9 * np.sign(b[:, 0] - a[:, 0])  # at a joint each piece goes by its own side
        p, q = self.frames(a[:, 0] + nudge), self.frames(b[:, 0] - nudge)
        start, end = p.at + p.across * a[:, 1:], q.at + q.across * b[:, 1:]
        leave = p.along * (da[:, 0] * (1 - p.curvature * a[:, 1]))[:, None] + p.across * da[:, 1:]
        arrive = q.along * (db[:, 0] * (1 - q.curvature * b[:, 1]))[:, None] + q.across * db[:, 1:]
        return np.stack([start, start + leave, end - arrive, end], axis=1)
