"""Working with cubic segments: evaluation, splitting, flattening, arc length, nearest points.

A segment is a (4, 2) array, segments an (n, 4, 2) array. A place on a contour is one number: the segment's
index plus the parameter inside it, so 2.5 is the middle of the third segment.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats, Point
from volumen.geometry.path import Contour, Path, joined

Ints = NDArray[np.int64]
# Gauss-Legendre points for lengths: eight are exact to rounding for all but nearly cusped segments.
_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(8)
_T8, _W8 = (_NODES + 1) / 2, _WEIGHTS / 2


def evaluate(segments: Floats, t: Floats) -> Floats:
    """Points of segments (n, 4, 2) at parameters (n,), as (n, 2)."""
    u = 1 - t
    uu, vv = u * u, t * t
    weights = np.empty((len(t), 4))
    weights[:, 0], weights[:, 3] = uu * u, vv * t
    weights[:, 1], weights[:, 2] = 3 * uu * t, 3 * u * vv
    return np.asarray(np.einsum("nk,nki->ni", weights, segments))


def derivative(segments: Floats, t: Floats) -> Floats:
    """First derivatives of segments (n, 4, 2) at parameters (n,), as (n, 2)."""
    u = (1 - t)[:, None]
    v = t[:, None]
    d = 3 * np.diff(segments, axis=1)
    return np.asarray(u * u * d[:, 0] + 2 * u * v * d[:, 1] + v * v * d[:, 2])


def split(segment: Floats, t: float) -> tuple[Floats, Floats]:
    """Both parts of a segment cut at ``t`` (de Casteljau)."""
    p0, p1, p2, p3 = segment
    a, b, c = p0 + (p1 - p0) * t, p1 + (p2 - p1) * t, p2 + (p3 - p2) * t
    d, e = a + (b - a) * t, b + (c - b) * t
    f = d + (e - d) * t
    return np.stack([p0, a, d, f]), np.stack([f, e, c, p3])


def part(segment: Floats, t0: float, t1: float) -> Floats:
    """The piece of a segment between two parameters; backwards when t1 < t0."""
    if t1 < t0:
        return part(segment, t1, t0)[::-1]
    if t0 > 0:
        segment = split(segment, t0)[1]
        t1 = (t1 - t0) / (1 - t0) if t0 < 1 else 1.0
    return split(segment, t1)[0] if t1 < 1 else segment


def span(contour: Contour, start: float, end: float) -> Floats:
    """The run of a contour between two places as a (3k + 1, 2) array; backwards when ``end`` < ``start``."""
    if end < start:
        return span(contour, end, start)[::-1]
    segments = contour.segments
    n = len(segments)
    first, last = min(int(start), n - 1), min(int(np.ceil(end)) - 1, n - 1)
    pieces = []
    for i in range(first, max(last, first) + 1):
        t0 = start - i if i == first else 0.0
        t1 = end - i if i == last else 1.0
        pieces.append(part(segments[i], min(max(t0, 0.0), 1.0), min(max(t1, 0.0), 1.0)))
    return joined(pieces)


def chords_needed(segments: Floats, tolerance: float) -> Ints:
    """How many equal steps keep each segment's chords within ``tolerance`` of it (Wang's bound)."""
    bend = segments[:, :2] - 2 * segments[:, 1:3] + segments[:, 2:]
    size = np.sqrt(np.einsum("nki,nki->nk", bend, bend).max(axis=1))
    steps = np.ceil(np.sqrt(0.75 / tolerance * size))
    return np.asarray(np.fmin(np.fmax(steps, 1), 500), dtype=np.int64)


def segments_of(contours: Sequence[Contour]) -> Floats:
    """The segments of contours of at least one segment, one after another, as (n, 4, 2)."""
    return np.concatenate([c.segments for c in contours]) if contours else np.zeros((0, 4, 2))


def chord_ends(segments: Floats, tolerance: float) -> tuple[Floats, Ints, Floats, Ints]:
    """Where the chords of segments (n, 4, 2) within ``tolerance`` start: points (k, 2), their segments (k,), their
    parameters (k,), and how many chords each segment has (n,)."""
    steps = chords_needed(segments, tolerance)
    index = np.repeat(np.arange(len(segments)), steps)
    first = np.cumsum(steps) - steps
    t = (np.arange(len(index)) - first[index]) / steps[index]
    return evaluate(segments[index], t), index, t, steps


def chords_of(segments: Floats, tolerance: float) -> tuple[Floats, Ints, Floats, Ints]:
    """The chords (k, 2, 2) of segments (n, 4, 2) within ``tolerance``, with the rest of what ``chord_ends`` tells."""
    starts, owner, t, steps = chord_ends(segments, tolerance)
    ends = np.concatenate([starts[1:], starts[:1]])
    ends[np.cumsum(steps) - 1] = segments[:, 3]
    return np.stack([starts, ends], axis=1), owner, t, steps


def flatten(contour: Contour, tolerance: float) -> tuple[Floats, Floats]:
    """Points (k, 2) along a contour whose chords stay within ``tolerance``, and their places (k,).

    The last point of a closed contour equals its first.
    """
    segments = contour.segments
    if not len(segments):
        return contour.points[:1], np.zeros(min(len(contour.points), 1))
    points, index, t, _ = chord_ends(segments, tolerance)
    return np.concatenate([points, contour.points[-1:]]), np.concatenate([index + t, [float(len(segments))]])


def segment_lengths(segments: Floats) -> Floats:
    """Arc lengths of segments (n, 4, 2), as (n,)."""
    n = len(segments)
    d = derivative(np.repeat(segments, 8, axis=0), np.tile(_T8, n)).reshape(n, 8, 2)
    return np.asarray((np.sqrt((d**2).sum(axis=2)) * _W8).sum(axis=1))


def length(contour: Contour) -> float:
    """The length of a contour."""
    return float(segment_lengths(contour.segments).sum()) if len(contour.points) > 1 else 0.0


@dataclass(frozen=True, slots=True)
class Ruler:
    """Distances along a contour: a table of places and lengths, dense enough to read between its lines."""

    contour: Contour
    places: Floats
    distances: Floats

    @property
    def total(self) -> float:
        """The length of the contour."""
        return float(self.distances[-1]) if len(self.distances) else 0.0

    def place_at(self, distance: Floats) -> Floats:
        """Places at distances from the start."""
        return np.interp(distance, self.distances, self.places)

    def at(self, distance: Floats) -> tuple[Floats, Floats]:
        """Points and unit tangents (k, 2) at distances (k,) from the start."""
        return points_at(self.contour, self.place_at(np.asarray(distance, dtype=np.float64)))


def points_at(contour: Contour, places: Floats) -> tuple[Floats, Floats]:
    """Points and unit tangents (k, 2) at places (k,)."""
    segments = contour.segments
    index = np.clip(np.floor(places).astype(int), 0, len(segments) - 1)
    t = np.clip(places - index, 0.0, 1.0)
    return evaluate(segments[index], t), tangents(segments[index], t)


def tangents(segments: Floats, t: Floats) -> Floats:
    """Unit tangents; where a handle has no length the direction a little further on counts."""
    d = derivative(segments, t)
    size = np.hypot(d[:, 0], d[:, 1])
    weak = size < 1e-9
    if weak.any():
        inner = np.where(t < 0.5, t + 1e-3, t - 1e-3)
        d = np.where(weak[:, None], derivative(segments, inner), d)
        size = np.hypot(d[:, 0], d[:, 1])
    return np.asarray(d / np.maximum(size, 1e-300)[:, None])


def leaving(segment: Floats) -> Floats:
    """The unit direction in which a segment (4, 2) leaves its first point, whichever handle gives it."""
    for k in (1, 2, 3):
        d = segment[k] - segment[0]
        size = float(np.hypot(d[0], d[1]))
        if size > 1e-9:
            return np.asarray(d / size)
    return np.array([1.0, 0.0])


def ruler(contour: Contour, steps: int = 16) -> Ruler:
    """Measure a contour with ``steps`` readings a segment."""
    segments = contour.segments
    n = len(segments)
    t = np.linspace(0, 1, steps + 1)
    points = evaluate(np.repeat(segments, steps + 1, axis=0), np.tile(t, n)).reshape(n, steps + 1, 2)
    chord = np.sqrt((np.diff(points, axis=1) ** 2).sum(axis=2))
    exact = segment_lengths(segments)
    sums = chord.sum(axis=1)
    chord *= np.where(sums > 0, exact / np.maximum(sums, 1e-300), 0)[:, None]
    distances = np.concatenate([[0.0], np.cumsum(chord.reshape(-1))])
    places = np.concatenate([[0.0], (np.arange(n)[:, None] + t[1:]).reshape(-1)])
    return Ruler(contour, places, distances)


@dataclass(frozen=True, slots=True)
class Near:
    """The point of a path nearest to another point."""

    contour: int
    place: float
    at: Point
    distance: float


def nearest(path: Path, p: Point) -> Near | None:
    """The nearest point on a path's outline; None for an empty path."""
    best: Near | None = None
    target = np.array(p)
    for k, contour in enumerate(path.contours):
        segments = contour.segments
        if not len(segments):
            continue
        t = np.linspace(0, 1, 17)
        grid = evaluate(np.repeat(segments, 17, axis=0), np.tile(t, len(segments)))
        d = ((grid - target) ** 2).sum(axis=1)
        for i in np.argsort(d)[:3]:
            index, at = int(i // 17), float(t[i % 17])
            at = _polish(segments[index], at, target)
            point = evaluate(segments[index][None], np.array([at]))[0]
            distance = float(np.hypot(*(point - target)))
            if best is None or distance < best.distance:
                best = Near(k, index + at, (float(point[0]), float(point[1])), distance)
    return best


def _polish(segment: Floats, t: float, target: Floats) -> float:
    """Newton's method on (B(t) - target) . B'(t) = 0, held to [0, 1] and to where it helps."""
    second = 6 * np.diff(segment, 2, axis=0)
    for _ in range(5):
        s = np.array([t])
        offset = evaluate(segment[None], s)[0] - target
        d1 = derivative(segment[None], s)[0]
        d2 = second[0] * (1 - t) + second[1] * t
        slope = float(d1 @ d1 + offset @ d2)
        if slope <= 1e-12:
            break
        t = min(max(t - float(offset @ d1) / slope, 0.0), 1.0)
    return t


def smooth_through(points: Floats) -> Contour:
    """A smooth closed contour through points (n, 2): at each it runs along the line between its neighbours."""
    after = np.roll(points, -1, axis=0)
    lean = (after - np.roll(points, 1, axis=0)) / 6
    rows = np.stack([points + lean, after - np.roll(lean, -1, axis=0), after], axis=1).reshape(-1, 2)
    return Contour(np.concatenate([points[:1], rows]), True)


def reversed_path(path: Path) -> Path:
    """A path whose contours run the other way."""
    return Path(tuple(Contour(c.points[::-1].copy(), c.closed) for c in path.contours), path.evenodd)
