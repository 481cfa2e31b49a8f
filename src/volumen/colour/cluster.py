"""The few colours that stand for a picture: k-means in OKLab."""

from __future__ import annotations

import numpy as np

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats

_MOST = 40_000


def main_colours(rgb: Floats, count: int, seed: int = 1) -> Floats:
    """``count`` encoded sRGB colours (count, 3) of pixels (n, 3), the most frequent first.

    Fewer come back when the pixels have fewer different colours. Raises ValueError for no pixels.
    """
    import cv2  # loads slowly

    pixels = np.asarray(rgb, dtype=np.float64).reshape(-1, 3)
    if not len(pixels):
        raise ValueError("there are no pixels to take colours from")
    if len(pixels) > _MOST:
        pixels = pixels[np.random.default_rng(seed).choice(len(pixels), _MOST, replace=False)]
    different = np.unique(np.round(pixels * 255), axis=0)
    count = min(max(count, 1), len(different))
    lab = oklab.from_srgb(pixels).astype(np.float32)
    cv2.setRNGSeed(seed)
    stop = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_MAX_ITER, 60, 1e-5)
    _, label, centres = cv2.kmeans(lab, count, None, stop, 4, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]
    order = np.argsort(-np.bincount(label.reshape(-1), minlength=count))
    return np.clip(oklab.to_srgb(centres[order]), 0, 1)


def distinct(rgb: Floats, least: float) -> Floats:
    """Of encoded sRGB colours (n, 3) those that are ``least`` (CIEDE2000) or more from all before them."""
    kept: list[Floats] = []
    for c in np.asarray(rgb, dtype=np.float64):
        if all(float(srgb_difference(c, k)) >= least for k in kept):
            kept.append(c)
    return np.array(kept).reshape(-1, 3)
