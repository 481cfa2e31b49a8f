"""Every kind of ingredient, and other ways of some."""

from __future__ import annotations

from typing import get_args

import msgspec

from volumen.model import ingredients as model
from volumen.model.repeats import Course, Grid, Mirror, Ring, Scatter
from volumen.shading.paint import Colour, Conic, Linear, Solid, Stop, colour

AMBER, INK = colour("#f0ae45"), colour("#20242a")
RAMP = Linear((Stop(0.0, AMBER), Stop(1.0, INK)), (34.0, 30.0), (84.0, 92.0))
# Values for fields that have no default, and for defaults that show nothing.
NEEDED = {"paint": RAMP, "colour": colour("#2b8577")}
SHOWN = {
    model.Line: {"width": 4.0}, model.Adjust: {"hue": 70.0, "chroma": 0.3}, model.Fill: {"opacity": 0.5}, model.Rounding: {"radius": 6.0},
    model.Offset: {"distance": -4.0}, model.Blur: {"size": 2.0}, model.Relief: {"width": 6.0}, model.Steps: {"count": 3},
    model.Rim: {"colour": colour("#c8402a"), "distance": 4.0}, model.Bend: {"amount": 0.3}, model.Thickness: {"width": 5.0},
    model.OuterGlow: {"size": 5.0}, model.Sliver: {"depth": 6.0}, model.Block: {"depth": 12.0}, Ring: {"centre": (62.0, 70.0), "count": 5},
    Grid: {"across": 2, "down": 2, "x": -6.0, "y": 4.0, "scale": 0.8, "fade": 0.7}, Mirror: {"centre": (70.0, 62.0), "angle": 60.0},
    model.Halves: {"centre": (62.0, 58.0), "angle": 75.0}, Scatter: {"count": 5, "distance": 14.0, "tint": 60.0, "light": 0.2},
    Course: {"gap": 24.0, "last": 0.7},
}  # fmt: skip
KINDS = get_args(model.Ingredient)
GLOW = (Stop(0.0, AMBER), Stop(1.0, INK))
# Other ways of some: what their defaults leave out.
MORE = {
    "own shadow": model.CastShadow(softness=3.0, length=7.0, angle=120.0), "foot": model.ContactShadow(3.0, foot=True),
    "dashes": model.Line(Solid(INK), 4.0, side="outside", dashes=(9.0, 5.0)),
    "profile": model.Line(Solid(INK), 6.0, profile=((0.0, 0.2, 1.0), (1.0, 1.0, 0.4))),
    "scaled sliver": model.Sliver(by="scale", depth=6.0, feather=1.5), "turned sliver": model.Sliver("light", "turn", 6.0, blend="screen"),
    "band": model.Sliver(by="inset", depth=4.0), "conic": model.Fill(Conic(GLOW, (58.0, 56.0), 20.0), 0.7),
    "many glows": model.OuterGlow(AMBER, 5.0, 2.0, stops=GLOW), "heart": model.InnerGlow(AMBER, 5.0, "middle", stops=GLOW),
    "outer relief": model.Relief("outside", width=5.0, sunk=True), "tube": model.Body("tube", "brass", turn=30.0),
    "clear shadow": model.CastShadow(0.8, colour=Colour(0.5, 0.1, 0.1, 0.5)), "held shadow": model.CastShadow(receivers=(1,)),
    "inner rim": model.Rim(colour("#c8402a"), 4.0, inside=True), "swept": model.Blur(3.0, angle=25.0),
    "part of a ring": Ring((58.0, 76.0), 4, sweep=130.0, upright=True, scale=0.8, spin=20.0, fade=0.6),
    "gaps in a ring": Ring((60.0, 72.0), count=6, gone=(0, 2), outward=1.0), "fitted row": Grid(3, 1, "fit", 60.0, angle=30.0, stagger=0.5),
    "strewn along": Scatter("outline", 4, 10.0, added=((30.0, 30.0),), gone=(0,)),
    "turned along": Course("repeat", bends=False, gap=24.0, last=0.5, flip=True, gone=(1,)),
    "block towards": model.Block(point=(90.0, 10.0), share=0.3, material="brass"),
    "block away": model.Block(9.0, None, above=AMBER, right=INK, edge=1.0, each=True),
    "on the other side": Course("repeat", corners="round", across=3.0, other_side=True, start=0.3, most=2),
}  # fmt: skip
CASES = (*KINDS, *MORE)


def ingredient(kind):
    if kind in MORE:
        return MORE[kind]
    needed = {f.name: NEEDED[f.name] for f in msgspec.structs.fields(kind) if f.required}
    return kind(**{**needed, **SHOWN.get(kind, {})})
