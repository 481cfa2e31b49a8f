"""Paths as the polygons of an engine that none of our booleans uses."""

import shapely

from volumen.geometry.curve import flatten


def as_polygon(path):
    """The area of a path by GEOS, an engine that none of our booleans uses."""
    shown = [flatten(c, 0.005)[0] for c in path.contours]
    rings = [shapely.Polygon(p).buffer(0) for p in shown if len(p) > 3]  # a single cubic may be a loop
    out = shapely.Polygon()
    for ring in rings:  # even-odd
        out = out.symmetric_difference(ring)
    return out
