"""Light on stock, in linear light; 1 is a plane that faces the eye in full light, so that colours stay the artist's.

Camera space: x right, y down, z to the eye. The lamp stands where the artwork's own does.
"""

from __future__ import annotations

import math

import cv2
import msgspec
import numpy as np
from numpy.typing import ArrayLike

from volumen.stock.fields import Field, mix, step

_LEAST_HEIGHT = 5.0  # degrees
_ENCODED = np.arange(65536, dtype=np.float64) / 65535
_TO_LINEAR = np.where(
    _ENCODED <= 0.04045, _ENCODED / 12.92, ((_ENCODED + 0.055) / 1.055) ** 2.4
).astype(np.float32)  # fmt: skip
_BRIGHTEST = 4.0  # of linear light that the table back holds, in square-root spacing: finer in the darks
_SHOULDER = 0.86  # from where light is bent so that highlights keep their drawing
_light = _ENCODED**2 * _BRIGHTEST
_bent = np.where(_light < _SHOULDER, _light, _SHOULDER + 0.14 * (1 - np.exp(-(_light - _SHOULDER) / 0.28)))
_TO_ENCODED = np.where(
    _bent <= 0.0031308, _bent * 12.92, 1.055 * np.maximum(_bent, 1e-9) ** (1 / 2.4) - 0.055
).astype(np.float32)  # fmt: skip


def to_linear(encoded: ArrayLike) -> Field:
    """sRGB to linear light by a table."""
    index = np.clip(np.asarray(encoded, np.float32) * np.float32(65535), 0, 65535).astype(np.uint16)
    return np.asarray(_TO_LINEAR[index])


def to_encoded(linear: ArrayLike) -> Field:
    """Linear light, 0..4, to sRGB by a table; above 0.86 it is bent towards 1. Below, a round trip is 0.015 levels off
    at most."""
    root = np.sqrt(np.maximum(np.asarray(linear, np.float32), 0) * np.float32(1 / _BRIGHTEST))
    return np.asarray(_TO_ENCODED[np.minimum(root * np.float32(65535), 65535).astype(np.uint16)])


class StockLamp(msgspec.Struct, frozen=True):
    """The lamp of the artwork as stock sees it: degrees clockwise from the top and over the sheet, softness, and the
    share of light that comes from all round."""

    bearing: float = 322.0
    height: float = 41.0
    size: float = 0.3
    ambient: float = 0.32

    @property
    def toward(self) -> Field:
        """The unit vector to the lamp."""
        b, h = math.radians(self.bearing), math.radians(min(max(self.height, _LEAST_HEIGHT), 90.0))
        return np.array([math.sin(b) * math.cos(h), -math.cos(b) * math.cos(h), math.sin(h)], np.float32)


def lit_share(heights: Field, lamp: StockLamp, reach: float, steps: int = 18, near: float = 2.0) -> Field:
    """How much of the lamp each place of a height field (pixels) sees: marched towards the lamp at half size in ever
    longer steps; the edge of a shadow widens with the way and with the size of the lamp."""
    h, w = heights.shape
    h2, w2 = (h + 1) // 2, (w + 1) // 2
    half = cv2.resize(heights, (w2, h2), interpolation=cv2.INTER_AREA) * np.float32(0.5)
    x, y, z = (float(v) for v in lamp.toward)
    flat = math.hypot(x, y)
    if flat < 1e-3:
        return np.ones((h, w), np.float32)
    x, y, rise = x / flat, y / flat, z / flat
    worst = np.zeros_like(half)
    way, grow = near / 2, (reach / near) ** (1 / max(steps - 1, 1))
    for _ in range(steps):
        soft = 0.6 + way * lamp.size * 0.55
        source = half if soft < 1.2 else cv2.GaussianBlur(half, (0, 0), soft * 0.5)
        shift = np.array([[1, 0, -x * way], [0, 1, -y * way]], np.float32)
        moved = cv2.warpAffine(source, shift, (w2, h2), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        np.maximum(worst, (moved - half - way * rise) / soft + 0.5, out=worst)
        way *= grow
    lost = cv2.resize(step(0, 1, worst), (w, h), interpolation=cv2.INTER_LINEAR)
    return np.asarray(1 - lost, np.float32)


def mirrored(way: Field, lamp: StockLamp) -> tuple[Field, Field]:
    """What a mirror sees in directions (..., 3): a room, lighter above, and a window where the lamp hangs, as large as
    the lamp is soft, with one bar."""
    toward = lamp.toward
    across = np.cross(toward, np.array([0, 1, 0.2], np.float32))
    across /= np.linalg.norm(across)
    upward = np.cross(toward, across)
    room = mix(0.30, 0.62, step(-0.5, 0.9, -way[..., 1])) * (0.62 + 0.38 * step(-0.2, 0.9, way[..., 2]))
    wide, edge = 0.16 + 0.5 * lamp.size, 0.02 + 0.12 * lamp.size
    a, b, c = way @ across, way @ upward, way @ toward
    window = step(-edge, edge, wide - abs(a)) * step(-edge, edge, wide * 1.25 - abs(b)) * (c > 0)
    window = window * (1 - 0.55 * np.exp(-((a / (0.018 + 0.05 * lamp.size)) ** 2)))
    return np.asarray(room, np.float32), np.asarray(window * 3.2, np.float32)
