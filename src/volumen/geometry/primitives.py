"""Primitive outlines as cubic paths."""

from __future__ import annotations

import math
from typing import Literal

import numpy as np

from volumen.geometry.path import Contour, Path, append_line, contour_from_lines

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

    append_line(rows, (right - r, top))
    rows += [(right - k, top), (right, top + k), (right, top + r)]
    append_line(rows, (right, bottom - r))
    rows += [(right, bottom - k), (right - k, bottom), (right - r, bottom)]
    append_line(rows, (left + r, bottom))
    rows += [(left + k, bottom), (left, bottom - k), (left, bottom - r)]
    append_line(rows, (left, top + r))
    rows += [(left, top + k), (left + k, top), (left + r, top)]
    return Path((Contour(np.array(rows, dtype=np.float64), True),))


def _arc_rows(cx: float, cy: float, rx: float, ry: float, start: float, sweep: float) -> list[tuple[float, float]]:
    """Cubic points along an elliptical arc (degrees, clockwise on the sheet), without its first point."""
    pieces = max(1, math.ceil(abs(sweep) / 90 - 1e-9))
    step = math.radians(sweep / pieces)
    k = 4 / 3 * math.tan(step / 4)
    rows: list[tuple[float, float]] = []
    for i in range(pieces):
        a = math.radians(start) + i * step
        b = a + step
        ca, sa, cb, sb = math.cos(a), math.sin(a), math.cos(b), math.sin(b)
        rows += [(cx + rx * (ca - k * sa), cy + ry * (sa + k * ca)), (cx + rx * (cb + k * sb), cy + ry * (sb - k * cb))]
        rows.append((cx + rx * cb, cy + ry * sb))
    return rows


def ellipse_part(
    cx: float, cy: float, rx: float, ry: float, start: float, sweep: float, close: Literal["sector", "chord", "open"]
) -> Path:
    """A part of an ellipse from ``start`` over ``sweep`` degrees: a sector, a segment cut by its chord, or an arc."""
    a = math.radians(start)
    rows = [(cx + rx * math.cos(a), cy + ry * math.sin(a))]
    rows += _arc_rows(cx, cy, rx, ry, start, sweep)
    if close == "open":
        return _path(rows, False)
    first = rows[0]
    if close == "sector":
        append_line(rows, (cx, cy))
    append_line(rows, first)
    return _path(rows, True)


def rounded_rectangle(x: float, y: float, w: float, h: float, radii: tuple[float, float, float, float]) -> Path:
    """A rectangle with its own radius at each corner: left top, right top, right bottom, left bottom.

    Radii that do not fit beside each other shrink together.
    """
    tl, tr, br, bl = (max(r, 0.0) for r in radii)
    fit = min(
        [1.0, *(side / pair for side, pair in ((w, tl + tr), (h, tr + br), (w, br + bl), (h, bl + tl)) if pair > 0)]
    )
    tl, tr, br, bl = (r * fit for r in (tl, tr, br, bl))
    rows = [(x + tl, y)]
    for corner, r, start, before in (
        ((x + w - tr, y + tr), tr, -90, (x + w - tr, y)),
        ((x + w - br, y + h - br), br, 0, (x + w, y + h - br)),
        ((x + bl, y + h - bl), bl, 90, (x + bl, y + h)),
        ((x + tl, y + tl), tl, 180, (x, y + tl)),
    ):
        if rows[-1] != before:
            append_line(rows, before)
        if r > 0:
            rows += _arc_rows(*corner, r, r, start, 90)
    if len(rows) > 1:
        rows[-1] = rows[0] if math.dist(rows[-1], rows[0]) < 1e-9 else rows[-1]
    if rows[-1] != rows[0]:
        append_line(rows, rows[0])
    return _path(rows, True)


def polygon(cx: float, cy: float, rx: float, ry: float, sides: int, turn: float = 0.0) -> Path:
    """A regular polygon in an ellipse, its first point at the top, turned clockwise."""
    return star(cx, cy, rx, ry, sides, 1.0, turn) if sides < 3 else _spokes(cx, cy, rx, ry, [1.0] * sides, turn)


def star(cx: float, cy: float, rx: float, ry: float, points: int, inner: float, turn: float = 0.0) -> Path:
    """A star whose inner points lie at ``inner`` of the radius."""
    return _spokes(cx, cy, rx, ry, [1.0, inner] * max(points, 2), turn)


def _spokes(cx: float, cy: float, rx: float, ry: float, radii: list[float], turn: float) -> Path:
    n = len(radii)
    angles = [math.radians(turn - 90 + 360 * i / n) for i in range(n)]
    corners = [(cx + rx * r * math.cos(a), cy + ry * r * math.sin(a)) for a, r in zip(angles, radii, strict=True)]
    return Path((contour_from_lines(corners),))


def drop(x: float, y: float, w: float, h: float, bulge: float, point: float) -> Path:
    """A drop hanging from the top middle of its box.

    ``bulge`` 0..1 is how far down it is widest, from the middle to near the foot; ``point`` 1 gives a sharp
    tip, 0 a round one.
    """
    belly = y + h * (0.5 + 0.32 * min(max(bulge, 0.0), 1.0))
    foot, top, cx, rx = y + h, y, x + w / 2, w / 2
    sharp = min(max(point, 0.0), 1.0)
    k, up, down = KAPPA * rx, (belly - top), (foot - belly)
    tip = k * (1 - sharp)
    lift = up * (0.30 + 0.25 * (1 - sharp))
    narrow = 0.34 * up * sharp
    rows = [
        (cx, top), (cx + tip, top + narrow), (cx + rx, belly - lift), (cx + rx, belly),
        (cx + rx, belly + KAPPA * down), (cx + k, foot), (cx, foot),
        (cx - k, foot), (cx - rx, belly + KAPPA * down), (cx - rx, belly),
        (cx - rx, belly - lift), (cx - tip, top + narrow), (cx, top),
    ]  # fmt: skip
    return _path(rows, True)


def cloud(x: float, y: float, w: float, h: float, lobes: int, depth: float) -> Path:
    """Lobes round an ellipse. ``depth`` 0 is the ellipse, 1 makes each lobe a half circle on its chord."""
    n = max(int(lobes), 3)
    d = min(max(depth, 0.0), 1.5)
    swell = math.sin(math.pi / n)  # how far a half circle stands out, in radii of the ellipse
    shrink = 1 / (1 + d * swell * 0.8)
    cx, cy, rx, ry = x + w / 2, y + h / 2, w / 2 * shrink, h / 2 * shrink
    start = -90 + 180 / n
    places = [math.radians(start + 360 * i / n) for i in range(n + 1)]
    joints = [(cx + rx * math.cos(a), cy + ry * math.sin(a)) for a in places]
    joints[-1] = joints[0]
    rows = [joints[0]]
    for (x0, y0), (x1, y1) in zip(joints, joints[1:], strict=False):
        mx, my, dx, dy = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2, (y1 - y0) / 2
        nx, ny = dy, -dx  # outwards, as long as half the chord
        bow = d + (1 - d) * math.tan(math.pi / n / 2) if d < 1 else d
        top = (mx + nx * bow, my + ny * bow)
        k = KAPPA
        rows += [(x0 + nx * bow * k, y0 + ny * bow * k), (top[0] - dx * k, top[1] - dy * k), top]
        rows += [(top[0] + dx * k, top[1] + dy * k), (x1 + nx * bow * k, y1 + ny * bow * k), (x1, y1)]
    lobed = _path(rows, True)
    l, t, r, b = lobed.bounds() or (x, y, x + w, y + h)
    fit_x, fit_y = w / max(r - l, 1e-9), h / max(b - t, 1e-9)
    return lobed.transformed((fit_x, 0.0, 0.0, fit_y, x - l * fit_x, y - t * fit_y))


def line_between(a: tuple[float, float], b: tuple[float, float]) -> Path:
    """A straight open path."""
    rows = [a]
    append_line(rows, b)
    return _path(rows, False)


def arc_through(a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]) -> Path:
    """The circular arc from a through b to c; a line if they lie on one."""
    (ax, ay), (bx, by), (cx, cy) = a, b, c
    det = 2 * (ax * (by - cy) + bx * (cy - ay) + cx * (ay - by))
    size = max(math.dist(a, b), math.dist(b, c), 1e-9)
    if abs(det) < 1e-6 * size * size:
        return line_between(a, c)
    s, t, u = ax * ax + ay * ay, bx * bx + by * by, cx * cx + cy * cy
    x = (s * (by - cy) + t * (cy - ay) + u * (ay - by)) / det
    y = (s * (cx - bx) + t * (ax - cx) + u * (bx - ax)) / det
    r = math.dist((x, y), a)
    start, through, end = (math.degrees(math.atan2(q[1] - y, q[0] - x)) for q in (a, b, c))
    sweep = (end - start) % 360
    if (through - start) % 360 > sweep:
        sweep -= 360
    rows = [a, *_arc_rows(x, y, r, r, start, sweep)]
    rows[-1] = c
    return _path(rows, False)


def spiral(cx: float, cy: float, outer: float, inner: float, turns: float, start: float = 0.0) -> Path:
    """A spiral from ``outer`` to ``inner`` radius, its arms evenly apart; ``turns`` below zero winds backwards."""
    pieces = max(1, math.ceil(abs(turns) * 8))
    step = 2 * math.pi * turns / pieces
    grow = (inner - outer) / pieces  # a piece: however few turns there are, it stays finite

    def at(i: int) -> tuple[float, float, float, float]:
        a = math.radians(start) + i * step
        r = outer + (inner - outer) * i / pieces
        c, s = math.cos(a), math.sin(a)
        return cx + r * c, cy + r * s, grow * c - r * step * s, grow * s + r * step * c

    rows = [at(0)[:2]]
    for i in range(pieces):
        (x0, y0, dx0, dy0), (x1, y1, dx1, dy1) = at(i), at(i + 1)
        rows += [(x0 + dx0 / 3, y0 + dy0 / 3), (x1 - dx1 / 3, y1 - dy1 / 3), (x1, y1)]
    return _path(rows, False)


def _path(rows: list[tuple[float, float]], closed: bool) -> Path:
    return Path((Contour(np.array(rows, dtype=np.float64), closed),))
