"""Editing the points of a path: pure functions from a form to a form.

A place in a form is (run, point). Points keep their handles absolute.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import Literal

import msgspec
import numpy as np

from volumen.geometry.affine import IDENTITY, Affine, Point, apply, invert
from volumen.geometry.curve import split
from volumen.geometry.path import Path
from volumen.geometry.tidy import remove_point, simplify, without_needless_points
from volumen.model.nodes import Document, Node, PathForm, PathPoint, PathRun, Shape
from volumen.model.tree import update_nodes, world_of
from volumen.outline.forms import path_form, source_outline

replace = msgspec.structs.replace
Place = tuple[int, int]
Kind = Literal["corner", "smooth", "symmetric"]


def _with_run(form: PathForm, index: int, run: PathRun | None) -> PathForm:
    runs = list(form.runs)
    if run is None:
        del runs[index]
    else:
        runs[index] = run
    return PathForm(tuple(runs))


def _segment(run: PathRun, index: int) -> np.ndarray[tuple[int, int], np.dtype[np.float64]]:
    """The cubic (4, 2) from a point to the next."""
    a, b = run.points[index], run.points[(index + 1) % len(run.points)]
    return np.array([a.at, a.leave, b.arrive, b.at], dtype=np.float64)


def _pair(p: np.ndarray[tuple[int], np.dtype[np.float64]]) -> Point:
    return (float(p[0]), float(p[1]))


def change(form: PathForm, places: Iterable[Place], edit: Callable[[PathPoint], PathPoint]) -> PathForm:
    """Apply an edit to points."""
    wanted: dict[int, set[int]] = {}
    for r, i in places:
        wanted.setdefault(r, set()).add(i)
    runs = [
        PathRun(tuple(edit(p) if i in wanted[r] else p for i, p in enumerate(run.points)), run.closed)
        if r in wanted
        else run
        for r, run in enumerate(form.runs)
    ]
    return PathForm(tuple(runs))


def shifted(point: PathPoint, dx: float, dy: float) -> PathPoint:
    """A point moved with its handles."""
    (x, y), (ax, ay), (lx, ly) = point.at, point.arrive, point.leave
    return PathPoint((x + dx, y + dy), (ax + dx, ay + dy), (lx + dx, ly + dy), point.smooth)


def move(form: PathForm, places: Iterable[Place], dx: float, dy: float) -> PathForm:
    """Some points, with their handles, moved by (dx, dy)."""
    return change(form, places, lambda p: shifted(p, dx, dy))


def add_point(form: PathForm, run_index: int, place: float) -> tuple[PathForm, Place]:
    """A new point on a run's curve at a place along it, without changing the curve; where it is now."""
    run = form.runs[run_index]
    count = len(run.points) if run.closed else len(run.points) - 1
    i = min(int(place), count - 1)
    t = min(max(place - i, 1e-6), 1 - 1e-6)
    left, right = split(_segment(run, i), t)
    points = list(run.points)
    following = (i + 1) % len(points)
    points[i] = replace(points[i], leave=_pair(left[1]))
    points[following] = replace(points[following], arrive=_pair(right[2]))
    points.insert(i + 1, PathPoint(_pair(left[3]), _pair(left[2]), _pair(right[1]), True))
    return _with_run(form, run_index, PathRun(tuple(points), run.closed)), (run_index, i + 1)


def delete_points(form: PathForm, places: Iterable[Place], keep_curve: bool = True) -> PathForm | None:
    """The form without points, its curve as close as possible to the old one; None if nothing is left."""
    wanted: dict[int, list[int]] = {}
    for r, i in places:
        wanted.setdefault(r, []).append(i)
    runs: list[PathRun] = []
    for r, run in enumerate(form.runs):
        for i in sorted(wanted.get(r, []), reverse=True):
            run = _without(run, i, keep_curve)
        if len(run.points) > 1:
            runs.append(run)
    return PathForm(tuple(runs)) if runs else None


def _without(run: PathRun, i: int, keep_curve: bool) -> PathRun:
    points, n = list(run.points), len(run.points)
    inner = run.closed or 0 < i < n - 1
    if inner and keep_curve and n > 2:
        before, after = (i - 1) % n, (i + 1) % n
        joined = remove_point(_segment(run, before), _segment(run, i))
        points[before] = replace(points[before], leave=_pair(joined[1]))
        points[after] = replace(points[after], arrive=_pair(joined[2]))
    del points[i]
    return PathRun(tuple(points), run.closed and len(points) > 1)


def set_kind(form: PathForm, places: Iterable[Place], kind: Kind) -> PathForm:
    """Make points corners (no handles), smooth (handles in line) or symmetric (handles in line and equal)."""
    chosen = list(places)
    if kind == "corner":
        return change(form, chosen, lambda p: PathPoint(p.at, p.at, p.at))
    for r, i in chosen:
        run = form.runs[r]
        points = list(run.points)
        points[i] = _aligned(run, i, kind == "symmetric")
        form = _with_run(form, r, PathRun(tuple(points), run.closed))
    return form


def _aligned(run: PathRun, i: int, equal: bool) -> PathPoint:
    p, n = run.points[i], len(run.points)
    before = run.points[(i - 1) % n] if run.closed or i > 0 else p
    after = run.points[(i + 1) % n] if run.closed or i < n - 1 else p
    la, ll = math.dist(p.at, p.arrive), math.dist(p.at, p.leave)
    if la > 1e-9 and ll > 1e-9:
        dx, dy = (
            (p.leave[0] - p.at[0]) / ll - (p.arrive[0] - p.at[0]) / la,
            (p.leave[1] - p.at[1]) / ll - (p.arrive[1] - p.at[1]) / la,
        )
    elif ll > 1e-9:
        dx, dy = p.leave[0] - p.at[0], p.leave[1] - p.at[1]
    elif la > 1e-9:
        dx, dy = p.at[0] - p.arrive[0], p.at[1] - p.arrive[1]
    else:
        dx, dy = after.at[0] - before.at[0], after.at[1] - before.at[1]
    size = math.hypot(dx, dy)
    if size < 1e-9:
        return p
    la = la if la > 1e-9 else math.dist(p.at, before.at) / 3
    ll = ll if ll > 1e-9 else math.dist(p.at, after.at) / 3
    if equal:
        la = ll = (la + ll) / 2
    ux, uy = dx / size, dy / size
    x, y = p.at
    return PathPoint(p.at, (x - ux * la, y - uy * la), (x + ux * ll, y + uy * ll), True)


def drag_handle(point: PathPoint, part: str, to: Point, broken: bool) -> PathPoint:
    """A point with one handle moved; the other stays in line unless the point is broken into a corner."""
    smooth = point.smooth and not broken
    other = "leave" if part == "arrive" else "arrive"
    fields: dict[str, object] = {part: to, "smooth": smooth}
    if smooth:
        length = math.dist(getattr(point, other), point.at)
        dx, dy = point.at[0] - to[0], point.at[1] - to[1]
        size = math.hypot(dx, dy)
        if size > 1e-9:
            fields[other] = (point.at[0] + dx / size * length, point.at[1] + dy / size * length)
    return replace(point, **fields)


def drag_segment(form: PathForm, r: int, place: float, dx: float, dy: float) -> PathForm:
    """Bend a segment so that its point at a place moves by (dx, dy); its ends stay.

    Both handles move by the least amount that does it, in proportion to their weight there.
    """
    run = form.runs[r]
    n = len(run.points)
    i = min(int(place), (n if run.closed else n - 1) - 1)
    t = min(max(place - i, 0.05), 0.95)
    w1, w2 = 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t * t
    norm = w1 * w1 + w2 * w2
    a, b = i, (i + 1) % n
    points = list(run.points)
    pa, pb = points[a], points[b]
    points[a] = replace(pa, leave=(pa.leave[0] + dx * w1 / norm, pa.leave[1] + dy * w1 / norm), smooth=False)
    pb = points[b]
    points[b] = replace(pb, arrive=(pb.arrive[0] + dx * w2 / norm, pb.arrive[1] + dy * w2 / norm), smooth=False)
    return _with_run(form, r, PathRun(tuple(points), run.closed))


def break_at(form: PathForm, places: Iterable[Place]) -> PathForm:
    """Cut runs open at points."""
    wanted: dict[int, list[int]] = {}
    for r, i in places:
        wanted.setdefault(r, []).append(i)
    runs: list[PathRun] = []
    for r, run in enumerate(form.runs):
        cuts = sorted(set(wanted.get(r, [])))
        points = run.points
        if cuts and run.closed:
            points = (*points[cuts[0] :], *points[: cuts[0] + 1])
            cuts = [c - cuts[0] for c in cuts[1:]]
        inner = [c for c in cuts if 0 < c < len(points) - 1]
        if r not in wanted:
            runs.append(run)
            continue
        bounds = [0, *inner, len(points) - 1]
        runs += [PathRun(points[a : b + 1], False) for a, b in zip(bounds, bounds[1:], strict=False)]
    return PathForm(tuple(run for run in runs if len(run.points) > 1))


def open_ends(form: PathForm) -> list[Place]:
    """The first two open ends, of one run or of two."""
    ends = [(r, i) for r, run in enumerate(form.runs) if not run.closed for i in (0, len(run.points) - 1)]
    return ends[:2]


def join(form: PathForm, places: Iterable[Place], reach: float = 1e-3) -> PathForm:
    """Join open ends: the two chosen ones, or each open run with itself. Ends within ``reach`` become one point."""
    ends = [(r, i) for r, i in places if not form.runs[r].closed and i in (0, len(form.runs[r].points) - 1)]
    if len(ends) < 2:
        return form
    (r0, i0), (r1, i1) = ends[0], ends[1]
    if r0 == r1:
        return _with_run(form, r0, _closed(form.runs[r0].points, reach))
    first, second = form.runs[r0].points, form.runs[r1].points
    if i0 == 0:
        first = _flipped(first)
    if i1 != 0:
        second = _flipped(second)
    if math.dist(first[-1].at, second[0].at) <= reach:
        merged = PathPoint(first[-1].at, first[-1].arrive, second[0].leave)
        points = (*first[:-1], merged, *second[1:])
    else:
        points = (*first, *second)
    rest = [run for k, run in enumerate(form.runs) if k not in (r0, r1)]
    return PathForm((*rest, PathRun(points, False)))


def _closed(points: tuple[PathPoint, ...], reach: float) -> PathRun:
    if len(points) > 2 and math.dist(points[0].at, points[-1].at) <= reach:
        merged = PathPoint(points[0].at, points[-1].arrive, points[0].leave)
        return PathRun((merged, *points[1:-1]), True)
    return PathRun(points, True)


def _flipped(points: tuple[PathPoint, ...]) -> tuple[PathPoint, ...]:
    return tuple(PathPoint(p.at, p.leave, p.arrive, p.smooth) for p in reversed(points))


def reverse(form: PathForm) -> PathForm:
    """All runs drawn the other way round."""
    return PathForm(tuple(PathRun(_flipped(run.points), run.closed) for run in form.runs))


def start_at(form: PathForm, place: Place) -> PathForm:
    """A closed run that starts at another of its points."""
    r, i = place
    run = form.runs[r]
    if not run.closed:
        return form
    return _with_run(form, r, PathRun((*run.points[i:], *run.points[:i]), True))


def align_points(form: PathForm, places: Iterable[Place], axis: int) -> PathForm:
    """Bring points onto one line: level with each other (axis 1) or one above another (axis 0)."""
    chosen = list(places)
    if not chosen:
        return form
    mean = sum(form.runs[r].points[i].at[axis] for r, i in chosen) / len(chosen)

    def level(p: PathPoint) -> PathPoint:
        by = mean - p.at[axis]
        return shifted(p, by, 0) if axis == 0 else shifted(p, 0, by)

    return change(form, chosen, level)


def average_onto_line(form: PathForm, places: Iterable[Place]) -> PathForm:
    """Bring points onto the straight line that fits them best."""
    chosen = list(places)
    if len(chosen) < 3:
        return form
    at = np.array([form.runs[r].points[i].at for r, i in chosen])
    middle = at.mean(axis=0)
    direction = np.linalg.svd(at - middle)[2][0]

    def onto(p: PathPoint) -> PathPoint:
        q = middle + direction * float((np.array(p.at) - middle) @ direction)
        return shifted(p, float(q[0]) - p.at[0], float(q[1]) - p.at[1])

    return change(form, chosen, onto)


def distribute_points(form: PathForm, places: Iterable[Place], axis: int) -> PathForm:
    """Even out the distances of points along an axis, the outermost two staying."""
    chosen = sorted(places, key=lambda p: form.runs[p[0]].points[p[1]].at[axis])
    if len(chosen) < 3:
        return form
    values = [form.runs[r].points[i].at[axis] for r, i in chosen]
    for n, (r, i) in enumerate(chosen):
        by = values[0] + (values[-1] - values[0]) * n / (len(chosen) - 1) - values[n]
        form = move(form, [(r, i)], by if axis == 0 else 0.0, by if axis == 1 else 0.0)
    return form


def simplified(form: PathForm, tolerance: float) -> PathForm:
    """The form with as few points as its curve needs within ``tolerance``."""
    return path_form(Path(simplify(source_outline(form), tolerance).contours))


def tidied(form: PathForm, tolerance: float = 0.02) -> PathForm:
    """The form without points that its curve does not need."""
    return path_form(Path(without_needless_points(source_outline(form), tolerance).contours))


def count(form: PathForm) -> int:
    """How many points a path has."""
    return sum(len(run.points) for run in form.runs)


def open_run(node: Node) -> PathRun | None:
    """The one open run of a path that is drawn on from; None for other nodes."""
    if not isinstance(node, Shape) or not isinstance(node.form, PathForm) or len(node.form.runs) != 1:
        return None
    run = node.form.runs[0]
    return run if not run.closed and len(run.points) > 1 else None


def points_on_sheet(shape: Shape, world: Affine, reverse: bool) -> list[PathPoint]:
    """The points of an open path on the sheet, ending with the end that is gone on from."""
    run = open_run(shape)
    assert run is not None
    moved = [PathPoint(apply(world, q.at), apply(world, q.arrive), apply(world, q.leave), q.smooth) for q in run.points]
    return list(_flipped(tuple(moved))) if reverse else moved


def with_run(document: Document, node_id: int, run: PathRun) -> Document:
    """A path with new points, given on the sheet."""
    inverse = invert(world_of(document, node_id)) or IDENTITY
    points = tuple(
        PathPoint(apply(inverse, q.at), apply(inverse, q.arrive), apply(inverse, q.leave), q.smooth) for q in run.points
    )
    form = PathForm((PathRun(points, run.closed),))
    return update_nodes(document, [node_id], lambda n: replace(n, form=form) if isinstance(n, Shape) else n)
