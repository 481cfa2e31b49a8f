"""What is made of outlines is kept while they live; and the part of a place that stretches unevenly."""

from __future__ import annotations

import math
import sys
from collections import OrderedDict
from collections.abc import Callable
from typing import Any, TypeVar

from volumen.geometry.affine import Affine, determinant
from volumen.geometry.path import Path

V = TypeVar("V")
_CACHE_SIZE = 50_000
_LARGE = 64  # smaller ones hold what is dear to make and seldom changes, such as fonts
_all: list[OrderedDict[Any, Any]] = []


def identity_cache() -> OrderedDict[Any, Any]:
    """A cache keyed by identities, known to ``forget_all``."""
    _all.append(OrderedDict())
    return _all[-1]


def forget_all() -> None:
    """Empty all identity caches and the large ones by value, which hold much that is no longer in the document.

    What stays the same needs none of it: its chunks are in the memo of the build.
    """
    for cache in _all:
        cache.clear()
    for name, module in list(sys.modules.items()):
        if name.startswith("volumen."):
            for value in vars(module).values():
                if callable(getattr(value, "cache_clear", None)) and (value.cache_info().maxsize or 0) >= _LARGE:
                    value.cache_clear()


_made: OrderedDict[object, tuple[object, Path]] = identity_cache()


def remember(
    cache: OrderedDict[object, tuple[object, V]], key: object, keep: object, value: V, most: int = _CACHE_SIZE
) -> V:
    """Put a value into one of the identity caches; the oldest goes when it holds more than ``most``."""
    cache[key] = (keep, value)
    if len(cache) > most:
        cache.popitem(last=False)
    return value


def kept(path: Path, what: tuple[object, ...], make: Callable[[], Path]) -> Path:
    """An outline made of another one in the way that ``what`` tells, kept while that lives."""
    key = (*what, id(path))
    hit = _made.get(key)
    return hit[1] if hit is not None else remember(_made, key, path, make())


def uneven(world: Affine) -> Affine | None:
    """How a map stretches unevenly, before it turns what it stretched; None for one that keeps angles.

    The right factor S of the polar decomposition M = R S (S symmetric, R a rotation or mirroring): the square root of
    A = MᵀM, which for 2 x 2 is (A + √det A · 1) / √(tr A + 2 √det A). Turning a thing leaves it as it is.
    """
    a, b, c, d = world[:4]
    size = abs(a) + abs(b) + abs(c) + abs(d)
    even = (abs(a - d) + abs(b + c) <= 1e-7 * size) or (abs(a + d) + abs(b - c) <= 1e-7 * size)
    if even or not math.isfinite(size):
        return None
    xx, xy, yy = a * a + b * b, a * c + b * d, c * c + d * d
    root = abs(determinant(world))
    whole = math.sqrt(xx + yy + 2 * root)
    sxx, sxy, syy = (_rounded(v / whole) for v in (xx + root, xy, yy + root))
    return (sxx, sxy, sxy, syy, 0.0, 0.0)


def _rounded(value: float) -> float:
    """Ten digits: what only turns keeps the very same stretch, whatever the last bits of its sines are."""
    return float(f"{value:.10g}")
