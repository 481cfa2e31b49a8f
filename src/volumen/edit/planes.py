"""The planes of an isometric cube: what is drawn flat laid on one of them."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

import msgspec

from volumen.edit.objects import selection_box, transform
from volumen.model.ingredients import Block, Recipe
from volumen.model.nodes import Document
from volumen.model.tree import update_nodes

replace = msgspec.structs.replace
Plane = Literal["left", "right", "upper"]
_C, _S = math.cos(math.radians(30)), math.sin(math.radians(30))
# Where the flat x and y axes lie on each plane, and the bearing to which its depth goes back.
_PLANES: dict[Plane, tuple[tuple[float, float, float, float], float]] = {
    "left": ((_C, _S, 0.0, 1.0), 60.0),
    "right": ((_C, -_S, 0.0, 1.0), 300.0),
    "upper": ((_C, _S, -_C, _S), 180.0),
}


def laid_on_plane(document: Document, ids: Iterable[int], plane: Plane) -> Document:
    """Objects, drawn flat, laid on a plane of an isometric cube about the middle of each; blocks go straight back."""
    linear, bearing = _PLANES[plane]
    for i in ids:
        box = selection_box(document, [i])
        if box is None:
            continue
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        a, b, c, d = linear
        document = transform(document, [i], (a, b, c, d, x - a * x - c * y, y - b * x - d * y))
        document = update_nodes(document, [i], lambda n: replace(n, recipe=_straight_back(n.recipe, bearing)))
    return document


def _straight_back(recipe: Recipe, bearing: float) -> Recipe:
    return tuple(replace(i, angle=bearing, point=None) if isinstance(i, Block) else i for i in recipe)
