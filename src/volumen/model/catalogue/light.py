"""The rows of light."""

from __future__ import annotations

from typing import get_args

from volumen.model.catalogue.rows import (
    BLEND,
    OPACITY,
    Auto,
    Choice,
    Easing,
    IngredientRow,
    Number,
    Offer,
    Special,
    Spot,
    Switch,
    always,
    share,
    short,
)
from volumen.model.ingredients import (
    Body,
    CastShadow,
    ContactShadow,
    GroundGlow,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
    Sliver,
)
from volumen.shading.bodies import BodyKind
from volumen.shading.paint import Colour, colour

WARM, PALE = colour("#f0ae45"), colour("#ffe9b8")
_DEEP = colour("#0a2b33")
_SIDE = Auto("angle", "side", "follows the lamp", 142.0, Number("angle", "side", 0, 360, "°"))
_BENEATH = Auto("colour", "colour", "from what lies beneath", colour("#1b2226"))


def glow_face(i: OuterGlow | InnerGlow) -> Colour:
    """The colour that stands for a glow."""
    return i.stops[0].colour if i.stops else i.colour


LIGHT: tuple[IngredientRow, ...] = (
    IngredientRow(
        Body,
        "Body",
        "eclipse",
        "Light",
        "paint",
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
        (
            Offer(
                "Body: ball",
                Body("ball"),
                "body",
                keys="B",
                words="volume sphere",
                short="Body",
                spots=(Spot("LIGHT", 20),),
            ),
            Offer("Body: tube", Body("tube")),
            Offer("Body: cone", Body("cone")),
            Offer("Body: dish", Body("dish")),
            Offer("Body: cushion", Body("cushion")),
            Offer("Body: slab", Body("slab", roundness=0.4)),
            Offer("Body: drop", Body("drop", "glass")),
            Offer("Body: fold", Body("fold", "paper")),
        ),
        lambda i: f"{i.kind}, {i.material}",
        lit=always,
        made="gradients",
    ),
    IngredientRow(
        Sliver,
        "Sliver",
        "moon",
        "Light",
        "over",
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
        (
            Offer("Sliver of shade", Sliver("shade"), "sliver", keys="S", short="Sliver", spots=(Spot("LIGHT", 30),)),
            Offer("Sliver of light", Sliver("light", depth=6.0, blend="screen"), "light", keys="Shift+S"),
            Offer(
                "Edge light, a hair wide",
                Sliver("light", depth=1.0, opacity=0.75, blend="screen"),
                "edge_light",
                short="Edge light",
                icon="sunrise",
                spots=(Spot("LIGHT", 90, True),),
            ),
        ),
        lambda i: f"{i.kind} {short(i.depth)} · {share(i.opacity)}",
        lengths=("depth", "feather"),
        areas=("min_area",),
        refers="other",
        lit=lambda i: i.angle is None and i.by not in ("inset", "outline"),
        made="slivers",
    ),
    IngredientRow(
        CastShadow,
        "Cast shadow",
        "cloud-fog",
        "Light",
        "behind",
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
        (
            Offer(
                "Cast shadow",
                CastShadow(),
                "shadow",
                keys="D",
                words="drop shadow",
                short="Shadow",
                spots=(Spot("LIGHT", 50),),
            ),
        ),
        lambda i: f"{share(i.opacity)}{', held' if i.receivers else ''}",
        lengths=("softness", "length"),
        refers="receivers",
        lit=always,
        beneath=True,
        made="shadows",
    ),
    IngredientRow(
        ContactShadow,
        "Contact shadow",
        "minus",
        "Light",
        "behind",
        (Number("size", "size", 0, 30, "", 1, 0), OPACITY, Switch("foot", "only under the foot"), _BENEATH, BLEND),
        (
            Offer(
                "Contact shadow", ContactShadow(), "contact", short="Contact shadow", spots=(Spot("LIGHT", 100, True),)
            ),
        ),
        lambda i: short(i.size),
        lengths=("size",),
        lit=always,
        beneath=True,
        made="shadows",
    ),
    IngredientRow(
        InnerShadow,
        "Inner shadow",
        "circle-dot",
        "Light",
        "over",
        (
            Number("depth", "depth", 0, 60, "", 1, 0),
            OPACITY,
            Auto("softness", "softness", "from depth and lamp", 4.0, Number("softness", "softness", 0, 60, "", 1, 0)),
            _SIDE,
            Auto("colour", "colour", "from the object itself", _DEEP),
            BLEND,
        ),
        (
            Offer(
                "Inner shadow", InnerShadow(), "inner_shadow", short="Inner shadow", spots=(Spot("LIGHT", 110, True),)
            ),
        ),
        lambda i: f"{short(i.depth)} deep · {share(i.opacity)}",
        lengths=("depth", "softness"),
        lit=always,
        made="shadows",
    ),
    IngredientRow(
        OuterGlow,
        "Outer glow",
        "sparkles",
        "Light",
        "behind",
        (
            Special("glow"),
            Number("size", "size", 0, 120, "", 1, 0),
            Number("spread", "spread", 0, 40, "", 1, 0),
            OPACITY,
            Easing("falloff", "falloff"),
            BLEND,
        ),
        (
            Offer(
                "Outer glow",
                OuterGlow(WARM),
                "glow",
                keys="W",
                words="halo shine",
                short="Glow",
                spots=(Spot("LIGHT", 60),),
            ),
        ),
        lambda i: short(i.size),
        face=glow_face,
        lengths=("size", "spread"),
        made="glows",
        stays="glows of several colours",
    ),
    IngredientRow(
        InnerGlow,
        "Inner glow",
        "sparkle",
        "Light",
        "over",
        (
            Special("glow"),
            Choice("source", "shines from", ("edge", "middle")),
            Number("size", "size", 0, 80, "", 1, 0),
            OPACITY,
            Easing("falloff", "falloff"),
            BLEND,
        ),
        (Offer("Inner glow", InnerGlow(PALE), "inner_glow", short="Inner glow", spots=(Spot("LIGHT", 120, True),)),),
        lambda i: short(i.size),
        face=glow_face,
        lengths=("size",),
        stays="inner glows",
        plain=True,
    ),
    IngredientRow(
        GroundGlow,
        "Ground glow",
        "sunset",
        "Light",
        "behind",
        (
            Special("colour"),
            Number("width", "width", 0.2, 4, " %", 100, 0.01),
            Number("height", "height", 0.05, 2, " %", 100, 0.01),
            OPACITY,
            BLEND,
        ),
        (
            Offer(
                "Ground glow", GroundGlow(WARM), "ground_glow", short="Ground glow", spots=(Spot("LIGHT", 130, True),)
            ),
        ),
        lambda i: share(i.opacity),
        face=lambda i: i.colour,
        made="glows",
    ),
    IngredientRow(
        Relief,
        "Relief",
        "pyramid",
        "Light",
        "over",
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
        (
            Offer("Relief", Relief(), "relief", words="bevel emboss", short="Relief", spots=(Spot("LIGHT", 40),)),
            Offer("Relief over all of it", Relief(width=0.0, height=0.5, soften=1.0)),
        ),
        lambda i: f"{'sunk' if i.sunk else 'raised'}, {i.profile}, {short(i.width) if i.width else 'all of it'}",
        lengths=("width", "soften"),
        lit=lambda i: i.lights is None,
        stays="reliefs",
        plain=True,
    ),
)
