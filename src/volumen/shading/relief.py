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

from volumen.colour.srgb import Floats
from volumen.geometry.distance import DistanceField
from volumen.geometry.ease import eased_all
from volumen.shading.paint import ReliefPaint

_SOFTEST = 66.0  # pixels
Grid = tuple[float, float, float, float]
_STEEPEST = 12.0  # a round edge is vertical at its foot


def slope_of(t: Floats, paint: ReliefPaint) -> Floats:
    """How steeply the profile rises at t (any shape), in heights per width; 0 off the slope."""
    inside = (t > 0) & (t < 1)
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
    return np.where(inside, np.minimum(steep, _STEEPEST), 0.0)


def across_slope(signed: Floats, paint: ReliefPaint, width: float) -> Floats:
    """Where on the slope, 0 at its foot to 1 at its top, places at a signed distance lie."""
    if paint.place == "inside":
        return signed / width
    if paint.place == "outside":
        return 1 + signed / width
    return 0.5 + signed / width


def relief_alpha(paint: ReliefPaint, signed: Floats, grid: Grid, width: float) -> Floats:
    """Shade or light (h, w, 4), premultiplied colour and alpha 0..1, over signed distances (h, w) in the outline's
    units. ``grid`` is what one step along a row (x, y) and one down a column (x, y) are there."""
    steep = slope_of(across_slope(signed, paint, max(width, 1e-9)), paint) * paint.height
    if paint.sunk:
        steep = -steep
    a, b, c, d = grid
    down, along = np.gradient(signed)
    det = a * d - b * c
    gx, gy = (d * along - b * down) / det, (a * down - c * along) / det
    size = np.maximum(np.hypot(gx, gy), 1e-9)
    dx, dy = -steep * gx / size, -steep * gy / size
    if paint.soften > 0:
        sigma = min(paint.soften / math.sqrt(abs(det)), _SOFTEST)
        dx, dy = (cv2.GaussianBlur(v.astype(np.float32), (0, 0), sigma).astype(np.float64) for v in (dx, dy))
    length = np.sqrt(dx * dx + dy * dy + 1)
    nx, ny, nz = dx / length, dy / length, 1 / length
    light, flat = np.full(signed.shape, paint.ambient), paint.ambient
    spark = np.zeros(signed.shape)
    tint = np.zeros((*signed.shape, 3))
    for lamp in paint.lights:
        own = lamp.strength * np.maximum(nx * lamp.x + ny * lamp.y + nz * lamp.z, 0)
        light = light + own
        flat += lamp.strength * max(lamp.z, 0.0)
        half = np.array([lamp.x, lamp.y, lamp.z + 1.0])
        half /= max(float(np.linalg.norm(half)), 1e-9)
        shine = np.maximum(nx * half[0] + ny * half[1] + nz * half[2], 0) ** paint.shininess
        lit = own + paint.gloss * lamp.strength * np.maximum(shine - half[2] ** paint.shininess, 0)
        spark += lit - own
        tint += lit[..., None] * np.array(lamp.colour.rgb)
    if paint.part == "shade":
        alpha = np.clip((flat - light) / max(flat, 1e-6), 0, 1)
        return _coloured(alpha, np.broadcast_to(np.array(paint.colour.rgb), (*signed.shape, 3)))
    alpha = np.clip((light - flat) / max(1.2 - flat, 0.25) + spark, 0, 1)
    hue = tint / np.maximum(tint.max(axis=-1, keepdims=True), 1e-9)
    return _coloured(alpha, hue * np.array(paint.colour.rgb))


def _coloured(alpha: Floats, rgb: Floats) -> Floats:
    return np.concatenate([rgb * alpha[..., None], alpha[..., None]], axis=-1)


def relief_pixels(
    paint: ReliefPaint, field: DistanceField, deepest: float, points: Floats, grid: Grid
) -> NDArray[np.float32]:
    """Premultiplied RGBA (h, w, 4) at points (h, w, 2) of a grid."""
    signed = field.sample(field.signed, points)
    width = paint.width if paint.width > 0 else deepest
    return relief_alpha(paint, signed, grid, width).astype(np.float32)
