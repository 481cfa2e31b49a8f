"""Places strewn over an area or along an outline, and numbers out of a seed.

Every number comes from (seed, which one, what for) alone, never from a stream: more places leave the earlier ones
where they are. A place keeps the number of its dart, so what else falls away changes neither it nor its size and turn.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats, Point
from volumen.geometry.curve import ruler
from volumen.geometry.engine import contains
from volumen.geometry.path import Path

_TRIES = 40  # candidates a place that is asked for: the area is then as full as darts make it, within a few percent
_MOST_TRIES = 60_000
_BATCH = 2048


def noise(seed: int, numbers: NDArray[np.int64], what: int) -> Floats:
    """Even numbers in 0..1 for some numbers (n,) and a purpose: splitmix64 (Steele, Lea and Flood 2014)."""
    with np.errstate(over="ignore"):
        z = numbers.astype(np.uint64) * np.uint64(0x9E3779B97F4A7C15)
        z += np.uint64((seed * 0xD1B54A32D192ED03 + what * 0x8CB92BA72F3D8DD7) & 0xFFFFFFFFFFFFFFFF)
        for shift, factor in ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB)):
            z = (z ^ (z >> np.uint64(shift))) * np.uint64(factor)
        z ^= z >> np.uint64(31)
    return np.asarray((z >> np.uint64(11)).astype(np.float64) / 2.0**53)


class Dart(NamedTuple):
    """A place with its number, from 1 on."""

    number: int
    at: Point


def strewn(area: Path, count: int, distance: float, seed: int, taken: Iterable[Point] = ()) -> list[Dart]:
    """Up to ``count`` places inside an area, no two nearer than ``distance``, nor to those ``taken`` before: darts, in
    their order."""
    box = area.bounds()
    if box is None or count <= 0:
        return []
    l, t, r, b = box

    def candidates(first: int, last: int) -> Floats:
        k = np.arange(first, last)
        return np.column_stack([l + noise(seed, k, 1) * (r - l), t + noise(seed, k, 2) * (b - t)])

    return _spaced(candidates, count, distance, taken, lambda x, y: contains(area, x, y))


def strewn_along(outline: Path, count: int, distance: float, seed: int, taken: Iterable[Point] = ()) -> list[Dart]:
    """Up to ``count`` places on an outline, no two nearer than ``distance``, nor to those ``taken`` before."""
    rulers = [ruler(c) for c in outline.contours if len(c.points) > 3]
    ends = np.cumsum([r.total for r in rulers])
    if not rulers or count <= 0 or ends[-1] <= 0:
        return []

    def candidates(first: int, last: int) -> Floats:
        s = noise(seed, np.arange(first, last), 1) * ends[-1]
        which = np.minimum(np.searchsorted(ends, s, side="right"), len(rulers) - 1)
        out = np.zeros((last - first, 2))
        for k, along in enumerate(rulers):
            mine = which == k
            if mine.any():
                out[mine] = along.at(s[mine] - ends[k] + along.total)[0]
        return out

    return _spaced(candidates, count, distance, taken, lambda x, y: True)


def _spaced(
    candidates: Callable[[int, int], Floats], count: int, distance: float, taken: Iterable[Point],
    inside: Callable[[float, float], bool],
) -> list[Dart]:  # fmt: skip
    """The first ``count`` candidates that are inside and far enough from those before them, by a grid of cells."""
    out: list[Dart] = []
    cells: dict[tuple[int, int], list[Point]] = {}
    side = max(distance, 1e-9)
    least = distance * distance
    for x, y in taken:
        cells.setdefault((math.floor(x / side), math.floor(y / side)), []).append((x, y))
    most = min(_TRIES * count + 200, _MOST_TRIES)
    for first in range(0, most, _BATCH):
        for number, (x, y) in enumerate(candidates(first, min(first + _BATCH, most)).tolist(), first + 1):
            i, j = math.floor(x / side), math.floor(y / side)
            if distance > 0 and any(
                (x - p) ** 2 + (y - q) ** 2 < least
                for m in (i - 1, i, i + 1)
                for n in (j - 1, j, j + 1)
                for p, q in cells.get((m, n), ())
            ):
                continue
            if not inside(x, y):
                continue
            out.append(Dart(number, (x, y)))
            cells.setdefault((i, j), []).append((x, y))
            if len(out) == count:
                return out
    return out
