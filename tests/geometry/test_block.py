"""Walls of outlines with depth, against polygons swept by another library: no gap, no overlap, which side they face."""

from __future__ import annotations

import math
import os
import string

import numpy as np
import pytest
from shapely import union_all
from shapely.geometry import MultiPoint, Polygon

from volumen.geometry.affine import translation
from volumen.geometry.block import walls
from volumen.geometry.curve import flatten
from volumen.geometry.depth import Along, Towards
from volumen.geometry.path import Contour, Path, contour_from_lines
from volumen.geometry.primitives import ellipse, polygon, rectangle, star
from volumen.geometry.winding import simplified
from volumen.model.nodes import TextForm
from volumen.outline.outlines import source

CHORD = 1e-3
LETTERS = string.ascii_letters + string.digits + "&"
FACES = [
    ("Vollkorn", "SemiBold"), ("Vollkorn", "Italic"), ("Bebas Neue", "Regular"), ("Figtree", "Regular"),
    ("Figtree", "Medium"), ("Figtree", "SemiBold"), ("Figtree", "Bold"), ("Pacifico", "Regular"), ("Zilla Slab", "Bold"),
]  # fmt: skip
# To both sides, along edges, steep and deep.
SHIFTS = ((30, 18), (-25, 40), (0, -12), (-70, 0))


def letter(text, size=100, face=("Vollkorn", "SemiBold")):
    return simplified(source(TextForm(text, *face, size=size)))


def each_letter():
    """Each letter in a face and towards a side, so that all faces and sides have their turn; all of them, 63 letters
    in 9 faces towards 4 sides, are tested with ``VOLUMEN_ALL_LETTERS`` set."""
    rows = [(t, f, s) for t in LETTERS for f in FACES for s in SHIFTS]
    if os.environ.get("VOLUMEN_ALL_LETTERS"):
        return rows
    return [rows[k * 36 + k * 7 % 36] for k in range(len(LETTERS))]


def region(path):
    """The area of a clean outline as polygons."""
    rings = [flatten(c, CHORD)[0] for c in path.contours]
    outer = [Polygon(r) for c, r in zip(path.contours, rings, strict=True) if c.area() > 0]
    holes = [Polygon(r) for c, r in zip(path.contours, rings, strict=True) if c.area() < 0]
    return union_all([p.buffer(0) for p in outer]).difference(union_all([h.buffer(0) for h in holes]))


def swept(path, back):
    """All that the outline sweeps on its way to the back: each chord's way is a convex quadrilateral."""
    ways = [region(path)]
    for c in path.contours:
        ring = flatten(c, CHORD)[0]
        ring = np.concatenate([ring, ring[:1]])
        there = back(ring)
        ways += [MultiPoint([ring[k], ring[k + 1], there[k + 1], there[k]]).convex_hull for k in range(len(ring) - 1)]
    return union_all(ways)


def holds(path, depth):
    """The walls of an outline, which with it fill just what it sweeps, each place once."""
    made = walls(path, depth)
    front, whole = region(path), swept(path, depth.back)
    sides = [region(simplified(w.path)) for w in made]
    together = union_all([front, *sides])
    # Chords of 1e-3 leave that much beside each unit of edge: the share falls with them, as 1e-4 shows.
    edge = whole.length + front.length
    assert whole.symmetric_difference(together).area < 4 * CHORD * edge
    gaps = whole.difference(together).buffer(-0.002)
    assert gaps.is_empty, "no gap is thicker than 0.002"
    assert sum(abs(w.path.area()) for w in made) + path.area() == pytest.approx(together.area, rel=2e-4)
    return made


@pytest.mark.parametrize(("text", "face", "shift"), each_letter())
def test_walls_of_letters_fill_what_they_sweep(text, face, shift):
    holds(letter(text, face=face), Along(shift))


@pytest.mark.parametrize(("point", "share"), [((30, 200), 0.3), ((25, -30), 0.2), ((400, -200), 0.15)])
@pytest.mark.parametrize("text", "aBgE&")
def test_walls_towards_a_point_fill_what_they_sweep(text, point, share):
    path = letter(text)
    holds(path, Towards(point, share, path.bounds()))


@pytest.mark.parametrize(
    "path",
    [
        rectangle(0, 0, 50, 20), ellipse(40, 40, 30, 20), polygon(0, 0, 40, 40, 5), star(0, 0, 40, 40, 5, 0.4),
        Path((ellipse(0, 0, 40, 40).contours[0], Contour(ellipse(0, 0, 36, 36).contours[0].points[::-1].copy(), True))),
        rectangle(1e5, -1e5, 50, 20), rectangle(0, 0, 50, 20, 5),
    ],
    ids=["rectangle", "ellipse", "pentagon", "star", "ring", "far away", "rounded"],
)  # fmt: skip
@pytest.mark.parametrize("shift", [(20, 0), (20, 1e-6), (3, 4), (-400, 300), (1e-5, 1e-5)])
def test_plain_forms_along_edges_and_at_any_depth(path, shift):
    holds(path, Along(shift))


def test_a_wall_stands_on_the_side_it_faces():
    right, below = walls(rectangle(0, 0, 40, 20), Along((10, 5)))
    if right.normals[0][0] < 0.5:
        right, below = below, right
    assert np.allclose(right.normals, (1, 0)) and np.allclose(below.normals, (0, 1))
    assert right.path.bounds() == pytest.approx((40, 0, 50, 25))
    assert below.path.bounds() == pytest.approx((0, 20, 50, 25))


def test_a_curve_is_one_wall_and_its_normals_turn_along_it():
    (only,) = walls(ellipse(0, 0, 30, 30), Along((0, 10)))
    turned = np.degrees(np.unwrap(np.arctan2(only.normals[:, 1], only.normals[:, 0])))
    assert abs(turned[-1] - turned[0]) == pytest.approx(180, abs=0.5)
    assert np.allclose(only.edge / 30, only.normals, atol=2e-3)  # of a circle of four cubics
    assert abs(only.path.area()) == pytest.approx(60 * 10, rel=1e-3), "all across, the depth long"


def test_neighbouring_letters_stand_before_one_anothers_walls():
    pair = Path((*rectangle(0, 0, 20, 40).contours, *rectangle(25, 0, 20, 40).contours))
    made = holds(pair, Along((15, 0)))
    assert sorted(round(abs(w.path.area())) for w in made) == [200, 600], "the gap is 5, then the next one hides it"


def test_nothing_to_see_without_depth_or_area():
    assert walls(Path(), Along((3, 4))) == []
    line = Path((Contour(np.array([[0, 0], [1, 0], [2, 0], [3, 0]], float), False),))
    assert walls(line, Along((3, 4))) == []


def test_walls_move_with_their_outline():
    a, b = letter("g"), letter("g").transformed(translation(1000, -500))
    for x, y in zip(walls(a, Along((9, 14))), walls(b, Along((9, 14))), strict=True):
        assert (
            np.abs(
                np.concatenate([c.points for c in x.path.transformed(translation(1000, -500)).contours])
                - np.concatenate([c.points for c in y.path.contours])
            ).max()
            < 1e-6
        )
    assert math.isclose(Along((9, 12)).far, 15)


def test_tiny_walls_belong_to_a_neighbour():
    """A corner cut by a hair leaves a wall of less than a square unit: it is a part of the one beside it."""
    cut = Path((contour_from_lines([(0, 0), (100, 0), (100, 99.99), (99.99, 100), (0, 100)]),))
    made = walls(cut, Along((20, 20)))
    assert len(made) == 2 and sorted(len(w.path.contours) for w in made) == [1, 2]
    holds(cut, Along((20, 20)))
    lone = Path((contour_from_lines([(0, 0), (0.01, 0), (0.01, 100), (0, 100)]),))
    assert sum(abs(w.path.area()) for w in walls(lone, Along((0, 20)))) == pytest.approx(0.2), (
        "what has no neighbour stays"
    )


def test_what_would_take_minutes_and_all_memory_has_no_walls():
    """Arcs by slabs: a star of 1000 points has 750,000, and took 20 GB for some of its kind; one of 100 has its walls."""
    depth = Along((20, 14))
    assert walls(star(200, 200, 150, 150, 1000, 0.3), depth) == []
    assert len(walls(star(200, 200, 150, 150, 100, 0.3), depth)) > 50
