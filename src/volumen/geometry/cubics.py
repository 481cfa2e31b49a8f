"""Many cubics at once: where they change their sign, and pieces of them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats

Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
_SETTLED = 1e-13  # a parameter that moves less is found
_NOISE = 4e-16


def turning_points(v: Floats) -> Floats:
    """The parameters (n, 2) at which cubics with Bernstein coefficients (n, 4) turn; not finite where they do not."""
    a, b, c = (v[:, k + 1] - v[:, k] for k in range(3))
    p, q = a - 2 * b + c, 2 * (b - a)
    p = np.where(np.abs(p) < 1e-12 * np.abs(v - v[:, :1]).max(axis=1), 0.0, p)
    with np.errstate(divide="ignore", invalid="ignore"):
        half = -(q + np.where(q >= 0, 1, -1) * np.sqrt(q * q - 4 * p * a)) / 2
        return np.stack([half / p, a / half], axis=1)


def sign_changes(v: Floats) -> tuple[Ints, Floats]:
    """The rows and the parameters in 0..1 at which cubics with Bernstein coefficients (n, 4) change their sign.

    Between the places where a cubic turns there is at most one, found by Newton's method within a bracket.
    """
    sides = v >= 0
    able = np.flatnonzero(sides.any(axis=1) & ~sides.all(axis=1))  # a cubic never leaves its coefficients
    v = v[able]
    turns = np.sort(np.clip(np.nan_to_num(turning_points(v), nan=0.0, posinf=1.0, neginf=0.0), 0.0, 1.0), axis=1)
    ends = np.concatenate([np.zeros((len(v), 1)), turns, np.ones((len(v), 1))], axis=1)
    values = bernstein(v[:, None], ends)
    values[:, 0], values[:, -1] = v[:, 0], v[:, 3]  # the same at joints of segments, bit by bit
    row, part = np.nonzero((values[:, :-1] >= 0) != (values[:, 1:] >= 0))
    lo, hi = ends[row, part], ends[row, part + 1]
    rising = values[row, part + 1] >= 0
    return able[row], _newton(v[row], lo, hi, rising)


def root_between(v: Floats, low: Floats, high: Floats) -> Floats:
    """Where cubics with Bernstein coefficients (n, 4), monotone from ``low`` up to ``high`` (n,), are zero; near one of
    both where they are nowhere."""
    return _newton(v, low, high, bernstein(v, high) >= bernstein(v, low))


def _newton(p: Floats, lo: Floats, hi: Floats, rising: Bools) -> Floats:
    """The zeros of monotone pieces, by Newton's method held within a bracket."""
    t = (lo + hi) / 2
    row = np.arange(len(t))
    noise = _NOISE * np.abs(p).max(axis=1, initial=0.0)  # what the sum of the terms is off by
    for _ in range(60):
        if not len(row):
            break
        d, u, at = np.diff(p, axis=1), 1 - t[row], t[row]
        f = bernstein(p, at)
        up = (f >= 0) == rising
        hi, lo = np.where(up, at, hi), np.where(up, lo, at)
        slope = 3 * (u * u * d[:, 0] + 2 * at * u * d[:, 1] + at * at * d[:, 2])
        with np.errstate(divide="ignore", invalid="ignore"):
            new = at - f / slope
        new = np.where((new > lo) & (new < hi), new, (lo + hi) / 2)
        found = np.abs(f) <= noise
        t[row] = np.where(found, at, new)
        moving = ~found & (np.abs(new - at) > _SETTLED)
        if not moving.all():
            row, p, noise = row[moving], p[moving], noise[moving]
            lo, hi, rising = lo[moving], hi[moving], rising[moving]
    return t


def bernstein(p: Floats, t: Floats) -> Floats:
    """Cubics with Bernstein coefficients (..., 4) at parameters (...)."""
    u = 1 - t
    made = u * u * u * p[..., 0] + 3 * u * u * t * p[..., 1] + 3 * u * t * t * p[..., 2] + t * t * t * p[..., 3]
    return np.asarray(made, dtype=np.float64)


def parts(p: Floats, a: Floats, b: Floats) -> Floats:
    """The pieces of cubics (n, 4, 2) between parameters (n,), by their polar forms."""

    def polar(*at: Floats) -> Floats:
        q = p
        for t in at:
            q = q[:, :-1] * (1 - t[:, None, None]) + q[:, 1:] * t[:, None, None]
        return q[:, 0]

    return np.stack([polar(a, a, a), polar(a, a, b), polar(a, b, b), polar(b, b, b)], axis=1)
