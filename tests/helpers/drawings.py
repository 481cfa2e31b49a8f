"""Flat drawings by the dozen: icons, emblems, scenes and lettering of made-up things, seeded."""

from __future__ import annotations

import math
import random

from volumen.model.make import circle, corner, path_form, smooth, solid
from volumen.model.nodes import Document, Group, Node, RectangleForm, Shape, Sheet, TextForm
from volumen.shading.paint import colour

COLOURS = ("#c8402a", "#2b8577", "#efe3cb", "#1f3b57", "#d8862e", "#7a2f57", "#3f7ea6", "#f2c14e", "#14212b", "#8fae5d")


def drawing(seed: int, most: int = 30) -> Document:
    """A sheet with up to ``most`` flat pieces, of any size, nested in groups, some turned, some on one another."""
    r = random.Random(seed)
    side = r.choice((24.0, 200.0, 800.0, 2400.0))
    free = iter(range(1, 10_000))

    def piece(cx: float, cy: float, size: float) -> Shape:
        k, form = r.randrange(7), None
        if k == 0:
            form = circle(cx, cy, size / 2)
        elif k == 1:
            form = circle(cx, cy, size / 2, size / r.uniform(3, 9))
        elif k == 2:
            form = RectangleForm(cx - size / 2, cy - size / 3, size, size / 1.5, r.choice((0.0, size / 10)))
        elif k == 3:
            form = TextForm(r.choice(("KELDER", "Quay 7", "tea")), size=size / 2, x=cx - size / 2, y=cy)
        elif k == 4:
            n = r.randrange(5, 9)
            form = path_form(*(corner(cx + size / (2 + k % 2) * math.cos(6.3 * k / n), cy + size / (2 + k % 2) * math.sin(6.3 * k / n)) for k in range(n)))  # fmt: skip
        else:
            n = r.randrange(4, 8)
            turns = [(6.283 * k / n, size / 2 * r.uniform(0.5, 1.0)) for k in range(n)]
            form = path_form(*(smooth(cx + q * math.cos(a), cy + q * math.sin(a), -q * math.sin(a), q * math.cos(a)) for a, q in turns))  # fmt: skip
        return Shape(next(free), "piece", form, (solid(r.choice(COLOURS)),))

    def several(count: int, cx: float, cy: float, size: float, depth: int) -> tuple[Node, ...]:
        out: list[Node] = []
        for _ in range(count):
            x, y = cx + r.uniform(-0.5, 0.5) * size, cy + r.uniform(-0.5, 0.5) * size
            out.append(piece(x, y, size * r.uniform(0.08, 0.6)))
            if depth and r.random() < 0.2:
                t = r.uniform(0, 0.5)
                turn = (math.cos(t), math.sin(t), -math.sin(t), math.cos(t), 0.0, 0.0)
                inner = several(r.randrange(1, 5), x, y, size / 3, depth - 1)
                out.append(Group(next(free), "group", inner, transform=r.choice((turn, (1, 0, 0, 1, 0, 0)))))
        return tuple(out)

    ground = Shape(next(free), "ground", RectangleForm(0, 0, side, side), (solid(r.choice(COLOURS)),))
    nodes = several(r.randrange(3, most // 2 + 3), side / 2, side / 2, side * 0.9, 2)
    clear = r.random() < 0.3
    root = Group(0, "pile", nodes if clear else (ground, *nodes))
    return Document(Sheet(side, side, None if clear else colour("#ffffff")), root=root, next_id=next(free))
