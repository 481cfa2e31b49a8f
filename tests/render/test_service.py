"""The worker's side, asked as the window asks it."""

import os
import signal
import subprocess
import sys
import time
from contextlib import contextmanager
from functools import partial
from multiprocessing import Pipe
from multiprocessing.shared_memory import SharedMemory
from pathlib import Path
from threading import Thread

import msgspec
import numpy as np
import pytest

from scenes import disc
from scenes import document as sheet_of
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.model.ingredients import Blur
from volumen.model.make import solid
from volumen.model.nodes import Document, Group
from volumen.outline.alone import branches_alone
from volumen.picture import stopping
from volumen.render import raster
from volumen.render.worker.messages import (
    FrameAnswer,
    FrameRequest,
    ImageRequest,
    Quit,
    SceneUpdate,
    decode_answer,
    encode,
)
from volumen.render.worker.service import Service
from volumen.render.worker.sync import Sender
from volumen.shading.lamp import Lamp

WIDTH, HEIGHT = 400, 300
VIEW = (0.36, 0.0, 0.0, 0.36, 20.0, 5.0)


class Stand:
    """A service with a frame of its own, told and asked as the window does it."""

    def __init__(self, buffer: SharedMemory):
        mine, self.window = Pipe()  # nothing waits in it, so no frame is broken off
        self.service, self.sender, self.buffer, self.count = Service(mine), Sender(), buffer, 0

    def request(self, draft: bool, flat: bool = False) -> FrameRequest:
        self.count += 1
        return FrameRequest(self.count, self.buffer.name, WIDTH, HEIGHT, VIEW, flat, draft)

    def show(self, document: Document, draft: bool, flat: bool = False) -> FrameAnswer:
        self.service.take(SceneUpdate(self.sender.changes(document)))
        return self.service.draw(self.request(draft, flat))

    def pixels(self) -> np.ndarray:
        return np.ndarray((HEIGHT, WIDTH, 4), np.uint8, self.buffer.buf).copy()


@contextmanager
def stand():
    buffer = SharedMemory(create=True, size=WIDTH * HEIGHT * 4)
    made = Stand(buffer)
    try:
        yield made
    finally:
        for known in made.service.buffers.values():
            known.close()
        buffer.close()
        buffer.unlink()


def turned(document: Document, by: float) -> Document:
    lamp = msgspec.structs.replace(document.lamp, bearing=document.lamp.bearing + by)
    return msgspec.structs.replace(document, lamp=lamp)


def test_what_is_made_ready_is_what_was_shown():
    """A flat picture has more chunks than a lit one whose group is blurred: drawn ahead must be the one on the canvas."""
    parts = tuple(disc(k, 100 + 60 * k, 200, 25, solid("#2b8577")) for k in range(1, 6))
    blurred = sheet_of(Group(9, "blurred", parts, (Blur(4.0),)))
    with stand() as s:
        s.show(blurred, False, flat=True)
        s.service.warm_up()
        assert len(s.service.frame.chunks) == 5
        s.show(blurred, False)
        s.service.warm_up()
        assert len(s.service.frame.chunks) == 1


def test_frames_are_drawn_in_full_until_the_loops_of_drafts_are_loaded():
    document = DEMOS["ferry"][1]()
    with stand() as s:
        s.show(document, False)
        s.service.frame.draft.ready = False
        in_full = s.show(turned(document, 40.0), True)
        assert in_full.rects and s.service.frame.owed is None
        exact = s.pixels()
        s.service.frame.draft.ready = True
        s.show(document, False)
        draft = s.show(turned(document, 40.0), True)
        assert draft.rough
        off = np.abs(s.pixels().astype(int) - exact).max(axis=2)
        assert 0 < off.mean() < 4, "a draft, of the same picture"
        while s.show(turned(document, 40.0), False).rough:
            pass
        assert np.array_equal(s.pixels(), exact)


def test_a_running_worker_answers_and_gets_ready_for_drafts():
    document = DEMOS["seaglass"][1]()
    with stand() as s:
        worker = Thread(target=s.service.run, daemon=True)
        worker.start()
        s.window.send_bytes(encode(SceneUpdate(s.sender.changes(document))))
        s.window.send_bytes(encode(s.request(False)))
        assert s.window.poll(30) and isinstance(decode_answer(s.window.recv_bytes()), FrameAnswer)
        end = time.monotonic() + 60
        while not s.service.frame.draft.ready and time.monotonic() < end:
            time.sleep(0.01)
        assert s.service.frame.draft.ready, "the loops are loaded after the first frame"
        s.window.send_bytes(encode(SceneUpdate(s.sender.changes(turned(document, 30.0)))))
        s.window.send_bytes(encode(s.request(True)))
        assert s.window.poll(30) and decode_answer(s.window.recv_bytes()).rough
        s.window.send_bytes(encode(Quit()))
        worker.join(30)
        assert not worker.is_alive()


def test_frames_come_before_small_pictures_and_what_was_interrupted_is_drawn_after_them():
    document = DEMOS["ferry"][1]()
    node = document.root.children[0].id
    with stand() as s:
        s.service.take(SceneUpdate(s.sender.changes(document)))
        asked = [ImageRequest(k, (node,), 60, 60, False) for k in (11, 12)] + [ImageRequest(13, (), 80, 60, False)]
        for message in (*asked, s.request(False)):
            s.window.send_bytes(encode(message))
        serving = Thread(target=s.service.run)
        serving.start()
        answers = [decode_answer(s.window.recv_bytes()) for _ in range(4)]
        s.window.send_bytes(encode(Quit()))
        serving.join()
        assert [a.id for a in answers] == [1, 11, 12, 13]
        assert answers[1].pixels == answers[2].pixels != b""


def test_another_document_is_the_one_that_was_meant_when_it_was_asked_for():
    """A comparison waits while edits go on: it is told by changes to the state of then, which those would not fit."""
    document = sheet_of(Group(9, "pair", (disc(1, 100, 100, 60, solid("#c8402a")), disc(2, 300, 200, 60))))
    blue = sheet_of(Group(9, "pair", (disc(1, 100, 100, 60, solid("#204080")), disc(2, 300, 200, 60))))
    with stand() as s:
        s.service.take(SceneUpdate(s.sender.changes(document)))
        asked = ImageRequest(5, (), 80, 60, False, changes=s.sender.fork().changes(blue))
        gone = SceneUpdate(s.sender.changes(sheet_of(disc(7, 50, 50, 9))))
        for message in (asked, gone, s.request(False)):
            s.window.send_bytes(encode(message))
        serving = Thread(target=s.service.run)
        serving.start()
        answers = [decode_answer(s.window.recv_bytes()) for _ in range(2)]
        s.window.send_bytes(encode(Quit()))
        serving.join()
        picture = answers[1]
        pixels = np.frombuffer(picture.pixels, np.uint8).reshape(picture.height, picture.width, 4).astype(int)
        assert picture.id == 5 and (pixels[..., 2] - pixels[..., 0] > 60).sum() > 50, "the blue disc of then"


def test_drawing_can_be_ended_within_one_group(monkeypatch):
    monkeypatch.setattr(stopping, "SELDOM", 0.0)
    parts = tuple(disc(k, 100 + 60 * k, 200, 25, solid("#2b8577")) for k in range(1, 6))
    picture = build(sheet_of(Group(9, "blurred", parts, (Blur(4.0),))))
    asked = []
    drawn = partial(raster.paint_area, np.zeros((300, 400, 4), np.float32), picture, VIEW, (0, 0, 400, 300))
    assert drawn(stop=lambda: bool(asked.append(1))) and len(asked) == 6  # the layer and each disc in it
    asked.clear()
    assert not drawn(stop=lambda: len(asked) == 3 or bool(asked.append(1)))
    with pytest.raises(stopping.Stopped):
        build(sheet_of(Group(9, "blurred", parts)), stop=lambda: True)


def test_a_branch_alone_is_lit_as_where_it_stands():
    """The nearest lamp of its own, or unlit place, of what encloses it goes with it."""
    lamp = Lamp(10.0, 40.0)
    inner = Group(2, "inner", (disc(1, 50, 50, 20),))
    for outer, wanted in ((Group(3, "outer", (inner,), own_lamp=lamp), (lamp, False)),
                          (Group(3, "outer", (inner,), unlit=True), (None, True)),
                          (Group(3, "outer", (inner,)), (None, False))):  # fmt: skip
        shown, box = branches_alone(sheet_of(outer), (1,))
        (holder,) = shown.root.children
        assert (holder.own_lamp, holder.unlit) == wanted and [n.id for n in holder.children] == [1]
        assert box[0] <= 30 and box[2] >= 70
    assert branches_alone(sheet_of(inner), (99,)) is None


_WINDOW = """
import sys, time
from volumen.model.ingredients import Body, Sliver
from volumen.model.nodes import Document, Group, Shape, TextForm
from volumen.model.repeats import Ring
from volumen.processes import get_ready
from volumen.render.worker.client import RenderClient
if __name__ == "__main__":
    if sys.argv[1] == "a copy":
        get_ready()
    client = RenderClient()
    client.request_image(Document(), (), (8, 8), False)
    assert client.receive(60) is not None
    word = Shape(1, "word", TextForm("KELDER SOUND"), (Body("cushion"), Sliver("shade", "inset")))
    long = Document(root=Group(0, "pile", (Group(2, "ring", (word,), (Ring((0.0, 900.0), 2000),)),)), next_id=3)
    client.request_frame(long, (400, 400), (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), False, False)
    print(client.process.pid, flush=True)
    time.sleep(60)
"""


@pytest.mark.parametrize("way", ["a copy", "from nothing"])
def test_a_worker_ends_with_its_window_in_the_midst_of_a_long_picture(tmp_path, way):
    """Composing this one takes half a minute and is not interrupted."""
    script = tmp_path / "window.py"
    script.write_text(_WINDOW)
    window = subprocess.Popen([sys.executable, str(script), way], stdout=subprocess.PIPE, text=True)
    assert window.stdout is not None
    worker = int(window.stdout.readline())
    time.sleep(1.5)  # it is at work then
    window.kill()
    window.wait()
    window.stdout.close()
    end = time.monotonic() + 3
    while time.monotonic() < end and _lives(worker):
        time.sleep(0.02)
    left = _lives(worker)
    if left:
        os.kill(worker, signal.SIGKILL)
    assert not left


def _lives(pid: int) -> bool:
    try:
        state = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0]
    except OSError:
        return False
    return state != "Z"  # one that nobody has asked about yet
