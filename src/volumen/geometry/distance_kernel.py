"""The compiled part of distances to an outline: which chord is nearest to each node of a grid, and how far it is.

Every chord marks the nodes around it; the number of the nearest chord is then handed from node to node in sweeps
across the grid, there and back, and at last along the outline. The distance is always the exact one to that chord.
"""

from __future__ import annotations

import math

import numba
import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
I32 = NDArray[np.int32]
_ROUNDS = 1  # of sweeps there and back; what little they miss is found along the outline


@numba.njit(cache=True, nogil=True, fastmath=True, inline="always")
def _square(chords: F64, k: int, x: float, y: float) -> float:
    """The squared distance of a point to a chord."""
    ax, ay, bx, by = chords[k, 0], chords[k, 1], chords[k, 2], chords[k, 3]
    dx, dy = bx - ax, by - ay
    size = dx * dx + dy * dy
    t = 0.0
    if size > 0:
        t = min(max(((x - ax) * dx + (y - ay) * dy) / size, 0.0), 1.0)
    px, py = x - ax - dx * t, y - ay - dy * t
    return float(px * px + py * py)


@numba.njit(cache=True, nogil=True)
def nearest_chords(chords: F64, before: I32, after: I32, height: int, width: int, most: float) -> tuple[I32, F64]:
    """For every node (height, width) the number of the nearest of chords (n, 4) and the squared distance to it, all in
    steps of the grid. -1, and ``most`` squared, where none comes as near as ``most``."""
    near = np.full((height, width), -1, np.int32)
    far = np.full((height, width), most * most)
    for k in range(len(chords)):
        ax, ay, bx, by = chords[k, 0], chords[k, 1], chords[k, 2], chords[k, 3]
        steps = math.ceil(2 * max(abs(bx - ax), abs(by - ay))) + 1
        for s in range(steps + 1):
            x, y = ax + (bx - ax) * s / steps, ay + (by - ay) * s / steps
            i0, j0 = math.floor(y), math.floor(x)
            for i in range(max(i0, 0), min(i0 + 2, height)):
                for j in range(max(j0, 0), min(j0 + 2, width)):
                    d = _square(chords, k, j, i)
                    if d < far[i, j]:
                        far[i, j] = d
                        near[i, j] = k
    for _ in range(_ROUNDS):
        for i in range(height):
            for j in range(width):
                if j > 0:
                    _take(chords, near, far, i, j, near[i, j - 1])
                if i > 0:
                    _take(chords, near, far, i, j, near[i - 1, j])
                    if j > 0:
                        _take(chords, near, far, i, j, near[i - 1, j - 1])
                    if j + 1 < width:
                        _take(chords, near, far, i, j, near[i - 1, j + 1])
            for j in range(width - 2, -1, -1):
                _take(chords, near, far, i, j, near[i, j + 1])
        for i in range(height - 1, -1, -1):
            for j in range(width - 1, -1, -1):
                if j + 1 < width:
                    _take(chords, near, far, i, j, near[i, j + 1])
                if i + 1 < height:
                    _take(chords, near, far, i, j, near[i + 1, j])
                    if j > 0:
                        _take(chords, near, far, i, j, near[i + 1, j - 1])
                    if j + 1 < width:
                        _take(chords, near, far, i, j, near[i + 1, j + 1])
            for j in range(1, width):
                _take(chords, near, far, i, j, near[i, j - 1])
    for i in range(height):
        for j in range(width):
            for _ in range(6):  # a few chords along the outline, while that comes nearer
                k = near[i, j]
                if k < 0:
                    break
                _take(chords, near, far, i, j, before[k])
                _take(chords, near, far, i, j, after[k])
                if near[i, j] == k:
                    break
    return near, far


@numba.njit(cache=True, nogil=True, fastmath=True, inline="always")
def _take(chords: F64, near: I32, far: F64, i: int, j: int, k: int) -> None:
    """Let a node have chord ``k`` if that is nearer than its own."""
    if k >= 0 and k != near[i, j]:
        d = _square(chords, k, j, i)
        if d < far[i, j]:
            far[i, j] = d
            near[i, j] = k
