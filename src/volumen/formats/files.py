"""Reading and writing files safely: whole or not at all, and every problem in plain words."""

from __future__ import annotations

import errno
import fcntl
import hashlib
import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import BinaryIO, NamedTuple, TypeVar

import msgspec


class FileProblem(ValueError):
    """Something about a file that the artist must know; the message says what, where and what to do."""


_WORDS = {
    errno.ENOSPC: "the disk is full; free some space or choose another folder",
    errno.EDQUOT: "your disk quota is used up; free some space or choose another folder",
    errno.EACCES: "you may not do that there; choose another folder",
    errno.EPERM: "you may not do that there; choose another folder",
    errno.EROFS: "the disk is read-only; choose another folder",
    errno.ENOENT: "the folder does not exist",
    errno.EISDIR: "that is a folder; choose a file name",
    errno.ENOTDIR: "part of the path is not a folder",
    errno.ENAMETOOLONG: "the file name is too long",
    errno.ELOOP: "its links lead round in a circle",
}


def problem(action: str, path: Path, error: OSError) -> FileProblem:
    """What the system says of a path, in words; ``action`` is the verb that failed."""
    reason = _WORDS.get(error.errno or 0, error.strerror or str(error))
    return FileProblem(f"cannot {action} '{path}': {reason}")


def read_bytes(path: Path, most: int) -> bytes:
    """A whole ordinary file of at most some bytes. Raises FileProblem."""
    with _in_words("open", path):
        if path.is_dir():
            raise FileProblem(f"cannot open '{path}': that is a folder")
        if not path.exists():
            raise FileProblem(f"cannot open '{path}': there is no such file")
        if not path.is_file():
            raise FileProblem(f"cannot open '{path}': that is not an ordinary file")
        if path.stat().st_size > most:
            raise FileProblem(f"'{path.name}' is larger than {most >> 20} MB; it is not opened")
        return path.read_bytes()


@contextmanager
def _in_words(action: str, path: Path) -> Iterator[None]:
    """What the system says of a path, as a FileProblem."""
    try:
        yield
    except OSError as error:
        raise problem(action, path, error) from error
    except FileProblem:
        raise
    except ValueError as error:  # a name that no file can have
        raise FileProblem(f"cannot {action} {str(path)!r}: {error}") from error


T = TypeVar("T")


def decoded(data: bytes, kind: type[T], name: str, what: str) -> T:
    """JSON as a value of some type. Raises FileProblem for all that can be wrong in it, bytes that are no text too."""
    try:
        return msgspec.json.decode(data, type=kind)
    except (msgspec.DecodeError, UnicodeDecodeError, OverflowError, RecursionError) as error:
        raise FileProblem(f"'{name}' holds no {what} that can be read: {error}") from error


class Stamp(NamedTuple):
    """What tells whether a file is still the one that was read or written."""

    inode: int
    size: int
    changed_ns: int


def stamp(path: Path) -> Stamp | None:
    """The stamp of what lies at a path now; None if nothing does."""
    try:
        found = path.stat()
    except OSError:
        return None
    return Stamp(found.st_ino, found.st_size, found.st_mtime_ns)


def digest(path: Path) -> bytes:
    """What tells the content of a file, whenever it was touched; empty where it cannot be read."""
    try:
        with path.open("rb") as file:
            return hashlib.file_digest(file, "blake2b").digest()
    except OSError:
        return b""


def write_bytes(path: Path, data: bytes) -> None:
    """Write a whole file, or leave the old one. Raises FileProblem."""

    def write(file: BinaryIO) -> None:
        file.write(data)

    write_atomically(path, write)


def write_atomically(path: Path, write: Callable[[BinaryIO], None]) -> None:
    """Call ``write`` on a new file beside ``path`` and put it in place only when it is complete on disk.

    At any moment ``path`` is either the old file or the new one; where it is a symbolic link, what that points to is
    written. Raises FileProblem; then the old file is intact.
    """
    with _in_words("write", path):
        target = Path(os.path.realpath(path))
        if target.is_dir():
            raise FileProblem(f"cannot write '{path}': that is a folder; choose a file name")
        if target.exists() and not os.access(target, os.W_OK):
            raise FileProblem(f"cannot write '{path}': the file is write-protected; choose another name")
        remove_left_parts(target)
        handle, name = tempfile.mkstemp(prefix=_part_prefix(target), suffix=".part", dir=target.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            with suppress(OSError):  # held while it is written: what no one holds was left by a crash
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            write(file)
            file.flush()
            os.fsync(file.fileno())
            os.chmod(name, target.stat().st_mode & 0o777 if target.exists() else 0o666 & ~_umask())
            os.replace(name, target)
    except BaseException as error:
        with suppress(OSError):
            Path(name).unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise problem("write", path, error) from error
        raise
    _sync_folder(target.parent)


def remove_left_parts(path: Path) -> None:
    """Remove what a crash left of earlier writings of a file; what is being written is held by its writer."""
    with suppress(OSError):
        for part in path.parent.glob(f"{_glob_escaped(_part_prefix(path))}*.part"):
            with suppress(OSError), part.open("rb") as file:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
                part.unlink()


def _part_prefix(path: Path) -> str:
    return f".{path.name[:24]}-"


def _glob_escaped(text: str) -> str:
    return "".join(f"[{c}]" if c in "*?[" else c for c in text)


def _umask() -> int:
    current = os.umask(0)
    os.umask(current)
    return current


def _sync_folder(folder: Path) -> None:
    """The new file is in place; where a folder cannot be synced, a power cut may bring the old one back whole."""
    with suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
