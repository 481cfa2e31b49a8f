"""Whole pictures to arrays of pixels, in strips, so that memory stays bounded."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from typing import TYPE_CHECKING, Any, TypeVar

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import MixedCache
from volumen.geometry.affine import Affine, multiply, scaling, translation
from volumen.geometry.path import Box, transform_box
from volumen.picture.instructions import Chunk, Picture
from volumen.picture.stopping import Stop, Stopped, now_and_then
from volumen.render.draft.state import DraftState
from volumen.render.exact.boxes import PixelBox
from volumen.render.exact.draw import Painter
from volumen.render.exact.paints import Pixels, float_surface
from volumen.shading.paint import Colour

if TYPE_CHECKING:
    from volumen.render.draft.planes import Planes

Boxes = NDArray[np.float64]
Progress = Callable[[float], None]
Level = TypeVar("Level", np.uint8, np.uint16)
STRIP = 512
MAX_PIXELS = 400_000_000


class RenderError(ValueError):
    """A picture that cannot be drawn at the wanted size."""


def render_float(picture: Picture, scale: float = 1.0, box: Box | None = None) -> Pixels:
    """Premultiplied RGBA float32 (h, w, 4) of a picture, or of a part of it (``box`` in sheet units)."""
    box = box or (0.0, 0.0, picture.width, picture.height)
    width, height = pixel_size(box, scale)
    pixels = np.zeros((height, width, 4), dtype=np.float32)
    paint_area(pixels, picture, view_of(box, scale), (0, 0, width, height))
    return pixels


def render_bytes(picture: Picture, scale: float = 1.0, progress: Progress | None = None) -> NDArray[np.uint8]:
    """Straight RGBA uint8 (h, w, 4) of the whole sheet, dithered once from float. Works in strips.

    Raises RenderError for sizes that no memory would hold.
    """
    return _in_strips(picture, scale, progress, np.zeros(0, np.uint8), straight_bytes)


def render_words(picture: Picture, scale: float = 1.0, progress: Progress | None = None) -> NDArray[np.uint16]:
    """Straight RGBA uint16 (h, w, 4) of the whole sheet, as ``render_bytes``."""
    return _in_strips(picture, scale, progress, np.zeros(0, np.uint16), lambda strip, _: straight_words(strip))


def _in_strips(
    picture: Picture, scale: float, progress: Progress | None, like: NDArray[Level],
    made: Callable[[Pixels, int], NDArray[Level]],
) -> NDArray[Level]:  # fmt: skip
    box = (0.0, 0.0, picture.width, picture.height)
    width, height = pixel_size(box, scale)
    out = np.empty((height, width, 4), dtype=like.dtype)
    for top in range(0, height, STRIP):
        rows = min(STRIP, height - top)
        strip = np.zeros((rows, width, 4), dtype=np.float32)
        view = multiply(translation(0, -top), view_of(box, scale))
        paint_area(strip, picture, view, (0, 0, width, rows))
        out[top : top + rows] = made(strip, top)
        if progress:
            progress((top + rows) / height)
    return out


def pixel_size(box: Box, scale: float) -> tuple[int, int]:
    """Width and height of a box in pixels, at least one each. Raises RenderError for sizes that no memory would
    hold."""
    width, height = max(round((box[2] - box[0]) * scale), 1), max(round((box[3] - box[1]) * scale), 1)
    if width * height > MAX_PIXELS:
        raise RenderError(f"{width} x {height} pixels are more than {MAX_PIXELS:,}; choose a smaller size")
    return width, height


def view_of(box: Box, scale: float) -> Affine:
    """The map from the sheet to the pixels of a box."""
    return multiply(scaling(scale, scale), translation(-box[0], -box[1]))


def paint_area(
    pixels: Pixels, picture: Picture, view: Affine, area: PixelBox, kept: MixedCache | None = None,
    stop: Stop | None = None, boxes: Boxes | None = None,
) -> bool:  # fmt: skip
    """Draw the chunks that touch ``area`` (canvas pixels) into ``pixels``, clearing it first.

    ``stop`` is asked now and then; returns False when it ended the drawing early. Soft things are kept in ``kept``.
    ``boxes`` are those of the picture's chunks, for callers that know them already.
    """
    surface = float_surface(pixels)
    canvas = surface.getCanvas()
    canvas.clipRect(skia.Rect.MakeLTRB(*area))
    canvas.clear(0)
    if picture.ground is not None:
        draw_ground(canvas, picture, view)
    painter = Painter(canvas, view, area, kept, now_and_then(stop))
    try:
        for chunk in _touched(picture, view, area, boxes):
            painter.draw(chunk.items)
    except Stopped:
        return False
    surface.flushAndSubmit()
    return True


def paint_draft(
    picture: Picture,
    view: Affine,
    area: PixelBox,
    state: DraftState,
    boxes: Boxes | None = None,
    canvas: PixelBox | None = None,
) -> Planes:
    """The part ``area`` of a ``canvas``, drawn coarsely; what the next draft may need is put into ``state``."""
    from volumen.render.draft.draw import draw_draft  # compiled code loads slowly

    items = [i for chunk in _touched(picture, view, area, boxes) for i in chunk.items]
    return draw_draft(picture, items, view, area, state, canvas or area)


def _touched(picture: Picture, view: Affine, area: PixelBox, boxes: Boxes | None) -> Iterator[Chunk]:
    """The chunks that may paint something inside an area, in their order."""
    scale = (view[0] ** 2 + view[1] ** 2) ** 0.5 or 1.0
    left, top = (area[0] - view[4] - 1) / scale, (area[1] - view[5] - 1) / scale
    right, bottom = (area[2] - view[4] + 1) / scale, (area[3] - view[5] + 1) / scale
    l, t, r, b = chunk_boxes(picture.chunks) if boxes is None else boxes
    touched = (l < right) & (t < bottom) & (r > left) & (b > top)
    return (picture.chunks[i] for i in np.flatnonzero(touched).tolist())


def chunk_boxes(chunks: Sequence[Chunk]) -> Boxes:
    """The boxes of n chunks as (4, n): all left, top, right and bottom edges in sheet units."""
    return np.array([c.box for c in chunks], dtype=np.float64).reshape(-1, 4).T


def draw_ground(canvas: Any, picture: Picture, view: Affine) -> None:
    """Fill the sheet with its ground, white if it has none."""
    c: Colour = picture.ground or Colour(1, 1, 1)
    box = transform_box((0, 0, picture.width, picture.height), view)
    paint = skia.Paint(AntiAlias=True)
    paint.setColor4f(skia.Color4f(c.r, c.g, c.b, c.a), None)
    canvas.drawRect(skia.Rect.MakeLTRB(*box), paint)


_BAYER = np.array([[0]])
for _ in range(3):
    _BAYER = np.block([[4 * _BAYER, 4 * _BAYER + 2], [4 * _BAYER + 3, 4 * _BAYER + 1]])
# An ordered 8x8 threshold, -0.5..0.5 of one level, the same for all channels so greys stay grey.
_DITHER = ((_BAYER + 0.5) / 64 - 0.5).astype(np.float32)


def dither_tile(height: int, width: int, top: int = 0, left: int = 0) -> NDArray[np.float32]:
    """The threshold pattern for an area whose first pixel is (left, top) of the whole."""
    tile = np.roll(_DITHER, (-(top % 8), -(left % 8)), axis=(0, 1))
    return np.tile(tile, (height // 8 + 1, width // 8 + 1))[:height, :width]


def straight_bytes(pixels: Pixels, top: int = 0) -> NDArray[np.uint8]:
    """Straight RGBA uint8 of premultiplied float pixels, dithered by at most half a level."""
    noise = dither_tile(pixels.shape[0], pixels.shape[1], top) * np.float32(0.98)
    # Values that are whole levels already stay as they are: flat colours are exact.
    levels = [np.floor(p * np.float32(255) + np.float32(0.5) + noise) for p in _straight(pixels)]
    return np.asarray(cv2.merge([np.clip(p, 0, 255).astype(np.uint8) for p in levels]))


def straight_words(pixels: Pixels) -> NDArray[np.uint16]:
    """Straight RGBA uint16 of premultiplied float pixels; steps are too small to need dithering."""
    return np.asarray(cv2.merge([np.round(p * np.float32(65535)).astype(np.uint16) for p in _straight(pixels)]))


def _straight(pixels: Pixels) -> list[NDArray[np.float32]]:
    """The four planes of straight colours and alpha (h, w): numpy goes ten times faster through long rows."""
    *colours, held = cv2.split(pixels)
    alpha = np.clip(held, 0, 1, dtype=np.float32)
    seen = alpha > 1e-6
    straight = [np.divide(c, alpha, out=np.zeros_like(c), where=seen) for c in colours]
    return [*(np.clip(c, 0, 1) for c in straight), alpha]
