"""Ends of open paths joined, within a shape or across two, and halves welded into wholes on their axis."""

from __future__ import annotations

import math
from collections.abc import Iterable

import msgspec

from volumen.edit.objects import delete
from volumen.edit.plain_forms import plain_shape
from volumen.geometry.affine import Affine, Point, apply, invert, mean_scale, mirroring, multiply
from volumen.model.nodes import Document, PathForm, PathPoint, PathRun, Shape
from volumen.model.tree import find, update_nodes, world_of

replace = msgspec.structs.replace
NEAR = 1.0  # sheet units within which two ends are one point
_STRAIGHT = 0.999  # cosine of the angle within which two handles run through a point


class CannotJoin(ValueError):
    """Says what is needed."""


def join_ends(document: Document, ids: Iterable[int]) -> tuple[Document, int]:
    """The nearest ends of two open paths joined into one path in the first one's shape, or the ends of one path.

    Ends that lie within ``NEAR`` become one point, others are joined by a straight line; where the far ends meet too
    the path is closed. The id of the shape. Raises CannotJoin.
    """
    shapes = [_open_shape(document, i) for i in ids]
    if len(shapes) == 1:
        shape, run, rest = shapes[0]
        closed = _closed(run, _near(document, shape.id), always=True)
        return _with_runs(document, shape, (*rest, closed)), shape.id
    (first, a, rest), (second, b, others) = shapes[:2]
    back = invert(world_of(document, first.id))
    if back is None:
        raise CannotJoin("one of the paths is squeezed flat")
    place = multiply(back, world_of(document, second.id))
    b = mapped(b, place)
    near = _near(document, first.id)
    joined = _closed(_joined(*_nearest(a, b), near), near)
    document = _with_runs(document, first, (*rest, joined, *(mapped(r, place) for r in others)))
    return delete(document, [second.id]), first.id


def mirror_weld(document: Document, node_id: int) -> tuple[Document, int]:
    """An open half mirrored at the line through its ends and welded there: a closed whole whose middle points lie on
    the axis exactly. Raises CannotJoin."""
    shape, run, rest = _open_shape(document, node_id)
    a, b = run.points[0].at, run.points[-1].at
    if math.dist(a, b) < 1e-9:
        raise CannotJoin("its ends lie on one point: there is no axis between them")
    angle = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    other = turned_round(mapped(run, mirroring(angle, a)))
    middle = [*other.points[1:-1]]
    end, start = _welded(run.points[-1], other.points[0], b), _welded(other.points[-1], run.points[0], a)
    points = (start, *run.points[1:-1], end, *middle)
    return _with_runs(document, shape, (*rest, PathRun(points, True))), shape.id


# -- runs


def mapped(run: PathRun, by: Affine) -> PathRun:
    """A run of points in other coordinates."""
    points = (PathPoint(apply(by, p.at), apply(by, p.arrive), apply(by, p.leave), p.smooth) for p in run.points)
    return replace(run, points=tuple(points))


def turned_round(run: PathRun) -> PathRun:
    """A run from its end to its start."""
    return replace(run, points=tuple(PathPoint(p.at, p.leave, p.arrive, p.smooth) for p in reversed(run.points)))


def _nearest(a: PathRun, b: PathRun) -> tuple[PathRun, PathRun]:
    """Two runs turned so that the nearest of their ends are the first one's last and the second one's first."""
    ways = [(x, y) for x in (a, turned_round(a)) for y in (b, turned_round(b))]
    return min(ways, key=lambda w: math.dist(w[0].points[-1].at, w[1].points[0].at))


def _joined(a: PathRun, b: PathRun, near: float) -> PathRun:
    p, q = a.points[-1], b.points[0]
    if math.dist(p.at, q.at) <= near:
        middle = ((p.at[0] + q.at[0]) / 2, (p.at[1] + q.at[1]) / 2)
        return PathRun((*a.points[:-1], _welded(p, q, middle), *b.points[1:]))
    straight = (replace(p, leave=p.at, smooth=False), replace(q, arrive=q.at, smooth=False))
    return PathRun((*a.points[:-1], *straight, *b.points[1:]))


def _closed(run: PathRun, near: float, always: bool = False) -> PathRun:
    """A run closed if its ends are one point, or ``always``."""
    first, last = run.points[0], run.points[-1]
    if len(run.points) > 2 and math.dist(first.at, last.at) <= near:
        middle = ((first.at[0] + last.at[0]) / 2, (first.at[1] + last.at[1]) / 2)
        return PathRun((_welded(last, first, middle), *run.points[1:-1]), True)
    return replace(run, closed=True) if always and len(run.points) > 1 else run


def _welded(before: PathPoint, after: PathPoint, at: Point) -> PathPoint:
    """One point of two ends: it keeps the arriving handle of one and the leaving handle of the other."""
    arrive = (before.arrive[0] + at[0] - before.at[0], before.arrive[1] + at[1] - before.at[1])
    leave = (after.leave[0] + at[0] - after.at[0], after.leave[1] + at[1] - after.at[1])
    u, v = (at[0] - arrive[0], at[1] - arrive[1]), (leave[0] - at[0], leave[1] - at[1])
    size = math.hypot(*u) * math.hypot(*v)
    return PathPoint(at, arrive, leave, size > 1e-12 and (u[0] * v[0] + u[1] * v[1]) / size > _STRAIGHT)


# -- shapes


def _open_shape(document: Document, node_id: int) -> tuple[Shape, PathRun, tuple[PathRun, ...]]:
    """A shape as plain points, its first open run, and the other runs."""
    node = find(document, node_id)
    if isinstance(node, Shape):
        node = plain_shape(node, world_of(document, node_id))
        assert isinstance(node.form, PathForm)
        runs = node.form.runs
        k = next((k for k, r in enumerate(runs) if not r.closed and len(r.points) > 1), None)
        if k is not None:
            return node, runs[k], (*runs[:k], *runs[k + 1 :])
    raise CannotJoin("select one or two open paths: their ends are joined")


def _near(document: Document, node_id: int) -> float:
    """How far apart two ends may lie and be one point, in the coordinates of a node."""
    return NEAR / (mean_scale(world_of(document, node_id)) or 1.0)


def _with_runs(document: Document, shape: Shape, runs: tuple[PathRun, ...]) -> Document:
    changed = replace(shape, form=PathForm(runs))
    return update_nodes(document, [shape.id], lambda _: changed)
