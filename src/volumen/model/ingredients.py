"""Recipe ingredients: frozen values, in the order in which a recipe applies them.

All lengths are user units (1/96 inch), opacities 0..1, angles degrees. Every ingredient can be switched off.
"""

from __future__ import annotations

from typing import Literal, get_args

import msgspec

from volumen.geometry.engine import Cap, Join
from volumen.shading.bodies import BodyKind
from volumen.shading.paint import Colour, Paint
from volumen.shading.slivers import SliverBy, SliverKind

# The sixteen modes of W3C Compositing and Blending Level 1.
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
BLEND_MODES: tuple[str, ...] = get_args(BlendMode)


class Fill(msgspec.Struct, frozen=True, tag="fill"):
    """A paint over the inside of the outline."""

    paint: Paint
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True


class Line(msgspec.Struct, frozen=True, tag="line"):
    """A painted line along the outline; ``miter`` limits the length of sharp corners, in line widths."""

    paint: Paint
    width: float = 1.0
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True


class Body(msgspec.Struct, frozen=True, tag="body"):
    """A form under the lamp. ``colour`` None takes the topmost plain colour among the shape's own fills."""

    kind: BodyKind = "ball"
    material: str = "enamel"
    colour: Colour | None = None
    strength: float = 1.0
    roundness: float = 1.0
    bounce: float = 0.4
    turn: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True


class Sliver(msgspec.Struct, frozen=True, tag="sliver"):
    """What the outline leaves beside a moved copy of itself.

    ``angle`` None follows the lamp; otherwise it is the bearing of the side that the sliver lies on.
    ``colour`` None takes ink for shade and white for light.
    """

    kind: SliverKind = "shade"
    by: SliverBy = "shift"
    depth: float = 8.0
    angle: float | None = None
    colour: Colour | None = None
    opacity: float = 0.35
    blend: BlendMode = "multiply"
    feather: float = 0.0
    min_area: float = 0.5
    on: bool = True


class CastShadow(msgspec.Struct, frozen=True, tag="cast shadow"):
    """The shadow that follows from lift and lamp.

    ``colour`` None derives it from what lies beneath. ``softness`` None derives the blur from lift and lamp
    size. ``squash`` flattens the shadow towards its foot, for standing things (1 leaves it, 0.2 is a ground
    shadow). ``receiver`` holds the shadow inside one object's outline.
    """

    opacity: float = 0.6
    colour: Colour | None = None
    softness: float | None = None
    squash: float = 1.0
    receiver: int | None = None
    blend: BlendMode = "multiply"
    on: bool = True


class OuterGlow(msgspec.Struct, frozen=True, tag="outer glow"):
    """Light around the outline; ``size`` is the blur's standard deviation, ``spread`` grows the outline first."""

    colour: Colour
    size: float = 16.0
    spread: float = 0.0
    opacity: float = 0.8
    blend: BlendMode = "screen"
    on: bool = True


class Blur(msgspec.Struct, frozen=True, tag="blur"):
    """Softens the whole object; ``size`` is the standard deviation."""

    size: float = 4.0
    on: bool = True


Ingredient = Fill | Line | Body | Sliver | CastShadow | OuterGlow | Blur
Recipe = tuple[Ingredient, ...]

SURFACE = (Fill, Line)
LIGHT = (Body, Sliver, CastShadow, OuterGlow)
FINISH = (Blur,)
