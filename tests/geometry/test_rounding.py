"""Rounded corners: closed forms on lines, tangents on curves, and both ways against each other."""

import math

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from polygons import as_polygon
from volumen.geometry.boolean import boolean
from volumen.geometry.curve import flatten
from volumen.geometry.path import Contour, Path, contour_from_lines
from volumen.geometry.primitives import ellipse, rectangle, star
from volumen.geometry.rounding import corners, round_corners


def test_rounding_replaces_corners_by_tangent_arcs():
    square = rectangle(0, 0, 100, 100)
    assert len(corners(square)) == 4
    assert corners(ellipse(0, 0, 10, 10)) == []
    rounded = round_corners(square, 20)
    assert as_polygon(rounded).area == pytest.approx(100**2 - (4 - math.pi) * 400, rel=1e-4)
    assert as_polygon(round_corners(square, 500)).area == pytest.approx(math.pi * 2500, rel=1e-3), "held to what fits"
    one = round_corners(square, 0, {0: 30}, all_corners=False)
    assert as_polygon(one).area == pytest.approx(100**2 - (1 - math.pi / 4) * 900, rel=1e-4)
    # a curved corner: the arc meets both sides without a kink
    lens = boolean(ellipse(0, 0, 60, 60), ellipse(70, 0, 60, 60), "intersect")
    soft = round_corners(lens, 8)
    for c in soft.contours:
        a, b = c.points[3::3] - c.points[2::3], np.roll(c.points[:-1], -3, axis=0)[1::3] - c.points[3::3]
        turn = np.abs(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / (np.hypot(*a.T) * np.hypot(*b.T))
        assert turn.max() < 5e-3
    sharp = round_corners(star(0, 0, 100, 100, 5, 0.4), 6)
    assert corners(sharp) == []


@given(st.integers(0, 10**6), st.booleans(), st.sampled_from((0.3, 3.0, 12.0)))
@settings(max_examples=40, deadline=None)
def test_corners_between_lines_are_those_that_are_searched_between_curves(seed, closed, radius):
    """Sides cut in two are no single lines any more, and take the way of curves: both find the same arcs."""
    points = np.random.default_rng(seed).normal(0, 100, (6, 2))
    path = Path((contour_from_lines(points, closed),))
    halved = Path(
        (contour_from_lines(np.stack([points, (points + np.roll(points, -1, 0)) / 2], 1).reshape(-1, 2), closed),)
    )
    if not closed:
        halved = Path((Contour(halved.contours[0].points[:-3], False),))
    a, b = (shapely.LineString(flatten(round_corners(p, radius).contours[0], 1e-4)[0]) for p in (path, halved))
    # A corner without room is found to a 16,384th of the radius there, exactly here; its arc then ends up to a hundred
    # times as far off, as it is that steep.
    assert a.hausdorff_distance(b) < 0.05 * radius


def test_an_arc_touches_lines_where_the_closed_form_says_and_takes_no_more_than_there_is():
    corner = Path((contour_from_lines(np.array([(0.0, 100.0), (0.0, 0.0), (40.0, 30.0)]), False),))
    half = math.atan2(40, 30) / 2  # (0, 1) and (40, 30): 53.13 degrees apart
    for radius in (0.5, 5.0, 20.0):
        start, end = round_corners(corner, radius).contours[0].points[[3, -4]]
        assert start == pytest.approx((0, radius / math.tan(half)), abs=1e-9)
        assert end == pytest.approx(np.array((0.8, 0.6)) * radius / math.tan(half), abs=1e-9)
    for radius in (30.0, 1e7):  # the shorter line ends freely: it is taken whole, and the longer one stays a line
        points = round_corners(corner, radius).contours[0].points
        assert points[3] == pytest.approx((0, 50), abs=1e-5) and points[0] == pytest.approx((0, 100))
        assert np.diff(flatten(Contour(points, False), 0.01)[0][:, 1])[0] < 0
