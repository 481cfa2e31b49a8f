"""The compiled heart of mesh drawing: patches as triangles of a few pixels. Compiled once, then kept on disk."""

from __future__ import annotations

import numpy as np

from volumen.geometry.compiled import compiled


@compiled(fastmath=True, inline="always")
def _encode(x, table):  # type: ignore[no-untyped-def]
    f = min(max(x, 0.0), 0.9999999) * 8192.0
    i = int(f)
    return table[i] + (table[i + 1] - table[i]) * (f - i)


@compiled(fastmath=True, inline="always")
def _encoded(tone, to_lms, to_rgb, table, out, row, column):  # type: ignore[no-untyped-def]
    """Put the premultiplied encoded sRGB of premultiplied OKLab and alpha into out[row, column, 2:]."""
    alpha = min(max(tone[3], 0.0), 1.0)
    k = 1.0 / max(tone[3], 1e-9)
    p, q, r = tone[0] * k, tone[1] * k, tone[2] * k
    l = to_lms[0, 0] * p + to_lms[0, 1] * q + to_lms[0, 2] * r
    m = to_lms[1, 0] * p + to_lms[1, 1] * q + to_lms[1, 2] * r
    s = to_lms[2, 0] * p + to_lms[2, 1] * q + to_lms[2, 2] * r
    l, m, s = l * l * l, m * m * m, s * s * s
    for i in range(3):
        out[row, column, i + 2] = _encode(to_rgb[i, 0] * l + to_rgb[i, 1] * m + to_rgb[i, 2] * s, table) * alpha
    out[row, column, 5] = alpha


@compiled(fastmath=True)
def _triangle(grid, r0, c0, r1, c1, r2, c2, out, seen):  # type: ignore[no-untyped-def]
    """Fill the pixels whose centres lie in a triangle of grid points, colour running evenly between its corners."""
    h, w = seen.shape
    px, py = grid[r0, c0, 0], grid[r0, c0, 1]
    ux, uy = grid[r1, c1, 0] - px, grid[r1, c1, 1] - py
    vx, vy = grid[r2, c2, 0] - px, grid[r2, c2, 1] - py
    area = ux * vy - uy * vx
    if area == 0.0 or not (abs(area) < 1e15):
        return
    x0 = max(int(np.floor(px + min(0.0, ux, vx) - 0.5)), 0)
    x1 = min(int(np.ceil(px + max(0.0, ux, vx) - 0.5)), w - 1)
    y0 = max(int(np.floor(py + min(0.0, uy, vy) - 0.5)), 0)
    y1 = min(int(np.ceil(py + max(0.0, uy, vy) - 0.5)), h - 1)
    inv = 1.0 / area
    ds, dt = vy * inv, -uy * inv
    a0, a1, a2, a3 = grid[r0, c0, 2], grid[r0, c0, 3], grid[r0, c0, 4], grid[r0, c0, 5]
    b0, b1, b2, b3 = grid[r1, c1, 2] - a0, grid[r1, c1, 3] - a1, grid[r1, c1, 4] - a2, grid[r1, c1, 5] - a3
    e0, e1, e2, e3 = grid[r2, c2, 2] - a0, grid[r2, c2, 3] - a1, grid[r2, c2, 4] - a2, grid[r2, c2, 5] - a3
    for y in range(y0, y1 + 1):
        cy = y + 0.5 - py
        cx = x0 + 0.5 - px
        s = (cx * vy - cy * vx) * inv
        t = (ux * cy - uy * cx) * inv
        for x in range(x0, x1 + 1):
            if s >= -1e-9 and t >= -1e-9 and s + t <= 1.0 + 1e-9:
                out[y, x, 0] = a0 + b0 * s + e0 * t
                out[y, x, 1] = a1 + b1 * s + e1 * t
                out[y, x, 2] = a2 + b2 * s + e2 * t
                out[y, x, 3] = a3 + b3 * s + e3 * t
                seen[y, x] = 1
            s += ds
            t += dt


@compiled(fastmath=True)
def raster(geometry, tone, steps, to_lms, to_rgb, table, out, seen):  # type: ignore[no-untyped-def]
    """Draw patches (n, 4, 4, 2 and 4) with ``steps`` (n,) cells a side into out (h, w, 4)."""
    most = steps.max() + 1
    grid = np.empty((2, most, 6))
    rail = np.empty((4, 6))
    mixed = np.empty(4)
    for n in range(len(geometry)):
        count = steps[n]
        if count == 0:
            continue
        for row in range(count + 1):
            v = row / count
            one = 1.0 - v
            w0, w1, w2, w3 = one * one * one, 3 * one * one * v, 3 * one * v * v, v * v * v
            for b in range(4):
                for k in range(2):
                    rail[b, k] = (
                        w0 * geometry[n, 0, b, k] + w1 * geometry[n, 1, b, k]
                        + w2 * geometry[n, 2, b, k] + w3 * geometry[n, 3, b, k]
                    )  # fmt: skip
                for k in range(4):
                    rail[b, k + 2] = (
                        w0 * tone[n, 0, b, k] + w1 * tone[n, 1, b, k] + w2 * tone[n, 2, b, k] + w3 * tone[n, 3, b, k]
                    )
            now = row % 2
            for column in range(count + 1):
                u = column / count
                one = 1.0 - u
                w0, w1, w2, w3 = one * one * one, 3 * one * one * u, 3 * one * u * u, u * u * u
                for k in range(2):
                    grid[now, column, k] = w0 * rail[0, k] + w1 * rail[1, k] + w2 * rail[2, k] + w3 * rail[3, k]
                for k in range(2, 6):
                    mixed[k - 2] = w0 * rail[0, k] + w1 * rail[1, k] + w2 * rail[2, k] + w3 * rail[3, k]
                _encoded(mixed, to_lms, to_rgb, table, grid, now, column)
            if row == 0:
                continue
            for i in range(count):
                _triangle(grid, 1 - now, i, 1 - now, i + 1, now, i + 1, out, seen)
                _triangle(grid, 1 - now, i, now, i + 1, now, i, out, seen)
