"""Meshes that follow an outline, or a gradient."""

from __future__ import annotations

from collections.abc import Callable
from itertools import combinations

import numpy as np

from volumen.colour.srgb import Floats
from volumen.geometry.affine import apply_points
from volumen.geometry.curve import Ruler, leaving, ruler
from volumen.geometry.fit import fit_runs
from volumen.geometry.path import Box, Contour, Path, clockwise
from volumen.shading.mesh import AFTER_U, AFTER_V, BEFORE_U, BEFORE_V, Mesh, MeshError, mixing_of
from volumen.shading.paint import Linear, Radial
from volumen.shading.ramp import sorted_stops

Colours = Callable[[Floats], Floats]  # points (n, 2) to straight RGBA (n, 4)
_CORNER = 25.0  # degrees
EYE = 0.03  # the innermost line of a ring round a point, as a share of the outline's size


def four_sided(path: Path, columns: int, rows: int, colours: Colours, corners: tuple[float, ...] | None = None) -> Mesh:
    """A mesh whose border is the outline. ``corners`` are four places on its border; else they are found.

    Raises MeshError for an outline that is not closed or has no inside.
    """
    contour = border_of(path)
    measured = ruler(contour)
    places = found_corners(contour, measured) if corners is None else _from_top_left(sorted(set(corners)), measured)
    if len(places) != 4:
        raise MeshError(f"a four-sided mesh needs four corners, and {len(places)} are chosen")
    at = np.interp(places, measured.places, measured.distances)
    starts, ends = at, np.roll(at, -1) + np.where(np.roll(at, -1) <= at, measured.total, 0.0)
    counts = (columns, rows, columns, rows)
    sides = [side(measured, a, b, n) for a, b, n in zip(starts, ends, counts, strict=True)]
    # The outline runs clockwise: top to the right, right side down, bottom back, left side up.
    top, right = sides[0], sides[1]
    bottom, left = (np.ascontiguousarray(s[::-1, ::-1]) for s in (sides[2], sides[3]))
    return _coons(top, bottom, left, right, colours)


def found_corners(contour: Contour, measured: Ruler | None = None) -> list[float]:
    """Four places on an outline that serve as a mesh's corners, clockwise from the top left: its own corners where
    it has them, else where it comes nearest to the corners of its box."""
    measured = measured or ruler(contour)
    segments = contour.segments
    n = len(segments)
    into = np.array([-leaving(s[::-1]) for s in np.roll(segments, 1, axis=0)])
    out = np.array([leaving(s) for s in segments])
    turn = np.degrees(np.arccos(np.clip((into * out).sum(axis=1), -1, 1)))
    sharp = [float(i) for i in range(n) if turn[i] > _CORNER]
    many = np.linspace(0, n, 8 * n, endpoint=False)
    points = measured.at(np.interp(many, measured.places, measured.distances))[0]
    low, high = points.min(axis=0), points.max(axis=0)
    size = np.maximum(high - low, 1e-9)
    goals = np.array([[0, 0], [1, 0], [1, 1], [0, 1]], dtype=np.float64)
    if len(sharp) >= 4:
        own = (segments[[int(s) for s in sharp], 0] - low) / size
        best = min(
            combinations(range(len(sharp)), 4) if len(sharp) <= 12 else [tuple(_nearest(own, g) for g in goals)],
            key=lambda c: min(float(np.hypot(*(own[list(np.roll(c, -k))] - goals).T).sum()) for k in range(4)),
        )
        chosen = sorted(sharp[i] for i in set(best))
    else:
        # The diagonal's reach counts, so that a circle is cut at its four diagonals.
        reach = ((points - low) / size - 0.5) @ (goals - 0.5).T
        chosen = sorted(float(many[int(reach[:, k].argmax())]) for k in range(4))
    if len(set(chosen)) < 4:
        chosen = np.interp(np.arange(4) / 4 * measured.total, measured.distances, measured.places).tolist()
    return _from_top_left(chosen, measured)


def _from_top_left(places: list[float], measured: Ruler) -> list[float]:
    """Places on an outline, in their order, beginning with the one that lies nearest to its top left."""
    points = measured.contour.points[::3]
    low, size = points.min(axis=0), np.maximum(np.ptp(points, axis=0), 1e-9)
    where = (measured.at(np.interp(places, measured.places, measured.distances))[0] - low) / size
    first = int(where.sum(axis=1).argmin())
    return [*places[first:], *places[:first]]


def _nearest(points: Floats, goal: Floats) -> int:
    return int(np.hypot(*(points - goal).T).argmin())


def ring(
    path: Path, columns: int, rows: int | Floats, colours: Colours, centre: tuple[float, float] | None = None
) -> Mesh:  # fmt: skip
    """A mesh round a middle: its outer border is the outline, its inner the next contour or a small eye.

    Columns start where the outline is farthest to the right. ``rows`` are so many even ones, or their places (n,) from
    the outline (0) in (1).
    """
    largest = _largest(path)
    outer = clockwise(largest)
    if columns < 3:
        raise MeshError("a ring needs at least three columns")
    measured = ruler(outer)
    if measured.total <= 0:
        raise MeshError("a ring needs an outline that has a length")
    inside = [c for c in path.contours if c is not largest and c.closed and len(c.points) > 6]
    points = measured.at(np.linspace(0, measured.total, 400))[0]
    middle = np.array(centre) if centre is not None else (points.min(axis=0) + points.max(axis=0)) / 2
    start = float(np.linspace(0, measured.total, 400)[int(points[:, 0].argmax())])
    outline = side(measured, start, start + measured.total, columns)
    if inside and centre is None:
        hole = max(inside, key=lambda c: abs(Path((c,)).area()))
        inner_ruler = ruler(clockwise(hole))
        around = inner_ruler.at(np.linspace(0, inner_ruler.total, 400))[0]
        angle = np.arctan2(*(outline[0, 0] - middle)[::-1])
        turns = np.abs(np.angle(np.exp(1j * (np.arctan2(*(around - middle).T[::-1]) - angle))))
        inner_start = float(np.linspace(0, inner_ruler.total, 400)[int(turns.argmin())])
        inner = side(inner_ruler, inner_start, inner_start + inner_ruler.total, columns)
    else:
        inner = middle + (outline - middle) * EYE
    inwards = np.linspace(0, 1, rows + 1) if isinstance(rows, int) else rows
    v = inwards[:, None, None, None]
    rails = outline[None] * (1 - v) + inner[None] * v  # (rows + 1, columns, 4, 2)
    at = rails[:, :, 0]
    handles = np.empty((len(inwards), columns, 4, 2))
    handles[:, :, AFTER_U] = rails[:, :, 1]
    handles[:, :, BEFORE_U] = np.roll(rails[:, :, 2], 1, axis=1)
    thirds = np.diff(inwards, prepend=0.0, append=1.0)[:, None, None] * (at[-1] - at[0]) / 3
    handles[:, :, BEFORE_V], handles[:, :, AFTER_V] = at - thirds[:-1], at + thirds[1:]
    return _coloured(at, handles, colours, True)


def from_linear(gradient: Linear, box: Box, rows: int, colours: Colours, between: int = 1) -> Mesh:
    """A mesh over a box whose columns stand on a linear gradient's stops, ``between`` more from stop to stop."""
    start, end = np.array(gradient.start), np.array(gradient.end)
    d = end - start
    size = float(np.hypot(*d)) or 1.0
    along, across = d / size, np.array([-d[1], d[0]]) / size
    corner = np.array([(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]) - start
    low, high = (corner @ along).min() / size, (corner @ along).max() / size
    stops = [s.at for s in sorted_stops(gradient.stops)]
    inner = sorted({*stops, low, high})
    kept = [t for t in inner if low - 1e-9 <= t <= high + 1e-9]
    spans = [(a, b) for a, b in zip(kept, kept[1:], strict=False) if b - a > 1e-6]
    u = np.concatenate([*(np.linspace(a, b, between + 1, endpoint=False) for a, b in spans), [spans[-1][1]]])
    v = np.linspace((corner @ across).min(), (corner @ across).max(), rows + 1)
    at = start + u[None, :, None] * d + v[:, None, None] * across
    return _creased(_coloured(at, straight_handles(at, False), colours, False))


def from_radial(gradient: Radial, columns: int, colours: Colours) -> Mesh:
    """A ring mesh whose rows stand on a radial gradient's stops, from its circle in to its focus."""
    angle = np.linspace(0, 2 * np.pi, columns, endpoint=False)
    circle = np.stack([np.cos(angle), np.sin(angle)], axis=-1) * gradient.radius
    reach = sorted({1.0, *(s.at for s in sorted_stops(gradient.stops) if s.at > EYE), EYE}, reverse=True)
    centre, focus = np.array(gradient.centre), np.array(gradient.focus)
    k = 4 / 3 * np.tan(np.pi / columns / 2)
    tangent = np.stack([-np.sin(angle), np.cos(angle)], axis=-1) * gradient.radius * k
    rows = [(focus + (centre - focus) * t + circle * t, tangent * t) for t in reach]
    at = np.stack([r[0] for r in rows])
    handles = straight_handles(at, True)
    handles[:, :, BEFORE_U] = at - np.stack([r[1] for r in rows])
    handles[:, :, AFTER_U] = at + np.stack([r[1] for r in rows])
    m = gradient.transform
    at = apply_points(m, at.reshape(-1, 2)).reshape(at.shape)
    return _creased(_coloured(at, apply_points(m, handles.reshape(-1, 2)).reshape(handles.shape), colours, True))


def _creased(mesh: Mesh) -> Mesh:
    """All points creased: between the stops of a gradient colour runs straight, and bends at each."""
    mesh.crease[:] = True
    return mesh


def straight_handles(at: Floats, closes: bool) -> Floats:
    """Handles (rows, columns, 4, 2) on the thirds of straight lines between the points (rows, columns, 2)."""
    handles = np.repeat(at[:, :, None], 4, axis=2)
    after = (np.roll(at, -1, axis=1) - at) / 3
    if not closes:
        after[:, -1] = after[:, -2]
    handles[:, :, AFTER_U] += after
    before = np.roll(after, 1, axis=1)
    if not closes:
        before[:, 0] = after[:, 0]
    handles[:, :, BEFORE_U] -= before
    down = np.diff(at, axis=0) / 3
    handles[:-1, :, AFTER_V] += down
    handles[-1, :, AFTER_V] += down[-1]
    handles[1:, :, BEFORE_V] -= down
    handles[0, :, BEFORE_V] -= down[0]
    return handles


def border_of(path: Path) -> Contour:
    """The contour that a mesh follows: the largest closed one, clockwise. Raises MeshError where there is none."""
    return clockwise(_largest(path))


def _largest(path: Path) -> Contour:
    closed = [c for c in path.contours if c.closed and len(c.points) > 6]
    if not closed:
        raise MeshError("a mesh needs a closed outline")
    return max(closed, key=lambda c: abs(Path((c,)).area()))


def side(measured: Ruler, start: float, end: float, count: int) -> Floats:
    """A run of an outline as ``count`` cubics (count, 4, 2) of the same length, the ends given as distances."""
    knots = np.linspace(start, end, count + 1)
    a, b = knots[:-1], knots[1:]
    points = measured.at(np.mod(np.linspace(a, b, 17, axis=1), measured.total).reshape(-1))[0].reshape(count, 17, 2)
    # Just inside the ends, so that a corner there gives the tangent of its own side.
    inner = np.stack([a + (b - a) * 1e-4, b - (b - a) * 1e-4], axis=1)
    ends = measured.at(np.mod(inner, measured.total).reshape(-1))[1].reshape(count, 2, 2)
    return fit_runs(points, ends[:, 0], -ends[:, 1])


def _coons(top: Floats, bottom: Floats, left: Floats, right: Floats, colours: Colours) -> Mesh:
    """The mesh between four rows of cubics (n, 4, 2): top and bottom to the right, left and right downwards."""
    columns, rows = len(top), len(left)
    u, v = np.linspace(0, 1, columns + 1)[None, :, None], np.linspace(0, 1, rows + 1)[:, None, None]
    (t, dt), (b, db), (l, dl), (r, dr) = (_knots(s) for s in (top, bottom, left, right))
    c00, c10, c01, c11 = t[0], t[-1], b[0], b[-1]
    blend = (1 - u) * (1 - v) * c00 + u * (1 - v) * c10 + (1 - u) * v * c01 + u * v * c11
    at = (1 - v) * t[None] + v * b[None] + (1 - u) * l[:, None] + u * r[:, None] - blend
    du = (1 - v) * dt[None] + v * db[None] + (r - l)[:, None] - ((1 - v) * (c10 - c00) + v * (c11 - c01))
    dv = (b - t)[None] + (1 - u) * dl[:, None] + u * dr[:, None] - ((1 - u) * (c01 - c00) + u * (c11 - c10))
    handles = np.repeat(at[:, :, None], 4, axis=2)
    handles[:, :, BEFORE_U] -= du / (3 * columns)
    handles[:, :, AFTER_U] += du / (3 * columns)
    handles[:, :, BEFORE_V] -= dv / (3 * rows)
    handles[:, :, AFTER_V] += dv / (3 * rows)
    for row, side in ((0, top), (-1, bottom)):  # the border itself follows the outline
        handles[row, :-1, AFTER_U], handles[row, 1:, BEFORE_U] = side[:, 1], side[:, 2]
    for column, side in ((0, left), (-1, right)):
        handles[:-1, column, AFTER_V], handles[1:, column, BEFORE_V] = side[:, 1], side[:, 2]
    return _coloured(at, handles, colours, False)


def _knots(cubics: Floats) -> tuple[Floats, Floats]:
    """Points between cubics (n + 1, 2), and how fast they move as the whole row goes from 0 to 1."""
    points = np.concatenate([cubics[:, 0], cubics[-1:, 3]])
    after, before = cubics[:, 1] - cubics[:, 0], cubics[:, 3] - cubics[:, 2]
    speed = np.concatenate([after[:1], (after[1:] + before[:-1]) / 2, before[-1:]])
    return points, speed * 3 * len(cubics)


def _coloured(at: Floats, handles: Floats, colours: Colours, closes: bool) -> Mesh:
    shape = at.shape[:2]
    rgba = np.asarray(colours(at.reshape(-1, 2)), dtype=np.float64).reshape(*shape, 4)
    return Mesh(at, handles, mixing_of(rgba), np.zeros(shape, bool), np.full((*shape, 4, 3, 4), np.nan), closes)
