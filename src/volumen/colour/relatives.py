"""Colours that belong to a colour: tints and shades, harmonies, contrast, other notations."""

from __future__ import annotations

import colorsys

import numpy as np
from numpy.typing import ArrayLike

from volumen.colour import oklab
from volumen.colour.difference import cielab, from_cielab
from volumen.colour.srgb import Floats, from_linear, to_linear

Rgb = tuple[float, float, float]
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])  # of linear sRGB
HARMONIES: dict[str, tuple[float, ...]] = {
    "complement": (180,), "neighbours": (-30, 30), "split": (150, 210), "triad": (120, 240), "square": (90, 180, 270),
}  # fmt: skip


def tints_and_shades(rgb: Rgb, count: int = 9) -> list[Rgb]:
    """From a deep shade to a light tint, the colour itself in the middle; shades turn a little towards blue."""
    l, c, h = (float(v) for v in oklab.to_lch(oklab.from_srgb(rgb)))
    half = count // 2
    out = []
    for k in range(-half, half + 1):
        t = abs(k) / (half + 0.5)
        if k < 0:
            turned = h + t * 0.12 * (((264 - h + 180) % 360) - 180)
            out.append((l * (1 - 0.82 * t), c * (1 - 0.35 * t), turned))
        else:
            out.append((l + (0.985 - l) * t, c * (1 - 0.75 * t), h))
    return _rgbs(out)


def harmony(rgb: Rgb, name: str) -> list[Rgb]:
    """The colour and those that stand at a harmony's angles to it, of its lightness and chroma."""
    l, c, h = (float(v) for v in oklab.to_lch(oklab.from_srgb(rgb)))
    return _rgbs([(l, c, h + turn) for turn in (0.0, *HARMONIES[name])])


def _rgbs(lch: list[tuple[float, float, float]]) -> list[Rgb]:
    rows = oklab.lch_to_srgb(np.array([(l, c, h % 360) for l, c, h in lch]))
    return [(r, g, b) for r, g, b in rows.tolist()]


def contrast(a: Rgb, b: Rgb) -> float:
    """The contrast ratio of two colours, 1 to 21 (WCAG 2)."""
    la, lb = (to_linear(np.array(c)) @ LUMINANCE for c in (a, b))
    return float(luminance_contrast(la, lb))


def luminance_contrast(a: ArrayLike, b: ArrayLike) -> Floats:
    """The contrast ratios (WCAG 2) of relative luminances, 0..1."""
    return np.asarray((np.maximum(a, b) + 0.05) / (np.minimum(a, b) + 0.05))


def most_chroma(lightness: float, hue: float) -> float:
    """The largest OKLCH chroma that a screen (sRGB) shows at a lightness and hue."""
    held = oklab.lch_to_srgb(np.array([lightness, 0.5, hue]))
    return float(oklab.to_lch(oklab.from_srgb(held))[1])


def hsl(rgb: Rgb) -> tuple[float, float, float]:
    """Hue in degrees, saturation and lightness 0..100."""
    h, l, s = colorsys.rgb_to_hls(*rgb)
    return h * 360, s * 100, l * 100


def from_hsl(h: float, s: float, l: float) -> Rgb:
    """Encoded sRGB of hue in degrees, saturation and lightness in percent (CSS Color 4, 7.1)."""
    return colorsys.hls_to_rgb((h % 360) / 360, min(max(l, 0), 100) / 100, min(max(s, 0), 100) / 100)


def lab(rgb: Rgb) -> tuple[float, float, float]:
    """CIELAB (D65)."""
    l, a, b = (float(v) for v in cielab(np.array(rgb)))
    return l, a, b


# CIE XYZ under D50 to linear sRGB, the white adapted after Bradford (ICC.1:2010, annex E).
_FROM_D50 = np.array(
    [[3.1338561, -1.6168667, -0.4906146], [-0.9787684, 1.9161415, 0.0334540], [0.0719453, -0.2289914, 1.4052427]]
)
_D50 = np.array([0.96422, 1.0, 0.82521])
_KNEE = 6 / 29  # of CIELAB, from where it is straight


def measured_lab(rgb: Rgb) -> tuple[float, float, float]:
    """CIELAB under D50, in which inks are measured."""
    xyz = np.linalg.solve(_FROM_D50, to_linear(np.array(rgb))) / _D50
    x, y, z = np.where(xyz > _KNEE**3, np.cbrt(xyz), xyz / (3 * _KNEE**2) + 4 / 29)
    return float(116 * y - 16), float(500 * (x - y)), float(200 * (y - z))


def from_measured_lab(l: float, a: float, b: float) -> Rgb:
    """The screen colour of CIELAB under D50, held to what a screen shows."""
    y = (l + 16) / 116
    f = np.array([y + a / 500, y, y - b / 200])
    xyz = np.where(f > _KNEE, f**3, 3 * _KNEE**2 * (f - 4 / 29)) * _D50
    rgb: Floats = np.clip(from_linear(_FROM_D50 @ xyz), 0, 1)
    return (float(rgb[0]), float(rgb[1]), float(rgb[2]))


def from_lab(l: float, a: float, b: float) -> Rgb:
    """The screen colour of CIELAB (D65), held to what a screen shows."""
    rgb: Floats = np.clip(from_linear(from_cielab(np.array([l, a, b]))), 0, 1)
    return (float(rgb[0]), float(rgb[1]), float(rgb[2]))
