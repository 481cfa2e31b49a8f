"""Blend modes as W3C Compositing and Blending Level 1 defines them, written once more for the tests."""

from __future__ import annotations

import numpy as np

LUM = np.array([0.3, 0.59, 0.11])


def _clip_colour(c):
    lum, low, high = c @ LUM, c.min(), c.max()
    if low < 0:
        c = lum + (c - lum) * lum / (lum - low)
    if high > 1:
        c = lum + (c - lum) * (1 - lum) / (high - lum)
    return c


def _set_lum(c, lum):
    return _clip_colour(c + (lum - c @ LUM))


def _set_sat(c, s):
    span = c.max() - c.min()
    return (c - c.min()) * s / span if span > 0 else np.zeros(3)


def _sat(c):
    return c.max() - c.min()


def w3c_blend(mode, b, s):
    """B(cb, cs) of Compositing and Blending Level 1, section 10."""
    multiply_, screen = b * s, b + s - b * s
    hard = np.where(s <= 0.5, 2 * b * s, b + (2 * s - 1) - b * (2 * s - 1))
    d = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    with np.errstate(divide="ignore", invalid="ignore"):
        dodge = np.where(b == 0, 0, np.where(s == 1, 1, np.minimum(1, b / (1 - s))))
        burn = np.where(b == 1, 1, np.where(s == 0, 0, 1 - np.minimum(1, (1 - b) / s)))
    return {
        "normal": s, "multiply": multiply_, "screen": screen, "darken": np.minimum(b, s), "lighten": np.maximum(b, s),
        "overlay": np.where(b <= 0.5, 2 * b * s, s + (2 * b - 1) - s * (2 * b - 1)), "hard-light": hard,
        "color-dodge": dodge, "color-burn": burn, "difference": abs(b - s), "exclusion": b + s - 2 * b * s,
        "soft-light": np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (d - b)),
        "hue": _set_lum(_set_sat(s, _sat(b)), b @ LUM), "saturation": _set_lum(_set_sat(b, _sat(s)), b @ LUM),
        "color": _set_lum(s, b @ LUM), "luminosity": _set_lum(b, s @ LUM),
    }[mode]  # fmt: skip
