"""Drawing for frames that last a moment: while a hand moves, soft things and worked-out paints are drawn coarsely.

A lamp that turns moves shadows more than it changes them: their blurred alpha is drawn as small as its softness
allows, in bytes, and kept by the outlines it came from, whatever items hold those and wherever they fall.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.build.bounds import REACH, items_box
from volumen.build.picture import FillPath, Item, Layer, Soft, StrokePath, one_colour
from volumen.geometry.affine import Affine, Point, apply, multiply, scaling, translation
from volumen.geometry.engine import matrix
from volumen.geometry.engine_form import to_engine
from volumen.geometry.path import Box, boxes_meet, grow_box, transform_box
from volumen.render.draw import Painter, PixelBox, Pixels, evenly_blurred, stroke_paint
from volumen.render.fields import draw_pixels, field_range, rough_pixels
from volumen.render.paints import BLEND, paint_for
from volumen.shading.kept import Kept
from volumen.shading.paint import MeshPaint, is_field
from volumen.shading.ramp import effective_paint

Bytes = NDArray[np.uint8]
Pixel = tuple[int, int]
Ramp = tuple[tuple[float, float, float, float], ...]
_SHARPEST = 1.5  # pixels of softness that a reduced mask must keep
_MOST = 1_000_000  # pixels of a mask
_LATE = 11.0  # ms: with the build, a frame must not take more than 16
COARSEST = 3
_PLAIN_BYTES = 3000  # roughly, of a path and its paint in the paint library


@dataclass
class Pace:
    """How many times smaller drafts of large areas are drawn, so that they keep up with a hand."""

    shrink: int = 2
    late: int = 0

    def took(self, ms: float) -> None:
        """A draft took so long. The first at a size finds nothing kept and says little: two late ones count."""
        self.late = self.late + 1 if ms > _LATE else 0
        if self.late >= 2 and self.shrink < COARSEST:
            self.shrink, self.late = self.shrink + 1, 0
        elif self.shrink > 2 and ms * (self.shrink / (self.shrink - 1)) ** 2 < _LATE / 2:
            self.shrink -= 1


@dataclass(frozen=True)
class Mask:
    """A blurred alpha (h, w) whose first pixel lies (x, y) from the anchor of what it shows; ``whole`` if nothing of it
    is left out."""

    alpha: Bytes
    x: int
    y: int
    whole: bool


class QuickPainter(Painter):
    """A painter that cuts no slivers: it paints what a moved copy leaves of an outline."""

    rough = True

    def _plain_fill(self, item: FillPath) -> None:
        memo = item.path.memo
        if "later" not in memo:
            super()._plain_fill(item)
            return
        path, move = memo["uncovered"]
        rest = skia.Path(to_engine(path))
        rest.transform(matrix(move))
        rest.toggleInverseFillType()
        self.canvas.save()
        self.canvas.setMatrix(matrix(multiply(self.view, item.transform)))
        self.canvas.clipPath(to_engine(path), skia.ClipOp.kIntersect, True)
        self.canvas.drawPath(rest, paint_for(item.paint, item.opacity, item.blend))
        self.canvas.restore()


class RoughPainter(QuickPainter):
    """A painter of drafts."""

    def __init__(self, canvas: Any, view: Affine, area: Box, kept: Kept) -> None:
        super().__init__(canvas, view, area)
        self.drafts = kept

    def _fill(self, item: FillPath) -> None:
        if not is_field(effective_paint(item.paint)):
            self._plain_fill(item)
            return
        place = multiply(self.view, item.transform)
        box = field_range(item, place, self.area)
        if box is None:
            return
        paint = id(item.paint) if isinstance(item.paint, MeshPaint) else item.paint
        x, y = round(place[4]), round(place[5])  # half a pixel is nothing while a thing moves
        there = (box[0] - x, box[1] - y, box[2] - x, box[3] - y)
        key = ("field", paint, id(item.path), id(item.course), place[:4], there)
        pixels = self.drafts.get(key)
        if pixels is None:
            pixels = rough_pixels(item, place, box)
            self.drafts.put(key, (item.paint, item.path, item.course), pixels, pixels.nbytes)
        draw_pixels(self.canvas, item, place, pixels, box)

    def _soft(self, item: Soft) -> None:
        c = item.colour
        rows = item.ramp or ((c.r, c.g, c.b, 0.0), (c.r, c.g, c.b, 1.0))
        move = (item.offset[0] * self.view[0], item.offset[1] * self.view[3])
        self._put_soft(item, item.sigma, move, rows, c.a * item.opacity)

    def _plain_fill(self, item: FillPath) -> None:
        if "later" in item.path.memo:
            super()._plain_fill(item)
        else:
            self._ready(item, 1.0)

    def _stroke(self, item: StrokePath) -> None:
        self._ready(item, item.width * (item.miter if item.join == "miter" else 1.5))

    def _ready(self, item: FillPath | StrokePath, grow: float) -> None:
        """Draw something plain, its form for the paint library kept while it stays the same."""
        key = ("plain", id(item), self.view)
        ready = self.drafts.get(key)
        if ready is None:
            paint = (
                stroke_paint(item) if isinstance(item, StrokePath) else paint_for(item.paint, item.opacity, item.blend)
            )
            place = multiply(self.view, item.transform)
            box = transform_box(grow_box(item.path.hull() or (0.0, 0.0, 0.0, 0.0), grow), place)
            ready = (matrix(place), to_engine(item.path), paint, box)
            self.drafts.put(key, item, ready, _PLAIN_BYTES)
        place, path, paint, box = ready
        if boxes_meet(box, self.area):
            self.canvas.setMatrix(place)
            self.canvas.drawPath(path, paint)

    def _soft_layer(self, item: Layer) -> None:
        one = one_colour(item.items) if evenly_blurred(item) else None
        if one is None:
            super()._soft_layer(item)
        else:
            rows = ((one.r, one.g, one.b, 0.0), (one.r, one.g, one.b, 1.0))
            self._put_soft(item, item.blur, (0.0, 0.0), rows, item.opacity)

    def _softened(self, item: Layer, place: PixelBox) -> tuple[Pixels, int, int]:
        key = ("layer", id(item), self.view, place)
        made: tuple[Pixels, int, int] | None = self.drafts.get(key)
        if made is None:
            made = super()._softened(item, place)
            self.drafts.put(key, item, made, made[0].nbytes)
        return made

    def _put_soft(self, item: Soft | Layer, sigma: float, move: Point, rows: Ramp, opacity: float) -> None:
        """Draw the blurred alpha of what an item holds in the colours that ``rows`` give its strengths."""
        known = self.drafts.get(id(item.items))
        if known is None:
            anchor = self._anchor(item.items)
            known = (anchor, tuple(_source(i, anchor) for i in item.items))
            self.drafts.put(id(item.items), item.items, known, _PLAIN_BYTES)
        anchor, sources = known
        key = ("mask", sources, sigma, self.view[:4])
        x, y = (round(v) for v in apply(self.view, anchor))
        kept = self.drafts.get((key, rows, opacity))
        if kept is None:
            mask = self.drafts.get(key) or self._mask(item.items, sigma * self.scale, move, (x, y))
            if mask is None:
                return
            pixels = np.ascontiguousarray(_table(rows, opacity)[mask.alpha])
            kept = (pixels, _image(pixels), mask.x, mask.y)
            if mask.whole:
                self.drafts.put(key, item.items, mask, mask.alpha.nbytes)
                self.drafts.put((key, rows, opacity), item.items, kept, pixels.nbytes)
        pixels, image, dx, dy = kept
        left, top = x + dx + round(move[0]), y + dy + round(move[1])
        h, w = pixels.shape[:2]
        if not (boxes_meet((left, top, left + w, top + h), self.area) and self._sees(item.clip)):
            return
        self.canvas.save()
        self._clip(item.clip)
        self.canvas.resetMatrix()
        paint = skia.Paint(BlendMode=BLEND[item.blend])
        self.canvas.drawImage(image, left, top, skia.SamplingOptions(), paint)
        self.canvas.restore()

    def _anchor(self, items: tuple[Item, ...]) -> Point:
        """A place on the sheet that moves with what is drawn."""
        first = next((i for i in items if isinstance(i, FillPath | StrokePath)), None)
        return (first.transform[4], first.transform[5]) if first is not None else (0.0, 0.0)

    def _mask(self, items: tuple[Item, ...], sigma: float, move: Point, anchor: Pixel) -> Mask | None:
        """The blurred alpha of items: all of it or, where that is too much, what will be seen; None if nothing is."""
        source = items_box(items)
        if source is None:
            return None
        reach = REACH * sigma + 2
        box = grow_box(transform_box(source, self.view), reach)
        seen = (
            self.area[0] - move[0] - reach, self.area[1] - move[1] - reach,
            self.area[2] - move[0] + reach, self.area[3] - move[1] + reach,
        )  # fmt: skip
        if not boxes_meet(box, seen):
            return None
        k = 1 << max(math.floor(math.log2(max(sigma / _SHARPEST, 1))), 0)
        whole = (box[2] - box[0]) * (box[3] - box[1]) <= _MOST
        if not whole:
            box = (max(box[0], seen[0]), max(box[1], seen[1]), min(box[2], seen[2]), min(box[3], seen[3]))
        x, y = math.floor(box[0]), math.floor(box[1])
        w, h = math.ceil((box[2] - x) / k) + 1, math.ceil((box[3] - y) / k) + 1
        alpha = np.zeros((h, w), np.uint8)
        info = skia.ImageInfo.Make(w, h, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
        surface = skia.Surface.MakeRasterDirect(info, alpha, w)
        small = multiply(scaling(1 / k, 1 / k), multiply(translation(-x, -y), self.view))
        QuickPainter(surface.getCanvas(), small, (0, 0, w, h)).draw(items)
        surface.flushAndSubmit()
        # Averaging into k x k pixels and enlarging evenly between them soften by themselves.
        rest = math.sqrt(max((sigma / k) ** 2 - (0.25 if k > 1 else 0.0), 0.0))
        if rest > 0.1:
            side = 2 * math.ceil(3 * rest) + 1
            alpha = np.asarray(cv2.GaussianBlur(alpha, (side, side), rest, borderType=cv2.BORDER_CONSTANT), np.uint8)
        seen_part = self._enlarged(alpha, (x, y), k, move, whole)
        if seen_part is None:
            return None
        alpha, x, y = seen_part
        l, t, w, h = cv2.boundingRect(alpha)  # the far end of a blur is less than a byte
        return Mask(alpha[t : t + h, l : l + w], x + l - anchor[0], y + t - anchor[1], whole) if w and h else None

    def _enlarged(self, alpha: Bytes, at: Pixel, k: int, move: Point, whole: bool) -> tuple[Bytes, int, int] | None:
        """An alpha that was drawn ``k`` times smaller, and where it begins: the ``whole`` of it, or what is seen of it
        once moved. A very wide blur reaches far beyond that."""
        h, w = alpha.shape
        x, y, r, b = at[0], at[1], at[0] + w * k, at[1] + h * k
        if not whole:
            x, y = max(x, math.floor(self.area[0] - move[0])), max(y, math.floor(self.area[1] - move[1]))
            r, b = min(r, math.ceil(self.area[2] - move[0])), min(b, math.ceil(self.area[3] - move[1]))
        if x >= r or y >= b:
            return None
        if k > 1 or not whole:
            back = np.array([[1 / k, 0, (x - at[0] + 0.5) / k - 0.5], [0, 1 / k, (y - at[1] + 0.5) / k - 0.5]])
            flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
            alpha = np.asarray(cv2.warpAffine(alpha, back, (r - x, b - y), flags=flags), np.uint8)
        return alpha, x, y


def _table(rows: Ramp, opacity: float) -> Bytes:
    """Premultiplied RGBA bytes (256, 4) for the strengths of a mask."""
    straight = np.array(rows)
    at = np.linspace(0, len(rows) - 1, 256)
    table = np.stack([np.interp(at, np.arange(len(rows)), straight[:, c]) for c in range(4)], axis=1)
    table[:, 3] *= max(0.0, min(opacity, 1.0))
    table[:, :3] *= table[:, 3:]
    return np.asarray(np.rint(table * 255), np.uint8)


def _image(pixels: Bytes) -> Any:
    """An image of premultiplied RGBA bytes (h, w, 4) without copying it. Keep the array alive beside it."""
    info = skia.ImageInfo.Make(pixels.shape[1], pixels.shape[0], skia.kRGBA_8888_ColorType, skia.kPremul_AlphaType)
    return skia.Image.MakeRasterData(info, skia.Data.MakeWithoutCopy(pixels), pixels.strides[0])


def _source(item: Item, anchor: Point) -> object:
    """What a silhouette depends on, seen from its anchor: the same for items made anew of the same outline, moved."""
    if not isinstance(item, FillPath | StrokePath):
        return (id(item), anchor)
    a, b, c, d, e, f = item.transform
    place = (a, b, c, d, round(e - anchor[0], 4), round(f - anchor[1], 4))
    if isinstance(item, FillPath):
        return (id(item.path), place, item.opacity, item.paint)
    return (id(item.path), place, item.width, item.cap, item.join, item.opacity, item.paint)
