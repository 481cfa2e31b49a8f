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


def laid_on_plane(
    document: Document, ids: Iterable[int], plane: Plane, left: float = 30.0, right: float = 30.0
) -> Document:
    """Objects, drawn flat, laid on a plane of a cube about the middle of each; blocks go straight back.

    The lower edges of the cube rise to the left at ``left`` and to the right at ``right`` degrees: 30 and 30 are an
    isometric cube. Raises ValueError for angles that no cube shows.
    """
    (a, b, c, d), bearing = plane_of(plane, left, right)
    for i in ids:
        box = selection_box(document, [i])
        if box is None:
            continue
        x, y = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        document = transform(document, [i], (a, b, c, d, x - a * x - c * y, y - b * x - d * y))
        document = update_nodes(document, [i], lambda n: replace(n, recipe=_straight_back(n.recipe, bearing)))
    return document


def plane_of(plane: Plane, left: float, right: float) -> tuple[tuple[float, float, float, float], float]:
    """Where the flat x and y axes lie on a plane of a cube, and the bearing to which its depth goes back.

    Upright edges keep their length; the others are as long as the parallel projection of a cube has them, for the
    squares of the projected edges, as complex numbers, sum to nothing (Gauss's theorem of axonometry).
    """
    if not (left > 0 and right > 0 and left + right < 90):
        raise ValueError("no cube looks like that: both angles are above 0, and together below 90 degrees")
    both = math.sin(math.radians(2 * (left + right)))
    p, q = (math.sqrt(math.sin(math.radians(2 * other)) / both) for other in (right, left))
    to_left = (p * math.cos(math.radians(left)), p * math.sin(math.radians(left)))  # falling towards the front corner
    to_right = (q * math.cos(math.radians(right)), -q * math.sin(math.radians(right)))  # rising from it
    if plane == "left":
        return (*to_left, 0.0, 1.0), 90.0 - right
    if plane == "right":
        return (*to_right, 0.0, 1.0), 270.0 + left
    return (*to_left, -to_right[0], -to_right[1]), 180.0


def _straight_back(recipe: Recipe, bearing: float) -> Recipe:
    return tuple(replace(i, angle=bearing, point=None) if isinstance(i, Block) else i for i in recipe)
