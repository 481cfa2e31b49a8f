"""Fills whose paint is worked out point by point: on a canvas, and as pictures for exports."""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np
import skia
from numpy.typing import NDArray

from volumen.geometry.affine import Affine, multiply, scaling, translation
from volumen.geometry.engine import matrix, to_engine
from volumen.geometry.path import Box, grow_box, transform_box, whole_pixels
from volumen.picture.bounds import item_box
from volumen.picture.instructions import FillPath
from volumen.render.exact.paints import BLEND, float_image
from volumen.shading.paint import ReliefPaint
from volumen.shading.paint_pixels import field_pixels, rough_relief
from volumen.shading.relief import PixelRange

MARGIN = 2  # pixels worked out beyond the outline, so that softened edges find a colour
_SMALL = 10_000  # pixels that a draft works out at its own resolution
_LARGEST = 16_000_000  # pixels of a picture in an export
_WIDEST = 16_000
_OFF = 8.0  # units beyond the sheet


def draw_field(canvas: Any, item: FillPath, view: Affine, area: Box) -> None:
    """Draw the part of a fill that lies in ``area`` (canvas pixels)."""
    place = multiply(view, item.transform)
    box = field_range(item, place, area)
    if box is not None:
        draw_pixels(canvas, item, place, _pixels(item, place, box), box)


def field_range(item: FillPath, place: Affine, area: Box) -> PixelRange | None:
    """The pixels of a fill that are seen in ``area``, where ``place`` maps its path to the canvas."""
    bounds = item.path.hull()
    if bounds is None:
        return None
    box = transform_box(bounds, place)
    l, t = max(box[0], area[0]) - MARGIN, max(box[1], area[1]) - MARGIN
    r, b = min(box[2], area[2]) + MARGIN, min(box[3], area[3]) + MARGIN
    if not (r > l and b > t) or not all(map(math.isfinite, (l, t, r, b))):
        return None
    return math.floor(l), math.floor(t), math.ceil(r), math.ceil(b)


def draw_pixels(canvas: Any, item: FillPath, place: Affine, pixels: NDArray[np.float32], box: PixelRange) -> None:
    """Draw the worked-out colours of a fill over their box."""
    paint = skia.Paint(AntiAlias=True, BlendMode=BLEND[item.blend])
    paint.setAlphaf(max(0.0, min(item.opacity, 1.0)))
    # A clip and an image: as a shader the library would copy the float picture pixel by pixel.
    canvas.save()
    canvas.setMatrix(matrix(place))
    canvas.clipPath(to_engine(item.path), skia.ClipOp.kIntersect, True)
    canvas.resetMatrix()
    canvas.drawImage(float_image(pixels), box[0], box[1], skia.SamplingOptions(), paint)
    canvas.restore()


def _pixels(item: FillPath, place: Affine, box: PixelRange, rough: bool = False) -> NDArray[np.float32]:
    """Premultiplied colours of a box of pixels."""
    path, width = (item.course, item.course_width) if item.course is not None else (item.path, 0.0)
    return np.ascontiguousarray(field_pixels(item.paint, place, box, path, width, rough))


def rough_pixels(item: FillPath, place: Affine, box: PixelRange) -> NDArray[np.float32]:
    """Premultiplied colours of a box of pixels, at half the resolution where it is large."""
    w, h = box[2] - box[0], box[3] - box[1]
    if w * h < _SMALL:
        return _pixels(item, place, box, True)
    halved = multiply(scaling(0.5, 0.5), multiply(translation(-box[0], -box[1]), place))
    made = _pixels(item, halved, (0, 0, (w + 1) // 2, (h + 1) // 2), True)
    return np.asarray(cv2.resize(made, (w, h), interpolation=cv2.INTER_LINEAR), np.float32)


def rough_light(item: FillPath, place: Affine, box: PixelRange) -> NDArray[np.uint8] | NDArray[np.float32]:
    """The relief of a fill over a box of pixels, at half the resolution where it is large: bytes (h, w) of how strong
    it is if it has one colour all over, else pixels (h, w, 4)."""
    assert isinstance(item.paint, ReliefPaint) and item.course is not None
    w, h = box[2] - box[0], box[3] - box[1]
    k = 1 if w * h < _SMALL else 2
    reduced = multiply(scaling(1 / k, 1 / k), multiply(translation(-box[0], -box[1]), place))
    made = rough_relief(item.paint, reduced, (0, 0, -(-w // k), -(-h // k)), item.course)
    if made.ndim == 2:
        made = np.asarray(cv2.convertScaleAbs(made, alpha=255))
    return made if k == 1 else np.asarray(cv2.resize(made, (w, h), interpolation=cv2.INTER_LINEAR), made.dtype)


def field_image(
    item: FillPath, scale: float, sheet: tuple[float, float], origin: float = 0.0
) -> tuple[NDArray[np.uint8], Box] | None:
    """A fill's paint as straight RGBA over the box of its outline on the sheet (width, height), unclipped, with a
    margin, in whole pixels counted from ``origin``. What lies far off the sheet is left out."""
    box = item_box(item)
    if box is None:
        return None
    box = (max(box[0], -_OFF), max(box[1], -_OFF), min(box[2], sheet[0] + _OFF), min(box[3], sheet[1] + _OFF))
    if box[2] <= box[0] or box[3] <= box[1]:
        return None
    scale = min(scale, _WIDEST / max(box[2] - box[0], box[3] - box[1]))
    scale = min(scale, (_LARGEST / max((box[2] - box[0]) * (box[3] - box[1]), 1e-9)) ** 0.5)
    box = whole_pixels(grow_box(box, MARGIN / scale), scale, origin)
    w, h = round((box[2] - box[0]) * scale), round((box[3] - box[1]) * scale)
    place = multiply(multiply(scaling(scale, scale), translation(-box[0], -box[1])), item.transform)
    pixels = _pixels(item, place, (0, 0, w, h))
    alpha = pixels[..., 3:]
    straight = np.concatenate([pixels[..., :3] / np.maximum(alpha, 1e-6), alpha], axis=-1)
    rgba = np.clip(np.rint(straight * 255), 0, 255).astype(np.uint8)
    return rgba, box
