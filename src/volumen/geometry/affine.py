"""2D affine maps as plain 6-tuples (a, b, c, d, e, f): x' = a·x + c·y + e, y' = b·x + d·y + f.

The order is that of the SVG ``matrix()`` notation. Angles are degrees, clockwise positive as seen on the
sheet (y points down).
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Affine = tuple[float, float, float, float, float, float]
Point = tuple[float, float]
Floats = NDArray[np.float64]

IDENTITY: Affine = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)


def multiply(outer: Affine, inner: Affine) -> Affine:
    """The map that applies ``inner`` first and ``outer`` after it."""
    a, b, c, d, e, f = outer
    g, h, i, j, k, m = inner
    return (a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def translation(dx: float, dy: float) -> Affine:
    """The map that moves by (dx, dy)."""
    return (1.0, 0.0, 0.0, 1.0, dx, dy)


def scaling(sx: float, sy: float, about: Point = (0.0, 0.0)) -> Affine:
    """The map that scales by (sx, sy) ``about`` a point."""
    x, y = about
    return (sx, 0.0, 0.0, sy, x - sx * x, y - sy * y)


def rotation(degrees: float, about: Point = (0.0, 0.0)) -> Affine:
    """The map that turns clockwise (y down) by ``degrees`` ``about`` a point."""
    t = math.radians(degrees)
    c, s = math.cos(t), math.sin(t)
    x, y = about
    return (c, s, -s, c, x - c * x + s * y, y - s * x - c * y)


def mirroring(angle: float, about: Point) -> Affine:
    """The map that mirrors at a line through ``about`` at ``angle`` degrees (90 is upright)."""
    return multiply(rotation(angle, about), multiply(scaling(1, -1, about), rotation(-angle, about)))


def determinant(m: Affine) -> float:
    """The area that a map makes of one, below zero for one that mirrors."""
    return m[0] * m[3] - m[1] * m[2]


def invert(m: Affine) -> Affine | None:
    """The inverse map, or None when ``m`` flattens the plane (determinant zero or not finite)."""
    det = determinant(m)
    if not math.isfinite(det) or abs(det) < 1e-18:
        return None
    a, b, c, d, e, f = m
    return (d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det)


def apply(m: Affine, p: Point) -> Point:
    """Where a map takes a point."""
    return (m[0] * p[0] + m[2] * p[1] + m[4], m[1] * p[0] + m[3] * p[1] + m[5])


def apply_vector(m: Affine, v: Point) -> Point:
    """Map a direction: the linear part only."""
    return (m[0] * v[0] + m[2] * v[1], m[1] * v[0] + m[3] * v[1])


def apply_points(m: Affine, points: Floats) -> Floats:
    """Map an (N, 2) array of points."""
    linear = np.array([[m[0], m[1]], [m[2], m[3]]])
    return np.asarray(points @ linear + np.array([m[4], m[5]]), dtype=np.float64)


def mean_scale(m: Affine) -> float:
    """The geometric mean of the two scale factors: sqrt(|det|)."""
    return math.sqrt(abs(determinant(m)))


def max_scale(m: Affine) -> float:
    """The largest stretch of any direction (largest singular value)."""
    a, b, c, d = m[:4]
    s = a * a + b * b + c * c + d * d
    det = determinant(m)
    return math.sqrt((s + math.sqrt(max(s * s - 4 * det * det, 0.0))) / 2)


def unit(v: Point) -> Point | None:
    """``v`` scaled to length 1, or None for a (nearly) zero vector."""
    n = math.hypot(*v)
    return (v[0] / n, v[1] / n) if n > 1e-12 and math.isfinite(n) else None


def digits_for(m: Affine, digits: int) -> int:
    """How many decimals coordinates before ``m`` need, so that ``digits`` are right after it."""
    scale = max_scale(m)
    if not math.isfinite(scale) or scale <= 0:
        return digits
    return min(max(digits + math.ceil(math.log10(scale)), 1), 14)


def uneven(world: Affine) -> Affine | None:
    """How a map stretches unevenly, before it turns what it stretched; None for one that keeps angles.

    The right factor S of the polar decomposition M = R S (S symmetric, R a rotation or mirroring): the square root of
    A = MᵀM, which for 2 x 2 is (A + √det A · 1) / √(tr A + 2 √det A). Turning a thing leaves it as it is.
    """
    a, b, c, d = world[:4]
    size = abs(a) + abs(b) + abs(c) + abs(d)
    even = (abs(a - d) + abs(b + c) <= 1e-7 * size) or (abs(a + d) + abs(b - c) <= 1e-7 * size)
    if even or not math.isfinite(size):
        return None
    xx, xy, yy = a * a + b * b, a * c + b * d, c * c + d * d
    root = abs(determinant(world))
    whole = math.sqrt(xx + yy + 2 * root)
    sxx, sxy, syy = (_rounded(v / whole) for v in (xx + root, xy, yy + root))
    return (sxx, sxy, sxy, syy, 0.0, 0.0)


def _rounded(value: float) -> float:
    """Ten digits: what only turns keeps the very same stretch, whatever the last bits of its sines are."""
    return float(f"{value:.10g}")
