"""Meshes of surfaces that depend on the distance to the edge: their columns run straight in from the outline.

A column keeps the direction in which the surface leans there, and its rows lie on lines of one distance, up to the
ridge where it meets columns from another side. So tones that follow from distance and direction alone are met at every
point.
"""

from __future__ import annotations

from collections.abc import Iterator
from itertools import combinations, pairwise
from typing import Any, NamedTuple

import numpy as np
import shapely
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY
from volumen.geometry.curve import Ruler, flatten, leaving, ruler
from volumen.geometry.mask import Part, places_in
from volumen.geometry.path import Contour, Path, clockwise
from volumen.shading.mesh import AFTER_U, BEFORE_U, Mesh
from volumen.shading.mesh_make import side, straight_handles

_CORNER = 8.0  # degrees: where an outline turns by more a column stands on either side
_FAN = 20.0  # degrees between columns that start from a corner pointing inwards
_NEAR = 2e-3  # of a distance, by which a place may be nearer to another part of the outline
_PAST = 1.04  # of the deepest place: the last row goes past the ridge, so that nothing is left open there
_PARALLEL, _CLOSE_BY = 0.05, 1.5  # sine between lines that do not cross, and how far off a crossing may be
_HALVINGS = 8
_OFF_LINE = 0.05  # of a distance, by which a corner may lie off the line of that distance
_FEWEST, _MOST_CONTOURS = 40, 24  # columns along a contour, and contours
_FLATTEST = 4.0  # ridge: how far along it for each unit farther from the edge
_AT_ONCE = 2_000_000  # distances worked out at a time: long outlines must not take all memory
_GRID = 24  # cells along each side of the box in which the deepest place is looked for
_laid: Cache[EdgeMesh | None] = Cache("meshes from the edge in", 5000)


class EdgeMesh(NamedTuple):
    """A mesh without its colours; the unit vectors (columns, 2) in which its columns lean, outwards; and how far in
    (rows, columns) its points lie, of the way from the edge (0) to the deepest place (1)."""

    mesh: Mesh
    leans: Floats
    inside: Floats


def edge_mesh(path: Path, columns: int, levels: tuple[float, ...]) -> EdgeMesh | None:
    """A mesh over an outline, its rows at shares of the way from the edge (0) to the deepest place (1), ``columns`` of
    them along its longest contour; None where there is none, or where contours cross. The same object for the same
    outline."""
    key = (id(path), columns, levels)
    if key in _laid:
        return _laid.get(key)
    return _laid.put(key, path, _made(path, columns, levels))


def _made(path: Path, columns: int, levels: tuple[float, ...]) -> EdgeMesh | None:
    borders = [ruler(c) for c in _borders(path)]
    longest = max((b.total for b in borders), default=0.0)
    if longest <= 0:
        return None
    edge = _edge(path)
    deepest = _deepest(path, edge)
    rings = []
    for measured in borders:
        count = columns if len(borders) == 1 else max(round(columns * measured.total / longest), _FEWEST)
        border, before, after, inwards = _columns(measured, count)
        rows, inside = _rows(edge, deepest, border, inwards, levels)
        rings.append(_Ring(rows, before, after, -inwards, inside))
    return _laid_on(rings)


class _Ring(NamedTuple):
    """The columns along one contour: points (rows, columns, 2), the handles of the contour's pieces before and after
    them, how their surface leans (columns, 2) and how far in they lie (rows, columns)."""

    rows: Floats
    before: Floats
    after: Floats
    leans: Floats
    inside: Floats

    @property
    def ridge(self) -> Floats:
        """A column (rows, 1, 2) that lies on the ridge where the first one ends."""
        return np.repeat(self.rows[-1:, :1], len(self.rows), axis=0)


def _laid_on(rings: list[_Ring]) -> EdgeMesh:
    """One mesh of the columns along all contours. From one contour to the next it goes by way of the ridge, where its
    patches are lines without an area."""
    if len(rings) == 1:
        one = rings[0]
        handles = straight_handles(one.rows, True)
        handles[0, :, AFTER_U], handles[0, :, BEFORE_U] = one.after, one.before
        return EdgeMesh(_uncoloured(one.rows, handles, True), one.leans, one.inside)
    at: list[Floats] = []
    leans: list[Floats] = []
    inside: list[Floats] = []
    first: list[int] = []
    for k, r in enumerate(rings):
        before, after = k > 0, k + 1 < len(rings)
        first.append(sum(a.shape[1] for a in at) + before)
        at += [r.ridge] * before + [r.rows, r.rows[:, :1]] + [r.ridge] * after
        leans += [r.leans[:1]] * before + [r.leans, r.leans[:1]] + [r.leans[:1]] * after
        deep = np.repeat(r.inside[-1:, :1], len(r.inside), axis=0)
        inside += [deep] * before + [r.inside, r.inside[:, :1]] + [deep] * after
    rows = np.concatenate(at, axis=1)
    handles = straight_handles(rows, False)
    for r, start in zip(rings, first, strict=True):
        n = r.rows.shape[1]
        handles[0, start : start + n, AFTER_U] = r.after
        handles[0, start + 1 : start + n + 1, BEFORE_U] = np.roll(r.before, -1, axis=0)
    return EdgeMesh(_uncoloured(rows, handles, False), np.concatenate(leans), np.concatenate(inside, axis=1))


def _uncoloured(rows: Floats, handles: Floats, ring: bool) -> Mesh:
    shape = rows.shape[:2]
    bare = Mesh(rows, handles, np.ones((*shape, 4)), np.ones(shape, np.bool_), np.full((*shape, 4, 3, 4), np.nan), ring)
    return bare.for_keeping()


def _borders(path: Path) -> list[Contour]:
    """The closed contours of an outline, the inside of each to its right as on a clockwise one; none where they cross,
    or are more than a mesh serves."""
    found = [c for c in path.contours if c.closed and len(c.points) > 6]
    if len(found) == 1:
        return [clockwise(found[0])]
    if not 0 < len(found) <= _MOST_CONTOURS:
        return []
    chord = _chord(path)
    areas = [shapely.polygons(flatten(c, chord)[0]) for c in found]
    lines = shapely.boundary(areas)
    if not shapely.is_valid(areas).all() or any(shapely.intersects(a, b) for a, b in combinations(lines, 2)):
        return []
    out = []
    for k, c in enumerate(found):
        around = [j for j, a in enumerate(areas) if j != k and shapely.contains(a, lines[k])]
        outside = len(around) if path.evenodd else sum(1 if found[j].area() > 0 else -1 for j in around)
        inside = outside + (1 if path.evenodd or c.area() > 0 else -1)
        filled = (outside % 2, inside % 2) if path.evenodd else (outside != 0, inside != 0)
        if filled[0] == filled[1]:  # it lies over another, and is no edge of anything
            return []
        turned = clockwise(c)
        out.append(turned if filled[1] else Contour(turned.points[::-1].copy(), True))
    return out


def _rows(
    edge: _Edge, deepest: float, border: Floats, inwards: Floats, levels: tuple[float, ...]
) -> tuple[Floats, Floats]:  # fmt: skip
    """The points (rows, columns, 2) of a mesh and how far in they lie. A column ends where it meets those of another
    side; if its neighbours that go on make a corner there, it goes on to that."""
    at, reach = border.copy(), np.zeros(len(border))
    alive = np.ones(len(border), np.bool_)
    rows, inside = [at.copy()], [reach.copy()]
    for before, level in pairwise(levels):
        goes_on = alive & _is_nearest(edge, border, inwards, np.full(len(border), level * deepest))
        ends = np.flatnonzero(alive & ~goes_on)
        if len(ends):
            reach[ends] = _ending(edge, border[ends], inwards[ends], before * deepest, level * deepest) / deepest
        alive = goes_on
        reach[alive] = level
        moved = np.concatenate([ends, np.flatnonzero(alive)])
        at[moved] = (border + inwards * (reach * deepest)[:, None])[moved]
        for gone, corner in _corners_between(at, alive, inwards):
            if edge.distances(corner[None])[0] < (1 - _OFF_LINE) * level * deepest:
                continue  # another side comes nearer: the columns ended at that
            near = np.hypot(*(at[gone] - corner).T) <= _FLATTEST * (level - reach[gone]) * deepest
            at[gone[near]], reach[gone[near]] = corner, level
        rows.append(at.copy())
        inside.append(reach.copy())
    at[alive] = (border + inwards * (_PAST * deepest))[alive]
    return np.stack([*rows, at]), np.stack([*inside, reach])


def _is_nearest(edge: _Edge, border: Floats, inwards: Floats, far: Floats) -> NDArray[np.bool_]:
    """Whether columns (n) are so far in still nearest to where they began."""
    return np.asarray(edge.distances(border + inwards * far[:, None]) >= far * (1 - _NEAR) - 2 * edge.chord)


def _ending(edge: _Edge, border: Floats, inwards: Floats, low: float, high: float) -> Floats:
    """How far in (n,) columns end, between two distances."""
    lows, highs = np.full(len(border), low), np.full(len(border), high)
    for _ in range(_HALVINGS):
        middle = (lows + highs) / 2
        on = _is_nearest(edge, border, inwards, middle)
        lows, highs = np.where(on, middle, lows), np.where(on, highs, middle)
    return lows


def _corners_between(
    at: Floats, alive: NDArray[np.bool_], inwards: Floats
) -> Iterator[tuple[NDArray[np.intp], Floats]]:  # fmt: skip
    """Columns that have ended, between two that go on, with the corner that the lines of one distance make there."""
    on, n = np.flatnonzero(alive), len(alive)
    for left, right in zip(on.tolist(), np.roll(on, -1).tolist(), strict=True):
        gone = np.arange(left + 1, right if right > left else right + n) % n
        if len(gone) and (corner := _crossing(at[left], inwards[left], at[right], inwards[right])) is not None:
            yield gone, corner


def _crossing(a: Floats, across_a: Floats, b: Floats, across_b: Floats) -> Floats | None:
    """Where two lines cross, each through a point and square to a direction; None if that is not close by."""
    square = np.stack([across_a, across_b])
    if abs(np.linalg.det(square)) < _PARALLEL:
        return None
    found = np.linalg.solve(square, np.array([across_a @ a, across_b @ b]))
    near = _CLOSE_BY * float(np.hypot(*(b - a)))
    return found if max(np.hypot(*(found - a)), np.hypot(*(found - b))) <= near else None


def _columns(measured: Ruler, count: int) -> tuple[Floats, Floats, Floats, Floats]:
    """Where columns begin on the outline (n, 2), the handles of its pieces before and after those, and the unit vectors
    inwards. On a corner stand two, one square to each side; more where it points inwards."""
    corners = _corners(measured)
    starts = corners or [0.0]
    points, before, after, inwards = [], [], [], []
    for k, start in enumerate(starts):
        end = starts[(k + 1) % len(starts)]
        end += measured.total if end <= start else 0.0
        n = max(round(count * (end - start) / measured.total), 2 if corners else 8)
        pieces = side(measured, start, end, n)
        square = _inwards(np.concatenate([pieces[:, 1] - pieces[:, 0], pieces[-1:, 3] - pieces[-1:, 2]]))
        points += [*pieces[:, 0], pieces[-1, 3]]
        before += [pieces[0, 0], *pieces[:, 2]]
        after += [*pieces[:, 1], pieces[-1, 3]]
        inwards += [*square]
        if corners:
            first = _inwards((side(measured, end, end + measured.total * 1e-3, 1)[0, 1] - pieces[-1, 3])[None])[0]
            for fan in _fan(square[-1], first):
                points.append(pieces[-1, 3])
                before.append(pieces[-1, 3])
                after.append(pieces[-1, 3])
                inwards.append(fan)
        else:  # it closes where it began
            before[0] = before[-1]
            for columns in (points, before, after, inwards):
                columns.pop()
    return np.array(points), np.array(before), np.array(after), np.array(inwards)


def _corners(measured: Ruler) -> list[float]:
    """The distances along an outline at which it turns at once."""
    segments = measured.contour.segments
    into = np.array([-leaving(s[::-1]) for s in np.roll(segments, 1, axis=0)])
    out = np.array([leaving(s) for s in segments])
    turn = np.degrees(np.arccos(np.clip((into * out).sum(axis=1), -1, 1)))
    sharp = np.flatnonzero(turn > _CORNER).astype(float)
    return [float(d) for d in np.interp(sharp, measured.places, measured.distances)]


def _inwards(along: Floats) -> Floats:
    """Unit vectors (n, 2) square to a way clockwise round an outline, to its inside."""
    across = np.stack([-along[:, 1], along[:, 0]], axis=1)
    return across / np.maximum(np.hypot(across[:, :1], across[:, 1:]), 1e-12)


def _fan(one: Floats, two: Floats) -> Floats:
    """The directions (n, 2) between two where a corner points inwards; none where it points outwards."""
    turn = float(np.arctan2(one[0] * two[1] - one[1] * two[0], one @ two))
    if turn >= 0:
        return np.zeros((0, 2))
    n = max(int(-np.degrees(turn) // _FAN), 1)
    angles = np.arctan2(one[1], one[0]) + turn * np.arange(1, n + 1) / (n + 1)
    return np.stack([np.cos(angles), np.sin(angles)], axis=1)


class _Edge(NamedTuple):
    """The chords that stand for an outline, and how far they may be off it."""

    chords: Any  # a shapely geometry
    chord: float

    def distances(self, points: Floats) -> Floats:
        """How far (n,) points (n, 2) are from the outline."""
        return np.asarray(shapely.distance(self.chords, shapely.points(points)))


def _edge(path: Path) -> _Edge:
    chord = _chord(path)
    chords = shapely.multilinestrings([shapely.linestrings(flatten(c, chord)[0]) for c in path.contours])
    shapely.prepare(chords)
    return _Edge(chords, chord)


def _deepest(path: Path, edge: _Edge) -> float:
    """How far the place inside an outline that is farthest from it is."""
    box = path.hull() or (0.0, 0.0, 1.0, 1.0)
    places = places_in(Part(path, IDENTITY), box, _GRID)
    if not len(places):
        return 1e-9
    far = edge.distances(places)
    step = max(box[2] - box[0], box[3] - box[1]) / _GRID
    near = np.stack(np.meshgrid(*(np.linspace(-1, 1, 7),) * 2), axis=-1).reshape(-1, 2)
    best = places[int(far.argmax())]
    for _ in range(2):
        around = best + near * step
        far = edge.distances(around)
        best, step = around[int(far.argmax())], step / 4
    return max(float(far.max()), 1e-9)


def to_edge(path: Path, points: Floats) -> tuple[Floats, Floats]:
    """The unit vectors (n, 2) from points (n, 2) to the nearest place of an outline, and how far that is (n,)."""
    places = [flatten(contour, _chord(path))[0] for contour in path.contours]
    a, b = np.concatenate([p[:-1] for p in places]), np.concatenate([p[1:] for p in places])
    blocks = np.array_split(points, len(points) * len(a) // _AT_ONCE + 1)
    off = np.concatenate([_nearest(a, b - a, block) for block in blocks])
    least = np.hypot(off[:, 0], off[:, 1])
    return off / np.maximum(least, 1e-12)[:, None], least


def _chord(path: Path) -> float:
    """How far the chords that stand for an outline may be off it."""
    box = path.hull() or (0.0, 0.0, 1.0, 1.0)
    return max(box[2] - box[0], box[3] - box[1]) / 4000


def _nearest(a: Floats, d: Floats, points: Floats) -> Floats:
    """The ways (n, 2) from points to the nearest place on chords that begin at ``a`` and run along ``d``."""
    t = ((points[:, None] - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300)
    off = a + d * np.clip(t, 0, 1)[..., None] - points[:, None]
    return np.asarray(off[np.arange(len(points)), (off**2).sum(-1).argmin(axis=1)])
