"""OKLab and OKLCH (B. Ottosson, "A perceptual color space for image processing", 2020). Arrays are (..., 3)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from volumen.colour.srgb import Floats, from_linear, to_linear

RGB_TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
_LMS_TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
LMS_TO_LIGHTNESS = _LMS_TO_LAB[0]
LAB_TO_LMS = np.linalg.inv(_LMS_TO_LAB)
LMS_TO_RGB = np.linalg.inv(RGB_TO_LMS)


def from_srgb(rgb: ArrayLike) -> Floats:
    """OKLab of encoded sRGB."""
    lms = to_linear(rgb) @ RGB_TO_LMS.T
    return np.asarray(np.cbrt(lms) @ _LMS_TO_LAB.T)


def to_srgb(lab: ArrayLike) -> Floats:
    """Encoded sRGB of OKLab; may leave 0..1 for colours outside the gamut."""
    lms = np.asarray(lab, dtype=np.float64) @ LAB_TO_LMS.T
    return from_linear(lms**3 @ LMS_TO_RGB.T)


def to_lch(lab: ArrayLike) -> Floats:
    """Lightness, chroma, hue in degrees 0..360."""
    v = np.asarray(lab, dtype=np.float64)
    out = v.copy()  # filled in place: of few colours NumPy's stacking would be half the time
    out[..., 1] = np.hypot(v[..., 1], v[..., 2])
    out[..., 2] = np.degrees(np.arctan2(v[..., 2], v[..., 1])) % 360
    return out


def from_lch(lch: ArrayLike) -> Floats:
    """OKLab (..., 3) of lightness, chroma and hue in degrees (..., 3)."""
    v = np.asarray(lch, dtype=np.float64)
    h = np.radians(v[..., 2])
    out = v.copy()
    out[..., 1] = v[..., 1] * np.cos(h)
    out[..., 2] = v[..., 1] * np.sin(h)
    return out


def lch_to_srgb(lch: ArrayLike) -> Floats:
    """Encoded sRGB of OKLCH inside 0..1: chroma is reduced until the colour fits, lightness and hue are kept."""
    v = np.array(lch, dtype=np.float64)
    v[..., 0] = np.clip(v[..., 0], 0, 1)
    rgb = to_srgb(from_lch(v))
    outside = ~_inside(rgb)
    if outside.any():
        rgb[outside] = _chroma_reduced(v[outside])
    return np.clip(rgb, 0, 1)


def _chroma_reduced(v: Floats) -> Floats:
    """Encoded sRGB (n, 3) of colours (n, 3) outside the gamut, with the most chroma that fits."""
    low, high = np.zeros(len(v)), v[:, 1].copy()
    for _ in range(14):
        v[:, 1] = (low + high) / 2
        fits = _inside(to_srgb(from_lch(v)))
        low, high = np.where(fits, v[:, 1], low), np.where(fits, high, v[:, 1])
    v[:, 1] = low
    return to_srgb(from_lch(v))


def _inside(rgb: Floats) -> np.ndarray[tuple[int, ...], np.dtype[np.bool_]]:
    return np.asarray(((rgb >= -1e-6) & (rgb <= 1 + 1e-6)).all(axis=-1))
