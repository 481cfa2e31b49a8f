"""What each ingredient's card shows, as data: title, icon, rows, and its one-line summary."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from volumen.app.widgets.colours import HARBOUR
from volumen.colour.srgb import to_hex
from volumen.model.ingredients import (
    BLEND_MODES,
    Bend,
    Blur,
    Body,
    CastShadow,
    Fill,
    Ingredient,
    Line,
    Offset,
    OuterGlow,
    Rim,
    Rounding,
    Sliver,
    Steps,
    Thickness,
)
from volumen.shading.paint import MeshPaint, Solid, colour


@dataclass(frozen=True, slots=True)
class Number:
    """A slider row. The slider spans low..high; typed values may leave it down to hard_low, up to hard_high."""

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
    """Rows with a widget of their own: ``paint``, ``materials``, ``receiver``, ``dashes``, ``profile``."""

    kind: str


Row = Number | Choice | Auto | Switch | Easing | Special

OPACITY = Number("opacity", "opacity", 0, 1, " %", 100, 0, 1)
BLEND = Choice("blend", "blend mode", BLEND_MODES)


@dataclass(frozen=True, slots=True)
class CardSpec:
    title: str
    icon: str
    heading: str
    rows: tuple[Row, ...]


CAPS = Choice("cap", "ends", ("butt", "round", "square"))
JOINS = Choice("join", "corners", ("miter", "round", "bevel"))
CARDS: dict[type, CardSpec] = {
    Rounding: CardSpec(
        "Rounding",
        "squircle",
        "Form",
        (Number("radius", "radius", 0, 80, "", 1, 0), Switch("everywhere", "every corner, not only chosen ones")),
    ),
    Steps: CardSpec(
        "Stepped blend",
        "layers-2",
        "Form",
        (
            Choice("mode", "steps by", ("count", "distance", "smooth")),
            Number("count", "count", 0, 60, "", 1, 0, 500),
            Number("distance", "distance", 1, 100, "", 1, 0.1),
            Easing("spacing", "spacing"),
            Easing("colour_spacing", "colours"),
            Number("shift", "match", -0.5, 0.5, " %", 100, -1, 1),
            Switch("turn", "turn along the spine"),
        ),
    ),
    Offset: CardSpec(
        "Offset",
        "scaling",
        "Form",
        (Number("distance", "distance", -60, 60), Switch("percent", "in % of the shorter side"), JOINS),
    ),
    Bend: CardSpec(
        "Bend",
        "waves",
        "Form",
        (
            Choice("kind", "kind", ("arc", "swell", "ripple", "pinch", "cage")),
            Number("amount", "amount", -1, 1, " %", 100),
            Number("turn", "turn", -180, 180, "°"),
            Number("count", "waves", 0.5, 12, "", 1, 0),
        ),
    ),
    Thickness: CardSpec(
        "Thickness", "minus", "Form", (Number("width", "width", 0, 80, "", 1, 0), CAPS, JOINS, Special("profile"))
    ),
    Fill: CardSpec("Fill", "paint-bucket", "Surface", (Special("paint"), OPACITY, BLEND)),
    Line: CardSpec(
        "Line",
        "slash",
        "Surface",
        (
            Number("width", "width", 0, 40, "", 1, 0),
            Special("paint"),
            CAPS,
            JOINS,
            Choice("side", "lies", ("inside", "centre", "outside")),
            Special("profile"),
            Special("dashes"),
            OPACITY,
            BLEND,
        ),
    ),
    Body: CardSpec(
        "Body",
        "eclipse",
        "Light",
        (
            Choice("kind", "form", ("ball", "tube", "dish")),
            Special("materials"),
            Number("strength", "strength", 0, 1, " %", 100, 0, 2),
            Number("roundness", "roundness", 0.02, 1, " %", 100, 0.02, 1),
            Number("bounce", "bounce", 0, 1, " %", 100, 0, 1),
            Number("turn", "turn", -180, 180, "°"),
            Auto("colour", "colour", "from the fill", colour("#2b8577")),
            OPACITY,
            BLEND,
        ),
    ),
    Sliver: CardSpec(
        "Sliver",
        "moon",
        "Light",
        (
            Choice("kind", "tone", ("shade", "light")),
            Choice("by", "made by", ("shift", "scale", "turn", "inset")),
            Number("depth", "depth", 0, 60, "", 1, 0),
            OPACITY,
            Number("feather", "feather", 0, 30, "", 1, 0),
            Auto("angle", "side", "follows the lamp", 142.0, Number("angle", "side", 0, 360, "°")),
            Auto("colour", "colour", "ink or white", colour("#0a2b33")),
            BLEND,
            Number("min_area", "drop specks", 0, 50, "", 1, 0),
        ),
    ),
    CastShadow: CardSpec(
        "Cast shadow",
        "cloud-fog",
        "Light",
        (
            OPACITY,
            Auto("softness", "softness", "from lift and lamp", 8.0, Number("softness", "softness", 0, 60, "", 1, 0)),
            Auto("colour", "colour", "from what lies beneath", colour("#1b2226")),
            Special("receiver"),
            Number("squash", "squash", 0, 1, " %", 100, 0.001),
            BLEND,
        ),
    ),
    OuterGlow: CardSpec(
        "Outer glow",
        "sparkles",
        "Light",
        (
            Special("colour"),
            Number("size", "size", 0, 120, "", 1, 0),
            Number("spread", "spread", 0, 40, "", 1, 0),
            OPACITY,
            BLEND,
        ),
    ),
    Blur: CardSpec("Blur", "droplet", "Finish", (Number("size", "size", 0, 60, "", 1, 0),)),
    Rim: CardSpec(
        "Rim",
        "circle-dashed",
        "Finish",
        (
            Special("colour"),
            Number("distance", "distance", 0, 60, "", 1),
            Switch("fill_holes", "fill the holes"),
            JOINS,
            OPACITY,
        ),
    ),
}


def defaults() -> dict[str, Ingredient]:
    """What the add menu offers, by title."""
    return {
        "Rounding": Rounding(),
        "Offset": Offset(),
        "Bend": Bend(),
        "Thickness": Thickness(),
        "Fill": Fill(Solid(colour(HARBOUR[1]))),
        "Line": Line(Solid(colour(HARBOUR[-2])), 3.0),
        "Body: ball": Body("ball"),
        "Body: tube": Body("tube"),
        "Body: dish": Body("dish"),
        "Sliver of shade": Sliver("shade"),
        "Sliver of light": Sliver("light", depth=6.0, blend="screen"),
        "Cast shadow": CastShadow(),
        "Outer glow": OuterGlow(colour("#f0ae45")),
        "Blur": Blur(),
        "Rim": Rim(),
    }


def summary(i: Ingredient) -> str:
    """The card's one line when closed."""
    if isinstance(i, Fill | Line):
        kind = (
            to_hex(i.paint.colour.rgb)
            if isinstance(i.paint, Solid)
            else f"mesh, {i.paint.columns} x {i.paint.rows}"
            if isinstance(i.paint, MeshPaint)
            else f"{type(i.paint).__name__.lower()}, {len(i.paint.stops)} stops"
        )
        return kind if isinstance(i, Fill) else f"{_short(i.width)} · {kind}"
    if isinstance(i, Body):
        return f"{i.kind}, {i.material}"
    if isinstance(i, Sliver):
        return f"{i.kind} {_short(i.depth)} · {i.opacity * 100:.0f} %"
    if isinstance(i, CastShadow):
        held = ", held" if i.receiver is not None else ""
        return f"{i.opacity * 100:.0f} %{held}"
    if isinstance(i, Offset):
        return f"{_short(i.distance)}{' %' if i.percent else ''}"
    if isinstance(i, Bend):
        return i.kind if i.kind == "cage" else f"{i.kind} {i.amount * 100:.0f} %"
    if isinstance(i, Rounding):
        return _short(i.radius) if i.everywhere else f"{len(i.own)} chosen"
    if isinstance(i, Thickness):
        return _short(i.width)
    if isinstance(i, Rim):
        return _short(i.distance)
    if isinstance(i, Steps):
        return f"{i.count} steps" if i.mode == "count" else i.mode
    return _short(i.size)


def _short(v: float) -> str:
    return f"{v:.1f}".rstrip("0").rstrip(".")
