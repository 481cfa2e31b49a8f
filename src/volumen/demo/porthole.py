"""The porthole clock: brass rim, enamel dial, striped hanging straps."""

from __future__ import annotations

import math

from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.geometry.boolean import boolean
from volumen.geometry.primitives import ellipse
from volumen.library import (
    Bend,
    Body,
    CastShadow,
    Conic,
    ContactShadow,
    Document,
    Fill,
    InnerGlow,
    InnerShadow,
    Lamp,
    Mirror,
    Node,
    OuterGlow,
    PathForm,
    Pile,
    RectangleForm,
    Relief,
    Ring,
    Seams,
    Sheet,
    Sliver,
    Speckle,
    Stop,
    TextForm,
    circle,
    colour,
    corner,
    linear,
    meant_so,
    path_form,
    radial,
    solid,
)
from volumen.outline.forms import path_form as path_of

SIDE = 800.0
X, Y = 400.0, 438.0
BRASS = ("#6e4617", "#f7e2a8", "#b97f2d", "#7d4f1a", "#f3d58f", "#a36c24", "#fdf0c6", "#8a5a1f", "#6e4617")
FACETS = 36


def porthole() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("wall", RectangleForm(0, 0, SIDE, SIDE),
                Fill(radial((340, 260), 760, (0, "#e9efe9"), (0.6, "#cfdad6"), (1, "#a9bab8"))), locked=True),
        p.group("straps", _strap(p), recipe=(Mirror((X, 0.0)),)),
        _hook(p),
        _clock(p),
        p.shape("name", TextForm("KELDER SOUND", "Bebas Neue", "Regular", 26, X, 760, 0.22, align="centre"), solid("#6f8583"),
                InnerShadow(1.6, opacity=0.6), Sliver("light", depth=0.9, opacity=0.7, blend="screen", sunk=True)),
    )  # fmt: skip
    document = p.document(Sheet(SIDE, SIDE, colour("#a9bab8")), Lamp(324, 44, 1.0, 0.32), *parts)
    return meant_so(document, ("lower half", "gradient"))  # the dark of the water line


def _ring(outer: float, inner: float) -> PathForm:
    return path_of(boolean(ellipse(X, Y, outer, outer), ellipse(X, Y, inner, inner), "subtract"))


def _conic(names: tuple[str, ...], turn: float, y: float = Y) -> Conic:
    last = len(names) - 1
    return Conic(tuple(Stop(k / last, colour(c)) for k, c in enumerate(names)), (X, y), turn)


def _strap(p: Pile) -> Node:
    """A webbing strap with stripes along it, held inside, and a brass keeper; the other is its live mirror image."""
    cloth = linear((0, 0), (46, 0), (0, "#0d3242"), (0.3, "#2d7f93"), (0.62, "#1c5b6d"), (1, "#0b2a38"))
    stripes = tuple(
        p.shape(f"stripe {k + 1}", RectangleForm(x, -10, w, 240), solid("#efe5c8")) for k, (x, w) in enumerate(((5, 4), (17, 12), (37, 4)))
    )  # fmt: skip
    lean = multiply(translation(X, 84), multiply(scaling(-1, 1), multiply(rotation(-38), translation(-23, 0))))
    strap = p.shape(
        "strap", RectangleForm(0, 0, 46, 200, 5), Bend("arc", 0.04, 90.0), Fill(cloth),
        Sliver("shade", depth=5.0, opacity=0.35, feather=2.0), InnerShadow(2.5, opacity=0.4), Speckle(0.04, 0.7), CastShadow(0.5),
        held=stripes, transform=lean, lift=6.0,
    )  # fmt: skip
    keeper = p.shape(
        "keeper", RectangleForm(-6, 62, 58, 17, 6), solid("#c08a3a"), Body("tube", "brass"),
        Sliver("light", depth=1.2, opacity=0.6, blend="screen"), CastShadow(0.55), transform=lean, lift=4.0,
    )  # fmt: skip
    return p.group("strap and keeper", strap, keeper)


def _hook(p: Pile) -> Node:
    return p.group(
        "hook",
        p.shape("peg", circle(X, 92, 36), solid("#c08a3a"), Body("ball", "brass"), ContactShadow(4.0), CastShadow(0.55), lift=14.0),
        p.shape("peg head", circle(X, 92, 20), Fill(_conic(BRASS, 30, 92)),
                Sliver("light", depth=1.4, opacity=0.7, blend="screen"), CastShadow(0.4), lift=4.0),
    )  # fmt: skip


def _clock(p: Pile) -> Node:
    """Rim, facets and dial; the whole throws one shadow and has one glow."""
    rim = p.shape("rim", _ring(258, 214), Fill(_conic(BRASS, -64)), Sliver("light", depth=2.0, opacity=0.6, blend="screen"),
                  Relief("inside", "round", width=9.0, height=0.55, gloss=0.8, light_opacity=0.6, shade_opacity=0.45))  # fmt: skip
    inner = p.shape("inner rim", _ring(216, 196), Fill(_conic(BRASS[::-1], 64)), InnerShadow(3.0, opacity=0.45),
                    Relief("inside", "hollow", width=8.0, height=0.5, gloss=0.4, light_opacity=0.5, shade_opacity=0.5))  # fmt: skip
    pair = tuple(
        p.shape(name, circle(X, Y - 236, 10.5), solid("#c9963f"), body,
                ContactShadow(2.0, opacity=0.7), transform=rotation(angle, (X, Y)))
        for name, body, angle in (("bolt", Body("ball", "brass"), 22.5), ("socket", Body("dish", "brass"), 67.5))
    )  # fmt: skip
    bolts = p.group("bolts", *pair, recipe=(Ring((X, Y), 4),))
    return p.group(
        "clock", rim, _facets(p), inner, _dial(p), bolts,
        recipe=(CastShadow(0.6), OuterGlow(colour("#fff3d6"), 22.0, 0.0, 0.35, "screen")), lift=26.0,
    )  # fmt: skip


def _facets(p: Pile) -> Node:
    """One facet with a lighter edge, in a live ring about the exact centre."""
    step = 2 * math.pi / FACETS
    far, near = 230.0, 214.5

    def at(r: float, a: float) -> tuple[float, float]:
        return X + r * math.sin(a), Y - r * math.cos(a)

    outline = path_form(
        corner(*at(near, -step / 2)),
        corner(*at(far, -step / 2)),
        corner(*at(far, step / 2)),
        corner(*at(near, step / 2)),
    )
    paint = linear(
        (X - 18, Y - 222), (X + 18, Y - 222), (0, "#fff1c4"), (0.12, "#d6a24c"), (0.75, "#8b5b20"), (1, "#5f3c13")
    )
    return p.group("facets", p.shape("facet", outline, Fill(paint)), recipe=(Ring((X, Y), FACETS), Seams()))


def _dial(p: Pile) -> Node:
    enamel = radial((X - 60, Y - 70), 300, (0, "#2f8fa0"), (0.55, "#12606f"), (1, "#083440"))
    half = p.shape("lower half", RectangleForm(X - 200, Y, 400, 200), Fill(linear((X, Y), (X, Y + 196), (0, "#062a35", 0.55), (1, "#062a35", 0.15))),
                   blend="multiply")  # fmt: skip
    marks = tuple(
        p.shape(f"mark {k + 1}", RectangleForm(X - (3 if k % 5 == 0 else 1.1), Y - 182, 6 if k % 5 == 0 else 2.2, 18 if k % 5 == 0 else 9, 1),
                solid("#f3e6c4"), transform=rotation(6 * k, (X, Y)))
        for k in range(5)
    )  # fmt: skip
    dozen = p.group("marks", *marks, recipe=(Ring((X, Y), 12),))
    numerals = tuple(
        p.shape(f"numeral {n}", TextForm(str(n), "Vollkorn", "SemiBold", 40, X + 138 * math.sin(math.radians(30 * n)), Y - 138 * math.cos(math.radians(30 * n)) + 13, align="centre"),
                solid("#f6ead0"), InnerShadow(1.8, opacity=0.75, colour=colour("#5b4216")), Sliver("light", depth=0.9, opacity=0.8, blend="screen", sunk=True))
        for n in range(1, 13)
    )  # fmt: skip
    glass = p.shape("glass", path_of(boolean(ellipse(X, Y, 190, 190), ellipse(X + 30, Y + 92, 230, 205), "subtract")),
                    Fill(linear((X - 120, Y - 180), (X - 20, Y), (0, "#ffffff", 0.34), (1, "#ffffff", 0.02))), blend="screen")  # fmt: skip
    return p.shape(
        "dial", circle(X, Y, 197), Fill(enamel), InnerGlow(colour("#021a22"), 16.0, "edge", 0.85, "multiply"), InnerShadow(14.0, opacity=0.6),
        held=(half, dozen, *numerals, _hand(p, 306, 104, 11), _hand(p, 62, 152, 8), _boss(p), glass),
    )  # fmt: skip


def _hand(p: Pile, angle: float, reach: float, wide: float) -> Node:
    form = path_form(corner(X - wide * 0.45, Y + 26), corner(X - wide * 0.8, Y - reach * 0.55), corner(X, Y - reach), corner(X + wide * 0.8, Y - reach * 0.55), corner(X + wide * 0.45, Y + 26))  # fmt: skip
    return p.shape(
        "hand",
        form,
        solid("#f2e3b8"),
        Body("fold", "brass", roundness=0.8),
        CastShadow(0.6),
        transform=rotation(angle, (X, Y)),
        lift=7.0,
    )


def _boss(p: Pile) -> Node:
    return p.shape("boss", circle(X, Y, 14), solid("#c9963f"), Body("ball", "brass"), CastShadow(0.5), lift=8.0)
