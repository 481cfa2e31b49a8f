"""Layers whose pixels are worked over: blurred, or faded out towards their edge."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np
import skia

from volumen.geometry.affine import Affine, mean_scale, multiply, scaling, translation
from volumen.geometry.path import Box, boxes_meet, transform_box
from volumen.picture.bounds import REACH, item_box, items_box
from volumen.picture.instructions import Clip, Item, Layer
from volumen.render.exact.boxes import PixelBox, intersect, pixel_box, size_of
from volumen.render.exact.paints import Pixels, float_surface
from volumen.render.exact.soften import LONGEST_LINE, feathered, gaussian_blur, line_blur

# Blurs that need more pixels than this are worked out at a lower resolution.
LARGEST_BLUR = 12_000_000
# Wide blurs over large areas show no detail: they are worked out so small that they are this many pixels wide.
_LARGE, _WIDE, _ENOUGH = 4_000_000, 32.0, 16.0


def evenly_blurred(item: Layer) -> bool:
    """Whether a soft layer is blurred in all directions, and nothing else."""
    return item.feather <= 0 and item.blur_angle is None


Draw = Callable[[Any, Affine, PixelBox, tuple[Item, ...]], None]


class Softener:
    """Works over what items show in ``area`` of a canvas that ``view`` maps the sheet to.

    ``draw`` draws items on a canvas (given with its own view and area); ``rough`` blurs are coarser.
    """

    def __init__(self, view: Affine, area: Box, draw: Draw, rough: bool = False) -> None:
        self.view, self.area, self.rough = view, area, rough
        self.scale = mean_scale(view)
        self._draw = draw

    def place(self, item: Layer) -> PixelBox | None:
        """The pixels that a soft layer must hold: what it paints, near to where it is seen."""
        box, seen = items_box(item.items), item_box(item)
        if box is None or seen is None:
            return None
        x, y = self._reach(item)
        visible = intersect(pixel_box(transform_box(seen, self.view), 1), self.area)
        wanted = (visible[0] - x, visible[1] - y, visible[2] + x, visible[3] + y)
        l, t, r, b = pixel_box(transform_box(box, self.view), 0)
        full = (l - x, t - y, r + x, b + y)
        inside = visible[0] < visible[2] and visible[1] < visible[3] and boxes_meet(full, wanted)
        return intersect(full, wanted) if inside else None

    def _reach(self, item: Layer) -> tuple[int, int]:
        """How many pixels to the side and up or down a point of a soft layer shows."""
        reach = REACH * max(item.blur, item.feather) * self.scale
        if item.blur_angle is None or item.feather > 0:
            return math.ceil(reach) + 2, math.ceil(reach) + 2
        reach, along = min(reach, REACH * LONGEST_LINE), math.radians(self._line(item.blur_angle))
        return math.ceil(abs(reach * math.cos(along))) + 2, math.ceil(abs(reach * math.sin(along))) + 2

    def _line(self, angle: float) -> float:
        """The direction on the canvas, in degrees, of one on the sheet."""
        return angle + math.degrees(math.atan2(self.view[1], self.view[0]))

    def softened(self, item: Layer, place: PixelBox) -> tuple[Pixels, int, int]:
        """What a layer shows, worked over, and where its first pixel lies; ``place`` holds all that is seen of it."""
        if evenly_blurred(item):
            return self.blurred(item.items, place, self.view, item.blur * self.scale, alpha_only=False)
        if size_of(place) > LARGEST_BLUR:  # too near to be seen whole: what lies far outside the view is left out
            place = intersect(place, self.area)
        pixels = self.offscreen(item.items, place, multiply(translation(-place[0], -place[1]), self.view), False)
        if item.feather > 0:
            pixels = feathered(pixels, item.feather * self.scale, self.rough)
        else:
            pixels = line_blur(pixels, item.blur * self.scale, self._line(item.blur_angle or 0.0))
        return pixels, place[0], place[1]

    def blurred(
        self, items: tuple[Item, ...], place: PixelBox, view: Affine, sigma: float, alpha_only: bool,
        shift: tuple[int, int] = (0, 0),
    ) -> tuple[Pixels, int, int]:  # fmt: skip
        """Blurred pixels (or alpha) of items that cover ``place``, and where their first pixel lies.

        Where that would take too much memory or time (a very wide blur seen from near), the items are drawn smaller,
        and only the part inside ``area`` (moved back by ``shift``) is enlarged again.
        """
        size = size_of(place)
        k = min((LARGEST_BLUR / max(size, 1)) ** 0.5, 1.0)
        if size > _LARGE and sigma > _WIDE:
            k = min(k, max(_ENOUGH / sigma, 1e-3))
        if k >= 1:
            drawn = self.offscreen(items, place, multiply(translation(-place[0], -place[1]), view), alpha_only)
            return gaussian_blur(drawn, sigma, self.rough), place[0], place[1]
        small = (0, 0, max(round((place[2] - place[0]) * k), 1), max(round((place[3] - place[1]) * k), 1))
        reduced = multiply(scaling(k, k), multiply(translation(-place[0], -place[1]), view))
        pixels = gaussian_blur(self.offscreen(items, small, reduced, alpha_only), sigma * k, self.rough)
        seen = (self.area[0] - shift[0], self.area[1] - shift[1], self.area[2] - shift[0], self.area[3] - shift[1])
        l, t, r, b = intersect(place, seen)
        if l >= r or t >= b:
            return np.zeros((1, 1) if alpha_only else (1, 1, 4), np.float32), l, t
        back = np.array([[k, 0, (l - place[0] + 0.5) * k - 0.5], [0, k, (t - place[1] + 0.5) * k - 0.5]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        return np.asarray(cv2.warpAffine(pixels, back, (r - l, b - t), flags=flags), dtype=np.float32), l, t

    def offscreen(self, items: tuple[Item, ...], place: PixelBox, view: Affine, alpha_only: bool) -> Pixels:
        """Items drawn on a canvas of their own of the size of ``place``; ``view`` maps the sheet to it."""
        w, h = place[2] - place[0], place[3] - place[1]
        if not alpha_only:
            pixels = np.zeros((h, w, 4), dtype=np.float32)
            surface = float_surface(pixels)
        else:
            alpha = np.zeros((h, w), dtype=np.uint8)
            info = skia.ImageInfo.Make(w, h, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
            surface = skia.Surface.MakeRasterDirect(info, alpha, w)
        self._draw(surface.getCanvas(), view, (0, 0, w, h), items)
        surface.flushAndSubmit()
        return alpha.astype(np.float32) / np.float32(255) if alpha_only else pixels


def sees(clip: Clip | None, view: Affine, area: Box) -> bool:
    """Whether anything inside a clip may lie in the area."""
    if clip is None:
        return True
    box = clip.path.hull()
    return box is not None and boxes_meet(transform_box(box, multiply(view, clip.transform)), area)
