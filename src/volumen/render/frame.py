"""The frame on screen: which parts are stale, and bringing them up to date.

State is a float picture of the whole viewport and the chunks it shows. A new picture is compared by
identity: what is not in both, or changed its order, makes its box dirty. Only dirty pixels are drawn again at once.
The paint library draws edges a little differently where a path is cut off by what is drawn, by as much as a quarter of
a pixel's coverage, so after patches all is drawn once more while the hand rests: then it is as if drawn anew.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.caching import Cache, MixedCache
from volumen.colour.values import show_values
from volumen.geometry.affine import Affine, multiply, scaling
from volumen.geometry.path import Box, boxes_meet, transform_box
from volumen.model.sequences import same_ends
from volumen.picture.instructions import Chunk, Picture
from volumen.render.draft.state import DraftState
from volumen.render.exact.boxes import PixelBox
from volumen.render.exact.paints import Pixels, float_image
from volumen.render.raster import Boxes, chunk_boxes, paint_area, paint_draft

if TYPE_CHECKING:
    from volumen.render.draft.planes import Planes

_MOST_OF_ALL = 0.5  # above this share of the viewport all of it is drawn again, at rest
# Above this share of the viewport a draft frame is drawn at half the resolution, or less.
DRAFT_SHARE = 0.08


@dataclass
class Frame:
    """One viewport. ``pixels`` is premultiplied float RGBA; ``owed`` are areas that show a draft."""

    pixels: Pixels = field(default_factory=lambda: np.zeros((1, 1, 4), np.float32))
    view: Affine | None = None
    chunks: tuple[Chunk, ...] = ()
    boxes: Boxes = field(default_factory=lambda: chunk_boxes(()))
    look: tuple[object, ...] = ()
    owed: PixelBox | None = None
    patched: bool = False  # parts were drawn again on their own
    soft_kept: MixedCache = field(default_factory=lambda: Cache("soft masks", most_bytes=160_000_000))
    draft: DraftState = field(default_factory=DraftState)

    def update(
        self,
        picture: Picture,
        view: Affine,
        out: NDArray[np.uint8],
        draft: bool,
        stop: Callable[[], bool],
        values: bool = False,
    ) -> tuple[list[PixelBox], bool]:
        """Draw what changed into ``out`` (h, w, 4 bytes, BGRA premultiplied); the rects, and whether a
        refinement is owed."""
        h, w = out.shape[:2]
        whole: PixelBox = (0, 0, w, h)
        look = (picture.ground, picture.width, picture.height, values)
        if self.pixels.shape[:2] != (h, w) or view != self.view or look != self.look:
            if self.pixels.shape[:2] != (h, w):
                self.pixels = np.zeros((h, w, 4), np.float32)
            dirty: PixelBox | None = whole
        else:
            dirty = None
        stale = self._take(picture)
        dirty = dirty or _pixel_rect(stale, view, whole)
        self.view, self.look = view, look
        if dirty is None and self.owed is None and self.patched and not draft:
            dirty = whole
        if dirty is None and (draft or self.owed is None):
            return [], self.owed is not None or self.patched
        if draft and self.draft.ready and dirty is not None and _size(dirty) > DRAFT_SHARE * w * h:
            self.owed = _joined(self.owed, dirty)
            self.draw_draft(picture, view, dirty, out)
            _in_values(out, dirty, values)
            return [dirty], True
        area = dirty if draft else _joined(dirty, self.owed)
        assert area is not None
        if not draft and (self.patched or _size(area) > _MOST_OF_ALL * w * h):  # the second time at the latest
            area = whole
        if not paint_area(self.pixels, picture, view, area, self.soft_kept, None if draft else stop, boxes=self.boxes):
            self.owed = _joined(self.owed, area)
            return [], True
        to_bytes(self.pixels, area, out)
        _in_values(out, area, values)
        if not draft:
            self.owed = None
        self.patched = area != whole
        return [area], self.owed is not None or self.patched

    def _take(self, picture: Picture) -> Box | None:
        """Remember the chunks of a picture and their boxes, most of which are known; the box of what changed."""
        old, new, boxes = self.chunks, picture.chunks, self.boxes
        since = picture.since
        low, end = since[1:] if since is not None and since.chunks is old else same_ends(old, new)
        made = chunk_boxes(new[low : len(new) - end])
        if len(new) == len(old):
            boxes[:, low : len(new) - end] = made
        else:
            self.boxes = np.concatenate([boxes[:, :low], made, boxes[:, boxes.shape[1] - end :]], axis=1)
        self.chunks = new
        return stale_box(old[low : len(old) - end], new[low : len(new) - end])

    def draw_draft(self, picture: Picture, view: Affine, area: PixelBox, out: NDArray[np.uint8]) -> None:
        """Draw a part coarsely into ``out``."""
        k = self.draft.pace.shrink
        h, w = -(-out.shape[0] // k), -(-out.shape[1] // k)
        l, t, r, b = area
        # the pixels that make the area when they are enlarged: one more all round
        part = max(l // k - 1, 0), max(t // k - 1, 0), min(-(-r // k) + 1, w), min(-(-b // k) + 1, h)
        start = time.perf_counter()
        coarse = multiply(scaling(1 / k, 1 / k), view)
        planes = paint_draft(picture, coarse, part, self.draft, self.boxes, (0, 0, w, h))
        self.enlarge(planes, k, area, out)
        self.draft.pace.took((time.perf_counter() - start) * 1e3, (part[2] - part[0]) * (part[3] - part[1]))

    def enlarge(self, small: Planes, k: int, area: PixelBox, out: NDArray[np.uint8]) -> None:
        """Show pixels drawn ``k`` times smaller at full size, undithered: a draft lasts a moment."""
        levels = small.levels()
        h, w = k * levels.shape[0], k * levels.shape[1]
        x, y = k * small.box[0], k * small.box[1]
        l, t, r, b = area
        if (x, y, x + w, y + h) == area:
            cv2.resize(levels, (w, h), dst=out[t:b, l:r], interpolation=cv2.INTER_LINEAR)
            return
        if self.draft.room.size < h * w * 4:  # as large as this each frame, memory would be mapped anew each time
            self.draft.room = np.empty(h * w * 4, np.uint8)
        large = self.draft.room[: h * w * 4].reshape(h, w, 4)
        cv2.resize(levels, (w, h), dst=large, interpolation=cv2.INTER_LINEAR)
        out[t:b, l:r] = large[t - y : b - y, l - x : r - x]


def stale_box(old: tuple[Chunk, ...], new: tuple[Chunk, ...]) -> Box | None:
    """The box (sheet units) around every chunk that is not the same in both, or came out of order."""
    place = {id(c): i for i, c in enumerate(old)}
    boxes: list[Box] = []
    kept: set[int] = set()
    last = -1
    for chunk in new:
        index = place.get(id(chunk))
        if index is None:
            boxes.append(chunk.box)
        else:
            kept.add(index)
            if index < last:
                boxes.append(chunk.box)
            else:
                last = index
    if len(kept) != len(old):
        boxes.extend(c.box for i, c in enumerate(old) if i not in kept)
    if not boxes:
        return None
    l, t, r, b = zip(*boxes, strict=True)
    return (min(l), min(t), max(r), max(b))


def _pixel_rect(box: Box | None, view: Affine, whole: PixelBox) -> PixelBox | None:
    if box is None:
        return None
    l, t, r, b = transform_box(box, view)
    if not boxes_meet((l - 2, t - 2, r + 2, b + 2), whole):
        return None
    return (
        max(int(l) - 2, whole[0]), max(int(t) - 2, whole[1]), min(int(r) + 3, whole[2]), min(int(b) + 3, whole[3]),
    )  # fmt: skip


def _size(r: PixelBox) -> int:
    return (r[2] - r[0]) * (r[3] - r[1])


def _joined(a: PixelBox | None, b: PixelBox | None) -> PixelBox | None:
    if a is None or b is None:
        return a or b
    return (min(a[0], b[0]), min(a[1], b[1]), max(a[2], b[2]), max(a[3], b[3]))


def _in_values(out: NDArray[np.uint8], area: PixelBox, values: bool) -> None:
    if values:
        show_values(out[area[1] : area[3], area[0] : area[2]])


def to_bytes(pixels: Pixels, area: PixelBox, out: NDArray[np.uint8]) -> None:
    """Dither an area of float pixels into premultiplied BGRA bytes."""
    _draw_image(pixels, area, out)


def _draw_image(pixels: Pixels, area: PixelBox, out: NDArray[np.uint8]) -> None:
    info = skia.ImageInfo.Make(out.shape[1], out.shape[0], skia.kBGRA_8888_ColorType, skia.kPremul_AlphaType)
    surface = skia.Surface.MakeRasterDirect(info, out, out.strides[0])
    paint = skia.Paint(BlendMode=skia.BlendMode.kSrc)
    paint.setDither(True)
    canvas = surface.getCanvas()
    canvas.clipRect(skia.Rect.MakeLTRB(*area))
    canvas.drawImage(float_image(pixels), 0, 0, skia.SamplingOptions(), paint)
    surface.flushAndSubmit()
