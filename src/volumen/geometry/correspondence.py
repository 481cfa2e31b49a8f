"""Which place of one outline becomes which of another: two outlines with the same number of segments.

Closed contours are turned to run the same way round and shifted to where they lie on each other best (by the
correlation of their shapes). Points that then lie near each other are paired, so corners go to corners; the
others are given a partner by splitting the other outline.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.curve import Ruler, ruler, span
from volumen.geometry.path import Contour, Path, joined

_SAMPLES = 256
_NEAR = 0.06  # of the length: points farther apart are not the same corner


@dataclass(frozen=True, slots=True)
class Match:
    """Pairs of contours, each as two arrays (3n + 1, 2), and whether they are closed."""

    pairs: tuple[tuple[Floats, Floats, bool], ...]
    evenodd: bool

    def at(self, t: float) -> Path:
        """The outline between the two: the first at 0, the second at 1."""
        return Path(tuple(Contour(a + (b - a) * t, closed) for a, b, closed in self.pairs), self.evenodd)


def match(a: Path, b: Path, shift: float = 0.0) -> Match:
    """Match two outlines. ``shift`` (-0.5..0.5 of the length) turns the second's start by hand."""
    first, second = _ordered(a), _ordered(b)
    pairs = []
    for k in range(max(len(first), len(second))):
        one = first[k] if k < len(first) else _shrunk(second[k], first)
        two = second[k] if k < len(second) else _shrunk(first[k], second)
        pairs.append(_matched(one, two, shift))
    return Match(tuple(pairs), a.evenodd or b.evenodd)


def _ordered(path: Path) -> list[Contour]:
    """Contours with any length, the largest first."""
    found = [c for c in path.contours if len(c.points) > 3]
    return sorted(found, key=lambda c: -abs(Path((Contour(c.points, True),)).area()))


def _shrunk(contour: Contour, others: list[Contour]) -> Contour:
    """What a contour without partner grows out of: a point in the middle of the nearest of the others."""
    centre = contour.points.mean(axis=0)
    middles = [c.points.mean(axis=0) for c in others]
    at = min(middles, key=lambda m: float(np.hypot(*(m - centre)))) if middles else centre
    return Contour(np.repeat(at[None], len(contour.points), axis=0) + (contour.points - centre) * 1e-6, contour.closed)


def _matched(a: Contour, b: Contour, shift: float) -> tuple[Floats, Floats, bool]:
    closed = a.closed and b.closed
    if closed and _area(a) * _area(b) < 0:
        b = Contour(b.points[::-1].copy(), True)
    ra, rb = ruler(a), ruler(b)
    offset = 0.0
    if closed:
        offset = (best_shift(ra, rb) + shift) % 1.0
    elif float(np.hypot(*(a.points[0] - b.points[0]))) + float(np.hypot(*(a.points[-1] - b.points[-1]))) > float(
        np.hypot(*(a.points[0] - b.points[-1]))
    ) + float(np.hypot(*(a.points[-1] - b.points[0]))):
        b = Contour(b.points[::-1].copy(), b.closed)
        rb = ruler(b)
    nodes_a = _shares(ra)
    nodes_b = np.mod(_shares(rb) - offset, 1.0) if closed else _shares(rb)
    knots_a, knots_b = _knots(nodes_a, np.sort(nodes_b), closed)
    seen_from_a = np.interp(nodes_b, knots_b, knots_a)
    cuts = np.unique(np.round(np.concatenate([nodes_a, seen_from_a, knots_a, [0.0, 1.0]]), 9))
    cuts = cuts[(cuts > 1e-6) & (cuts < 1 - 1e-6)]
    apart = np.diff(cuts, prepend=0.0) > 1e-6
    cuts = np.concatenate([[0.0], cuts[apart], [1.0]])
    return _cut(ra, cuts, 0.0, closed), _cut(rb, np.interp(cuts, knots_a, knots_b), offset, closed), closed


def _area(c: Contour) -> float:
    return Path((c,)).area()


def _shares(r: Ruler) -> Floats:
    """Where the points of a contour lie, as shares of its length."""
    n = len(r.contour.segments)
    distances = np.interp(np.arange(n + 1), r.places, r.distances)
    shares = distances / max(r.total, 1e-12)
    return np.asarray(shares[:-1] if r.contour.closed else shares)


def best_shift(ra: Ruler, rb: Ruler) -> float:
    """The share of its length by which the second closed contour starts later, so that both lie on each other best."""
    shapes = []
    for r in (ra, rb):
        p = r.at(np.linspace(0, r.total, _SAMPLES, endpoint=False))[0]
        z = (p[:, 0] + 1j * p[:, 1]) - (p[:, 0].mean() + 1j * p[:, 1].mean())
        shapes.append(z / max(float(np.abs(z).mean()), 1e-12))
    product = np.fft.ifft(np.conj(np.fft.fft(shapes[0])) * np.fft.fft(shapes[1]))
    return float(int(np.real(product).argmax()) / _SAMPLES)


def _knots(nodes_a: Floats, nodes_b: Floats, closed: bool) -> tuple[Floats, Floats]:
    """Shares of both that belong together, rising in both, from 0 to 1."""
    pairs: list[tuple[float, float]] = []
    if len(nodes_a) and len(nodes_b):
        d = np.abs(nodes_a[:, None] - nodes_b[None, :])
        for i in range(len(nodes_a)):
            j = int(d[i].argmin())
            if d[i, j] <= _NEAR and int(d[:, j].argmin()) == i:
                pairs.append((float(nodes_a[i]), float(nodes_b[j])))
    pairs = [p for p in pairs if 1e-6 < p[0] < 1 - 1e-6 and 1e-6 < p[1] < 1 - 1e-6]
    rising: list[tuple[float, float]] = [(0.0, 0.0)]
    for p in sorted(pairs):
        if p[1] > rising[-1][1] + 1e-6 and p[0] > rising[-1][0] + 1e-6:
            rising.append(p)
    rising.append((1.0, 1.0))
    a, b = np.array(rising).T
    return a, b


def _cut(r: Ruler, shares: Floats, offset: float, closed: bool) -> Floats:
    """A contour cut at rising shares of its length from ``offset`` on, as a run of points (3n + 1, 2)."""
    n = len(r.contour.segments)
    distances = (shares + offset) * r.total
    if not closed:
        places = _on_points(np.interp(np.clip(distances, 0, r.total), r.distances, r.places))
        return joined([_one(r.contour, p, q) for p, q in zip(places[:-1], places[1:], strict=True)])
    turns = np.floor(distances / max(r.total, 1e-12) + 1e-12)
    places = _on_points(np.interp(distances - turns * r.total, r.distances, r.places) + turns * n)
    doubled = Contour(joined([r.contour.points, r.contour.points]), False)
    run = joined([_one(doubled, p, q) for p, q in zip(places[:-1], places[1:], strict=True)])
    run[-1] = run[0]
    return run


def _on_points(places: Floats) -> Floats:
    """Places that were meant for a point of the contour exactly on it, so that no sliver of a segment is left."""
    whole = np.rint(places)
    return np.where(np.abs(places - whole) < 1e-5, whole, places)


def _one(contour: Contour, start: float, end: float) -> Floats:
    """A run between two places as exactly one cubic: what lies between two cuts holds no point of its own."""
    run = span(contour, start, max(end, start + 1e-9))
    if len(run) == 4:
        return run
    first, last = run[1] - run[0], run[-1] - run[-2]
    k = (len(run) - 1) / 3
    return np.stack([run[0], run[0] + first * k, run[-1] - last * k, run[-1]])
