"""The one place that talks to the path engine (Skia): conversion, booleans, stroking, hit tests.

The engine works in float32, so operands of a boolean are moved to their joint centre and scaled to about
500 units first; results come back in float64. A boolean that the engine refuses is retried on simplified
operands and then with one operand shifted by a thousandth of a unit; only if all fail is ``PathOpError``
raised.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Literal

import numpy as np
import skia

from volumen.geometry.affine import Affine, Floats, invert, multiply, scaling, translation
from volumen.geometry.curve import evaluate, is_tangle
from volumen.geometry.path import Contour, Path, in_box, line, union_box

Operation = Literal["union", "subtract", "intersect", "exclude"]
Cap = Literal["butt", "round", "square"]
Join = Literal["miter", "round", "bevel"]

_OPS = {
    "union": skia.PathOp.kUnion_PathOp,
    "subtract": skia.PathOp.kDifference_PathOp,
    "intersect": skia.PathOp.kIntersect_PathOp,
    "exclude": skia.PathOp.kXOR_PathOp,
}
_CAPS = {"butt": skia.Paint.kButt_Cap, "round": skia.Paint.kRound_Cap, "square": skia.Paint.kSquare_Cap}
_JOINS = {"miter": skia.Paint.kMiter_Join, "round": skia.Paint.kRound_Join, "bevel": skia.Paint.kBevel_Join}
_MOVE, _LINE, _QUAD, _CONIC, _CUBIC, _CLOSE = range(6)
_VERBS = {  # the engine's own values compare slowly
    skia.Path.kMove_Verb: _MOVE, skia.Path.kLine_Verb: _LINE, skia.Path.kQuad_Verb: _QUAD,
    skia.Path.kConic_Verb: _CONIC, skia.Path.kCubic_Verb: _CUBIC, skia.Path.kClose_Verb: _CLOSE,
}  # fmt: skip
# Beyond this the engine's float32 coordinates lose all detail; farther points are held here.
_LIMIT = 1e7
_MOST_VERBS = 30_000


class PathOpError(ValueError):
    """A path operation found no result."""


def to_engine(path: Path) -> Any:
    """The path in the engine's form; kept with the path, so a second call is free."""
    cached = path.memo.get("engine")
    if cached is not None:
        return cached
    out = skia.Path()
    out.setFillType(skia.PathFillType.kEvenOdd if path.evenodd else skia.PathFillType.kWinding)
    for contour in path.contours:
        _add_contour(out, contour)
    path.memo["engine"] = out
    return out


def _add_contour(out: Any, contour: Contour) -> None:
    held = contour.points
    if not len(held):
        return
    if not np.abs(held).max() < _LIMIT:  # also true for what is no number
        held = np.clip(np.nan_to_num(held, posinf=_LIMIT, neginf=-_LIMIT), -_LIMIT, _LIMIT)
    pts = held.tolist()
    out.moveTo(*pts[0])
    cubic = out.cubicTo
    for i in range(1, len(pts) - 2, 3):
        (x1, y1), (x2, y2), (x3, y3) = pts[i : i + 3]
        cubic(x1, y1, x2, y2, x3, y3)
    if contour.closed:
        out.close()
    elif len(pts) == 1:
        out.lineTo(*pts[0])


def from_engine(engine_path: Any) -> Path:
    """Our form of an engine path; lines, quadratics and conics become cubics."""
    return Path(_contours(engine_path), _is_evenodd(engine_path))


def _is_evenodd(engine_path: Any) -> bool:
    return bool(engine_path.getFillType() == skia.PathFillType.kEvenOdd)


def _deferred(engine_path: Any) -> Path:
    """A path that stays in the engine's form until its contours are asked for."""
    b = engine_path.getBounds()
    box = None if engine_path.isEmpty() else (b.left(), b.top(), b.right(), b.bottom())
    path = Path.deferred(lambda: _contours(engine_path), box, _is_evenodd(engine_path))
    path.memo["engine"] = engine_path
    return path


def _contours(engine_path: Any) -> tuple[Contour, ...]:
    verbs = [_VERBS[v] for v in engine_path.getVerbs(engine_path.countVerbs())]
    if _QUAD in verbs or _CONIC in verbs:
        return _contours_by_steps(engine_path)
    found = engine_path.getPoints(engine_path.countPoints())
    points = np.array([(p.fX, p.fY) for p in found], dtype=np.float64).reshape(-1, 2)
    contours: list[Contour] = []
    # ``rows`` are the point numbers of one contour, with two numbers below zero for the handles of a line.
    rows: list[int] = []
    at, closed = 0, False

    def flush() -> None:
        if len(rows) >= 4:
            index = np.array(rows)
            arr = points[index]
            lines = np.nonzero(index == -1)[0]
            if len(lines):
                a, b = arr[lines - 1], arr[lines + 2]
                arr[lines], arr[lines + 1] = a + (b - a) / 3, a + (b - a) * 2 / 3
            contours.append(_closed_up(arr, closed))

    for verb in verbs:
        if verb == _MOVE:
            flush()
            rows, closed = [at], False
            at += 1
        elif verb == _LINE:
            rows += (-1, -2, at)
            at += 1
        elif verb == _CUBIC:
            rows += (at, at + 1, at + 2)
            at += 3
        else:
            closed = True
    flush()
    return tuple(contours)


def _closed_up(points: Floats, closed: bool) -> Contour:
    """A contour; one that is closed ends on its start."""
    if closed and np.abs(points[0] - points[-1]).max() > 1e-7:
        a, b = points[-1], points[0]
        points = np.concatenate([points, line(a, b)[1:]])
    return Contour(points, closed)


def _contours_by_steps(engine_path: Any) -> tuple[Contour, ...]:
    """The slower way, for paths that hold quadratics or conics."""
    contours: list[Contour] = []
    points: list[tuple[float, float]] = []
    closed = False

    def flush() -> None:
        if len(points) >= 4:
            contours.append(_closed_up(np.array(points, dtype=np.float64), closed))

    iterator = skia.Path.Iter(engine_path, False)
    while True:
        verb, pts = iterator.next()
        if verb == skia.Path.kDone_Verb:
            break
        xy = [(p.x(), p.y()) for p in pts]
        if verb == skia.Path.kMove_Verb:
            flush()
            points, closed = [xy[0]], False
        elif verb == skia.Path.kClose_Verb:
            closed = True
        else:
            points.extend(_as_cubics(verb, xy, iterator))
    flush()
    return tuple(contours)


def _as_cubics(verb: Any, p: list[tuple[float, float]], iterator: Any) -> list[tuple[float, float]]:
    def mix(a: tuple[float, float], b: tuple[float, float], t: float) -> tuple[float, float]:
        return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)

    if verb == skia.Path.kLine_Verb:
        return [mix(p[0], p[1], 1 / 3), mix(p[0], p[1], 2 / 3), p[1]]
    if verb == skia.Path.kQuad_Verb:
        return [mix(p[0], p[1], 2 / 3), mix(p[2], p[1], 2 / 3), p[2]]
    if verb == skia.Path.kConic_Verb:
        return _conic_cubics(p[0], p[1], p[2], iterator.conicWeight())
    return p[1:4]


def _conic_cubics(
    p0: tuple[float, float], p1: tuple[float, float], p2: tuple[float, float], w: float
) -> list[tuple[float, float]]:
    """Two cubics for a conic: split once at its middle, then k = 4w / (3(1 + w)) on each half."""
    a, b, c = np.array(p0), np.array(p1), np.array(p2)
    left, right = (a + w * b) / (1 + w), (w * b + c) / (1 + w)
    middle = (a + 2 * w * b + c) / (2 * (1 + w))
    half = math.sqrt((1 + w) / 2)
    k = 4 * half / (3 * (1 + half))
    out: list[tuple[float, float]] = []
    for s, m, e in ((a, left, middle), (middle, right, c)):
        for q in (s + k * (m - s), e + k * (m - e), e):
            out.append((float(q[0]), float(q[1])))
    return out


def combine(a: Path, b: Path, operation: Operation, move: Affine | None = None) -> Path:
    """The boolean of ``a`` and ``b`` (mapped by ``move`` first); the result is even-odd.

    Raises PathOpError when the engine finds no answer in any of its forms.
    """
    box = union_box([a.hull(), b.hull()])
    if box is None:
        return Path()
    if _tangled(a) or _tangled(b):
        raise PathOpError(f"cannot {operation} outlines that cross themselves thousands of times")
    normal, back = _normalising(box)
    if normal is not None:
        # Move in float64, before the engine rounds to float32.
        first = to_engine(a.transformed(normal))
        second = to_engine(b.transformed(multiply(normal, move) if move else normal))
    else:
        first, second = skia.Path(to_engine(a)), skia.Path(to_engine(b))
        if move is not None:
            second.transform(matrix(move))
    for attempt in range(3):
        try:
            if attempt == 1:
                first, second = skia.Simplify(first), skia.Simplify(second)
            if attempt == 2:
                second.offset(1 / 1024, 1 / 2048)
            result = skia.Op(first, second, _OPS[operation])
        except RuntimeError:
            continue
        if back is None:
            return _deferred(result)
        return from_engine(result).transformed(back)
    raise PathOpError(f"cannot {operation} these two outlines; simplify one of them and try again")


def engine_op(a: Path, b: Path, operation: Operation) -> Path:
    """The engine's first answer, unchecked. Raises RuntimeError when it has none."""
    return from_engine(skia.Op(to_engine(a), to_engine(b), _OPS[operation]))


def _tangled(path: Path) -> bool:
    """Whether a path is a tangle; found out once."""
    if "tangle" not in path.memo:
        box = path.hull() or (0, 0, 1, 1)
        path.memo["tangle"] = is_tangle([path], max(box[2] - box[0], box[3] - box[1], 1e-6) / 5000)
    return bool(path.memo["tangle"])


def _normalising(box: tuple[float, float, float, float]) -> tuple[Affine | None, Affine | None]:
    """The map to about 500 units around zero, and back; (None, None) where float32 is fine as it is."""
    size = max(box[2] - box[0], box[3] - box[1], 1e-9)
    far = max(abs(v) for v in box)
    if 8 < size < 3000 and far < 3000:
        return None, None
    if not math.isfinite(size) or size > _LIMIT:
        raise PathOpError("the shapes are too large to combine")
    middle = translation(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2)
    normal = multiply(scaling(500 / size, 500 / size), middle)
    return normal, invert(normal)


def simplified(path: Path) -> Path:
    """The same area without self-crossings, nonzero filled: outer borders run clockwise, holes the other way."""
    try:
        return _wound(from_engine(skia.Simplify(to_engine(path))))
    except RuntimeError:
        return path


def _wound(path: Path) -> Path:
    """An even-odd path without crossings for the nonzero rule: a contour inside an odd number of others is a hole."""
    alone = [Path((c,)) for c in path.contours]
    out = []
    for k, contour in enumerate(path.contours):
        x, y = evaluate(contour.segments[:1], np.array([0.5]))[0].tolist()
        depth = 0
        for j, other in enumerate(alone):
            box = other.hull()
            if j != k and box is not None and in_box(box, x, y):
                depth += contains(other, x, y)
        hole, clockwise = depth % 2 == 1, alone[k].area() > 0
        out.append(contour if clockwise != hole else Contour(contour.points[::-1].copy(), contour.closed))
    return Path(tuple(out))


def united(paths: Sequence[Path]) -> Path:
    """The union of areas by the engine alone, in one go and unchecked: for silhouettes that change as one draws."""
    if sum(to_engine(p).countVerbs() for p in paths) > _MOST_VERBS or is_tangle(paths, 0.1):
        raise PathOpError("the outlines have too many segments to be united")
    whole = skia.Path()
    whole.setFillType(skia.PathFillType.kWinding)
    for path in paths:
        try:
            whole.addPath(to_engine(_wound(from_engine(skia.Simplify(to_engine(path))))))
        except RuntimeError:
            whole.addPath(to_engine(path))
    try:
        return from_engine(skia.Simplify(whole))
    except RuntimeError as error:
        raise PathOpError("the outlines cannot be united") from error


def evenodd_simplified(path: Path) -> Path:
    """The same area without self-crossings, even-odd filled."""
    try:
        return from_engine(skia.Simplify(to_engine(path)))
    except RuntimeError:
        return path


def set_pen(paint: Any, width: float, cap: Cap, join: Join, miter: float) -> None:
    """Make an engine paint draw lines instead of areas."""
    paint.setStyle(skia.Paint.kStroke_Style)
    paint.setStrokeWidth(width)
    paint.setStrokeCap(_CAPS[cap])
    paint.setStrokeJoin(_JOINS[join])
    paint.setStrokeMiter(miter)


def outline_of_line(path: Path, width: float, cap: Cap, join: Join, miter: float, detail: float | None = None) -> Path:
    """The filled outline of a line of ``width`` along ``path``; empty for a line of no width.

    ``detail`` is how many times finer than the path's unit the curves must be.
    """
    if not path or width <= 0:
        return Path()
    paint = skia.Paint()
    set_pen(paint, width, cap, join, miter)
    if detail is None:
        box = path.hull() or (0, 0, 1, 1)
        detail = min(4.0, 8000 / max(box[2] - box[0], box[3] - box[1], width))
    for coarser in (1.0, 0.03, 0.001):  # a line with wild coordinates may need more curves than anyone sees
        out = skia.Path()
        if not paint.getFillPath(to_engine(path), out, None, detail * coarser):
            return Path()
        if out.countVerbs() <= _MOST_VERBS:
            return from_engine(out)
    return Path()


def contains(path: Path, x: float, y: float) -> bool:
    return bool(to_engine(path).contains(x, y))


def drop_specks(path: Path, min_area: float) -> Path:
    """The path without contours smaller than ``min_area`` square units."""
    engine_path = to_engine(path)
    single = engine_path.getVerbs(engine_path.countVerbs()).count(skia.Path.kMove_Verb) <= 1 if path else True
    if min_area <= 0 or (single and (box := path.hull()) and (box[2] - box[0]) * (box[3] - box[1]) > 40 * min_area):
        return path
    kept = tuple(c for c in path.contours if abs(Path((c,)).area()) >= min_area)
    return Path(kept, path.evenodd)


def matrix(m: Affine) -> Any:
    """The engine's matrix for an affine map."""
    a, b, c, d, e, f = m
    return skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)
