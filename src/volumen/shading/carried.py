"""Paints carried to another place."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from volumen.geometry.affine import Affine, apply, apply_points, apply_vector, multiply
from volumen.shading.paint import Conic, Inward, Linear, MeshPaint, Paint, Radial
from volumen.shading.ramp import reversed_stops


def carried(paint: Paint, m: Affine) -> Paint:
    """A paint as it looks after its place was mapped by ``m``; only a conic one loses an uneven stretch."""
    if isinstance(paint, Linear):
        start, end = apply(m, paint.start), apply(m, paint.end)
        dx, dy = paint.end[0] - paint.start[0], paint.end[1] - paint.start[1]
        wx, wy = apply_vector(m, (-dy, dx))  # lines of one colour run along this
        size = wx * wx + wy * wy
        if size > 0:
            along = ((end[0] - start[0]) * wx + (end[1] - start[1]) * wy) / size
            end = (end[0] - wx * along, end[1] - wy * along)
        return replace(paint, start=start, end=end)
    if isinstance(paint, Radial):
        return replace(paint, transform=multiply(m, paint.transform))
    if isinstance(paint, Conic):
        t = np.radians(paint.turn)
        x, y = apply_vector(m, (float(np.cos(t)), float(np.sin(t))))
        turn = float(np.degrees(np.arctan2(y, x)))
        mirrored = m[0] * m[3] - m[1] * m[2] < 0  # then the stops run the other way round
        stops = reversed_stops(paint.stops) if mirrored else paint.stops
        return replace(paint, stops=stops, centre=apply(m, paint.centre), turn=turn)
    if isinstance(paint, MeshPaint):
        flat = np.array([(p.at, *p.handles) for p in paint.points]).reshape(-1, 2)
        rows = apply_points(m, flat).reshape(-1, 5, 2).tolist()
        points = (
            replace(p, at=tuple(r[0]), handles=tuple(tuple(h) for h in r[1:]))
            for p, r in zip(paint.points, rows, strict=True)
        )
        return replace(paint, points=tuple(points))
    if isinstance(paint, Inward) and paint.depth > 0:
        return replace(paint, depth=paint.depth * float(np.sqrt(abs(m[0] * m[3] - m[1] * m[2]))))
    return paint
