"""Lines of changing width: a profile along a spine becomes an outline.

A profile is a row of (share of the length 0..1, left, right), both sides in multiples of half the line's
width. Between its entries widths run along a monotone cubic, so they never overshoot.
"""

from __future__ import annotations

import numpy as np
import shapely

from volumen.geometry.affine import Floats
from volumen.geometry.curve import chords_needed, points_at, ruler
from volumen.geometry.engine import Cap, simplified
from volumen.geometry.fit import fit_points, fit_run
from volumen.geometry.path import Contour, Path, joined, line

Profile = tuple[tuple[float, float, float], ...]
EVEN: Profile = ((0.0, 1.0, 1.0), (1.0, 1.0, 1.0))
_FIT = 0.03


def widths_at(profile: Profile, shares: Floats) -> tuple[Floats, Floats]:
    """Left and right widths (n,) at shares of the length (n,); never below zero."""
    from scipy.interpolate import PchipInterpolator  # here, as it takes long to load and few lines need it

    rows = np.array(sorted(profile), dtype=np.float64)
    if not len(rows):
        return np.ones_like(shares), np.ones_like(shares)
    _, first = np.unique(rows[:, 0], return_index=True)
    rows = rows[first]
    if len(rows) == 1:
        return np.full_like(shares, max(rows[0, 1], 0)), np.full_like(shares, max(rows[0, 2], 0))
    held = np.clip(shares, rows[0, 0], rows[-1, 0])
    left, right = (PchipInterpolator(rows[:, 0], np.maximum(rows[:, k], 0.0))(held) for k in (1, 2))
    return np.asarray(left), np.asarray(right)


def profiled_outline(path: Path, width: float, profile: Profile, cap: Cap = "round") -> Path:
    """The filled outline of a line of changing width along every contour of ``path``, nonzero filled."""
    out: list[Contour] = []
    for contour in path.contours:
        if len(contour.points) > 3 and width > 0:
            out.extend(_outline(contour, width / 2, profile, cap).contours)
    return Path(tuple(out))


def _outline(contour: Contour, half: float, profile: Profile, cap: Cap) -> Path:
    points, tangents, shares, bent = _stations(contour, profile)
    left, right = (side * half for side in widths_at(profile, shares))
    normals = np.stack([tangents[:, 1], -tangents[:, 0]], axis=1)
    if bent * max(float(left.max()), float(right.max())) > 0.85 or contour.closed or _has_corner(tangents):
        return _by_union(points, left, right, normals, cap, half)
    a, b = points + normals * left[:, None], points - normals * right[:, None]
    tolerance = max(_FIT, half * 0.004)
    rows = fit_run(a, tolerance)
    rows += _cap(a[-1], b[-1], tangents[-1], cap)
    rows += fit_run(b[::-1], tolerance)
    rows += _cap(b[0], a[0], -tangents[0], cap)
    points = joined(rows)
    points[-1] = points[0]
    return Path((Contour(points, True),))


def _stations(contour: Contour, profile: Profile) -> tuple[Floats, Floats, Floats, float]:
    """Points, tangents and length shares dense enough for both curve and profile; the largest curvature."""
    measure = ruler(contour)
    steps = int(np.clip(chords_needed(contour.segments, 0.02).sum() * 2, 24, 400))
    knots = [p[0] for p in profile]
    shares = np.unique(np.concatenate([np.linspace(0, 1, steps + 1), np.clip(knots, 0, 1)]))
    points, tangents = points_at(contour, measure.place_at(shares * measure.total))
    angle = np.unwrap(np.arctan2(tangents[:, 1], tangents[:, 0]))
    step = np.maximum(np.diff(shares) * measure.total, 1e-9)
    bent = float((np.abs(np.diff(angle)) / step).max()) if len(step) else 0.0
    return points, tangents, shares, bent


def _has_corner(tangents: Floats) -> bool:
    dots = (tangents[1:] * tangents[:-1]).sum(axis=1)
    return bool((dots < 0.8).any())


def _cap(a: Floats, b: Floats, ahead: Floats, cap: Cap) -> list[Floats]:
    """From one rail's end round the tip to the other's."""
    across = float(np.hypot(*(b - a)))
    if cap == "butt" or across < 1e-6:
        return [line(a, b)]
    r = across / 2
    if cap == "square":
        p, q = a + ahead * r, b + ahead * r
        return [line(s, e) for s, e in ((a, p), (p, q), (q, b))]
    k = 0.5522847498307936 * r
    tip = (a + b) / 2 + ahead * r
    side = (b - a) / across
    return [np.stack([a, a + ahead * k, tip - side * k, tip]), np.stack([tip, tip + side * k, b + ahead * k, b])]


def _by_union(points: Floats, left: Floats, right: Floats, normals: Floats, cap: Cap, half: float) -> Path:
    """Bands and discs united as polygons, then fitted: for tight bends, corners and closed spines."""
    a, b = points + normals * left[:, None], points - normals * right[:, None]
    bands = np.stack([a[:-1], a[1:], b[1:], b[:-1], a[:-1]], axis=1)
    parts = list(shapely.make_valid(shapely.polygons(bands)))
    centres, radii = (a + b) / 2, (left + right) / 2
    inner = slice(None) if cap == "round" else slice(1, -1)
    parts += list(shapely.buffer(shapely.points(centres[inner]), radii[inner], quad_segs=12))
    merged = shapely.unary_union(parts)
    tolerance = max(_FIT, half * 0.01)
    contours = []
    for polygon in shapely.get_parts(merged):
        if polygon.geom_type != "Polygon" or polygon.area < 1e-6:
            continue
        for ring in (polygon.exterior, *polygon.interiors):
            contours.append(fit_points(shapely.get_coordinates(ring)[:-1], tolerance, True, 25.0))
    return simplified(Path(tuple(c for c in contours if len(c.points) > 3), True))
