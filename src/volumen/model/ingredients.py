"""Recipe ingredients: frozen values, in the order in which a recipe applies them.

All lengths are user units (1/96 inch), opacities 0..1, angles degrees. Every ingredient can be switched off.
"""

from __future__ import annotations

from typing import Literal, get_args

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.bend import REST, BendKind
from volumen.geometry.ease import EVEN, Ease
from volumen.geometry.engine import Cap, Join
from volumen.geometry.widths import Profile
from volumen.model.points import PathRun
from volumen.shading.bodies import BodyKind
from volumen.shading.paint import Colour, Paint
from volumen.shading.slivers import SliverBy, SliverKind

StepMode = Literal["count", "distance", "smooth"]
LineSide = Literal["inside", "centre", "outside"]
# The sixteen modes of W3C Compositing and Blending Level 1.
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
BLEND_MODES: tuple[str, ...] = get_args(BlendMode)


class Rounding(msgspec.Struct, frozen=True, tag="rounding"):
    """Arcs at corners. ``own`` gives corners, by their number along the path, a radius of their own; with
    ``everywhere`` off only those are rounded."""

    radius: float = 12.0
    everywhere: bool = True
    own: tuple[tuple[int, float], ...] = ()
    on: bool = True


class Offset(msgspec.Struct, frozen=True, tag="offset"):
    """The parallel outline, out or (below zero) in. ``percent`` measures in hundredths of the shorter side."""

    distance: float = 8.0
    percent: bool = False
    join: Join = "round"
    on: bool = True


class Bend(msgspec.Struct, frozen=True, tag="bend"):
    """The outline bent within its box; see ``geometry.bend``."""

    kind: BendKind = "arc"
    amount: float = 0.5
    turn: float = 0.0
    count: float = 2.0
    cage: tuple[Point, ...] = REST
    on: bool = True


class Thickness(msgspec.Struct, frozen=True, tag="thickness"):
    """The line along the outline becomes the outline."""

    width: float = 12.0
    cap: Cap = "round"
    join: Join = "round"
    profile: Profile | None = None
    on: bool = True


class Steps(msgspec.Struct, frozen=True, tag="steps"):
    """Shapes between the members of a group, back to front.

    ``count`` of them, or one every ``distance`` units, or as many as a smooth run of colour needs. ``spacing`` and
    ``colour_spacing`` ease places and colours on the way from one member to the next. A ``spine``, in the group's
    coordinates, carries the steps and with ``turn`` turns them. ``shift`` turns which
    point becomes which, in shares of the outline.
    """

    mode: StepMode = "count"
    count: int = 7
    distance: float = 20.0
    spacing: Ease = EVEN
    colour_spacing: Ease = EVEN
    spine: PathRun | None = None
    turn: bool = False
    shift: float = 0.0
    on: bool = True


class Fill(msgspec.Struct, frozen=True, tag="fill"):
    """A paint over the inside of the outline."""

    paint: Paint
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True


class Line(msgspec.Struct, frozen=True, tag="line"):
    """A painted line along the outline; ``miter`` limits the length of sharp corners, in line widths.

    ``side`` lays it inside, on or outside the outline. ``dashes`` are lengths drawn and left, in turn. A
    ``profile`` varies the width along the line.
    """

    paint: Paint
    width: float = 1.0
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0
    side: LineSide = "centre"
    dashes: tuple[float, ...] = ()
    dash_start: float = 0.0
    profile: Profile | None = None
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


class Rim(msgspec.Struct, frozen=True, tag="rim"):
    """A band of one colour round the whole object or group, behind it; its holes may be filled."""

    colour: Colour = Colour(1.0, 1.0, 1.0)
    distance: float = 10.0
    fill_holes: bool = True
    join: Join = "round"
    opacity: float = 1.0
    on: bool = True


FormChange = Rounding | Offset | Bend | Thickness
Ingredient = FormChange | Steps | Fill | Line | Body | Sliver | CastShadow | OuterGlow | Blur | Rim
Recipe = tuple[Ingredient, ...]

FORM = (Rounding, Offset, Bend, Thickness)
LOOK = (Fill, Line, Body, Sliver)  # what a shape shows on its own outline


def only_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's form changes alone, for another look on the same outline."""
    return tuple(i for i in recipe if isinstance(i, FORM))


def without_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's look, light and finish, for an outline that has its form changes in it already."""
    return tuple(i for i in recipe if not isinstance(i, FORM))
