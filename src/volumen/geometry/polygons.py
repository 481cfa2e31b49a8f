"""Paths as areas and lines of the polygon library."""

from __future__ import annotations

from typing import Any

import shapely

from volumen.geometry.curve import flatten
from volumen.geometry.path import Path


def polygons_of(path: Path, tolerance: float = 0.1) -> Any:
    """The area that a path encloses, its holes left out, as a shapely geometry; curves within a ``tolerance``."""
    rings = [points for c in path.contours if len(points := flatten(c, tolerance)[0]) > 3]
    whole = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    return whole


def lines_of(path: Path, tolerance: float) -> shapely.MultiLineString:
    """The courses of a path's contours, curves within a ``tolerance``; those without a length left out."""
    runs = (flatten(c, tolerance)[0] for c in path.contours)
    return shapely.MultiLineString([points for points in runs if len(points) > 1])
