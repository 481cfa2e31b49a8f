"""The compiled part of covers: bytes that tell how much of each pixel something covers."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, TypeVar, cast

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.compiled import compiled

F = TypeVar("F", bound=Callable[..., Any])
Bytes = NDArray[np.uint8]


def entry(signature: str) -> Callable[[F], F]:
    """Compile a function for one signature only, so that nothing is ever compiled while a hand moves."""
    return cast(Callable[[F], F], compiled(signature, nogil=True, fastmath=True, error_model="numpy"))


@entry("void(uint8[:,::1], uint8[:,::1], int64, int64, float64, float64)")
def unite(taken: Bytes, own: Bytes, x: int, y: int, opacity: float, hides: float) -> None:
    """Lay alphas, whose first pixel lies at (x, y) among them, on others: taken (255 - hides own) + opacity own."""
    height, width = taken.shape
    k, m = np.uint32(opacity * 256 + 0.5), np.uint32(hides * 256 + 0.5)
    full, half = np.uint32(255), np.uint32(128)
    l, r = max(x, 0), min(x + own.shape[1], width)
    for row in range(max(y, 0), min(y + own.shape[0], height)):
        mine, there = own[row - y, l - x : r - x], taken[row, l:r]
        for j in range(len(there)):  # rows of the same length and one kind of number: many are worked out at once
            alpha = np.uint32(mine[j])
            rest = np.uint32(there[j]) * (full - ((alpha * m + half) >> np.uint32(8)))
            rest = (rest * np.uint32(257) + np.uint32(32896)) >> np.uint32(16)
            there[j] = np.uint8(rest + ((alpha * k + half) >> np.uint32(8)))


@entry("uint8[:,::1](uint8[:,::1], float64, float64)")
def uncovered(alpha: Bytes, dx: float, dy: float) -> Bytes:
    """What a copy moved by (dx, dy) pixels, and parts of them, leaves of alphas."""
    out = alpha.copy()
    h, w = alpha.shape
    if not (-w <= dx < w and -h <= dy < h):
        return out
    i, j = math.floor(dx), math.floor(dy)
    u, v, whole, half = np.int32((dx - i) * 256), np.int32((dy - j) * 256), np.int32(256), np.int32(32768)
    row = np.zeros(w + 2, np.int32)  # of the copy, before it is moved sideways; clear at both ends
    inner = row[1 : w + 1]
    for y in range(max(j, 0), min(h + j + 1, h)):
        near, far = alpha[min(y - j, h - 1)], alpha[max(y - j - 1, 0)]
        p, q = (whole - v if y - j < h else np.int32(0)), (v if y - j >= 1 else np.int32(0))
        for x in range(len(inner)):
            inner[x] = np.int32(near[x]) * p + np.int32(far[x]) * q
        first, last = max(i, 0), min(w + i + 1, w)
        left, right, there = row[first - i : last - i], row[first - i + 1 : last - i + 1], out[y, first:last]
        for x in range(len(there)):
            rest = np.int32(there[x]) - ((left[x] * u + right[x] * (whole - u) + half) >> np.int32(16))
            there[x] = np.uint8(max(rest, np.int32(0)))
    return out
