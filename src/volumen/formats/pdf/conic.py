"""Conic gradients as PDF shadings of type 7: thin wedges round the centre, each mixing evenly across its angle."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pikepdf

from volumen.colour.srgb import Floats
from volumen.formats.pdf.mesh import Extent, patch_shading
from volumen.geometry.path import Box
from volumen.shading.paint import Conic
from volumen.shading.ramp import plain_stops, to_both_ends

_WIDEST = 3.0  # degrees: across so thin a wedge an even share of its chord is an even share of its angle


def conic_shadings(pdf: pikepdf.Pdf, paint: Conic, box: Box, space: Any) -> tuple[Any, Any | None]:
    """The shading of a conic gradient's colours over a box, and that of its alpha as grey where it has any."""
    (cx, cy), (left, top, right, bottom) = paint.centre, box
    # The flat end of a wedge must still lie outside the box.
    reach = 1.01 * max(math.dist((cx, cy), p) for p in ((left, top), (right, top), (right, bottom), (left, bottom)))
    extent = Extent(np.array([cx - reach, cy - reach]), np.array([2 * reach, 2 * reach]))
    wedges = _wedges(paint)
    nets = np.array([_wedge(paint, reach, start, end) for start, end, _, _ in wedges])
    corners = np.array([(first, last, last, first) for _, _, first, last in wedges])
    shown = patch_shading(pdf, nets, corners[..., :3], extent, space)
    if all(s.colour.a >= 1 for s in paint.stops):
        return shown, None
    return shown, patch_shading(pdf, nets, corners[..., 3:], extent, pikepdf.Name.DeviceGray)


def _wedges(paint: Conic) -> list[tuple[float, float, Floats, Floats]]:
    """Start and end of each wedge, as shares of the round, and the straight colours (4,) on both sides."""
    out = []
    for (t0, *c0), (t1, *c1) in pairwise(to_both_ends(plain_stops(paint.stops, paint.oklab))):
        if t1 - t0 < 1e-9:
            continue
        n = math.ceil((t1 - t0) * 360 / _WIDEST)
        a, b = np.array(c0), np.array(c1)
        for i in range(n):
            u, v = i / n, (i + 1) / n
            out.append((t0 + (t1 - t0) * u, t0 + (t1 - t0) * v, a + (b - a) * u, a + (b - a) * v))
    return out


def _wedge(paint: Conic, reach: float, start: float, end: float) -> Floats:
    """The control points (4, 4, 2) of a wedge: columns across its angle, rows from the centre outwards."""
    angle = np.radians(paint.turn + 360 * (start + (end - start) * np.arange(4) / 3))
    rays = np.stack([np.cos(angle), np.sin(angle)], axis=1) * reach
    return np.array(paint.centre) + rays[None] * (np.arange(4) / 3)[:, None, None]
