"""Between canvas and worker: at most one frame under way, the newest state next, a refinement at rest."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import QEventLoop, QObject, QSocketNotifier, QTimer, Signal
from PySide6.QtGui import QImage

from volumen.app.engine.faults import log_fault
from volumen.app.engine.worker_watch import WorkerWatch
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.edit.die_lines import following
from volumen.edit.objects import dimmed_around
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import Answer, Failure, FrameAnswer, ImageAnswer, Lost, PurityAnswer, View

GIVEN_UP = (
    "the picture of this artwork cannot be drawn; undo the last step, or hide what was changed. "
    "The artwork is safe and can be saved."
)

REFINE_MS = 90
PURITY_MS = 250
PREVIEW_SIDE = 256
_PREVIEW_MS = 1000  # what a save waits for its picture at most


def png_of(answer: ImageAnswer) -> bytes | None:
    """A picture of the worker as a PNG file; None if it shows nothing."""
    if not answer.width:
        return None
    from volumen.formats.bitmaps import png_bytes  # loaded at the first save, not at the start

    return png_bytes(np.frombuffer(answer.pixels, np.uint8).reshape(answer.height, answer.width, 4))


def image_of(answer: ImageAnswer) -> QImage:
    """A picture of the worker, of its own memory."""
    size = (answer.width, answer.height, answer.width * 4)
    return QImage(answer.pixels, *size, QImage.Format.Format_RGBA8888).copy()


class FrameLink(QObject):
    """``frame_ready`` tells that ``image`` (seen through ``image_view``) has changed."""

    frame_ready = Signal()
    renewed = Signal()  # another worker has taken over: what was asked of the last one must be asked again

    def __init__(self, session: Session, client: RenderClient) -> None:
        super().__init__()
        self.session, self.client = session, client
        self.image = QImage()
        self.image_view: Affine | None = None
        self._wanted: tuple[tuple[int, int], Affine] | None = None
        self._under_way: tuple[int, tuple[int, int], Affine] | None = None
        self._pending = False
        self._pending_draft = True
        self._images: dict[int, Callable[[ImageAnswer], None]] = {}
        self._variants: deque[tuple[Document, Box, int, Callable[[ImageAnswer], None]]] = deque()
        self._seen: tuple[tuple[Any, ...], Document] | None = None
        self._variant: int | None = None  # the one under way
        self._purity_asked: int | None = None
        self._purity_of: Document | None = None  # what it was asked of
        self.times: list[tuple[float, float]] = []
        self._refine = QTimer(self, singleShot=True, interval=REFINE_MS)
        self._refine.timeout.connect(lambda: self._ask(False))
        self.watch = WorkerWatch(self, client)
        self.watch.late.connect(lambda: session.say("the picture takes longer than usual; the artwork is safe"))
        self.watch.ending.connect(self._end)
        self.watch.replaced.connect(self._renew)
        self.watch.given_up.connect(lambda: session.say(GIVEN_UP))
        self._purity = QTimer(self, singleShot=True, interval=PURITY_MS)
        self._purity.timeout.connect(self._ask_purity)
        session.on((News.DOCUMENT,), self._purity.start)
        self._notifier: QSocketNotifier | None = None
        self._listen()
        session.on((News.DOCUMENT, News.LOOK), self.refresh)

    def _end(self) -> None:
        """The worker ends: what was asked of it will not be answered."""
        self._deaf()
        self._under_way, self._variant, self._purity_asked = None, None, None
        self._images.clear()
        self._variants.clear()

    def _deaf(self) -> None:
        if self._notifier is not None:
            self._notifier.setEnabled(False)
            self._notifier.deleteLater()
            self._notifier = None

    def _listen(self) -> None:
        self._deaf()
        self._notifier = QSocketNotifier(self.client.inbox.fileno(), QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._receive)

    def show(self, size: tuple[int, int], view: Affine) -> None:
        """What the canvas shows now, in device pixels."""
        if self._wanted != (size, view):
            self._wanted = (size, view)
            self.refresh()

    def refresh(self) -> None:
        self._refine.stop()
        self._ask(True)

    def _ask(self, draft: bool) -> None:
        if self._wanted is None:
            return
        if self._under_way is not None or not self.watch.may_ask(self.session.document):
            self._pending, self._pending_draft = True, draft
            return
        size, view = self._wanted
        frame = self.client.request_frame(self._shown(), size, view, self.session.flat, draft, self.session.values)
        self._under_way = (frame, size, view)
        self.watch.asked()

    def _shown(self) -> Document:
        """The document as it is looked at; the same object while nothing of that changes."""
        s = self.session
        key = (s.document, s.muted, s.selection if s.muted else (), s.active if s.muted else None, s.isolated)
        if self._seen is None or self._seen[0][0] is not key[0] or self._seen[0][1:] != key[1:]:
            self._seen = (key, self._looked_at())
        return self._seen[1]

    def _looked_at(self) -> Document:
        """With one branch isolated, all else is dimmed; with something muted."""
        document, isolated = self.session.shown, self.session.isolated
        return document if isolated is None else dimmed_around(document, isolated)

    def request_image(
        self, nodes: tuple[int, ...], size: tuple[int, int], flat: bool, done: Callable[[ImageAnswer], None],
        box: Box | None = None, view: View | None = None, other: Document | None = None,
        references: bool = False,
    ) -> None:  # fmt: skip
        """A separate picture of some branches, or of the sheet or a part of it, as it is, as a proof, or of another
        document in its place; ``done`` gets it later."""
        asked = self.client.request_image(self.session.document, nodes, size, flat, box, view, other, references)
        self._images[asked] = done
        self.watch.asked()

    def sheet_png(self) -> bytes | None:
        """A small picture of the sheet, worked out by the worker; None if it takes longer than a moment."""
        if not self.watch.may_ask(self.session.document):
            return None
        loop = QEventLoop()
        got: list[ImageAnswer] = []

        def take(answer: ImageAnswer) -> None:
            got.append(answer)
            loop.quit()

        QTimer.singleShot(_PREVIEW_MS, loop, loop.quit)
        self.request_image((), (PREVIEW_SIDE, PREVIEW_SIDE), False, take)
        loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)
        return png_of(got[0]) if got else None

    def request_variant(self, variant: Document, box: Box, side: int, done: Callable[[ImageAnswer], None]) -> None:
        """A part of the sheet as a variant of the document would show it; ``done`` gets it later. One is under way at
        a time, so that a frame never waits for more than one."""
        self._variants.append((variant, box, side, done))
        self._next_variant()

    def drop_variants(self) -> None:
        """Variants that are not under way yet are not wanted any more."""
        self._variants.clear()

    def _next_variant(self) -> None:
        if self._variant is None and self._variants and self.watch.may_ask(self.session.document):
            variant, box, side, done = self._variants.popleft()
            self._variant = self.client.request_variant(self.session.document, variant, box, side)
            self._images[self._variant] = done
            self.watch.asked()

    def _ask_purity(self) -> None:
        """What exports will hold is worked out by the worker too, and only while the hand rests."""
        if self.session.history.in_gesture or not self.idle:
            self._purity.start()
        else:
            self._purity_of = self.session.document
            self._purity_asked = self.client.request_purity(self._purity_of)
            self.watch.asked()

    def _receive(self) -> None:
        while (answer := self.client.receive()) is not None:
            self._take(answer)
            self.watch.heard(waiting=self.waiting)
        if not self.client.alive:
            self.watch.look()

    def _take(self, answer: Answer) -> None:
        if isinstance(answer, FrameAnswer):
            self._take_frame(answer)
        elif isinstance(answer, ImageAnswer):
            self._take_image(answer.id, answer)
        elif isinstance(answer, PurityAnswer):
            self._purity_asked = None
            self.session.set_purity(answer.nodes)
            if answer.die_line is not None:
                self.session.follow(partial(following, runs=answer.die_line), self._purity_of)
        elif isinstance(answer, Lost):
            log_fault(answer.message)
            self.client.forget()
            self.refresh()
        else:
            self._take_failure(answer)

    def _take_image(self, request: int, answer: ImageAnswer) -> None:
        done = self._images.pop(request, None)
        if request == self._variant:
            self._variant = None
            self._next_variant()
        if done is not None:
            done(answer)

    def _take_failure(self, answer: Failure) -> None:
        log_fault(answer.message)
        self.session.say("a part of the picture could not be drawn: " + answer.message.splitlines()[-1])
        self._take_image(answer.id, ImageAnswer(answer.id, 0, 0, b"", problem="this could not be drawn"))
        if answer.id == self._purity_asked:
            self._purity_asked = None
        if self._under_way and answer.id == self._under_way[0]:
            self._under_way = None
            if self._pending:
                self._pending = False
                self._ask(self._pending_draft)

    def _take_frame(self, answer: FrameAnswer) -> None:
        if self._under_way is None or answer.id != self._under_way[0]:
            return
        _, (width, height), view = self._under_way
        self._under_way = None
        if self.image.width() != width or self.image.height() != height:
            self.image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
            self.image.fill(0)
        shared = self.client.buffer()
        if shared.shape[:2] == (height, width):
            ours = np.ndarray((height, width, 4), np.uint8, self.image.bits())
            for l, t, r, b in answer.rects:
                ours[t:b, l:r] = shared[t:b, l:r]
            self.image_view = view
        self.watch.drawn()
        self.times.append((answer.build_ms, answer.draw_ms))
        del self.times[:-200]
        self.frame_ready.emit()
        if self._pending:
            self._pending = False
            self._ask(self._pending_draft)
        elif answer.rough:
            self._refine.start()

    def _renew(self) -> None:
        """A worker has taken over; it draws the newest state again."""
        self._listen()
        self._pending = False
        self.renewed.emit()
        self.session.say("the picture was drawn anew after a fault; nothing is lost")
        self._ask(False)

    @property
    def waiting(self) -> bool:
        """Whether the worker owes an answer."""
        return self._under_way is not None or bool(self._images) or self._purity_asked is not None

    @property
    def idle(self) -> bool:
        """No frame under way, none pending, none to refine."""
        if self.watch.refused:
            return True
        return self._under_way is None and not self._pending and not self._refine.isActive()

    def close(self) -> None:
        self.watch.stop()
        self._refine.stop()
        self._purity.stop()
        if self._notifier is not None:
            self._notifier.setEnabled(False)
        self.client.close()
