"""What the path engine (Skia) does with paths: booleans, stroking, hit tests.

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

from volumen.geometry.affine import Affine, invert, multiply, scaling, translation
from volumen.geometry.curve import evaluate, is_tangle
from volumen.geometry.engine_form import LIMIT, deferred, from_engine, to_engine
from volumen.geometry.path import Contour, Path, in_box, union_box

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
_MOST_VERBS = 30_000


class PathOpError(ValueError):
    """A path operation found no result."""


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
            return deferred(result)
        return from_engine(result).transformed(back)
    raise PathOpError(f"cannot {operation} these two outlines; simplify one of them and try again")


def engine_op(a: Path, b: Path, operation: Operation) -> Path:
    """The engine's first answer, unchecked. Raises RuntimeError when it has none."""
    return from_engine(skia.Op(skia.Path(to_engine(a)), skia.Path(to_engine(b)), _OPS[operation]))


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
    if not math.isfinite(size) or size > LIMIT:
        raise PathOpError("the shapes are too large to combine")
    middle = translation(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2)
    normal = multiply(scaling(500 / size, 500 / size), middle)
    return normal, invert(normal)


def simplified(path: Path) -> Path:
    """The same area without self-crossings, nonzero filled: outer borders run clockwise, holes the other way.

    Tangles stay as they are: the engine would take minutes over them.
    """
    made = _simplify(path)
    return path if made is None else wound(made)


def nonzero(path: Path) -> Path:
    """The same area nonzero filled. An even-odd path without crossings keeps its very points: only contours that run
    the wrong way are turned round."""
    if not path.evenodd:
        return path
    turned, plain = wound(path), simplified(path)
    size = max(abs(plain.area()), 1e-9)
    return turned if abs(abs(turned.area()) - abs(plain.area())) < 1e-4 * size else plain


def _simplify(path: Path) -> Path | None:
    """The engine's path without self-crossings, even-odd filled; None where it finds none or would take minutes.

    Far from zero the engine's float32 coordinates fall together, and it may never end: such paths are moved first.
    """
    box = path.hull()
    if box is None or _tangled(path):
        return None
    try:
        normal, back = _normalising(box)
        if normal is None or back is None:
            return from_engine(skia.Simplify(skia.Path(to_engine(path))))  # a copy: it marks what it was given
        return from_engine(skia.Simplify(to_engine(path.transformed(normal)))).transformed(back)
    except (RuntimeError, PathOpError):
        return None


def wound(path: Path) -> Path:
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
    box = union_box(p.hull() for p in paths)
    normal, back = _normalising(box) if box is not None else (None, None)
    whole = skia.Path()
    whole.setFillType(skia.PathFillType.kWinding)
    for path in paths:
        near = path if normal is None else path.transformed(normal)
        try:
            whole.addPath(to_engine(wound(from_engine(skia.Simplify(skia.Path(to_engine(near)))))))
        except RuntimeError:
            whole.addPath(to_engine(near))
    try:
        made = from_engine(skia.Simplify(whole))
    except RuntimeError as error:
        raise PathOpError("the outlines cannot be united") from error
    return made if back is None else made.transformed(back)


def evenodd_simplified(path: Path) -> Path:
    """The same area without self-crossings, even-odd filled; tangles stay as they are."""
    made = _simplify(path)
    return path if made is None else made


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
            return deferred(out)
    return Path()


def contains(path: Path, x: float, y: float) -> bool:
    return bool(to_engine(path).contains(x, y))


def matrix(m: Affine) -> Any:
    """The engine's matrix for an affine map."""
    a, b, c, d, e, f = m
    return skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1)
