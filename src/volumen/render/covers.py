"""How much of each pixel an outline covers, in bytes: drawn once, then kept while a hand moves other things.

Slivers are not cut: their cover is what the moved copy leaves of the outline's own.
"""

from __future__ import annotations

from typing import Any, NamedTuple

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.build.picture import FillPath, Item, StrokePath
from volumen.geometry.affine import Affine, invert, multiply, translation
from volumen.geometry.engine import matrix
from volumen.geometry.engine_form import to_engine
from volumen.geometry.path import Box, Path, boxes_meet, grow_box, transform_box
from volumen.render.draw import Painter, PixelBox, intersect, pixel_box, size_of
from volumen.render.paints import paint_for
from volumen.shading.kept import Kept
from volumen.shading.paint import Colour, Solid

Bytes = NDArray[np.uint8]
NOTHING: Bytes = np.zeros((0, 0), np.uint8)
_BLACK = Solid(Colour(0.0, 0.0, 0.0))
_MOST = 500_000  # pixels of a cover; of more only what is seen is drawn
_RECORD = 300  # bytes, roughly, of a cover's entry


class Cover(NamedTuple):
    """Bytes (h, w) whose first pixel lies at (x, y)."""

    alpha: Bytes
    x: int = 0
    y: int = 0

    @property
    def box(self) -> PixelBox:
        h, w = self.alpha.shape
        return (self.x, self.y, self.x + w, self.y + h)


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


def drawn(items: tuple[Item, ...], view: Affine, box: PixelBox) -> Bytes:
    """The alpha (h, w) of items over a box of pixels."""
    w, h = box[2] - box[0], box[3] - box[1]
    alpha = np.zeros((h, w), np.uint8)
    info = skia.ImageInfo.Make(w, h, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
    surface: Any = skia.Surface.MakeRasterDirect(info, alpha, w)
    QuickPainter(surface.getCanvas(), multiply(translation(-box[0], -box[1]), view), (0, 0, w, h)).draw(items)
    surface.flushAndSubmit()
    return alpha


class Covers:
    """Covers of outlines and lines seen in ``area``, kept by what they are made of."""

    def __init__(self, kept: Kept, area: PixelBox) -> None:
        self.kept, self.area = kept, area

    def of_path(self, path: Path, place: Affine) -> Cover | None:
        """The inside of an outline that ``place`` maps to the canvas; None if it is not seen."""
        key = (id(path), place)
        known = self.kept.get(key)
        if known is None:
            if "later" in path.memo:
                known = self._uncovered(path, place)
                if known is not None:  # of a lamp that turns: no one will ask for it again
                    return known
            known = self._made(FillPath(path, place, _BLACK), path.hull(), place, key)
        return known if known.alpha.size and boxes_meet(known.box, self.area) else None

    def of_line(self, item: StrokePath, place: Affine) -> Cover | None:
        """The same of a line."""
        key = (id(item.path), place, item.width, item.cap, item.join, item.miter)
        known = self.kept.get(key)
        if known is None:
            line = StrokePath(item.path, place, _BLACK, item.width, item.cap, item.join, item.miter)
            hull, reach = item.path.hull(), item.width * (item.miter if item.join == "miter" else 1.5)
            known = self._made(line, grow_box(hull, reach) if hull else None, place, key)
        return known if known.alpha.size and boxes_meet(known.box, self.area) else None

    def held(self, path: Path, place: Affine, around: Cover | None) -> Cover | None:
        """The inside of an outline that is itself held inside ``around``."""
        own = self.of_path(path, place)
        if own is None or around is None:
            return own
        key = ("held", id(own.alpha), id(around.alpha))
        known = self.kept.get(key)
        if known is None:
            known = _together(own, around)
            self.kept.put(key, (own, around), known, known.alpha.nbytes + _RECORD)
        return known if known.alpha.size else None

    def _made(self, item: FillPath | StrokePath, hull: Box | None, place: Affine, key: object) -> Cover:
        """A cover drawn and kept: the whole of it or, where that is too much, what is seen of it."""
        if hull is None:
            return Cover(NOTHING)
        box = pixel_box(transform_box(hull, place))
        whole = size_of(box) <= _MOST
        if not whole:
            box = intersect(box, self.area)
        if box[0] >= box[2] or box[1] >= box[3]:
            return Cover(NOTHING)
        made = Cover(drawn((item,), (1.0, 0.0, 0.0, 1.0, 0.0, 0.0), box), box[0], box[1])
        if whole:
            self.kept.put(key, item, made, made.alpha.nbytes + _RECORD)
        return made

    def _uncovered(self, path: Path, place: Affine) -> Cover | None:
        """What a sliver shows of its outline; None if the outline is too large to be known as a whole."""
        outline, move = path.memo["uncovered"]
        back = invert(multiply(place, move))
        key = (id(outline), place)
        whole = self.kept.get(key) or self._made(FillPath(outline, place, _BLACK), outline.hull(), place, key)
        if back is None or self.kept.get(key) is None:
            return None
        a, b, c, d, e, f = multiply(place, back)  # from a pixel to where the copy has what lies there
        x, y = whole.x + 0.5, whole.y + 0.5
        there = np.array([[a, c, a * x + c * y + e - x], [b, d, b * x + d * y + f - y]])
        h, w = whole.alpha.shape
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        moved = cv2.warpAffine(whole.alpha, there, (w, h), flags=flags)
        return Cover(np.asarray(cv2.subtract(whole.alpha, moved), np.uint8), whole.x, whole.y)


def _together(a: Cover, b: Cover) -> Cover:
    """What both cover."""
    l, t, r, bottom = intersect(a.box, b.box)
    if l >= r or t >= bottom:
        return Cover(NOTHING)
    parts = (c.alpha[t - c.y : bottom - c.y, l - c.x : r - c.x] for c in (a, b))
    return Cover(np.ascontiguousarray(cv2.multiply(*parts, scale=1 / 255), np.uint8), l, t)
