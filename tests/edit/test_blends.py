"""Stepped blends: which point becomes which, what lies between, how many steps, live and frozen."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from agreement import ours
from scenes import disc, document
from volumen.compose.scene import build
from volumen.edit import blends
from volumen.edit.freeze import freeze
from volumen.formats import native
from volumen.geometry.correspondence import match
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse, rectangle, star
from volumen.model.ingredients import Fill, Line, Speckle, Steps
from volumen.model.make import circle, corner, path_form, smooth, solid
from volumen.model.nodes import Group, PathForm, PathRun, RectangleForm, SegmentForm, Shape, StarForm
from volumen.model.repeats import Grid, Ring
from volumen.model.tree import find, walk
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline
from volumen.outline.steps import count_between, steps_of
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
CIRCLE = ellipse(0, 0, 50, 50)
PAIRS = {
    "circle and star": (CIRCLE, star(150, 20, 40, 40, 5, 0.5)),
    "turned the other way": (CIRCLE, Path((type(CIRCLE.contours[0])(CIRCLE.contours[0].points[::-1].copy(), True),)).transformed((1, 0, 0, 1, 120, 0))),
    "square and its turned copy": (rectangle(-30, -30, 60, 60), rectangle(-30, -30, 60, 60).transformed((0.7071, 0.7071, -0.7071, 0.7071, 90, 0))),
    "wide and high": (ellipse(0, 0, 60, 15), ellipse(100, 0, 15, 60)),
}  # fmt: skip


def crosses_itself(path):
    import shapely

    from volumen.geometry.curve import flatten

    return any(not shapely.LinearRing(flatten(c, 0.05)[0]).is_simple for c in path.contours)


@pytest.mark.parametrize("pair", PAIRS)
def test_steps_do_not_twist_and_grow_evenly(pair):
    a, b = PAIRS[pair]
    found = match(a, b)
    areas = [abs(found.at(t).area()) for t in np.linspace(0, 1, 21)]
    assert areas[0] == pytest.approx(abs(a.area()), rel=1e-6)
    assert areas[-1] == pytest.approx(abs(b.area()), rel=1e-6)
    change = np.diff(areas)
    low, high = min(areas[0], areas[-1]), max(areas[0], areas[-1])
    if high > 1.05 * low:
        assert (change <= 1e-6 * high).all() or (change >= -1e-6 * high).all(), "the area goes one way only"
    else:
        assert min(areas) > 0.4 * low
    assert not any(crosses_itself(found.at(t)) for t in np.linspace(0.05, 0.95, 19))


@given(st.integers(0, 7), st.floats(0, 1))
def test_where_an_outline_starts_does_not_matter(start, t):
    octagon = star(0, 0, 50, 50, 4, 0.7)
    contour = octagon.contours[0]
    n = len(contour.segments)
    k = start % n
    rolled = np.concatenate([contour.points[3 * k : -1], contour.points[: 3 * k + 1]])
    turned = Path((type(contour)(rolled, True),)).transformed((1, 0, 0, 1, 80, 0))
    between = match(octagon, turned).at(t)
    assert abs(abs(between.area()) - abs(octagon.area())) < 1e-3 * abs(octagon.area())


def test_a_contour_without_partner_grows_out_of_a_point():
    ring = Path(
        (
            *ellipse(0, 0, 50, 50).contours,
            type(CIRCLE.contours[0])(ellipse(0, 0, 20, 20).contours[0].points[::-1].copy(), True),
        )
    )
    found = match(ring, ellipse(200, 0, 50, 50))
    assert len(found.pairs) == 2
    assert abs(found.at(1.0).area()) == pytest.approx(np.pi * 2500, rel=1e-3)
    assert abs(found.at(0.0).area()) == pytest.approx(np.pi * 2100, rel=1e-3)


def test_open_lines_keep_their_ends_apart():
    a = path_form(corner(0, 0), corner(50, 30), corner(100, 0), closed=False)
    b = path_form(smooth(100, 90, -20, 0), smooth(0, 90, -20, 0), closed=False)
    from volumen.outline.outlines import source

    middle = match(source(a), source(b)).at(0.5).contours[0]
    assert not middle.closed
    assert middle.points[0] == pytest.approx((0, 45)) and middle.points[-1] == pytest.approx((100, 45))


def blend_of(*nodes, **steps):
    return Group(9, "b", tuple(nodes), (Steps(**steps),))


def two(distance=100.0, dark="#000000", light="#ffffff"):
    return disc(1, 40, 50, 20, solid(dark)), disc(2, 40 + distance, 50, 20, solid(light))


def test_count_distance_and_smooth():
    a, b = two()
    assert count_between(a, b, Steps(count=5)) == 5
    assert count_between(a, b, Steps(mode="distance", distance=20)) == 4
    # Black to white is 100 apart: 200 steps of half a difference. A way of one unit has fewer pixels than that.
    assert count_between(a, b, Steps(mode="smooth")) == 199
    near = two(4)
    assert count_between(*near, Steps(mode="smooth")) == int(np.ceil(4 * 300 / 96)) - 1


def test_steps_lie_evenly_and_take_even_colours():
    group = blend_of(*two(), count=3)
    shown = shown_children(group)
    assert (shown[0].id, shown[-1].id, len(shown)) == (1, 2, 5)
    boxes = [outline(n).bounds() for n in shown]
    assert [b[0] for b in boxes] == pytest.approx([20, 45, 70, 95, 120], abs=1e-3)
    greys = [n.recipe[0].paint.colour.r for n in shown]
    assert greys == sorted(greys) and greys[2] == pytest.approx(0.388, abs=0.01), (
        "the middle of black and white in OKLab"
    )
    assert shown_children(group) is shown, "unchanged members give the same steps"
    assert all(n.id < 0 for n in shown[1:-1]) and len({n.id for n in shown}) == 5


def test_spacing_and_colours_can_crowd_at_one_end():
    shown = shown_children(blend_of(*two(), count=3, spacing=(0.6, 0.1, 0.8, 0.6), colour_spacing=(0.2, 0.4, 0.4, 0.9)))
    x = [outline(n).bounds()[0] for n in shown]
    assert x[2] - x[0] < x[4] - x[2]
    assert shown[2].recipe[0].paint.colour.r > 0.5


def test_steps_follow_a_spine_and_turn():
    a, b = (replace(n, form=RectangleForm(n.form.x, n.form.y, 40, 10)) for n in two())
    spine = PathRun((smooth(40, 35, 0, 60), smooth(140, 35, 0, -60)))
    flat = shown_children(blend_of(a, b, count=1, spine=spine))[1]
    turned = shown_children(blend_of(a, b, count=1, spine=spine, turn=True))[1]
    assert outline(flat).transformed(flat.transform).bounds()[1] != pytest.approx(30, abs=2)
    w, h = (
        np.ptp(np.array(outline(n).transformed(n.transform).bounds()).reshape(2, 2), axis=0) for n in (flat, turned)
    )
    assert w[0] == pytest.approx(40, abs=0.5) and h[1] > 20


def test_groups_lines_and_gradients_blend():
    parts = [
        Group(10 * k, "g", (Shape(10 * k + 1, "l", SegmentForm((0, y), (50, y)), (Line(Solid(colour(c)), w),)), disc(10 * k + 2, x, y, 8, Fill(Solid(colour(c))))), opacity=o)
        for k, x, y, c, w, o in ((1, 10, 10, "#c8402a", 2.0, 1.0), (2, 60, 90, "#2b8577", 8.0, 0.5))
    ]  # fmt: skip
    middle = shown_children(blend_of(*parts, count=1))[1]
    assert isinstance(middle, Group) and middle.opacity == pytest.approx(0.75)
    assert middle.children[0].recipe[0].width == pytest.approx(5.0)


@pytest.mark.parametrize(
    ("a", "b", "field", "middle"),
    [(Grid(4), Grid(7), "across", 6), (Ring(count=4), Ring(count=4), "count", 4), (Speckle(seed=1), Speckle(seed=4), "seed", 2)],
)  # fmt: skip
def test_counts_stay_whole_between_two(a, b, field, middle):
    """Between two rows of four stood one of 4.0: random hands found the window ended by it."""
    groups = [Group(10 * k, "g", (disc(10 * k + 1, 20.0, 30.0 * k, 8),), (i,)) for k, i in ((1, a), (2, b))]
    made = getattr(shown_children(blend_of(*groups, count=1))[1].recipe[-1], field)
    assert made == middle and type(made) is int


def test_members_stay_editable_and_the_picture_follows():
    doc, made = blends.blend(document(*two()), [1, 2], Steps(count=3))
    before = ours(doc)
    from volumen.edit import objects

    moved = objects.transform(doc, [2], (1, 0, 0, 1, 0, 60))
    assert np.abs(ours(moved) - before).max() > 0.3
    assert len(steps_of(find(doc, made)).__struct_fields__) > 3
    assert native.decode(native.encode(doc), "b") == doc


def test_frozen_steps_look_the_same():
    doc, made = blends.blend(document(*two()), [1, 2], Steps(count=4))
    frozen = freeze(doc, [made]).document
    assert np.abs(ours(frozen) - ours(doc)).max() < 0.02
    group = find(frozen, made)
    assert len(group.children) == 6 and steps_of(group) is None
    ids = [n.id for n in walk(frozen.root)]
    assert len(ids) == len(set(ids)) and min(ids) >= 0


def test_points_matched_by_hand_turn_the_steps():
    square = RectangleForm(0, 0, 60, 60)
    nodes = (
        Shape(1, "a", square, (solid("#c8402a"),)),
        Shape(2, "b", square, (solid("#c8402a"),), transform=(1, 0, 0, 1, 100, 0)),
    )
    doc, made = blends.blend(document(*nodes), [1, 2], Steps(count=1))
    turned = blends.with_matching_points(doc, made, (0, 0), (160, 0))
    assert steps_of(find(turned, made)).shift == pytest.approx(0.25, abs=0.01)
    plain, twisted = (abs(outline(shown_children(find(d, made))[1]).area()) for d in (doc, turned))
    assert plain == pytest.approx(3600, rel=1e-3) and twisted < 2400


def test_hatching_and_shaded_form_in_one_step():
    base = document(Shape(1, "s", StarForm(40, 40, 120, 120), (solid("#c98f35"),)))
    hatched, made = blends.hatch(base, 1)
    assert find(hatched, made) is not None and find(hatched, 1).children
    pixels = ours(hatched)
    assert np.abs(pixels - ours(base)).max() > 0.2 and pixels[10, 10].min() > 0.99, "held inside the shape"
    shaded, group = blends.shaded_form(base, 1)
    assert isinstance(find(shaded, group), Group)
    assert len(shown_children(find(shaded, group))) > 20
    build(freeze(shaded, [group]).document)


def test_a_path_becomes_the_spine():
    doc, made = blends.blend(document(*two()), [1, 2])
    path = Shape(
        20,
        "p",
        PathForm((PathRun((smooth(40, 50, 10, -60), smooth(140, 50, 10, 60))),)),
        (Line(Solid(colour("#000000")), 1.0),),
    )
    doc = replace(doc, root=replace(doc.root, children=(*doc.root.children, path)), next_id=21)
    assert blends.blend_and_path([find(doc, made), path]) == (made, 20)
    laid = blends.with_spine(doc, made, 20)
    assert find(laid, 20) is None and steps_of(find(laid, made)).spine is not None
    assert circle is not None
