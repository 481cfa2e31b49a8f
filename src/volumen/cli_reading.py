"""Files from elsewhere on the command line: read apart, as in the window, with limits of time and memory."""

from __future__ import annotations

from collections.abc import Callable
from typing import NoReturn, TypeVar

from volumen.formats.apart import Apart
from volumen.formats.files import FileProblem
from volumen.formats.foreign import FileToRead, Result

R = TypeVar("R")


def read_apart(file: FileToRead, kind: type[R], fail: Callable[[str], NoReturn]) -> R:
    """What a file holds; what is wrong with it goes to ``fail``."""
    try:
        found: Result = Apart().read(file)
    except FileProblem as problem:
        fail(str(problem))
    assert isinstance(found, kind)
    return found
