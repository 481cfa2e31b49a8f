"""A small simulated press: what four inks give on coated paper, and which inks come nearest to a colour.

The inks are made up. Halftone dots overlap by chance (Demichel's equations); the sixteen overlaps mix as light
(Neugebauer's model), with a dot gain that is largest in the middle tones.
"""

from __future__ import annotations

from itertools import product

import numpy as np
from numpy.typing import ArrayLike

from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats, from_linear, to_linear

_GAIN = 0.16  # at a dot of one half
_PAPER = np.array([0.975, 0.970, 0.955])
# Linear light that passes each solid ink over white: cyan, magenta, yellow, black.
_INKS = np.array([[0.01, 0.30, 0.66], [0.62, 0.012, 0.20], [0.93, 0.84, 0.010], [0.016, 0.015, 0.017]])
_OVERLAPS = np.array(list(product((0, 1), repeat=4)))
_LIGHT = _PAPER * np.prod(np.where(_OVERLAPS[:, :, None] == 1, _INKS[None] * 0.96 + 0.004, 1.0), axis=1)
LIMIT = 3.2  # the sum of inks that the paper takes
PRINTABLE = 3.0  # CIEDE2000 up to which a colour counts as printed faithfully


def printed(inks: ArrayLike) -> Floats:
    """Encoded sRGB (..., 3) of inks (..., 4), cyan, magenta, yellow and black from 0 to 1."""
    dots = np.clip(np.asarray(inks, dtype=np.float64), 0, 1)
    dots = dots + _GAIN * 4 * dots * (1 - dots) * 0.9
    share = np.prod(np.where(_OVERLAPS == 1, dots[..., None, :], 1 - dots[..., None, :]), axis=-1)
    return np.clip(from_linear(share @ _LIGHT), 0, 1)


def inks_for(rgb: ArrayLike) -> Floats:
    """The inks (..., 4) whose print comes nearest to encoded sRGB (..., 3); their sum stays below ``LIMIT``.

    Black takes over as much of what all three colours share as the colour bears.
    """
    target = np.asarray(rgb, dtype=np.float64)
    flat = np.clip(target.reshape(-1, 3), 0, 1)
    black = np.clip((1 - np.max(flat, axis=1) - 0.35) / 0.62, 0, 1)
    best = _solved(flat, black)
    miss = srgb_difference(printed(best), flat)
    for share in (0.5, 0.0) if black.any() else ():
        trial = _solved(flat, black * share)
        error = srgb_difference(printed(trial), flat)
        better = error < miss - 0.2
        best[better], miss[better] = trial[better], error[better]
    return np.asarray(best.reshape(*target.shape[:-1], 4))


def _solved(rgb: Floats, black: Floats) -> Floats:
    """Cyan, magenta and yellow for colours (n, 3) with black given (n,), by damped Newton steps."""
    wanted = to_linear(rgb)
    cmy = np.clip(1 - np.sqrt(np.clip(wanted / _PAPER, 0, 1)), 0.02, 0.98)
    for _ in range(30):
        inks = np.column_stack([cmy, black])
        now = to_linear(printed(inks))
        h = np.where(cmy > 0.5, -1e-3, 1e-3)
        moved = inks[:, None] + h[:, :, None] * np.eye(3, 4)
        slopes = (to_linear(printed(moved)) - now[:, None]) / h[:, :, None]
        jacobian = np.swapaxes(slopes, 1, 2)
        normal = np.einsum("nik,nil->nkl", jacobian, jacobian) + 1e-6 * np.eye(3)
        step = np.linalg.solve(normal, np.einsum("nik,ni->nk", jacobian, wanted - now)[..., None])[..., 0]
        before, cmy = cmy, np.clip(cmy + np.clip(step, -0.2, 0.2), 0, 1)
        if np.abs(cmy - before).max(initial=0.0) < 1e-7:
            break
    inks = np.column_stack([cmy, black])
    return np.asarray(inks / np.maximum(inks.sum(axis=1) / LIMIT, 1.0)[:, None])


def press_difference(rgb: ArrayLike) -> Floats:
    """How far (CIEDE2000) the nearest print is from encoded sRGB (..., 3)."""
    return srgb_difference(printed(inks_for(rgb)), rgb)
