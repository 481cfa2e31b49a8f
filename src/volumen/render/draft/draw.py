"""Drawing for frames that last a moment: while a hand moves, soft things and worked-out paints are drawn coarsely.

Outlines become covers, kept from frame to frame, and are filled on planes by compiled loops: a lamp that turns changes
colours and moves shadows, but no outline. What stays the same stays composed. The paint library draws what is new.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from functools import partial

import msgspec
import numpy as np

from volumen.geometry.affine import IDENTITY, Affine, mean_scale, multiply, translation
from volumen.geometry.path import Box, boxes_meet, transform_box
from volumen.geometry.primitives import rectangle
from volumen.picture.bounds import items_box
from volumen.picture.instructions import (
    Bitmap,
    Clip,
    FillPath,
    Item,
    Layer,
    Picture,
    Soft,
    StrokePath,
    one_colour,
    shade_colour,
)
from volumen.render.draft.covers import Cover, Covers, drawn, together
from volumen.render.draft.planes import Planes, by_strength, grade_of, planes_of
from volumen.render.draft.soft_covers import SoftCovers
from volumen.render.draft.state import DraftState
from volumen.render.drawer import Drawer
from volumen.render.exact.boxes import PixelBox, overlap, pixel_box, size_of
from volumen.render.exact.draw import draw_items
from volumen.render.exact.pixel_fills import field_range, rough_light, rough_pixels
from volumen.render.exact.soft_layers import Softener, evenly_blurred, sees
from volumen.shading.paint import Colour, Drawn, Linear, Meshed, Radial, ReliefPaint, Solid, is_field
from volumen.shading.ramp import effective_paint

_RECORD = 1000  # bytes, roughly, of what is known of an item
_SHORT = 4  # items of a run that is worth keeping
_WORTH = 3000  # pixels that cost as much as an item of a run


class DraftPainter(Drawer):
    """Draws items on planes. ``view`` maps the sheet to the ``canvas``, ``planes`` are the part of it to draw now; what
    is kept in ``state`` may serve all of it."""

    def __init__(self, planes: Planes, view: Affine, state: DraftState, canvas: PixelBox) -> None:
        self.view, self.area, self.scale = view, canvas, mean_scale(view)
        self.planes, self.state, self.drafts = planes, state, state.kept
        self.covers = Covers(state.kept, canvas)
        self.softs = SoftCovers(state.kept, view, canvas)
        self.softener = Softener(view, canvas, draw_items, rough=True)
        self.last = state.seen
        self.seen: dict[int, Item] = {}

    def show(self, picture: Picture, items: list[Item]) -> None:
        """Draw the items of a picture over its ground. What lies beneath all that has changed stays ready."""
        count = self._stayed(items)
        first = tuple(items[:count])
        key = ("begun", tuple(map(id, first)), picture.ground, self.view, self.area)
        ready: Planes | None = self.drafts.get(key)
        if ready is None and self.drafts.get(("soon", key)):
            ready, part = Planes(self.area), self.planes
            self.planes = ready
            self._ground(picture)
            self.draw(first)
            self.planes = part
            self.drafts.put(key, first, ready, ready.data.nbytes)
        if ready is not None:
            l, t, r, b = self.planes.box
            x, y, _, _ = self.area
            self.planes.data[:] = ready.data[:, t - y : b - y, l - x : r - x]
            self.seen.update((id(i), i) for i in first)
            self.draw(items[count:])
        else:
            self.drafts.put(("soon", key), first, True, _RECORD + 100 * count)
            self._ground(picture)
            self.draw(items)
        self.state.seen = self.seen

    def _ground(self, picture: Picture) -> None:
        if picture.ground is not None:
            key = ("ground", picture.width, picture.height, self.view, self.area)
            cover = self.drafts.get(key)
            if cover is None:
                black = FillPath(rectangle(0, 0, picture.width, picture.height), self.view, Solid(Colour(0, 0, 0)))
                cover = Cover(drawn((black,), IDENTITY, self.area), self.area)
                self.drafts.put(key, None, cover, cover.alpha.nbytes)
            self.planes.fill(cover, picture.ground, 1.0, "normal")

    def draw(self, items: Iterable[Item]) -> None:
        """Draw items; runs of plain ones that were there in the last draft stay composed as one picture."""
        run: list[FillPath | StrokePath] = []
        for item in items:
            known = id(item) in self.last
            self.seen[id(item)] = item
            if known and isinstance(item, FillPath | StrokePath) and item.blend == "normal":
                run.append(item)
                continue
            if run:
                self._run(run)
                run = []
            super().draw((item,))
        if run:
            self._run(run)

    def _run(self, run: list[FillPath | StrokePath]) -> None:
        """Draw items that stay as they are, composed as one picture where that is less work."""
        graded = [i for i in run if isinstance(i.paint, Linear | Radial)]
        if len(run) < _SHORT and not graded:
            super().draw(run)
            return
        key = ("run", tuple(map(id, run)), self.view, self.area)
        known = self.drafts.get(key)
        if known is None:
            place = self._pixels_of(run)
            # It takes longer to find the colours of gradients than to lay them.
            most = _WORTH * len(run) + sum(size_of(self._pixels_of([i])) for i in graded)
            if not 0 < size_of(place) <= most or place[0] >= place[2]:
                super().draw(run)
                return
            self.planes, around = Planes(place), self.planes
            super().draw(run)
            known, self.planes = (self.planes.data, place[0], place[1]), around
            self.drafts.put(key, run, known, known[0].nbytes + _RECORD)
        pixels, x, y = known
        self.planes.put(pixels, x, y, 1.0, "normal")

    def _pixels_of(self, items: Iterable[Item]) -> PixelBox:
        """The pixels of the canvas that items may touch."""
        return self._pixels(items_box(items))

    def _pixels(self, box: Box | None) -> PixelBox:
        """The pixels of the canvas that a box on the sheet touches."""
        return overlap(pixel_box(transform_box(box, self.view)), self.area) if box else (0, 0, 0, 0)

    def _stayed(self, items: Sequence[Item]) -> int:
        """How many items at the beginning were the same in the last draft."""
        return next((n for n, i in enumerate(items) if id(i) not in self.last), len(items))

    def _fill(self, item: FillPath) -> None:
        place = multiply(self.view, item.transform)
        cover = self.covers.of_fill(item, place)
        if cover is None:
            return
        paint = effective_paint(item.paint)
        if is_field(paint):
            self._field(item, place, cover)
        else:
            self._paint(cover, item, paint, place)

    def _stroke(self, item: StrokePath) -> None:
        place = multiply(self.view, item.transform)
        cover = self.covers.of_line(item, place)
        if cover is not None:
            self._paint(cover, item, effective_paint(item.paint), place)

    def _paint(self, cover: Cover, item: FillPath | StrokePath, paint: Drawn, place: Affine) -> None:
        """Fill a cover with a plain paint."""
        if isinstance(paint, Solid):
            self.planes.fill(cover, paint.colour, item.opacity, item.blend)
            return
        key = ("grade", id(paint), place)
        grade = self.drafts.get(key)
        if grade is None:
            grade = grade_of(paint, place, self.drafts)  # type: ignore[arg-type]
            self.drafts.put(key, paint, grade, _RECORD)
        if grade is not None:
            self.planes.grade(cover, grade, item.opacity, item.blend)

    def _field(self, item: FillPath, place: Affine, cover: Cover) -> None:
        box = field_range(item, place, self.area)
        if box is None:
            return
        if isinstance(item.paint, ReliefPaint):
            self._relief(item, item.paint, place, box, cover)
            return
        paint = id(item.paint) if isinstance(item.paint, Meshed) else item.paint
        x, y = round(place[4]), round(place[5])  # half a pixel is nothing while a thing moves
        there = (box[0] - x, box[1] - y, box[2] - x, box[3] - y)
        key = ("field", paint, id(item.path), id(item.course), place[:4], there)
        pixels = self.drafts.get(key)
        if pixels is None:
            pixels = planes_of(rough_pixels(item, place, box))
            self.drafts.put(key, (item.paint, item.path, item.course), pixels, pixels.nbytes)
        self.planes.put(pixels, box[0], box[1], item.opacity, item.blend, cover)

    def _relief(self, item: FillPath, paint: ReliefPaint, place: Affine, box: PixelBox, cover: Cover) -> None:
        """The light of a relief, which a lamp that turns makes anew each time."""
        light = rough_light(item, place, box)
        if light.ndim == 2:
            strong = Cover(light.astype(np.uint8, copy=False), box)
            around = self.planes.held
            before = self.planes.hold(together(cover, around) if around is not None else cover)
            self.planes.fill(strong, paint.colour, item.opacity, item.blend)
            self.planes.release(before)
        else:
            pixels = planes_of(light.astype(np.float32, copy=False))
            self.planes.put(pixels, box[0], box[1], item.opacity, item.blend, cover)

    def _bitmap(self, item: Bitmap) -> None:
        place = self._pixels_of((item,))
        if place[0] >= place[2] or place[1] >= place[3]:
            return
        key = ("picture", id(item), self.view, place)
        pixels = self.drafts.get(key)
        if pixels is None:
            here = multiply(translation(-place[0], -place[1]), self.view)
            plain = msgspec.structs.replace(item, opacity=1.0, blend="normal")
            pixels = planes_of(self.softener.offscreen((plain,), place, here, False))
            self.drafts.put(key, item, pixels, pixels.nbytes)
        self.planes.put(pixels, place[0], place[1], item.opacity, item.blend)

    def _layer(self, item: Layer) -> None:
        if not sees(item.clip, self.view, self.area):
            return
        shade = shade_colour(item)
        if shade is not None:
            self._held(item.clip, partial(self._shade, item, shade))
        elif max(item.blur, item.feather) * self.scale >= 0.1:
            self._soft_layer(item)
        elif item.at_rest:
            self._held(item.clip, partial(self.draw, item.items))
        else:
            self._held(item.clip, partial(self._composed, item))

    def _held(self, clip: Clip | None, paint: partial[None]) -> None:
        """Paint something inside a clip."""
        if clip is None:
            paint()
            return
        cover = self.covers.of_clip(clip, self.view, self.planes.held)
        if cover is not None:
            before = self.planes.hold(cover)
            paint()
            self.planes.release(before)

    def _composed(self, item: Layer) -> None:
        """A layer drawn by itself. One that is seen a second time stays ready."""
        box: Box | None = self.drafts.get(("box", id(item.items)))
        again = box is not None
        if box is None:
            box = items_box(item.items) or (0.0, 0.0, 0.0, 0.0)
            self.drafts.put(("box", id(item.items)), item.items, box, _RECORD)
        place = self._pixels(box)
        if place[0] >= place[2] or place[1] >= place[3]:
            return
        key = ("composed", id(item.items), self.view, place)
        pixels = self.drafts.get(key)
        if pixels is None:
            around, self.planes = self.planes, Planes(place)
            self.draw(item.items[self._begun(item.items) :])
            pixels, self.planes = self.planes.data, around
            if again:
                self.drafts.put(key, item.items, pixels, pixels.nbytes)
        self.planes.put(pixels, place[0], place[1], item.opacity, item.blend)

    def _begun(self, items: tuple[Item, ...]) -> int:
        """Begin empty planes with what was the same in the last draft; how many items that is."""
        count = self._stayed(items)
        if count == len(items) or not count:
            return 0
        first = items[:count]
        key = ("begun", tuple(map(id, first)), self.view, self.planes.box)
        known = self.drafts.get(key)
        if known is None:
            self.draw(first)
            known = self.planes.data.copy()
            self.drafts.put(key, first, known, known.nbytes + _RECORD)
        else:
            self.planes.data[:] = known
            self.seen.update((id(i), i) for i in first)
        return count

    def _soft_layer(self, item: Layer) -> None:
        one = one_colour(item.items) if evenly_blurred(item) else None
        if one is not None:
            soft = Soft(item.items, one, item.blur, (0.0, 0.0), item.opacity, item.blend, item.clip)
            self._soft(soft)
            return
        place = self.softener.place(item)
        if place is None:
            return
        key = ("layer", id(item), self.view, place)
        made = self.drafts.get(key)
        if made is None:
            pixels, x, y = self.softener.softened(item, place)
            made = planes_of(pixels), x, y
            self.drafts.put(key, item, made, made[0].nbytes)
        pixels, x, y = made
        self._held(item.clip, partial(self.planes.put, pixels, x, y, item.opacity, item.blend))

    def _shade(self, item: Layer, colour: Colour) -> None:
        """Soft silhouettes of one colour, united in bytes and filled once."""
        key = ("shade", id(item), self.view, self.planes.room)
        cover: Cover | None = self.drafts.get(key)
        if cover is None:
            softs = [i for i in item.items if isinstance(i, Soft)]
            cover = self.softs.united(softs, self.planes.room, item.one_light)
            if id(item) in self.last:
                self.drafts.put(key, item, cover, cover.alpha.nbytes + _RECORD)
        if cover.alpha.size:
            self.planes.fill(cover, colour, item.opacity, item.blend)

    def _soft(self, item: Soft) -> None:
        """The blurred alpha of what an item holds, in its colour or in those that a ramp gives its strengths."""
        cover = self.softs.of(item)
        if cover is None or not boxes_meet(cover.box, self.planes.room):
            return
        if item.ramp:
            key = ("glow", id(cover.alpha), id(item.ramp))
            pixels = self.drafts.get(key)
            if pixels is None:
                pixels = by_strength(cover.alpha, np.array(item.ramp))
                self.drafts.put(key, (cover.alpha, item.ramp), pixels, pixels.nbytes + _RECORD)
            opacity = item.colour.a * item.opacity
            self._held(item.clip, partial(self.planes.put, pixels, *cover.box[:2], opacity, item.blend))
        else:
            self._held(item.clip, partial(self.planes.fill, cover, item.colour, item.opacity, item.blend))


def draw_draft(
    picture: Picture, items: list[Item], view: Affine, area: PixelBox, state: DraftState, canvas: PixelBox
) -> Planes:
    """Some items of a picture over its ground, in the part ``area`` of a ``canvas``."""
    planes = Planes(area)
    DraftPainter(planes, view, state, canvas).show(picture, items)
    return planes
