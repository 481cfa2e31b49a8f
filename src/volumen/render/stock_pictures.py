"""Artwork on stock: the part of the sheet for each slot, the picture, and how every object reads there."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.compose.scene import build
from volumen.devices.cover import without_stock
from volumen.geometry.affine import multiply, scaling, translation
from volumen.geometry.engine import PathOpError, matrix, to_engine
from volumen.geometry.path import Box
from volumen.model.nodes import Document, Group
from volumen.model.sheet import PER_UNIT
from volumen.model.tree import place_of, seen_chains
from volumen.outline.silhouettes import silhouette_path
from volumen.picture.instructions import Picture
from volumen.picture.stopping import Stopped
from volumen.render.raster import paint_area, pixel_size, view_of
from volumen.shading.lamp import Lights
from volumen.stock.contrast import Labels, Reading, readings
from volumen.stock.light import StockLamp
from volumen.stock.prepared import on_stock
from volumen.stock.stocks import StockView

Pixels = NDArray[np.float32]
_slots: Cache[Pixels] = Cache("artwork for the slots of stock", most_bytes=48_000_000)


class StockPicture(NamedTuple):
    """8-bit sRGB and alpha (h, w, 4); what was read, the worst first."""

    pixels: NDArray[np.uint8]
    read: list[Reading]


def stock_picture(
    document: Document, view: StockView, width: int, flat: bool = False, stop: Callable[[], bool] = lambda: False,
) -> StockPicture:  # fmt: skip
    """A document's artwork on stock, in a picture so many pixels wide; what stands for stock in the drawing itself is
    left out. Raises StockProblem and Stopped."""
    given, document = document, without_stock(document)
    sheet = document.sheet.width, document.sheet.height
    pictures: list[Picture] = []
    made: dict[tuple[Box, int], Pixels] = {}

    def artwork(box: Box, wide: int) -> Pixels:
        key = (id(given), flat, box, wide, view.stock.ground)  # the same for all colours of a stock
        known = _slots.get(key)
        if known is None:
            pictures[:] = pictures or [build(document, flat, ground=False, stop=stop)]
            known = slot_picture(document, pictures[0], box, wide, view.stock.ground, stop)
            _slots.put(key, given, known, known.nbytes)
        made[box, wide] = known
        return known

    per_mm = PER_UNIT["mm"] if view.own_size else 0.0
    shown = on_stock(view.stock, view.colour, view.ink, lamp_of(document.lights), width, sheet, artwork, per_mm)
    read: list[Reading] = []
    if view.read:
        layer, slot = shown.largest
        box = shown.boxes[slot.aspect]
        cover = next(p[..., 3] for (b, _), p in made.items() if b == box)
        read = readings(shown.picture, layer, slot, labels_of(document, box, slot.size, cover))
    levels = np.clip(shown.picture * 255 + 0.5, 0, 255).astype(np.uint8)
    return StockPicture(np.dstack([levels, np.full(levels.shape[:2], 255, np.uint8)]), read)


def labels_of(document: Document, box: Box, size: tuple[int, int], cover: Pixels) -> Labels:
    """Which object lies on top of each pixel of a part of the sheet (h, w): those that hold no others, by number, as
    far as the artwork covers anything (knockouts uncover it)."""
    w, h = size
    pixels = np.zeros((h, w, 4), np.uint8)
    surface = skia.Surface(pixels, colorType=skia.kRGBA_8888_ColorType)
    canvas = surface.getCanvas()
    canvas.concat(
        matrix(multiply(scaling(w / (box[2] - box[0]), h / (box[3] - box[1])), translation(-box[0], -box[1])))
    )
    for chain in seen_chains(document, lambda n: n.visible and n.substance):
        node = chain[-1]
        if isinstance(node, Group) and not node.recipe:
            continue
        try:  # a group's own number lies beneath those of what it holds: on copies and steps alone
            path = to_engine(silhouette_path(node, place_of(chain)))
        except PathOpError:
            continue
        canvas.drawPath(path, skia.Paint(Color=0xFF000000 | (node.id & 0xFFFFFF), AntiAlias=False))
    surface.flushAndSubmit()
    there = cv2.resize(cover, (w, h), interpolation=cv2.INTER_AREA) > 0.5
    plain = pixels.astype(np.int32)
    return np.asarray(np.where(there, plain[..., 0] << 16 | plain[..., 1] << 8 | plain[..., 2], 0), np.int32)


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
