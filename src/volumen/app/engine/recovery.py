"""What is kept of unsaved and of earlier work, in the person's state folder.

Each window writes its unsaved document to a file of its own, under a name that cannot repeat, and holds a lock beside
it for as long as it lives: a file whose lock no one holds was left behind by a crash, on whatever machine or in
whatever container. What was discarded, recovered or saved over stays for a week, the last ten of each document.
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import shutil
import time
import zipfile
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO
from uuid import uuid4

import msgspec

from volumen.app.engine.folders import state_folder
from volumen.formats import native
from volumen.formats.files import FileProblem, write_bytes
from volumen.model.nodes import Document

KEPT_EACH = 10
KEPT_SECONDS = 7 * 24 * 3600
_MOST_PREVIEW = 4 * 2**20
_YOUNG = 60.0  # seconds in which a window may be about to hold what it has just made
_FICLONE = 0x40049409  # Linux: let two files share their blocks (linux/fs.h)


class About(msgspec.Struct, frozen=True):
    """Whose document a file holds: its name, and where it lies when it has been saved."""

    name: str
    path: str = ""


@dataclass(frozen=True, slots=True)
class Found:
    """A file that can be opened again. ``left`` was left behind by a crash; the others are earlier states."""

    file: Path
    about: About
    written: float  # seconds since 1970
    left: bool

    def preview(self) -> bytes:
        """A PNG, or nothing."""
        with suppress(Exception), zipfile.ZipFile(self.file) as archive:
            if archive.getinfo("preview.png").file_size <= _MOST_PREVIEW:
                return archive.read("preview.png")
        return b""


def folder() -> Path:
    return state_folder() / "recovery"


def kept_folder() -> Path:
    return folder() / "kept"


class Keeper:
    """The recovery file of one window."""

    def __init__(self) -> None:
        self._name = uuid4().hex
        self._lock: BinaryIO | None = None
        self.file: Path | None = None

    def write(self, document: Document, about: About, preview: bytes | None) -> None:
        """Write a document; until the new file is complete the last one stays. Raises FileProblem."""
        target = folder() / f"{self._name}.volumen"
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            if self._lock is None:
                self._lock = held(target.with_suffix(".lock"))
        except OSError as error:
            raise FileProblem(f"cannot write '{target.parent}': {error.strerror or error}") from error
        write_bytes(target.with_suffix(".json"), msgspec.json.encode(about))
        native.save(document, target, preview)
        self.file = target

    def clear(self) -> None:
        """Nothing needs recovery any more; what was there is an earlier state now."""
        if self.file is not None:
            keep(self.file)
            self.file = None

    def close(self) -> None:
        self.clear()
        if self._lock is not None:
            let_go(self._lock)
            self._lock = None


def let_go(lock: BinaryIO) -> None:
    """Give a lock file up, which goes with it."""
    with suppress(OSError):
        Path(lock.name).unlink(missing_ok=True)
    lock.close()


def held(file: Path) -> BinaryIO | None:
    """Hold a lock file; None if another process does. Where a disk knows no locks, no one does."""
    lock = file.open("ab")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        lock.close()
        return None
    except OSError:
        pass
    return lock


def sweep() -> None:
    """Remove what belongs to nothing any more: locks, descriptions and half-written parts of files that are gone. What a
    window holds stays, and so does what is so young that one may be about to."""
    for file in (*_files(folder(), "*.lock"), *_files(folder(), "*.json"), *_files(folder(), ".*.part")):
        with suppress(OSError):
            if file.with_suffix(".volumen").exists() or time.time() - file.stat().st_mtime < _YOUNG:
                continue
            lock = file.with_suffix(".lock")
            holding = held(lock)
            if holding is None:
                continue
            file.unlink(missing_ok=True)
            let_go(holding)
    for place in _files(kept_folder(), "*"):
        for file in _files(place, "*.json"):
            if not file.with_suffix(".volumen").exists():
                with suppress(OSError):
                    file.unlink()
        with suppress(OSError):  # only what is empty goes
            place.rmdir()


def left_behind() -> list[Found]:
    """Unsaved work of windows that are gone, the newest first."""
    sweep()
    out = []
    for file in _files(folder()):
        with suppress(OSError):
            lock = held(file.with_suffix(".lock"))
            if lock is not None:
                lock.close()
                out.append(Found(file, _about(file), file.stat().st_mtime, True))
    return sorted(out, key=lambda f: f.written, reverse=True)


def earlier() -> list[Found]:
    """Earlier states of all documents, the newest first; what is too old goes."""
    out = []
    for row in _files(kept_folder(), "*/*.volumen"):
        with suppress(OSError):
            written = row.stat().st_mtime
            if time.time() - written > KEPT_SECONDS:
                _remove(row)
            else:
                out.append(Found(row, _about(row), written, False))
    return _each_once(sorted(out, key=lambda f: f.written, reverse=True))


def _each_once(found: list[Found]) -> list[Found]:
    """The newest of those states of a document that hold the same."""
    seen: set[object] = set()
    out = []
    for f in found:
        mark = (f.file.parent, _content_of(f.file))
        if mark in seen:
            _remove(f.file)
        else:
            seen.add(mark)
            out.append(f)
    return out


def _content_of(file: Path) -> object:
    """What tells the content of a kept file, its picture left out; for what cannot be read, the file itself."""
    try:
        with zipfile.ZipFile(file) as archive:
            return tuple((i.filename, i.CRC, i.file_size) for i in archive.infolist() if i.filename != "preview.png")
    except (OSError, zipfile.BadZipFile, ValueError):
        return file


def keep(file: Path) -> None:
    """Make a recovery file an earlier state of its document; its lock stays with whoever holds it."""
    with suppress(OSError):
        target = _place(_about(file))
        os.replace(file, target)
        with suppress(OSError):
            os.replace(file.with_suffix(".json"), target.with_suffix(".json"))
        _trim(target.parent)


def keep_left(found: Found) -> None:
    """The same for what was left behind, whose lock no one holds."""
    keep(found.file)
    if not found.file.exists():
        with suppress(OSError):
            found.file.with_suffix(".lock").unlink(missing_ok=True)


def keep_copy(file: Path) -> None:
    """Keep what was just saved as one of the earlier states of its document; no disk is too full for saving."""
    about = About(file.stem, str(file))
    with suppress(OSError, FileProblem):
        target = _place(about)
        _copy(file, target)
        write_bytes(target.with_suffix(".json"), msgspec.json.encode(about))
        _trim(target.parent)


def _copy(file: Path, target: Path) -> None:
    """A file of its own with the same content: other programs may write into the one that was saved. Where the disk can,
    both share their blocks until one is written. Raises OSError; then nothing is left of the copy."""
    try:
        with file.open("rb") as source, target.open("xb") as copy:
            try:
                fcntl.ioctl(copy.fileno(), _FICLONE, source.fileno())
            except OSError:
                shutil.copyfileobj(source, copy, 1 << 20)
    except OSError:
        target.unlink(missing_ok=True)
        raise


def set_aside(file: Path) -> Path:
    """Move what cannot be read out of the way, and say where it is; nothing is deleted."""
    aside = folder() / "unreadable" / file.name
    with suppress(OSError):
        aside.parent.mkdir(parents=True, exist_ok=True)
        os.replace(file, aside)
        return aside
    return file


def _files(place: Path, pattern: str = "*.volumen") -> list[Path]:
    try:
        return list(place.glob(pattern)) if place.is_dir() else []
    except OSError:
        return []


def _about(file: Path) -> About:
    with suppress(OSError, msgspec.DecodeError, UnicodeDecodeError):
        found: About = msgspec.json.decode(file.with_suffix(".json").read_bytes(), type=About)
        return found
    return About(file.stem.rpartition("-")[0] or "recovered")  # as older versions named them


def _place(about: About) -> Path:
    key = hashlib.sha256((about.path or about.name).encode("utf-8", "replace")).hexdigest()[:16]
    place = kept_folder() / key
    place.mkdir(parents=True, exist_ok=True)
    return place / f"{time.strftime('%Y%m%d-%H%M%S')}-{uuid4().hex[:8]}.volumen"


def _trim(place: Path) -> None:
    files = sorted(place.glob("*.volumen"), key=lambda f: f.stat().st_mtime, reverse=True)
    for old in files[KEPT_EACH:]:
        _remove(old)


def _remove(file: Path) -> None:
    for part in (file, file.with_suffix(".json")):
        with suppress(OSError):
            part.unlink(missing_ok=True)
