"""The letters of a text, each with its part of the outline."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from volumen.caching import Cache
from volumen.geometry.engine import contains
from volumen.geometry.path import Box, Contour, Path
from volumen.geometry.text import Glyph
from volumen.model.nodes import TextForm
from volumen.outline.forms import text_glyphs

_letters: Cache[tuple[Path, ...]] = Cache("letters of texts", 2000)


def letters(form: TextForm, path: Path) -> tuple[Path, ...]:
    """The parts of a text's outline, one a letter; the same parts for the same outline."""
    hit = _letters.get(id(path))
    if hit is None:
        hit = _letters.put(id(path), path, tuple(p for p in parts_by_glyph(path, text_glyphs(form)) if p))
    return hit


def parts_by_glyph(path: Path, glyphs: Sequence[Glyph]) -> list[Path]:
    """The parts of a text's changed outline, each with the glyph that it lies on most; what grew together goes to the
    first of its glyphs."""
    boxes = [g.path().bounds() for g in glyphs]
    rows: list[list[Contour]] = [[] for _ in glyphs]
    alone = [Path((c,)) for c in path.contours]
    for k, contour in enumerate(path.contours):
        outer = _outermost(k, alone)
        box = alone[outer].bounds()
        shares = [_shared(box, other) for other in boxes]
        if shares:
            rows[int(np.argmax(shares))].append(contour)
    return [Path(tuple(r), path.evenodd) for r in rows]


def _outermost(k: int, alone: Sequence[Path]) -> int:
    """The contour that holds another one and is held by none, or itself."""
    x, y = (float(v) for v in alone[k].contours[0].points[0])
    around = [j for j, p in enumerate(alone) if j != k and contains(p, x, y)]
    return max(around, key=lambda j: abs(alone[j].area()), default=k)


def _shared(a: Box | None, b: Box | None) -> float:
    """How far two boxes overlap, or below zero how far they are apart."""
    if a is None or b is None:
        return -1e9
    w, h = min(a[2], b[2]) - max(a[0], b[0]), min(a[3], b[3]) - max(a[1], b[1])
    return w * h if w > 0 and h > 0 else min(w, h)
