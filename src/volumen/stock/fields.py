"""Arrays that stock is made of: noise, smooth steps, drawn masks, heights and their normals. Pixels, y down."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import cv2
import numpy as np
import skia
from numpy.typing import ArrayLike, NDArray

from volumen.colour.srgb import from_hex

Field = NDArray[Any]  # (h, w) or (h, w, channels), float32
Points = NDArray[Any]  # (n, 2), float64


def rgb(colour: str) -> Field:
    """A colour (#rrggbb) as encoded sRGB (3,)."""
    return np.array(from_hex(colour), np.float32)


def step(a: float, b: float, x: ArrayLike) -> Field:
    """0 at ``a``, 1 at ``b``, smooth between them."""
    t = np.clip((np.asarray(x, np.float32) - a) / (b - a), 0, 1).astype(np.float32)
    return np.asarray(t * t * (3 - 2 * t), np.float32)


def mix(a: Any, b: Any, t: Any) -> Field:
    """``a`` where ``t`` is 0, ``b`` where it is 1; a mask (h, w) mixes colours (h, w, 3) or (3,)."""
    a, b, t = np.asarray(a, np.float32), np.asarray(b, np.float32), np.asarray(t, np.float32)
    if t.ndim == 2 and max(a.ndim, b.ndim) in (1, 3) and 3 in (a.shape[-1:] + b.shape[-1:]):
        t = t[..., None]
    return np.asarray(a + (b - a) * t, np.float32)


def grid(height: int, width: int, scale: float = 1.0) -> tuple[Field, Field]:
    """x and y of the middles of pixels, over ``scale``."""
    y, x = np.mgrid[:height, :width].astype(np.float32)
    return (x + np.float32(0.5)) / np.float32(scale), (y + np.float32(0.5)) / np.float32(scale)


def noise(
    height: int, width: int, cell: float, seed: int, octaves: int = 3, gain: float = 0.5, aspect: float = 1.0
) -> Field:
    """Noise of mean 0 and deviation near 1: a grid of chance, interpolated, of ``cell`` pixels across and ``aspect``
    times that down; each octave halves the cells and takes ``gain`` of the amplitude."""
    rng = np.random.default_rng(seed)
    out = np.zeros((height, width), np.float32)
    amplitude, total = 1.0, 0.0
    for _ in range(octaves):
        rows, columns = max(int(height / (cell * aspect)) + 4, 4), max(int(width / cell) + 4, 4)
        chance = rng.standard_normal((rows, columns)).astype(np.float32)
        size = (math.ceil(width * columns / (columns - 3)), math.ceil(height * rows / (rows - 3)))
        large = cv2.resize(chance, size, interpolation=cv2.INTER_CUBIC)
        out += np.float32(amplitude) * large[:height, :width]
        total += amplitude * amplitude
        amplitude *= gain
        cell = max(cell / 2, 1.0)
    return out / np.float32(math.sqrt(total))


def chance(count: int, seed: int) -> Field:
    """So many numbers of mean 0 and deviation 1."""
    return np.random.default_rng(seed).standard_normal(count).astype(np.float32)


def blur(field: Field, radius: float) -> Field:
    """Gaussian of a standard deviation in pixels."""
    return np.asarray(cv2.GaussianBlur(np.ascontiguousarray(field, np.float32), (0, 0), max(radius, 0.05)))


def polygon(height: int, width: int, points: Points) -> Field:
    """The cover, 0..1, of a polygon."""
    path = skia.Path()
    path.addPoly([skia.Point(float(x), float(y)) for x, y in points], True)
    return _drawn(height, width, path, skia.Paint(AntiAlias=True))


def stroke(height: int, width: int, points: Points, wide: float, dash: tuple[float, float] | None = None) -> Field:
    """The cover, 0..1, of an open line of some width."""
    path = skia.Path()
    path.addPoly([skia.Point(float(x), float(y)) for x, y in points], False)
    paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=wide)
    paint.setStrokeJoin(skia.Paint.kRound_Join)
    if dash is not None:
        paint.setPathEffect(skia.DashPathEffect.Make(list(dash), 0))
    return _drawn(height, width, path, paint)


def _drawn(height: int, width: int, path: Any, paint: Any) -> Field:
    pixels = np.zeros((height, width, 4), np.uint8)
    surface = skia.Surface(pixels)
    surface.getCanvas().drawPath(path, paint)
    surface.flushAndSubmit()
    return np.asarray(pixels[..., 3] / np.float32(255), np.float32)


def rounded(x: Field, y: Field, box: Sequence[float], radius: float) -> Field:
    """How far inside a rectangle (left, top, right, bottom) with round corners each place lies; below 0 outside."""
    x0, y0, x1, y1 = box
    qx = abs(x - (x0 + x1) / 2) - (x1 - x0) / 2 + radius
    qy = abs(y - (y0 + y1) / 2) - (y1 - y0) / 2 + radius
    inside = radius - np.hypot(np.maximum(qx, 0), np.maximum(qy, 0)) - np.minimum(np.maximum(qx, qy), 0)
    return np.asarray(inside, np.float32)


def dot(a: Field, b: Field) -> Field:
    """The dot products of vectors (..., 3)."""
    return np.asarray(np.einsum("...k,...k->...", a, b))


def unit(vectors: ArrayLike) -> Field:
    """Vectors (..., 3) at length 1."""
    v = np.asarray(vectors, np.float32)
    return np.asarray(v * (1 / np.sqrt(dot(v, v)))[..., None], np.float32)


def halved(places: Field) -> Field:
    """Every other place across and down: shadows are soft, half the size is enough."""
    return np.ascontiguousarray(places[::2, ::2])


def enlarged(seen: Field, like: Field) -> Field:
    """What was worked out at half the size, at the size of a picture."""
    return np.asarray(cv2.resize(seen, (like.shape[1], like.shape[0]), interpolation=cv2.INTER_LINEAR))


def normals(heights: Field, steepest: float = 1e9) -> Field:
    """Unit normals (h, w, 3) of heights in pixels, towards the eye; their slopes are held to ``steepest``."""
    gx = cv2.Scharr(heights, cv2.CV_32F, 1, 0, scale=-1 / 32)
    gy = cv2.Scharr(heights, cv2.CV_32F, 0, 1, scale=-1 / 32)
    r = 1 / np.sqrt(gx * gx + gy * gy + 1)
    flat = np.clip(np.dstack([gx * r, gy * r]), -steepest, steepest)
    return unit(np.dstack([flat, r]))


def occlusion(heights: Field, radius: float, strength: float, least: float) -> Field:
    """How much light from all round reaches a place: less in hollows narrower than ``radius`` pixels."""
    return np.asarray(np.clip(1 - np.float32(strength) * np.maximum(blur(heights, radius) - heights, 0), least, 1))


def along(heights: Field, stretch: float = 1.0, column: int = 0, row: int = 0) -> tuple[Field, Field]:
    """How much longer the way over heights is than the flat one, in pixels across from a column and down from a row, to
    first order. ``stretch`` 1 is true."""
    gx, gy = np.gradient(heights, axis=1), np.gradient(heights, axis=0)
    u = np.cumsum(np.sqrt(1 + stretch * gx * gx) - 1, 1)
    v = np.cumsum(np.sqrt(1 + stretch * gy * gy) - 1, 0)
    return (u - u[:, column : column + 1]).astype(np.float32), (v - v[row : row + 1]).astype(np.float32)
