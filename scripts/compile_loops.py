"""Compile the loops for meshes, reliefs and drafts while setting up, so that nothing on the canvas waits for them."""

from __future__ import annotations

import time

from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.render.draft.state import DraftState
from volumen.render.raster import paint_draft, render_float

SMALL = 0.2  # of the demos' size: every loop runs, over few pixels


def main() -> None:
    """Draw a mesh and reliefs once, whole and as a draft."""
    start = time.perf_counter()
    for name in ("mussel", "porthole"):
        picture = build(DEMOS[name][1]())
        render_float(picture, SMALL)
        paint_draft(picture, (SMALL, 0, 0, SMALL, 0, 0), (0, 0, 160, 160), DraftState())
    print(f"loops compiled in {time.perf_counter() - start:.0f} s")


if __name__ == "__main__":
    main()
