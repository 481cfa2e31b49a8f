"""The figures of light: lamp drags on lit artwork, relief against a plain distance transform, memory of a large export."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Callable, Iterator
from functools import partial

import cv2
import numpy as np

from volumen.bench.measuring import (
    Row,
    clocked_row,
    dragged,
    frame_row,
    frame_times,
    frames_beside_a_loop,
    median_time,
    ready_client,
    scale_in_view,
    stacked_document,
    turned_lamp,
)
from volumen.demo import DEMOS
from volumen.geometry.affine import IDENTITY
from volumen.geometry.distance import distance_field
from volumen.geometry.primitives import ellipse
from volumen.model.nodes import Document
from volumen.shading.paint import LitFrom, ReliefPaint
from volumen.shading.paint_pixels import field_pixels

_LIT = ("whale", "porthole", "seaglass")
# A2 is 420 x 594 mm; at 300 dpi that is 4961 pixels across.
_A2 = (
    "import resource,sys\n"
    "from volumen.demo import DEMOS\n"
    "from volumen.formats.export import export\n"
    "from volumen.formats.options import ExportOptions\n"
    "from pathlib import Path\n"
    "d=DEMOS[sys.argv[1]][1]()\n"
    "export(d,Path(sys.argv[2]),ExportOptions(scale=4961/d.sheet.width))\n"
    "print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)"
)


def lighting(quick: bool) -> Iterator[Row]:
    """Lamp drags, relief and the worker's memory."""
    yield from _lamp_drags(8 if quick else 40)
    yield from _relief(1 if quick else 5)
    if not quick:
        yield _memory()


def _lamp_drags(frames: int) -> list[Row]:
    client = ready_client()
    rows = []
    try:
        for name in _LIT:
            document = DEMOS[name][1]()
            times = frame_times(client, document, scale_in_view(document), turned_lamp, frames)
            rows.append(frame_row(f"drag lamp, {name}", times, "16 ms and 33 ms", "<= 1x and <= 1x"))
        pile = stacked_document()
        for what, change in (("drag lamp", turned_lamp), ("drag a sheet", partial(dragged, node_id=15))):
            times = frame_times(client, pile, 0.9, change, frames)
            rows.append(frame_row(f"{what}, pile of 30 sheets", times, "16 ms and 33 ms", "<= 1x and <= 1x"))
    finally:
        client.close()
    return rows + [clocked_row(what, *frames_beside_a_loop(*of, frames)) for what, of in _clocked(pile)]


def _clocked(pile: Document) -> list[tuple[str, tuple[Document, float, Callable[[Document, int], Document]]]]:
    """The frames that are measured once more beside a loop, as the clock of some machines wanders."""
    whale = DEMOS["whale"][1]()
    return [
        ("drag lamp, whale, by the clock", (whale, scale_in_view(whale), turned_lamp)),
        ("drag lamp, pile of 30 sheets, by the clock", (pile, 0.9, turned_lamp)),
        ("drag a sheet, pile of 30 sheets, by the clock", (pile, 0.9, partial(dragged, node_id=15))),
    ]


def _relief(runs: int) -> list[Row]:
    """A relief over a disc of 600 and 2400 pixels, its distances known and not, against the transform of a mask."""
    rows = []
    for size in (600, 2400):
        radius = size * 0.48
        mask = np.zeros((size, size), np.uint8)
        cv2.circle(mask, (size // 2, size // 2), round(radius), 255, -1)
        base = median_time(lambda m=mask: cv2.distanceTransform(m, cv2.DIST_L2, cv2.DIST_MASK_PRECISE), runs)  # type: ignore[misc]
        paint = ReliefPaint("shade", (LitFrom(-0.5, -0.6, 0.62),), width=size / 15)
        path = ellipse(size / 2, size / 2, radius, radius)
        whole = (0, 0, size, size)
        again = median_time(partial(field_pixels, paint, IDENTITY, whole, path), runs)
        fresh = median_time(partial(distance_field, path, 1.0, 4.0, most=size / 15), runs)
        what = f"relief over {size} px"
        rows.append(Row(f"{what}, lamp moved", f"{again / base:.1f}x, {again * 1e3:.0f} ms", f"a distance transform of the mask, {base * 1e3:.0f} ms", "no facets"))  # fmt: skip
        rows.append(Row(f"{what}, distances anew", f"{fresh / base:.1f}x, {fresh * 1e3:.0f} ms", f"a distance transform of the mask, {base * 1e3:.0f} ms", "no facets"))  # fmt: skip
    return rows


def _memory() -> Row:
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        command = [sys.executable, "-c", _A2, "seaglass", f"{folder}/a2.png"]
        out = subprocess.run(command, capture_output=True, text=True, check=True)
    peak = int(out.stdout.split()[-1]) / 2**20
    return Row("A2 at 300 dpi with every effect, peak memory", f"{peak / 1.5:.2f}x, {peak:.2f} GB", "1.5 GB", "<= 1x")
