"""How much of each pixel an outline covers, in bytes: drawn once, then kept while a hand moves other things.

Slivers are not cut: their cover is what the moved copy leaves of the outline's own.
"""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import MixedCache
from volumen.geometry.affine import IDENTITY, Affine, apply_vector, invert, multiply, translation
from volumen.geometry.engine import matrix, to_engine
from volumen.geometry.path import Box, Path, boxes_meet, grow_box, transform_box
from volumen.picture.instructions import Clip, FillPath, FillUncovered, Item, StrokePath
from volumen.render.draft.covers_kernel import uncovered
from volumen.render.exact.boxes import PixelBox, overlap, pixel_box, size_of
from volumen.render.exact.draw import Painter
from volumen.render.exact.paints import paint_for
from volumen.shading.paint import Colour, Solid

Bytes = NDArray[np.uint8]
NO_BYTES: Bytes = np.zeros((0, 0), np.uint8)
_BLACK = Solid(Colour(0.0, 0.0, 0.0))
_MOST = 500_000  # pixels of a cover; of more only what is seen is drawn
_RECORD = 300  # bytes, roughly, of a cover's entry


class Cover(NamedTuple):
    """Bytes (h, w) over a box of pixels."""

    alpha: Bytes
    box: PixelBox


class QuickPainter(Painter):
    """A painter that cuts no slivers: it paints what a moved copy leaves of an outline."""

    rough = True

    def _plain_fill(self, item: FillPath) -> None:
        if not (isinstance(item, FillUncovered) and item.path.pending):
            super()._plain_fill(item)
            return
        path = item.outline
        rest = skia.Path(to_engine(path))
        rest.transform(matrix(item.move))
        rest.toggleInverseFillType()
        self.canvas.save()
        place = multiply(self.view, item.transform)
        self.canvas.setMatrix(matrix(place))
        self.canvas.clipPath(to_engine(path), skia.ClipOp.kIntersect, True)
        self.canvas.drawPath(rest, paint_for(item.paint, item.opacity, item.blend, place))
        self.canvas.restore()


NOTHING = Cover(NO_BYTES, (0, 0, 0, 0))


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
    """Covers of outlines and lines seen in ``area``, kept by what they are made of, wherever they lie.

    They lie at quarters of pixels: what is dragged finds the covers it had some frames ago, and no eye sees an eighth
    of a pixel in a frame that lasts a moment.
    """

    def __init__(self, kept: MixedCache, area: PixelBox) -> None:
        self.kept, self.area = kept, area

    def of_fill(self, item: FillPath, place: Affine) -> Cover | None:
        """What a fill covers, where ``place`` maps it to the canvas; None if it is not seen."""
        if isinstance(item, FillUncovered) and item.path.pending:
            near, x, y = _near(place)
            known = self._uncovered(item, near)
            if known is not None:
                return self._seen(known, x, y)
        return self.of_path(item.path, place)

    def of_path(self, path: Path, place: Affine) -> Cover | None:
        """The inside of an outline that ``place`` maps to the canvas; None if it is not seen."""
        place, x, y = _near(place)
        key = (id(path), place)
        known = self.kept.get(key)
        if known is None:
            known = self._made(FillPath(path, place, _BLACK), path.hull(), place, key, (x, y))
        return self._seen(known, x, y)

    def of_line(self, item: StrokePath, place: Affine) -> Cover | None:
        """The same of a line."""
        place, x, y = _near(place)
        key = (id(item.path), place, item.width, item.cap, item.join, item.miter)
        known = self.kept.get(key)
        if known is None:
            line = StrokePath(item.path, place, _BLACK, item.width, item.cap, item.join, item.miter)
            hull, reach = item.path.hull(), item.width * (item.miter if item.join == "miter" else 1.5)
            known = self._made(line, grow_box(hull, reach) if hull else None, place, key, (x, y))
        return self._seen(known, x, y)

    def _seen(self, cover: Cover, x: int, y: int) -> Cover | None:
        """A cover moved by whole pixels, if it is then seen."""
        l, t, r, b = cover.box
        box = (l + x, t + y, r + x, b + y)
        return Cover(cover.alpha, box) if l < r and boxes_meet(box, self.area) else None

    def of_clip(self, clip: Clip, view: Affine, around: Cover | None) -> Cover | None:
        """The inside of a clip that is itself held inside ``around``; None if it is not seen."""
        key = ("clip", id(clip), view, id(around.alpha) if around else 0)
        known = self.kept.get(key)
        if known is None:
            known = self.of_path(clip.path, multiply(view, clip.transform)) or NOTHING
            if around is not None and known is not NOTHING:
                known = together(known, around)
            self.kept.put(key, (clip, around), known, _RECORD + (known.alpha.nbytes if around else 0))
        return known if known.alpha.size and boxes_meet(known.box, self.area) else None

    def _made(
        self, item: FillPath | StrokePath, hull: Box | None, place: Affine, key: object, move: tuple[int, int]
    ) -> Cover:
        """A cover drawn and kept: the whole of it or, where that is too much, what is seen of it once moved."""
        if hull is None:
            return NOTHING
        box = pixel_box(transform_box(hull, place))
        whole = size_of(box) <= _MOST
        if not whole:
            l, t, r, b = self.area
            box = overlap(box, (l - move[0], t - move[1], r - move[0], b - move[1]))
        if box[0] >= box[2] or box[1] >= box[3]:
            return NOTHING
        made = Cover(drawn((item,), IDENTITY, box), box)
        if whole:
            self.kept.put(key, item, made, made.alpha.nbytes + _RECORD)
        return made

    def _uncovered(self, item: FillUncovered, place: Affine) -> Cover | None:
        """What a sliver shows of its outline, which no one will ask for again while a lamp turns; None if the outline
        is too large to be known as a whole."""
        outline, move = item.outline, item.move
        key = (id(outline), place)
        if self.kept.get(key) is None:
            self._made(FillPath(outline, place, _BLACK), outline.hull(), place, key, (0, 0))
        whole: Cover | None = self.kept.get(key)
        if whole is None:
            return None
        if move[:4] == IDENTITY[:4]:
            return Cover(uncovered(whole.alpha, *apply_vector(place, (move[4], move[5]))), whole.box)
        back = invert(multiply(place, move))
        if back is None:
            return None
        a, b, c, d, e, f = multiply(place, back)  # from a pixel to where the copy has what lies there
        x, y = whole.box[0] + 0.5, whole.box[1] + 0.5
        there = np.array([[a, c, a * x + c * y + e - x], [b, d, b * x + d * y + f - y]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        moved = cv2.warpAffine(whole.alpha, there, whole.alpha.shape[::-1], flags=flags)
        return Cover(np.asarray(cv2.subtract(whole.alpha, moved), np.uint8), whole.box)


def _near(place: Affine) -> tuple[Affine, int, int]:
    """A place moved to quarters of a pixel near the origin, and the whole pixels from there."""
    a, b, c, d, e, f = place
    x, y = math.floor(e), math.floor(f)
    return (a, b, c, d, round((e - x) * 4) / 4, round((f - y) * 4) / 4), x, y


def together(a: Cover, b: Cover) -> Cover:
    """What both cover: the product of the two."""
    box = overlap(a.box, b.box)
    l, t, r, bottom = box
    if l >= r or t >= bottom:
        return NOTHING
    first, second = (c.alpha[t - c.box[1] : bottom - c.box[1], l - c.box[0] : r - c.box[0]] for c in (a, b))
    return Cover(np.ascontiguousarray(cv2.multiply(first, second, scale=1 / 255), np.uint8), box)
