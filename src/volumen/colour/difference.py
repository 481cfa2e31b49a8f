"""CIEDE2000 colour difference (CIE 142-2001; notation of Sharma, Wu and Dalal, 2005)."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from volumen.colour.srgb import Floats, to_linear

_RGB_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
_WHITE = _RGB_TO_XYZ.sum(axis=1)


def cielab(rgb: ArrayLike) -> Floats:
    """CIELAB (D65) of encoded sRGB, (..., 3)."""
    xyz = to_linear(rgb) @ _RGB_TO_XYZ.T / _WHITE
    d = 6 / 29
    f = np.where(xyz > d**3, np.cbrt(xyz), xyz / (3 * d * d) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def ciede2000(lab1: ArrayLike, lab2: ArrayLike) -> Floats:
    """The difference of two (..., 3) arrays of CIELAB colours."""
    l1, a1, b1 = np.moveaxis(np.asarray(lab1, dtype=np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(lab2, dtype=np.float64), -1, 0)
    c_mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dh = np.where(grey, 0.0, (h2 - h1 + 180) % 360 - 180)
    dl, dc = l2 - l1, c2 - c1
    d_hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    l_mean, c_bar = (l1 + l2) / 2, (c1 + c2) / 2
    far = np.abs(h1 - h2) > 180
    h_mean = np.where(grey, h1 + h2, np.where(far, (h1 + h2 + np.where(h1 + h2 < 360, 360, -360)) / 2, (h1 + h2) / 2))

    def cos(deg: Floats) -> Floats:
        return np.asarray(np.cos(np.radians(deg)))

    t = 1 - 0.17 * cos(h_mean - 30) + 0.24 * cos(2 * h_mean) + 0.32 * cos(3 * h_mean + 6) - 0.2 * cos(4 * h_mean - 63)
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_bar, 1 + 0.015 * c_bar * t
    turn = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
    r_t = -np.sin(np.radians(2 * turn)) * 2 * np.sqrt(c_bar**7 / (c_bar**7 + 25.0**7))
    total = (dl / s_l) ** 2 + (dc / s_c) ** 2 + (d_hue / s_h) ** 2 + r_t * (dc / s_c) * (d_hue / s_h)
    return np.asarray(np.sqrt(np.maximum(total, 0)))


def srgb_difference(rgb1: ArrayLike, rgb2: ArrayLike) -> Floats:
    """CIEDE2000 between encoded sRGB arrays."""
    return ciede2000(cielab(rgb1), cielab(rgb2))


def from_cielab(lab: ArrayLike) -> Floats:
    """Linear sRGB light (..., 3) of CIELAB (D65); may leave 0..1."""
    v = np.asarray(lab, dtype=np.float64)
    fy = (v[..., 0] + 16) / 116
    f = np.stack([fy + v[..., 1] / 500, fy, fy - v[..., 2] / 200], axis=-1)
    d = 6 / 29
    xyz = np.where(f > d, f**3, 3 * d * d * (f - 4 / 29)) * _WHITE
    return np.asarray(xyz @ np.linalg.inv(_RGB_TO_XYZ).T)
