"""Which files are open in a window: two windows on one file know of each other."""

from __future__ import annotations

import hashlib
import os
from contextlib import suppress
from pathlib import Path
from typing import BinaryIO

from volumen.app.engine.folders import state_folder
from volumen.app.engine.recovery import held, let_go


class Claim:
    """Held on one file at a time, for as long as this process lives."""

    def __init__(self) -> None:
        self._lock: BinaryIO | None = None
        self._of: Path | None = None

    def take(self, path: Path | None) -> bool:
        """Let go of the last file and hold this one; False if another window holds it."""
        if path is not None and self._of == path and self._lock is not None:
            return True
        self.release()
        self._of = path
        if path is None:
            return True
        with suppress(OSError):  # without a place for locks, windows do not know of each other
            file = _lock_file(path)
            file.parent.mkdir(parents=True, exist_ok=True)
            self._lock = held(file)
            return self._lock is not None
        return True

    def release(self) -> None:
        if self._lock is not None:
            let_go(self._lock)
            self._lock = None


def held_elsewhere(path: Path) -> bool:
    """Whether another window has a file open."""
    with suppress(OSError):
        file = _lock_file(path)
        if not file.exists():
            return False
        lock = held(file)
        if lock is None:
            return True
        lock.close()
    return False


def _lock_file(path: Path) -> Path:
    key = hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:24]
    return state_folder() / "open" / f"{key}.lock"
