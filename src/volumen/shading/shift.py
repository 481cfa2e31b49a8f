"""Shifting colours: hue, lightness, chroma and contrast of one colour, or of all that a paint holds."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from volumen.colour import oklab
from volumen.shading.paint import GRADIENTS, Colour, MeshPaint, Paint, Solid, Stop


def shifted(colour: Colour, hue: float, lightness: float, chroma: float, contrast: float = 0.0) -> Colour:
    """A colour turned by ``hue`` degrees, lighter by ``lightness`` (-1..1), its chroma times 1 + ``chroma``.

    ``contrast`` (-1 and up) draws lightness away from middle grey. Chroma gives way where the screen cannot show it.
    """
    l, c, h = (float(v) for v in oklab.to_lch(oklab.from_srgb(colour.rgb)))
    l = 0.6 + (l - 0.6) * (1 + contrast)
    l = l + (1 - l) * lightness if lightness > 0 else l * (1 + lightness)
    r, g, b = (float(v) for v in oklab.lch_to_srgb(np.array([l, max(c * (1 + chroma), 0.0), (h + hue) % 360])))
    return Colour(r, g, b, colour.a)


def paint_with(paint: Paint, change: Callable[[Colour], Colour]) -> Paint:
    """A paint with all its colours changed."""
    if isinstance(paint, Solid):
        return replace(paint, colour=change(paint.colour), swatch=None)
    if isinstance(paint, MeshPaint):
        return replace(paint, points=tuple(replace(p, colour=change(p.colour), slopes=None) for p in paint.points))
    assert isinstance(paint, GRADIENTS)
    return replace(paint, stops=stops_with(paint.stops, change), link=None)


def stops_with(stops: tuple[Stop, ...], change: Callable[[Colour], Colour]) -> tuple[Stop, ...]:
    """Stops with all their colours changed."""
    return tuple(replace(s, colour=change(s.colour), swatch=None) for s in stops)
