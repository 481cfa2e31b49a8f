"""Rays against an independent polygon library, and what must not change with their number."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from scenes import disc, document
from volumen.edit import objects, rays
from volumen.geometry.affine import scaling
from volumen.geometry.boolean import boolean
from volumen.geometry.curve import flatten
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.geometry.primitives import cloud, ellipse, rectangle, star
from volumen.geometry.ray_clip import cut_to
from volumen.geometry.rays import Burst, ray_polygons, rays_within
from volumen.geometry.winding import simplified
from volumen.model.nodes import RaysForm, Shape, TextForm
from volumen.model.tree import find, members
from volumen.outline.forms import source_outline
from volumen.outline.outlines import outline

BURST = Burst(True, (400.0, 350.0), 7.0, 360.0, 120, 0.0, 600.0, 0.1, 0.5, 0.6, 0.3, 0.3, 3)


def polygon(path, chord=1e-4):
    area = shapely.Polygon()
    for c in path.contours:
        area = area.symmetric_difference(shapely.make_valid(shapely.Polygon(flatten(c, chord)[0])))
    return area


def glyph(letter):
    return simplified(source_outline(TextForm(letter, size=700, x=120, y=620)))


OUTERS = {
    "cloud": cloud(0, 0, 800, 700, 9, 0.8), "star": star(400, 350, 380, 330, 7, 0.5), "sheet": rectangle(0, 0, 800, 700),
    **{k: glyph(k) for k in "aegB8&SQ%"},
}  # fmt: skip


@pytest.mark.parametrize("name", OUTERS)
def test_cut_rays_have_the_area_that_the_polygon_library_finds_ray_by_ray(name):
    region = OUTERS[name]
    reference, worst = polygon(region), 0.0
    shapely.prepare(reference)
    rng = np.random.default_rng(len(name) + ord(name[0]))
    for seed in range(6):
        at = (float(rng.uniform(0, 800)), float(rng.uniform(0, 700)))
        b = BURST._replace(centre=at, seed=seed, narrow=float(rng.random()), widest=float(rng.random()))
        made = cut_to(ray_polygons(b), region)
        whole = np.setdiff1d(np.arange(b.number), made.failed)
        assert len(made.failed) <= 2
        wanted = shapely.area(shapely.intersection(shapely.polygons(ray_polygons(b)[whole]), reference)).sum()
        worst = max(worst, abs(Path(tuple(made.contours)).area() - wanted) / max(wanted, 1000.0))
    assert worst < 3e-6  # the reference's chords; at a tenth of their length it is 6e-7


@pytest.mark.parametrize("x", [400, 640])  # well inside, and across the outer bound
def test_between_two_outlines_with_a_gap_no_ray_comes_nearer(x):
    inner = ellipse(x, 350, 90, 70)
    made = rays_within(BURST, OUTERS["cloud"], offset(inner, 12.0))
    region = boolean(OUTERS["cloud"], offset(inner, 12.0), "subtract")
    wanted = shapely.area(shapely.intersection(shapely.polygons(ray_polygons(BURST)), polygon(region))).sum()
    assert made.area() == pytest.approx(wanted, rel=1e-5)
    points = np.concatenate([flatten(c, 0.1)[0] for c in made.contours])
    assert shapely.distance(polygon(inner), shapely.points(points)).min() > 12 - 0.02
    only_out = rays_within(BURST, None, inner)
    assert shapely.intersection(polygon(only_out), polygon(inner)).area < 0.05


def test_edges_upon_edges_of_the_bound_are_no_trouble():
    comb = Burst(False, (200.0, 150.0), 90.0, 360.0, 100, 0.0, 200.0, 1.0, 1.0, 0.5, 0.0, 0.0, 1)
    assert rays_within(comb, rectangle(0, 0, 400, 300), None).area() == pytest.approx(400 * 300, rel=1e-6)
    hole = Path((*rectangle(-900, -900, 3000, 3000).contours, *ellipse(400, 350, 3, 3).contours), True)
    wide = BURST._replace(number=3, wide=1.0, narrow=1.0)
    assert polygon(rays_within(wide, hole, None)).area == pytest.approx(
        polygon(rays_within(wide, None, None)).area - np.pi * 9, rel=1e-4
    )


def test_a_new_number_leaves_the_ends_of_the_old_rays():
    few = ray_polygons(BURST._replace(radial=True, number=40))
    many = ray_polygons(BURST._replace(radial=True, number=90))

    def ends(p):
        return np.hypot(*((p[:, 2] + p[:, 3]) / 2 - BURST.centre).T)

    np.testing.assert_allclose(ends(few), ends(many)[:40], rtol=1e-9)
    assert np.ptp(ends(few)) > 50


def test_widths_are_shares_of_the_room_and_widest_where_told():
    p = ray_polygons(BURST._replace(narrow=0.0, wide=1.0, widest=0.25, start=0.0, end=0.0))
    assert np.hypot(*(p[:, 0] - p[:, 5]).T).max() == pytest.approx(0, abs=1e-9)
    across = np.hypot(*(p[:, 1] - p[:, 4]).T)
    assert across == pytest.approx(2 * 150 * np.tan(np.pi / BURST.number), rel=1e-9), "they touch and do not overlap"


def burst_in_a_ring():
    form = RaysForm(centre=(100.0, 100.0), reach=150.0, count=16)
    doc = document(Shape(1, "rays", form), disc(2, 100, 100, 80), disc(3, 100, 100, 20), side=200)
    doc = rays.bound(doc, 1, 2, True)
    return rays.bound(doc, 1, 3, False)


def test_bounds_are_members_that_rays_follow_and_come_free_again():
    doc = burst_in_a_ring()
    shape = find(doc, 1)
    assert [m.id for m in members(shape)] == [2, 3] and shape.form.held == "both"
    far = np.concatenate([flatten(c, 0.1)[0] for c in outline(shape).contours]) - 100
    assert np.hypot(*far.T).min() == pytest.approx(26, abs=0.05)
    assert np.hypot(*far.T).max() == pytest.approx(80, abs=0.05)
    narrower = objects.transform(doc, [2], scaling(0.5, 0.5, (100, 100)))
    far = np.concatenate([flatten(c, 0.1)[0] for c in outline(find(narrower, 1)).contours]) - 100
    assert np.hypot(*far.T).max() == pytest.approx(40, abs=0.05)
    other = rays.bound(objects.add_shape(doc, RaysForm(), (), "more")[0], 1, 3, True)
    assert other is not None
    freed, ids = rays.released(doc, 1)
    assert ids == [2, 3] and not find(freed, 1).children
    assert [n.member for n in freed.root.children] == [False] * 3
    assert rays.released(freed, 2) == (freed, []), "a disc beside them"


def test_another_outer_bound_takes_the_place_of_the_first():
    doc = burst_in_a_ring()
    doc, third = objects.add_shape(doc, find(doc, 2).form, (), "third")
    doc = rays.bound(doc, 1, third, True)
    assert [m.id for m in members(find(doc, 1))] == [third, 3]
    assert find(doc, 2).member is False and 2 in {n.id for n in doc.root.children}
