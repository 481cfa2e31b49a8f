"""The two ways in which a flat outline gets depth: along a direction, or towards a point.

Each has coordinates of its own: u across the depth, the same all along a line of it, and v along it, so that what lies
behind a place has the same u and a v greater by ``far``.
"""

from __future__ import annotations

import math
from typing import Protocol

import numpy as np

from volumen.geometry.affine import Floats, Point
from volumen.geometry.cubics import sign_changes, turning_points
from volumen.geometry.curve import evaluate
from volumen.geometry.path import Box

_POWERS = np.array([[1, 0, 0, 0], [-3, 3, 0, 0], [3, -6, 3, 0], [-1, 3, -3, 1]], dtype=np.float64)
_ENDS = 1e-6  # parameters so near to an end of a segment are the end


class Depth(Protocol):
    """How deep, and which way."""

    far: float
    scale: float  # of a front outline as it shows at the back

    def back(self, points: Floats) -> Floats:
        """Where points (..., 2) of the front are at the back."""

    def uv(self, points: Floats) -> tuple[Floats, Floats]:
        """The coordinates of points (n, 2) across and along the depth."""

    def over(self, segments: Floats, u: Floats) -> Floats:
        """Bernstein coefficients (n, 4) that are zero where segments (n, 4, 2) meet the lines of depth at u (n,)."""

    def turns(self, segments: Floats) -> list[list[float]]:
        """The parameters at which segments run along the depth, or where u begins anew."""

    def unwrapped(self, u: Floats, middle: Floats) -> Floats:
        """The u of ends, on the side of the u of the middle of what they end."""


class Along:
    """Depth along a direction: ``shift`` is the way from the front to the back."""

    scale = 1.0

    def __init__(self, shift: Point) -> None:
        self.shift = np.array(shift, dtype=np.float64)
        self.far = math.hypot(*shift)
        self.way = self.shift / self.far
        self.side = np.array([self.way[1], -self.way[0]])

    def back(self, points: Floats) -> Floats:
        """See ``Depth``."""
        return np.asarray(points + self.shift)

    def uv(self, points: Floats) -> tuple[Floats, Floats]:
        """See ``Depth``."""
        return points @ self.side, points @ self.way

    def over(self, segments: Floats, u: Floats) -> Floats:
        """See ``Depth``."""
        return np.asarray(segments @ self.side - u[:, None])

    def turns(self, segments: Floats) -> list[list[float]]:
        """See ``Depth``."""
        roots = turning_points(segments @ self.side)
        return [sorted(t for t in row if _ENDS < t < 1 - _ENDS) for row in roots.tolist()]

    def unwrapped(self, u: Floats, middle: Floats) -> Floats:
        """See ``Depth``."""
        return u


class Towards:
    """Depth towards a point, a share of the way (under 1): u is the angle about it, v the logarithm of nearness.

    ``box`` is round the front: the angle begins anew on the far side of the point.
    """

    def __init__(self, point: Point, share: float, box: Box) -> None:
        self.point = np.array(point, dtype=np.float64)
        self.scale = 1 - share
        self.far = -math.log(self.scale)
        x, y = (box[0] + box[2]) / 2 - point[0], (box[1] + box[3]) / 2 - point[1]
        self.middle = math.atan2(y, x) if math.hypot(x, y) > 1e-9 else 0.0

    def back(self, points: Floats) -> Floats:
        """See ``Depth``."""
        return np.asarray(self.point + (points - self.point) * self.scale)

    def uv(self, points: Floats) -> tuple[Floats, Floats]:
        """See ``Depth``."""
        q = points - self.point
        u = (np.arctan2(q[:, 1], q[:, 0]) - self.middle + math.pi) % (2 * math.pi) - math.pi
        return u, -np.log(np.maximum(np.hypot(q[:, 0], q[:, 1]), 1e-12))

    def over(self, segments: Floats, u: Floats) -> Floats:
        """See ``Depth``."""
        a, q = u + self.middle, segments - self.point
        return np.asarray(q[..., 1] * np.cos(a)[:, None] - q[..., 0] * np.sin(a)[:, None])

    def turns(self, segments: Floats) -> list[list[float]]:
        """See ``Depth``."""
        q = segments - self.point
        powers = _POWERS @ q
        out = []
        for m in powers:
            x, y = np.polynomial.Polynomial(m[:, 0]), np.polynomial.Polynomial(m[:, 1])
            c = np.asarray((x * y.deriv() - y * x.deriv()).coef[::-1], dtype=np.float64)
            out.append(_inner_roots(c, float(np.abs(m).max()) ** 2))
        ahead = np.array([math.cos(self.middle), math.sin(self.middle)])
        row, t = sign_changes(q @ np.array([-ahead[1], ahead[0]]))
        for k, at in zip(row.tolist(), t.tolist(), strict=True):
            behind = (evaluate(segments[k : k + 1], np.array([at]))[0] - self.point) @ ahead < 0
            if behind and _ENDS < at < 1 - _ENDS:
                out[k] = sorted([*out[k], at])
        return out

    def unwrapped(self, u: Floats, middle: Floats) -> Floats:
        """See ``Depth``."""
        return np.asarray(u + 2 * math.pi * np.round((middle - u) / (2 * math.pi)))


def _inner_roots(coefficients: Floats, size: float) -> list[float]:
    """The real roots of a polynomial, highest power first, well inside 0..1."""
    held = np.where(np.abs(coefficients) < 1e-12 * max(size, 1e-300), 0.0, coefficients)
    roots = np.roots(held)
    real = roots[np.abs(roots.imag) < 1e-9].real
    return sorted(float(t) for t in real if _ENDS < t < 1 - _ENDS)
