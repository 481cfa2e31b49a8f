"""Reading a file in a process of its own, with limits of time and memory: whatever it holds, the program goes on."""

from __future__ import annotations

import importlib
import resource
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.process import BaseProcess

import msgspec

from volumen.formats.files import FileProblem
from volumen.formats.foreign import FileToRead, Refused, Result, read_here
from volumen.processes import end, started

MOST_MEMORY = 1_500_000_000  # bytes
MOST_SECONDS = 60.0
_encode = msgspec.msgpack.Encoder().encode
_decode = msgspec.msgpack.Decoder(Result | Refused).decode


class Cancelled(FileProblem):
    """The person has stopped it."""


def work(connection: Connection) -> None:
    """Entry point of the process: one file is read."""
    importlib.import_module("volumen.formats.svg.read")  # all that reading needs is loaded before memory is limited
    resource.setrlimit(resource.RLIMIT_DATA, (MOST_MEMORY, MOST_MEMORY))
    try:
        file = msgspec.msgpack.decode(connection.recv_bytes(), type=FileToRead)
        answer: Result | Refused = read_here(file)
    except FileProblem as problem:
        answer = Refused(str(problem))
    except (EOFError, OSError):
        return
    try:
        data = _encode(answer)
    except MemoryError:
        data = _encode(Refused("what the file holds needs more memory than reading a file may take"))
    connection.send_bytes(data)


class Apart:
    """Reads files one at a time. ``prepare`` starts the process before it is needed."""

    def __init__(self) -> None:
        self._process: BaseProcess | None = None
        self._connection: Connection | None = None

    def prepare(self) -> None:
        """Start the process that reads, if it is not there yet."""
        if self._process is None or not self._process.is_alive():
            self._process, self._connection = started(work, name="volumen-reader")

    def read(self, file: FileToRead, wait: Callable[[float], bool] | None = None) -> Result:
        """Read a file. ``wait`` passes some seconds and returns False to stop. Raises FileProblem, or Cancelled."""
        self.prepare()
        connection, name = self._connection, file.name or file.path.rpartition("/")[2]
        assert connection is not None
        end = time.monotonic() + MOST_SECONDS
        try:
            connection.send_bytes(_encode(file))
            while not connection.poll(0 if wait else 0.2):
                if wait is not None and not wait(0.02):
                    raise Cancelled(f"'{name}' was not opened: reading it was stopped")
                if time.monotonic() > end:
                    raise FileProblem(f"'{name}' takes over {MOST_SECONDS:.0f} seconds to read; it is not opened")
            answer = _decode(connection.recv_bytes())
        except (EOFError, OSError, msgspec.DecodeError) as error:
            raise FileProblem(
                f"'{name}' could not be read: it needs more than {MOST_MEMORY / 1e9:.1f} GB of memory"
            ) from error
        finally:
            self.close()
        if isinstance(answer, Refused):
            raise FileProblem(answer.message)
        found: Result = answer
        return found

    def close(self) -> None:
        """End the process."""
        if self._process is not None and self._connection is not None:
            end(self._process, self._connection)
        self._process = self._connection = None
