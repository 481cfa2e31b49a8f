"""Shapes that meet along an edge."""

from __future__ import annotations

import numpy as np

from volumen.geometry.path import clockwise
from volumen.model.ingredients import Fill
from volumen.model.nodes import Node, Shape
from volumen.outline.outlines import outline

_DIGITS = 3  # of a coordinate that two ends have in common


def shared_edges(parent: Node) -> set[int]:
    """The ids of filled children that meet a sibling along a whole segment of their outlines.

    With all outlines run clockwise, two that lie on either side of a segment run along it in opposite directions.
    """
    filled = [
        c for c in parent.children
        if isinstance(c, Shape) and any(isinstance(i, Fill) and i.on for i in c.recipe)
    ]  # fmt: skip
    out: set[int] = set()
    seen: dict[tuple[float, ...], int] = {}  # segments by start and end, and the shape they belong to
    for child in _with_common_ends(filled):
        for contour in outline(child).transformed(child.transform).contours:
            ends = np.round(clockwise(contour).points[::3], _DIGITS)
            for a, b in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True):
                seen[(*a, *b)] = child.id
                other = seen.get((*b, *a), child.id)
                if other != child.id:
                    out |= {other, child.id}
    return out


def _with_common_ends(shapes: list[Shape]) -> list[Shape]:
    """Those of some shapes with a segment whose ends are also those of a segment of another, in whatever order: all
    that may share an edge, found for thousands at once."""
    runs = [(k, c.points[::3]) for k, shape in enumerate(shapes) for c in outline(shape).contours if len(c.points) > 3]
    if not runs:
        return []
    counts = np.array([len(points) for _, points in runs])
    owner = np.repeat([k for k, _ in runs], counts)
    a, b, c, d, e, f = np.array([shapes[k].transform for k, _ in runs])[np.repeat(np.arange(len(runs)), counts)].T
    x, y = np.concatenate([points for _, points in runs]).T
    ends = np.round(np.stack([a * x + c * y + e, b * x + d * y + f], axis=1), _DIGITS)
    last = np.cumsum(counts) - 1
    inner = np.setdiff1d(np.arange(len(ends)), last)  # where a segment starts
    pairs = np.concatenate([ends[inner], ends[inner + 1]], axis=1)
    turned = (pairs[:, 0] > pairs[:, 2]) | ((pairs[:, 0] == pairs[:, 2]) & (pairs[:, 1] > pairs[:, 3]))
    pairs[turned] = pairs[turned][:, (2, 3, 0, 1)]
    _, which, times = np.unique(pairs, axis=0, return_inverse=True, return_counts=True)
    may = np.unique(owner[inner][times[which.ravel()] > 1])
    return [shapes[k] for k in may.tolist()]
