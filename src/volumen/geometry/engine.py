"""The path engine (Skia): our paths in its form and back, booleans, outlines of lines, hit tests.

Both ways go through the engine's own bytes, a hundred times faster than point by point: four int32 (a mark with the
fill rule, the numbers of points, of conic weights and of verbs), the points and the weights as float32, a byte a verb.

The engine works in float32, so operands of a boolean are moved to their joint centre and scaled to about
500 units first; results come back in float64. A boolean that the engine refuses is retried on simplified
operands and then with one operand shifted by a thousandth of a unit; only if all fail is ``PathOpError``
raised.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, Literal

import numpy as np
import skia
from numpy.typing import NDArray

from volumen.geometry.affine import Affine, Floats, invert, multiply, scaling, translation
from volumen.geometry.crossings import cross_too_often, is_tangle
from volumen.geometry.curve import Ints
from volumen.geometry.path import Box, Contour, Path, line, signed_areas, union_box

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
MOST_VERBS = 30_000


# Beyond this the engine's float32 coordinates lose all detail; farther points are held here.
LIMIT = 1e7
Verbs = NDArray[np.uint8]
_MOVE, _LINE, _QUAD, _CONIC, _CUBIC, _CLOSE = range(6)
_STARTS, _ENDS, _OURS = bytes([_MOVE]), bytes([_CLOSE]), bytes([_MOVE, _CUBIC, _CLOSE])
_TAKES = np.array([1, 1, 2, 2, 3, 0])  # points of each verb
_GIVES = np.array([0, 1, 1, 2, 1, 0])  # cubics of each verb
_SURELY = 8.0  # how much larger than a speck the polygon through a contour's points is, if the contour is none
_FORM, _EVENODD, _KIND = 5, 0x100, 28  # of the mark: its lowest byte, a bit, where the kind of path begins


class PathOpError(ValueError):
    """A path operation found no result."""


# -- our paths and the engine's


def to_engine(path: Path) -> Any:
    """The path in the engine's form; kept with the path, so a second call is free."""
    if path.engine is None:
        if path.make is None:
            path.engine = _written(path)
        else:
            made = path.make()
            # Written in cubics, as it is when it is frozen or exported: the engine flattens those in another way.
            path.engine = _written(Path(made.contours, made.evenodd))
            path.settle(bool(made))
    return path.engine


def _written(path: Path) -> Any:
    points, verbs = [], bytearray()
    for contour in path.contours:
        held = contour.points
        if not len(held):
            continue
        cubics = (len(held) - 1) // 3
        verbs += bytes([_MOVE]) + bytes([_CUBIC]) * cubics
        points.append(held[: 3 * cubics + 1])
        if len(held) == 1:
            verbs.append(_LINE)
            points.append(held)
        if contour.closed:
            verbs.append(_CLOSE)
    whole = points[0] if len(points) == 1 else np.concatenate(points) if points else np.zeros((0, 2))
    if len(whole) and not np.abs(whole).max() < LIMIT:  # also true for what is no number
        whole = np.clip(np.nan_to_num(whole, posinf=LIMIT, neginf=-LIMIT), -LIMIT, LIMIT)
    return _made(whole, np.zeros(0), np.frombuffer(verbs, np.uint8), path.evenodd)


def _made(points: Floats, weights: Floats, verbs: Verbs, evenodd: bool) -> Any:
    """An engine path of points (n, 2), conic weights and verbs."""
    mark = _FORM | (_EVENODD if evenodd else 0)
    head = np.array([mark, len(points), len(weights), len(verbs)], np.int32)
    numbers = points.astype(np.float32).tobytes() + weights.astype(np.float32).tobytes()
    made = skia.Path()
    made.readFromMemory(head.tobytes() + numbers + verbs.tobytes() + bytes(-len(verbs) % 4))
    return made


def from_engine(engine_path: Any) -> Path:
    """Our form of an engine path; lines, quadratics and conics become cubics."""
    return Path(_contours(engine_path), _is_evenodd(engine_path))


def deferred(engine_path: Any) -> Path:
    """A path that stays in the engine's form until its contours are asked for."""
    b = engine_path.getBounds()
    box = None if engine_path.isEmpty() else (b.left(), b.top(), b.right(), b.bottom())
    path = Path.deferred(lambda: _contours(engine_path), box, _is_evenodd(engine_path))
    path.engine = engine_path
    return path


def made_later(make: Callable[[], Path], box: Box) -> Path:
    """An even-odd path that is made when someone first needs it; ``box`` holds it, maybe loosely until then."""
    path = Path.deferred(lambda: _contours(to_engine(path)), box, True)
    path.make = make
    return path


def in_cubics(path: Path) -> Path:
    """The same path drawn by its cubics, as it will be once it is frozen: the engine flattens lines, quadratics and
    conics of its own in another way, which shows in thin shapes."""
    return Path(path.contours, path.evenodd)


def _is_evenodd(engine_path: Any) -> bool:
    return bool(engine_path.getFillType() == skia.PathFillType.kEvenOdd)


def drop_specks(path: Path, min_area: float) -> Path:
    """The path without contours smaller than ``min_area`` square units."""
    if min_area <= 0 or not path:
        return path
    points, weights, verbs = _read(to_engine(path))
    box = path.hull()
    single = verbs.tobytes().count(_MOVE) <= 1
    if len(points) < 2:
        return path
    if single and box is not None and (box[2] - box[0]) * (box[3] - box[1]) > 40 * min_area:
        return path
    large = np.abs(_rough_areas(points, verbs)) > _SURELY * min_area
    if large.all():
        return path
    large[~large] = np.abs(_exact_areas(*_chosen(points, weights, verbs, ~large))) >= min_area
    if large.all():
        return path
    return deferred(_made(*_chosen(points, weights, verbs, large), path.evenodd))


def _chosen(points: Floats, weights: Floats, verbs: Verbs, which: NDArray[np.bool_]) -> tuple[Floats, Floats, Verbs]:
    """Some of the contours (m,) of a path."""
    own = which[np.cumsum(verbs == _MOVE) - 1]  # of each verb
    return points[np.repeat(own, _TAKES[verbs])], weights[own[verbs == _CONIC]], verbs[own]


def _exact_areas(points: Floats, weights: Floats, verbs: Verbs) -> Floats:
    """The signed areas of all contours, 0 for one that draws nothing."""
    starts, segments, firsts, _ = _cubics(points, weights, verbs)
    out = np.zeros((verbs == _MOVE).sum())
    out[_drawn(verbs)] = signed_areas(segments, firsts, starts)
    return out


def _drawn(verbs: Verbs) -> NDArray[np.bool_]:
    """Which contours have segments."""
    gives = np.cumsum(_GIVES[verbs])
    moves = np.flatnonzero(verbs == _MOVE)
    return np.asarray(np.append(gives[moves[1:] - 1], gives[-1:]) > gives[moves])


def _rough_areas(points: Floats, verbs: Verbs) -> Floats:
    """The signed areas of the polygons through all points and handles of each contour."""
    moves = np.flatnonzero(verbs == _MOVE)
    firsts = (np.cumsum(_TAKES[verbs]) - 1)[moves]
    from_start = points - np.repeat(points[firsts], np.diff(firsts, append=len(points)), axis=0)
    x, y = from_start[:, 0], from_start[:, 1]
    turns = x[:-1] * y[1:] - y[:-1] * x[1:]  # nothing from one contour to the next, which begins at 0
    return np.asarray(np.add.reduceat(turns, firsts - (firsts == len(turns)))) / 2


def _read(engine_path: Any) -> tuple[Floats, Floats, Verbs]:
    """Points (n, 2), conic weights and verbs of an engine path."""
    data = np.frombuffer(memoryview(engine_path.serialize()), np.uint8)
    mark, n, conics, verbs = data[:16].view(np.int32).tolist()
    if mark & 0xFF != _FORM:
        raise RuntimeError("this version of the path engine writes its paths in another form")
    if mark >> _KIND & 0xF:  # an oval or a box told by its sides: not once something else is with it
        mixed = skia.Path()
        mixed.moveTo(0, 0).lineTo(0, 0)
        mixed.addPath(engine_path)
        points, weights, kinds = _read(mixed)
        return points[2:], weights, kinds[2:]
    a, b = 16 + 8 * n, 16 + 8 * n + 4 * conics
    points = data[16:a].view(np.float32).reshape(-1, 2).astype(np.float64)
    return points, data[a:b].view(np.float32).astype(np.float64), data[b : b + verbs]


def _cubics(points: Floats, weights: Floats, verbs: Verbs) -> tuple[Floats, Floats, Ints, Ints]:
    """All drawn contours as cubics: where each starts (m, 2), all segments (n, 4, 2), the number of each contour's
    first segment (m,) and whether it is closed (m,)."""
    takes, gives = _TAKES[verbs], _GIVES[verbs]
    at = np.cumsum(takes) - takes  # each verb's first point
    drawn = gives > 0
    kind, at_kind = np.repeat(verbs[drawn], gives[drawn]), np.repeat(at[drawn], gives[drawn])
    segments = _as_cubics(points, weights, kind, at_kind)
    moves = np.flatnonzero(verbs == _MOVE)
    before = np.cumsum(gives) - gives  # segments before each verb
    closed = np.add.reduceat(verbs == _CLOSE, moves) if len(moves) else moves
    some = _drawn(verbs)
    return points[at[moves[some]]], segments, before[moves[some]], closed[some]


def _contours(engine_path: Any) -> tuple[Contour, ...]:
    """The contours of an engine path."""
    points, weights, verbs = _read(engine_path)
    kinds = verbs.tobytes()
    out = []
    if kinds[:1] == _STARTS and not kinds.strip(_OURS):  # cubics only: the points are ours as they are
        at = 0
        for kind in kinds.split(_STARTS)[1:]:
            end = at + 1 + 3 * kind.count(_CUBIC)
            if end > at + 1:
                out.append(_closed_up(points[at:end], kind.endswith(_ENDS)))
            at = end
        return tuple(out)
    _, segments, firsts, closed = _cubics(points, weights, verbs)
    lasts = np.append(firsts[1:], len(segments))[: len(firsts)]
    for first, last, shut in zip(firsts.tolist(), lasts.tolist(), closed.tolist(), strict=True):
        run = segments[first:last]
        out.append(_closed_up(np.concatenate([run[0, :1], run[:, 1:].reshape(-1, 2)]), bool(shut)))
    return tuple(out)


def _as_cubics(points: Floats, weights: Floats, kind: Verbs, at: Ints) -> Floats:
    """Cubics (n, 4, 2) from verbs; ``at`` is the first point after each one's start. A conic comes twice."""
    out = np.empty((len(kind), 4, 2))
    out[:, 0] = points[at - 1]
    k = np.flatnonzero(kind == _CUBIC)
    out[k, 1:] = points[at[k, None] + np.arange(3)]
    k = np.flatnonzero(kind == _LINE)
    if len(k):
        a, b = points[at[k] - 1], points[at[k]]
        out[k, 1:] = np.stack([a + (b - a) / 3, a + (b - a) * 2 / 3, b], axis=1)
    k = np.flatnonzero(kind == _QUAD)
    if len(k):
        a, m, b = points[at[k] - 1], points[at[k]], points[at[k] + 1]
        out[k, 1:] = np.stack([a + (m - a) * 2 / 3, b + (m - b) * 2 / 3, b], axis=1)
    k = np.flatnonzero(kind == _CONIC)[::2]
    if len(k):
        a, m, b = points[at[k] - 1], points[at[k]], points[at[k] + 1]
        first, second = _halves(a, m, b, weights[:, None])
        out[k, 1:], out[k + 1, 0], out[k + 1, 1:] = first, first[:, 2], second
    return out


def _halves(a: Floats, b: Floats, c: Floats, w: Floats) -> tuple[Floats, Floats]:
    """Two cubics (n, 3, 2) for conics of weight w (n, 1): split once, then k = 4w / (3(1 + w)) on each half."""
    left, right = (a + w * b) / (1 + w), (w * b + c) / (1 + w)
    middle = (a + 2 * w * b + c) / (2 * (1 + w))
    half = np.sqrt((1 + w) / 2)
    k = 4 * half / (3 * (1 + half))
    first = np.stack([a + k * (left - a), middle + k * (left - middle), middle], axis=1)
    return first, np.stack([middle + k * (right - middle), c + k * (right - c), c], axis=1)


def _closed_up(points: Floats, closed: bool) -> Contour:
    """A contour; one that is closed ends on its start."""
    if closed and np.abs(points[0] - points[-1]).max() > 1e-7:
        a, b = points[-1], points[0]
        points = np.concatenate([points, line(a, b)[1:]])
    return Contour(points, closed)


# -- operations


def combine(a: Path, b: Path, operation: Operation, move: Affine | None = None) -> Path:
    """The boolean of ``a`` and ``b`` (mapped by ``move`` first); the result is even-odd.

    Raises PathOpError when the engine finds no answer in any of its forms.
    """
    box = union_box([a.hull(), b.hull()])
    if box is None:
        return Path()
    if is_tangled(a) or is_tangled(b) or cross_too_often(a, b, move):
        raise PathOpError(f"cannot {operation} outlines that cross themselves thousands of times")
    normal, back = normalising(box)
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
            return deferred(result)
        return from_engine(result).transformed(back)
    raise PathOpError(f"cannot {operation} these two outlines; simplify one of them and try again")


def engine_op(a: Path, b: Path, operation: Operation) -> Path:
    """The engine's first answer, unchecked. Raises RuntimeError when it has none."""
    return from_engine(skia.Op(skia.Path(to_engine(a)), skia.Path(to_engine(b)), _OPS[operation]))


def is_tangled(path: Path) -> bool:
    """Whether a path is a tangle; found out once."""
    if path.is_tangle is None:
        box = path.hull() or (0, 0, 1, 1)
        path.is_tangle = is_tangle([path], max(box[2] - box[0], box[3] - box[1], 1e-6) / 5000)
    return path.is_tangle


def normalising(box: tuple[float, float, float, float]) -> tuple[Affine | None, Affine | None]:
    """The map to about 500 units around zero, and back; (None, None) where float32 is fine as it is."""
    size = max(box[2] - box[0], box[3] - box[1], 1e-9)
    far = max(abs(v) for v in box)
    if 8 < size < 3000 and far < 3000:
        return None, None
    if not math.isfinite(size) or size > LIMIT:
        raise PathOpError("the shapes are too large to combine")
    middle = translation(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2)
    normal = multiply(scaling(500 / size, 500 / size), middle)
    return normal, invert(normal)


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
        if out.countVerbs() <= MOST_VERBS:
            return deferred(out)
    return Path()


def contains(path: Path, x: float, y: float) -> bool:
    """Whether a point lies inside a path by its fill rule."""
    return bool(to_engine(path).contains(x, y))


def matrix(m: Affine) -> Any:
    """The engine's matrix for an affine map."""
    a, b, c, d, e, f = m
    return skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)
