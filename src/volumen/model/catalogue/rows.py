"""What a row of the catalogue holds: one row registers an ingredient, or a form, everywhere.

A row says how a thing is called and shown, in which part of a recipe it stands, which of its numbers are lengths,
which refer to other nodes, what lamps change of it and what freezing makes of it. Menus, command list, toolbox, cards,
drawing, scaling, copying and freezing read it. How it is drawn is registered beside the drawing (``compose.drawing``).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple

from volumen.model.ingredients import BLEND_MODES, Ingredient
from volumen.shading.paint import Colour

# -- controls of a card


@dataclass(frozen=True, slots=True)
class Number:
    """A slider. It spans low..high (shown times ``factor``); typed values may leave it down to hard_low, up to
    hard_high."""

    field: str
    label: str
    low: float
    high: float
    unit: str = ""
    factor: float = 1.0
    hard_low: float = -math.inf
    hard_high: float = math.inf


@dataclass(frozen=True, slots=True)
class Choice:
    """One of some words."""

    field: str
    label: str
    options: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Auto:
    """A colour or number that may be left to the light (None), or be one's own."""

    field: str
    label: str
    auto: str
    own: Any
    number: Number | None = None


@dataclass(frozen=True, slots=True)
class Switch:
    """Something that is so or not."""

    field: str
    label: str


@dataclass(frozen=True, slots=True)
class Easing:
    """A curve of how far a run has come, drawn by its two handles."""

    field: str
    label: str


@dataclass(frozen=True, slots=True)
class Special:
    """A control with a widget of its own: ``paint``, ``materials``, ``receivers``, ``other``, ``dashes``, ``profile``,
    ``colour``, ``light``, ``shade``, ``glow``, ``fit``, ``centre``, ``radius``, ``step angle``,
    ``towards``, ``omitted``."""

    kind: str


Control = Number | Choice | Auto | Switch | Easing | Special

OPACITY = Number("opacity", "opacity", 0, 1, " %", 100, 0, 1)
BLEND = Choice("blend", "blend mode", BLEND_MODES)
JOINS = Choice("join", "corners", ("miter", "round", "bevel"))
BROKEN = (
    Number("broken", "left out", 0, 1, " %", 100, 0, 1),
    Number("seed", "seed", 1, 99, "", 1, 0),
    Special("omitted"),
)
CAPS = Choice("cap", "ends", ("butt", "round", "square"))

# -- rows

Heading = Literal["Repeat", "Form", "Surface", "Light", "Finish"]
HEADINGS: tuple[Heading, ...] = ("Repeat", "Form", "Surface", "Light", "Finish")
# Where it acts, back to front: on the outline; on what a group shows; behind the outline; as a rim behind it;
# as a paint of it; over its paints; on all that is shown.
Place = Literal["form", "repeat", "behind", "rim", "paint", "over", "finish"]
Part = Literal["form", "paint", "line", "light", "finish"]
Holder = Literal["shape", "group", "image"]


class Spot(NamedTuple):
    """A place in the toolbox: the stage, where in its order, and whether it is folded away until asked for."""

    stage: Literal["DRAW", "CARVE", "COLOUR", "LIGHT"]
    at: int
    folded: bool = False


@dataclass(frozen=True, slots=True)
class Offer:
    """An ingredient as the add menu offers it. With an ``id`` it is a command as well, found by its title and other
    ``words``; ``short`` is its title in the toolbox."""

    title: str
    ingredient: Ingredient
    id: str = ""
    keys: str = ""
    words: str = ""
    short: str = ""
    icon: str = ""
    spots: tuple[Spot, ...] = ()


def never(_: Any) -> bool:
    """For questions whose answer is no for all of a kind."""
    return False


def always(_: Any) -> bool:
    """For questions whose answer is yes for all of a kind."""
    return True


@dataclass(frozen=True, slots=True)
class IngredientRow:
    """All that the program knows of a kind of ingredient beside its fields and its drawing.

    ``summary`` is the one line of its closed card, ``face`` the colour shown there. ``lengths`` and ``areas`` are
    fields in units of length, and of their square. ``refers`` is the field with the ids of other nodes. ``lit`` says
    whether lamps change what it shows, ``beneath`` whether its automatic colour comes from what lies beneath.
    Freezing makes ``made`` of it (in words), or leaves it as an ingredient among the ``stays``; ``plain``
    says whether it needs no freezing.
    """

    kind: type
    title: str
    icon: str
    heading: Heading
    place: Place
    controls: tuple[Control, ...]
    offers: tuple[Offer, ...]
    summary: Callable[[Any], str]
    part: Part = "light"
    face: Callable[[Any], Colour] | None = None
    lengths: tuple[str, ...] = ()
    areas: tuple[str, ...] = ()
    refers: str = ""
    lit: Callable[[Any], bool] = never
    beneath: bool = False
    made: str = ""
    stays: str = ""
    plain: Callable[[Any], bool] = never
    holders: tuple[Holder, ...] = ("shape", "group", "image")
    placed: Callable[[Any], Place] | None = None  # where the place depends on its fields


@dataclass(frozen=True, slots=True)
class FormRow:
    """All that the program knows of a kind of form beside its fields and its outline."""

    kind: type
    title: str
    controls: tuple[Number | Choice | Switch, ...] = ()
    lengths: tuple[str, ...] = ()
    made: str = ""  # what freezing makes of it, if it is told


def short(v: float) -> str:
    """A number with at most one digit behind the point."""
    return f"{v:.1f}".rstrip("0").rstrip(".")


def share(v: float) -> str:
    """A share in hundredths."""
    return f"{v * 100:.0f} %"
