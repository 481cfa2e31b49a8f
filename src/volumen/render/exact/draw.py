"""Drawing a picture's items on a canvas of float pixels.

The canvas holds premultiplied RGBA in encoded sRGB, so blend modes act as W3C Compositing and Blending, SVG
and PDF define them. Blurs happen outside the canvas, on float arrays.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import partial
from typing import Any

import numpy as np
import skia

from volumen.caching import MixedCache
from volumen.geometry.affine import IDENTITY, Affine, mean_scale, multiply, scaling, translation
from volumen.geometry.engine import matrix, set_pen, to_engine
from volumen.geometry.path import Box, boxes_meet, transform_box
from volumen.picture.bounds import REACH, item_box, items_box
from volumen.picture.instructions import Bitmap, Clip, FillPath, Item, Layer, Soft, StrokePath, one_colour, shade_colour
from volumen.picture.stopping import Stop, Stopped
from volumen.render.drawer import Drawer
from volumen.render.exact import outlines
from volumen.render.exact.boxes import PixelBox, intersect, pixel_box, size_of
from volumen.render.exact.paints import BLEND, Pixels, float_image, image_of, paint_for
from volumen.render.exact.pixel_fills import draw_field
from volumen.render.exact.soft_layers import LARGEST_BLUR, Softener, evenly_blurred, sees
from volumen.shading.paint import Colour, is_field
from volumen.shading.ramp import effective_paint


class Painter(Drawer):
    """Draws items on one canvas. ``view`` maps the sheet to the canvas; ``area`` is the part that is needed,
    in canvas pixels. Blurred masks of shadows and glows are put into ``kept`` and found there again.
    ``stop`` is asked between items; when it says so, Stopped is raised."""

    def __init__(
        self, canvas: Any, view: Affine, area: Box, kept: MixedCache | None = None, stop: Stop | None = None
    ) -> None:
        self.canvas = canvas
        self.view = view
        self.area = area
        self.scale = mean_scale(view)
        self.kept = kept
        self.stop = stop
        self.softener = Softener(view, area, partial(draw_items, stop=stop))

    def draw(self, items: Iterable[Item]) -> None:
        """Draw items, back to front. Raises Stopped."""
        if self.stop is None:
            super().draw(items)
            return
        for item in items:
            if self.stop():
                raise Stopped
            super().draw((item,))

    def _fill(self, item: FillPath) -> None:
        if is_field(effective_paint(item.paint)):
            draw_field(self.canvas, item, self.view, self.area)
        else:
            self._plain_fill(item)

    def _plain_fill(self, item: FillPath) -> None:
        place = multiply(self.view, item.transform)
        self.canvas.setMatrix(matrix(place))
        outlines.fill(self.canvas, item.path, paint_for(item.paint, item.opacity, item.blend, place))

    def _stroke(self, item: StrokePath) -> None:
        place = multiply(self.view, item.transform)
        self.canvas.setMatrix(matrix(place))
        self.canvas.drawPath(to_engine(item.path), stroke_paint(item, place))

    def _bitmap(self, item: Bitmap) -> None:
        image = image_of(item.asset)
        if image is None or not image.width():
            return
        fit = scaling(item.width / image.width(), item.height / image.height())
        self.canvas.setMatrix(matrix(multiply(multiply(self.view, item.transform), fit)))
        paint = skia.Paint(AntiAlias=True, BlendMode=BLEND[item.blend])
        paint.setAlphaf(max(0.0, min(item.opacity, 1.0)))
        smooth = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
        self.canvas.drawImage(image, 0, 0, smooth, paint)

    def _clip(self, clip: Clip | None) -> None:
        if clip is not None:
            self.canvas.setMatrix(matrix(multiply(self.view, clip.transform)))
            self.canvas.clipPath(to_engine(clip.path), skia.ClipOp.kIntersect, True)

    def _layer(self, item: Layer) -> None:
        if not sees(item.clip, self.view, self.area):
            return
        if max(item.blur, item.feather) * self.scale >= 0.1:
            self._soft_layer(item)
            return
        shade = shade_colour(item)
        if shade is not None:
            self._shade(item, shade)
            return
        self.canvas.save()
        self._clip(item.clip)
        if not item.at_rest:
            paint = skia.Paint(AntiAlias=True)
            paint.setAlphaf(max(0.0, min(item.opacity, 1.0)))
            paint.setBlendMode(BLEND[item.blend])
            box = item_box(item)
            bounds = skia.Rect.MakeLTRB(*transform_box(box, self.view)) if box is not None else None
            self.canvas.resetMatrix()
            self.canvas.saveLayer(bounds, paint)
            self.draw(item.items)
            self.canvas.restore()
        else:
            self.draw(item.items)
        self.canvas.restore()

    def _soft_layer(self, item: Layer) -> None:
        """A layer whose pixels are worked over: blurred, or faded out towards its edge."""
        place = self.softener.place(item)
        if place is None:
            return
        paint = skia.Paint(BlendMode=BLEND[item.blend])
        opacity = max(0.0, min(item.opacity, 1.0))
        one = one_colour(item.items) if evenly_blurred(item) else None
        if one is not None:  # a blurred alpha in one colour is a quarter of the work
            pixels, x, y = self.softener.blurred(item.items, place, self.view, item.blur * self.scale, alpha_only=True)
            self._put_mask(pixels, x, y, ((one.r, one.g, one.b, opacity), paint), item.clip)
            return
        pixels, x, y = self.softener.softened(item, place)
        paint.setAlphaf(opacity)
        self._put(pixels, x, y, paint, item.clip)

    def _shade(self, item: Layer, colour: Colour) -> None:
        """Soft silhouettes of one colour: their alphas are united, and painted once. Of those that take one light away
        each also hides what is before it."""
        box = item_box(item)
        l, t, r, b = intersect(pixel_box(transform_box(box, self.view), 1), self.area) if box else (0, 0, 0, 0)
        if l >= r or t >= b:
            return
        taken = np.zeros((b - t, r - l), np.float32)
        for part in item.items:
            assert isinstance(part, Soft)
            found = self._mask_of(part)
            if found is None:
                continue
            mask, x, y = found
            x, y = round(x), round(y)
            h, w = mask.shape
            own = (max(t - y, 0), max(l - x, 0), min(b - y, h), min(r - x, w))
            if own[0] < own[2] and own[1] < own[3]:
                seen = mask[own[0] : own[2], own[1] : own[3]]
                at = taken[own[0] + y - t : own[2] + y - t, own[1] + x - l : own[3] + x - l]
                dark = seen * np.float32(max(0.0, min(part.opacity, 1.0)))
                at *= 1 - (seen if item.one_light else dark)
                at += dark
        paint = skia.Paint(BlendMode=BLEND[item.blend])
        alpha = max(0.0, min(colour.a * item.opacity, 1.0))
        self._put_mask(taken, l, t, ((colour.r, colour.g, colour.b, alpha), paint), item.clip)

    def _soft(self, item: Soft) -> None:
        found = self._mask_of(item)
        if found is None:
            return
        mask, x, y = found
        if item.ramp:
            self._put_ramp(mask, round(x), round(y), item)
        else:
            self._put_mask(mask, x, y, paint_from_colour(item), item.clip)

    def _mask_of(self, item: Soft) -> tuple[Pixels, float, float] | None:
        """The blurred alpha of a soft silhouette, and its place on the canvas; None if it is not seen."""
        sigma = item.sigma * self.scale
        dx, dy = item.offset[0] * self.view[0], item.offset[1] * self.view[3]
        key = (id(item), self.view[:4])
        hit = self.kept.get(key) if self.kept else None
        if hit is not None:
            mask, (mx, my) = hit
            return mask, mx + self.view[4], my + self.view[5]
        made = self._soft_mask(item, sigma, (dx, dy))
        if made is None:
            return None
        mask, x, y, whole = made
        if self.kept and whole and mask.nbytes <= self.kept.most_bytes // 4:
            self.kept.put(key, item, (mask, (x - self.view[4], y - self.view[5])), mask.nbytes)
        return mask, x, y

    def _soft_mask(
        self, item: Soft, sigma: float, shift: tuple[float, float]
    ) -> tuple[Pixels, float, float, bool] | None:
        """The blurred alpha as (h, w) float, its place on the canvas, and whether it is the whole of it.

        The shift's whole pixels move the mask; the fraction goes into the drawing, so soft edges stay exact.
        """
        whole_x, whole_y = math.floor(shift[0]), math.floor(shift[1])
        moved = multiply(translation(shift[0] - whole_x, shift[1] - whole_y), self.view)
        area = (self.area[0] - whole_x, self.area[1] - whole_y, self.area[2] - whole_x, self.area[3] - whole_y)
        source = items_box(item.items)
        if source is None:
            return None
        full = pixel_box(transform_box(source, moved), REACH * sigma + 1)
        reach = math.ceil(REACH * sigma) + 2
        wanted = (area[0] - reach, area[1] - reach, area[2] + reach, area[3] + reach)
        if not boxes_meet(full, wanted):
            return None
        whole = self.kept is not None and size_of(full) <= 4_000_000
        place = full if whole else intersect(full, wanted)
        mask, x, y = self.softener.blurred(item.items, place, moved, sigma, alpha_only=True, shift=(whole_x, whole_y))
        return mask, x + whole_x, y + whole_y, whole and size_of(place) <= LARGEST_BLUR

    def _put(self, pixels: Pixels, x: float, y: float, paint: Any, clip: Clip | None) -> None:
        image = float_image(pixels)
        self.canvas.save()
        self._clip(clip)
        self.canvas.resetMatrix()
        self.canvas.drawImage(image, x, y, skia.SamplingOptions(), paint)
        self.canvas.restore()

    def _seen(self, mask: Pixels, x: int, y: int) -> PixelBox:
        """The part of a mask whose first pixel lies at (x, y) that is inside ``area``, in the mask's own pixels."""
        h, w = mask.shape
        l, t = max(int(self.area[0]) - x, 0), max(int(self.area[1]) - y, 0)
        return l, t, min(math.ceil(self.area[2]) - x, w), min(math.ceil(self.area[3]) - y, h)

    def _put_ramp(self, mask: Pixels, x: int, y: int, item: Soft) -> None:
        """Draw a soft alpha in the colours that a ramp gives its strengths."""
        l, t, r, b = self._seen(mask, x, y)
        if l >= r or t >= b:
            return
        rows = np.array(item.ramp, dtype=np.float32)
        at = np.clip(mask[t:b, l:r], 0, 1) * (len(rows) - 1)
        low = np.minimum(at.astype(np.int32), len(rows) - 2)
        share = (at - low)[..., None]
        pixels = (rows[low] * (1 - share) + rows[low + 1] * share).astype(np.float32)
        pixels[..., 3] *= max(0.0, min(item.colour.a * item.opacity, 1.0))
        pixels[..., :3] *= pixels[..., 3:]
        self._put(np.ascontiguousarray(pixels), x + l, y + t, skia.Paint(BlendMode=BLEND[item.blend]), item.clip)

    def _put_mask(self, mask: Pixels, x: float, y: float, colour: tuple[Any, Any], clip: Clip | None) -> None:
        """Draw a soft alpha in one colour. Only the part inside ``area`` is coloured in."""
        x, y = round(x), round(y)
        l, t, r, b = self._seen(mask, x, y)
        if l >= r or t >= b:
            return
        (cr, cg, cb, ca), paint = colour
        part = mask[t:b, l:r]
        pixels = np.empty((b - t, r - l, 4), dtype=np.float32)
        for i, v in enumerate((cr * ca, cg * ca, cb * ca, ca)):
            np.multiply(part, np.float32(v), out=pixels[..., i])
        self._put(pixels, x + l, y + t, paint, clip)


def stroke_paint(item: StrokePath, place: Affine = IDENTITY) -> Any:
    """The paint library's pen for a line."""
    paint = paint_for(item.paint, item.opacity, item.blend, place)
    set_pen(paint, item.width, item.cap, item.join, item.miter)
    return paint


def paint_from_colour(item: Soft) -> tuple[tuple[float, float, float, float], Any]:
    """The straight colour of a soft item with its opacity, and the paint that blends it in."""
    c = item.colour
    paint = skia.Paint()
    paint.setBlendMode(BLEND[item.blend])
    return (c.r, c.g, c.b, max(0.0, min(c.a * item.opacity, 1.0))), paint


def draw_items(canvas: Any, view: Affine, area: Box, items: tuple[Item, ...], stop: Stop | None = None) -> None:
    """Draw items on a canvas. Raises Stopped when ``stop`` says so."""
    Painter(canvas, view, area, stop=stop).draw(items)
