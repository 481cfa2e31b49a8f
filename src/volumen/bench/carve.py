"""The figures of drawing and carving: booleans with their verification, areas, offsets, points, large files."""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path as FilePath

import numpy as np
import shapely

from volumen.bench.measuring import Row, frame_row, frame_times, median_time, ready_client
from volumen.bench.shapes import blob, hard_pair
from volumen.edit import objects, points
from volumen.formats import native
from volumen.geometry.affine import translation
from volumen.geometry.boolean import boolean, tally
from volumen.geometry.curve import flatten
from volumen.geometry.enclosed_areas import arrange
from volumen.geometry.engine import Operation, PathOpError
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.model.make import circle, solid
from volumen.model.nodes import Document, Group, PathForm, Shape, Sheet

OPERATIONS: tuple[Operation, ...] = ("union", "subtract", "intersect", "exclude")


def carving(quick: bool) -> Iterator[Row]:
    """Booleans, failures, areas, offsets, point drags and large documents."""
    yield from _booleans(60 if quick else 300)
    yield _failures(40 if quick else 2500)
    yield _areas()
    yield _offsets()
    yield from _points(12 if quick else 60)
    yield from _large(12 if quick else 40)


def _plain(path: Path) -> shapely.Polygon:
    """A path as a polygon of GEOS."""
    return shapely.Polygon(flatten(path.contours[0], 0.05)[0]).buffer(0)


def _booleans(count: int) -> list[Row]:
    rng = np.random.default_rng(5)
    pairs = [(blob(rng), blob(rng, rng.uniform(100, 220), rng.uniform(100, 220))) for _ in range(count)]
    ours, base = [], []
    for a, b in pairs:
        start = time.perf_counter()
        boolean(a, b, "union")
        ours.append(time.perf_counter() - start)
        start = time.perf_counter()
        _plain(a).union(_plain(b))
        base.append(time.perf_counter() - start)
    mine, theirs = statistics.median(ours) * 1e3, statistics.median(base) * 1e3
    return [
        Row("verified union of two 40-point paths", f"{mine / theirs:.1f}x, {mine:.1f} ms", f"flattened polygons in GEOS, {theirs:.1f} ms", "<= 3 ms")
    ]  # fmt: skip


def _failures(pairs: int) -> Row:
    """Hard pairs through all four operations: what no way could answer with the clipper agreeing."""
    rng = np.random.default_rng(11)
    before, failed = tally.second_ways, 0
    for _ in range(pairs):
        _, a, b = hard_pair(rng)
        for operation in OPERATIONS:
            try:
                boolean(a, b, operation)
            except PathOpError:
                failed += 1
    count = pairs * len(OPERATIONS)
    return Row(
        f"wrong booleans in {count} hard ones", str(failed),
        f"an independent clipper; {tally.second_ways - before} needed a second way", "0 in 10,000",
    )  # fmt: skip


def _areas() -> Row:
    rng = np.random.default_rng(3)
    shapes = [blob(rng, rng.uniform(100, 400), rng.uniform(100, 400), rng.uniform(50, 120), 12) for _ in range(30)]
    mine = median_time(lambda: arrange(shapes), 5) * 1e3
    lines = [shapely.LineString(flatten(p.contours[0], 0.05)[0]) for p in shapes]
    base = median_time(lambda: shapely.polygonize([shapely.unary_union(lines)]), 5) * 1e3
    return Row("areas of 30 overlapping shapes", f"{mine / base:.1f}x, {mine:.0f} ms", f"flattened lines in GEOS, {base:.0f} ms", "<= 150 ms")  # fmt: skip


def _offsets() -> Row:
    rng = np.random.default_rng(4)
    shapes = [blob(rng, n=12) for _ in range(30)]
    mine = median_time(lambda: [offset(p, 12) for p in shapes], 3) / 30 * 1e3
    base = median_time(lambda: [_plain(p).buffer(12, quad_segs=16) for p in shapes], 3) / 30 * 1e3
    return Row("verified offset", f"{mine / base:.1f}x, {mine:.1f} ms", f"buffer of flattened polygons in GEOS, {base:.1f} ms", "<= 5 ms")  # fmt: skip


def _points(frames: int) -> list[Row]:
    """Dragging a point of a path of 500, and sweeping over areas while they are outlined."""
    from volumen.outline.forms import path_form

    form = path_form(blob(np.random.default_rng(2), 400, 400, 300, 500))
    document = Document(root=Group(0, "pile", (Shape(1, "path", form, (solid("#2b8577"),)),)), next_id=2)

    def moved(d: Document, i: int) -> Document:
        shape = d.root.children[0]
        assert isinstance(shape, Shape) and isinstance(shape.form, PathForm)
        return objects.set_form(d, 1, points.move(shape.form, [(0, 40)], i, -i))

    client = ready_client()
    try:
        times = frame_times(client, document, 0.9, moved, frames)
    finally:
        client.close()
    rng = np.random.default_rng(3)
    net = arrange(
        [blob(rng, rng.uniform(100, 400), rng.uniform(100, 400), rng.uniform(50, 120), 12) for _ in range(30)]
    )
    swept: list[int] = []
    sweep = []
    for i in range(frames):
        start = time.perf_counter()
        swept += [k for k in net.along((100 + 5 * i, 250), (105 + 5 * i, 252)) if k not in swept]
        net.outline(swept)
        sweep.append((time.perf_counter() - start) * 1e3)
    goal = "<= 1x and <= 1x"
    return [
        frame_row("drag a point of a 500-point path", times, "16 ms and 33 ms", goal),
        frame_row("sweep across areas of 30 shapes", sweep, "16 ms and 33 ms", goal),
    ]


def _tiles(count: int) -> Document:
    wide = round(count**0.5)  # as dense for few as for many
    nodes = tuple(
        Shape(i + 1, f"tile {i}", circle(10 + i % wide * 11, 10 + i // wide * 11, 4.5), (solid("#3a6ea8"),)) for i in range(count)
    )  # fmt: skip
    return Document(Sheet(800, 800), root=Group(0, "pile", nodes), next_id=count + 1)


def _frame_in_window(file: FilePath, x: float, y: float, frames: int) -> float:
    """Median milliseconds of a frame while what lies at (x, y) is dragged in a window."""
    command = [sys.executable, "-m", "volumen.app.window.dragged", str(file), str(x), str(y), str(frames)]
    screen = {} if os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") else {"QT_QPA_PLATFORM": "offscreen"}
    out = subprocess.run(command, capture_output=True, text=True, check=True, env={**os.environ, **screen})
    return float(out.stdout.split()[-1])


def _large(frames: int) -> list[Row]:
    times = {}
    client = ready_client()
    try:
        for count in (50, 5000):
            document = _tiles(count)
            step = lambda d, i: objects.transform(d, [20], translation(i * 1.5, i))  # noqa: E731
            times[count] = statistics.median(frame_times(client, document, 0.9, step, frames))
    finally:
        client.close()
    seen = {}
    with tempfile.TemporaryDirectory() as folder:
        for count in (50, 5000):
            file = FilePath(folder) / f"{count}.volumen"
            native.save(_tiles(count), file)
            seen[count] = _frame_in_window(file, 54, 10, frames)
        opened = median_time(lambda: native.load(file), 3)
    return [
        Row("open a file of 5,000 objects", f"{opened:.2f} s", "2 s", "<= 2 s"),
        Row("drag one of 5,000 objects, a frame in the window", f"{seen[5000] / seen[50]:.2f}x, {seen[5000]:.1f} ms", f"the same among 50 objects, {seen[50]:.1f} ms", "about 1x"),
        Row("drag one of 5,000 objects, the worker's part", f"{times[5000] / times[50]:.2f}x, {times[5000]:.1f} ms", f"the same among 50 objects, {times[50]:.1f} ms", "about 1x"),
    ]  # fmt: skip
