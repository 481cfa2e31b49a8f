"""A twin of the worker that draws one half of large drafts, where a third processor is free for it.

It is forked from the worker when drafts come late, and so knows all that the worker knows. From then on it is told the
same changes, builds the same pictures and draws the lower part of each draft into the same shared memory.
"""

from __future__ import annotations

import contextlib
import os
import signal
import time
from collections.abc import Callable
from multiprocessing import Pipe
from multiprocessing.connection import Connection

import msgspec

from volumen.render.messages import FrameRequest, Rect, SceneUpdate

_BUSY = 2  # processors that the window and its worker keep busy: with no more a twin would only be in their way
_PATIENCE = 5.0  # seconds, after which the twin is given up
_EVEN = 0.5


def has_room() -> bool:
    """Whether there is a processor left for a twin."""
    return len(os.sched_getaffinity(0)) > _BUSY


class Part(msgspec.Struct, tag="part"):
    """A frame; if it is a draft the twin draws all below ``share`` of its height, ``shrink`` times smaller.

    Of a share of 1 it only takes note, and does not answer.
    """

    frame: FrameRequest
    shrink: int
    share: float


class Drawn(msgspec.Struct):
    """What the twin drew, and the milliseconds of the drawing alone."""

    rects: list[Rect]
    draw_ms: float


_encode = msgspec.msgpack.Encoder().encode
_asked = msgspec.msgpack.Decoder(Part | SceneUpdate).decode
_answered = msgspec.msgpack.Decoder(Drawn).decode


class Twin:
    """The worker's side."""

    def __init__(
        self, update: Callable[[SceneUpdate], None], draw: Callable[[Part], list[Rect]], warm_up: Callable[[], None]
    ) -> None:
        self._share, self._ready = _EVEN, False
        self.connection, other = Pipe()
        self.process = os.fork()
        if not self.process:
            self.connection.close()
            _serve(other, update, draw, warm_up)
        other.close()

    def share(self) -> float:
        """The part of a draft's height that the worker draws itself: all of it until the twin has warmed up."""
        if not self._ready:
            with contextlib.suppress(EOFError, OSError):
                if self.connection.poll(0):
                    self._ready = bool(self.connection.recv_bytes())
        return self._share if self._ready else 1.0

    def tell(self, change: SceneUpdate | Part) -> None:
        with contextlib.suppress(OSError):  # a lost twin is noticed when it does not answer
            self.connection.send_bytes(_encode(change))

    def answer(self, own_ms: float | None) -> list[Rect] | None:
        """What the twin drew; None if it is lost. Work is shared anew by how long both took over a draft."""
        try:
            if not self.connection.poll(_PATIENCE):
                return None
            drawn = _answered(self.connection.recv_bytes())
        except (EOFError, OSError):
            return None
        if drawn.rects and own_ms is not None:
            together = max(own_ms + drawn.draw_ms, 1.0)
            self._share = min(max(self._share + 0.15 * (drawn.draw_ms - own_ms) / together, 0.2), 0.8)
        return drawn.rects

    def end(self) -> None:
        self.connection.close()
        with contextlib.suppress(ProcessLookupError):
            os.kill(self.process, signal.SIGKILL)
        with contextlib.suppress(ChildProcessError):
            os.waitpid(self.process, 0)


def _serve(
    connection: Connection, update: Callable[[SceneUpdate], None], draw: Callable[[Part], list[Rect]],
    warm_up: Callable[[], None],
) -> None:  # fmt: skip
    """The twin's life; it never returns into the worker's own run."""
    try:
        warm_up()
        connection.send_bytes(b"ready")
        while True:
            asked = _asked(connection.recv_bytes())
            if isinstance(asked, SceneUpdate):
                update(asked)
                continue
            start = time.perf_counter()
            rects = draw(asked)
            if asked.share >= 1:
                continue
            connection.send_bytes(_encode(Drawn(rects, (time.perf_counter() - start) * 1e3)))
    finally:  # also when the worker is gone, or a picture cannot be drawn: the worker draws all itself then
        os._exit(0)
