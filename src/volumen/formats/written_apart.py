"""Entry points of processes that write: kept where nothing else has to be loaded to find them."""

from __future__ import annotations

import resource
from contextlib import suppress
from multiprocessing.connection import Connection
from typing import TYPE_CHECKING

from volumen.formats import native
from volumen.formats.files import FileProblem

if TYPE_CHECKING:
    from volumen.formats.outputs import Task

_MOST_MEMORY = 3_000_000_000  # bytes: soft light far and wide can ask for any number


def write_outputs(connection: Connection, document: bytes, tasks: list[Task]) -> None:
    """Write some files of a document. Sends the share that is done, as (words,) how close the vector form comes, and
    at last what went wrong, or nothing."""
    from volumen.formats.outputs import write_all

    try:
        close = write_all(native.decode(document, "artwork"), tasks, lambda v: connection.send(v))
        whose = [f"of {t.path.name} " if len(tasks) > 1 else "" for t in tasks]
        remarks = [f"the vector form {w}differs by {c}" for w, c in zip(whose, close, strict=True) if c]
        if remarks:
            connection.send(("; ".join(remarks),))
        connection.send("")
    except FileProblem as problem:
        connection.send(str(problem))
    except Exception as error:
        connection.send(f"the export failed: {error}")


def make_copies(connection: Connection, document: bytes, branches: bytes) -> None:
    """Send branches of a document as (SVG, PNG), for other programs; nothing if that takes more memory than a copy is
    worth."""
    from volumen.formats.branches import exported

    resource.setrlimit(resource.RLIMIT_DATA, (_MOST_MEMORY, _MOST_MEMORY))
    with suppress(MemoryError, ConnectionError):  # or nobody waits for it any more
        connection.send(exported(native.decode(document, "copy"), native.decode_branches(branches)))
