"""Outlines made of other outlines, kept while those live."""

from __future__ import annotations

from collections.abc import Callable

from volumen.caching import Cache
from volumen.geometry.path import Path

_derived: Cache[Path] = Cache("outlines made of outlines")


def derived(path: Path, what: tuple[object, ...], make: Callable[[], Path]) -> Path:
    """An outline made of another one in the way that ``what`` tells, made once."""
    key = (*what, id(path))
    hit = _derived.get(key)
    return hit if hit is not None else _derived.put(key, path, make())
