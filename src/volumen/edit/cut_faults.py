"""What would go wrong at the cutter: lines that the blade would follow twice."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import shapely

from volumen.geometry.affine import Affine
from volumen.geometry.polygons import lines_of
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Document, Shape
from volumen.model.sheet import PER_UNIT
from volumen.model.tree import place_of, seen_chains
from volumen.outline.outlines import outline

MM = PER_UNIT["mm"]
_APART = 0.1 * MM  # lines nearer than this are one cut
_LEAST = 1.0 * MM  # of a way along another line: below it lines only cross


def double_cuts(document: Document, only: set[int]) -> Iterator[tuple[int, str, float]]:
    """Shapes whose outline runs along that of one before them, back to front: the node, the name of the other, and how
    far (user units). ``only`` these are cut, where there are any."""
    known: list[tuple[str, Any]] = []
    for node, world in _cut_shapes(document):
        if only and node.id not in only:
            continue
        edge = lines_of(outline(node).transformed(world), _APART / 4)
        if edge.is_empty:
            continue
        boxes = shapely.box(*edge.bounds).buffer(_APART)
        for name, other in known:
            if boxes.intersects(shapely.box(*other.bounds)):
                long = edge.intersection(other.buffer(_APART, cap_style="flat")).length
                if long > _LEAST:
                    yield node.id, name, float(long)
                    break
        known.append((node.name, edge))


def _cut_shapes(document: Document) -> Iterator[tuple[Shape, Affine]]:
    for chain in seen_chains(document):
        node = chain[-1]
        if isinstance(node, Shape) and any(isinstance(i, Fill | Line) and i.on for i in node.recipe):
            yield node, place_of(chain)
