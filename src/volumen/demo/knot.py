"""The rope knot mark: three linked parts that seem to fold over one another, dark where each dips under the next."""

from __future__ import annotations

import math

import msgspec

from volumen.geometry.affine import rotation
from volumen.geometry.boolean import boolean
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse, polygon
from volumen.geometry.rounding import round_corners
from volumen.library import (
    CastShadow,
    Document,
    Fill,
    Group,
    Lamp,
    Line,
    Linear,
    Node,
    Pile,
    RectangleForm,
    SavedGradient,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Steps,
    Stop,
    TextForm,
    circle,
    colour,
    meant_so,
    radial,
    solid,
)
from volumen.outline.forms import path_form as outline_form

SIDE = 800.0
X, Y = 400.0, 356.0  # the exact centre that the parts turn about
REACH, ROUND = 372.0, 150.0  # of the triangle, and of its corners
AWAY, ARC = 132.0, 232.0  # of the three circles: how far from the centre, and their radius
HEMP = (Stop(0.0, colour("#ffe9b6"), 0.4), Stop(0.46, colour("#e0a450"), 0.5), Stop(1.0, colour("#4a220f")))

_GLINT = Sliver("light", "shift", 4.0, opacity=0.5, blend="screen")
_EDGE = Sliver("shade", "shift", 5.0, opacity=0.3)


def knot() -> Document:
    p = Pile()
    first = Shape(
        p.take(),
        "part 1",
        outline_form(_part()),
        (Fill(Linear(HEMP, *_across(), link=1)), _GLINT, _EDGE),
        (_strands(p),),
        link=1,
    )
    parts = [first]
    for k in (1, 2):
        turned = msgspec.structs.replace(first, id=p.take(), name=f"part {k + 1}", transform=rotation(120 * k, (X, Y)))
        parts.append(msgspec.structs.replace(turned, children=(_strands(p),)))
    nodes: tuple[Node, ...] = (
        p.shape("ground", RectangleForm(0, 0, SIDE, SIDE), Fill(radial((X, Y), 560, (0, "#1d5961"), (1, "#0d2f3a"))), locked=True),
        p.group("knot", *parts, recipe=(CastShadow(0.55, softness=9.0),), lift=16.0),
        *_words(p),
    )  # fmt: skip
    document = p.document(Sheet(SIDE, SIDE, colour("#0d2f3a")), Lamp(322, 46, 1.0, 0.3), *nodes)
    palette = msgspec.structs.replace(document.palette, gradients=(SavedGradient(1, "hemp", HEMP),), next_id=2)
    document = meant_so(document, ("part 3", "gradient"))  # dark where it dips under the next
    return msgspec.structs.replace(document, palette=palette)


def _disc(turn: float) -> Path:
    """One of the three circles, turned about the centre."""
    a = math.radians(turn)
    return ellipse(X + AWAY * math.cos(a), Y + AWAY * math.sin(a), ARC, ARC)


def _part() -> Path:
    """What a circle takes of the triangle, without what the next circle covers."""
    triangle = round_corners(polygon(X, Y, REACH, REACH, 3), ROUND)
    return boolean(boolean(triangle, _disc(-90), "intersect"), _disc(30), "subtract")


def _across() -> tuple[tuple[float, float], tuple[float, float]]:
    """From the free edge of a part to where it dips under the next."""
    return (X - 190, Y - 40), (X + 118, Y - 160)


def _strands(p: Pile) -> Group:
    """Lines between the edge of a part and the next one's, as a stepped blend held inside it."""
    edges = []
    for turn in (-84.0, -26.0):
        a = math.radians(turn)
        form = circle(X + AWAY * math.cos(a), Y + AWAY * math.sin(a), ARC)
        edges.append(p.shape(f"strand at {turn:.0f}", form, Line(Solid(colour("#3b1a0c")), 2.6, opacity=0.36)))
    return p.group("strands", *edges, recipe=(Steps(count=4),))


def _words(p: Pile) -> tuple[Shape, ...]:
    return (
        p.shape("name", TextForm("ROPEWALK", "Bebas Neue", "Regular", 84, X, 716, 0.16, align="centre"), solid("#f4ead2")),
        p.shape("place", TextForm("HARBOUR MUSEUM OF KELDER SOUND", "Bebas Neue", "Regular", 23, X, 757, 0.26, align="centre"), solid("#e0a450")),
    )  # fmt: skip
