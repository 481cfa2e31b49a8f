"""Many cubics at once: where they change their sign, and pieces of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats

Ints = NDArray[np.int64]


def sign_changes(v: Floats) -> tuple[Ints, Floats]:
    """The rows and the parameters in 0..1 at which cubics with Bernstein coefficients (n, 4) change their sign.

    Between the places where a cubic turns there is at most one, found by Newton's method within a bracket.
    """
    d = np.diff(v, axis=1)
    a, b, c = d[:, 0] - 2 * d[:, 1] + d[:, 2], 2 * (d[:, 1] - d[:, 0]), d[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
        q = -0.5 * (b + np.where(b >= 0, root, -root))
        turns = np.stack([q / a, c / q], axis=1)
    turns = np.sort(np.clip(np.nan_to_num(turns, nan=0.0, posinf=1.0, neginf=0.0), 0.0, 1.0), axis=1)
    ends = np.concatenate([np.zeros((len(v), 1)), turns, np.ones((len(v), 1))], axis=1)
    values = _bernstein(v[:, None], ends)
    values[:, 0], values[:, -1] = v[:, 0], v[:, 3]  # the same at joints of segments, bit by bit
    row, part = np.nonzero((values[:, :-1] >= 0) != (values[:, 1:] >= 0))
    lo, hi = ends[row, part], ends[row, part + 1]
    rising = values[row, part + 1] >= 0
    p = v[row]
    t = (lo + hi) / 2
    for _ in range(60):
        f = _bernstein(p, t)
        up = (f >= 0) == rising
        hi, lo = np.where(up, t, hi), np.where(up, lo, t)
        slope = 3 * ((1 - t) ** 2 * d[row, 0] + 2 * t * (1 - t) * d[row, 1] + t * t * d[row, 2])
        with np.errstate(divide="ignore", invalid="ignore"):
            new = t - f / slope
        new = np.where((new > lo) & (new < hi), new, (lo + hi) / 2)
        if not len(new) or np.abs(new - t).max() < 1e-15:
            break
        t = new
    return row, t


def _bernstein(p: Floats, t: Floats) -> Floats:
    u = 1 - t
    return np.asarray(
        u**3 * p[..., 0] + 3 * u * u * t * p[..., 1] + 3 * u * t * t * p[..., 2] + t**3 * p[..., 3], dtype=np.float64
    )


def parts(p: Floats, a: Floats, b: Floats) -> Floats:
    """The pieces of cubics (n, 4, 2) between parameters (n,), by their polar forms."""

    def polar(*at: Floats) -> Floats:
        q = p
        for t in at:
            q = q[:, :-1] * (1 - t[:, None, None]) + q[:, 1:] * t[:, None, None]
        return q[:, 0]

    return np.stack([polar(a, a, a), polar(a, a, b), polar(a, b, b), polar(b, b, b)], axis=1)
