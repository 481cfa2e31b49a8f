"""The folded anchor: one brass ribbon, bent and folded; every face has the same gradient, turned or reversed."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.boolean import boolean
from volumen.geometry.primitives import ellipse
from volumen.library import (
    CastShadow,
    Conic,
    Document,
    Fill,
    Group,
    Lamp,
    Linear,
    PathForm,
    PathPoint,
    Pile,
    RectangleForm,
    SavedGradient,
    Seams,
    Shape,
    Sheet,
    Sliver,
    Stop,
    TextForm,
    circle,
    colour,
    corner,
    path_form,
    radial,
    solid,
)
from volumen.outline.forms import path_form as form_of
from volumen.shading.ramp import reversed_stops

WIDE, HIGH = 720.0, 860.0
X = WIDE / 2
METAL = (
    Stop(0.0, colour("#5a3513"), 0.55), Stop(0.34, colour("#b87f2e"), 0.4), Stop(0.62, colour("#f6e0a4"), 0.45),
    Stop(0.8, colour("#d9a447")), Stop(1.0, colour("#7c4d19")),
)  # fmt: skip
BACK = reversed_stops(METAL)


Curve = tuple[float, float, float, float, float, float]
At = Callable[[float, float], Point]


def anchor() -> Document:
    p = Pile()
    parts = [
        p.shape("eye", form_of(boolean(ellipse(X, 128, 62, 62), ellipse(X, 128, 34, 34), "subtract")),
                Fill(Conic((*METAL[:4], Stop(1.0, METAL[0].colour)), (X, 128), 120)), *_edge(), lift=5.0),
        _face(p, "stock, left", [(X, 238), (X - 150, 226), (X - 168, 250), (X - 150, 274), (X, 262)], (X - 160, 226), (X, 262), METAL),
        _face(p, "stock, right", [(X, 238), (X + 150, 226), (X + 168, 250), (X + 150, 274), (X, 262)], (X, 238), (X + 160, 274), BACK),
        _face(p, "shank, left", [(X - 30, 208), (X, 214), (X, 690), (X - 26, 664)], (X - 30, 0), (X, 0), METAL),
        _face(p, "shank, right", [(X + 30, 208), (X, 214), (X, 690), (X + 26, 664)], (X, 0), (X + 30, 0), BACK),
        *_arm(p, -1), *_arm(p, 1), *_joints(p),
    ]  # fmt: skip
    word = TextForm("KELDER SOUND", "Bebas Neue", "Regular", 50, X, 826, 0.14, align="centre")
    whole = (
        p.shape("paper", RectangleForm(0, 0, WIDE, HIGH),
                Fill(radial((X, 330), 700, (0, "#214452"), (1, "#0c212b"))), locked=True),
        Group(p.take(), "anchor", tuple(parts), (Seams(), CastShadow(0.65, softness=9.0)), lift=18.0),
        p.shape("name", word, solid("#e9d9b0")),
    )  # fmt: skip
    document = p.document(Sheet(WIDE, HIGH, colour("#0c212b")), Lamp(318, 44, 1.0, 0.3), *whole)
    palette = msgspec.structs.replace(document.palette, gradients=(SavedGradient(1, "ribbon", METAL),), next_id=2)
    return msgspec.structs.replace(document, palette=palette)


def _joints(p: Pile) -> list[Shape]:
    """What holds the parts together: the neck of the ring, the collar and the knobs of the stock, the crown."""
    ball = ((0, "#fff1c9"), (0.38, "#e0b257"), (0.75, "#a36d25"), (1, "#5a3513"))
    knobs = [
        p.shape("knob", circle(X + side * 170, 250, 19), Fill(radial((X + side * 170, 250), 19, *ball, focus=(X + side * 170 - 6, 243))), lift=3.0)
        for side in (-1, 1)
    ]  # fmt: skip
    neck = path_form(corner(X - 22, 168), corner(X + 22, 168), corner(X + 37, 212), corner(X - 37, 212))
    ring = RectangleForm(X - 40, 206, 80, 12, 5)
    across = Linear(METAL, (X - 40, 0), (X + 46, 0))
    collar = [
        p.shape("neck", neck, Fill(across), *_edge(), lift=2.0),
        p.shape("neck ring", ring, Fill(across), *_edge(), CastShadow(0.5), lift=2.0),
        p.shape("collar", RectangleForm(X - 41, 224, 82, 52, 7), Fill(across), *_edge(), CastShadow(0.55), lift=3.0),
        *(p.shape("collar rib", RectangleForm(X - 45, y, 90, 9, 4), Fill(across), *_edge(), lift=2.0) for y in (226, 265)),
    ]  # fmt: skip
    crown = [
        _face(p, "crown, left", [(X - 50, 652), (X, 640), (X, 776), (X - 36, 722)], (X - 50, 640), (X, 760), METAL),
        _face(p, "crown, right", [(X + 50, 652), (X, 640), (X, 776), (X + 36, 722)], (X, 640), (X + 50, 760), BACK),
    ]
    shade = CastShadow(0.5)
    return [*knobs, *collar, *(msgspec.structs.replace(c, recipe=(*c.recipe, shade), lift=3.0) for c in crown)]


def _edge() -> tuple[Sliver, ...]:
    return (Sliver("light", "shift", 1.6, opacity=0.55, blend="screen"),)


def _face(
    p: Pile, name: str, points: list[tuple[float, float]], start: tuple[float, float], end: tuple[float, float],
    stops: tuple[Stop, ...],
) -> Shape:  # fmt: skip
    link = 1 if stops is METAL else None
    form = path_form(*(corner(*q) for q in points))
    return p.shape(name, form, Fill(Linear(stops, start, end, link=link)), *_edge(), lift=2.0)


def _arm(p: Pile, side: int) -> list[Shape]:
    """Half of the arms: two bands that meet in a fold, and a fluke of two faces."""

    def at(x: float, y: float) -> tuple[float, float]:
        return (X + side * x, y)

    stops = (METAL, BACK) if side < 0 else (BACK, METAL)
    outer = _band(at, (0, 736), (150, 730, 236, 640, 246, 512), (206, 520), (196, 620, 128, 690, 0, 700))
    inner = _band(at, (0, 700), (128, 690, 196, 620, 206, 520), (168, 532), (160, 606, 104, 656, 0, 662))
    return [
        _curved(p, "arm, outer", outer, at(30, 736), at(240, 520), stops[0]),
        _curved(p, "arm, inner", inner, at(200, 520), at(10, 680), stops[1]),
        _face(p, "fluke, outer", [at(206, 404), at(290, 560), at(214, 520)], at(206, 420), at(290, 560), stops[1]),
        _face(p, "fluke, inner", [at(206, 404), at(120, 560), at(214, 520)], at(120, 560), at(216, 420), stops[0]),
    ]


def _band(at: At, a: Point, there: Curve, b: Point, back: Curve) -> PathForm:
    """A band between two curves: from ``a`` along one, across to ``b``, back along the other."""
    (x0, y0), (x1, y1, x2, y2, x3, y3), (bx, by) = a, there, b
    (p1, q1, p2, q2, p3, q3) = back
    return path_form(
        PathPoint(at(x0, y0), at(x0, y0), at(x1, y1)), PathPoint(at(x3, y3), at(x2, y2), at(x3, y3)),
        PathPoint(at(bx, by), at(bx, by), at(p1, q1)), PathPoint(at(p3, q3), at(p2, q2), at(p3, q3)),
    )  # fmt: skip


def _curved(
    p: Pile, name: str, form: PathForm, start: tuple[float, float], end: tuple[float, float], stops: tuple[Stop, ...]
) -> Shape:
    return p.shape(name, form, Fill(Linear(stops, start, end, link=1 if stops is METAL else None)), *_edge(), lift=3.0)
