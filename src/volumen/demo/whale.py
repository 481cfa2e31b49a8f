"""The whale card: sheets of cut paper, each thrown onto the one below by its lift alone."""

from __future__ import annotations

import math

from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.geometry.boolean import boolean
from volumen.geometry.primitives import ellipse, rectangle
from volumen.library import (
    CastShadow,
    CloudForm,
    Document,
    Fill,
    InnerShadow,
    Lamp,
    Line,
    Node,
    PathForm,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Speckle,
    TextForm,
    circle,
    colour,
    corner,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)
from volumen.outline.forms import path_form as path_of

SIDE = 800.0
PAPER = Sliver("light", depth=1.1, opacity=0.5, blend="screen")
TAPER = ((0.0, 0.25, 0.25), (0.45, 1.0, 1.0), (1.0, 0.0, 0.0))


def whale() -> Document:
    p = Pile()
    scene: tuple[Node, ...] = (
        p.shape("sky", RectangleForm(0, 0, SIDE, SIDE), Fill(linear((0, 60), (0, 620), (0, "#fbe9cb"), (0.5, "#f6cf9d"), (1, "#ef9f77"))), locked=True),
        p.shape("sun", circle(560, 300, 92), Fill(radial((540, 276), 120, (0, "#fff3cf"), (1, "#f2a65a"))), CastShadow(0.4), PAPER, lift=5.0),
        _cloud(p, 90, 170, 210, 66, "#fdf3e2", 6.0), _cloud(p, 560, 120, 190, 58, "#fff6e8", 5.0),
        _sheet(p, "far hills", 452, 26, 0.4, "#c98f7d", "#a9685f", 4.0),
        _sheet(p, "far sea", 500, 22, 1.7, "#6fa9ad", "#41858f", 4.0),
        _sheet(p, "middle sea", 560, 28, 3.1, "#3f8d98", "#1f6674", 5.0),
        _whale(p),
        _sheet(p, "near sea", 640, 30, 4.6, "#1f6b7a", "#0f4656", 5.0),
        *(_foam(p, x, y, w) for x, y, w in ((120, 648, 120), (330, 668, 90), (590, 650, 130))),
        _sheet(p, "front sea", 712, 26, 6.2, "#0f4a5b", "#082f3d", 6.0),
        *(_frond(p, x, y, h, s) for x, y, h, s in ((196, 730, 190, 1), (236, 752, 130, -1), (596, 742, 180, -1), (560, 760, 120, 1))),
    )  # fmt: skip
    frames = (_frame(p, 322, "#f3e6cc", 7.0), _frame(p, 346, "#e7d6b8", 8.0))
    # held inside the card, so that nothing shows beyond its edge
    everything = Shape(p.take(), "card", RectangleForm(0, 0, SIDE, SIDE), (solid("#e4d2b4"), Speckle(0.035, 0.9)), children=(
        *scene, *frames,
        p.shape("title", TextForm("KELDER SOUND", "Bebas Neue", "Regular", 40, 400, 48, 0.3, align="centre"), solid("#20424b"),
                InnerShadow(1.6, opacity=0.6), Sliver("light", depth=0.9, opacity=0.6, blend="screen", sunk=True)),
        p.shape("line", TextForm("Harbour Museum", "Vollkorn", "SemiBold", 26, 400, 782, 0.04, align="centre"), solid("#20424b")),
    ))  # fmt: skip
    return p.document(Sheet(SIDE, SIDE, colour("#e4d2b4")), Lamp(318, 50, 1.0, 0.42), everything)


def _wave(y: float, high: float, phase: float) -> PathForm:
    points = []
    for k in range(9):
        x = -60 + 115 * k
        points.append(smooth(x, y + high * math.sin(phase + 1.25 * k), 44, high * 0.5 * math.cos(phase + 1.25 * k)))
    return path_form(*points, corner(900, 860), corner(-80, 860))


def _sheet(p: Pile, name: str, y: float, high: float, phase: float, light: str, dark: str, lift: float) -> Shape:
    """A sheet across the card: its look is the same for all, its shadow follows from its lift."""
    return p.shape(
        name,
        _wave(y, high, phase),
        Fill(linear((0, y - high), (0, y + 190), (0, light), (1, dark))),
        CastShadow(0.6),
        PAPER,
        lift=lift,
    )


def _cloud(p: Pile, x: float, y: float, w: float, h: float, tone: str, lift: float) -> Shape:
    return p.shape("cloud", CloudForm(x, y, w, h, 9, 0.9), solid(tone), CastShadow(0.45), PAPER, lift=lift)


def _foam(p: Pile, x: float, y: float, w: float) -> Shape:
    return p.shape("foam", CloudForm(x, y, w, w * 0.3, 11, 0.95), solid("#eef6f1"), CastShadow(0.55), PAPER, lift=2.5)


def _whale(p: Pile) -> Node:
    body = path_form(
        smooth(214, 520, -6, -60), smooth(330, 420, 70, -22), smooth(500, 448, 60, 34), smooth(596, 470, 34, -14),
        smooth(640, 418, 10, -24), smooth(700, 392, 14, 2), smooth(672, 442, -14, 20), smooth(706, 490, -18, 10),
        smooth(640, 484, -22, 8), smooth(540, 566, -60, 38), smooth(380, 610, -80, 6), smooth(250, 588, -30, -20),
    )  # fmt: skip
    belly = path_form(
        smooth(206, 548, 60, 26), smooth(380, 566, 80, -4), smooth(520, 520, 40, -20), smooth(560, 560, -20, 40),
        smooth(380, 640, -80, 0), smooth(220, 600, -20, -20),
    )  # fmt: skip
    folds = tuple(
        p.shape(f"fold {k + 1}", path_form(smooth(232 + 6 * k, 556 + 9 * k, 60, 16), smooth(380, 574 + 9 * k, 60, -6), smooth(498 - 14 * k, 548 + 8 * k, 30, -16), closed=False),
                Line(Solid(colour("#9fb9bd")), 4.0, "round", "round", profile=TAPER))
        for k in range(4)
    )  # fmt: skip
    left = path_form(
        corner(320, 430), smooth(290, 344, -16, -30), smooth(240, 326, -24, 6), corner(214, 368),
        smooth(252, 353, 18, -6), smooth(296, 384, 14, 24), corner(324, 430),
    )  # fmt: skip
    right = path_form(
        corner(320, 430), smooth(348, 384, 14, -24), smooth(392, 353, 18, 6), corner(430, 368),
        smooth(404, 326, -24, -6), smooth(354, 344, -16, 30), corner(324, 430),
    )  # fmt: skip
    jet = path_form(corner(322, 430), smooth(309, 356, 0, -22), corner(322, 306), smooth(335, 356, 0, 22))
    drops = ((270, 296, 6.0), (322, 282, 7.0), (376, 298, 5.0), (206, 390, 4.5), (440, 388, 5.5))
    water = (solid("#f4fbf8"), CastShadow(0.5), PAPER)
    spout = (
        *(p.shape(name, form, *water, lift=2.5) for name, form in (("plume", left), ("plume", right), ("jet", jet))),
        *(p.shape("drop", circle(*at), *water, lift=2.0) for at in drops),
    )
    fin = path_form(
        smooth(356, 566, 30, 6), smooth(452, 640, 8, 26), smooth(420, 664, -30, -6), smooth(340, 600, -14, -24)
    )
    lid = path_form(smooth(252, 512, 10, -16), smooth(276, 500, 12, 0), smooth(296, 516, 4, 10), closed=False)
    smile = path_form(smooth(214, 548, 20, 16), smooth(292, 560, 26, 2), smooth(330, 546, 12, -8), closed=False)
    eye = (
        p.shape("socket", circle(275, 519, 17), Fill(radial((275, 519), 17, (0.55, "#5f93a6"), (1, "#2f5f75")))),
        p.shape("eye", circle(274, 520, 11), solid("#0e2129")),
        p.shape("glint", circle(270, 515.5, 3.6), solid("#ffffff")),
        p.shape("second glint", circle(278.5, 525, 1.8), solid("#9cc4d2")),
        p.shape("lid", lid, Line(Solid(colour("#1d4054")), 4.5, "round", "round", profile=TAPER)),
    )
    mouth = p.shape("smile", smile, Line(Solid(colour("#173a4c")), 3.0, "round", "round", profile=TAPER))
    return p.group(
        "whale",
        p.shape("body", body, Fill(linear((300, 420), (420, 620), (0, "#4c7f93"), (0.55, "#2c5a70"), (1, "#1d4054"))), CastShadow(0.65), PAPER,
                Sliver("shade", depth=12.0, opacity=0.22, feather=4.0), lift=9.0,
                held=(p.shape("belly", belly, Fill(linear((0, 530), (0, 630), (0, "#e9f1ec"), (1, "#b9cdca"))), CastShadow(0.5), lift=2.5, held=folds), *eye, mouth)),
        p.shape("fin", fin, Fill(linear((360, 566), (430, 660), (0, "#3f7287"), (1, "#1d4054"))), CastShadow(0.6), PAPER, lift=4.0),
        *spout,
    )  # fmt: skip


def _frond(p: Pile, x: float, y: float, high: float, side: int) -> Node:
    """Half of each frond is darker, as if it were folded along its middle."""
    leaf = path_form(
        smooth(0, 0, 30, -high * 0.2),
        smooth(34, -high * 0.6, -4, -high * 0.24),
        corner(6, -high),
        smooth(-22, -high * 0.5, -8, high * 0.2),
    )
    half = path_form(
        corner(0, 6),
        smooth(6, -high * 0.5, 4, -high * 0.3),
        corner(6, -high - 4),
        corner(70, -high * 0.9),
        corner(70, 6),
    )
    lean = multiply(translation(x, y), multiply(scaling(side, 1), rotation(6)))
    return p.shape(
        "frond", leaf, solid("#2f7a63"), InnerShadow(4.0, opacity=0.35), CastShadow(0.6), PAPER,
        held=(p.shape("fold", half, solid("#1b5a4b")),), transform=lean, lift=4.0,
    )  # fmt: skip


def _frame(p: Pile, hole: float, tone: str, lift: float) -> Shape:
    """A framing sheet with a round window."""
    sheet = boolean(rectangle(-40, -40, SIDE + 80, SIDE + 80), ellipse(400, 408, hole, hole), "subtract")
    return p.shape("window", path_of(sheet), solid(tone), CastShadow(0.65), PAPER, lift=lift)
