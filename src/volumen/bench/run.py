"""Benchmarks as ratios against named baselines, measured in the same run. Goals are those of the design."""

from __future__ import annotations

import math
import random
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator

import msgspec
import numpy as np

from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.formats.svg.write import svg_bytes
from volumen.geometry.affine import multiply, translation
from volumen.geometry.engine import matrix, set_pen, to_engine
from volumen.model.ingredients import Body, CastShadow, Sliver
from volumen.model.make import circle, solid
from volumen.model.nodes import Document, Group, RectangleForm, Shape, Sheet
from volumen.picture.instructions import FillPath, Picture, StrokePath
from volumen.render.exact.paints import float_surface, paint_for
from volumen.render.raster import render_float
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import FrameAnswer
from volumen.shading.lamp import Lamp
from volumen.shading.paint import is_field
from volumen.shading.ramp import effective_paint

SIZE = (1280, 800)


class Row(msgspec.Struct):
    """One figure: what was measured, the value, what it is held against, the goal in words."""

    what: str
    value: str
    baseline: str
    goal: str


def median_time(call: Callable[[], object], runs: int) -> float:
    """Median seconds of ``runs`` calls after one to warm up."""
    call()
    times = []
    for _ in range(runs):
        start = time.perf_counter()
        call()
        times.append(time.perf_counter() - start)
    return statistics.median(times)


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


def flat_instructions(picture: Picture) -> list[FillPath | StrokePath]:
    """What the paint library can draw alone: no layers, nothing worked out point by point."""
    return [i for i in picture.items if isinstance(i, FillPath | StrokePath) and not is_field(effective_paint(i.paint))]


def paint_library_alone(items: list[FillPath | StrokePath], scale: float, size: tuple[int, int]) -> None:
    """The baseline: the paint library drawing the same plain instructions, and nothing else."""
    pixels = np.zeros((size[1], size[0], 4), np.float32)
    surface = float_surface(pixels)
    canvas = surface.getCanvas()
    for item in items:
        paint = paint_for(item.paint, item.opacity, item.blend)
        if isinstance(item, StrokePath):
            set_pen(paint, item.width, item.cap, item.join, item.miter)
        canvas.setMatrix(matrix(multiply((scale, 0, 0, scale, 0, 0), item.transform)))
        canvas.drawPath(to_engine(item.path), paint)
    surface.flushAndSubmit()


def full_render(runs: int) -> Iterator[Row]:
    for name, document in _documents():
        flat = build(document, flat=True)
        items = list(flat_instructions(flat))
        plain = Picture(
            flat.width, flat.height, None, tuple(c for c in flat.chunks if all(i in items for i in c.items))
        )
        items = flat_instructions(plain)
        if len(items) < 10:  # all of it is held in something
            yield _against_svg(name, document, min(runs, 3))
            continue
        size = (round(flat.width), round(flat.height))
        ours = median_time(lambda p=plain: render_float(p), runs)  # type: ignore[misc]
        base = median_time(lambda i=items, s=size: paint_library_alone(i, 1.0, s), runs)  # type: ignore[misc]
        yield Row(
            f"full render, {name}, flat instructions", f"{ours / base:.2f}x", f"the paint library alone, {base * 1e3:.1f} ms", "<= 1.3x"
        )  # fmt: skip
        yield _against_svg(name, document, min(runs, 3))


def _against_svg(name: str, document: Document, runs: int) -> Row:
    try:
        import resvg_py
    except ImportError:
        return Row(f"full lit render, {name}", "not measured", "needs the development packages", "< 1x")
    picture = build(document)
    text = svg_bytes(picture).decode()
    ours = median_time(lambda: render_float(picture), runs)
    base = median_time(lambda: resvg_py.svg_to_bytes(svg_string=text), runs)
    return Row(
        f"full lit render, {name}", f"{ours / base:.2f}x", f"an SVG renderer on our SVG, {base * 1e3:.0f} ms", "< 1x"
    )


def _documents() -> list[tuple[str, Document]]:
    return [(name, make()) for name, (_, make) in DEMOS.items()] + [("300 lit objects", lit_document())]


def ready_client() -> RenderClient:
    """A worker that has shown something and had time to load what drafts need, as when someone has looked at a sheet."""
    client = RenderClient()
    client.request_frame(lit_document(1), SIZE, (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), False, False)
    client.receive(60)
    time.sleep(2.0)
    return client


def drags(frames: int) -> Iterator[Row]:
    """Frames as the window asks for them: a draft while the hand moves, through the worker process."""
    client = ready_client()
    try:
        for name, document in _documents():
            scale = min(SIZE[0] / document.sheet.width, SIZE[1] / document.sheet.height) * 0.9
            for what, change in (("lamp", _turn_lamp), ("one object", _move_one), ("a slider", _slide)):
                times = _drag(client, document, scale, change, frames)
                ordered = sorted(times)
                middle, late = statistics.median(times), ordered[math.ceil(len(ordered) * 0.95) - 1]
                yield Row(
                    f"drag {what}, {name}", f"median {middle / 16:.2f}x, 95th {late / 33:.2f}x",
                    f"16 ms and 33 ms (took {middle:.1f} and {late:.1f} ms)", "<= 1x and <= 1x",
                )  # fmt: skip
    finally:
        client.close()


def _turn_lamp(document: Document, i: int) -> Document:
    lamp = msgspec.structs.replace(document.lamp, bearing=(document.lamp.bearing + 2 * i) % 360)
    return msgspec.structs.replace(document, lamp=lamp)


def _target(document: Document) -> int:
    """A small lit object in front."""
    return document.root.children[-1].id


def _move_one(document: Document, i: int) -> Document:
    return objects.transform(document, [_target(document)], translation(i * 1.5, i))


def _slide(document: Document, i: int) -> Document:
    return objects.set_fields(document, [_target(document)], opacity=1 - i / 100)


def _drag(
    client: RenderClient, document: Document, scale: float, change: Callable[[Document, int], Document], frames: int
) -> list[float]:
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


_EMPTY = (
    "import time;t=time.perf_counter()\n"
    "import numpy,cv2,skia,msgspec\n"
    "from PySide6.QtWidgets import QApplication,QMainWindow\n"
    "a=QApplication([]);w=QMainWindow();w.resize(1280,800);w.show();a.processEvents()\n"
    "print(time.perf_counter()-t)"
)
_OURS = (
    "import time;t=time.perf_counter()\n"
    "if __name__=='__main__':\n"
    " from volumen.render.worker.client import RenderClient\n"
    " c=RenderClient()\n"
    " from PySide6.QtWidgets import QApplication\n"
    " from volumen.app import theme\n"
    " from volumen.app.window.window import Window\n"
    " a=QApplication([]);theme.dress(a)\n"
    " w=Window(c);w.show();a.processEvents()\n"
    " print(time.perf_counter()-t)\n"
    " w.close()"
)


def start_up(runs: int) -> list[Row]:
    import os
    import tempfile

    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    env.pop("PYTHONDONTWRITEBYTECODE", None)  # warm means compiled

    def seconds(code: str) -> float:
        with tempfile.NamedTemporaryFile("w", suffix=".py") as file:
            file.write(code)
            file.flush()
            out = subprocess.run([sys.executable, file.name], env=env, capture_output=True, text=True, check=True)
        return float(out.stdout.strip().splitlines()[-1])

    ours, empty = ([seconds(code) for _ in range(runs + 1)][1:] for code in (_OURS, _EMPTY))
    mine, base = statistics.median(ours), statistics.median(empty)
    goal = "<= 2x and <= 1.2 s"
    return [
        Row(
            "start-up, warm",
            f"{mine / base:.2f}x, {mine:.2f} s",
            f"an empty Qt window with the same libraries, {base:.2f} s",
            goal,
        )
    ]


def measured(quick: bool) -> Iterator[Row]:
    """All figures, one after another as they are measured."""
    from volumen.bench.carve import carving
    from volumen.bench.colour import colour
    from volumen.bench.light import lighting

    yield from full_render(3 if quick else 5)
    yield from drags(12 if quick else 60)
    yield from carving(quick)
    yield from colour(quick)
    yield from lighting(quick)
    yield from start_up(1 if quick else 5)


def line_of(row: Row) -> str:
    return f"{row.what:52}  {row.value:34}  goal {row.goal:28}  against {row.baseline}"
