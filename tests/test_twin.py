"""Two processes that share a draft show what one would, and one goes on when the other is lost."""

import os
import signal
from contextlib import contextmanager
from multiprocessing import Pipe
from multiprocessing.shared_memory import SharedMemory

import msgspec
import numpy as np
import pytest

from scenes import disc
from scenes import document as sheet_of
from volumen.demo import DEMOS
from volumen.model.ingredients import Blur
from volumen.model.make import solid
from volumen.model.nodes import Document, Group
from volumen.render.messages import FrameRequest, SceneUpdate
from volumen.render.service import Service
from volumen.render.sync import Sender
from volumen.render.twin import Twin

WIDTH, HEIGHT = 400, 300
VIEW = (0.36, 0.0, 0.0, 0.36, 20.0, 5.0)
replace = msgspec.structs.replace


class Stand:
    """A service with a frame of its own, told and asked as the window does it."""

    def __init__(self, buffer: SharedMemory):
        mine, self.window = Pipe()  # nothing waits in it, so no frame is broken off
        self.service, self.sender, self.buffer, self.count = Service(mine), Sender(), buffer, 0
        self.service.frame.pace.shrink = 2

    def show(self, document: Document, draft: bool, flat: bool = False) -> np.ndarray:
        update = SceneUpdate(self.sender.changes(document))
        self.service.take(update)
        if self.service.twin is not None:
            self.service.twin.tell(update)
        self.count += 1
        self.service.frame.pace.late = 0  # the same size whatever the time taken
        self.service.draw(FrameRequest(self.count, self.buffer.name, WIDTH, HEIGHT, VIEW, flat, draft))
        return np.ndarray((HEIGHT, WIDTH, 4), np.uint8, self.buffer.buf).copy()


@contextmanager
def stands(count: int):
    buffers = [SharedMemory(create=True, size=WIDTH * HEIGHT * 4) for _ in range(count)]
    made = [Stand(b) for b in buffers]
    try:
        yield made
    finally:
        for stand in made:
            stand.service.drop_twin()
            for known in stand.service.buffers.values():
                known.close()
        for b in buffers:
            b.close()
            b.unlink()


def assert_alike(one: np.ndarray, two: np.ndarray) -> None:
    """Soft things lie up to half a coarse pixel beside where they were drawn first; a line left open at the seam
    between the halves would be two pixels in a thousand far off."""
    off = np.abs(one.astype(int) - two).max(axis=2)
    assert off.mean() < 0.5 and np.quantile(off, 0.98) <= 8
    assert (off > 60).mean() < 5e-4


def turned(document: Document, by: float) -> Document:
    return document.with_lights(
        replace(document.lights, key=replace(document.lamp, bearing=document.lamp.bearing + by))
    )


@pytest.mark.parametrize("name", ["ferry", "seaglass"])
def test_a_draft_shared_with_a_twin_is_the_same_picture(name):
    document = DEMOS[name][1]()
    with stands(2) as (alone, paired):
        first = alone.show(document, False)
        assert np.array_equal(paired.show(document, False), first)
        twin = paired.service.twin = Twin(paired.service.take, paired.service.draw_part, paired.service.warm_up)
        assert np.array_equal(paired.show(document, False), first), "drawn alone while the twin warms up"
        twin.connection.poll(20)
        for step in range(1, 4):
            moved = turned(document, 25.0 * step)
            one, two = alone.show(moved, True), paired.show(moved, True)
            assert_alike(one, two)
        assert (one != first).any() and twin.share() < 1
        assert np.array_equal(alone.show(moved, False), paired.show(moved, False))


def test_a_lost_twin_leaves_a_whole_picture():
    document = DEMOS["ferry"][1]()
    with stands(2) as (alone, paired):
        alone.show(document, False), paired.show(document, False)
        twin = paired.service.twin = Twin(paired.service.take, paired.service.draw_part, paired.service.warm_up)
        assert twin.connection.poll(20) and twin.share() < 1
        os.kill(paired.service.twin.process, signal.SIGKILL)
        moved = turned(document, 60.0)
        one, two = alone.show(moved, True), paired.show(moved, True)
        assert paired.service.twin is None
        l, t, r, b = alone.service.frame.owed
        paired_area = np.s_[t:b, l:r]  # outside it one frame holds a draft, the other what was exact
        assert_alike(one[paired_area], two[paired_area])


def test_what_is_made_ready_is_what_was_shown():
    """A flat picture has more chunks than a lit one whose group is blurred: drawn ahead must be the one on the canvas."""
    parts = tuple(disc(k, 100 + 60 * k, 200, 25, solid("#2b8577")) for k in range(1, 6))
    blurred = sheet_of(Group(9, "blurred", parts, (Blur(4.0),)))
    with stands(1) as (stand,):
        stand.show(blurred, False, flat=True)
        stand.service.warm_up()
        assert len(stand.service.frame.chunks) == 5
        stand.show(blurred, False)
        stand.service.warm_up()
        assert len(stand.service.frame.chunks) == 1
