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
        _face(p, "shank, left", [(X - 30, 182), (X, 194), (X, 690), (X - 26, 664)], (X - 30, 0), (X, 0), METAL),
        _face(p, "shank, right", [(X + 30, 182), (X, 194), (X, 690), (X + 26, 664)], (X, 0), (X + 30, 0), BACK),
        *_arm(p, -1), *_arm(p, 1),
    ]  # fmt: skip
    word = TextForm("KELDER SOUND", "Bebas Neue", "Regular", 50, X, 812, 0.14, align="centre")
    whole = (
        p.shape("paper", RectangleForm(0, 0, WIDE, HIGH),
                Fill(radial((X, 330), 700, (0, "#214452"), (1, "#0c212b"))), locked=True),
        Group(p.take(), "anchor", tuple(parts), (Seams(), CastShadow(0.65, softness=9.0)), lift=18.0),
        p.shape("name", word, solid("#e9d9b0")),
    )  # fmt: skip
    document = p.document(Sheet(WIDE, HIGH, colour("#0c212b")), Lamp(318, 44, 1.0, 0.3), *whole)
    palette = msgspec.structs.replace(document.palette, gradients=(SavedGradient(1, "ribbon", METAL),), next_id=2)
    return msgspec.structs.replace(document, palette=palette)


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
