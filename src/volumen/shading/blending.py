"""Colours laid over one another, after W3C Compositing and Blending Level 1, section 5.8."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from volumen.geometry.affine import Floats


def _hard(b: Floats, s: Floats) -> Floats:
    return np.where(s <= 0.5, 2 * b * s, 1 - 2 * (1 - b) * (1 - s))


def _soft(b: Floats, s: Floats) -> Floats:
    lifted = np.where(b <= 0.25, ((16 * b - 12) * b + 4) * b, np.sqrt(b))
    return np.where(s <= 0.5, b - (1 - 2 * s) * b * (1 - b), b + (2 * s - 1) * (lifted - b))


def _dodged(b: Floats, s: Floats) -> Floats:
    return np.where(b <= 0, 0.0, np.minimum(1.0, b / np.maximum(1 - s, 1e-9)))


def _burnt(b: Floats, s: Floats) -> Floats:
    return np.where(b >= 1, 1.0, 1 - np.minimum(1.0, (1 - b) / np.maximum(s, 1e-9)))


# What becomes of a backdrop b under a source s, of the modes that let tones be seen through.
_MODES: dict[str, Callable[[Floats, Floats], Floats]] = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: _hard(s, b),
    "hard-light": _hard,
    "soft-light": _soft,
    "darken": np.minimum,
    "lighten": np.maximum,
    "color-dodge": _dodged,
    "color-burn": _burnt,
}
TONAL = frozenset(_MODES)


def laid_over(backdrop: Floats, source: Floats, alpha: Floats | float, mode: str) -> Floats:
    """An opaque backdrop under a source of some alpha (0..1), both encoded sRGB (..., 3), 0..1. ``mode`` is one of
    ``TONAL``."""
    b, s = np.broadcast_arrays(np.clip(backdrop, 0.0, 1.0), np.clip(source, 0.0, 1.0))
    return np.asarray(b + (_MODES[mode](b, s) - b) * alpha)
