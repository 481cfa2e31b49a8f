"""Lines of changing width: a profile along a spine becomes an outline.

A profile is a row of (share of the length 0..1, left, right), both sides in multiples of half the line's
width. Between its entries widths run along a monotone cubic, so they never overshoot.
"""

from __future__ import annotations

from contextlib import suppress

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from volumen.geometry.affine import Floats
from volumen.geometry.curve import Ruler, chords_needed, flatten, points_at, ruler, tangents
from volumen.geometry.engine import Cap
from volumen.geometry.fit import fit_points, fit_run
from volumen.geometry.path import Contour, Path, joined, line
from volumen.geometry.winding import simplified

Profile = tuple[tuple[float, float, float], ...]
EVEN: Profile = ((0.0, 1.0, 1.0), (1.0, 1.0, 1.0))
_MOST_STEPS = 60_000  # pieces of a border between which corners are looked for
_FINE = 1e-6  # of its length: what no fit needs to follow
_TOLD_APART = 1e-12
_FIT = 0.03
_TURN = 0.8  # cosine of a turn that counts as a corner


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
    points, directions, shares, bent = _stations(contour, profile)
    left, right = (side * half for side in widths_at(profile, shares))
    if bent * max(float(left.max()), float(right.max())) > 0.85 or contour.closed or _has_corner(directions):
        return _by_union(points, left, right, directions, cap, half, contour.closed)
    normals = _across(directions)
    a, b = points + normals * left[:, None], points - normals * right[:, None]
    tolerance = max(_FIT, half * 0.004)
    rows = fit_run(a, tolerance)
    rows += _cap(a[-1], b[-1], directions[-1], cap)
    rows += fit_run(b[::-1], tolerance)
    rows += _cap(b[0], a[0], -directions[0], cap)
    points = joined(rows)
    points[-1] = points[0]
    return Path((Contour(points, True),))


def _stations(contour: Contour, profile: Profile) -> tuple[Floats, Floats, Floats, float]:
    """Points, tangents and length shares dense enough for both curve and profile; the largest curvature."""
    measure = ruler(contour)
    steps = int(np.clip(chords_needed(contour.segments, 0.02).sum() * 2, 24, 400))
    knots = [p[0] for p in profile]
    corners = _corners(contour, measure) / max(measure.total, 1e-300)
    shares = np.unique(np.concatenate([np.linspace(0, 1, steps + 1), np.clip([*knots, *corners], 0, 1)]).round(9))
    points, directions = points_at(contour, measure.place_at(shares * measure.total))
    angle = np.unwrap(np.arctan2(directions[:, 1], directions[:, 0]))
    step = np.maximum(np.diff(shares) * measure.total, 1e-9)
    bent = float((np.abs(np.diff(angle)) / step).max()) if len(step) else 0.0
    return points, directions, shares, bent


def _corners(contour: Contour, measure: Ruler) -> Floats:
    """Distances along the contour at which it turns at once."""
    segments = contour.segments
    before, after = (
        tangents(segments[:-1], np.ones(len(segments) - 1)),
        tangents(segments[1:], np.zeros(len(segments) - 1)),
    )
    places = 1.0 + np.flatnonzero((before * after).sum(axis=1) < _TURN)
    return np.asarray(np.interp(places, measure.places, measure.distances))


def _has_corner(directions: Floats) -> bool:
    dots = (directions[1:] * directions[:-1]).sum(axis=1)
    return bool((dots < _TURN).any())


def _across(directions: Floats) -> Floats:
    """Unit normals (n, 2) to the left of unit directions."""
    return np.stack([directions[:, 1], -directions[:, 0]], axis=1)


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


def _turn(point: Floats, before: Floats, after: Floats, left: float, right: float) -> shapely.Polygon:
    """The sector between two bands, on the outside of their corner."""
    n, m = _across(np.stack([before, after]))
    side = 1.0 if (n + m) @ (before - after) >= 0 else -1.0
    start = np.arctan2(side * n[1], side * n[0])
    sweep = np.angle(np.exp(1j * (np.arctan2(side * m[1], side * m[0]) - start)))
    angles = start + sweep * np.linspace(0, 1, 2 + int(abs(sweep) / 0.13))
    rim = point + (left if side > 0 else right) * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    return shapely.Polygon([point, *rim])


def _by_union(
    points: Floats, left: Floats, right: Floats, directions: Floats, cap: Cap, half: float, closed: bool
) -> Path:
    """Bands, round corners and caps united as polygons, then fitted: for tight bends, corners and closed spines."""
    chords = np.diff(points, axis=0)
    chords /= np.maximum(np.hypot(chords[:, 0], chords[:, 1]), 1e-300)[:, None]
    # A corner has two directions and its station one of them: each band goes by what is ahead of its own part.
    first, last = (
        np.where(((d * chords).sum(axis=1) < _TURN)[:, None], chords, d) for d in (directions[:-1], directions[1:])
    )
    across_first, across_last = _across(first), _across(last)
    a, b = points[:-1] + across_first * left[:-1, None], points[:-1] - across_first * right[:-1, None]
    c, d = points[1:] + across_last * left[1:, None], points[1:] - across_last * right[1:, None]
    bands = np.stack([a, c, points[1:], d, b, points[:-1], a], axis=1)  # by way of the spine, where sectors meet them
    parts = list(shapely.make_valid(shapely.polygons(bands)))
    turns = (first[1:] * last[:-1]).sum(axis=1) < 1 - 1e-9
    parts += [_turn(points[k + 1], last[k], first[k + 1], left[k + 1], right[k + 1]) for k in np.flatnonzero(turns)]
    meet = closed and max(abs(left[0] - left[-1]), abs(right[0] - right[-1])) < 1e-6
    if closed:
        parts.append(_turn(points[0], last[-1], first[0], min(left[0], left[-1]), min(right[0], right[-1])))
    if not meet:  # a closed line that comes back at another width has two ends in one place
        for p, q, ahead in ((c[-1], d[-1], last[-1]), (b[0], a[0], -first[0])):
            rim, _ = flatten(Contour(joined(_cap(p, q, ahead, cap)), False), 0.01)
            if len(rim) > 3:  # a tip without width has no cap, and a butt none at all
                parts.append(shapely.make_valid(shapely.Polygon(rim)))
    merged = _united(parts, half, float(np.abs(points).max()))
    if closed and min(left.max(), right.max()) == 0:
        merged = _on_one_side(merged, points, bool(right.max() > 0))
    tolerance = max(_FIT, half * 0.01, merged.length * _FINE)
    contours = []
    # Corners next to each other are told apart by what lies between them.
    step = max(half / 4, merged.length / _MOST_STEPS)  # a border of any length ends
    for polygon in shapely.get_parts(shapely.segmentize(merged, step)):
        for ring in (polygon.exterior, *polygon.interiors) if polygon.geom_type == "Polygon" else ():
            if shapely.area(shapely.Polygon(ring)) < max(1e-6, tolerance**2 / 4):
                continue
            contours.append(fit_points(shapely.get_coordinates(ring)[:-1], tolerance, True, 25.0))
    return simplified(Path(tuple(c for c in contours if len(c.points) > 3), True))


def _united(parts: list[BaseGeometry], half: float, far: float) -> BaseGeometry:
    """Parts that share an edge leave no crack on a grid, which numbers as large as ``far`` must be able to tell apart;
    where parts tangle too much for it a coarser one serves."""
    grid = max(half * 1e-5, far * _TOLD_APART)
    for size in (grid, 10 * grid):
        with suppress(shapely.errors.GEOSException):
            return shapely.unary_union(parts, grid_size=size)
    return shapely.unary_union(parts, grid_size=100 * grid)


def _on_one_side(band: BaseGeometry, spine: Floats, right: bool) -> BaseGeometry:
    """A band that lies to one side of a closed spine, without what swept past its corners to the other."""
    body = shapely.Polygon(spine)
    if not body.is_valid:  # a spine that crosses itself has no sides
        return band
    inside = body.exterior.is_ccw == right
    return band.intersection(body) if inside else band.difference(body)
