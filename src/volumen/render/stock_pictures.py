"""Artwork for the slots of stock: a part of the sheet, clear or on its ground, never beyond the sheet's edge."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.picture.instructions import Picture
from volumen.picture.stopping import Stopped
from volumen.render.raster import paint_area, pixel_size, view_of
from volumen.shading.lamp import Lights
from volumen.stock.light import StockLamp

Pixels = NDArray[np.float32]


def lamp_of(lights: Lights) -> StockLamp:
    """The artwork's key lamp, as stock sees it."""
    return StockLamp(round(lights.key.bearing, 2), round(lights.key.height, 2), round(lights.key.size, 3))


def slot_picture(
    document: Document, picture: Picture, box: Box, width: int, ground: bool, stop: Callable[[], bool] = lambda: False
) -> Pixels:
    """A part of the sheet so many pixels wide (h, w, 4; premultiplied, encoded). ``picture`` is built without the
    ground; with ``ground`` the sheet's own, or white, fills the slot. Raises Stopped."""
    scale = width / (box[2] - box[0])
    w, h = pixel_size(box, scale)
    canvas = np.zeros((h, w, 4), np.float32)
    if not paint_area(canvas, picture, view_of(box, scale), (0, 0, w, h), stop=stop):
        raise Stopped
    sheet = document.sheet
    left, top = round(-box[0] * scale), round(-box[1] * scale)
    right, foot = round((sheet.width - box[0]) * scale), round((sheet.height - box[1]) * scale)
    cut = np.zeros_like(canvas)
    inside = np.s_[max(top, 0) : max(foot, 0), max(left, 0) : max(right, 0)]
    cut[inside] = canvas[inside]
    if ground:
        colour = sheet.ground.rgb if sheet.ground is not None else (1.0, 1.0, 1.0)
        cut += np.array([*colour, 1.0], np.float32) * (1 - cut[..., 3:])
    return cut
