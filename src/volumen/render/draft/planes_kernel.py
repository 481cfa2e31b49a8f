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
from numpy.typing import NDArray

from volumen.geometry.compiled import compiled
from volumen.render.draft.covers_kernel import entry

MODES = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn", "hard-light",
    "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
)  # fmt: skip
LINEAR, RADIAL = 0, 1
TABLE = 512
F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
Bytes = NDArray[np.uint8]
At = tuple[int, int, int, int, int, int, int, int, int, int]
_NORMAL, _MULTIPLY, _SCREEN, _OVERLAY, _DARKEN, _LIGHTEN, _DODGE, _BURN, _HARD = range(9)
_SOFT, _DIFFERENCE, _EXCLUSION, _HUE, _SATURATION, _COLOR = range(9, 15)
_AT_ONCE = 32  # numbers that are worked out together: the rest of a row one by one
_fast = compiled(nogil=True, fastmath=True, error_model="numpy")
_PLANES, _AT, _COVERS = "float32[:,:,::1]", "UniTuple(int64, 10)", "uint8[:,::1], uint8[:,::1]"


@_fast
def _steep(mode, b, s):  # type: ignore[no-untyped-def]
    """B(cb, cs) of the modes that need straight colours: dodge, burn and soft light."""
    if mode == _DODGE:
        return 0.0 if b <= 0 else (1.0 if s >= 1 else min(1.0, b / (1 - s)))
    if mode == _BURN:
        return 1.0 if b >= 1 else (0.0 if s <= 0 else 1 - min(1.0, (1 - b) / s))
    if s <= 0.5:
        return b - (1 - 2 * s) * b * (1 - b)
    d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
    return b + (2 * s - 1) * (d - b)


@_fast
def _lum(r, g, b):  # type: ignore[no-untyped-def]
    return 0.3 * r + 0.59 * g + 0.11 * b


@_fast
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


@_fast
def _with_sat(r, g, b, sat):  # type: ignore[no-untyped-def]
    """A colour spread to a saturation, its least channel at 0."""
    low = min(r, g, b)
    k = sat / max(max(r, g, b) - low, 1e-9)
    return (r - low) * k, (g - low) * k, (b - low) * k


@_fast
def _whole(mode, br, bg, bb, r, g, b):  # type: ignore[no-untyped-def]
    """B(cb, cs) of the modes that look at a colour as a whole."""
    if mode == _HUE:
        r, g, b = _with_sat(r, g, b, max(br, bg, bb) - min(br, bg, bb))
        return _with_lum(r, g, b, _lum(br, bg, bb))
    if mode == _SATURATION:
        r, g, b = _with_sat(br, bg, bb, max(r, g, b) - min(r, g, b))
        return _with_lum(r, g, b, _lum(br, bg, bb))
    if mode == _COLOR:
        return _with_lum(r, g, b, _lum(br, bg, bb))
    return _with_lum(br, bg, bb, _lum(r, g, b))


# A loop over few rows of numbers is worked out many numbers at a time; one over nine, which might overlap, is not.


@_fast
def _lay(planes, y, l, source, row, first, k, mode):  # type: ignore[no-untyped-def]
    """Blend n premultiplied colours of a row of ``source``, from ``first`` on, weighed by ``k``, over a row of the
    planes from ``l`` on."""
    n, one = len(k), np.float32(1)
    a, sa = planes[3, y, l : l + n], source[3, row, first : first + n]
    if mode <= _SCREEN:
        for i in range(3):
            d, s = planes[i, y, l : l + n], source[i, row, first : first + n]
            if mode == _NORMAL:
                for j in range(n):
                    d[j] += k[j] * (s[j] - sa[j] * d[j])
            elif mode == _MULTIPLY:
                for j in range(n):
                    d[j] += k[j] * (s[j] * (one - a[j]) + d[j] * (s[j] - sa[j]))
            else:
                for j in range(n):
                    d[j] += k[j] * (s[j] - s[j] * d[j])
    elif mode in (_DODGE, _BURN, _SOFT) or mode >= _HUE:
        _lay_straight(planes[:, y, l : l + n], source[:, row, first : first + n], k, mode)
    else:
        for i in range(3):
            _lay_channel(planes[i, y, l : l + n], a, source[i, row, first : first + n], sa, k, mode)
    for j in range(n):
        a[j] += sa[j] * k[j] * (one - a[j])


@_fast
def _lay_flat(planes, y, l, red, green, blue, t, k, mode):  # type: ignore[no-untyped-def]
    """The same with one premultiplied colour for the whole row, in one of the first three modes."""
    n, one = len(k), np.float32(1)
    a = planes[3, y, l : l + n]
    for i in range(3):
        d, s = planes[i, y, l : l + n], (red, green, blue)[i]
        if mode == _NORMAL:
            for j in range(n):
                d[j] += k[j] * (s - t * d[j])
        elif mode == _MULTIPLY:
            for j in range(n):
                d[j] += k[j] * (s * (one - a[j]) + d[j] * (s - t))
        else:
            for j in range(n):
                d[j] += k[j] * (s - s * d[j])
    for j in range(n):
        a[j] += k[j] * (t - t * a[j])


@_fast
def _lay_channel(d, da, s, sa, k, mode):  # type: ignore[no-untyped-def]
    """One channel: s (1 - da) + d (1 - sa) + sa da B(d / da, s / sa), written without a division."""
    n, one, two = len(k), np.float32(1), np.float32(2)
    if mode in (_DARKEN, _LIGHTEN, _DIFFERENCE):
        for j in range(n):
            t, u = s[j] * k[j], sa[j] * k[j]
            low, high = min(t * da[j], d[j] * u), max(t * da[j], d[j] * u)
            both = low if mode == _DARKEN else (high if mode == _LIGHTEN else high - low)
            d[j] = t * (one - da[j]) + d[j] * (one - u) + both
    elif mode == _EXCLUSION:
        for j in range(n):
            t = s[j] * k[j]
            d[j] += t - two * t * d[j]
    else:  # overlay is hard light seen from below
        for j in range(n):
            t, u = s[j] * k[j], sa[j] * k[j]
            dark = two * t * d[j]
            light = u * da[j] - two * (da[j] - d[j]) * (u - t)
            low = two * d[j] <= da[j] if mode == _OVERLAY else two * t <= u
            d[j] = t * (one - da[j]) + d[j] * (one - u) + (dark if low else light)


@_fast
def _lay_straight(planes, source, k, mode):  # type: ignore[no-untyped-def]
    """The colours of the modes that need them straight."""
    r, g, b, a, sr, sg, sb, sa = planes[0], planes[1], planes[2], planes[3], source[0], source[1], source[2], source[3]
    n, one, least = len(k), np.float32(1), np.float32(1e-6)
    for j in range(n):
        t = sa[j] * k[j]
        if t <= 0:
            continue
        u, v = one / max(sa[j], least), one / max(a[j], least)
        p, q, w = k[j] * (one - a[j]), one - t, t * a[j]
        x0, x1, x2 = min(sr[j] * u, one), min(sg[j] * u, one), min(sb[j] * u, one)
        y0, y1, y2 = min(r[j] * v, one), min(g[j] * v, one), min(b[j] * v, one)
        if mode >= _HUE:
            m0, m1, m2 = _whole(mode, y0, y1, y2, x0, x1, x2)
        else:
            m0, m1, m2 = _steep(mode, y0, x0), _steep(mode, y1, x1), _steep(mode, y2, x2)
        r[j] = sr[j] * p + r[j] * q + w * m0
        g[j] = sg[j] * p + g[j] * q + w * m1
        b[j] = sb[j] * p + b[j] * q + w * m2


@_fast
def _seen(at, y, cover):  # type: ignore[no-untyped-def]
    """From where to where a row of ``at`` is painted."""
    l, r = at[0], at[2]
    if cover.shape[0] > 0:
        row, x = cover[y - at[7]], at[6]
        while l < r and row[l - x] == 0:
            l += 1
        while r > l and row[r - 1 - x] == 0:
            r -= 1
    return l, r


@_fast
def _weigh(at, l, y, cover, clip, weight, k):  # type: ignore[no-untyped-def]
    """Put how much is painted of a row from ``l`` on into ``k``."""
    n = len(k)
    if cover.shape[0] > 0:
        row = cover[y - at[7], l - at[6] : l - at[6] + n]
        c = np.float32(weight / 255)
        for j in range(n):
            k[j] = np.float32(row[j]) * c
    else:
        k[:] = weight
    if clip.shape[0] > 0:
        held = clip[y - at[9], l - at[8] : l - at[8] + n]
        c = np.float32(1 / 255)
        for j in range(n):
            k[j] *= np.float32(held[j]) * c


@entry(f"void({_PLANES}, {_AT}, {_COVERS}, float64[::1], int64)")
def flat(planes: F32, at: At, cover: Bytes, clip: Bytes, colour: F64, mode: int) -> None:
    """Lay one colour (four numbers, premultiplied)."""
    weights = np.empty(at[2] - at[0] + _AT_ONCE, np.float32)
    red, green, blue = np.float32(colour[0]), np.float32(colour[1]), np.float32(colour[2])
    alpha = np.float32(colour[3])
    source = np.empty((4, 1, at[2] - at[0] if mode > _SCREEN else 0), np.float32)
    for i in range(4):
        source[i, 0, :] = colour[i]
    for y in range(at[1], at[3]):
        l, r = _seen(at, y, cover)
        if l >= r:
            continue
        k = weights[: r - l]
        _weigh(at, l, y, cover, clip, 1.0, k)
        if mode <= _SCREEN:
            n = min(r - l + (l - r) % _AT_ONCE, planes.shape[2] - (l - at[4]))
            weights[r - l : n] = 0
            _lay_flat(planes, y - at[5], l - at[4], red, green, blue, alpha, weights[:n], mode)
        else:
            _lay(planes, y - at[5], l - at[4], source, 0, 0, k, mode)


@_fast
def _parameter(kind, numbers, x, y, t):  # type: ignore[no-untyped-def]
    """Where along a gradient the pixels of a row from (x, y) on lie."""
    a, d = np.float32(numbers[0]), np.float32(numbers[3])
    px = np.float32(numbers[0] * x + numbers[1] * y + numbers[2])
    if kind == LINEAR:
        for j in range(len(t)):
            t[j] = px + a * np.float32(j)
        return
    py = np.float32(numbers[3] * x + numbers[4] * y + numbers[5])
    cx, cy, q = np.float32(numbers[6]), np.float32(numbers[7]), np.float32(numbers[8])
    back, zero = np.float32(1 / numbers[8]), np.float32(0)
    for j in range(len(t)):
        u, v = px + a * np.float32(j), py + d * np.float32(j)
        b = u * cx + v * cy
        t[j] = (b - np.sqrt(max(b * b - q * (u * u + v * v), zero))) * back


@entry(f"void({_PLANES}, {_AT}, {_COVERS}, int64, float64[::1], int64, float32[:,::1], float64, int64)")
def graded(
    planes: F32, at: At, cover: Bytes, clip: Bytes, kind: int, numbers: F64, spread: int, table: F32, weight: float,
    mode: int,
) -> None:  # fmt: skip
    """Lay the colours of a ``table`` (``TABLE``, 4), premultiplied.

    ``LINEAR``: t = n0 x + n1 y + n2. ``RADIAL``: t such that p = (n0 x + n1 y + n2, n3 x + n4 y + n5) lies on the
    circle about t c of radius t r, c = (n6, n7), n8 = c c - r r < 0. ``spread`` is 0 to hold t, 1 to reflect it, 2 to
    repeat it.
    """
    weights, along = np.empty(at[2] - at[0], np.float32), np.empty(at[2] - at[0], np.float32)
    source = np.empty((4, 1, at[2] - at[0]), np.float32)
    most, half = np.float32(TABLE - 1), np.float32(0.5)
    for y in range(at[1], at[3]):
        l, r = _seen(at, y, cover)
        if l >= r:
            continue
        n = r - l
        k, t = weights[:n], along[:n]
        _weigh(at, l, y, cover, clip, weight, k)
        _parameter(kind, numbers, l + 0.5, y + 0.5, t)
        if spread:
            for j in range(n):
                t[j] = t[j] - math.floor(t[j]) if spread == 2 else 1 - abs(t[j] - 2 * math.floor(t[j] / 2) - 1)
        for j in range(n):
            # Held twice: what is no number must not be looked up anywhere.
            i = min(max(int(min(max(t[j], np.float32(0)), np.float32(1)) * most + half), 0), TABLE - 1)
            for c in range(4):
                source[c, 0, j] = table[i, c]
        _lay(planes, y - at[5], l - at[4], source, 0, 0, k, mode)


@entry(f"void({_PLANES}, {_AT}, {_COVERS}, {_PLANES}, int64, int64, float64, int64)")
def pictured(
    planes: F32, at: At, cover: Bytes, clip: Bytes, pixels: F32, px: int, py: int, weight: float, mode: int
) -> None:
    """Lay planes of pixels whose first lies at (px, py)."""
    weights = np.empty(at[2] - at[0], np.float32)
    for y in range(at[1], at[3]):
        l, r = _seen(at, y, cover)
        if l < r:
            k = weights[: r - l]
            _weigh(at, l, y, cover, clip, weight, k)
            _lay(planes, y - at[5], l - at[4], pixels, y - py, l - px, k, mode)


@entry("float32[:,::1](float64[:,::1])")
def table_of(stops: F64) -> F32:
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
