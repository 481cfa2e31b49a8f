"""The cards of light and finish, as data."""

from __future__ import annotations

from typing import get_args

from volumen.app.card_rows import BLEND, JOINS, OPACITY, Auto, CardSpec, Choice, Easing, Number, Special, Switch
from volumen.model.ingredients import (
    Adjust,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Feather,
    GroundGlow,
    Ingredient,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
    Rim,
    Seams,
    Sliver,
    Speckle,
)
from volumen.shading.bodies import BodyKind
from volumen.shading.paint import colour

_DEEP = colour("#0a2b33")
_SIDE = Auto("angle", "side", "follows the lamp", 142.0, Number("angle", "side", 0, 360, "°"))
_BENEATH = Auto("colour", "colour", "from what lies beneath", colour("#1b2226"))

LIGHT_CARDS: dict[type, CardSpec] = {
    Body: CardSpec(
        "Body",
        "eclipse",
        "Light",
        (
            Choice("kind", "form", get_args(BodyKind)),
            Special("materials"),
            Number("strength", "strength", 0, 1, " %", 100, 0, 2),
            Number("roundness", "roundness", 0.02, 1, " %", 100, 0.02, 1),
            Number("bounce", "bounce", 0, 1, " %", 100, 0, 1),
            Number("turn", "turn", -180, 180, "°"),
            Special("fit"),
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
            Choice("by", "made by", ("shift", "scale", "turn", "inset", "outline")),
            Special("other"),
            Number("depth", "depth", 0, 60, "", 1, 0),
            OPACITY,
            Number("feather", "feather", 0, 30, "", 1, 0),
            _SIDE,
            Switch("sunk", "pressed in: on the other side"),
            Auto("colour", "colour", "ink or white", _DEEP),
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
            Choice("fall", "falls on", ("sheet", "ground")),
            Auto("softness", "softness", "from lift and lamp", 8.0, Number("softness", "softness", 0, 60, "", 1, 0)),
            Auto("length", "length", "from lift and lamp", 12.0, Number("length", "length", 0, 120, "", 1, 0)),
            _SIDE,
            _BENEATH,
            Special("receivers"),
            Number("squash", "squash", 0, 1, " %", 100, 0.001),
            BLEND,
        ),
    ),
    ContactShadow: CardSpec(
        "Contact shadow",
        "minus",
        "Light",
        (Number("size", "size", 0, 30, "", 1, 0), OPACITY, Switch("foot", "only under the foot"), _BENEATH, BLEND),
    ),
    InnerShadow: CardSpec(
        "Inner shadow",
        "circle-dot",
        "Light",
        (
            Number("depth", "depth", 0, 60, "", 1, 0),
            OPACITY,
            Auto("softness", "softness", "from depth and lamp", 4.0, Number("softness", "softness", 0, 60, "", 1, 0)),
            _SIDE,
            Auto("colour", "colour", "from the object itself", _DEEP),
            BLEND,
        ),
    ),
    OuterGlow: CardSpec(
        "Outer glow",
        "sparkles",
        "Light",
        (
            Special("glow"),
            Number("size", "size", 0, 120, "", 1, 0),
            Number("spread", "spread", 0, 40, "", 1, 0),
            OPACITY,
            Easing("falloff", "falloff"),
            BLEND,
        ),
    ),
    InnerGlow: CardSpec(
        "Inner glow",
        "sparkle",
        "Light",
        (
            Special("glow"),
            Choice("source", "shines from", ("edge", "middle")),
            Number("size", "size", 0, 80, "", 1, 0),
            OPACITY,
            Easing("falloff", "falloff"),
            BLEND,
        ),
    ),
    GroundGlow: CardSpec(
        "Ground glow",
        "sunset",
        "Light",
        (
            Special("colour"),
            Number("width", "width", 0.2, 4, " %", 100, 0.01),
            Number("height", "height", 0.05, 2, " %", 100, 0.01),
            OPACITY,
            BLEND,
        ),
    ),
    Relief: CardSpec(
        "Relief",
        "pyramid",
        "Light",
        (
            Choice("place", "slope lies", ("inside", "outside", "across")),
            Choice("profile", "profile", ("round", "flat", "hollow", "drawn")),
            Easing("drawn", "drawn"),
            Switch("sunk", "sunk instead of raised"),
            Number("width", "width", 0, 80, "", 1, 0),
            Number("height", "height", 0, 2, " %", 100),
            Number("soften", "soften", 0, 20, "", 1, 0),
            Number("gloss", "gloss", 0, 1, " %", 100, 0),
            Number("shininess", "shininess", 1, 120, "", 1, 0.5),
            Number("light_opacity", "light", 0, 1, " %", 100, 0, 1),
            Special("light"),
            Number("shade_opacity", "shade", 0, 1, " %", 100, 0, 1),
            Special("shade"),
        ),
    ),
}

FINISH_CARDS: dict[type, CardSpec] = {
    Blur: CardSpec(
        "Blur",
        "droplet",
        "Finish",
        (
            Number("size", "size", 0, 60, "", 1, 0),
            Auto("angle", "direction", "all ways", 0.0, Number("angle", "direction", -180, 180, "°")),
        ),
    ),
    Feather: CardSpec("Feathered edge", "feather", "Finish", (Number("size", "size", 0, 40, "", 1, 0),)),
    Speckle: CardSpec(
        "Grain",
        "tally-3",
        "Finish",
        (
            Number("amount", "amount", 0, 0.4, " %", 100, 0),
            Number("size", "size", 0.2, 8, "", 1, 0.05),
            Switch("mono", "one colour only"),
            Number("seed", "seed", 1, 99, "", 1, 0),
            BLEND,
        ),
    ),
    Adjust: CardSpec(
        "Colour shift",
        "contrast",
        "Finish",
        (
            Number("hue", "hue", -180, 180, "°"),
            Number("lightness", "lightness", -1, 1, " %", 100, -1, 1),
            Number("chroma", "chroma", -1, 1, " %", 100, -1),
            Number("contrast", "contrast", -1, 1, " %", 100, -1),
        ),
    ),
    Rim: CardSpec(
        "Rim",
        "circle-dashed",
        "Finish",
        (
            Special("colour"),
            Number("distance", "distance", 0, 60, "", 1),
            Switch("inside", "inside, along the edge"),
            Switch("fill_holes", "fill the holes"),
            JOINS,
            OPACITY,
        ),
    ),
    Seams: CardSpec("Closed seams", "puzzle", "Finish", ()),
}


def light_defaults() -> dict[str, Ingredient]:
    """What the add menu offers of light and finish, by title."""
    warm = colour("#f0ae45")
    return {
        "Body: ball": Body("ball"),
        "Body: tube": Body("tube"),
        "Body: cone": Body("cone"),
        "Body: dish": Body("dish"),
        "Body: cushion": Body("cushion"),
        "Body: slab": Body("slab", roundness=0.4),
        "Body: drop": Body("drop", "glass"),
        "Body: fold": Body("fold", "paper"),
        "Sliver of shade": Sliver("shade"),
        "Sliver of light": Sliver("light", depth=6.0, blend="screen"),
        "Edge light, a hair wide": Sliver("light", depth=1.0, opacity=0.75, blend="screen"),
        "Cast shadow": CastShadow(),
        "Contact shadow": ContactShadow(),
        "Inner shadow": InnerShadow(),
        "Outer glow": OuterGlow(warm),
        "Inner glow": InnerGlow(colour("#ffe9b8")),
        "Ground glow": GroundGlow(warm),
        "Relief": Relief(),
        "Relief over all of it": Relief(width=0.0, height=0.5, soften=1.0),
        "Blur": Blur(),
        "Blur along a line": Blur(8.0, angle=0.0),
        "Feathered edge": Feather(),
        "Grain": Speckle(),
        "Colour shift": Adjust(),
        "Rim": Rim(),
        "Closed seams": Seams(),
    }


def light_summary(i: Ingredient) -> str:
    """The one line of a closed card of light or finish."""
    if isinstance(i, Body):
        return f"{i.kind}, {i.material}"
    if isinstance(i, Sliver):
        return f"{i.kind} {short(i.depth)} · {i.opacity * 100:.0f} %"
    if isinstance(i, CastShadow):
        held = ", held" if i.receivers else ""
        return f"{i.opacity * 100:.0f} %{held}"
    if isinstance(i, InnerShadow):
        return f"{short(i.depth)} deep · {i.opacity * 100:.0f} %"
    if isinstance(i, Relief):
        return f"{'sunk' if i.sunk else 'raised'}, {i.profile}, {short(i.width) if i.width else 'all of it'}"
    if isinstance(i, Adjust):
        return f"hue {i.hue:+.0f}°"
    if isinstance(i, Seams):
        return "no hairlines"
    if isinstance(i, Rim):
        return short(i.distance)
    if isinstance(i, GroundGlow):
        return f"{i.opacity * 100:.0f} %"
    if isinstance(i, Speckle):
        return f"{i.amount * 100:.0f} %"
    return short(getattr(i, "size", 0.0))


def short(v: float) -> str:
    """A number with at most one digit behind the point."""
    return f"{v:.1f}".rstrip("0").rstrip(".")
