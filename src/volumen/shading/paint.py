"""Paint values: colours, stops, gradients, meshes and grain.

Colours are encoded sRGB with straight (not premultiplied) alpha, 0..1. Gradient geometry lives in the
coordinates of the shape that it paints. ``Radial`` is a circle mapped by ``transform``, with a focus, as in
SVG and PDF.

A colour that refers to a swatch, or a gradient linked to one of the palette, holds the value as well: editing
the palette rewrites all values that refer to it, so nothing that draws has to look anything up. Gradients with the
same ``shared`` number are one gradient across several shapes: moved in one, it moves in all.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

from volumen.colour.srgb import from_hex
from volumen.geometry.affine import IDENTITY, Affine, Point
from volumen.geometry.ease import EVEN, Ease
from volumen.shading.mesh import Mesh

Spread = Literal["pad", "reflect", "repeat"]
ReliefPlace = Literal["inside", "outside", "across"]
ReliefProfile = Literal["round", "flat", "hollow", "drawn"]


class Colour(msgspec.Struct, frozen=True, array_like=True):
    """Encoded sRGB and straight alpha, each 0..1."""

    r: float
    g: float
    b: float
    a: float = 1.0

    @property
    def rgb(self) -> tuple[float, float, float]:
        """Red, green and blue without the alpha."""
        return (self.r, self.g, self.b)

    def with_alpha(self, a: float) -> Colour:
        """The same colour with another alpha."""
        return Colour(self.r, self.g, self.b, a)


def tinted(colour: Colour, tint: float) -> Colour:
    """A colour at a tint: between white (0) and itself (1), in encoded sRGB, as a screen of an ink is proofed."""
    if tint >= 1:
        return colour
    r, g, b = (1 - tint * (1 - v) for v in colour.rgb)
    return Colour(r, g, b, colour.a)


def colour(text: str, alpha: float = 1.0) -> Colour:
    """A colour from ``#rrggbb``."""
    return Colour(*from_hex(text), alpha)


class Grain(msgspec.Struct, frozen=True):
    """Noise fixed to the object: ``amount`` is its standard deviation in lightness (0..1), ``size`` that of a
    grain in user units; ``mono`` varies lightness only. The same ``seed`` gives the same grain."""

    amount: float = 0.06
    size: float = 1.0
    mono: bool = True
    seed: int = 1


class Stop(msgspec.Struct, frozen=True):
    """A colour at ``at`` (0..1). ``middle`` is where, between this stop and the next, the mix is half and half.

    ``grain`` adds to the amount of the paint's grain here; ``swatch`` is the palette's swatch it follows, at a ``tint``
    (1 solid, 0 white) that the colour holds already.
    """

    at: float
    colour: Colour
    middle: float = 0.5
    grain: float = 0.0
    swatch: int | None = None
    tint: float = 1.0


class Solid(msgspec.Struct, frozen=True, tag="solid"):
    """One colour, maybe that of a ``swatch`` (its id) at a ``tint``, maybe with grain."""

    colour: Colour
    swatch: int | None = None
    grain: Grain | None = None
    tint: float = 1.0


class Linear(msgspec.Struct, frozen=True, tag="linear"):
    """Stops along the line from ``start`` to ``end``; outside, ``spread`` continues them."""

    stops: tuple[Stop, ...]
    start: Point
    end: Point
    oklab: bool = True
    spread: Spread = "pad"
    grain: Grain | None = None
    link: int | None = None
    shared: int | None = None


class Radial(msgspec.Struct, frozen=True, tag="radial"):
    """Stops from ``focus`` (a point) to the circle at ``centre``; ``transform`` maps both into the shape."""

    stops: tuple[Stop, ...]
    centre: Point
    radius: float
    focus: Point
    transform: Affine = IDENTITY
    oklab: bool = True
    spread: Spread = "pad"
    grain: Grain | None = None
    link: int | None = None
    shared: int | None = None


class Conic(msgspec.Struct, frozen=True, tag="conic"):
    """Stops around ``centre``, clockwise on the sheet from ``turn`` degrees (0 to the right)."""

    stops: tuple[Stop, ...]
    centre: Point
    turn: float = 0.0
    oklab: bool = True
    grain: Grain | None = None
    link: int | None = None
    shared: int | None = None


class Inward(msgspec.Struct, frozen=True, tag="inward"):
    """Stops from the outline inwards; ``depth`` is how far in the last one lies, 0 for the deepest point."""

    stops: tuple[Stop, ...]
    depth: float = 0.0
    oklab: bool = True
    spread: Spread = "pad"
    grain: Grain | None = None
    link: int | None = None


class Along(msgspec.Struct, frozen=True, tag="along"):
    """Stops along a line from its start to its end, or ``across`` it from one side to the other."""

    stops: tuple[Stop, ...]
    across: bool = False
    oklab: bool = True
    grain: Grain | None = None
    link: int | None = None


class MeshPoint(msgspec.Struct, frozen=True, array_like=True):
    """A point where two lines of a mesh cross.

    ``handles`` are the absolute control points towards the columns before and after and the rows before and
    after. ``slopes`` (du, dv, duv; four numbers each) fix how the colour runs through the point, the same in all
    patches around it (12 numbers) or in each its own (48); None lets it follow from the neighbours. At a ``crease``
    the colour bends.
    """

    at: Point
    handles: tuple[Point, Point, Point, Point]
    colour: Colour
    crease: bool = False
    slopes: tuple[float, ...] | None = None


class MeshPaint(msgspec.Struct, frozen=True, tag="mesh"):
    """A gradient mesh of ``columns`` x ``rows`` patches; points row by row.

    A ``ring`` closes on itself: its last column meets the first, so a row has ``columns`` points, else one more.
    """

    points: tuple[MeshPoint, ...]
    columns: int
    rows: int
    ring: bool = False
    grain: Grain | None = None


class LaidMesh(msgspec.Struct, frozen=True, eq=False):
    """A gradient mesh as arrays, as bodies are laid: only drawing instructions hold one, documents hold a
    ``MeshPaint``. Two are the same only if they are one."""

    mesh: Mesh
    grain: Grain | None = None


class LitFrom(msgspec.Struct, frozen=True, array_like=True):
    """A lamp as a surface sees it: the unit vector towards it (z towards the eye), its strength and colour."""

    x: float
    y: float
    z: float
    strength: float = 1.0
    colour: Colour = Colour(1.0, 1.0, 1.0)


class ReliefPaint(msgspec.Struct, frozen=True):
    """The ``part`` of a relief's light that a drawing instruction lays over the artwork. Lengths in the outline's
    units; ``width`` 0 rises to the deepest place."""

    part: Literal["shade", "light"]
    lights: tuple[LitFrom, ...]
    place: ReliefPlace = "inside"
    profile: ReliefProfile = "round"
    drawn: Ease = EVEN
    sunk: bool = False
    width: float = 10.0
    height: float = 0.8
    soften: float = 0.0
    gloss: float = 0.4
    shininess: float = 24.0
    ambient: float = 0.0
    colour: Colour = Colour(1.0, 1.0, 1.0)


Gradient = Linear | Radial | Conic | Inward | Along
GRADIENTS = (Linear, Radial, Conic, Inward, Along)
Paint = Solid | Linear | Radial | Conic | Inward | Along | MeshPaint
Meshed = MeshPaint | LaidMesh
Coloured = Paint | LaidMesh
Drawn = Coloured | ReliefPaint  # what a drawing instruction may hold: no artist sets a relief's light as a paint


def is_field(paint: Drawn) -> bool:
    """Whether a paint is worked out point by point: no backend draws it as a plain gradient."""
    if isinstance(paint, Solid):
        return paint.grain is not None
    if isinstance(paint, Conic | Inward | Along | Meshed | ReliefPaint) or paint.grain is not None:
        return True
    return any(s.grain > 0 for s in paint.stops)


def mean_colour(colours: Sequence[Colour]) -> Colour:
    """The mean of some colours, channel by channel as they are encoded."""
    r, g, b, a = (sum(v) / len(colours) for v in zip(*((*c.rgb, c.a) for c in colours), strict=True))
    return Colour(r, g, b, a)


def face_colour(paint: Paint) -> Colour | None:
    """The colour that stands for a paint: its own, its middle stop's, or the mean of its points."""
    if isinstance(paint, Solid):
        return paint.colour
    if isinstance(paint, MeshPaint):
        return mean_colour([p.colour for p in paint.points]) if paint.points else None
    return paint.stops[len(paint.stops) // 2].colour if paint.stops else None
