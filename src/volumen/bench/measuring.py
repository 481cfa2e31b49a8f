"""How things are measured: rows of figures, medians, frames of a worker while something is dragged."""

from __future__ import annotations

import random
import statistics
import time
from collections.abc import Callable

import msgspec
import numpy as np

from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.edit import objects
from volumen.geometry.affine import translation
from volumen.model.ingredients import Body, CastShadow, Sliver
from volumen.model.make import circle, solid
from volumen.model.nodes import Document, Group, RectangleForm, Shape, Sheet
from volumen.render.frame import Frame
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import FrameAnswer
from volumen.shading.lamp import Lamp

SIZE = (1280, 800)
LOOP = 1.03  # ms that the loop below takes on a processor of 2.5 GHz with nothing beside it


class Row(msgspec.Struct):
    """One figure: what was measured, the value, what it is held against, the goal in words."""

    what: str
    value: str
    baseline: str
    goal: str


def scale_in_view(document: Document) -> float:
    """How large a sheet is shown that fills the view but for an edge."""
    return min(SIZE[0] / document.sheet.width, SIZE[1] / document.sheet.height) * 0.9


def median_time(call: Callable[[], object], runs: int) -> float:
    """Median seconds of ``runs`` calls after one to warm up."""
    call()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def ready_client() -> RenderClient:
    """A worker that has shown something and had time to load what drafts need, as when someone has looked at a sheet."""
    client = RenderClient()
    client.request_frame(lit_document(1), SIZE, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), False, False)
    client.receive(60)
    time.sleep(2.0)
    return client


def turned_lamp(document: Document, i: int) -> Document:
    """The lamp two degrees further for each step."""
    lamp = msgspec.structs.replace(document.lamp, bearing=(document.lamp.bearing + 2 * i) % 360)
    return msgspec.structs.replace(document, lamp=lamp)


def frame_times(
    client: RenderClient, document: Document, scale: float, change: Callable[[Document, int], Document], frames: int
) -> list[float]:
    """Milliseconds of build and drawing of each frame while ``change`` is applied step by step."""
    view = (scale, 0.0, 0.0, scale, 40.0, 20.0)
    client.request_frame(document, SIZE, view, False, False)
    client.receive(60)
    time.sleep(0.5)  # a hand takes that long to get hold of something
    times = []
    for i in range(frames):
        moved = change(document, i)
        start = time.perf_counter()
        client.request_frame(moved, SIZE, view, False, True)
        answer = client.receive(60)
        times.append((time.perf_counter() - start) * 1e3)
        assert isinstance(answer, FrameAnswer), answer
    return times[2:]


def _loop() -> float:
    """Milliseconds that a loop of Python takes, which tell how fast the processor runs just now."""
    start = time.perf_counter()
    kept: dict[int, int] = {}
    for i in range(20_000):
        kept[i & 63] = i
    return (time.perf_counter() - start) * 1e3


def frames_beside_a_loop(
    document: Document, scale: float, change: Callable[[Document, int], Document], frames: int
) -> tuple[list[float], list[float]]:
    """Milliseconds of frames as the worker makes them, in this process, and of a loop before each of them."""
    frame, memo, view = Frame(), Memo(), (scale, 0.0, 0.0, scale, 40.0, 20.0)
    out = np.zeros((SIZE[1], SIZE[0], 4), np.uint8)
    frame.update(build(document, memo=memo), view, out, False, lambda: False)
    times, loops = [], []
    for i in range(frames):
        moved = change(document, i)
        loops.append(_loop())
        start = time.perf_counter()
        picture = build(moved, memo=memo)
        frame.draft.pace.built((time.perf_counter() - start) * 1e3)
        frame.update(picture, view, out, True, lambda: False)
        times.append((time.perf_counter() - start) * 1e3)
    return times[4:], loops[4:]


def clocked_row(what: str, times: list[float], loops: list[float]) -> Row:
    """A row of frames against a loop beside them: what they take on a processor that no one else slows down."""
    middle, loop = statistics.median(times), statistics.median(loops)
    return Row(
        what,
        f"median {middle / loop * LOOP / 16:.2f}x at full clock",
        f"16 ms, by a loop of {LOOP} ms (took {middle:.1f} and {loop:.1f} ms)",
        "<= 1x",
    )


def frame_row(what: str, times: list[float], baseline: str, goal: str) -> Row:
    """A row of frame times: their median and 95th percentile."""
    middle, late = statistics.median(times), sorted(times)[int(len(times) * 0.95)]
    return Row(
        what,
        f"median {middle / 16:.2f}x, 95th {late / 33:.2f}x",
        f"{baseline} (took {middle:.1f} and {late:.1f} ms)",
        goal,
    )


def lit_document(count: int = 300) -> Document:
    """``count`` objects with body, slivers and cast shadow, spread over a wide sheet."""
    rng = random.Random(7)
    colours = ("#2b8577", "#c98f35", "#c8402a", "#d9dbd3", "#0f4a49")
    light = (Sliver("shade", depth=3), Sliver("light", depth=2, blend="screen"), CastShadow())
    shapes = []
    for i in range(count):
        x, y, r = rng.uniform(40, 1240), rng.uniform(40, 760), rng.uniform(12, 34)
        form = circle(x, y, r) if i % 3 else RectangleForm(x - r, y - r, 2 * r, 1.4 * r, 5)
        body = Body("ball" if i % 3 else "tube", ("enamel", "brass", "clay", "glass")[i % 4])
        shapes.append(Shape(i + 1, f"piece {i}", form, (solid(colours[i % 5]), body, *light), lift=6.0))
    return Document(Sheet(1280, 800), Lamp(), Group(0, "pile", tuple(shapes)), count + 1)


def stacked_document(count: int = 30) -> Document:
    """``count`` sheets in one pile, each lying on others, whose lifts add up."""
    rng = random.Random(3)
    colours = ("#2b8577", "#c98f35", "#c8402a", "#d9dbd3", "#0f4a49")
    shapes = []
    for i in range(count):
        x, y, r = rng.uniform(200, 600), rng.uniform(200, 600), rng.uniform(60, 150)
        form = circle(x, y, r) if i % 2 else RectangleForm(x - r, y - r, 2 * r, 1.4 * r, 8)
        shapes.append(Shape(i + 1, f"sheet {i}", form, (solid(colours[i % 5]), CastShadow()), lift=4.0))
    return Document(Sheet(), Lamp(), Group(0, "pile", tuple(shapes)), count + 1, lifts_add_up=True)


def dragged(document: Document, i: int, node_id: int) -> Document:
    """One object three units further for each step."""
    return objects.transform(document, [node_id], translation(3.0 * i, 1.5 * i))
