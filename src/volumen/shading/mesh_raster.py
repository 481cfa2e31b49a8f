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
_HARD = 0.05  # from a pixel to the next, of the whole range: what may be a break
_PLACES = np.array([(-0.375, -0.125), (0.125, -0.375), (-0.125, 0.375), (0.375, 0.125)])  # in a pixel, from its middle


@by_value("encoding", 1)
def _encoding() -> Floats:
    """sRGB encoding of linear light at 8193 even places from 0 to 1."""
    return from_linear(np.linspace(0, 1, 8193))


def mesh_pixels(mesh: Mesh, box: tuple[int, int, int, int], cell: float = FINE, extend: bool = True) -> Pixels:
    """The mesh (in pixel coordinates) inside a box of pixels, premultiplied encoded RGBA (h, w, 4).

    ``extend`` gives pixels that no patch covers the colour of the nearest that one does, so that the mesh serves
    an outline that was rounded or offset, and every softened edge.
    """
    g, tone = places(mesh).reshape(-1, 4, 4, 2), tones(mesh).reshape(-1, 4, 4, 4)
    out, seen = _raster(g, tone, box, cell)
    if cell <= FINE and (mesh.crease.any() or not np.isnan(mesh.slopes).all()):
        _soften_breaks(out, seen, g, tone, box, cell)
    return spread_out(out, seen) if extend else out


def _raster(g: Floats, tone: Floats, box: tuple[int, int, int, int], cell: float) -> tuple[Pixels, NDArray[np.uint8]]:
    """Patches as pixels, and which pixels they cover."""
    from volumen.shading.mesh_kernel import raster  # here, as the compiler takes long to load

    left, top, right, bottom = box
    out = np.zeros((bottom - top, right - left, 4), np.float32)
    seen = np.zeros(out.shape[:2], np.uint8)
    here = g - (left, top)
    steps = _steps(here, out.shape[1], out.shape[0], cell)
    raster(here, tone, steps, oklab.LAB_TO_LMS, oklab.LMS_TO_RGB, _encoding(), out, seen)
    return out, seen


def _soften_breaks(
    out: Pixels, seen: NDArray[np.uint8], g: Floats, tone: Floats, box: tuple[int, int, int, int], cell: float
) -> None:  # fmt: skip
    """Where colours break off inside a mesh, as at the rim of a slab, pixels become the mean of four places in them."""
    hard = np.zeros(seen.shape, bool)
    for a, b in (((slice(None), slice(1, None)), (slice(None), slice(-1))), ((slice(1, None),), (slice(-1),))):
        steep = (np.abs(out[a] - out[b]).max(axis=2) > _HARD) & (seen[a] > 0) & (seen[b] > 0)
        hard[a] |= steep
        hard[b] |= steep
    y, x = np.nonzero(hard)
    if not len(y):
        return
    left, top = box[:2]
    part = (int(x.min()), int(y.min()), int(x.max()) + 1, int(y.max()) + 1)
    total = np.zeros((part[3] - part[1], part[2] - part[0], 4), np.float32)
    whole = hard[part[1] : part[3], part[0] : part[2]].copy()
    for shift in _PLACES:
        there = (left + part[0], top + part[1], left + part[2], top + part[3])
        pixels, covered = _raster(g - shift, tone, there, cell)
        total += pixels
        whole &= covered > 0
    out[part[1] : part[3], part[0] : part[2]][whole] = total[whole] / len(_PLACES)


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
