"""The "photograph" of a mussel shell: a made-up solid, ray-traced over its height field under a wide soft lamp.

No camera was used. The same call gives the same picture.
"""

from __future__ import annotations

import cv2
import numpy as np

from volumen.colour.srgb import Floats
from volumen.geometry.curve import flatten
from volumen.geometry.path import Path

_TONES = np.array([
    [0.30, 0.21, 0.14], [0.16, 0.15, 0.20], [0.11, 0.14, 0.24], [0.15, 0.18, 0.28], [0.21, 0.24, 0.35], [0.34, 0.34, 0.45],
])  # fmt: skip
_LAMPS = 14
_STEPS = 36


def photograph(outline: Path, tip: tuple[float, float], width: int, height: int) -> Floats:
    """A picture (height, width, 3), encoded sRGB, of a shell whose outline and tip are given in pixels."""
    inside, h = _height(outline, width, height)
    y, x = np.mgrid[:height, :width].astype(np.float64)
    growth = np.hypot(x - tip[0], (y - tip[1]) * 0.96)
    growth /= growth[inside > 0.5].max()
    rings = np.sin(growth**1.35 * 62) * 0.5 + np.sin(growth**1.35 * 23 + 1) * 0.8
    h = h + inside * rings * 0.35
    ny, nx = np.gradient(cv2.GaussianBlur(h, (0, 0), 1.2))
    normal = np.dstack([-nx, -ny, np.full_like(h, 0.55)])
    normal /= np.linalg.norm(normal, axis=2, keepdims=True)
    light, gloss = _lit(h, normal)
    base = _tone(growth, rings)
    ambient = 0.30 + 0.12 * normal[..., 2] - 0.10 * normal[..., 1]
    shell = base * (ambient + 1.5 * light)[..., None] + (gloss * 0.55)[..., None] * np.array([0.90, 0.95, 1.0])
    ground = np.array([0.80, 0.77, 0.71]) * (0.42 + 0.62 * light)[..., None]
    alpha = inside[..., None]
    grain = np.random.default_rng(5).normal(0, 0.008, (height, width, 1))
    return np.asarray(np.clip(shell * alpha + ground * (1 - alpha) + grain, 0, 1))


def _height(outline: Path, width: int, height: int) -> tuple[Floats, Floats]:
    """Coverage, and a vaulted height in pixels that rises steeply from the rim."""
    mask = np.zeros((height, width), np.uint8)
    cv2.fillPoly(
        mask, [np.round(flatten(c, 0.05)[0] * 16).astype(np.int32) for c in outline.contours], 255, cv2.LINE_AA, 4
    )
    inside = mask / 255.0
    distance = cv2.GaussianBlur(cv2.distanceTransform((mask > 127).astype(np.uint8), cv2.DIST_L2, 5), (0, 0), 7)
    share = np.clip(distance / distance.max(), 0, 1)
    return inside, cv2.GaussianBlur(np.sqrt(1 - (1 - share) ** 2), (0, 0), 4) * inside * 78.0


def _lit(h: Floats, normal: Floats) -> tuple[Floats, Floats]:
    """Light from a wide lamp at the top left, with the shadows of a march over the height field; and its gloss."""
    rng = np.random.default_rng(3)
    light, gloss = np.zeros_like(h), np.zeros_like(h)
    for _ in range(_LAMPS):
        to = np.array([-0.52 + rng.normal(0, 0.10), -0.62 + rng.normal(0, 0.10), 0.78])
        to /= np.linalg.norm(to)
        seen = np.ones_like(h)
        for k in range(1, _STEPS):
            step = 3.0 * k
            moved = np.array([[1, 0, -to[0] * step], [0, 1, -to[1] * step]], dtype=np.float32)
            over = cv2.warpAffine(h, moved, (h.shape[1], h.shape[0]), borderMode=cv2.BORDER_REPLICATE)
            seen = np.minimum(seen, np.clip(1 - (over - h - to[2] * step) / 4, 0, 1))
        light += np.clip(normal @ to, 0, 1) * seen
        half = to + (0, 0, 1)
        half /= np.linalg.norm(half)
        gloss += np.clip(normal @ half, 0, 1) ** 46 * seen
    return light / _LAMPS, gloss / _LAMPS


def _tone(growth: Floats, rings: Floats) -> Floats:
    """The colour of the shell: brown at the tip, then blue-black to violet, banded by its years."""
    t = np.clip(growth + rings * 0.02, 0, 1) * (len(_TONES) - 1)
    k = np.minimum(t.astype(int), len(_TONES) - 2)
    f = (t - k)[..., None]
    return np.asarray((_TONES[k] * (1 - f) + _TONES[k + 1] * f) * 1.25)
