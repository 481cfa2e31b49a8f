"""Mirrored halves against the polygons of both halves, and the seam bit by bit."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely import affinity

from volumen.geometry.affine import rotation
from volumen.geometry.curve import flatten
from volumen.geometry.halves import whole_of_half
from volumen.geometry.path import Contour, Path
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.make import corner, path_form, smooth
from volumen.model.nodes import TextForm
from volumen.outline.forms import source_outline
from volumen.outline.outlines import source


def polygon(path):
    """The even-odd area of chords within a thousandth of a unit."""
    area = shapely.Polygon()
    for c in path.contours:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(flatten(c, 1e-3)[0])))
    return area


FORMS = {
    "disc off the middle": ellipse(70, 60, 40, 30), "frame": Path((*rectangle(20, 20, 90, 60).contours, *ellipse(70, 50, 15, 15).contours), True),
    "S": source_outline(TextForm("S", size=120, x=20, y=110)), "B": source_outline(TextForm("B", size=120, x=20, y=110)),
    "beside it": ellipse(30, 60, 20, 20),
}  # fmt: skip


@pytest.mark.parametrize("angle", [90.0, 0.0, 63.0])
@pytest.mark.parametrize("name", FORMS)
def test_the_whole_is_the_half_and_its_image(name, angle):
    path, centre = FORMS[name], (62.0, 58.0)
    path = path if path.evenodd else Path(path.contours, True)
    area = polygon(path)
    made = whole_of_half(path, centre, angle)
    turn = affinity.rotate(shapely.box(-1e4, 0, 1e4, 1e4), angle, origin=(0, 0))
    halves = [
        area.intersection(affinity.translate(t, *centre)) for t in (turn, affinity.rotate(turn, 180, origin=(0, 0)))
    ]
    best = min(polygon(made).symmetric_difference(half.union(mirrored(half, centre, angle))).area for half in halves)
    assert best < 0.35  # the reference's own chords, over some hundred units of outline
    other = whole_of_half(path, centre, angle, other=True)
    assert abs(polygon(made).area + polygon(other).area - 2 * area.area) < 0.7


def mirrored(half, centre, angle):
    t = np.radians(2 * angle)
    c, s = np.cos(t), np.sin(t)
    x, y = centre
    return affinity.affine_transform(half, [c, s, s, -c, x - c * x - s * y, y - s * x + c * y])


@pytest.mark.parametrize("name", ["disc off the middle", "S", "B"])
def test_the_seam_is_exact_and_both_halves_have_the_same_points(name):
    made = whole_of_half(FORMS[name], (62.0, 58.0), 90.0)
    points = np.concatenate([c.points[:-1] for c in made.contours])
    on = points[np.abs(points[:, 0] - 62.0) < 1e-3]
    assert len(on) >= 2
    assert (on[:, 0] == 62.0).all(), "bit by bit"
    image = points * (-1, 1) + (124.0, 0)
    apart = np.hypot(*(image[:, None] - points[None]).transpose(2, 0, 1)).min(axis=1)
    assert apart.max() < 1e-12


def test_an_open_half_becomes_a_closed_whole_or_one_longer_line():
    half = source(path_form(corner(60, 10), smooth(20, 50, 0, 20), corner(60, 90), closed=False))
    made = whole_of_half(half, (60.0, 50.0), 90.0)
    assert [c.closed for c in made.contours] == [True]
    assert made.bounds()[2] == pytest.approx(120 - made.bounds()[0])
    hook = source(path_form(corner(60, 10), corner(20, 50), closed=False))
    (line,) = whole_of_half(hook, (60.0, 50.0), 90.0).contours
    assert (not line.closed and line.points[[0, -1]].tolist() == [[100, 50], [20, 50]]) or line.points[
        [0, -1]
    ].tolist() == [[20, 50], [100, 50]]
    assert len(line.points) == 7


def test_turned_with_its_axis_it_is_the_same_turned():
    turn = rotation(33.0, (10, 20))
    made = whole_of_half(FORMS["B"], (62.0, 58.0), 90.0).transformed(turn)
    x, y = np.array([62.0, 58.0]) @ np.array([[turn[0], turn[1]], [turn[2], turn[3]]]) + turn[4:]
    again = whole_of_half(FORMS["B"].transformed(turn), (float(x), float(y)), 123.0)
    assert polygon(made).symmetric_difference(polygon(again)).area < 1e-3


def test_what_has_no_points_stays():
    assert not whole_of_half(Path(), (0, 0), 10.0)
    speck = Path((Contour(np.zeros((1, 2)), False),))
    assert whole_of_half(speck, (0, 0), 10.0) is speck
