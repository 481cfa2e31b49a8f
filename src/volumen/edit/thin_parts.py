"""Parts of what is drawn that are thinner than a press prints or a blade cuts: slivers that are filled, lines that
taper."""

from __future__ import annotations

from typing import Any

import shapely

from volumen.geometry.affine import Affine
from volumen.geometry.polygons import polygons_of
from volumen.model.ingredients import Line
from volumen.model.nodes import Node, Shape, TextForm
from volumen.outline.lines import is_filled, line_outline
from volumen.outline.outlines import outline

_LONG = 12.0  # times the least width that a part is long, so that it is told: tips and corners are shorter
_MOST_POINTS = 20_000  # of an outline that is looked at


def thin_part(node: Node, world: Affine, least: float) -> tuple[str, float] | None:
    """What of a shape is thinner than ``least`` (units on the sheet), in a word, and how long that part is; None where
    nothing is. Letters are judged by their size, lines of one width by that."""
    if not isinstance(node, Shape) or isinstance(node.form, TextForm):
        return None
    path = outline(node, world)
    if sum(len(c.points) for c in path.contours) > _MOST_POINTS:
        return None
    if is_filled(node, path):
        long = _thin_length(polygons_of(path.transformed(world), least / 8), least)
        if long > 0:
            return "part", long
    for i in node.recipe:
        if isinstance(i, Line) and i.on and i.width > 0 and i.profile:
            band = line_outline(path, i, world).transformed(world)
            long = _thin_length(polygons_of(band, least / 8), least)
            if long > 0:
                return "tapering line", long
    return None


def _thin_length(area: Any, least: float) -> float:
    """How long the longest part of an area is where no disc as wide as ``least`` fits."""
    if area.is_empty:
        return 0.0
    kept = area.buffer(-least / 2 * (1 - 1e-3)).buffer(least / 2)
    rest = shapely.get_parts(area.difference(kept))
    # A part of a length l that is at most as wide as ``least`` has an outline of 2 l, and its ends.
    long = max((part.length / 2 for part in rest if part.area > 0), default=0.0)
    return float(long) if long > _LONG * least else 0.0
