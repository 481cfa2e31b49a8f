"""The ingredients that change an outline before anything is painted on it."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.bend import REST, BendKind
from volumen.geometry.engine import Cap, Join
from volumen.geometry.widths import Profile


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


class Halves(msgspec.Struct, frozen=True, tag="halves"):
    """The outline's part on one side of the line through ``centre`` at ``angle`` (90 upright) and its mirror image,
    welded there: a half drawn becomes a whole. ``other`` keeps the side on which less of the outline runs."""

    centre: Point = (0.0, 0.0)
    angle: float = 90.0
    other: bool = False
    on: bool = True


FormChange = Rounding | Offset | Bend | Thickness | Halves
