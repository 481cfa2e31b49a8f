"""Repeats: closed forms of where copies stand, their light, what they are made of, and copies that are let go."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest

from scenes import disc, document, shown, solid
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.edit import combine, freeze, objects, repeats
from volumen.geometry.affine import IDENTITY, apply, multiply, rotation, scaling, translation
from volumen.geometry.enclosed_areas import arrange
from volumen.geometry.path import Path
from volumen.geometry.primitives import arc_through, ellipse
from volumen.geometry.scattering import strewn, strewn_along
from volumen.model.difference import Difference
from volumen.model.ingredients import Body, CastShadow, OuterGlow, Sliver
from volumen.model.mending import mended
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.repeats import Grid, Mirror, Ring, Scatter, ring_steps, ring_with_angle
from volumen.model.sizes import DocumentError
from volumen.model.tree import find, walk
from volumen.model.validate import validate
from volumen.outline.copies import copies_of
from volumen.outline.forms import path_form
from volumen.outline.hit import hit
from volumen.outline.making import made_id, shown_children
from volumen.shading.paint import colour

replace = msgspec.structs.replace
BOX = (90.0, 10.0, 110.0, 40.0)
MIDDLE = (100.0, 25.0)
LIT = (solid("#2b8577"), Body("ball", "brass"), Sliver("shade", depth=5.0), CastShadow())


def places(i):
    return [c.place for c in copies_of(i, BOX, Path())]


@pytest.mark.parametrize("count", [1, 2, 7, 24, 359, 360])
def test_a_ring_closes(count):
    ring = Ring((100.0, 100.0), count)
    made = places(ring)
    assert len(made) == count
    assert made[0] == IDENTITY
    once_more = multiply(rotation(360 / count, ring.centre), made[-1])
    assert once_more == pytest.approx(IDENTITY, abs=1e-9)
    turns = sorted(math.degrees(math.atan2(m[1], m[0])) % 360 for m in made)
    assert np.allclose(np.diff(turns), 360 / count, atol=1e-9)


def test_part_of_a_ring_has_copies_at_both_ends_and_angle_and_count_stay_in_step():
    part = Ring((100.0, 100.0), 4, sweep=90.0)
    assert places(part)[-1] == pytest.approx(rotation(90.0, (100.0, 100.0)))
    assert ring_steps(part) == (4, 30.0)
    assert ring_with_angle(Ring(), 50.0).count == 7  # 51.4 degrees: the nearest that closes
    assert ring_with_angle(part, 31.0).count == 4
    assert ring_with_angle(Ring(sweep=-90.0), 45.0).count == 3


def test_upright_copies_keep_their_turn_and_steps_add_up():
    made = places(Ring((100.0, 100.0), 4, upright=True))
    assert [m[:4] for m in made] == [(1, 0, 0, 1)] * 4
    assert apply(made[1], MIDDLE) == pytest.approx((175.0, 100.0))
    grown = copies_of(Ring((100.0, 100.0), 4, scale=0.5, fade=0.5, outward=10.0), BOX, Path())
    assert [c.fade for c in grown] == [1, 0.5, 0.25, 0.125]
    assert math.hypot(*grown[2].place[:2]) == pytest.approx(0.25)
    assert math.dist(apply(grown[3].place, MIDDLE), (100.0, 100.0)) == pytest.approx(75 + 30)


def test_gaps_of_a_row_are_even_though_copies_shrink_and_a_fitted_row_has_its_length():
    for i, gap in ((Grid(5, 1, x=6.0, scale=0.7), 6.0), (Grid(5, 1, "fit", 120.0, scale=0.7), None)):
        edges = [(apply(m, BOX[:2])[0], apply(m, BOX[2:])[0]) for m in places(i)]
        gaps = [b[0] - a[1] for a, b in zip(edges, edges[1:], strict=False)]
        assert np.allclose(gaps, gap if gap is not None else gaps[0])
        if gap is None:
            assert edges[-1][1] - edges[0][0] == pytest.approx(120.0)


def test_rows_of_a_grid_follow_one_another_and_are_staggered():
    made = places(Grid(2, 3, "steps", 30.0, 20.0, stagger=0.5))
    assert [apply(m, MIDDLE) for m in made] == [
        pytest.approx(p) for p in ((100, 25), (130, 25), (115, 45), (145, 45), (100, 65), (130, 65))
    ]
    slanted = places(Grid(2, 2, "steps", 30.0, 20.0, angle=90.0, slant=90.0))
    assert apply(slanted[1], MIDDLE) == pytest.approx((100, 55))
    assert apply(slanted[2], MIDDLE) == pytest.approx((80, 25))


def test_strewn_places_keep_their_distance_and_more_of_them_leave_the_earlier_ones():
    area = ellipse(100, 100, 80, 60)
    few, many = strewn(area, 40, 9.0, 5), strewn(area, 90, 9.0, 5)
    assert many[:40] == few
    at = np.array([d.at for d in many])
    apart = np.hypot(*(at[:, None] - at[None]).transpose(2, 0, 1))
    assert apart[np.triu_indices(len(at), 1)].min() >= 9.0
    assert (((at - 100) / (80, 60)) ** 2).sum(axis=1).max() < 1.001  # its four cubics
    assert strewn(area, 40, 9.0, 6) != few
    on = np.array([d.at for d in strewn_along(area, 30, 5.0, 1)])
    assert abs((((on - 100) / (80, 60)) ** 2).sum(axis=1) - 1).max() < 1e-3
    smaller = {d.number: d.at for d in strewn(area, 90, 9.0, 5, taken=[(100.0, 100.0)])}
    assert {d.number: d.at for d in many if math.dist(d.at, (100, 100)) > 30}.items() <= smaller.items()


def ring_of_lit(count=5):
    first = disc(1, 100, 50, 16, *LIT, lift=6.0)
    return document(Group(2, "ring", (first,), (Ring((100.0, 100.0), count),))), first


def test_each_copy_is_lit_as_a_plain_object_in_its_place():
    doc, first = ring_of_lit()
    plain = [replace(first, id=10 + k, transform=rotation(72.0 * k, (100, 100))) for k in range(5)]
    assert abs(shown(doc) - shown(document(*plain))).max() <= 1  # the dither
    turned = replace(doc, lamp=replace(doc.lamp, bearing=doc.lamp.bearing + 72.0))
    assert abs(shown(doc) - shown(turned)).max() > 20, "the lamp does not turn with the copies"


def test_what_a_copy_refers_to_is_the_copy_beside_it():
    table = Shape(1, "table", RectangleForm(20, 20, 40, 40), (solid("#d9dbd3"),))
    held = disc(2, 50, 30, 10, solid("#c8402a"), CastShadow(receivers=(1,)), lift=9.0)
    doc = document(Group(3, "row", (table, held), (Grid(2, 1, "steps", 90.0),)))
    twice = document(
        Group(3, "a", (table, held)),
        Group(4, "b", (replace(table, id=11), replace(held, id=12, recipe=(solid("#c8402a"), CastShadow(receivers=(11,))))),
              transform=translation(90, 0)),
    )  # fmt: skip
    assert abs(shown(doc) - shown(twice)).max() <= 1


def test_faded_copies_do_not_show_what_lies_behind_within_them():
    parts = (disc(1, 40, 60, 20, solid("#000000")), disc(2, 50, 60, 20))
    doc = document(Group(3, "row", parts, (Grid(2, 1, "steps", 80.0, fade=0.5),)))
    assert np.ptp(shown(doc)[60, 115:140, :3].astype(int), axis=0).max() <= 1


def test_copies_stay_the_same_objects_while_nothing_changes_what_they_are_made_of():
    doc, first = ring_of_lit()
    group = find(doc, 2)
    more = replace(group, recipe=(Ring((100.0, 100.0), 5, gone=(3,)),))
    a, b = shown_children(group), shown_children(more)
    assert a[0] is first
    assert [n for n in a if n in b] == list(b)
    assert all(any(n is m for m in a) for n in b)
    assert all(c.form is first.form for c in a)


def test_what_is_made_is_forgotten_with_its_group():
    doc, _ = ring_of_lit()
    memo = Memo()
    build(doc, memo=memo)
    assert sum(k < 0 for k in memo.entries) == 4
    build(objects.delete(doc, [2]), memo=memo)
    memo.note(Difference(gone=[1, 2]))
    assert not [k for k in (*memo.entries, *memo.rows, *memo.boxes) if k < 0]


def test_a_click_on_a_copy_takes_its_group_and_one_on_the_drawn_one_goes_inside():
    doc, _ = ring_of_lit(4)
    assert hit(doc, (150, 100)) == [2]
    assert hit(doc, (100, 50)) == [2, 1]
    assert hit(doc, (100, 100)) == []


@pytest.mark.parametrize("extra", [(), (OuterGlow(colour("#f0ae45"), 5.0),)], ids=["plain", "glowing"])
@pytest.mark.parametrize("number", [0, 2, None])
def test_a_copy_that_is_let_go_looks_as_before_and_is_an_object_of_its_own(number, extra):
    doc, _ = ring_of_lit(4)
    doc = objects.transform(doc, [2], multiply(scaling(0.8, 0.8), rotation(20.0, (100, 100))))
    doc = objects.set_fields(doc, [2], recipe=(*find(doc, 2).recipe, *extra))
    before = shown(doc)
    freed, made = repeats.let_go(doc, 2, number)
    validate(freed)
    assert abs(before - shown(freed)).max() <= 1
    assert len(made) == (4 if number is None else 1)
    assert (find(freed, 2) is None) == (number is None)
    if number is not None:
        moved = objects.transform(freed, made, translation(30, 30))
        assert len(shown_children(find(moved, 2))) == 3


def test_repeats_fit_what_they_are_given_and_stack():
    doc = document(disc(1, 60, 60, 10), Shape(2, "area", RectangleForm(0, 0, 150, 150), (solid("#d9dbd3"),)))
    strewed, group = repeats.repeat(doc, [1, 2], Scatter(count=12))
    holder = find(strewed, group)
    assert [c.member for c in holder.children if c.id == 2] == [True]
    assert holder.recipe[0].distance == pytest.approx(22.0)
    assert len(shown_children(holder)) == 13
    assert 2 not in {c.id for c in shown_children(holder)}
    twice, same = repeats.repeat(strewed, [group], Mirror())
    assert same == group
    assert [type(i) for i in find(twice, group).recipe] == [Scatter, Mirror]
    assert len(shown_children(find(twice, group))) == 26
    validate(twice)
    ids = [n.id for c in shown_children(find(twice, group)) for n in walk(c)]
    assert len(set(ids)) == len(ids)


def test_places_put_and_taken_by_hand_stay():
    doc, group = repeats.repeat(document(disc(1, 100, 100, 5)), [1], Scatter(count=0))
    doc = repeats.with_place(doc, group, (130.0, 90.0))
    assert repeats.with_place(doc, group, (131.0, 90.0)) == doc, "nearer than the least distance"
    doc = repeats.with_place(doc, group, (70.0, 90.0))
    assert find(doc, group).recipe[0].added == ((130.0, 90.0), (70.0, 90.0))
    doc = repeats.without_place(doc, group, (130.0, 90.0))
    assert find(doc, group).recipe[0].added == ((70.0, 90.0),)
    assert repeats.without_place(doc, group, (100.0, 100.0)) is not doc, "the drawn one too"


def test_the_second_copy_is_dragged():
    assert repeats.turned_to(Ring(), 58.0).count == 6
    assert repeats.turned_to(Ring(sweep=-360.0), 300.0).count == 6
    row = repeats.spread_to(Grid(x=6.0), BOX, False, (140.0, 25.0))
    assert (row.x, row.angle) == pytest.approx((20.0, 0.0))
    down = repeats.spread_to(Grid(2, 2, "steps"), BOX, True, (102.0, 75.0), stepped=True)
    assert (down.slant, down.y) == pytest.approx((90.0, math.hypot(2, 50)))


def test_too_many_pieces_are_refused_with_their_bound():
    inner = Group(2, "row", (disc(1, 50, 50, 5),), (Grid(400, 1),))
    validate(document(Group(3, "rows", (inner,), (Grid(1, 100),))))
    with pytest.raises(DocumentError, match="100,000 pieces"):
        validate(document(Group(3, "rows", (inner,), (Grid(1, 300),))))


def test_so_many_lit_copies_that_they_would_take_minutes_are_refused_and_an_old_file_opens_without_them():
    """Eight rings of four rows of eight cushions and slabs took twelve gigabytes: found by random hands."""
    inner = Group(2, "row", (disc(1, 50, 50, 5, Body("cushion")),), (Grid(40, 1),))
    lone = document(*(disc(k, 50, 50, 5, Body("cushion")) for k in range(10, 3000)))
    validate(lone)  # what is not copied counts as ever
    validate(document(Group(3, "rows", (inner,), (Grid(1, 40),))))
    heavy = document(Group(3, "rows", (inner,), (Grid(1, 100),)))
    each = document(
        Group(
            3,
            "rows",
            (msgspec.structs.replace(inner, children=(disc(1, 50, 50, 5),)),),
            (Grid(1, 100), Body("slab", each=True)),
        )
    )
    for doc in (heavy, each):
        with pytest.raises(DocumentError, match="cushion, slab or block as 50"):
            validate(doc)
        opened, notes = mended(doc)
        validate(opened)
        assert "switched off" in notes[0] and find(opened, 2).recipe[0].on and not find(opened, 3).recipe[0].on


def test_ids_of_what_is_made_are_all_different():
    made = {made_id(3, 0, number, k) for number in range(-400, 400) for k in range(-4, 4)}
    assert len(made) == 800 * 8 and max(made) < 0


def test_copies_that_lie_on_one_another_are_still_told_apart():
    """Two nodes of one id would share what is kept of them."""
    pair = Group(2, "pair", (disc(1, 60, 60, 10, solid("#2b8577")),), ())
    for i in (Grid(3, 1, "steps", 0.0), Ring((60.0, 60.0), 4, sweep=0.0), Grid(2, 2, "gaps", -20.0, -20.0)):
        made = shown_children(Group(3, "on one another", (pair,), (i,)))
        ids = [n.id for m in made for n in walk(m)]
        assert len(ids) == len(set(ids)) > 4


def test_frozen_copies_have_ids_of_the_document_however_deep_they_lie():
    lit = disc(1, 60, 60, 10, solid("#2b8577"), CastShadow(), Body("ball"), lift=4.0)
    tile = Shape(6, "tile", RectangleForm(40, 40, 40, 40), (solid("#d9dbd3"), CastShadow()), (lit,))
    inner = Group(
        2,
        "inner",
        (tile, disc(3, 60, 90, 5, solid("#c8402a"), OuterGlow(colour("#ffffff")))),
        (CastShadow(),),
        lift=3.0,
    )
    for i in (Grid(3, 1, "steps", 30.0), Ring((60.0, 100.0), 3), Mirror((90.0, 60.0), 90.0)):
        doc = document(Group(4, "row", (Group(5, "held", (inner,)),), (i, Body("tube", each=True), CastShadow())))
        frozen = freeze.freeze(replace(doc, next_id=9), [4]).document
        ids = [n.id for n in walk(frozen.root)]
        assert min(ids) >= 0 and len(ids) == len(set(ids)) and max(ids) < frozen.next_id
        validate(frozen)


def test_areas_close_between_the_arcs_of_a_ring_that_nearly_meet():
    """Six arcs of 58 degrees leave gaps of 2.09 units on a circle of radius 60."""
    ends = [(100 + 60 * math.cos(t), 100 + 60 * math.sin(t)) for t in np.radians((1, 30, 59))]
    arc = Shape(1, "arc", path_form(arc_through(*ends)), ())
    doc = document(Group(2, "ring", (arc,), (Ring((100.0, 100.0), 6),)))
    sources = combine.area_sources(doc, [2])
    assert [owner for owner, _ in sources] == [1] + [2] * 5
    paths = [p for _, p in sources]
    assert not arrange(paths, gap=2.0).areas
    (area,) = arrange(paths, gap=2.2).areas
    assert area.size == pytest.approx(math.pi * 60**2, rel=1e-3)  # less six slivers of two degrees
