"""Freezing, joining, cutting, copying and colouring as hands do them: what is drawn is what comes out."""

from __future__ import annotations

import math

import msgspec
import pytest

from scenes import disc, document, off, shown, solid
from volumen.compose.light import light_at, light_of
from volumen.edit import combine, combined_looks, joining, links, objects, plain_forms, search
from volumen.edit.freeze import freeze
from volumen.edit.line_outlines import line_to_outline
from volumen.geometry.affine import mirroring, translation
from volumen.geometry.winding import simplified
from volumen.model.ingredients import (
    Body,
    CastShadow,
    Fill,
    InnerGlow,
    InnerShadow,
    Line,
    Offset,
    OuterGlow,
    Relief,
    Rim,
    Sliver,
    Speckle,
)  # fmt: skip
from volumen.model.make import corner, linear, path_form, smooth
from volumen.model.nodes import Group, PathForm, RectangleForm, SegmentForm, Shape, TextForm
from volumen.model.tree import find, loose_references, walk, world_of
from volumen.model.validate import validate
from volumen.outline.outlines import outline
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Solid, Stop, colour

replace = msgspec.structs.replace
INK, RED, SEA = colour("#20242a"), colour("#c8402a"), colour("#2b8577")
STOPS = (Stop(0.0, colour("#f0ae45")), Stop(0.4, RED), Stop(1.0, INK))
TRIANGLE = path_form(corner(20, 90), corner(60, 20), corner(100, 90), closed=False)


def area(doc, node_id):
    path = outline(find(doc, node_id), world_of(doc, node_id)).transformed(world_of(doc, node_id))
    return abs(simplified(path).area())


# -- light: one function for everyone


def test_the_light_at_a_node_follows_its_own_lamp_and_those_it_is_in():
    lamp, other = Lamp(100, 50), Lamp(200, 20)
    inner = disc(3, 50, 50, 20, own_lamp=other)
    doc = document(Group(1, "g", (disc(2, 40, 40, 10), inner), own_lamp=lamp), disc(4, 90, 90, 9, unlit=True))
    assert light_at(doc, 2).lamp == lamp and light_at(doc, 3).lamp == other
    assert light_at(doc, 4).flat and light_at(doc, 0) == light_of(doc)


# -- freezing


LIT = (solid("#2b8577"), Body("ball"), Sliver(depth=6.0), InnerShadow(5.0), Relief(width=5.0), Line(Solid(INK), 3.0))


@pytest.mark.parametrize("whose", ["own", "group", "unlit", "unlit group"])
def test_freezing_keeps_the_lamp_that_shone(whose):
    lamp = {"own_lamp": Lamp(100, 50)} if "unlit" not in whose else {"unlit": True}
    ball = disc(1, 80, 80, 40, *LIT, lift=6.0, **(lamp if whose in ("own", "unlit") else {}))
    doc = document(Group(2, "g", (ball,), **(lamp if "group" in whose else {})), ground=colour("#efe6d6"))
    for ids in ([1], [2]):
        frozen = freeze(doc, ids).document
        validate(frozen)
        assert off(doc, frozen).max() <= 1


GROUP = (
    CastShadow(), Rim(colour=RED, distance=4.0), Speckle(0.2), Relief(width=5.0), InnerShadow(5.0), Sliver(depth=5.0),
    InnerGlow(colour("#fff3cf"), 5.0), OuterGlow(RED, 5.0, stops=STOPS), Line(Solid(INK), 2.0),
)  # fmt: skip


def test_freezing_a_group_loses_nothing_of_its_recipe_and_makes_nothing_twice():
    pair = (disc(1, 70, 80, 30), disc(2, 110, 90, 24, solid("#c8402a")))
    doc = document(Group(3, "g", pair, GROUP, lift=6.0, opacity=0.9), ground=colour("#efe6d6"))
    frozen = freeze(doc, [3])
    assert off(doc, frozen.document).max() <= 1 and "shadows" in frozen.told and "reliefs" in frozen.told
    each = tuple(replace(i, each=True) if hasattr(i, "each") else i for i in GROUP)
    doc = document(Group(3, "g", pair, each, lift=6.0), ground=colour("#efe6d6"))
    assert off(doc, freeze(doc, [3]).document).max() <= 1


def test_slivers_stay_over_the_lines_they_lay_over_and_follow_what_cuts_them():
    cutter = disc(2, 110, 80, 40, Line(Solid(INK), 0.5))
    under = disc(
        1, 80, 80, 40, solid("#2b8577"), Line(Solid(INK), 9.0), Sliver(depth=14.0), Sliver(by="outline", other=2)
    )
    doc = document(under, cutter)
    frozen = freeze(doc, [1])
    assert off(doc, frozen.document).max() <= 1 and "slivers" in frozen.told
    assert any(isinstance(i, Line) for n in walk(frozen.document.root) for i in n.recipe), "a plain line stays one"


def test_freezing_a_linked_copy_cuts_it_off_and_leaves_the_others_live():
    one = disc(1, 50, 50, 30, *LIT, link=9)
    doc = document(one, replace(one, id=2, transform=translation(70, 60)))
    frozen = freeze(doc, [1])
    after = links.followed(doc, frozen.document)
    assert find(after, 2).recipe == one.recipe and find(after, 2) is doc.root.children[1]
    assert "linked copies" in frozen.told and find(after, 1).link is None
    assert off(doc, after).max() <= 1
    inside = document(
        Group(5, "g", (replace(one, id=6, link=None),), link=4), Group(7, "g", (replace(one, id=8, link=None),), link=4)
    )
    after = links.followed(inside, freeze(inside, [6]).document)
    assert find(after, 8) is find(inside, 8), "nor does it come back from a copy of the group it is in"


def test_what_is_made_by_its_group_is_frozen_with_it_or_not_at_all():
    pair = (disc(1, 50, 60, 20), disc(2, 120, 60, 20))
    doc = document(Group(3, "g", pair, (CastShadow(each=True),), lift=5.0))
    told = freeze(doc, [1])
    assert told.document is doc and "freeze that group" in told.told


def test_plain_things_freeze_to_themselves_and_it_is_said():
    doc = document(Shape(1, "plain", TRIANGLE, (solid("#2b8577"), Line(Solid(INK), 2.0))))
    frozen = freeze(doc, [1])
    assert frozen.document is doc and "plain already" in frozen.told
    text = document(Shape(1, "word", TextForm("Bo", size=60, x=30, y=90), (solid("#2b8577"), Rim(distance=5.0))))
    frozen = freeze(text, [1])
    kinds = {type(n.form) for n in walk(frozen.document.root) if isinstance(n, Shape)}
    assert kinds == {PathForm} and "texts" in frozen.told and "rims" in frozen.told
    assert off(text, frozen.document).max() <= 1


# -- form to path


def test_a_lit_word_becomes_one_path_and_a_plain_one_letters():
    word = Shape(
        1,
        "word",
        TextForm("Bob", size=60, x=20, y=90),
        (solid("#2b8577"), Sliver(depth=3.0), InnerGlow(colour("#ffffff"))),
    )
    doc = document(word)
    one = plain_forms.to_path(doc, 1)
    assert isinstance(find(one, 1).form, PathForm) and find(one, 1).recipe == word.recipe and off(doc, one).max() <= 1
    plain = document(
        replace(word, recipe=(Fill(linear((20, 30), (150, 90), (0, "#c8402a"), (1, "#20242a"))), Offset(-1.5)))
    )
    letters = plain_forms.to_path(plain, 1)
    assert [c.name for c in find(letters, 1).children] == ["B", "o", "b"]
    assert not any(isinstance(i, Offset) for n in walk(letters.root) for i in n.recipe)
    assert (off(plain, letters) > 2).mean() < 1e-3, "but where two letters share a pixel of their edges"
    round_ones = document(replace(word, recipe=(solid("#2b8577"), Body("ball"), Sliver(depth=3.0))))
    apart = plain_forms.to_path(round_ones, 1)
    assert [c.name for c in find(apart, 1).children] == ["B", "o", "b"]
    assert (off(round_ones, apart) > 2).mean() < 1e-3, "but where a letter's sliver meets its neighbour"
    two = plain_forms.to_path(
        document(replace(word, form=TextForm("a b", size=60, x=20, y=90), recipe=(solid("#2b8577"),))), 1
    )
    assert [type(c).__name__ for c in find(two, 1).children] == ["Group", "Group"], "a group for each of several words"


@pytest.mark.parametrize("operation", ["divide", "cut hidden"])
def test_groups_among_the_members_keep_their_artwork(operation):
    shade = Fill(linear((0, 0), (0, 60), (0, "#f0ae45"), (1, "#20242a")))
    inner = (Shape(1, "a", RectangleForm(20, 20, 50, 60), (shade,)), disc(2, 90, 60, 24, solid("#c8402a")))
    doc = document(Group(3, "g", inner, transform=translation(10, 15)), disc(4, 80, 80, 30))
    before = shown(doc)
    live, made = combine.combine(doc, [3, 4], operation)
    assert abs(before - shown(live)).max(axis=-1).mean() < 0.35, "the same artwork, but for the edges between pieces"
    once = plain_forms.to_path(live, made)
    assert off(live, once).max() <= 2
    assert len({i.paint for n in walk(once.root) for i in n.recipe if isinstance(i, Fill)}) == 3


# -- union: areas and bands


def test_what_is_filled_means_its_area_and_a_line_its_band():
    filled = Shape(1, "open", TRIANGLE, (solid("#2b8577"), Line(Solid(INK), 2.0)))
    doc, made = combine.combine(document(filled, disc(2, 150, 150, 20)), [1, 2], "union")
    assert area(doc, made) == pytest.approx(80 * 70 / 2 + math.pi * 400, rel=2e-3)
    bars = [Shape(k, "bar", SegmentForm((20, 30 * k), (120, 30 * k)), (Line(Solid(RED), 10.0),)) for k in (1, 2)]
    doc, made = combine.combine(document(*bars), [1, 2], "union")
    assert area(doc, made) == pytest.approx(2 * 100 * 10, rel=1e-3)
    look = find(doc, made).recipe
    assert [type(i) for i in look] == [Fill] and look[0].paint == Solid(RED), "its line's paint fills the band"
    assert off(document(*bars), doc).max() <= 2


def test_the_look_of_a_combination_lies_where_the_part_had_it():
    shade = Fill(linear((0, 0), (0, 40), (0, "#f0ae45"), (1, "#20242a")))
    front = Shape(
        2,
        "front",
        RectangleForm(0, 0, 50, 40),
        (shade, Line(Solid(INK), 4.0)),
        transform=(2, 0, 0, 2, 60, 50),
        lift=3.0,
    )
    doc, made = combine.combine(document(disc(1, 40, 40, 5), front), [1, 2], "union")
    found = find(doc, made)
    assert found.recipe[0].paint.start == (60.0, 50.0) and found.recipe[1].width == 8.0 and found.lift == 6.0


def test_what_a_combination_with_one_look_drops_is_said():
    doc = document(
        Group(1, "g", (disc(2, 50, 50, 20), disc(3, 70, 50, 20, solid("#c8402a")))),
        disc(4, 60, 60, 30, solid("#d9dbd3")),
    )
    assert "2 other colours" in combined_looks.looks_dropped(doc, [1, 4], "intersect")
    assert combined_looks.looks_dropped(document(disc(1, 50, 50, 20), disc(2, 60, 50, 20)), [1, 2], "intersect") == ""


# -- lines and ends


def test_lines_become_shapes_of_their_own():
    wave = path_form(smooth(20, 100, 20, -30), smooth(90, 100, 20, 30), closed=False)
    lines = (
        Shape(1, "plain", wave, (Line(Solid(RED), 9.0, "round", "round"),)),
        Shape(2, "tapered", wave, (Line(Solid(INK), 12.0, profile=((0, 0, 0), (1, 1, 1))),), transform=translation(30, -40)),
        Shape(3, "dashed", RectangleForm(110, 110, 60, 60), (solid("#d9dbd3"), Line(Solid(INK), 4.0, dashes=(9, 5)), Sliver(depth=5.0))),
    )  # fmt: skip
    doc = document(Group(4, "g", lines), disc(5, 150, 40, 20))
    done, ids, count = line_to_outline(doc, [4])
    assert count == 3 and ids == [4]
    assert not any(isinstance(i, Line) for n in walk(done.root) for i in n.recipe)
    assert (off(doc, done) > 24).mean() < 1e-3, "the engine's own lines and their outlines differ in edge pixels"
    one = find(done, 1)
    assert one.name == "plain" and one.recipe == (Fill(Solid(RED)),) and isinstance(one.form, PathForm)
    ring, _, _ = line_to_outline(document(disc(1, 60, 60, 30, Line(Solid(INK), 6.0))), [1])
    full, _, _ = line_to_outline(document(disc(1, 60, 60, 30, Line(Solid(INK), 6.0))), [1], holes_filled=True)
    assert area(full, 1) == pytest.approx(math.pi * 33**2, rel=1e-3) and area(ring, 1) < area(full, 1) / 2


def test_ends_are_joined_across_shapes_and_halves_weld_on_their_axis():
    left = Shape(
        1, "left", path_form(smooth(60, 20, -50, 0), smooth(60, 120, 50, 0), closed=False), (solid("#2b8577"),)
    )
    axis = mirroring(90, (60, 0))
    doc = document(left, replace(left, id=2, transform=axis))
    joined, made = joining.join_ends(doc, [1, 2])
    run = find(joined, made).form.runs[0]
    assert run.closed and sorted(p.at[1] for p in run.points) == pytest.approx([20, 120])
    assert [p.at[0] for p in run.points] == pytest.approx([60, 60], abs=1e-12)
    assert find(joined, 2) is None and all(p.smooth for p in run.points)
    welded, _ = joining.mirror_weld(document(left), 1)
    again = find(welded, 1).form.runs[0]
    assert again.closed and {p.at[0] for p in again.points} == {60.0}, "the middle points lie on the axis exactly"
    assert area(welded, 1) == pytest.approx(area(joined, 1), rel=1e-6)
    far = document(left, Shape(2, "r", path_form(corner(100, 20), corner(100, 120), closed=False), ()))
    both, _ = joining.join_ends(far, [1, 2])
    assert len(find(both, 1).form.runs[0].points) == 4 and not find(both, 1).form.runs[0].closed
    closed, _ = joining.join_ends(document(left), [1])
    assert find(closed, 1).form.runs[0].closed
    with pytest.raises(joining.CannotJoin, match="open path"):
        joining.join_ends(document(disc(1, 50, 50, 20)), [1])


# -- knockouts


def test_a_knockout_in_a_frame_cuts_the_frame_and_leaves_stock_alone():
    hole = disc(3, 60, 60, 20, solid("#000000"), knockout=True)
    frame = Shape(2, "frame", RectangleForm(20, 20, 80, 80), (solid("#c8402a"), CastShadow()), (hole,), lift=6.0)
    bag = Shape(1, "bag", RectangleForm(0, 0, 200, 200), (solid("#f0ae45"),))
    pixel = lambda doc: tuple(shown(doc)[60, 60, :3])  # noqa: E731
    amber = (240, 174, 69)
    assert pixel(document(bag, frame)) == amber, "what lies beneath the frame is seen"
    root = document(bag, frame, replace(hole, id=5))
    assert pixel(root) == (255, 255, 255), "in the root it cuts everything beneath"
    spared = document(replace(bag, stock=True), frame, replace(hole, id=5))
    assert pixel(spared) == amber and tuple(shown(spared)[60, 30, :3]) == (200, 64, 42)
    assert off(document(bag, frame), freeze(document(bag, frame), [2]).document).max() <= 1


def test_specks_are_found_with_their_area():
    doc = document(
        disc(1, 60, 60, 30),
        Shape(2, "speck", RectangleForm(5, 5, 0.4, 0.5), (solid("#000000"),)),
        Shape(3, "x", PathForm(()), ()),
    )
    assert search.strays(doc) == [2, 3]
    assert search.areas_of(doc, [2, 3]) == pytest.approx([0.2, 0.0])


# -- copies and what refers to what


def test_references_follow_into_copies_and_stay_where_they_point_out():
    held = disc(1, 50, 50, 20, solid("#c8402a"), CastShadow(receivers=(2, 4)), Sliver(by="outline", other=2), lift=4.0)
    doc = document(disc(2, 60, 60, 40), held, disc(4, 150, 150, 30))
    made, new = objects.duplicate(doc, [1, 2])
    cutter, copy = (find(made, i) for i in new)  # back to front
    shadow, sliver = (next(i for i in copy.recipe if isinstance(i, k)) for k in (CastShadow, Sliver))
    assert shadow.receivers == (cutter.id, 4) and sliver.other == cutter.id
    pasted, ids = objects.paste(doc, objects.branches(doc, [1, 2]))
    ref = next(i for i in find(pasted, ids[1]).recipe if isinstance(i, Sliver))
    assert ref.other in ids and ref.other != 2
    cut = objects.delete(doc, [2])
    back, ids = objects.paste(cut, objects.branches(doc, [2]))
    assert ids == [2] and not loose_references(back), "what was cut and pasted is held to again"
    union, whole = combine.combine(doc, [2, 4], "union")
    assert find(union, 1).recipe[1].receivers == (whole,), "the role is handed on"
    gone = objects.delete(doc, [2, 4])
    assert [n.id for n in loose_references(gone)] == [1] and not loose_references(doc)
    flat = replace(
        gone, root=replace(gone.root, children=tuple(replace(n, recipe=n.recipe[:1]) for n in gone.root.children))
    )
    assert off(gone, flat).max() <= 1, "a shadow that lost its receivers falls nowhere"


def test_copies_of_linked_copies_are_linked_among_themselves():
    one = disc(1, 50, 50, 20, link=7)
    doc = document(Group(5, "g", (one, replace(one, id=2, transform=translation(50, 0)))))
    made, (copy,) = objects.duplicate(doc, [5])
    numbers = {n.link for n in find(made, copy).children}
    assert len(numbers) == 1 and numbers != {7}
    stays, (linked,) = links.linked_copies(doc, [5])
    assert {n.link for n in find(stays, linked).children} == {7}
    alone, (single,) = objects.duplicate(doc, [1])
    assert find(alone, single).link == 7, "a link that leads out of what is copied stays"


def test_several_copied_objects_are_numbered_apart_and_look_as_they_do_on_the_sheet():
    """With one number for all, what was kept of the first was taken for the others."""
    parts = [
        disc(1, 40, 60, 20, solid("#2b8577"), CastShadow(), lift=4.0),
        disc(2, 80, 60, 20, solid("#c8402a"), CastShadow(), lift=4.0),
    ]
    groups = [Group(5 + k, "g", (p,), transform=(1, 0, 0, 1, 0, 30.0 * k)) for k, p in enumerate(parts)]
    doc = document(*groups)
    clips = objects.branches(doc, [1, 2])
    assert len({n.id for c in clips for n in walk(c)}) == 4
    assert off(doc, replace(doc, root=replace(doc.root, children=clips))).max() == 0
