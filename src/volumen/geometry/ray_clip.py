"""Many slim polygons cut to a region at once: exact crossings, then Weiler and Atherton's walk by sorting.

Every polygon is cut by itself; no boolean is asked. (K. Weiler and P. Atherton, Hidden surface removal using
polygon area sorting, 1977.)
"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats
from volumen.geometry.cubics import parts, sign_changes
from volumen.geometry.curve import derivative, evaluate, segments_of
from volumen.geometry.engine import contains
from volumen.geometry.path import Contour, Path, contour_from_lines

Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
_NUDGE = 1e-8 * np.array([0.618, 0.414])  # of the region's size: edges that lie on its edges would cross it at random
_PAIRS = 4_000_000  # edges times segments that are looked at together


class _Crossings(NamedTuple):
    """Where polygons cross the region: of which polygon, how far round it (in edges), on which contour at which place,
    whether the polygon enters there, and the point."""

    polygon: Ints
    along: Floats
    contour: Ints
    place: Floats
    entering: Bools
    point: Floats

    def at(self, rows: Ints | Bools) -> _Crossings:
        return _Crossings(
            self.polygon[rows], self.along[rows], self.contour[rows], self.place[rows], self.entering[rows],
            self.point[rows],
        )  # fmt: skip


class Cut(NamedTuple):
    """The pieces of polygons inside a region, and the numbers of those that could not be cut so."""

    contours: list[Contour]
    failed: list[int]


def polygon_contours(polygons: Floats) -> tuple[Contour, ...]:
    """Polygons (n, m, 2) as closed contours of straight segments, with handles on the thirds."""
    a, b = polygons, np.roll(polygons, -1, axis=1)
    rows = np.stack([a, a + (b - a) / 3, a + (b - a) * (2 / 3)], axis=2).reshape(len(a), 3 * polygons.shape[1], 2)
    return tuple(Contour(p, True) for p in np.concatenate([rows, rows[:, :1]], axis=1))


def cut_to(polygons: Floats, region: Path) -> Cut:
    """The parts of polygons (n, m, 2) inside a region without self-crossings, its outer borders clockwise."""
    contours = [c for c in region.contours if c.closed and len(c.points) > 3]
    box = region.bounds()
    if not contours or box is None or not len(polygons):
        return Cut([], [])
    polygons = polygons + max(box[2] - box[0], box[3] - box[1]) * _NUDGE
    x, y = polygons[..., 0], polygons[..., 1]
    area = (x * np.roll(y, -1, 1) - y * np.roll(x, -1, 1)).sum(axis=1)
    polygons = np.where((area < 0)[:, None, None], polygons[:, ::-1], polygons)
    met = _crossings(polygons, contours)
    failed = _not_alternating(met, len(polygons))
    met = met.at(~failed[met.polygon])
    pieces, wrong = _walked(met, polygons, contours)
    count = np.bincount(met.polygon, minlength=len(polygons))
    alone = np.flatnonzero((count == 0) & ~failed).tolist()
    inside = [k for k in alone if contains(region, *polygons[k, 0].tolist())]
    holes = _holes(met, polygons, contours, failed)
    return Cut([*pieces, *polygon_contours(polygons[inside]), *holes], [*np.flatnonzero(failed).tolist(), *wrong])


def _crossings(polygons: Floats, contours: list[Contour]) -> _Crossings:
    """All crossings, by polygon and round it."""
    m = polygons.shape[1]
    segments = segments_of(contours)
    counts = [len(c.segments) for c in contours]
    of = np.repeat(np.arange(len(contours)), counts)
    first = np.cumsum([0, *counts])[:-1]
    a = polygons.reshape(-1, 2)
    b = np.roll(polygons, -1, 1).reshape(-1, 2)
    edge, seg = _near(a, b, segments)
    d = b[edge] - a[edge]
    w = segments[seg] - a[edge][:, None]
    across = d[:, None, 0] * w[..., 1] - d[:, None, 1] * w[..., 0]
    row, t = sign_changes(across)
    edge, seg, d = edge[row], seg[row], d[row]
    point = evaluate(segments[seg], t)
    share = ((point - a[edge]) * d).sum(axis=1) / (d * d).sum(axis=1)
    on = (share >= 0) & (share < 1)
    edge, seg, d, t, point, share = edge[on], seg[on], d[on], t[on], point[on], share[on]
    g = derivative(segments[seg], t)
    entering = d[:, 0] * g[:, 1] - d[:, 1] * g[:, 0] < 0
    made = _Crossings(edge // m, edge % m + share, of[seg], seg + t - first[of[seg]], entering, point)
    return made.at(np.lexsort((made.along, made.polygon)))


def _near(a: Floats, b: Floats, segments: Floats) -> tuple[Ints, Ints]:
    """The pairs of edges and segments whose boxes meet."""
    low, high = np.minimum(a, b), np.maximum(a, b)
    least, most = segments.min(axis=1), segments.max(axis=1)
    edges, segs = [], []
    step = max(_PAIRS // max(len(segments), 1), 1)
    for k in range(0, len(a), step):
        lo, hi = low[k : k + step, None], high[k : k + step, None]
        meet = (lo[..., 0] <= most[:, 0]) & (hi[..., 0] >= least[:, 0])
        meet &= (lo[..., 1] <= most[:, 1]) & (hi[..., 1] >= least[:, 1])
        e, s = np.nonzero(meet)
        edges.append(e + k)
        segs.append(s)
    return np.concatenate(edges), np.concatenate(segs)


def _not_alternating(met: _Crossings, n: int) -> Bools:
    """Which polygons do not go in and out by turns: their crossings are not to be trusted."""
    failed = np.bincount(met.polygon, minlength=n) % 2 == 1
    following = _next_in(met.polygon)
    failed[met.polygon[met.entering == met.entering[following]]] = True
    return np.asarray(failed)


def _next_in(groups: Ints) -> Ints:
    """For each row the next one of its group, the first after the last; rows of a group stand together."""
    k = len(groups)
    following = np.arange(k) + 1
    starts = np.searchsorted(groups, groups)
    last = (following == k) | (groups[np.minimum(following, k - 1)] != groups)
    return np.asarray(np.where(last, starts, following), dtype=np.int64)


def _walked(met: _Crossings, polygons: Floats, contours: list[Contour]) -> tuple[list[Contour], list[int]]:
    """From each entering crossing along the polygon to where it leaves, from there along the region to where one
    enters, and on, until the walk closes."""
    if not len(met.polygon):
        return [], []
    out_at = _next_in(met.polygon)
    order = np.lexsort((met.place, met.contour, met.polygon))
    group = met.polygon[order] * len(contours) + met.contour[order]
    onward = np.empty(len(order), dtype=np.int64)
    onward[order] = order[_next_in(group)]
    enters = np.flatnonzero(met.entering)
    again = onward[out_at[enters]]
    wrong = sorted(set(met.polygon[enters[~met.entering[again]]].tolist()))
    kept = ~np.isin(met.polygon[enters], wrong)
    enters, leaves, again = enters[kept], out_at[enters[kept]], again[kept]
    inside, ends_inside = _along_polygons(met, polygons, enters, leaves)
    beside, ends_beside = _along_region(met, contours, leaves, again)
    place = np.full(len(met.polygon), -1)
    place[enters] = np.arange(len(enters))
    if not len(enters):
        return [], wrong
    order, of = _cycles(place[again])
    # One after the other: from its start along the polygon, then beside the region.
    starts = np.stack([ends_inside[:-1], len(inside) + ends_beside[:-1]], axis=1)[order].reshape(-1)
    counts = np.stack([np.diff(ends_inside), np.diff(ends_beside)], axis=1)[order].reshape(-1)
    run, k, _ = _counted(counts)
    cubics = np.concatenate([inside, beside])[starts[run] + k]
    return _contours(cubics, of[run // 2]), wrong


def _cycles(to: Ints) -> tuple[Ints, Ints]:
    """The elements of a permutation, cycle by cycle, and of which cycle each is."""
    following = to.tolist()
    used = [False] * len(following)
    order, of, n = [], [], 0
    for start in range(len(following)):
        here = start
        while not used[here]:
            used[here] = True
            order.append(here)
            of.append(n)
            here = following[here]
        n = of[-1] + 1
    return np.array(order, dtype=np.int64), np.array(of, dtype=np.int64)


def _contours(cubics: Floats, of: Ints) -> list[Contour]:
    """Closed contours of cubics (n, 4, 2), told of which contour each is; those of one stand together."""
    n = int(of[-1]) + 1
    points = np.empty((3 * len(cubics) + n, 2))
    at = 3 * np.arange(len(cubics)) + of
    points[(at[:, None] + np.arange(3)).reshape(-1)] = cubics[:, :3].reshape(-1, 2)
    first = np.searchsorted(of, np.arange(n + 1)) * 3 + np.arange(n + 1)
    points[first[1:] - 1] = points[first[:-1]]
    return [Contour(points[a:b], True) for a, b in pairwise(first.tolist())]


def _counted(counts: Ints) -> tuple[Ints, Ints, Ints]:
    """For runs of some lengths one after another: of which run each row is, which of its rows, where the runs end."""
    ends = np.concatenate([[0], np.cumsum(counts)])
    of = np.repeat(np.arange(len(counts)), counts)
    return of, np.arange(len(of)) - ends[of], ends


def _along_polygons(met: _Crossings, polygons: Floats, a: Ints, b: Ints) -> tuple[Floats, Ints]:
    """Straight segments (k, 4, 2) from crossings to later ones round their polygons, and where each run ends."""
    m = polygons.shape[1]
    u, v = met.along[a], met.along[b]
    v = np.where(v <= u, v + m, v)
    corners = (np.ceil(v) - np.floor(u) - 1).astype(np.int64)
    of, k, ends = _counted(corners + 1)
    mine, first = met.polygon[a][of], np.floor(u).astype(np.int64)[of]
    s = np.where((k == 0)[:, None], met.point[a][of], polygons[mine, (first + k) % m])
    e = np.where((k == corners[of])[:, None], met.point[b][of], polygons[mine, (first + k + 1) % m])
    return np.stack([s, s + (e - s) / 3, s + (e - s) * (2 / 3), e], axis=1), ends


def _along_region(met: _Crossings, contours: list[Contour], a: Ints, b: Ints) -> tuple[Floats, Ints]:
    """Pieces of the region's cubics (k, 4, 2) from crossings to later ones on their contours, and where each run
    ends."""
    segments = segments_of(contours)
    counts = np.array([len(c.segments) for c in contours])
    first = (np.cumsum(counts) - counts)[met.contour[a]]
    n = counts[met.contour[a]]
    s, e = met.place[a], met.place[b]
    e = np.where(e <= s, e + n, e)
    low = np.floor(s).astype(np.int64)
    of, k, ends = _counted(np.maximum(np.ceil(e).astype(np.int64) - low, 1))
    at = low[of] + k
    rows = parts(segments[first[of] + at % n[of]], np.maximum(s[of] - at, 0.0), np.minimum(e[of] - at, 1.0))
    rows[ends[:-1], 0] = met.point[a]
    rows[ends[1:] - 1, 3] = met.point[b]
    return rows, ends


def _holes(met: _Crossings, polygons: Floats, contours: list[Contour], failed: Bools) -> list[Contour]:
    """Contours of the region that lie wholly inside a polygon without crossing it."""
    x, y = polygons[..., 0], polygons[..., 1]
    low, high = np.stack([x.min(1), y.min(1)], 1), np.stack([x.max(1), y.max(1)], 1)
    pairs = set(zip(met.polygon.tolist(), met.contour.tolist(), strict=True))
    out = []
    for c, contour in enumerate(contours):
        p = contour.points[0]
        for k in np.flatnonzero(((low <= p) & (high >= p)).all(axis=1) & ~failed).tolist():
            if (k, c) not in pairs and contains(
                Path((contour_from_lines(map(tuple, polygons[k].tolist())),)), *p.tolist()
            ):
                out.append(contour)
    return out
