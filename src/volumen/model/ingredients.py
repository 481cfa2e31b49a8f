"""Recipe ingredients: frozen values, in the order in which a recipe applies them.

All lengths are user units (1/96 inch), opacities 0..1, angles degrees. Every ingredient can be switched off.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.bend import REST, BendKind
from volumen.geometry.ease import EVEN, Ease
from volumen.geometry.engine import Cap, Join
from volumen.geometry.widths import Profile
from volumen.model.effects import (
    BLEND_MODES,
    Adjust,
    BlendMode,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Feather,
    FinishIngredient,
    GroundGlow,
    InnerGlow,
    InnerShadow,
    LightIngredient,
    OuterGlow,
    Relief,
    Rim,
    Seams,
    Sliver,
    Speckle,
)
from volumen.model.points import PathRun
from volumen.shading.paint import Colour, Paint

StepMode = Literal["count", "distance", "smooth"]
LineSide = Literal["inside", "centre", "outside"]


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


FormChange = Rounding | Offset | Bend | Thickness
Ingredient = FormChange | Steps | Fill | Line | LightIngredient | FinishIngredient
Recipe = tuple[Ingredient, ...]

FORM = (Rounding, Offset, Bend, Thickness)
LOOK = (Fill, Line, Body, Sliver, InnerShadow, InnerGlow, Relief)  # what a shape shows on its own outline


def only_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's form changes alone, for another look on the same outline."""
    return tuple(i for i in recipe if isinstance(i, FORM))


def without_form_changes(recipe: Recipe) -> Recipe:
    """A recipe's look, light and finish, for an outline that has its form changes in it already."""
    return tuple(i for i in recipe if not isinstance(i, FORM))


__all__ = [
    "BLEND_MODES", "FORM", "LOOK", "Adjust", "Bend", "BlendMode", "Blur", "Body", "CastShadow", "ContactShadow",
    "Feather", "Fill", "FinishIngredient", "FormChange", "GroundGlow", "Ingredient", "InnerGlow", "InnerShadow",
    "LightIngredient", "Line", "LineSide", "Offset", "OuterGlow", "Recipe", "Relief", "Rim", "Rounding", "Seams",
    "Sliver", "Speckle", "StepMode", "Steps", "Thickness", "only_form_changes", "without_form_changes",
]  # fmt: skip
