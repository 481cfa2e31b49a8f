"""Kelder letters: two words of solid block letters on the quay, every face live, and the same letters as lines alone."""

from __future__ import annotations

import math

from volumen.library import (
    Block,
    Blur,
    Body,
    CastShadow,
    Document,
    Fill,
    Grid,
    Group,
    InnerShadow,
    Lamp,
    Node,
    Pile,
    RectangleForm,
    Sheet,
    TextForm,
    circle,
    colour,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)

WIDE, HIGH = 900.0, 900.0
X, Y, SIDE = 450.0, 214.0, 430.0  # the far corner of the quay, and its side
C, S = math.cos(math.radians(30)), math.sin(math.radians(30))
CREAM, INK = "#f4ead2", "#15303b"
SIGN, RISE = "Bebas Neue", 1.45  # how much taller than wide the letters are drawn
Affine = tuple[float, float, float, float, float, float]


def letters() -> Document:
    p = Pile()
    words, lined = _words(p)
    parts: tuple[Node, ...] = (
        p.shape("evening", RectangleForm(0, 0, WIDE, 640),
                Fill(linear((0, 0), (0, 640), (0, "#f6d9a0"), (0.42, "#eeb07f"), (0.8, "#4f8f94"), (1, "#1f5a66"))), locked=True),
        p.shape("sun", circle(X + 214, 128, 62), Fill(radial((X + 214, 128), 62, (0, "#fff6d8"), (0.8, "#ffe7a6"), (1, "#ffd98a")))),
        _sea(p),
        _quay(p),
        *words,
        _footer(p, lined),
    )  # fmt: skip
    return p.document(Sheet(WIDE, HIGH, colour(CREAM)), Lamp(318, 44, 1.0, 0.3), *parts)


def _on_quay(a: float, b: float, rise: float = 0.0) -> tuple[float, float]:
    """A place on the quay, a to the lower right and b to the lower left from its far corner."""
    return X + (a - b) * C, Y + (a + b) * S - rise


def _flat(a: float, b: float) -> Affine:
    """What is drawn flat laid on the quay with its zero at a place."""
    return (C, S, -C, S, *_on_quay(a, b))


def _sea(p: Pile) -> Group:
    water = p.shape("water", RectangleForm(0, 268, WIDE, 440),
                    Fill(linear((0, 268), (0, 708), (0, "#5c9a99"), (0.35, "#2a6b76"), (1, "#133f4c"))))  # fmt: skip
    glint = p.shape("glint", path_form(smooth(20, 300, 26, -3), smooth(74, 303, 20, 3), smooth(120, 300, 10, -2),
                    smooth(74, 306, -20, 2)), solid("#ffe2a8", 0.5))  # fmt: skip
    rows = p.group(
        "glints",
        glint,
        recipe=(Grid(6, 11, "steps", 134.0, 33.0, stagger=0.43, scale=1.0),),
        opacity=0.75,
        blend="screen",
    )
    return p.group("sea", water, rows)


def _quay(p: Pile) -> Group:
    stone = Block(74.0, 180.0, colour=colour("#8d9a98"))
    top = p.shape("quay", RectangleForm(0, 0, SIDE, SIDE), solid("#b9b7a6"), stone, transform=_flat(0, 0))
    slab = p.shape("slab", RectangleForm(0, 0, 49, 49, 3), solid("#c9c6b3"), InnerShadow(1.2, opacity=0.35))
    paving = p.group("paving", slab, recipe=(Grid(8, 8, "gaps", 4.0, 4.0),), transform=_flat(5, 5))
    line = p.shape("painted line", TextForm("QUAY 4", SIGN, "Regular", 52, 0, 0, 0.06), solid(INK, 0.72),
                   transform=_flat(48, 156))  # fmt: skip
    return p.group("quay and paving", top, paving, line, *_bollards(p))


def _bollards(p: Pile) -> tuple[Node, ...]:
    """Iron posts along the far edges: circles with depth, upright."""
    made = []
    for a, b in ((40, 36), (170, 36), (300, 36), (36, 170), (36, 300)):
        x, y = _on_quay(a, b, 34)
        made.append(p.shape("shade of a post", circle(x + 24, y + 34, 24, 8), solid(INK, 0.4), Blur(3.0)))
        made.append(p.shape("post", circle(x, y, 14, 8), solid("#8b979b"), Block(34.0, 180.0, material="steel")))
        made.append(
            p.shape(
                "head",
                circle(x, y - 3, 18, 10),
                solid("#a9b3b5"),
                Body("ball", "steel"),
                Block(6.0, 180.0, material="steel"),
            )
        )
    return tuple(made)


def _words(p: Pile) -> tuple[tuple[Node, ...], tuple[Node, ...]]:
    """Both words, each upright on an edge of the quay, with shadows that lie on it; and the same words as lines."""
    left, right = _on_quay(16, 398), _on_quay(398, 346)
    kelder = TextForm("KELDER", SIGN, "Regular", 138, 0, 0, 0.03)
    sound = TextForm("SOUND", SIGN, "Regular", 138, 0, 0, 0.055)
    top = colour("#ffe9b8")
    red = (Fill(linear((0, -100), (0, 0), (0, "#e8663f"), (1, "#cf4a35"))),
           Block(46.0, 60.0, above=top, colour=colour("#b9402f"), broken=0.1, seed=5))  # fmt: skip
    amber = (Fill(linear((0, -100), (0, 0), (0, "#f5b04c"), (1, "#e2913a"))),
             Block(46.0, 300.0, above=top, colour=colour("#c47a33"), broken=0.1, seed=2))  # fmt: skip
    k = 0.4  # the same letters beside the title, linked: as lines alone, some of them left out
    lined = (
        p.shape("KELDER, as lines", kelder, *red, transform=(k * C, k * S, 0.0, k * RISE, 26.0, 806.0), link=1, lines_only=True),
        p.shape("SOUND, as lines", sound, *amber, transform=(k * C, -k * S, 0.0, k * RISE, 752.0, 862.0), link=2, lines_only=True),
    )  # fmt: skip
    return (
        p.shape("shadow of KELDER", kelder, solid(INK, 0.5), Blur(1.6), transform=(C, S, -0.62, 0.36, *left), blend="multiply"),
        p.shape("shadow of SOUND", sound, solid(INK, 0.5), Blur(1.6), transform=(C, -S, 0.62, 0.36, *right), blend="multiply"),
        p.shape("KELDER", kelder, *red, transform=(C, S, 0.0, RISE, *left), link=1),
        p.shape("SOUND", sound, *amber, transform=(C, -S, 0.0, RISE, *right), link=2),
    ), lined  # fmt: skip


def _footer(p: Pile, lined: tuple[Node, ...]) -> Group:
    """A title of block letters with paper in every face, between the words as lines."""
    paper = colour(CREAM)
    word = TextForm("BLOCK LETTERS OF THE QUAY", SIGN, "Regular", 44, X, 800, 0.1, align="centre")
    strip = p.shape("paper", RectangleForm(0, 708, WIDE, 192), solid(CREAM), CastShadow(0.3), lift=3.0)
    lines = p.shape("letters as lines", word, solid(CREAM),
                    Block(11.0, 135.0, above=paper, right=paper, below=paper, left=paper, edge=1.3, edge_colour=colour(INK)))  # fmt: skip
    small = p.shape("open days", TextForm("OPEN DAYS AT KELDER SOUND  ·  THE FIRST WEEK OF SUMMER", SIGN, "Regular", 20, X, 852, 0.14, align="centre"),
                    solid("#a83a35"))  # fmt: skip
    return p.group("footer", strip, lines, small, *lined)
