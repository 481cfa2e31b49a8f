"""Loops compiled when they are first needed, and kept for the next start where something can be kept."""

from __future__ import annotations

import os
import stat
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numba

_told = False
_njit: Any = numba.njit


def compiled(*signature: Any, **options: Any) -> Callable[[Any], Any]:
    """``numba.njit`` with a cache beside the code or in the person's cache folder; where neither can be written, in a
    folder of one's own for temporary files; and where not even that is there, compiled anew with each start."""

    def decorate(function: Any) -> Any:
        try:
            made = _njit(*signature, cache=True, **options)(function)
        except RuntimeError:  # there is no place for a cache
            place = _own_temporary()
            try:
                setattr(numba.config, "CACHE_DIR", str(place or ""))  # noqa: B010  not in its types
                made = _njit(*signature, cache=place is not None, **options)(function)
            except RuntimeError:
                made = _njit(*signature, **options)(function)
            _tell(place)
        return made

    return decorate


def _own_temporary() -> Path | None:
    """A folder that no one else can write into: compiled code is loaded from it."""
    place = Path(tempfile.gettempdir()) / f"volumen-compiled-{os.getuid()}"
    try:
        place.mkdir(mode=0o700, exist_ok=True)
        found = place.lstat()
    except OSError:
        return None
    own = stat.S_ISDIR(found.st_mode) and found.st_uid == os.getuid() and not found.st_mode & 0o077
    return place if own and os.access(place, os.W_OK) else None


def _tell(place: Path | None) -> None:
    global _told
    if not _told:
        _told = True
        where = f"kept in {place}" if place is not None else "compiled anew with each start, which takes a while"
        print(f"volumen: no cache folder can be written, so compiled loops are {where}", file=sys.stderr)
