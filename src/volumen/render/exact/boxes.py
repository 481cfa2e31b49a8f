"""Boxes of pixels."""

from __future__ import annotations

import math

from volumen.geometry.path import Box

PixelBox = tuple[int, int, int, int]


def size_of(box: PixelBox) -> int:
    """How many pixels a box holds."""
    return (box[2] - box[0]) * (box[3] - box[1])


def pixel_box(box: Box, grow: float = 0.0) -> PixelBox:
    """The pixels that a box touches, grown on all sides."""
    limit = 1e8
    l, t, r, b = (max(-limit, min(limit, v)) for v in box)
    return (math.floor(l - grow), math.floor(t - grow), math.ceil(r + grow), math.ceil(b + grow))


def overlap(a: PixelBox, b: PixelBox) -> PixelBox:
    """The pixels of both boxes; upside down where there are none."""
    l, t, r, m = a
    x, y, u, v = b
    return (l if l > x else x, t if t > y else y, r if r < u else u, m if m < v else v)


def intersect(a: PixelBox, b: Box) -> PixelBox:
    """The pixels of ``a`` that ``b`` touches; upside down where there are none."""
    return overlap(a, pixel_box(b))
