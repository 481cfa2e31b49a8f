"""The window's side of the worker: start it, send changes and requests, notice when it dies.

Nothing here waits: messages go and come by threads of their own, ``receive`` takes what has arrived. A dead worker
is started anew and gets the whole document again with the next request; the document itself never lived there alone.
"""

from __future__ import annotations

import contextlib
from multiprocessing.shared_memory import SharedMemory

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Affine
from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.processes import started
from volumen.render.worker.messages import (
    Answer,
    FrameRequest,
    ImageRequest,
    PurityRequest,
    Quit,
    SceneUpdate,
    VariantRequest,
    View,
    decode_answer,
    encode,
)
from volumen.render.worker.post import Inbox, Outbox
from volumen.render.worker.process import work
from volumen.render.worker.sync import Sender


class RenderClient:
    """The window's end of the line to the worker: starts it, sends what changed, receives what was drawn."""

    def __init__(self) -> None:
        self._buffer: SharedMemory | None = None
        self.shape = (0, 0)
        self.last_id = 0
        self.restarts = -1
        self.start()

    def start(self) -> None:
        """Start the worker, or start it anew."""
        self.process, self.connection = started(work, name="volumen-render")
        self._outbox, self.inbox = Outbox(self.connection), Inbox(self.connection)
        self.forget()
        self.restarts += 1

    def forget(self) -> None:
        """The worker is taken to know nothing: it is told everything with the next request."""
        self._sender = Sender()
        self._sent: Document | None = None

    @property
    def alive(self) -> bool:
        """Whether the worker runs."""
        return self.process.is_alive()

    def end(self) -> None:
        """End the worker, whatever it does."""
        if self.connection.closed:
            return
        self.process.kill()
        self.process.join(1)
        self._outbox.close(0.2)
        self.inbox.close(0.2)
        self.connection.close()

    def revive(self) -> bool:
        """Restart a dead worker; True if that was needed."""
        if self.alive:
            return False
        self.end()
        self.start()
        return True

    def buffer(self) -> NDArray[np.uint8]:
        """The shared frame (h, w, 4), BGRA premultiplied. Copy from it; do not keep it."""
        assert self._buffer is not None
        return np.ndarray((*self.shape, 4), np.uint8, self._buffer.buf)

    def _fit_buffer(self, width: int, height: int) -> None:
        if self.shape == (height, width) and self._buffer is not None:
            return
        self._free_buffer()
        self._buffer = SharedMemory(create=True, size=max(width * height * 4, 4))
        self.shape = (height, width)

    def _free_buffer(self) -> None:
        if self._buffer is not None:
            self._buffer.close()
            with contextlib.suppress(FileNotFoundError):
                self._buffer.unlink()
            self._buffer = None

    def request_frame(
        self, document: Document, size: tuple[int, int], view: Affine, flat: bool, draft: bool, values: bool = False
    ) -> int:
        """Ask for a frame of (width, height) pixels; the id of the request."""
        self._fit_buffer(*size)
        assert self._buffer is not None
        self.last_id += 1
        request = FrameRequest(self.last_id, self._buffer.name, size[0], size[1], view, flat, draft, values)
        self._send(document, request)
        return self.last_id

    def request_image(
        self, document: Document, nodes: tuple[int, ...], size: tuple[int, int], flat: bool,
        box: Box | None = None, view: View | None = None, other: Document | None = None,
        references: bool = False,
    ) -> int:  # fmt: skip
        """Ask for a picture of some branches, or (for none) of the sheet or a part of it, in at most ``size`` pixels,
        as it is or as a proof; of ``other`` in its place, or of what differs, where there is one."""
        self.last_id += 1
        self._sync(document)
        changes = b"" if other is None else self._sender.fork().changes(other)
        request = ImageRequest(self.last_id, nodes, size[0], size[1], flat, box, view, changes, references)
        self._send(document, request)
        return self.last_id

    def request_variant(
        self, document: Document, variant: Document, box: tuple[float, float, float, float], side: int
    ) -> int:
        """Ask for a part of the sheet, at most ``side`` pixels wide and high, as a variant of the document shows it."""
        self.last_id += 1
        self._sync(document)
        longest = max(box[2] - box[0], box[3] - box[1], 1e-9)
        width, height = (max(round(side * v / longest), 1) for v in (box[2] - box[0], box[3] - box[1]))
        changes = self._sender.fork().changes(variant)
        self._send(document, VariantRequest(self.last_id, changes, box, width, height))
        return self.last_id

    def request_purity(self, document: Document) -> int:
        """Ask what exports would hold, by node; the id of the request."""
        self.last_id += 1
        self._send(document, PurityRequest(self.last_id))
        return self.last_id

    def _sync(self, document: Document) -> None:
        """Let the worker hold this document."""
        if document is not self._sent:
            self._outbox.send(encode(SceneUpdate(self._sender.changes(document))))
            self._sent = document

    def _send(self, document: Document, request: FrameRequest | ImageRequest | VariantRequest | PurityRequest) -> None:
        # A broken pipe is noticed by ``revive``; the caller asks again after it.
        self._sync(document)
        self._outbox.send(encode(request))

    def receive(self, timeout: float = 0.0) -> Answer | None:
        """The next answer, waiting at most ``timeout`` seconds; None if there is none (or the worker is dead)."""
        message = self.inbox.take(timeout)
        if message is None:
            return None
        answer: Answer = decode_answer(message)
        return answer

    def close(self) -> None:
        """End the worker and give its shared memory back."""
        self._outbox.send(encode(Quit()))
        self._outbox.close()
        self.process.join(0.5)
        self.end()
        self._free_buffer()
