"""Colour along a gradient: midpoints, OKLab mixing with premultiplied alpha, and plain stops for backends.

A midpoint m bends the parameter of its segment by u -> u^(ln 0.5 / ln m), so that u = m gives the half mix.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.shading.paint import Linear, Paint, Solid, Stop

PlainStop = tuple[float, float, float, float, float]  # offset, r, g, b, a (encoded sRGB, straight)
# The plain stops stay this close (CIEDE2000) to the true ramp; half of what the design allows.
PLAIN_TOLERANCE = 0.25
_MAX_PLAIN = 256


def effective_paint(paint: Paint) -> Paint:
    """The paint as backends must draw it: a gradient of no length, or of one stop, is its last colour (SVG's rule)."""
    if isinstance(paint, Solid) or not paint.stops:
        return paint
    if len(paint.stops) == 1 or (isinstance(paint, Linear) and paint.start == paint.end):
        return Solid(sorted_stops(paint.stops)[-1].colour)
    return paint


def sorted_stops(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Stops in order of position, positions held to 0..1; equal positions keep their order (a hard edge)."""
    held = (Stop(min(max(s.at, 0.0), 1.0), s.colour, s.middle) for s in stops)
    return tuple(sorted(held, key=lambda s: s.at))


def ramp(stops: tuple[Stop, ...], t: Floats, mix_oklab: bool = True) -> Floats:
    """Straight RGBA (n, 4) at the parameters ``t`` (n,); outside the stops the end colours continue.

    A ramp of no stops is transparent black.
    """
    out = np.zeros((len(t), 4))
    if not stops:
        return out
    ordered = sorted_stops(stops)
    at = np.array([s.at for s in ordered])
    rgba = np.array([[s.colour.r, s.colour.g, s.colour.b, s.colour.a] for s in ordered])
    mixing = np.concatenate([oklab.from_srgb(rgba[:, :3]) if mix_oklab else rgba[:, :3], rgba[:, 3:]], axis=1)
    _colour_of_clear_stops(mixing)
    middle = np.clip([s.middle for s in ordered], 0.01, 0.99)
    # The right-hand side of a hard edge wins at its exact position.
    left = np.clip(np.searchsorted(at, t, side="right") - 1, 0, len(at) - 1)
    right = np.minimum(left + 1, len(at) - 1)
    span = at[right] - at[left]
    u = np.clip(np.divide(t - at[left], span, out=np.zeros_like(t), where=span > 0), 0, 1)
    u = u ** (math.log(0.5) / np.log(middle[left]))
    pa, pb = mixing[left], mixing[right]
    alpha = pa[:, 3] * (1 - u) + pb[:, 3] * u
    pre = pa[:, :3] * (pa[:, 3] * (1 - u))[:, None] + pb[:, :3] * (pb[:, 3] * u)[:, None]
    straight = pa[:, :3] * (1 - u)[:, None] + pb[:, :3] * u[:, None]
    seen = alpha > 1e-9
    mixed = np.where(seen[:, None], pre / np.where(seen, alpha, 1)[:, None], straight)
    out[:, :3] = np.clip(oklab.to_srgb(mixed) if mix_oklab else mixed, 0, 1)
    out[:, 3] = alpha
    return out


def _colour_of_clear_stops(mixing: Floats) -> None:
    """Nothing is seen of a stop of alpha 0: it takes a neighbour's colour, so no tint creeps in from it."""
    for i in range(len(mixing)):
        if mixing[i, 3] <= 1e-9:
            for j in (i - 1, i + 1):
                if 0 <= j < len(mixing) and mixing[j, 3] > 1e-9:
                    mixing[i, :3] = mixing[j, :3]
                    break


@lru_cache(maxsize=4096)
def plain_stops(stops: tuple[Stop, ...], mix_oklab: bool = True) -> tuple[PlainStop, ...]:
    """Stops for straight sRGB interpolation that stay within ``PLAIN_TOLERANCE`` of the true ramp.

    Every backend uses these same stops, which is why they agree.
    """
    if not stops:
        return ((0.0, 0.0, 0.0, 0.0, 0.0),)
    ordered = sorted_stops(stops)
    if len(ordered) == 1:
        c = ordered[0].colour
        return ((0.0, c.r, c.g, c.b, c.a),)
    out: list[PlainStop] = []
    if not mix_oklab and all(s.middle == 0.5 and s.colour.a == ordered[0].colour.a for s in ordered):
        for s in ordered:
            _append(out, s.at, s)
        return tuple(out[:_MAX_PLAIN])
    for a, b in zip(ordered, ordered[1:], strict=False):
        if b.at - a.at < 1e-9:
            _append(out, b.at, b)
            continue
        if not out:
            _append(out, a.at, a)
        out.extend(_segment_stops(a, b, mix_oklab))
    return tuple(out[:_MAX_PLAIN])


def _append(out: list[PlainStop], at: float, stop: Stop) -> None:
    c = stop.colour
    out.append((at, c.r, c.g, c.b, c.a))


def _segment_stops(a: Stop, b: Stop, mix_oklab: bool) -> list[PlainStop]:
    """The stops after ``a`` up to and including ``b``: the fewest samples of a dense table that stay close.

    Half of the table is even in position, half in mix: a midpoint near an end makes the ramp very steep there.
    """
    even = np.linspace(0, 1, 97)
    bend = math.log(0.5) / math.log(min(max(a.middle, 0.01), 0.99))
    u = np.union1d(even, even ** (1 / bend))
    n = len(u)
    # Ends of the table are taken just inside the segment, so that a hard edge at an end cannot leak in.
    pair = (Stop(0.0, a.colour, a.middle), Stop(1.0, b.colour))
    table = ramp(pair, np.minimum(u, 1 - 1e-12), mix_oklab)
    kept: list[int] = []

    def keep(i: int, j: int) -> None:
        if j - i > 1:
            w = ((u[i + 1 : j] - u[i]) / (u[j] - u[i]))[:, None]
            line = table[i] * (1 - w) + table[j] * w
            true = table[i + 1 : j]
            # Alpha errors count as the colour difference they make on a ground of the opposite extreme.
            error = srgb_difference(line[:, :3], true[:, :3]) * true[:, 3] + np.abs(line[:, 3] - true[:, 3]) * 100
            if error.max() > PLAIN_TOLERANCE:
                m = i + 1 + int(error.argmax())
                keep(i, m)
                keep(m, j)
                return
        kept.append(j)

    keep(0, n - 1)
    span = b.at - a.at
    return [(a.at + span * float(u[i]), *(float(v) for v in table[i])) for i in kept]  # type: ignore[misc]
