"""The worker process: keeps a copy of the document, draws frames into shared memory, answers."""

from __future__ import annotations

import gc
import signal
import time
import traceback
from contextlib import suppress
from multiprocessing.connection import Connection
from multiprocessing.shared_memory import SharedMemory
from threading import Thread

import cv2
import numpy as np
from msgspec.structs import replace

from volumen.caching import forget_all, give_back
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.devices.die_following import runs_now
from volumen.model.nodes import Document
from volumen.picture.instructions import Picture
from volumen.picture.purity import node_purity
from volumen.render.draft.state import DraftState
from volumen.render.frame import Frame
from volumen.render.raster import paint_area, paint_draft, straight_bytes, view_of
from volumen.render.worker.messages import (
    Answer,
    Failure,
    FrameAnswer,
    FrameRequest,
    ImageAnswer,
    ImageRequest,
    Lost,
    PurityAnswer,
    PurityRequest,
    Quit,
    SceneUpdate,
    VariantRequest,
    decode_request,
    encode,
)
from volumen.render.worker.separate import SeparatePictures
from volumen.render.worker.sync import Receiver

_REST = 0.1  # seconds without a request, after which something may be made ready
_LONG_REST = 4.0  # seconds without a request, after which
_SOME = 30  # changes are reason enough to give back pictures of earlier states, and
_MANY = 300  # all else that was kept of them
_LONG_MS = 25.0  # of drawing without haste: what drafts of such a sheet need is made ready


class Service:
    """The worker's end: keeps a copy of the document and answers requests."""

    def __init__(self, connection: Connection) -> None:
        self.connection = connection
        self.receiver = Receiver()
        self.document = Document()
        self.frame = Frame()
        self.memos = {False: Memo(), True: Memo()}
        self.variants = Memo()
        self.variant_drafts = DraftState(30_000_000)
        self.images: list[ImageRequest] = []  # small pictures that are drawn while nothing else is asked for
        self.others: dict[int, Document] = {}  # what some of them show instead of the artwork
        self.separate = SeparatePictures(self._called)
        self.buffers: dict[str, SharedMemory] = {}
        self.shown: Picture | None = None
        self.loading: Thread | None = None
        self.taken = 0  # changes since everything kept was last given back
        self.tidied = 0  # how many they were when pictures of earlier states last were
        self.cold_ms = 0.0  # what the last frame took without haste, if it took long and nothing was made ready since

    def run(self) -> None:
        """Serve until told to quit or until the window is gone."""
        self.frame.draft.ready = False
        while True:
            try:
                self.draw_images()
                while self.cold_ms and not self.connection.poll(_REST):
                    self.get_ready()
                if self.taken - self.tidied > _SOME and not self.connection.poll(_LONG_REST):
                    with suppress(Exception):  # what could not be given back stays
                        self.tidy()
                request = decode_request(self.connection.recv_bytes())
            except (EOFError, OSError):
                return
            if isinstance(request, Quit):
                return
            if isinstance(request, ImageRequest):
                self.put_by(request)
                continue
            answer = self.served(request)
            if answer is None:
                continue
            try:
                self.connection.send_bytes(encode(answer))
            except (BrokenPipeError, OSError):
                return
            self.get_ready()

    def put_by(self, request: ImageRequest) -> None:
        """Draw a picture later. Another document is told by its changes to the one of now: it is made at once."""
        if request.changes:
            try:
                self.others[request.id] = self.receiver.fork().apply(request.changes)
            except Exception:
                self.connection.send_bytes(encode(Failure(request.id, traceback.format_exc(limit=-6))))
                return
        self.images.append(request)

    def draw_images(self) -> None:
        """Draw the small pictures that are asked for, while nothing else comes: one that is interrupted is drawn anew
        later, one that was asked for several times is drawn once."""
        while self.images and not self._called():
            answer = self.served(self.images[0])
            if answer is None:
                return
            first, waiting = self.images[0], self.images
            same = [r for r in waiting if r is first or (not r.changes and replace(r, id=first.id) == first)]
            self.images = [r for r in waiting if r not in same]
            for request in same:
                self.others.pop(request.id, None)
                self.connection.send_bytes(encode(replace(answer, id=request.id)))

    def _load_drafts(self) -> None:
        """Load the compiled loops of drafts, which takes a second; until then frames are drawn without them."""
        import volumen.render.draft.draw  # noqa: F401

        self.frame.draft.ready = True

    def get_ready(self) -> None:
        """Between two requests: while the hand rests, what drafts of a sheet need is made."""
        if self.shown is not None and self.loading is None:
            self.loading = Thread(target=self._load_drafts, daemon=True)
            self.loading.start()
        with suppress(Exception):  # what cannot be made ready is made when it is asked for
            if self.cold_ms and self.frame.draft.ready and not self.connection.poll(0):
                self.frame.draft.pace.expect(self.cold_ms)
                self.cold_ms = 0.0
                self.warm_up()

    def served(
        self, request: SceneUpdate | FrameRequest | ImageRequest | VariantRequest | PurityRequest
    ) -> Answer | None:
        """What is done for a request; nothing that goes wrong in one takes the worker down."""
        try:
            if not isinstance(request, SceneUpdate):
                return self.answer(request)
            self.take(request)
        except Exception:
            trace = traceback.format_exc(limit=-6)
            if not isinstance(request, SceneUpdate):
                return Failure(request.id, trace)
            self.receiver = Receiver()
            return Lost(trace)
        return None

    def take(self, update: SceneUpdate) -> None:
        """Apply what changed."""
        self.document = self.receiver.apply(update.changes)
        self.taken += 1
        for memo in self.memos.values():
            memo.note(self.receiver.difference)
        self.variants.forget(self.receiver.difference.gone)

    def tidy(self) -> None:
        """After some changes and a rest: give back what was kept of states that are gone. Pictures are much and soon
        drawn again; what else was worked out is little, and the next hand may want it: only after many changes."""
        self.tidied = self.taken
        self.variants = Memo()
        self.variant_drafts.clear()
        self.separate.pictures.clear()
        if self.taken > _MANY:
            self.taken = self.tidied = 0
            forget_all()
        self._keep_what_shows()
        give_back()

    def _keep_what_shows(self) -> None:
        """Of kept pictures of parts only what is asked for by drawing what is shown, in full and as a draft, stays."""
        frame = self.frame
        if self.shown is None or frame.view is None:
            return
        for kept in (frame.soft_kept, frame.draft.kept):
            kept.begin_use()
        area = (0, 0, frame.pixels.shape[1], frame.pixels.shape[0])
        if not paint_area(np.zeros_like(frame.pixels), self.shown, frame.view, area, frame.soft_kept, self._called):
            return
        if frame.draft.ready:
            self.warm_up()
        for kept in (frame.soft_kept, frame.draft.kept):
            kept.forget_unused()

    def _called(self) -> bool:
        return self.connection.poll(0)

    def answer(self, request: FrameRequest | ImageRequest | VariantRequest | PurityRequest) -> Answer | None:
        """The answer to a request; None if it is not to be answered now."""
        if isinstance(request, FrameRequest):
            return self.draw(request)
        if isinstance(request, ImageRequest):
            return self.separate.image(request, self.document, self.others.get(request.id, self.document))
        if isinstance(request, VariantRequest):
            return self.variant(request)
        held = node_purity(build(self.document, memo=self.memos[False], references=True))
        return PurityAnswer(request.id, held, runs_now(self.document))

    def draw(self, request: FrameRequest) -> FrameAnswer:
        """Draw a frame into shared memory."""
        start = time.perf_counter()
        picture = build(self.document, request.flat, self.memos[request.flat], references=True)
        built = time.perf_counter()
        self.frame.draft.pace.built((built - start) * 1e3)
        self.shown = picture
        out = np.ndarray((request.height, request.width, 4), np.uint8, self._buffer(request.buffer).buf)
        rects, rough = self.frame.update(
            picture, request.view, out, request.draft, self.connection.poll, request.values
        )
        draw_ms = (time.perf_counter() - built) * 1e3
        self.cold_ms = draw_ms if draw_ms > _LONG_MS and not request.draft and not rough else 0.0
        return FrameAnswer(request.id, rects, rough, (built - start) * 1e3, draw_ms)

    def warm_up(self) -> None:
        """Draw a draft for no one to see: what the next ones need is then ready."""
        frame = self.frame
        if self.shown is not None and frame.view is not None:
            h, w = frame.pixels.shape[:2]
            frame.draw_draft(self.shown, frame.view, (0, 0, w, h), np.zeros((h, w, 4), np.uint8))
            frame.draft.pace.late = 0  # with nothing ready yet it says little

    def _buffer(self, name: str) -> SharedMemory:
        if name not in self.buffers:
            for old in self.buffers.values():
                old.close()
            self.buffers = {name: SharedMemory(name)}
        return self.buffers[name]

    def variant(self, request: VariantRequest) -> ImageAnswer:
        """What the sheet would show. Variants share a memo: they differ from one another in little."""
        document = self.receiver.fork().apply(request.changes)
        picture = build(document, memo=self.variants)
        view = view_of(request.box, request.width / max(request.box[2] - request.box[0], 1e-9))
        planes = paint_draft(picture, view, (0, 0, request.width, request.height), self.variant_drafts)
        return ImageAnswer(request.id, request.width, request.height, straight_bytes(planes.pixels()).tobytes())


def serve(connection: Connection) -> None:
    """Answer requests until the window is gone."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # The trees hold no cycles: looking for some in the middle of a drag only makes a frame late.
    gc.freeze()
    gc.set_threshold(200_000, 50, 100)
    cv2.setNumThreads(1)  # its idle threads spin, and take the other core from the window
    Service(connection).run()
