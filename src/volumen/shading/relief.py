"""Relief: an outline's edge as a slope, lit from exact distances to the outline.

Over a place at signed distance s from the outline (inside above 0) the surface stands at height H p(t), where t runs
0..1 across the slope and p is the profile. Its normal follows from p' and the gradient of the distance, so nothing
depends on the resolution. A lamp L gives diffuse light n · L and Blinn-Phong highlights (n · H)^shininess, H half way
between lamp and eye. What is darker than the flat surface becomes shade, what is lighter becomes light, each in
its own colour, so that the artwork's own paint shows through.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.caching import Cache, MixedCache
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine
from volumen.geometry.distance import DistanceField
from volumen.geometry.ease import eased_all
from volumen.shading.paint import ReliefPaint

_SOFTEST = 66.0  # pixels
Grid = tuple[float, float, float, float]
PixelRange = tuple[int, int, int, int]
Signed = NDArray[np.float32]
Slopes = tuple[Signed, Signed]
_NO_PIXELS: Signed = np.zeros((0, 0, 4), np.float32)
_TABLE = 1025
_slopes: MixedCache = Cache("slopes of reliefs", most_bytes=96_000_000)
_STEEPEST = 12.0  # a round edge is vertical at its foot


def slope_of(t: Floats, paint: ReliefPaint) -> Floats:
    """How steeply the profile rises at t (any shape), in heights per width."""
    u = np.clip(t, 1e-4, 1 - 1e-4)
    if paint.profile == "flat":
        steep = np.ones_like(u)
    elif paint.profile == "round":
        steep = (1 - u) / np.sqrt(u * (2 - u))
    elif paint.profile == "hollow":
        steep = u / np.sqrt(1 - u * u)
    else:
        at = np.linspace(0, 1, 1025)
        steep = np.interp(u, at, np.gradient(eased_all(at, paint.drawn), at))
    return np.minimum(steep, _STEEPEST)


def across_slope(paint: ReliefPaint, width: float) -> tuple[float, float]:
    """What brings a signed distance to its place on the slope, 0 at the foot to 1 at the top: a factor and a shift."""
    return 1 / max(width, 1e-9), {"inside": 0.0, "outside": 1.0, "across": 0.5}[paint.place]


def relief_slopes(paint: ReliefPaint, signed: Signed, grid: Grid, width: float) -> Slopes:
    """How the surface over signed distances (h, w) leans along x and along y, in the outline's units.

    ``grid`` is what one step along a row (x, y) and one down a column (x, y) are there.
    """
    from volumen.shading.relief_kernel import slopes  # compiled code loads slowly

    scale, shift = across_slope(paint, width)
    table = slope_of(np.linspace(0, 1, _TABLE), paint)
    height = -paint.height if paint.sunk else paint.height
    dx, dy = slopes(np.ascontiguousarray(signed, np.float32), np.array(grid), scale, shift, table, height)
    if paint.soften > 0:
        sigma = min(paint.soften / math.sqrt(abs(grid[0] * grid[3] - grid[1] * grid[2])), _SOFTEST)
        if sigma > 0.1:
            dx, dy = (np.asarray(cv2.GaussianBlur(v, (0, 0), sigma), np.float32) for v in (dx, dy))
    return dx, dy


def relief_light(paint: ReliefPaint, leaning: Slopes) -> Signed:
    """Shade or light (h, w, 4) on slopes (h, w): premultiplied colour and alpha, 0..1."""
    pixels = np.zeros((*leaning[0].shape, 4), np.float32)
    relief_strength(paint, leaning, pixels)
    return pixels


def is_plain(paint: ReliefPaint) -> bool:
    """Whether what a relief shows has its own colour all over: lamps with a colour tint its light."""
    return paint.part == "shade" or all(o.colour.rgb == (1.0, 1.0, 1.0) for o in paint.lights)


def relief_strength(paint: ReliefPaint, leaning: Slopes, pixels: Signed = _NO_PIXELS) -> Signed:
    """How strong shade or light are (h, w) on slopes, 0..1; ``pixels`` (h, w, 4) take them in colour."""
    from volumen.shading.relief_kernel import strength

    lamps = np.array([[o.x, o.y, o.z, o.strength, *o.colour.rgb] for o in paint.lights]).reshape(-1, 7)
    numbers, colour = np.array([paint.ambient, paint.gloss, paint.shininess]), np.array(paint.colour.rgb)
    return np.asarray(strength(*leaning, lamps, numbers, paint.part == "shade", colour, pixels))


def relief_alpha(paint: ReliefPaint, signed: Signed, grid: Grid, width: float) -> Signed:
    """Shade or light (h, w, 4) over signed distances (h, w) in the outline's units."""
    return relief_light(paint, relief_slopes(paint, signed, grid, width))


def slopes_over(paint: ReliefPaint, field: DistanceField, inverse: Affine, box: PixelRange, more: int) -> Slopes:
    """The slopes of a relief over a box of pixels, ``more`` less at each side; ``inverse`` brings pixels to the
    outline's units.

    Slopes are kept: shade and light share them, and under a moved lamp they stay.
    """
    width = paint.width if paint.width > 0 else field.deepest
    key = (id(field), inverse, box, more, _form_of(paint))
    leaning: Slopes | None = _slopes.get(key)
    if leaning is None:
        dx, dy = relief_slopes(paint, _signed_over(field, inverse, box), inverse[:4], width)
        inner = slice(more, -more)
        leaning = np.ascontiguousarray(dx[inner, inner]), np.ascontiguousarray(dy[inner, inner])
        _slopes.put(key, field, leaning, 2 * leaning[0].nbytes)
    return leaning


def _form_of(paint: ReliefPaint) -> tuple[object, ...]:
    """What of a relief its slopes depend on."""
    return (paint.place, paint.profile, paint.drawn, paint.sunk, paint.width, paint.height, paint.soften)


def _signed_over(field: DistanceField, inverse: Affine, box: PixelRange) -> Signed:
    """A field's signed distances over a box of pixels."""
    a, b, c, d, e, f = inverse
    x0, y0 = field.origin
    # From a pixel of the box, through the outline's units, to the nodes of the field.
    k = 1 / field.step
    e, f = a * (box[0] + 0.5) + c * (box[1] + 0.5) + e - x0, b * (box[0] + 0.5) + d * (box[1] + 0.5) + f - y0
    m = np.array([[a * k, c * k, e * k], [b * k, d * k, f * k]])
    size = (box[2] - box[0], box[3] - box[1])
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    return np.asarray(cv2.warpAffine(field.signed, m, size, flags=flags, borderMode=cv2.BORDER_REPLICATE), np.float32)
