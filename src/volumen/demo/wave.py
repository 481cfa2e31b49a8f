"""The breaking-wave icon: flat and shaded side by side, and both again at the sizes of a screen."""

from __future__ import annotations

from volumen.geometry.affine import Affine, Point, multiply, scaling, translation
from volumen.library import (
    CastShadow,
    Document,
    Fill,
    Group,
    Ingredient,
    Lamp,
    Line,
    PathForm,
    PathPoint,
    Pile,
    RectangleForm,
    Rounding,
    Shape,
    Sheet,
    Sliver,
    Solid,
    TextForm,
    circle,
    colour,
    corner,
    cusp,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)

WIDE, HIGH = 900.0, 620.0
NIGHT, SEA, FOAM = "#0e3b4c", "#1f8a8c", "#f6efdd"
DEEP = colour("#04222c")


def wave() -> Document:
    p = Pile()
    paper = p.shape("paper", RectangleForm(0, 0, WIDE, HIGH),
                    Fill(radial((380, 180), 760, (0, "#fbf8f0"), (1, "#e4ddcc"))), locked=True)  # fmt: skip
    large = [_icon(p, multiply(translation(x, 66), scaling(1.3, 1.3)), lit) for x, lit in ((84, False), (483, True))]
    small = []
    for x, lit in ((84, False), (483, True)):
        at = x + 22.0
        for size in (64, 32, 16):
            place = multiply(translation(at, 470 + (64 - size) / 2), scaling(size / 256, size / 256))
            small.append(_icon(p, place, lit))
            at += size + 44
    words = [
        p.shape(text, TextForm(text, "Figtree", "SemiBold", 19, x + 166, 588, 0.04, align="centre"), solid("#5c6b6c"))
        for text, x in (("flat", 84), ("shaded", 483))
    ]
    return p.document(Sheet(WIDE, HIGH, colour("#fbf8f0")), Lamp(322, 48, 1.0, 0.3), paper, *large, *small, *words)


def _icon(p: Pile, place: Affine, lit: bool) -> Group:
    """The icon on a tile of 256 units."""
    tile = RectangleForm(0, 0, 256, 256)
    sky: tuple[Ingredient, ...] = (solid(NIGHT),)
    sea: tuple[Ingredient, ...] = (solid(SEA),)
    crest: tuple[Ingredient, ...] = (solid(FOAM),)
    sun: tuple[Ingredient, ...] = (solid("#f0ae45"),)
    more: tuple[Ingredient, ...] = ()
    if lit:
        sky = (Fill(radial((78, 58), 250, (0, "#2d7f8f"), (0.55, "#12485a"), (1, "#082a38"))),)
        sea = (
            Fill(radial((96, 96), 210, (0, "#63d0c0"), (0.45, "#1f8a8c"), (1, "#0a4655"))),
            Sliver("shade", "shift", 9, opacity=0.4, colour=DEEP, feather=3), CastShadow(0.6),
        )  # fmt: skip
        crest = (
            Fill(linear((60, 40), (190, 190), (0, "#ffffff"), (0.5, FOAM), (1, "#c9dccf"))),
            Sliver("shade", "shift", 5, opacity=0.3, colour=DEEP, feather=1.5), CastShadow(0.55),
        )  # fmt: skip
        sun = (Fill(radial((54, 54), 34, (0, "#fff1c4"), (0.6, "#f6bd52"), (1, "#d98a2a"))),)
        more = (Sliver("light", "shift", 2.5, opacity=0.4, blend="screen"), CastShadow(0.5))
    streaks = _streaks(p) if lit else []
    parts = (
        p.shape("sun", circle(60, 60, 25), *sun),
        p.shape("wave", _wave(), *sea, lift=5.0 if lit else 0.0, held=tuple(streaks)),
        p.shape("crest", _crest(), *crest, lift=3.0 if lit else 0.0),
    )
    holder: Shape = p.shape("tile", tile, Rounding(58.0), *sky, *more, held=parts, lift=9.0 if lit else 0.0)
    return p.group("shaded icon" if lit else "flat icon", holder, transform=place)


def _wave() -> PathForm:
    """The body of the wave: up the back, over the lip, down the hollow face, out along the trough."""
    return path_form(
        corner(-20, 276), cusp(-20, 190, (0, 0), (28, -8)), smooth(58, 104, 20, -34), smooth(134, 56, 40, -6),
        cusp(212, 118, (-22, -42), (-8, -10)), smooth(164, 104, -22, -2), smooth(122, 148, 0, 26),
        smooth(176, 206, 36, 6), cusp(276, 190, (-44, 14), (0, 0)), corner(276, 276),
    )  # fmt: skip


def _crest() -> PathForm:
    """The foam: thin along the back, swelling over the lip, and breaking into rounded lobes."""
    lip = (
        (160.0, 86.0),
        (152.0, 106.0),
        (160.0, 129.0),
        (180.0, 145.0),
        (204.0, 146.0),
        (224.0, 133.0),
        (236.0, 112.0),
    )
    return path_form(
        cusp(-20, 196, (0, 0), (30, -8)), smooth(58, 108, 20, -34), smooth(126, 72, 26, -4), *_lobes(lip, (-16, -12), (9, -14)),
        smooth(212, 60, -20, -20), smooth(138, 34, -46, 0), smooth(44, 92, -22, 36), cusp(-20, 178, (22, -16), (0, 0)),
    )  # fmt: skip


def _lobes(at: tuple[Point, ...], arrive: Point, leave: Point) -> list[PathPoint]:
    """Points of an outline that swells out from each place to the next, to the right of the way."""
    bulges = [(-0.62 * (v - y), 0.62 * (u - x)) for (x, y), (u, v) in zip(at[:-1], at[1:], strict=True)]
    before, after = [arrive, *bulges], [*bulges, leave]
    return [cusp(x, y, a, b) for (x, y), a, b in zip(at, before, after, strict=True)]


def _streaks(p: Pile) -> list[Shape]:
    """Water drawn up the hollow of the wave."""
    taper = ((0.0, 0.1, 0.1), (0.4, 1.0, 1.0), (1.0, 0.0, 0.0))
    ways = (
        (smooth(20, 214, 30, -14), smooth(84, 138, 14, -40), smooth(112, 92, 18, -12)),
        (smooth(46, 236, 34, -16), smooth(98, 172, 2, -40), smooth(122, 116, 12, -14)),
        (smooth(88, 252, 22, -10), smooth(114, 206, 3, -26), smooth(111, 152, 2, -14)),
    )
    return [
        p.shape(f"streak {k + 1}", path_form(*way, closed=False),
                Line(Solid(colour("#e9fff6")), 5.0 - k * 0.8, "round", "round", opacity=0.4, profile=taper))
        for k, way in enumerate(ways)
    ]  # fmt: skip
