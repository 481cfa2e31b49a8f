"""Gradient meshes as pixels: patches cut into cells of a few pixels, each drawn as two triangles.

Cells are small where quality counts, so that colour may run straight inside them; their corners lie exactly on
the bicubic surfaces. Where patches overlap, the later one in row order wins.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.srgb import Floats, from_linear
from volumen.shading.mesh import Mesh, places, tones

Pixels = NDArray[np.float32]
FINE, DRAFT = 4.5, 10.0  # pixels a cell is wide
_MOST_STEPS = 512


@by_value("encoding", 1)
def _encoding() -> Floats:
    """sRGB encoding of linear light at 8193 even places from 0 to 1."""
    return from_linear(np.linspace(0, 1, 8193))


def mesh_pixels(mesh: Mesh, box: tuple[int, int, int, int], cell: float = FINE, extend: bool = True) -> Pixels:
    """The mesh (in pixel coordinates) inside a box of pixels, premultiplied encoded RGBA (h, w, 4).

    ``extend`` gives pixels that no patch covers the colour of the nearest that one does, so that the mesh serves
    an outline that was rounded or offset, and every softened edge.
    """
    from volumen.shading.mesh_kernel import raster  # here, as the compiler takes long to load

    left, top, right, bottom = box
    out = np.zeros((bottom - top, right - left, 4), np.float32)
    seen = np.zeros(out.shape[:2], np.uint8)
    g = places(mesh).reshape(-1, 4, 4, 2) - (left, top)
    tone = tones(mesh).reshape(-1, 4, 4, 4)
    steps = _steps(g, out.shape[1], out.shape[0], cell)
    raster(g, tone, steps, oklab.LAB_TO_LMS, oklab.LMS_TO_RGB, _encoding(), out, seen)
    return spread_out(out, seen) if extend else out


def _steps(g: Floats, width: int, height: int, cell: float) -> NDArray[np.int64]:
    """How many cells a side each patch needs; none for patches outside the picture."""
    along = [np.hypot(*np.moveaxis(np.diff(g, axis=k), -1, 0)).sum(axis=k).max(axis=1) for k in (1, 2)]
    reach = np.maximum(*along)  # the longest line of control points: no line of the patch is longer
    reach = np.where(np.isfinite(reach), reach, 0)
    low, high = g.min(axis=(1, 2)), g.max(axis=(1, 2))
    outside = (high[:, 0] < 0) | (high[:, 1] < 0) | (low[:, 0] > width) | (low[:, 1] > height)
    return np.where(outside, 0, np.clip(np.ceil(reach / cell), 2, _MOST_STEPS)).astype(np.int64)


def spread_out(pixels: Pixels, seen: NDArray[np.uint8]) -> Pixels:
    """Pixels not seen take the value of the nearest that is."""
    if seen.all() or not seen.any():
        return pixels
    _, label = cv2.distanceTransformWithLabels(1 - seen, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    labels, flat = label.reshape(-1), pixels.reshape(-1, 4)
    known = np.flatnonzero(seen)
    source = np.zeros(len(known) + 1, np.int64)
    source[labels[known]] = known
    missing = np.flatnonzero(seen == 0)
    flat[missing] = flat[source[labels[missing]]]
    return pixels
