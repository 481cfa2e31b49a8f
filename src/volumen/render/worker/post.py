"""Messages to and from another process, each way by a thread of its own: whoever sends or looks never waits.

Two sides that both write into a full pipe, and read only once they have written, would wait for each other for good;
so would one that reads what a stopped process has written half of.
"""

from __future__ import annotations

import os
from contextlib import suppress
from multiprocessing.connection import Connection
from queue import Empty, SimpleQueue
from threading import Thread


class Outbox:
    """Sends in order. What cannot be sent any more, for the other side is gone, is dropped."""

    def __init__(self, connection: Connection) -> None:
        self._queue: SimpleQueue[bytes | None] = SimpleQueue()
        self._thread = Thread(target=self._send_all, args=(connection,), daemon=True, name="volumen-outbox")
        self._thread.start()

    def send(self, message: bytes) -> None:
        """Put a message on its way; returns at once."""
        self._queue.put(message)

    def close(self, seconds: float = 0.5) -> None:
        """Send what is left, for at most some seconds."""
        self._queue.put(None)
        self._thread.join(seconds)

    def _send_all(self, connection: Connection) -> None:
        with suppress(BrokenPipeError, ConnectionResetError, OSError):
            while (message := self._queue.get()) is not None:
                connection.send_bytes(message)


class Inbox:
    """Messages that have arrived whole. Its file descriptor is readable while there are some."""

    def __init__(self, connection: Connection) -> None:
        self._queue: SimpleQueue[bytes] = SimpleQueue()
        self._bell, self._rope = os.pipe()
        os.set_blocking(self._bell, False)
        os.set_blocking(self._rope, False)
        self._thread = Thread(target=self._read_all, args=(connection,), daemon=True, name="volumen-inbox")
        self._thread.start()

    def fileno(self) -> int:
        """What becomes readable when a message has come."""
        return self._bell

    def take(self, timeout: float = 0.0) -> bytes | None:
        """The next message, waiting at most ``timeout`` seconds; None if there is none."""
        with suppress(OSError):
            os.read(self._bell, 4096)  # whoever is called by it takes all there is
        try:
            message = self._queue.get(True, timeout) if timeout > 0 else self._queue.get_nowait()
        except Empty:
            return None
        return message or None

    def close(self, seconds: float = 0.5) -> None:
        """For when the other side is gone: its last message has been read then."""
        self._thread.join(seconds)
        os.close(self._bell)
        self._bell = -1

    def _read_all(self, connection: Connection) -> None:
        with suppress(EOFError, OSError):
            while True:
                self._queue.put(connection.recv_bytes())
                with suppress(BlockingIOError):
                    os.write(self._rope, b".")
        self._queue.put(b"")  # who waits need not wait any longer
        os.close(self._rope)
