"""The compass rosette: six commas left between circles, all in one linked gradient that makes them look hollow."""

from __future__ import annotations

import math

import msgspec

from volumen.geometry.affine import rotation
from volumen.geometry.boolean import boolean
from volumen.geometry.primitives import ellipse
from volumen.library import (
    CastShadow,
    Conic,
    Document,
    Fill,
    Grain,
    Group,
    Lamp,
    Linear,
    Node,
    PathForm,
    Pile,
    RectangleForm,
    SavedGradient,
    Shape,
    Sheet,
    Sliver,
    Stop,
    TextForm,
    circle,
    colour,
    meant_so,
    radial,
    solid,
)
from volumen.outline.forms import path_form

SIDE = 800.0
MIDDLE = SIDE / 2
REACH = 150.0  # of the six circles, whose middles lie as far from the centre
HOLLOW = (
    Stop(0.0, colour("#0b3b40"), 0.62), Stop(0.56, colour("#d3f1e4"), 0.36, 0.01), Stop(1.0, colour("#157371")),
)  # fmt: skip
BRASS = tuple(Stop(k / 8, colour(c)) for k, c in enumerate(
    ("#8a5a1f", "#f4dca0", "#b97f2d", "#6b4216", "#f0cf85", "#a36c24", "#fbeabd", "#7d4f1a", "#8a5a1f")))  # fmt: skip


def rosette() -> Document:
    p = Pile()
    comma = _comma()
    across = Linear(HOLLOW, (MIDDLE - 128, MIDDLE - 150), (MIDDLE + 96, MIDDLE - 196), grain=Grain(0.010, 1.2), link=1)
    commas = tuple(
        Shape(p.take(), f"comma {k + 1}", comma, (Fill(across), Sliver("shade", "inset", 3.0, opacity=0.25)),
              transform=rotation(60 * k, (MIDDLE, MIDDLE)), link=1)
        for k in range(6)
    )  # fmt: skip
    rim = _ring(346, 318)
    parts: tuple[Node, ...] = (
        p.shape("night", RectangleForm(0, 0, SIDE, SIDE),
                Fill(radial((MIDDLE, 330), 620, (0, "#16343f"), (1, "#081a22"))), locked=True),
        p.shape("dial", circle(MIDDLE, MIDDLE, 330), Fill(radial((MIDDLE, MIDDLE), 330, (0, "#f5ecd6"), (0.8, "#e8d9b8"), (1, "#c9b38a"))),
                CastShadow(0.6), lift=14.0),
        p.shape("rim", rim, Fill(Conic(BRASS, (MIDDLE, MIDDLE), -60)), Sliver("light", "shift", 2, blend="screen"), CastShadow(0.5), lift=8.0),
        *(p.shape(f"tick {k}", RectangleForm(MIDDLE - 1.5, 94, 3, 14 if k % 3 else 22), solid("#4a3418"),
                  transform=rotation(15 * k, (MIDDLE, MIDDLE))) for k in range(24) if k % 6),
        Group(p.take(), "rosette", commas, (CastShadow(0.5, softness=5.0),), lift=10.0),
        p.shape("boss", circle(MIDDLE, MIDDLE, 26), Fill(radial((MIDDLE, MIDDLE), 26, (0, "#fff3cf"), (0.5, "#c98f35"), (1, "#5c3a14"), focus=(MIDDLE - 8, MIDDLE - 10))),
                CastShadow(0.5), lift=6.0),
        *_letters(p),
    )  # fmt: skip
    document = p.document(Sheet(SIDE, SIDE, colour("#081a22")), Lamp(322, 46, 1.0, 0.3), *parts)
    saved = SavedGradient(1, "hollow", HOLLOW)
    palette = msgspec.structs.replace(document.palette, gradients=(saved,), next_id=2)
    document = meant_so(document, *((f"comma {k}", "gradient") for k in (1, 2, 3)))  # one gradient goes through all
    return msgspec.structs.replace(document, palette=palette)


def _comma() -> PathForm:
    """What the next circle leaves of one."""
    circles = []
    for k in (0, 1):
        turn = math.radians(60 * k - 90)
        circles.append(
            ellipse(
                MIDDLE + REACH * 0.86 * math.cos(turn),
                MIDDLE + REACH * 0.86 * math.sin(turn),
                REACH * 0.86,
                REACH * 0.86,
            )
        )
    return path_form(boolean(circles[0], circles[1], "subtract"))


def _ring(outer: float, inner: float) -> PathForm:
    return path_form(boolean(ellipse(MIDDLE, MIDDLE, outer, outer), ellipse(MIDDLE, MIDDLE, inner, inner), "subtract"))


def _letters(p: Pile) -> list[Shape]:
    out = []
    for k, letter in enumerate("NESW"):
        turn = math.radians(90 * k - 90)
        x, y = MIDDLE + 276 * math.cos(turn), MIDDLE + 276 * math.sin(turn)
        form = TextForm(letter, "Vollkorn", "SemiBold", 46, x, y + 15, align="centre")
        out.append(p.shape(letter, form, solid("#3b2a14"), Sliver("light", "shift", 1.2, blend="screen")))
    return out
