"""Recipe ingredients: frozen values, in the order in which a recipe applies them.

All lengths are user units (1/96 inch), opacities 0..1, angles degrees. Every ingredient can be switched off.
"""

from __future__ import annotations

from typing import Literal, get_args

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.ease import EVEN, Ease
from volumen.geometry.engine import Cap, Join
from volumen.geometry.widths import Profile
from volumen.model.block import Block as Block
from volumen.model.form_changes import Bend as Bend
from volumen.model.form_changes import FormChange as FormChange
from volumen.model.form_changes import Halves as Halves
from volumen.model.form_changes import Offset as Offset
from volumen.model.form_changes import Rounding as Rounding
from volumen.model.form_changes import Thickness as Thickness
from volumen.model.points import PathRun
from volumen.model.repeats import REPEATS, Repeat
from volumen.shading.lamp import Lights
from volumen.shading.paint import Colour, Paint, ReliefPlace, ReliefProfile, Stop
from volumen.shading.plain_bodies import BodyKind
from volumen.shading.slivers import SliverBy, SliverKind

# The sixteen modes of W3C Compositing and Blending Level 1.
BlendMode = Literal[
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
]  # fmt: skip
BLEND_MODES: tuple[str, ...] = get_args(BlendMode)
GlowFrom = Literal["edge", "middle"]
ShadowFall = Literal["sheet", "ground"]


StepMode = Literal["count", "distance", "smooth"]
LineSide = Literal["inside", "centre", "outside"]


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
    """A paint over the inside of the outline. ``face`` is the colour that it has for shadows that fall on it; None
    takes it from the paint."""

    paint: Paint
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True
    face: Colour | None = None


class Line(msgspec.Struct, frozen=True, tag="line"):
    """A painted line along the outline; ``miter`` limits the length of sharp corners, in line widths.

    ``side`` lays it inside, on or outside the outline. ``dashes`` are lengths drawn and left, in turn. A
    ``profile`` varies the width along the line.

    A ``broken`` share of its dashes is left out by lot (``seed``), or of its segments where it has no dashes; and the
    segments nearest to ``omitted`` places, in the object's coordinates.
    """

    paint: Paint
    width: float = 1.0
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0
    side: LineSide = "centre"
    dashes: tuple[float, ...] = ()
    dash_start: float = 0.0
    broken: float = 0.0
    seed: int = 1
    omitted: tuple[Point, ...] = ()
    profile: Profile | None = None
    opacity: float = 1.0
    blend: BlendMode = "normal"
    on: bool = True


# -- light and finish


class Body(msgspec.Struct, frozen=True, tag="body"):
    """A form under the lamp. ``colour`` None takes the topmost plain colour among the shape's own fills.
    ``mesh`` lays a ball or a dish as a mesh of its surface: nearer to it than any gradient, but pixels in SVG.
    ``along`` lays a tube along the object's line and not over its inside, as it is laid on open lines anyway."""

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
    each: bool = False
    mesh: bool = False
    along: bool = False


class Sliver(msgspec.Struct, frozen=True, tag="sliver"):
    """What the outline leaves beside a moved copy of itself, or beside the outline of another shape (``other``).

    ``sunk`` lays it on the opposite side, as on something pressed in. ``colour`` None takes ink for shade and white
    for light.
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
    sunk: bool = False
    other: int | None = None
    each: bool = False


class CastShadow(msgspec.Struct, frozen=True, tag="cast shadow"):
    """The shadow that follows from lift and lamp.

    ``colour`` None derives it from what lies beneath. ``softness`` None derives the blur from lift and lamp
    size, ``length`` None the distance from lift and lamp. A shadow that falls on the ``ground`` lies stretched out
    from the foot of a standing thing. ``squash`` flattens it towards its foot (1 leaves it). ``receivers`` hold the
    shadow inside the outlines of some objects; where these overlap it falls on the foremost.
    """

    opacity: float = 0.6
    colour: Colour | None = None
    softness: float | None = None
    squash: float = 1.0
    receivers: tuple[int, ...] = ()
    blend: BlendMode = "multiply"
    on: bool = True
    angle: float | None = None
    length: float | None = None
    fall: ShadowFall = "sheet"
    each: bool = False


class ContactShadow(msgspec.Struct, frozen=True, tag="contact shadow"):
    """The narrow dark seam where a thing touches what it lies on; ``foot`` keeps it under a standing thing."""

    size: float = 3.0
    foot: bool = False
    colour: Colour | None = None
    opacity: float = 0.6
    blend: BlendMode = "multiply"
    on: bool = True
    each: bool = False


class Occlusion(msgspec.Struct, frozen=True, tag="occlusion"):
    """The soft darkening where a thing stands close over or beside others and keeps light from all round away.

    ``reach`` is how high it stands; None takes its lift. ``colour`` None derives it from what lies beneath.
    """

    reach: float | None = None
    colour: Colour | None = None
    opacity: float = 0.8
    blend: BlendMode = "multiply"
    on: bool = True
    each: bool = False


class InnerShadow(msgspec.Struct, frozen=True, tag="inner shadow"):
    """The shadow that the rim throws into something sunk by ``depth``; softness and length from the lamp."""

    depth: float = 8.0
    softness: float | None = None
    angle: float | None = None
    colour: Colour | None = None
    opacity: float = 0.5
    blend: BlendMode = "multiply"
    on: bool = True
    each: bool = False


class OuterGlow(msgspec.Struct, frozen=True, tag="outer glow"):
    """Light around the outline; ``size`` is the blur's standard deviation, ``spread`` grows the outline first.

    ``falloff`` says how the light fades from the edge outwards; ``stops``, if there are any, are its colours from the
    edge (0) to where it ends (1), in place of ``colour``.
    """

    colour: Colour
    size: float = 16.0
    spread: float = 0.0
    opacity: float = 0.8
    blend: BlendMode = "screen"
    on: bool = True
    falloff: Ease = EVEN
    stops: tuple[Stop, ...] = ()
    each: bool = False


class InnerGlow(msgspec.Struct, frozen=True, tag="inner glow"):
    """Light inside the outline, from its edge inwards or from its middle outwards; ``stops`` as in an outer glow."""

    colour: Colour
    size: float = 10.0
    source: GlowFrom = "edge"
    opacity: float = 0.7
    blend: BlendMode = "screen"
    falloff: Ease = EVEN
    stops: tuple[Stop, ...] = ()
    on: bool = True
    each: bool = False


class GroundGlow(msgspec.Struct, frozen=True, tag="ground glow"):
    """A pool of light on the ground below; ``width`` and ``height`` are shares of the object's own width."""

    colour: Colour
    width: float = 1.6
    height: float = 0.35
    opacity: float = 0.6
    blend: BlendMode = "screen"
    on: bool = True


class Relief(msgspec.Struct, frozen=True, tag="relief"):
    """The outline as a raised or sunk edge of ``width`` (0: all of it rises to its deepest place), lit by the lamps.

    ``height`` is how high it rises, in widths. ``shininess`` is the exponent of its highlights, ``gloss`` their
    strength. A frozen one keeps the ``lights`` that it was frozen under; None follows those around it.
    """

    place: ReliefPlace = "inside"
    profile: ReliefProfile = "round"
    drawn: Ease = EVEN
    sunk: bool = False
    width: float = 10.0
    height: float = 0.8
    soften: float = 0.0
    gloss: float = 0.4
    shininess: float = 24.0
    light: Colour = Colour(1.0, 1.0, 1.0)
    shade: Colour = Colour(0.05, 0.09, 0.12)
    light_opacity: float = 0.7
    shade_opacity: float = 0.6
    on: bool = True
    each: bool = False
    lights: Lights | None = None


class Blur(msgspec.Struct, frozen=True, tag="blur"):
    """Softens the whole object; ``size`` is the standard deviation. With an ``angle`` only along that direction."""

    size: float = 4.0
    on: bool = True
    angle: float | None = None
    each: bool = False


class Feather(msgspec.Struct, frozen=True, tag="feather"):
    """The object fades out towards its edge over about twice ``size``."""

    size: float = 6.0
    on: bool = True
    each: bool = False


class Speckle(msgspec.Struct, frozen=True, tag="grain"):
    """Grain over everything the object shows, fixed to it; see ``shading.paint.Grain``."""

    amount: float = 0.08
    size: float = 1.2
    mono: bool = True
    seed: int = 1
    blend: BlendMode = "overlay"
    on: bool = True
    each: bool = False


class Adjust(msgspec.Struct, frozen=True, tag="adjust"):
    """All colours of the object turned by ``hue`` degrees, lighter, of more chroma or contrast (each -1..1)."""

    hue: float = 0.0
    lightness: float = 0.0
    chroma: float = 0.0
    contrast: float = 0.0
    on: bool = True


class Rim(msgspec.Struct, frozen=True, tag="rim"):
    """A band of one colour round the whole object or group, behind it, or ``inside`` along its edge; its holes may
    be filled."""

    colour: Colour = Colour(1.0, 1.0, 1.0)
    distance: float = 10.0
    fill_holes: bool = True
    join: Join = "round"
    opacity: float = 1.0
    on: bool = True
    inside: bool = False


class Seams(msgspec.Struct, frozen=True, tag="seams"):
    """Closes the hairlines between shapes of a group that share an edge, here and in every export."""

    on: bool = True


LightIngredient = (
    Body
    | Block
    | Sliver
    | CastShadow
    | ContactShadow
    | Occlusion
    | InnerShadow
    | OuterGlow
    | InnerGlow
    | GroundGlow
    | Relief
)
FinishIngredient = Blur | Feather | Speckle | Adjust | Rim | Seams
Ingredient = FormChange | Steps | Repeat | Fill | Line | LightIngredient | FinishIngredient
Recipe = tuple[Ingredient, ...]

FORM = (Rounding, Offset, Bend, Thickness, Halves)
REPEATING = (Steps, *REPEATS)  # what shows more than a group holds
LOOK = (Fill, Line, Body, Sliver, InnerShadow, InnerGlow, Relief)  # what a shape shows on its own outline


def only_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's form changes alone, for another look on the same outline."""
    return tuple(i for i in recipe if isinstance(i, FORM))


def without_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's look, light and finish, for an outline that has its form changes in it already."""
    return tuple(i for i in recipe if not isinstance(i, FORM))
