"""The moon jelly: a glowing bell over a dull rock, its light its own."""

from __future__ import annotations

import math

from volumen.geometry.affine import rotation
from volumen.library import (
    CastShadow,
    Document,
    EllipseForm,
    Fill,
    Group,
    InnerGlow,
    InnerShadow,
    Lamp,
    Line,
    Node,
    OuterGlow,
    PathForm,
    Pile,
    Radial,
    RectangleForm,
    Relief,
    Rounding,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Speckle,
    Stop,
    circle,
    colour,
    corner,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)

SIDE = 800.0
GLOW = colour("#8fe9ff")
VIOLET = colour("#b9a2ff")


def jelly() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("deep water", RectangleForm(0, 0, SIDE, SIDE),
                Fill(radial((400, 300), 660, (0, "#1d4a78"), (0.45, "#10284f"), (1, "#060c22"))), locked=True),
        *_motes(p),
        _rock(p),
        _jelly(p),
    )  # fmt: skip
    return p.document(Sheet(SIDE, SIDE, colour("#060c22")), Lamp(322, 48, 1.0, 0.35), *parts)


def _motes(p: Pile) -> list[Node]:
    """Specks in the water, nearer ones larger and softer."""
    out: list[Node] = []
    for k in range(26):
        x, y = 400 + 370 * math.sin(2.4 * k + 0.3), 60 + (k * 97) % 620
        size = 1.2 + (k * 7 % 5) * 0.9
        out.append(p.shape(f"mote {k + 1}", circle(x, y, size), solid("#bfefff", 0.35 + 0.1 * (k % 3))))
    return out


def _rock(p: Pile) -> Node:
    back = path_form(
        smooth(-20, 640, 0, -40), smooth(120, 590, 60, -10), smooth(260, 650, 50, 20), smooth(420, 620, 70, -20),
        smooth(600, 660, 60, 0), smooth(820, 600, 60, -30), corner(820, 820), corner(-20, 820),
    )  # fmt: skip
    front = path_form(
        smooth(-20, 720, 0, -30), smooth(150, 690, 70, -14), smooth(330, 742, 60, 10), smooth(540, 702, 80, -14),
        smooth(700, 744, 50, 4), smooth(820, 716, 40, -10), corner(820, 820), corner(-20, 820),
    )  # fmt: skip
    return Group(p.take(), "rock", (
        p.shape("far ridge", back, Fill(linear((0, 590), (0, 800), (0, "#2c3a58"), (1, "#0b1126"))),
                Relief("inside", "round", width=46.0, height=0.5, soften=3.0, gloss=0.0, light_opacity=0.28, shade_opacity=0.7), Speckle(0.03, 1.0)),
        p.shape("near ridge", front, Fill(linear((0, 690), (0, 800), (0, "#1b2542"), (1, "#070b1a"))),
                Relief("inside", "round", width=40.0, height=0.6, soften=3.0, gloss=0.0, light_opacity=0.3, shade_opacity=0.7), Speckle(0.035, 1.0),
                CastShadow(0.5, colour=colour("#03060f")), lift=10.0),
    ))  # fmt: skip


def _jelly(p: Pile) -> Node:
    """The bell and its tentacles; the glow belongs to the group, so the rock gets none of it."""
    tentacles = tuple(_tentacle(p, k) for k in range(9))
    arms = tuple(_arm(p, k) for k in range(4))
    bell = _bell()
    capsules = tuple(
        p.shape(f"rim {k + 1}", RectangleForm(236 + k * 30.2, 408 + 12 * math.sin(math.pi * (k + 0.5) / 11) , 31, 26, 13),
                Fill(radial((251 + k * 30.2, 416), 22, (0, "#f4feff"), (0.6, "#9fd8f4"), (1, "#5f8fd0")), 0.85),
                Relief("inside", "round", width=9.0, height=0.6, gloss=0.5, light_opacity=0.6, shade_opacity=0.35))
        for k in range(11)
    )  # fmt: skip
    organs = tuple(
        p.shape(f"ring {k + 1}", EllipseForm(0, 0, 66, 40), Fill(Solid(colour("#f6c9ff", 0.0))),
                Line(Solid(colour("#f3c6ff", 0.85)), 7.0), OuterGlow(VIOLET, 9.0, opacity=0.8), transform=place)
        for k, place in enumerate(_organ_places())
    )  # fmt: skip
    return Group(p.take(), "moon jelly", (
        Group(p.take(), "tentacles", tentacles, (OuterGlow(GLOW, 9.0, 0.0, 0.55, falloff=(0.2, 0.1, 0.7, 0.6)),)),
        Group(p.take(), "arms", arms, opacity=0.9),
        p.shape("bell", bell,
                Fill(Radial((Stop(0, colour("#f2fdff", 0.95)), Stop(0.35, colour("#a9e6fb", 0.82)), Stop(0.75, colour("#4f8fd8", 0.72)), Stop(1, colour("#3a5db4", 0.85))),
                            (400, 330), 190, (352, 268))),
                Fill(linear((400, 200), (400, 430), (0, "#ffffff"), (0.5, "#b58cf0"), (1, "#35e0d0")), 0.5, "overlay"),
                InnerShadow(10.0, opacity=0.35, colour=colour("#24408f")),
                InnerGlow(colour("#e9fbff"), 16.0, "edge", 0.75),
                Relief("inside", "round", width=0.0, height=0.55, soften=5.0, gloss=0.9, shininess=40.0, light_opacity=0.4, shade_opacity=0.18),
                Sliver("light", "scale", 9.0, opacity=0.6, blend="screen", feather=2.4),
                held=organs),
        Group(p.take(), "rim", capsules),
        p.shape("glint", EllipseForm(286, 236, 74, 34), Fill(radial((323, 253), 38, (0, "#ffffff", 0.95), (1, "#ffffff", 0.0))),
                transform=rotation(-32, (323, 253)), blend="screen"),
    ), (OuterGlow(GLOW, 46.0, 4.0, 0.95, falloff=(0.35, 0.2, 0.8, 0.75), stops=(Stop(0.0, GLOW), Stop(1.0, colour("#2a3cff")))),), lift=30.0)  # fmt: skip


def _bell() -> PathForm:
    return path_form(
        smooth(400, 186, 92, 0), smooth(574, 372, 8, 56), smooth(560, 424, -20, 12), smooth(480, 438, -40, 0),
        smooth(400, 444, -40, 0), smooth(320, 438, -40, 0), smooth(240, 424, -20, -12), smooth(226, 372, 8, -56),
    )  # fmt: skip


def _organ_places() -> list[tuple[float, float, float, float, float, float]]:
    """Four rings seen through the bell, as petals round its crown."""
    out = []
    for k in range(4):
        a = math.radians(45 + 90 * k)
        x, y = 400 + 50 * math.cos(a), 312 + 27 * math.sin(a)
        turn = math.radians(24 if k in (0, 2) else -24)
        c, n = 0.86 * math.cos(turn), 0.86 * math.sin(turn)
        out.append((c, n, -n, c, x - 33 * c + 20 * n, y - 33 * n - 20 * c))
    return out


def _tentacle(p: Pile, k: int) -> Shape:
    """An open line with rounded corners, fading out below."""
    x = 258 + k * 35.5
    sway = 14 + 10 * math.sin(1.7 * k)
    end = 690 + 46 * math.sin(2.3 * k)
    zigzag = path_form(
        corner(x, 428), corner(x + sway, 486), corner(x - sway * 0.8, 552), corner(x + sway * 0.9, 622), corner(x - sway * 0.2, end),
        closed=False,
    )  # fmt: skip
    paint = linear((x, 428), (x, end), (0, "#e6fbff", 0.95), (0.6, "#8fd4ff", 0.7), (1, "#6a8cff", 0.0))
    return p.shape(
        f"tentacle {k + 1}",
        zigzag,
        Rounding(26.0),
        Line(paint, 3.0, "round", "round", profile=((0, 1, 1), (1, 0.15, 0.15))),
    )


def _arm(p: Pile, k: int) -> Shape:
    """A frilled arm below the middle of the bell."""
    x = 342 + k * 39
    run = path_form(
        smooth(x, 428, 0, 40), smooth(x + 16 * (-1) ** k, 500, 0, 34), smooth(x - 14 * (-1) ** k, 570, 0, 30), smooth(x + 6, 626, 0, 20), closed=False,
    )  # fmt: skip
    paint = linear((x, 420), (x, 630), (0, "#f6d4ff", 0.95), (0.55, "#b79cff", 0.75), (1, "#7d8cff", 0.05))
    leaf = ((0.0, 0.8, 0.8), (0.25, 1.0, 0.5), (0.5, 0.5, 1.0), (0.75, 0.8, 0.4), (1.0, 0.0, 0.0))
    return p.shape(
        f"arm {k + 1}", run, Line(paint, 20.0, "round", "round", profile=leaf), OuterGlow(VIOLET, 7.0, opacity=0.6)
    )
