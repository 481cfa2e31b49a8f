"""Colour along a gradient: midpoints, OKLab mixing with premultiplied alpha, and plain stops for backends.

A midpoint m bends the parameter of its segment by u -> u (1 - m) / (m (1 - u) + (1 - m) u), so that u = m gives
the half mix. The bend is the same read from either end, so a reversed gradient is its mirror image.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.geometry.affine import apply, invert
from volumen.geometry.path import Box
from volumen.shading.paint import Drawn, Linear, Meshed, Radial, ReliefPaint, Solid, Stop

PlainStop = tuple[float, float, float, float, float]  # offset, r, g, b, a (encoded sRGB, straight)
# The plain stops stay this close (CIEDE2000) to the true ramp; half of what the design allows.
PLAIN_TOLERANCE = 0.25
_MAX_PLAIN = 256


def effective_paint(paint: Drawn) -> Drawn:
    """The paint as backends must draw it: a gradient of no length, or of one stop, is its last colour (SVG's rule)."""
    if isinstance(paint, Solid | Meshed | ReliefPaint) or not paint.stops:
        return paint
    if len(paint.stops) == 1 or (isinstance(paint, Linear) and paint.start == paint.end):
        return Solid(sorted_stops(paint.stops)[-1].colour, grain=paint.grain)
    return paint


def sorted_stops(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Stops in order of position, positions held to 0..1; equal positions keep their order (a hard edge)."""
    held = (s if 0 <= s.at <= 1 else replace(s, at=min(max(s.at, 0.0), 1.0)) for s in stops)
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
    u = _bent(u, middle[left])
    pa, pb = mixing[left], mixing[right]
    alpha = pa[:, 3] * (1 - u) + pb[:, 3] * u
    pre = pa[:, :3] * (pa[:, 3] * (1 - u))[:, None] + pb[:, :3] * (pb[:, 3] * u)[:, None]
    straight = pa[:, :3] * (1 - u)[:, None] + pb[:, :3] * u[:, None]
    seen = alpha > 1e-9
    mixed = np.where(seen[:, None], pre / np.where(seen, alpha, 1)[:, None], straight)
    out[:, :3] = np.clip(oklab.to_srgb(mixed) if mix_oklab else mixed, 0, 1)
    out[:, 3] = alpha
    return out


def _bent(u: Floats, middle: Floats | float) -> Floats:
    """The parameter of a segment after its midpoint; with 1 - middle it goes back."""
    return np.asarray(u * (1 - middle) / (middle * (1 - u) + (1 - middle) * u))


def _colour_of_clear_stops(mixing: Floats) -> None:
    """Nothing is seen of a stop of alpha 0: it takes a neighbour's colour, so no tint creeps in from it."""
    for i in range(len(mixing)):
        if mixing[i, 3] <= 1e-9:
            for j in (i - 1, i + 1):
                if 0 <= j < len(mixing) and mixing[j, 3] > 1e-9:
                    mixing[i, :3] = mixing[j, :3]
                    break


@by_value("plain stops", 4096)
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
        if not out:
            _append(out, a.at, a)
        if b.at - a.at < 1e-9:
            _append(out, b.at, b)
            continue
        if a.colour.a <= 1e-9 < b.colour.a:  # a clear stop has the colour of each neighbour on that one's side
            c = b.colour
            out.append((a.at, c.r, c.g, c.b, a.colour.a))
        out.extend(_segment_stops(a, b, mix_oklab))
    return tuple(out[:_MAX_PLAIN])


def to_both_ends(rows: Sequence[tuple[float, ...]]) -> list[tuple[float, ...]]:
    """Rows that begin with a position, the first at 0 and the last at 1 as well where they end short of these."""
    first, last = rows[0], rows[-1]
    return [*([(0.0, *first[1:])] if first[0] > 0 else []), *rows, *([(1.0, *last[1:])] if last[0] < 1 else [])]


def _append(out: list[PlainStop], at: float, stop: Stop) -> None:
    c = stop.colour
    out.append((at, c.r, c.g, c.b, c.a))


def _segment_stops(a: Stop, b: Stop, mix_oklab: bool) -> list[PlainStop]:
    """The stops after ``a`` up to and including ``b``: the fewest samples of a dense table that stay close.

    Half of the table is even in position, half in mix: a midpoint near an end makes the ramp very steep there.
    """
    even = np.linspace(0, 1, 97)
    u = np.union1d(even, _bent(even, 1 - min(max(a.middle, 0.01), 0.99)))
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


def held_focus(centre: tuple[float, float], radius: float, focus: tuple[float, float]) -> tuple[float, float]:
    """The focus, moved to just inside the circle if it lies outside; all backends agree on this."""
    dx, dy = focus[0] - centre[0], focus[1] - centre[1]
    far = (dx * dx + dy * dy) ** 0.5
    if far <= 0.98 * radius:
        return focus
    k = 0.98 * radius / far
    return (centre[0] + dx * k, centre[1] + dy * k)


_MOST_ROUNDS = 60


def rounds(paint: Linear | Radial, box: Box | None) -> list[tuple[Linear | Radial, float]]:
    """A gradient that repeats or reflects as its single rounds over a box, in the order of painting.

    Each but the first is to be painted over those before it: a linear one from its start on, a radial one from its
    end inwards. With each comes the radius at which it starts (0 for linear ones).
    """
    if paint.spread == "pad" or box is None or not paint.stops:
        return [(paint, 0.0)]
    low, high = _reach(paint, box)
    out: list[tuple[Linear | Radial, float]] = []
    for k in range(low, high):
        turned = paint.spread == "reflect" and k % 2
        stops = _to_the_ends(reversed_stops(paint.stops) if turned else sorted_stops(paint.stops))
        if isinstance(paint, Linear):
            (x, y), (u, v) = paint.start, paint.end
            start, end = (x + (u - x) * k, y + (v - y) * k), (x + (u - x) * (k + 1), y + (v - y) * (k + 1))
            out.append((replace(paint, stops=stops, spread="pad", start=start, end=end), 0.0))
        else:
            fx, fy = held_focus(paint.centre, paint.radius, paint.focus)
            (cx, cy), r = paint.centre, paint.radius
            start, end = (fx + (cx - fx) * k, fy + (cy - fy) * k), (fx + (cx - fx) * (k + 1), fy + (cy - fy) * (k + 1))
            made = replace(paint, stops=stops, spread="pad", focus=start, centre=end, radius=r * (k + 1))
            out.append((made, r * k))
    return out if isinstance(paint, Linear) else out[::-1]


_PAST = 0.25  # of a gradient's length


def past_its_breaks(paint: Linear | Radial) -> Linear | Radial:
    """The same colours from a gradient that runs further where they break off at an end of it. What continues beyond an
    end is the colour after the break, which a format that knows a ramp as a function from 0 to 1 cannot say."""
    stops = sorted_stops(paint.stops)
    if paint.spread != "pad" or len(stops) < 2:
        return paint
    after = _PAST if stops[-2].at > 1 - 1e-9 else 0.0
    before = _PAST if stops[1].at < 1e-9 and isinstance(paint, Linear) else 0.0
    if not before and not after:
        return paint
    stops = tuple(replace(s, at=(s.at + before) / (1 + before + after)) for s in stops)
    if isinstance(paint, Radial):
        (fx, fy), (cx, cy) = held_focus(paint.centre, paint.radius, paint.focus), paint.centre
        centre, radius = (fx + (cx - fx) * (1 + after), fy + (cy - fy) * (1 + after)), paint.radius * (1 + after)
        return replace(paint, stops=stops, centre=centre, radius=radius, focus=(fx, fy))
    (x, y), (u, v) = paint.start, paint.end
    start, end = (x - (u - x) * before, y - (v - y) * before), (u + (u - x) * after, v + (v - y) * after)
    return replace(paint, stops=stops, start=start, end=end)


def _reach(paint: Linear | Radial, box: Box) -> tuple[int, int]:
    """From which round to which a gradient must run to cover a box."""
    corner = [(box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3])]
    if isinstance(paint, Linear):
        d = (paint.end[0] - paint.start[0], paint.end[1] - paint.start[1])
        size = d[0] ** 2 + d[1] ** 2
        t = [((x - paint.start[0]) * d[0] + (y - paint.start[1]) * d[1]) / max(size, 1e-12) for x, y in corner]
        low, high = math.floor(min(t)), math.ceil(max(t))
    else:
        inverse = invert(paint.transform)
        if inverse is None:
            return 0, 1
        far = max(math.dist(apply(inverse, p), paint.focus) for p in corner)
        near = max(paint.radius - math.dist(paint.centre, held_focus(paint.centre, paint.radius, paint.focus)), 1e-6)
        low, high = 0, math.ceil(far / near)
    low = max(low, -_MOST_ROUNDS)
    return low, min(max(high, low + 1), _MOST_ROUNDS)


def _to_the_ends(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Stops with one at 0 and one at 1: where a gradient repeats, the flat parts before and after them count."""
    first = () if stops[0].at <= 0 else (replace(stops[0], at=0.0, middle=0.5),)
    last = () if stops[-1].at >= 1 else (replace(stops[-1], at=1.0),)
    return (*first, *stops, *last)


def reversed_stops(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Stops in the other direction, midpoints with them."""
    ordered = sorted_stops(stops)
    middles = [1 - s.middle for s in ordered[:-1]][::-1] + [0.5]
    return tuple(replace(s, at=1 - s.at, middle=m) for s, m in zip(reversed(ordered), middles, strict=True))
