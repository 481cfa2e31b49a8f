"""Pictures and memory of services that have drawn much, against those of fresh ones."""

from __future__ import annotations

import random
import time
from multiprocessing import Pipe
from multiprocessing.shared_memory import SharedMemory
from pathlib import Path

import msgspec
import numpy as np

from volumen.app.state.session import Session
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.model.nodes import Document
from volumen.model.tree import walk
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import FrameRequest, SceneUpdate
from volumen.render.worker.service import Service
from volumen.render.worker.sync import Sender

WORST = 1  # level by which a picture at rest may differ from a fresh one: both are dithered alike


def fresh_pixels(document: Document, view: tuple, size: tuple[int, int], session: object) -> np.ndarray:
    """A picture by a service that has drawn nothing before."""
    width, height = size
    buffer = SharedMemory(create=True, size=max(width * height * 4, 4))
    mine, _other = Pipe()
    service = Service(mine)
    try:
        service.take(SceneUpdate(Sender().changes(document)))
        flat, values = session.flat, session.values  # type: ignore[attr-defined]
        service.draw(FrameRequest(1, buffer.name, width, height, view, flat, False, values))
        return np.ndarray((height, width, 4), np.uint8, buffer.buf).astype(int)
    finally:
        for known in service.buffers.values():
            known.close()
        buffer.close()
        buffer.unlink()


def drag_each(demo: str, most: int, size: tuple[int, int] = (400, 300)) -> list[str]:
    """Drag objects of a demo, evenly picked, in one service; where the picture at rest differs from a fresh one."""
    document = DEMOS[demo][1]()
    ids = [n.id for n in walk(document.root)][1:]
    sheet = document.sheet
    k = min(size[0] / sheet.width, size[1] / sheet.height)
    view, wrong = (k, 0.0, 0.0, k, 3.0, 5.0), []
    buffer = SharedMemory(create=True, size=size[0] * size[1] * 4)
    mine, _other = Pipe()
    service, sender = Service(mine), Sender()

    def show(shown: Document, draft: bool) -> bool:
        service.take(SceneUpdate(sender.changes(shown)))
        return service.draw(FrameRequest(1, buffer.name, *size, view, False, draft)).rough

    for node_id in ids[:: max(-(-len(ids) // most), 1)]:
        moved = document
        for step in range(1, 4):
            moved = objects.transform(document, [node_id], (1, 0, 0, 1, 7.3 * step, -5.1 * step))
            show(moved, True)
        while show(moved, False):
            pass
        ours = np.ndarray((size[1], size[0], 4), np.uint8, buffer.buf).astype(int)
        off = np.abs(ours - fresh_pixels(moved, view, size, Session())).max(axis=2)
        if off.max() > WORST:
            wrong.append(f"{demo}, object {node_id}: {np.count_nonzero(off > WORST)} pixels, up to {off.max()}")
    for known in service.buffers.values():
        known.close()
    buffer.close()
    buffer.unlink()
    return wrong


def soak(demo: str, edits: int, seed: int = 1) -> tuple[float, float]:
    """The worker's memory in MB after many edits, with a rest now and then as hands have them, and that of a fresh one
    that shows the same document."""
    r = random.Random(seed)
    used, fresh = RenderClient(), RenderClient()
    document = first = DEMOS[demo][1]()
    view, size = (0.5, 0.0, 0.0, 0.5, 0.0, 0.0), (640, 400)
    for done in range(edits):
        if done % 320 == 319:
            time.sleep(5)
        if not document.root.children:
            document = first
        ids = [n.id for n in walk(document.root)][1:]
        kind, one = r.randrange(5), r.choice(ids)
        if kind == 0:
            document, _ = objects.duplicate(document, [one])
        elif kind == 1 and len(ids) > len(list(walk(first.root))) // 2:
            document = objects.delete(document, [one])
        elif kind == 2:
            document = objects.set_fields(document, [one], opacity=r.random())
        elif kind == 3:
            lamp = msgspec.structs.replace(document.lamp, bearing=360 * r.random())
            document = msgspec.structs.replace(document, lamp=lamp)
        else:
            document = objects.transform(document, [one], (1, 0, 0, 1, 9 * r.random(), 9 * r.random()))
        if len(ids) > 1.5 * len(list(walk(first.root))):
            document = first
        answer_of(used, used.request_frame(document, size, view, False, r.random() < 0.7))
    time.sleep(6)  # long enough for it to tidy up
    for client in (used, fresh):  # the fresh one, too, has loaded what it draws with, and drawn as drafts
        answer_of(client, client.request_frame(document, size, view, False, False))
        time.sleep(10)
        for bearing in (*range(0, 360, 12), None):
            shown = document if bearing is None else turned(document, float(bearing))
            answer_of(client, client.request_frame(shown, size, view, False, bearing is not None))
        time.sleep(2)
    found = memory_of(used.process.pid), memory_of(fresh.process.pid)
    used.close()
    fresh.close()
    return found


def turned(document: Document, bearing: float) -> Document:
    return msgspec.structs.replace(document, lamp=msgspec.structs.replace(document.lamp, bearing=bearing))


def answer_of(client: RenderClient, request: int) -> None:
    while True:
        answer = client.receive(60)
        if answer is None or getattr(answer, "id", request) == request:
            return


def memory_of(process: int) -> float:
    """What a process alone has written to, in MB."""
    text = Path(f"/proc/{process}/smaps_rollup").read_text()
    return sum(int(line.split()[1]) for line in text.splitlines() if line.startswith(("Private_Dirty", "Swap:"))) / 1024
