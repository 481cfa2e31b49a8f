"""The figures of live generators: frames while a lamp, a path point, a depth or strewn copies are dragged."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import msgspec
import numpy as np

from volumen.bench.measuring import SIZE, Row, frame_row, frame_times, ready_client, turned_lamp
from volumen.edit.objects import transform
from volumen.geometry.affine import translation
from volumen.model.ingredients import Block, Body, Sliver
from volumen.model.make import circle, corner, path_form, smooth, solid
from volumen.model.nodes import Document, Group, PathForm, RaysForm, Shape, Sheet, TextForm
from volumen.model.points import PathRun
from volumen.model.repeats import Course, Ring, Scatter
from volumen.model.tree import update_nodes
from volumen.shading.lamp import Lamp

replace = msgspec.structs.replace
Change = Callable[[Document, int], Document]


def generators(quick: bool) -> Iterator[Row]:
    """Each drag against the frame goals."""
    client = ready_client()
    try:
        for what, document, change in (
            ("drag lamp, ring of 24 lit facets", _facets(), turned_lamp),
            ("drag a path point, 60 motifs of 30 points", _motifs(), _point_dragged),
            ("drag a point of the bound of 200 rays", _rays(), _bound_dragged),
            ("drag depth, block of 12 letters", _letters(), _deeper),
            ("move 528 scattered copies", _strewn(), _moved),
        ):
            times = frame_times(client, document, 1.0, change, 8 if quick else 40)
            yield frame_row(what, times, "16 ms and 33 ms", "<= 1x and <= 1x")
    finally:
        client.close()


def _document(*nodes: Group | Shape) -> Document:
    return Document(Sheet(float(SIZE[0]), float(SIZE[1])), Lamp(), Group(0, "pile", nodes), 100)


def _facets() -> Document:
    form = path_form(corner(620, 120), corner(660, 120), corner(676, 220), corner(604, 220))
    facet = Shape(
        1, "facet", form, (solid("#c98f35"), Body("tube", "brass"), Sliver("light", depth=3.0, blend="screen"))
    )
    return _document(Group(2, "ring", (facet,), (Ring((640.0, 400.0), 24),)))


def _motifs() -> Document:
    """A leaf of 30 points sixty times on a path of ten."""
    angle = np.linspace(0, 2 * math.pi, 31)[:-1]
    rows = [(20 + 9 * math.cos(t), 10 + (6 + (k % 2)) * math.sin(t)) for k, t in enumerate(angle.tolist())]
    leaf = Shape(1, "leaf", path_form(*(smooth(x, y, -math.sin(t), math.cos(t)) for (x, y), t in zip(rows, angle.tolist(), strict=True))), (solid("#2b8577"),))  # fmt: skip
    points = [smooth(80 + 124 * k, 400 + 160 * math.sin(k), 50, 30 * math.cos(k)) for k in range(10)]
    path = Shape(2, "path", path_form(*points, closed=False), (), member=True)
    return _document(Group(3, "garland", (path, leaf), (Course("repeat", gap=4.0, most=60),)))


def _point_dragged(document: Document, i: int) -> Document:
    def change(n: Shape) -> Shape:
        (run,) = n.form.runs  # type: ignore[union-attr]
        points = list(run.points)
        x, y = points[4].at
        points[4] = smooth(x + 2.0 * i, y + 3.0 * i, 50, 20)
        return replace(n, form=replace(n.form, runs=(PathRun(tuple(points), False),)))

    return update_nodes(document, [2], change)  # type: ignore[arg-type]


def _rays() -> Document:
    bound = Shape(2, "bound", _bound(0), (), member=True)
    core = Shape(3, "core", circle(540, 340, 140, 120), (), member=True)
    form = RaysForm(centre=(540.0, 340.0), count=200, reach=600.0, held="both")
    return _document(Shape(1, "rays", form, (solid("#ffcc55"),), (bound, core)))


def _bound(i: int) -> PathForm:
    return path_form(smooth(540, 40 + i, 260, 0), smooth(980 - i, 340, 0, 160), smooth(540, 640, -260, 0),
                     smooth(100, 340, 0, -160))  # fmt: skip


def _bound_dragged(document: Document, i: int) -> Document:
    return update_nodes(document, [2], lambda n: replace(n, form=_bound(i)))


def _letters() -> Document:
    word = Shape(
        1,
        "word",
        TextForm("KELDER SOUND", size=150),
        (solid("#d8862e"), Block(30.0, 135.0)),
        transform=translation(60, 420),
    )
    return _document(word)


def _deeper(document: Document, i: int) -> Document:
    return update_nodes(document, [1], lambda n: replace(n, recipe=(n.recipe[0], Block(30.0 + i, 135.0))))


def _strewn() -> Document:
    inside = Shape(1, "area", circle(640, 400, 560, 360), (), member=True)
    pebble = Shape(2, "pebble", circle(640, 400, 7), (solid("#c9b48a"), Body("ball", "stone")))
    return _document(Group(3, "pebbles", (inside, pebble), (Scatter(count=528, distance=15.0, tint=20.0),)))


def _moved(document: Document, i: int) -> Document:
    return transform(document, [3], translation(2.0 * i, i))
