"""Shapes that meet along an edge."""

from __future__ import annotations

import numpy as np

from volumen.geometry.path import clockwise
from volumen.model.ingredients import Fill
from volumen.model.nodes import Node, Shape
from volumen.outline.outlines import outline


def shared_edges(parent: Node) -> set[int]:
    """The ids of filled children that meet a sibling along a whole segment of their outlines.

    With all outlines run clockwise, two that lie on either side of a segment run along it in opposite directions.
    """
    out: set[int] = set()
    seen: dict[tuple[float, ...], int] = {}  # segments by start and end, and the shape they belong to
    for child in parent.children:
        if not isinstance(child, Shape) or not any(isinstance(i, Fill) and i.on for i in child.recipe):
            continue
        for contour in outline(child).transformed(child.transform).contours:
            ends = np.round(clockwise(contour).points[::3], 3)
            for a, b in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True):
                seen[(*a, *b)] = child.id
                other = seen.get((*b, *a), child.id)
                if other != child.id:
                    out |= {other, child.id}
    return out
