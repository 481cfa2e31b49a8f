"""Grain: noise fixed to an object, the same wherever and however large it is drawn."""

from __future__ import annotations

import cv2
import numpy as np

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.shading.paint import Grain

TILE = 256  # grains until the pattern comes round again


@by_value("tile", 8)
def _tile(seed: int) -> Floats:
    """Smooth noise (TILE, TILE, 3) of mean 0 and standard deviation 1 that continues at its edges."""
    rng = np.random.default_rng(abs(seed) % 2**32)
    raw = rng.standard_normal((TILE, TILE, 3)).astype(np.float32)
    wrapped = cv2.copyMakeBorder(raw, 8, 8, 8, 8, cv2.BORDER_WRAP)
    smooth = cv2.GaussianBlur(wrapped, (0, 0), 0.8)[8:-8, 8:-8]
    return np.asarray(smooth / smooth.std(axis=(0, 1)), dtype=np.float64)


def noise(grain: Grain, points: Floats) -> Floats:
    """Noise (h, w, 3) at points (h, w, 2) in the object's units, of standard deviation 1."""
    if not points.size:
        return np.zeros((*points.shape[:2], 3))
    size = max(grain.size, 1e-3)
    x = np.mod(points[..., 0] / size, TILE).astype(np.float32)
    y = np.mod(points[..., 1] / size, TILE).astype(np.float32)
    tile = cv2.copyMakeBorder(_tile(grain.seed).astype(np.float32), 0, 1, 0, 1, cv2.BORDER_WRAP)
    return np.asarray(cv2.remap(tile, x, y, cv2.INTER_LINEAR), dtype=np.float64)


def grained(rgba: Floats, grain: Grain, points: Floats, extra: Floats | None = None) -> Floats:
    """Straight RGBA (h, w, 4) with grain; ``extra`` (h, w) adds to its amount."""
    amount = np.full(rgba.shape[:2], grain.amount) if extra is None else grain.amount + extra
    shift = noise(grain, points) * amount[..., None]
    lab = oklab.from_srgb(rgba[..., :3])
    if grain.mono:
        lab[..., 0] += shift[..., 0]
    else:
        lab += shift * (1.0, 0.5, 0.5)
    return np.concatenate([np.clip(oklab.to_srgb(lab), 0, 1), rgba[..., 3:]], axis=-1)
