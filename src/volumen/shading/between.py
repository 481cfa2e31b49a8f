"""Colours, numbers and paints between two others."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from volumen.geometry.affine import Point
from volumen.shading.mesh import mixing_of, straight_of
from volumen.shading.paint import (
    GRADIENTS,
    Colour,
    Conic,
    Linear,
    MeshPaint,
    MeshPoint,
    Paint,
    Radial,
    Solid,
    Stop,
    tinted,
)
from volumen.shading.ramp import ramp, sorted_stops


def mixed_colour(a: Colour, b: Colour, t: float) -> Colour:
    """A colour between two, mixed in OKLab by their alpha."""
    pair = mixing_of(np.array([(*a.rgb, a.a), (*b.rgb, b.a)]))
    r, g, bl, al = (float(v) for v in straight_of(pair[0] * (1 - t) + pair[1] * t))
    return Colour(r, g, bl, al)


def between(a: float, b: float, t: float) -> float:
    """The number a share ``t`` of the way from ``a`` to ``b``."""
    return a + (b - a) * t


def _point(a: Point, b: Point, t: float) -> Point:
    return (between(a[0], b[0], t), between(a[1], b[1], t))


def mixed(a: Paint, b: Paint, t: float) -> Paint:
    """A paint between two. Gradients of one kind move and mix; of two kinds, the nearer one shows mixed colours."""
    if isinstance(a, Solid) and a == b:
        return a
    if isinstance(a, Solid) and isinstance(b, Solid):
        if a.swatch is not None and a.swatch == b.swatch and a.tint != b.tint:
            return _tint_between(a, b, t)
        return Solid(mixed_colour(a.colour, b.colour, t), grain=a.grain or b.grain)
    if isinstance(a, MeshPaint) or isinstance(b, MeshPaint):
        return _mixed_meshes(a, b, t)
    near = b if isinstance(a, Solid) or (t >= 0.5 and not isinstance(b, Solid)) else a
    assert isinstance(near, GRADIENTS)
    stops = _mixed_stops(a, b, t)
    if isinstance(a, Linear) and isinstance(b, Linear):
        return replace(near, stops=stops, start=_point(a.start, b.start, t), end=_point(a.end, b.end, t), link=None)
    if isinstance(a, Radial) and isinstance(b, Radial):
        place = tuple(between(x, y, t) for x, y in zip(a.transform, b.transform, strict=True))
        return replace(
            near, stops=stops, centre=_point(a.centre, b.centre, t), focus=_point(a.focus, b.focus, t),
            radius=between(a.radius, b.radius, t), transform=place, link=None,
        )  # fmt: skip
    if isinstance(a, Conic) and isinstance(b, Conic):
        turn = a.turn + ((b.turn - a.turn + 180) % 360 - 180) * t
        return replace(near, stops=stops, centre=_point(a.centre, b.centre, t), turn=turn, link=None)
    return replace(near, stops=stops, link=None)


def _tint_between(a: Solid, b: Solid, t: float) -> Solid:
    """A tint between two of one swatch, as a screen between two screens."""
    full = a if a.tint > b.tint else b
    ink = Colour(*(1 - (1 - v) / full.tint for v in full.colour.rgb))
    tint = between(a.tint, b.tint, t)
    colour = tinted(ink, tint).with_alpha(between(a.colour.a, b.colour.a, t))
    return Solid(colour, a.swatch, a.grain or b.grain, tint)


def _mixed_stops(a: Paint, b: Paint, t: float) -> tuple[Stop, ...]:
    rows = [_stops_of(p) for p in (a, b)]
    places = {s.at for row in rows for s in row}
    for row in rows:  # a midpoint away from the middle is kept as a stop
        places |= {p.at + (q.at - p.at) * p.middle for p, q in zip(row, row[1:], strict=False) if p.middle != 0.5}
    at = sorted(places)
    oklab = [not isinstance(p, GRADIENTS) or p.oklab for p in (a, b)]
    colours = [ramp(row, np.array(at), mix) for row, mix in zip(rows, oklab, strict=True)]
    pairs = zip(at, colours[0].tolist(), colours[1].tolist(), strict=True)
    return tuple(Stop(x, mixed_colour(Colour(*p), Colour(*q), t)) for x, p, q in pairs)


def _stops_of(paint: Paint) -> tuple[Stop, ...]:
    if isinstance(paint, GRADIENTS):
        return sorted_stops(paint.stops)
    assert isinstance(paint, Solid)
    return (Stop(0.0, paint.colour), Stop(1.0, paint.colour))


def _mixed_meshes(a: Paint, b: Paint, t: float) -> Paint:
    near = b if t >= 0.5 else a
    if not (isinstance(a, MeshPaint) and isinstance(b, MeshPaint)) or len(a.points) != len(b.points):
        return near
    if (a.columns, a.ring) != (b.columns, b.ring):
        return near

    def point(p: MeshPoint, q: MeshPoint) -> MeshPoint:
        handles = tuple(_point(x, y, t) for x, y in zip(p.handles, q.handles, strict=True))
        return replace(
            p, at=_point(p.at, q.at, t), handles=handles, colour=mixed_colour(p.colour, q.colour, t), slopes=None
        )

    points = tuple(point(p, q) for p, q in zip(a.points, b.points, strict=True))
    return replace(a, points=points)
