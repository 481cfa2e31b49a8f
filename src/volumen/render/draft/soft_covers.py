"""The alphas of shadows and glows for drafts: blurred as small as their softness allows, in bytes, and kept.

A lamp that turns moves shadows more than it changes them, so they are kept by the outlines they came from, whatever
items hold those and wherever they fall.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from volumen.caching import MixedCache
from volumen.geometry.affine import Affine, Point, apply, mean_scale, multiply, scaling, translation
from volumen.geometry.path import boxes_meet, grow_box, transform_box
from volumen.picture.bounds import REACH, items_box
from volumen.picture.instructions import FillPath, FillUncovered, Item, Soft, StrokePath
from volumen.render.draft.covers import NOTHING, Bytes, Cover, Covers, drawn
from volumen.render.draft.covers_kernel import unite
from volumen.render.exact.boxes import PixelBox, overlap

Pixel = tuple[int, int]
_SHARPEST = 1.5  # pixels of softness that a reduced mask must keep
_MOST = 1_000_000  # pixels of a mask
_RECORD = 1000  # bytes, roughly, of what is known of an item
# Between the softnesses that drafts know: while a sheet is dragged over others its shadows grow by a little, and no eye
# sees 3 percent in a frame that lasts a moment.
_STEP = math.log(1.06)


@dataclass(frozen=True)
class Mask:
    """A blurred alpha (h, w) whose first pixel lies (x, y) from the anchor of what it shows; ``whole`` if nothing of it
    is left out."""

    alpha: Bytes
    x: int
    y: int
    whole: bool


class SoftCovers:
    """Soft covers seen in ``area`` of a canvas that ``view`` maps the sheet to."""

    def __init__(self, kept: MixedCache, view: Affine, area: PixelBox) -> None:
        self.kept, self.view, self.area = kept, view, area
        self.scale = mean_scale(view)

    def of(self, item: Soft) -> Cover | None:
        """The blurred alpha of what an item holds, where it falls; None if it is not seen."""
        move = (item.offset[0] * self.view[0], item.offset[1] * self.view[3])
        x, y, look = self._silhouette(item.items)
        softness = round(math.log(item.sigma) / _STEP) if item.sigma > 0 else None
        key = ("mask", id(look), softness, self.view[:4])
        mask: Mask | None = self.kept.get(key)
        if mask is None:
            here = (*key, self.view, self.area)
            mask = self.kept.get(here)
            if mask is None:
                sigma = math.exp(softness * _STEP) if softness is not None else 0.0
                mask = self._mask(item.items, sigma * self.scale, move, (x, y))
                if mask is None:
                    return None
                if mask.whole or move == (0.0, 0.0):
                    size = mask.alpha.nbytes + _RECORD
                    self.kept.put(key if mask.whole else here, (item.items, look), mask, size)
        l, t = x + mask.x + round(move[0]), y + mask.y + round(move[1])
        h, w = mask.alpha.shape
        return Cover(mask.alpha, (l, t, l + w, t + h))

    def united(self, items: Sequence[Soft], room: PixelBox, one_light: bool) -> Cover:
        """The blurred alphas of several items united, each as strong as its opacity, inside a room. Of those that take
        ``one_light`` away each hides what is before it."""
        found = [(c, i.opacity) for i in items if (c := self.of(i)) is not None and boxes_meet(c.box, room)]
        if not found:
            return NOTHING
        ls, ts, rs, bs = zip(*[c.box for c, _ in found], strict=True)
        l, t, r, b = overlap((min(ls), min(ts), max(rs), max(bs)), room)
        if l >= r or t >= b:
            return NOTHING
        taken = np.zeros((b - t, r - l), np.uint8)
        for cover, opacity in found:
            strong = min(max(opacity, 0.0), 1.0)
            unite(taken, cover.alpha, cover.box[0] - l, cover.box[1] - t, strong, 1.0 if one_light else strong)
        return Cover(taken, (l, t, r, b))

    def _silhouette(self, items: tuple[Item, ...]) -> tuple[int, int, object]:
        """The pixel where items lie, and one object for all that look the same wherever they lie."""
        key = ("items", id(items), self.view)
        known: tuple[int, int, object] | None = self.kept.get(key)
        if known is None:
            anchor = _anchor(items)
            look = tuple(_seen_from(anchor, i) for i in items)
            same = self.kept.get(look)
            if same is None:
                same = look
                self.kept.put(look, items, look, _RECORD)
            x, y = apply(self.view, anchor)
            known = (round(x), round(y), same)
            self.kept.put(key, (items, same), known, _RECORD)
        return known

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
        small = multiply(scaling(1 / k, 1 / k), multiply(translation(-x, -y), self.view))
        alpha = self._sliver_alpha(items, small, (0, 0, w, h))
        if alpha is None:
            alpha = drawn(items, small, (0, 0, w, h))
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
        if not w or not h:
            return None
        alpha = np.ascontiguousarray(alpha[t : t + h, l : l + w])
        return Mask(alpha, x + l - anchor[0], y + t - anchor[1], whole)

    def _sliver_alpha(self, items: tuple[Item, ...], view: Affine, box: PixelBox) -> Bytes | None:
        """The alpha of a single sliver from the cover of its outline; None if items are something else."""
        item = items[0]
        if len(items) > 1 or not isinstance(item, FillUncovered) or not item.path.pending:
            return None
        cover = Covers(self.kept, box).of_fill(item, multiply(view, item.transform))
        alpha = np.zeros((box[3], box[2]), np.uint8)
        if cover is not None:
            l, t, r, b = overlap(cover.box, box)
            x, y, _, _ = cover.box
            alpha[t:b, l:r] = cover.alpha[t - y : b - y, l - x : r - x]
        return alpha

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


def _anchor(items: tuple[Item, ...]) -> Point:
    """A place on the sheet that moves with what is drawn."""
    first = next((i for i in items if isinstance(i, FillPath | StrokePath)), None)
    return (first.transform[4], first.transform[5]) if first is not None else (0.0, 0.0)


def _seen_from(anchor: Point, item: Item) -> object:
    """What a silhouette depends on, seen from its anchor: the same for items made anew of the same outline, moved."""
    if not isinstance(item, FillPath | StrokePath):
        return (id(item), anchor)
    a, b, c, d, e, f = item.transform
    place = (a, b, c, d, round(e - anchor[0], 4), round(f - anchor[1], 4))
    if isinstance(item, FillPath):
        return (id(item.path), place, item.opacity, item.paint)
    return (id(item.path), place, item.width, item.cap, item.join, item.opacity, item.paint)
