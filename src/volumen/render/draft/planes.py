"""A canvas for drafts: four planes of pixels on which covers are filled by compiled loops.

Covers that are known already, filled in planes, take a third to a half of the time that the paint library takes to find
edges and clips anew and to mix colours one pixel at a time.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.caching import MixedCache
from volumen.geometry.affine import Affine, invert, multiply
from volumen.model.ingredients import BlendMode
from volumen.render.draft import planes_kernel
from volumen.render.draft.covers import NO_BYTES, Bytes, Cover
from volumen.render.exact.boxes import PixelBox, overlap
from volumen.render.exact.paints import Pixels
from volumen.shading.paint import Colour, Linear, Radial
from volumen.shading.ramp import held_focus, plain_stops

_MODE = {name: i for i, name in enumerate(planes_kernel.MODES)}
_SPREAD = {"pad": 0, "reflect": 1, "repeat": 2}
_FARTHEST = 1e9
_EVERYWHERE = Cover(NO_BYTES, (0, 0, 0, 0))


class Grade(NamedTuple):
    """A gradient as the compiled loops take it (``planes_kernel.graded``)."""

    kind: int
    numbers: NDArray[np.float64]
    spread: int
    table: Pixels


class Planes:
    """Premultiplied encoded RGBA over a ``box`` of pixels. Only ``room``, inside ``clip``, is painted."""

    def __init__(self, box: PixelBox) -> None:
        self.box = self.room = box
        self.clip = _EVERYWHERE
        self.data: Pixels = np.zeros((4, max(box[3] - box[1], 0), max(box[2] - box[0], 0)), np.float32)

    @property
    def held(self) -> Cover | None:
        """What holds all that is painted now."""
        return self.clip if self.clip is not _EVERYWHERE else None

    def hold(self, cover: Cover) -> tuple[Cover, PixelBox]:
        """Paint only inside a cover from now on; what to ``release`` it to."""
        before = self.clip, self.room
        self.clip, self.room = cover, overlap(self.room, cover.box)
        return before

    def release(self, before: tuple[Cover, PixelBox]) -> None:
        """End what ``hold`` began."""
        self.clip, self.room = before

    def fill(self, cover: Cover, colour: Colour, opacity: float, blend: BlendMode) -> None:
        """Lay one colour over what a cover covers."""
        at = self._place(cover, cover.box)
        if at is not None:
            a = min(max(colour.a * opacity, 0.0), 1.0)
            premultiplied = np.array((colour.r * a, colour.g * a, colour.b * a, a), np.float64)
            planes_kernel.flat(self.data, at, cover.alpha, self.clip.alpha, premultiplied, _MODE[blend])

    def grade(self, cover: Cover, grade: Grade, opacity: float, blend: BlendMode) -> None:
        """Lay a gradient over what a cover covers."""
        at = self._place(cover, cover.box)
        if at is not None:
            planes_kernel.graded(
                self.data, at, cover.alpha, self.clip.alpha, *grade, min(max(opacity, 0.0), 1.0), _MODE[blend]
            )

    def put(self, pixels: Pixels, x: int, y: int, opacity: float, blend: BlendMode, cover: Cover | None = None) -> None:
        """Lay other planes (4, h, w) whose first pixel lies at (x, y)."""
        box = (x, y, x + pixels.shape[2], y + pixels.shape[1])
        if cover is not None:
            box = overlap(box, cover.box)
        cover = cover or _EVERYWHERE
        at = self._place(cover, box)
        if at is not None:
            weight = min(max(opacity, 0.0), 1.0)
            planes_kernel.pictured(
                self.data, at, cover.alpha, self.clip.alpha, pixels, x, y, weight, _MODE[blend]
            )  # fmt: skip

    def _place(self, cover: Cover, box: PixelBox) -> planes_kernel.At | None:
        l, t, r, b = overlap(box, self.room)
        if l >= r or t >= b:
            return None
        x, y, _, _ = self.box
        cx, cy, _, _ = cover.box
        kx, ky, _, _ = self.clip.box
        return (l, t, r, b, x, y, cx, cy, kx, ky)

    def pixels(self) -> Pixels:
        """The same side by side, (h, w, 4)."""
        return np.ascontiguousarray(np.moveaxis(self.data, 0, 2))

    def levels(self) -> Bytes:
        """Premultiplied BGRA bytes (h, w, 4), undithered."""
        channels = [cv2.convertScaleAbs(self.data[i], alpha=255) for i in (2, 1, 0, 3)]
        return np.asarray(cv2.merge(channels), np.uint8)


def planes_of(pixels: Pixels) -> Pixels:
    """Pixels (h, w, 4) as planes (4, h, w)."""
    return np.ascontiguousarray(np.moveaxis(pixels, 2, 0))


def grade_of(paint: Linear | Radial, place: Affine, tables: MixedCache) -> Grade | None:
    """A gradient over a shape that ``place`` maps to the canvas; None if nothing can be seen of it."""
    transform = place if isinstance(paint, Linear) else multiply(place, paint.transform)
    back = invert(transform)
    if back is None or not paint.stops:
        return None
    a, b, c, d, e, f = back
    table = _table(paint, tables)
    if isinstance(paint, Linear):
        (x, y), (x1, y1) = paint.start, paint.end
        u, v = x1 - x, y1 - y
        k = 1 / max(u * u + v * v, 1e-300)
        u, v = u * k, v * k
        along = (a * u + b * v, c * u + d * v, (e - x) * u + (f - y) * v, 0.0, 0.0, 0.0, 0.0, 0.0, -1.0)
        return Grade(planes_kernel.LINEAR, _finite(along), _SPREAD[paint.spread], table)
    radius = max(paint.radius, 1e-6)
    fx, fy = held_focus(paint.centre, radius, paint.focus)
    cx, cy = paint.centre[0] - fx, paint.centre[1] - fy
    numbers = (a, c, e - fx, b, d, f - fy, cx, cy, cx * cx + cy * cy - radius * radius)
    return Grade(planes_kernel.RADIAL, _finite(numbers), _SPREAD[paint.spread], table)


def _finite(numbers: tuple[float, ...]) -> NDArray[np.float64]:
    """Numbers held to what the loops' float32 can square; of what is no number 0."""
    held = [n if abs(n) <= _FARTHEST else math.copysign(_FARTHEST, n) if n == n else 0.0 for n in numbers]
    return np.array(held, np.float64)


def _table(paint: Linear | Radial, tables: MixedCache) -> Pixels:
    """The colours of a gradient; bodies that turn with their lamp share one."""
    key = ("table", id(paint.stops), paint.oklab)
    table: Pixels | None = tables.get(key)
    if table is None:
        table = planes_kernel.table_of(np.array(plain_stops(paint.stops, paint.oklab), np.float64))
        tables.put(key, paint.stops, table, table.nbytes)
    return table


def by_strength(alpha: Bytes, rows: NDArray[np.float64]) -> Pixels:
    """Planes in the straight colours (n, 4) that the strengths of a soft cover have, evenly from none to full."""
    rows = np.concatenate([rows[:, :3] * rows[:, 3:], rows[:, 3:]], axis=1)
    at, table = np.linspace(0, 255, len(rows)), np.arange(256)
    return np.stack([np.interp(table, at, c).astype(np.float32)[alpha] for c in rows.T])
