"""Easing: a curve from (0, 0) to (1, 1) that says how far a run has come at each share of its way."""

from __future__ import annotations

import numpy as np

from volumen.caching import by_value
from volumen.geometry.affine import Floats

# Both handles of a cubic, as CSS Easing Functions Level 1 has them: x 0..1, y free.
Ease = tuple[float, float, float, float]
EVEN: Ease = (0.25, 0.25, 0.75, 0.75)


def eased(t: float, ease: Ease) -> float:
    """The height of an easing curve over ``t`` (0..1)."""
    if ease == EVEN or not 0 < t < 1:
        return t
    x1, y1, x2, y2 = min(max(ease[0], 0.0), 1.0), ease[1], min(max(ease[2], 0.0), 1.0), ease[3]
    low, high = 0.0, 1.0
    for _ in range(40):  # x rises along the curve, so halving finds its place
        middle = (low + high) / 2
        low, high = (middle, high) if _height(middle, x1, x2) < t else (low, middle)
    return _height((low + high) / 2, y1, y2)


def _height(s: float, a: float, b: float) -> float:
    """A cubic from 0 to 1 with the inner control values a and b."""
    u = 1 - s
    return 3 * u * u * s * a + 3 * u * s * s * b + s * s * s


@by_value("table", 512)
def _table(ease: Ease) -> tuple[float, ...]:
    return tuple(eased(k / 256, ease) for k in range(257))


def eased_all(t: Floats, ease: Ease) -> Floats:
    """``eased`` for an array of any shape, read from a table of 257 heights."""
    return np.interp(t, np.linspace(0, 1, 257), _table(ease))
