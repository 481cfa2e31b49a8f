"""The compiled part of drafts: colours laid row by row over four planes of pixels.

Planes are premultiplied encoded RGBA, (4, h, w) float32: side by side, so that each loop runs over one kind of number.
Blending follows W3C Compositing and Blending Level 1. All functions take

``at``     left, top, right, bottom of the pixels to paint, then the first pixels (x, y) of planes, cover and clip,
``cover``  how much of each pixel is painted, bytes; of no size: all of it,
``clip``   how much of each pixel may be painted, in the same way.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit

MODES = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
)  # fmt: skip
LINEAR, RADIAL, STRENGTH = 0, 1, 2
TABLE = 512
_HUE = MODES.index("hue")
_FAST = {"cache": True, "nogil": True, "fastmath": True, "error_model": "numpy"}


@njit(inline="always")
def _mixed(mode, b, s):  # type: ignore[no-untyped-def]
    """B(cb, cs) of the separable modes, straight colours."""
    if mode == 3:
        return _hard(s, b)
    if mode == 4:
        return min(b, s)
    if mode == 5:
        return max(b, s)
    if mode == 6:
        return 0.0 if b <= 0 else (1.0 if s >= 1 else min(1.0, b / (1 - s)))
    if mode == 7:
        return 1.0 if b >= 1 else (0.0 if s <= 0 else 1 - min(1.0, (1 - b) / s))
    if mode == 8:
        return _hard(b, s)
    if mode == 9:
        if s <= 0.5:
            return b - (1 - 2 * s) * b * (1 - b)
        d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
        return b + (2 * s - 1) * (d - b)
    if mode == 10:
        return abs(b - s)
    return b + s - 2 * b * s


@njit(inline="always")
def _hard(b, s):  # type: ignore[no-untyped-def]
    return 2 * b * s if s <= 0.5 else 1 - 2 * (1 - b) * (1 - s)


@njit(inline="always")
def _lum(r, g, b):  # type: ignore[no-untyped-def]
    return 0.3 * r + 0.59 * g + 0.11 * b


@njit(inline="always")
def _with_lum(r, g, b, lum):  # type: ignore[no-untyped-def]
    """A colour moved to a luminosity, and into 0..1 about it."""
    d = lum - _lum(r, g, b)
    r, g, b = r + d, g + d, b + d
    low, high = min(r, g, b), max(r, g, b)
    k = 1.0
    if low < 0:
        k = lum / max(lum - low, 1e-9)
    if high > 1:
        k = min(k, (1 - lum) / max(high - lum, 1e-9))
    return lum + (r - lum) * k, lum + (g - lum) * k, lum + (b - lum) * k


@njit(inline="always")
def _with_sat(r, g, b, sat):  # type: ignore[no-untyped-def]
    """A colour spread to a saturation, its least channel at 0."""
    low = min(r, g, b)
    k = sat / max(max(r, g, b) - low, 1e-9)
    return (r - low) * k, (g - low) * k, (b - low) * k


@njit(inline="always")
def _whole(mode, br, bg, bb, r, g, b):  # type: ignore[no-untyped-def]
    """B(cb, cs) of the modes that look at a colour as a whole."""
    if mode == _HUE:
        r, g, b = _with_sat(r, g, b, max(br, bg, bb) - min(br, bg, bb))
        return _with_lum(r, g, b, _lum(br, bg, bb))
    if mode == _HUE + 1:
        r, g, b = _with_sat(br, bg, bb, max(r, g, b) - min(r, g, b))
        return _with_lum(r, g, b, _lum(br, bg, bb))
    if mode == _HUE + 2:
        return _with_lum(r, g, b, _lum(br, bg, bb))
    return _with_lum(br, bg, bb, _lum(r, g, b))


@njit(**_FAST)
def _lay(planes, y, l, sr, sg, sb, sa, k, mode):  # type: ignore[no-untyped-def]
    """Blend a row of n premultiplied colours, weighed by ``k``, over a row of the planes from ``l`` on."""
    n = len(k)
    one = np.float32(1)
    r, g, b, a = planes[0, y, l : l + n], planes[1, y, l : l + n], planes[2, y, l : l + n], planes[3, y, l : l + n]
    if mode == 0:
        for j in range(n):
            q = one - sa[j] * k[j]
            r[j] = sr[j] * k[j] + r[j] * q
            g[j] = sg[j] * k[j] + g[j] * q
            b[j] = sb[j] * k[j] + b[j] * q
            a[j] = sa[j] * k[j] + a[j] * q
        return
    if mode == 1:
        for j in range(n):
            q, o = one - sa[j] * k[j], (one - a[j]) * k[j]
            r[j] = sr[j] * o + r[j] * (q + sr[j] * k[j])
            g[j] = sg[j] * o + g[j] * (q + sg[j] * k[j])
            b[j] = sb[j] * o + b[j] * (q + sb[j] * k[j])
            a[j] = sa[j] * k[j] + a[j] * q
        return
    if mode == 2:
        for j in range(n):
            r[j] += sr[j] * k[j] * (one - r[j])
            g[j] += sg[j] * k[j] * (one - g[j])
            b[j] += sb[j] * k[j] * (one - b[j])
            a[j] += sa[j] * k[j] * (one - a[j])
        return
    for j in range(n):
        t = sa[j] * k[j]
        if t <= 0:
            continue
        u, v = one / sa[j], one / max(a[j], np.float32(1e-6))
        p, q, w, z = k[j] * (one - a[j]), one - t, t * a[j], a[j]
        x0, x1, x2 = min(sr[j] * u, one), min(sg[j] * u, one), min(sb[j] * u, one)
        y0, y1, y2 = min(r[j] * v, one), min(g[j] * v, one), min(b[j] * v, one)
        if mode >= _HUE:
            m0, m1, m2 = _whole(mode, y0, y1, y2, x0, x1, x2)
        else:
            m0, m1, m2 = _mixed(mode, y0, x0), _mixed(mode, y1, x1), _mixed(mode, y2, x2)
        r[j] = sr[j] * p + r[j] * q + w * m0
        g[j] = sg[j] * p + g[j] * q + w * m1
        b[j] = sb[j] * p + b[j] * q + w * m2
        a[j] = t + z * q


@njit(**_FAST)
def _weigh(at, y, cover, clip, weight, k):  # type: ignore[no-untyped-def]
    """Put how much of a row is painted into ``k``; whether there is any of it."""
    n = len(k)
    if cover.shape[0] > 0:
        row = cover[y - at[7], at[0] - at[6] : at[0] - at[6] + n]
        c = np.float32(weight / 255)
        most = np.uint8(0)
        for j in range(n):
            k[j] = row[j] * c
            most = max(most, row[j])
        if most == 0:
            return False
    else:
        k[:] = weight
    if clip.shape[0] > 0:
        held = clip[y - at[9], at[0] - at[8] : at[0] - at[8] + n]
        c = np.float32(1 / 255)
        for j in range(n):
            k[j] *= held[j] * c
    return True


@njit(**_FAST)
def flat(planes, at, cover, clip, colour, mode):  # type: ignore[no-untyped-def]
    """Lay one colour (four numbers, premultiplied)."""
    n = at[2] - at[0]
    k, source = np.empty(n, np.float32), np.empty((4, n), np.float32)
    for i in range(4):
        source[i, :] = colour[i]
    for y in range(at[1], at[3]):
        if _weigh(at, y, cover, clip, 1.0, k):
            _lay(planes, y - at[5], at[0] - at[4], source[0], source[1], source[2], source[3], k, mode)


@njit(**_FAST)
def graded(planes, at, cover, clip, kind, numbers, spread, table, weight, mode):  # type: ignore[no-untyped-def]
    """Lay the colours of a ``table`` (``TABLE``, 4), premultiplied.

    ``LINEAR``: t = n0 x + n1 y + n2. ``RADIAL``: t such that p = (n0 x + n1 y + n2, n3 x + n4 y + n5) lies on the
    circle about t c of radius t r, c = (n6, n7), n8 = c c - r r < 0. ``STRENGTH``: t is the cover itself. ``spread``
    is 0 to hold t, 1 to reflect it, 2 to repeat it.
    """
    n = at[2] - at[0]
    k, t, source = np.empty(n, np.float32), np.empty(n, np.float32), np.empty((4, n), np.float32)
    nothing = cover[:0]
    for y in range(at[1], at[3]):
        if not _weigh(at, y, cover, clip, weight, k):
            continue
        if kind == STRENGTH:
            row = cover[y - at[7], at[0] - at[6] : at[0] - at[6] + n]
            for j in range(n):
                t[j] = row[j] * np.float32(1 / 255)
            _weigh(at, y, nothing, clip, weight, k)
        elif kind == LINEAR:
            first = numbers[0] * (at[0] + 0.5) + numbers[1] * (y + 0.5) + numbers[2]
            for j in range(n):
                t[j] = first + numbers[0] * j
        else:
            px = numbers[0] * (at[0] + 0.5) + numbers[1] * (y + 0.5) + numbers[2]
            py = numbers[3] * (at[0] + 0.5) + numbers[4] * (y + 0.5) + numbers[5]
            for j in range(n):
                u, v = px + numbers[0] * j, py + numbers[3] * j
                b = u * numbers[6] + v * numbers[7]
                t[j] = (b - math.sqrt(max(b * b - numbers[8] * (u * u + v * v), 0.0))) / numbers[8]
        for j in range(n):
            x = t[j]
            if spread == 1:
                x = 1 - abs(x - 2 * math.floor(x / 2) - 1)
            elif spread == 2:
                x -= math.floor(x)
            i = int(min(max(x, 0.0), 1.0) * (TABLE - 1) + 0.5)
            source[0, j], source[1, j], source[2, j], source[3, j] = table[i, 0], table[i, 1], table[i, 2], table[i, 3]
        _lay(planes, y - at[5], at[0] - at[4], source[0], source[1], source[2], source[3], k, mode)


@njit(**_FAST)
def pictured(planes, at, cover, clip, pixels, px, py, weight, mode):  # type: ignore[no-untyped-def]
    """Lay planes of pixels whose first lies at (px, py)."""
    n = at[2] - at[0]
    k = np.empty(n, np.float32)
    for y in range(at[1], at[3]):
        if _weigh(at, y, cover, clip, weight, k):
            l, row = at[0] - px, y - py
            r, g, b = pixels[0, row, l : l + n], pixels[1, row, l : l + n], pixels[2, row, l : l + n]
            _lay(planes, y - at[5], at[0] - at[4], r, g, b, pixels[3, row, l : l + n], k, mode)


@njit(**_FAST)
def table_of(stops):  # type: ignore[no-untyped-def]
    """The colours (``TABLE``, 4), premultiplied, between stops (n, 5) of place and straight RGBA in order of place."""
    out = np.empty((TABLE, 4), np.float32)
    k, last = 0, len(stops) - 1
    for i in range(TABLE):
        t = i / (TABLE - 1)
        while k < last and stops[k + 1, 0] <= t:
            k += 1
        m = min(k + 1, last)
        span = stops[m, 0] - stops[k, 0]
        u = min(max((t - stops[k, 0]) / span, 0.0), 1.0) if span > 0 else 0.0
        a = stops[k, 4] * (1 - u) + stops[m, 4] * u
        for c in range(3):
            out[i, c] = (stops[k, c + 1] * (1 - u) + stops[m, c + 1] * u) * a
        out[i, 3] = a
    return out
