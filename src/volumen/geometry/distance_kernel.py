"""The compiled part of distances to an outline: which chord is nearest to each node of a grid, and how far it is.

Every chord marks the nodes around it. A distance transform tells every other node the nearest of those, and so a chord
next to its own: from there it goes along the outline as long as that comes nearer, and asks its neighbours on the
grid, which may belong to another side. The distance is always the exact one to that chord.
"""

from __future__ import annotations

import math

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.geometry.compiled import compiled

F64 = NDArray[np.float64]
F32 = NDArray[np.float32]
I32 = NDArray[np.int32]
_FARTHEST_WALK = 12  # chords along the outline


def nearest_chords(chords: F64, before: I32, after: I32, height: int, width: int, most: float) -> tuple[I32, F64]:
    """For every node (height, width) the number of the nearest of chords (n, 4) and the distance to it, all in steps
    of the grid. -1, and ``most``, where none comes as near as ``most``."""
    d = chords[:, 2:] - chords[:, :2]
    rays = np.column_stack([chords[:, :2], d, 1 / np.maximum((d * d).sum(axis=1), 1e-300)])
    near = _marked(rays, height, width)
    free = (near < 0).astype(np.uint8)
    if free.all():
        return near, np.full(near.shape, most)
    rough, labels = cv2.distanceTransformWithLabels(free, cv2.DIST_L2, 5, labelType=cv2.DIST_LABEL_PIXEL)
    marked = free == 0
    chord_of = np.zeros(int(labels.max()) + 1, np.int32)
    chord_of[labels[marked]] = near[marked]
    near = chord_of[labels]
    square = _walked(rays, before, after, near, np.asarray(rough, np.float32), most)
    _handed_on(rays, before, after, near, square, 1)
    _handed_on(rays, before, after, near, square, -1)
    near[square >= most * most] = -1
    return near, np.minimum(np.sqrt(square), most)


@compiled(nogil=True, fastmath=True)
def _square(rays: F64, k: int, x: float, y: float) -> float:
    """The squared distance of a point to a chord, told as (x, y, dx, dy, 1 / length squared)."""
    dx, dy = rays[k, 2], rays[k, 3]
    x, y = x - rays[k, 0], y - rays[k, 1]
    t = min(max((x * dx + y * dy) * rays[k, 4], 0.0), 1.0)
    x, y = x - dx * t, y - dy * t
    return float(x * x + y * y)


@compiled(nogil=True)
def _marked(rays: F64, height: int, width: int) -> I32:
    """The nearest chord at the corners of every cell that a chord runs through, -1 elsewhere."""
    near = np.full((height, width), -1, np.int32)
    square = np.full((height, width), np.inf)
    for k in range(len(rays)):
        ax, ay, dx, dy = rays[k, 0], rays[k, 1], rays[k, 2], rays[k, 3]
        steps = math.ceil(2 * max(abs(dx), abs(dy))) + 1
        for s in range(steps + 1):
            i0, j0 = math.floor(ay + dy * s / steps), math.floor(ax + dx * s / steps)
            for i in range(max(i0, 0), min(i0 + 2, height)):
                for j in range(max(j0, 0), min(j0 + 2, width)):
                    d = _square(rays, k, j, i)
                    if d < square[i, j]:
                        square[i, j] = d
                        near[i, j] = k
    return near


@compiled(nogil=True)
def _walked(rays: F64, before: I32, after: I32, near: I32, rough: F32, most: float) -> F64:
    """Better ``near`` in place by going along the outline, where ``rough`` says it counts; squared distances (h, w)."""
    h, w = near.shape
    square = np.full((h, w), most * most)
    for i in range(h):
        for j in range(w):
            if rough[i, j] <= most + 3:
                _walk(rays, before, after, near, square, i, j, near[i, j], _square(rays, near[i, j], j, i))
    return square


@compiled(nogil=True)
def _walk(
    rays: F64, before: I32, after: I32, near: I32, square: F64, i: int, j: int, k: int, best: float
) -> None:  # fmt: skip
    """Give a node the nearest chord from ``k`` on, either way along the outline."""
    for way in range(2):
        for _ in range(_FARTHEST_WALK):
            n = before[k] if way == 0 else after[k]
            d = _square(rays, n, j, i)
            if d >= best:
                break
            k, best = n, d
    near[i, j] = k
    square[i, j] = best


@compiled(nogil=True)
def _handed_on(rays: F64, before: I32, after: I32, near: I32, square: F64, step: int) -> None:
    """Let every node have the chord of the neighbour before it on the grid if that lies nearer than its own: near a
    line half way between two sides, the nearest marked node may belong to the wrong one."""
    h, w = near.shape
    for r in range(h):
        i = r if step > 0 else h - 1 - r
        for c in range(w):
            j = c if step > 0 else w - 1 - c
            for side in range(2):
                if (c if side == 0 else r) == 0:
                    continue
                k = near[i, j - step] if side == 0 else near[i - step, j]
                own = near[i, j]
                if k == own or k == before[own] or k == after[own]:
                    continue
                d = _square(rays, k, j, i)
                if d < square[i, j]:
                    _walk(rays, before, after, near, square, i, j, k, d)
