"""Fill rules: the same area without self-crossings, for the even-odd rule or the nonzero one."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import skia

from volumen.geometry.crossings import is_tangle
from volumen.geometry.curve import evaluate
from volumen.geometry.engine import MOST_VERBS, PathOpError, contains, from_engine, is_tangled, normalising, to_engine
from volumen.geometry.path import Contour, Path, in_box, union_box


def simplified(path: Path) -> Path:
    """The same area without self-crossings, nonzero filled: outer borders run clockwise, holes the other way.

    Tangles stay as they are: the engine would take minutes over them.
    """
    made = _simplify(path)
    return path if made is None else wound(made)


def nonzero(path: Path) -> Path:
    """The same area nonzero filled. An even-odd path without crossings keeps its very points: only contours that run
    the wrong way are turned round. Open contours, as pieces of a line, stay open."""
    if not path.evenodd:
        return path
    opened = tuple(c for c in path.contours if not c.closed)
    if opened:
        around = nonzero(Path(tuple(c for c in path.contours if c.closed), True))
        return Path((*around.contours, *opened))
    turned, plain = wound(path), simplified(path)
    size = max(abs(plain.area()), 1e-9)
    return turned if abs(abs(turned.area()) - abs(plain.area())) < 1e-4 * size else plain


def _simplify(path: Path) -> Path | None:
    """The engine's path without self-crossings, even-odd filled; None where it finds none or would take minutes.

    Far from zero the engine's float32 coordinates fall together, and it may never end: such paths are moved first.
    """
    box = path.hull()
    if box is None or is_tangled(path):
        return None
    try:
        normal, back = normalising(box)
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
    if sum(to_engine(p).countVerbs() for p in paths) > MOST_VERBS or is_tangle(paths, 0.1):
        raise PathOpError("the outlines have too many segments to be united")
    box = union_box(p.hull() for p in paths)
    normal, back = normalising(box) if box is not None else (None, None)
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
