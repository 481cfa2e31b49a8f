"""Paint values: colours, stops and gradients.

Colours are encoded sRGB with straight (not premultiplied) alpha, 0..1. Gradient geometry lives in the
coordinates of the shape that it paints. ``Radial`` is a circle mapped by ``transform``, with a focus, as in
SVG and PDF.
"""

from __future__ import annotations

import msgspec

from volumen.colour.srgb import from_hex
from volumen.geometry.affine import IDENTITY, Affine, Point


class Colour(msgspec.Struct, frozen=True, array_like=True):
    """Encoded sRGB and straight alpha, each 0..1."""

    r: float
    g: float
    b: float
    a: float = 1.0

    @property
    def rgb(self) -> tuple[float, float, float]:
        return (self.r, self.g, self.b)

    def with_alpha(self, a: float) -> Colour:
        return Colour(self.r, self.g, self.b, a)


def colour(text: str, alpha: float = 1.0) -> Colour:
    """A colour from ``#rrggbb``."""
    return Colour(*from_hex(text), alpha)


class Stop(msgspec.Struct, frozen=True):
    """A colour at ``at`` (0..1). ``middle`` is where, between this stop and the next, the mix is half and half."""

    at: float
    colour: Colour
    middle: float = 0.5


class Solid(msgspec.Struct, frozen=True, tag="solid"):
    colour: Colour


class Linear(msgspec.Struct, frozen=True, tag="linear"):
    """Stops along the line from ``start`` to ``end``; the end colours continue outside."""

    stops: tuple[Stop, ...]
    start: Point
    end: Point
    oklab: bool = True


class Radial(msgspec.Struct, frozen=True, tag="radial"):
    """Stops from ``focus`` (a point) to the circle at ``centre``; ``transform`` maps both into the shape."""

    stops: tuple[Stop, ...]
    centre: Point
    radius: float
    focus: Point
    transform: Affine = IDENTITY
    oklab: bool = True


Gradient = Linear | Radial
Paint = Solid | Linear | Radial
