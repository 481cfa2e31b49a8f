"""Primitive outlines as cubic paths."""

from __future__ import annotations

import numpy as np

from volumen.geometry.path import Contour, Path, contour_from_lines

# Handle length for a quarter circle that keeps the radial error at 2.7e-4 of the radius.
KAPPA = 0.5522847498307936


def ellipse(cx: float, cy: float, rx: float, ry: float) -> Path:
    """An ellipse of four cubics, clockwise from its right end."""
    kx, ky = rx * KAPPA, ry * KAPPA
    p = [
        (cx + rx, cy), (cx + rx, cy + ky), (cx + kx, cy + ry), (cx, cy + ry),
        (cx - kx, cy + ry), (cx - rx, cy + ky), (cx - rx, cy),
        (cx - rx, cy - ky), (cx - kx, cy - ry), (cx, cy - ry),
        (cx + kx, cy - ry), (cx + rx, cy - ky), (cx + rx, cy),
    ]  # fmt: skip
    return Path((Contour(np.array(p, dtype=np.float64), True),))


def rectangle(x: float, y: float, width: float, height: float, radius: float = 0.0) -> Path:
    """A rectangle; the corner radius is held to half of the shorter side."""
    r = min(max(radius, 0.0), abs(width) / 2, abs(height) / 2)
    left, right = min(x, x + width), max(x, x + width)
    top, bottom = min(y, y + height), max(y, y + height)
    if r <= 0:
        return Path((contour_from_lines([(left, top), (right, top), (right, bottom), (left, bottom)]),))
    k = r * (1 - KAPPA)
    rows: list[tuple[float, float]] = [(left + r, top)]

    def line(x1: float, y1: float) -> None:
        x0, y0 = rows[-1]
        rows.extend([(x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3), (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3)])
        rows.append((x1, y1))

    line(right - r, top)
    rows += [(right - k, top), (right, top + k), (right, top + r)]
    line(right, bottom - r)
    rows += [(right, bottom - k), (right - k, bottom), (right - r, bottom)]
    line(left + r, bottom)
    rows += [(left + k, bottom), (left, bottom - k), (left, bottom - r)]
    line(left, top + r)
    rows += [(left, top + k), (left + k, top), (left + r, top)]
    return Path((Contour(np.array(rows, dtype=np.float64), True),))
