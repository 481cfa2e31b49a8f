"""Benchmarks as ratios against named baselines, measured in the same run. Goals are those of the design."""

from __future__ import annotations

import math
import statistics
import subprocess
import sys
from collections.abc import Iterator

import numpy as np

from volumen.bench.measuring import (
    Row,
    frame_times,
    lit_document,
    median_time,
    ready_client,
    scale_in_view,
    turned_lamp,
)
from volumen.bench.repeats import generators
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.formats.svg.write import svg_bytes
from volumen.geometry.affine import multiply, translation
from volumen.geometry.engine import matrix, set_pen, to_engine
from volumen.model.nodes import Document
from volumen.picture.instructions import FillPath, Picture, StrokePath
from volumen.render.exact.paints import float_surface, paint_for
from volumen.render.raster import render_float
from volumen.shading.paint import is_field
from volumen.shading.ramp import effective_paint


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
    """Whole pictures against the paint library drawing the same flat instructions."""
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


def drags(frames: int) -> Iterator[Row]:
    """Frames as the window asks for them: a draft while the hand moves, through the worker process."""
    client = ready_client()
    try:
        for name, document in _documents():
            scale = scale_in_view(document)
            for what, change in (("lamp", turned_lamp), ("one object", _move_one), ("a slider", _slide)):
                times = frame_times(client, document, scale, change, frames)
                ordered = sorted(times)
                middle, late = statistics.median(times), ordered[math.ceil(len(ordered) * 0.95) - 1]
                yield Row(
                    f"drag {what}, {name}", f"median {middle / 16:.2f}x, 95th {late / 33:.2f}x",
                    f"16 ms and 33 ms (took {middle:.1f} and {late:.1f} ms)", "<= 1x and <= 1x",
                )  # fmt: skip
    finally:
        client.close()


def _target(document: Document) -> int:
    """A small lit object in front."""
    return document.root.children[-1].id


def _move_one(document: Document, i: int) -> Document:
    return objects.transform(document, [_target(document)], translation(i * 1.5, i))


def _slide(document: Document, i: int) -> Document:
    return objects.set_fields(document, [_target(document)], opacity=1 - i / 100)


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
    """Seconds until the window is usable, against an empty window with the same libraries."""
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
    from volumen.bench.bodies import bodies
    from volumen.bench.carve import carving
    from volumen.bench.colour import colour
    from volumen.bench.light import lighting

    yield from full_render(3 if quick else 5)
    yield from drags(12 if quick else 60)
    yield from carving(quick)
    yield from colour(quick)
    yield from lighting(quick)
    yield from bodies(quick)
    yield from generators(quick)
    yield from start_up(1 if quick else 5)


def line_of(row: Row) -> str:
    """A row as a line of text."""
    return f"{row.what:52}  {row.value:34}  goal {row.goal:28}  against {row.baseline}"
