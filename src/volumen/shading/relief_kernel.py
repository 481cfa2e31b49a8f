"""The compiled part of relief: from signed distances to slopes, and from slopes to light."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.compiled import compiled

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]


@compiled(nogil=True)
def slopes(signed: F32, grid: F64, scale: float, shift: float, table: F64, height: float) -> tuple[F32, F32]:
    """The slope of a relief's surface (h, w) along x and along y, in the outline's axes.

    ``grid`` is (x, y) of one step along a row and one down a column; ``scale`` and ``shift`` bring a signed distance to
    0..1 across the slope, ``table`` says how steep the profile is there.
    """
    h, w = signed.shape
    a, b, c, d = grid[0], grid[1], grid[2], grid[3]
    det = a * d - b * c
    out_x, out_y = np.zeros((h, w), np.float32), np.zeros((h, w), np.float32)
    last = len(table) - 1
    for i in range(h):
        up, low = max(i - 1, 0), min(i + 1, h - 1)
        for j in range(w):
            t = signed[i, j] * scale + shift
            if t <= 0 or t >= 1:
                continue
            left, right = max(j - 1, 0), min(j + 1, w - 1)
            along = (signed[i, right] - signed[i, left]) / max(right - left, 1)
            down = (signed[low, j] - signed[up, j]) / max(low - up, 1)
            gx, gy = (d * along - b * down) / det, (a * down - c * along) / det
            size = math.sqrt(gx * gx + gy * gy)
            if size < 1e-9:
                continue
            k = int(t * last)
            f = t * last - k
            steep = (table[k] * (1 - f) + table[min(k + 1, last)] * f) * height / size
            out_x[i, j], out_y[i, j] = -steep * gx, -steep * gy
    return out_x, out_y


@compiled(nogil=True)
def strength(dx: F32, dy: F32, lamps: F64, numbers: F64, shade: bool, colour: F64, pixels: F32) -> F32:
    """How strong the shade or the light (h, w) is on slopes (h, w), 0..1.

    ``lamps`` (n, 7) hold directions, strength, colour; ``numbers`` ambient, gloss and shininess. ``pixels`` (h, w, 4)
    take the same in colour, premultiplied: ``colour`` as the lamps tint it. Of no size they are not asked for.
    """
    h, w = dx.shape
    n = len(lamps)
    ambient, gloss, shininess = numbers[0], numbers[1], numbers[2]
    coloured = pixels.shape[0] > 0
    halves = np.zeros((n, 3))
    rest = np.zeros(n)
    flat = ambient
    for k in range(n):
        x, y, z = lamps[k, 0], lamps[k, 1], lamps[k, 2] + 1.0
        size = max(math.sqrt(x * x + y * y + z * z), 1e-9)
        halves[k, 0], halves[k, 1], halves[k, 2] = x / size, y / size, z / size
        rest[k] = halves[k, 2] ** shininess
        flat += lamps[k, 3] * max(lamps[k, 2], 0.0)
    room = max(1.2 - flat, 0.25)
    out = np.zeros((h, w), np.float32)
    for i in range(h):
        for j in range(w):
            x, y = dx[i, j], dy[i, j]
            if x == 0 and y == 0:
                continue
            up = 1 / math.sqrt(x * x + y * y + 1)
            x, y = x * up, y * up
            total, spark, r, g, b = ambient, 0.0, 0.0, 0.0, 0.0
            for k in range(n):
                own = lamps[k, 3] * max(x * lamps[k, 0] + y * lamps[k, 1] + up * lamps[k, 2], 0.0)
                total += own
                if shade:
                    continue
                facing, more = x * halves[k, 0] + y * halves[k, 1] + up * halves[k, 2], 0.0
                if facing > halves[k, 2]:  # more highlight than the flat surface has
                    more = gloss * lamps[k, 3] * max(facing**shininess - rest[k], 0.0)
                spark += more
                r += (own + more) * lamps[k, 4]
                g += (own + more) * lamps[k, 5]
                b += (own + more) * lamps[k, 6]
            if shade:
                alpha = min(max((flat - total) / max(flat, 1e-6), 0.0), 1.0)
                r, g, b = 1.0, 1.0, 1.0
            else:
                alpha = min(max((total - flat) / room + spark, 0.0), 1.0)
            out[i, j] = alpha
            if coloured:
                part = alpha / max(r, g, b, 1e-9)
                pixels[i, j, 0], pixels[i, j, 1] = r * colour[0] * part, g * colour[1] * part
                pixels[i, j, 2], pixels[i, j, 3] = b * colour[2] * part, alpha
    return out
