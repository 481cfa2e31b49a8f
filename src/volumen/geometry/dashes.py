"""Dashes: the pieces of a line that its pattern leaves."""

from __future__ import annotations

import numpy as np

from volumen.geometry.curve import ruler, span
from volumen.geometry.path import Contour, Path

_MOST = 20_000


def dashed(path: Path, pattern: tuple[float, ...], start: float = 0.0) -> Path:
    """Open contours where the pattern (dash, gap, dash, gap, ... in units) is drawn.

    An odd pattern is repeated once, as in SVG. A pattern without length leaves the path as it is.
    """
    pattern = tuple(max(p, 0.0) for p in pattern)
    if len(pattern) % 2:
        pattern += pattern
    cycle = sum(pattern)
    if cycle <= 1e-6:
        return path
    out: list[Contour] = []
    for contour in path.contours:
        if len(contour.points) > 3:
            out.extend(_pieces(contour, pattern, cycle, start))
    return Path(tuple(out))


def _pieces(contour: Contour, pattern: tuple[float, ...], cycle: float, start: float) -> list[Contour]:
    measure = ruler(contour)
    total = measure.total
    if total / cycle * len(pattern) > _MOST:
        return [contour]
    out: list[Contour] = []
    at = -(start % cycle)
    while at < total:
        for k in range(0, len(pattern), 2):
            a, b = max(at, 0.0), min(at + pattern[k], total)
            if b > a:
                p, q = measure.place_at(np.array([a, b]))
                out.append(Contour(span(contour, float(p), float(q)), False))
            at += pattern[k] + pattern[k + 1]
    # On a closed line a dash that reaches the end goes on in the one at the start.
    if contour.closed and len(out) > 1 and _touch(out[-1], contour, -1) and _touch(out[0], contour, 0):
        joined = np.concatenate([out[-1].points, out[0].points[1:]])
        out = [Contour(joined, False), *out[1:-1]]
    return out


def _touch(piece: Contour, contour: Contour, end: int) -> bool:
    return bool(np.abs(piece.points[end] - contour.points[0]).max() < 1e-6)
