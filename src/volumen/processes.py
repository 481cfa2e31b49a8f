"""Processes of one's own: the worker, readers of foreign files, exports.

The first is started from nothing, which takes seconds of loading. Once ``get_ready`` is through, each is a copy of one
small process that has loaded what they need and does nothing itself: a matter of hundredths of a second. That process
has neither windows nor threads, so a copy of it is clean.
"""

from __future__ import annotations

import multiprocessing
import os
import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess
from threading import Thread
from types import ModuleType
from typing import Any

_LOADED = [
    "volumen.render.worker.service",
    "volumen.render.draft.draw",
    "volumen.formats.svg.read",
    "volumen.formats.outputs",
]
_way = "spawn"


def get_ready() -> None:
    """Start the process that is copied from then on; returns when it has loaded all it needs, some seconds later."""
    global _way
    if _way == "forkserver":
        return
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(_LOADED)
    first = context.Process(target=_nothing, daemon=True)
    with _main_left_alone():
        first.start()  # answers when all is loaded
    first.join()
    _way = "forkserver"


def started(target: Callable[..., None], *args: Any, name: str) -> tuple[BaseProcess, Connection]:
    """A process that runs ``target(connection, *args)``, and our end of its connection. It ends with the program."""
    context = multiprocessing.get_context(_way)
    ours, theirs = context.Pipe()
    process: BaseProcess = context.Process(  # type: ignore[attr-defined]
        target=_run, args=(target, theirs, *args), daemon=True, name=name
    )
    with _main_left_alone():
        process.start()
    theirs.close()
    return process, ours


@contextmanager
def _main_left_alone() -> Iterator[None]:
    """New processes run nothing of the program's main module, which a plain script without a guard would run again."""
    main = sys.modules["__main__"]
    sys.modules["__main__"] = ModuleType("__main__")
    try:
        yield
    finally:
        sys.modules["__main__"] = main


def end(process: BaseProcess, connection: Connection) -> None:
    """End a process at once, whatever it does."""
    process.kill()
    process.join(1)
    connection.close()


def _run(target: Callable[..., None], *args: Any) -> None:
    Thread(target=_end_with_program, daemon=True).start()
    target(*args)


def _end_with_program() -> None:
    """However the program ends, its processes do: they would go on with long work for no one."""
    program = multiprocessing.parent_process()
    if program is not None:
        program.join()
        os.kill(os.getpid(), signal.SIGKILL)


def _nothing() -> None:
    pass
