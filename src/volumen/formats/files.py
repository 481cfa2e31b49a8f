"""Reading and writing files safely: whole or not at all, and every problem in plain words."""

from __future__ import annotations

import errno
import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO


class FileProblem(ValueError):
    """Something about a file that the artist must know; the message says what, where and what to do."""


_WORDS = {
    errno.ENOSPC: "the disk is full; free some space or choose another folder",
    errno.EDQUOT: "your disk quota is used up; free some space or choose another folder",
    errno.EACCES: "you may not write there; choose another folder",
    errno.EPERM: "you may not write there; choose another folder",
    errno.EROFS: "the disk is read-only; choose another folder",
    errno.ENOENT: "the folder does not exist",
    errno.EISDIR: "that is a folder; choose a file name",
    errno.ENOTDIR: "part of the path is not a folder",
    errno.ENAMETOOLONG: "the file name is too long",
}


def problem(action: str, path: Path, error: OSError) -> FileProblem:
    reason = _WORDS.get(error.errno or 0, error.strerror or str(error))
    return FileProblem(f"cannot {action} '{path}': {reason}")


def write_bytes(path: Path, data: bytes) -> None:
    """Write a whole file, or leave the old one. Raises FileProblem."""

    def write(file: BinaryIO) -> None:
        file.write(data)

    write_atomically(path, write)


def write_atomically(path: Path, write: Callable[[BinaryIO], None]) -> None:
    """Call ``write`` on a new file beside ``path`` and put it in place only when it is complete on disk.

    At any moment ``path`` is either the old file or the new one. Raises FileProblem; then the old file is intact.
    """
    if path.is_dir():
        raise FileProblem(f"cannot write '{path}': that is a folder; choose a file name")
    try:
        handle, name = tempfile.mkstemp(prefix=f".{path.name[:60]}-", suffix=".part", dir=path.parent)
    except OSError as error:
        raise problem("write", path, error) from error
    try:
        with os.fdopen(handle, "wb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(name, path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        os.replace(name, path)
        _sync_folder(path.parent)
    except BaseException as error:
        Path(name).unlink(missing_ok=True)
        if isinstance(error, OSError):
            raise problem("write", path, error) from error
        raise


def _umask() -> int:
    current = os.umask(0)
    os.umask(current)
    return current


def _sync_folder(folder: Path) -> None:
    descriptor = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(descriptor)
    except OSError:
        pass  # some file systems cannot sync a folder; the rename itself is still atomic
    finally:
        os.close(descriptor)
