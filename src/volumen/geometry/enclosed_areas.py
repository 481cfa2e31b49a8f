"""The areas that outlines cut out of the plane, with their true curves.

Contours are flattened to chords that remember where on their curve they lie. Chords are cut where they cross,
touch or run along one another (crossings are polished on the true curves), vertices closer than a tolerance
become one, and the faces of the resulting net are read off. A face's border is turned back into pieces of the
curves it came from, so nothing is refitted.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from volumen.geometry.affine import Floats, Point
from volumen.geometry.bridges import bridges
from volumen.geometry.clusters import clustered
from volumen.geometry.crossings import meetings
from volumen.geometry.curve import Ints, derivative, evaluate, flatten, span
from volumen.geometry.engine import PathOpError, contains
from volumen.geometry.path import Contour, Path, in_box, joined

TOLERANCE = 0.05  # curves closer than this, in units, count as one
_CHORD = 0.04
_MOST_CHORDS = 300_000
MOST_CROSSINGS = 20_000  # each makes an area, whose border is walked and asked for what holds it
_MOST_PAIRS = 5_000_000  # of chords near each other: a second, and a few hundred megabytes
_BATCH = 64  # chords that may each lie near all others
Edge = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Area:
    """One face: its border as rings of vertex ids (k,), outer first, a point inside it, its size in square units."""

    rings: tuple[Ints, ...]
    inside: Point
    size: float


@dataclass(slots=True)
class Net:
    """Vertices joined by pieces of contours that cross nowhere else."""

    vertices: Floats  # (n, 2)
    pairs: Ints  # (m, 2) vertex ids, each undirected pair once, the lower first, in order
    source: Ints  # (m,) contour
    places: Floats  # (m, 2) places of the pair on its contour

    @staticmethod
    def empty() -> Net:
        """A net without any line."""
        none = np.zeros((0, 2), np.int64)
        return Net(np.zeros((0, 2)), none, none[:, 0], np.zeros((0, 2)))

    def along(self, ring: Sequence[int]) -> Iterator[tuple[int, int, int, float, float]]:
        """What a ring of vertices runs along: from, to, the contour, the places on it."""
        u = np.array(ring, dtype=np.int64)
        v = np.roll(u, -1)
        count = len(self.vertices)
        known = self.pairs[:, 0] * count + self.pairs[:, 1]
        at = np.searchsorted(known, np.minimum(u, v) * count + np.maximum(u, v))
        places = np.where((u < v)[:, None], self.places[at], self.places[at, ::-1])
        columns = (u, v, self.source[at], places[:, 0], places[:, 1])
        return zip(*(c.tolist() for c in columns), strict=True)


@dataclass(slots=True)
class Arrangement:
    """All areas of some outlines."""

    paths: Sequence[Path]
    areas: list[Area]
    contours: list[Contour]
    net: Net
    seams: list[tuple[Ints, ...]] = field(default_factory=list)
    _polygons: list[object] = field(default_factory=list)
    _tree: shapely.STRtree | None = None

    def at(self, p: Point) -> int | None:
        """The index of the area at a point; None outside all."""
        found = self._touched(shapely.Point(p))
        return int(min(found, key=lambda i: self.areas[i].size)) if len(found) else None

    def along(self, a: Point, b: Point) -> list[int]:
        """The areas that a straight sweep from a to b touches."""
        return [int(i) for i in self._touched(shapely.LineString([a, b]))]

    def _touched(self, what: Any) -> Ints:
        """The areas that a geometry touches."""
        if self._tree is None:
            self._tree = shapely.STRtree(self._polygons)
        return np.asarray(self._tree.query(what, predicate="intersects"), dtype=np.int64)

    def covers(self, index: int) -> frozenset[int]:
        """Which of the paths hold an area inside them; none for a hole that others enclose."""
        at = self.areas[index].inside
        return frozenset(k for k, path in enumerate(self.paths) if _covers(path, at))

    def outline(self, chosen: Sequence[int]) -> Path:
        """The outline of areas merged into one: borders between two of them vanish."""
        border = {e for index in chosen for e in _edges_of(self.areas[index].rings)}
        for seam in self.seams:  # a seam goes with the areas that most of its border touches
            own = _edges_of(seam)
            if 2 * sum(self._size(e) for e in own if e[::-1] in border) > sum(map(self._size, own)):
                border.update(own)
        rings = _chain([e for e in border if e[::-1] not in border], self.net.vertices)
        return Path(tuple(self._curve(ring) for ring in rings if len(ring) > 1))

    def _curve(self, ring: list[int]) -> Contour:
        """A vertex ring as pieces of the curves that it runs along."""
        runs: list[tuple[int, float, float, int, int]] = []  # contour, place from, place to, vertices
        for u, v, contour, start, end in self.net.along(ring):
            if runs and runs[-1][0] == contour and _continues(runs[-1], start, end):
                runs[-1] = (contour, runs[-1][1], end, runs[-1][3], v)
            else:
                runs.append((contour, start, end, u, v))
        if len(runs) > 1 and runs[0][0] == runs[-1][0]:
            last = runs[-1]
            if _continues(last, runs[0][1], runs[0][2]):
                runs[0] = (last[0], last[1], runs[0][2], last[3], runs[0][4])
                runs.pop()
        pieces = []
        for contour, start, end, u, v in runs:
            points = span(self.contours[contour], start, end).copy()
            _pin(points, self.net.vertices[u], self.net.vertices[v])
            pieces.append(points)
        return Contour(joined(pieces), True)

    def _size(self, edge: Edge) -> float:
        d = self.net.vertices[edge[1]] - self.net.vertices[edge[0]]
        return float(np.hypot(d[0], d[1]))


def _edges_of(rings: tuple[Ints, ...]) -> list[Edge]:
    return [e for ring in rings for e in zip(ring.tolist(), np.roll(ring, -1).tolist(), strict=True)]


def _continues(run: tuple[int, float, float, int, int], start: float, end: float) -> bool:
    """Whether a chord goes on where a run ended, the same way round."""
    _, first, last, _, _ = run
    return abs(start - last) < 1e-9 and (last > first) == (end > start)


def _pin(points: Floats, first: Floats, last: Floats) -> None:
    """Move a piece's ends to its vertices, and the handles with them."""
    for end, handle, to in ((0, 1, first), (-1, -2, last)):
        shift = to - points[end]
        points[end] += shift
        points[handle] += shift


def _chain(edges: list[Edge], vertices: Floats) -> list[list[int]]:
    """Directed edges as closed rings; at a branching the sharpest right turn keeps rings apart."""
    leaving: dict[int, list[int]] = {}
    for u, v in edges:
        leaving.setdefault(u, []).append(v)
    rings: list[list[int]] = []
    while leaving:
        start = next(iter(leaving))
        ring, u = [start], start
        previous = start
        while True:
            options = leaving[u]
            v = options[0] if len(options) == 1 or u == previous else _turn(vertices, previous, u, options)
            options.remove(v)
            if not options:
                del leaving[u]
            if v == start:
                break
            ring.append(v)
            previous, u = u, v
            if u not in leaving:  # an open remainder has no area
                ring = []
                break
        if ring:
            rings.append(ring)
    return rings


def _turn(vertices: Floats, previous: int, u: int, options: list[int]) -> int:
    back = vertices[previous] - vertices[u]
    angle = np.arctan2(back[1], back[0])

    def sweep(v: int) -> float:
        d = vertices[v] - vertices[u]
        return float((np.arctan2(d[1], d[0]) - angle) % (2 * np.pi))

    return min(options, key=sweep)


# -- building


def arrange(paths: Sequence[Path], tolerance: float = TOLERANCE, gap: float = 0.0) -> Arrangement:
    """The areas of some paths together. Open lines that end within ``gap`` of another line are closed there."""
    contours = [c for path in paths for c in path.contours if len(c.points) > 3]
    if gap > 0:
        contours += bridges(contours, gap)
    if not contours:
        return Arrangement(paths, [], [], Net.empty())
    net = _net(contours, tolerance)
    return _faces(net, contours, paths, tolerance)


def _net(contours: list[Contour], tolerance: float) -> Net:
    """Chords cut at all crossings, with vertices closer than the tolerance made one."""
    points, places, source = [], [], []
    for k, contour in enumerate(contours):
        p, t = flatten(contour, _CHORD)
        points.append(np.stack([p[:-1], p[1:]], axis=1))
        places.append(np.stack([t[:-1], t[1:]], axis=1))
        source.append(np.full(len(p) - 1, k))
    if sum(len(p) for p in points) > _MOST_CHORDS:
        raise PathOpError("the outlines are too large, or too detailed, to work out their areas")
    chords, chord_places, owner = np.concatenate(points), np.concatenate(places), np.concatenate(source)
    cut_chord, cut_t, cut_at = _cuts(chords, chord_places, owner, contours, tolerance)
    n = len(chords)
    ids = np.concatenate([np.arange(n), np.arange(n), cut_chord])
    ts = np.concatenate([np.zeros(n), np.ones(n), cut_t])
    at = np.concatenate([chords[:, 0], chords[:, 1], cut_at])
    label, vertices = clustered(at, tolerance)
    order = np.lexsort((ts, ids))
    ids, ts, label = ids[order], ts[order], label[order]
    same = ids[1:] == ids[:-1]
    u, v = label[:-1][same], label[1:][same]
    chord = ids[:-1][same]
    low, high = chord_places[chord, 0], chord_places[chord, 1]
    t0, t1 = ts[:-1][same], ts[1:][same]
    spans = np.stack([low + (high - low) * t0, low + (high - low) * t1], axis=1)
    real = u != v
    u, v, chord, spans = u[real], v[real], chord[real], spans[real]
    swap = u > v
    pairs = np.where(swap[:, None], np.stack([v, u], axis=1), np.stack([u, v], axis=1))
    spans = np.where(swap[:, None], spans[:, ::-1], spans)
    _, first = np.unique(pairs[:, 0] * len(vertices) + pairs[:, 1], return_index=True)
    return Net(vertices, pairs[first], owner[chord[first]].astype(np.int64), spans[first])


def _cuts(
    chords: Floats, places: Floats, owner: Ints, contours: list[Contour], tolerance: float
) -> tuple[Ints, Floats, Floats]:
    """Where chords must be cut: chord numbers, parameters on them, and the points."""
    i, j = _close_boxes(chords, tolerance)
    a, b = chords[i], chords[j]
    da, db = a[:, 1] - a[:, 0], b[:, 1] - b[:, 0]
    s, t, cross = meetings(a, b)
    size = np.hypot(*da.T) * np.hypot(*db.T)
    proper = (np.abs(cross) > 1e-3 * size) & (s > 0) & (s < 1) & (t > 0) & (t < 1)
    if np.count_nonzero(proper) > MOST_CROSSINGS:
        raise PathOpError(f"the outlines cross more than {MOST_CROSSINGS:,} times; take fewer of them at a time")
    ip, jp, s, t = i[proper], j[proper], s[proper], t[proper]
    at = a[proper, 0] + da[proper] * s[:, None]
    s, t, at = _polished(contours, owner, places, ip, jp, s, t, at)
    numbers, parameters, points = [ip, jp], [s, t], [at, at]
    for first, second, first_chord in ((a, b, i), (b, a, j)):
        for end in (0, 1):
            number, parameter, point = _touching(first_chord, first, second[:, end], tolerance)
            numbers.append(number)
            parameters.append(parameter)
            points.append(point)
    return np.concatenate(numbers), np.concatenate(parameters), np.concatenate(points)


def _close_boxes(chords: Floats, tolerance: float) -> tuple[Ints, Ints]:
    """Pairs of chords (i < j) whose boxes come within the tolerance. Raises PathOpError where they are so many that
    they fill the memory, as among the spikes of stars of thousands of points."""
    low, high = chords.min(axis=1) - tolerance / 2, chords.max(axis=1) + tolerance / 2
    boxes = shapely.box(low[:, 0], low[:, 1], high[:, 0], high[:, 1])
    tree, pairs, count, k, batch = shapely.STRtree(boxes), [np.zeros((2, 0), np.int64)], 0, 0, _BATCH
    while k < len(boxes):
        found = tree.query(boxes[k : k + batch])
        found[0] += k
        found = found[:, found[0] < found[1]]
        pairs.append(found)
        count += found.shape[1]
        if count > _MOST_PAIRS:
            raise PathOpError("the outlines run too close to one another too often; take fewer of them at a time")
        k += batch
        batch = 2 * batch if found.shape[1] < _MOST_PAIRS / 50 else _BATCH
    i, j = np.concatenate(pairs, axis=1).astype(np.int64)
    return i, j


def _touching(number: Ints, chord: Floats, p: Floats, tolerance: float) -> tuple[Ints, Floats, Floats]:
    """Ends of other chords that lie on a chord, within the tolerance and away from its own ends."""
    d = chord[:, 1] - chord[:, 0]
    size = np.maximum((d * d).sum(axis=1), 1e-300)
    t = ((p - chord[:, 0]) * d).sum(axis=1) / size
    foot = chord[:, 0] + d * t[:, None]
    on = (np.hypot(*(p - foot).T) <= tolerance) & (t > 0) & (t < 1)
    return number[on], t[on], p[on]


def _polished(
    contours: list[Contour], owner: Ints, places: Floats, i: Ints, j: Ints, s: Floats, t: Floats, at: Floats
) -> tuple[Floats, Floats, Floats]:
    """Crossings of chords moved to the crossings of their curves by Newton's method; kept where that fails."""
    if not len(i):
        return s, t, at
    table = np.concatenate([c.segments for c in contours])
    first = np.concatenate([[0], np.cumsum([len(c.segments) for c in contours])])[:-1]

    def local(chord: Ints, fraction: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        low, high = places[chord, 0], places[chord, 1]
        index = np.floor(low + 1e-9)
        return table[first[owner[chord]] + index.astype(np.int64)], low - index, high - low, fraction

    seg_a, low_a, width_a, x = local(i, s)
    seg_b, low_b, width_b, y = local(j, t)
    for _ in range(4):
        ta, tb = low_a + width_a * x, low_b + width_b * y
        gap = evaluate(seg_b, tb) - evaluate(seg_a, ta)
        ga, gb = derivative(seg_a, ta) * width_a[:, None], derivative(seg_b, tb) * width_b[:, None]
        det = gb[:, 0] * ga[:, 1] - gb[:, 1] * ga[:, 0]
        safe = np.where(np.abs(det) > 1e-12, det, np.inf)
        x = x + (gb[:, 0] * gap[:, 1] - gb[:, 1] * gap[:, 0]) / safe
        y = y + (ga[:, 0] * gap[:, 1] - ga[:, 1] * gap[:, 0]) / safe
        x, y = np.clip(x, 0, 1), np.clip(y, 0, 1)
    pa = evaluate(seg_a, low_a + width_a * x)
    pb = evaluate(seg_b, low_b + width_b * y)
    good = np.hypot(*(pa - pb).T) < 1e-6
    return np.where(good, x, s), np.where(good, y, t), np.where(good[:, None], pa, at)


def _faces(net: Net, contours: list[Contour], paths: Sequence[Path], tolerance: float) -> Arrangement:
    found = shapely.get_parts(shapely.polygonize(_runs(net)))
    found = shapely.orient_polygons(found) if len(found) else found
    rings = _rings(found, net.vertices)
    sizes, around = shapely.area(found), shapely.length(found)
    thick = sizes > np.maximum(around * tolerance, 0.25 * tolerance)  # thinner than two tolerances is a seam
    inner = shapely.get_coordinates(shapely.point_on_surface(found))
    areas, seams = [], []
    for ring, size, p, real in zip(rings, sizes.tolist(), inner.tolist(), thick.tolist(), strict=True):
        if real:
            areas.append(Area(ring, (p[0], p[1]), size))
        else:
            seams.append(ring)
    return Arrangement(paths, areas, contours, net, seams, list(found[thick]))


def _runs(net: Net) -> Any:
    """The net as lines from branching to branching: far fewer than its chords, and the same faces."""
    if not len(net.pairs):
        return []
    low = np.argmin(net.places, axis=1)[:, None]
    start, end = np.take_along_axis(net.pairs, low, 1)[:, 0], np.take_along_axis(net.pairs, 1 - low, 1)[:, 0]
    order = np.lexsort((net.places.min(axis=1), net.source))
    start, end, source = start[order], end[order], net.source[order]
    lonely = np.bincount(net.pairs.reshape(-1)) == 2
    goes_on = (source[1:] == source[:-1]) & (start[1:] == end[:-1]) & lonely[start[1:]]
    run = np.concatenate([[0], np.cumsum(~goes_on)])
    first = np.flatnonzero(np.concatenate([[True], ~goes_on]))
    ids = np.empty(len(start) + len(first), dtype=np.int64)
    ids[first + np.arange(len(first))] = start[first]
    ids[np.arange(len(end)) + run + 1] = end
    owner = np.empty(len(ids), dtype=np.int64)
    owner[first + np.arange(len(first))] = np.arange(len(first))
    owner[np.arange(len(end)) + run + 1] = run
    return shapely.linestrings(net.vertices[ids], indices=owner)


def _rings(found: Any, vertices: Floats) -> list[tuple[Ints, ...]]:
    """The borders of polygons as rings of vertex ids, outer ring first."""
    names = vertices[:, 0] + 1j * vertices[:, 1]
    order = np.argsort(names)
    rings, face = shapely.get_rings(found, return_index=True)
    xy, ring = shapely.get_coordinates(rings, return_index=True)
    ids = order[np.searchsorted(names[order], xy[:, 0] + 1j * xy[:, 1])]
    bounds = np.searchsorted(ring, np.arange(len(rings) + 1)).tolist()
    out: list[list[Ints]] = [[] for _ in range(len(found))]
    for k, f in enumerate(face.tolist()):
        out[f].append(ids[bounds[k] : bounds[k + 1] - 1])
    return [tuple(r) for r in out]


def _covers(path: Path, at: Point) -> bool:
    box = path.hull()
    return box is not None and in_box(box, *at) and contains(path, *at)
