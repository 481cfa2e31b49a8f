"""Messages to another process, sent from a thread of their own: whoever has one to send never waits for the other side.

Two sides that both write into a full pipe, and read only once they have written, would wait for each other for good.
"""

from __future__ import annotations

from contextlib import suppress
from multiprocessing.connection import Connection
from queue import SimpleQueue
from threading import Thread


class Outbox:
    """Sends in order. What cannot be sent any more, for the other side is gone, is dropped."""

    def __init__(self, connection: Connection) -> None:
        self._queue: SimpleQueue[bytes | None] = SimpleQueue()
        self._thread = Thread(target=self._send_all, args=(connection,), daemon=True, name="volumen-outbox")
        self._thread.start()

    def send(self, message: bytes) -> None:
        self._queue.put(message)

    def close(self, seconds: float = 0.5) -> None:
        """Send what is left, for at most some seconds."""
        self._queue.put(None)
        self._thread.join(seconds)

    def _send_all(self, connection: Connection) -> None:
        with suppress(BrokenPipeError, ConnectionResetError, OSError):
            while (message := self._queue.get()) is not None:
                connection.send_bytes(message)
