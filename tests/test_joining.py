"""Freezing, joining, cutting, copying and colouring as hands do them: what is drawn is what comes out."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest

from scenes import disc, document, solid
from volumen.build.light import light_at, light_of
from volumen.build.outline import outline
from volumen.build.scene import build
from volumen.edit import arrange, combine, gradients, joining, links, objects, palette, plain_forms, recipes, search
from volumen.edit.colours import give_recipe, transfer_look
from volumen.edit.freeze import freeze
from volumen.edit.line_outlines import line_to_outline
from volumen.edit.lit import add_to_see
from volumen.edit.looks import give_look
from volumen.edit.placing import own_box, sheet_recipe
from volumen.geometry.affine import apply, mean_scale, multiply, rotation, scaling, translation
from volumen.geometry.engine import simplified
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
from volumen.model.lengths import LENGTHS, scaled_lengths
from volumen.model.make import corner, linear, path_form, smooth
from volumen.model.nodes import Group, PathForm, RectangleForm, SegmentForm, Shape, TextForm
from volumen.model.tree import find, loose_references, walk, world_of
from volumen.model.validate import validate
from volumen.render.raster import render_bytes
from volumen.shading.lamp import Lamp
from volumen.shading.mixing import carried, mixed
from volumen.shading.paint import Conic, Linear, Solid, Stop, colour

replace = msgspec.structs.replace
INK, RED, SEA = colour("#20242a"), colour("#c8402a"), colour("#2b8577")
STOPS = (Stop(0.0, colour("#f0ae45")), Stop(0.4, RED), Stop(1.0, INK))
TRIANGLE = path_form(corner(20, 90), corner(60, 20), corner(100, 90), closed=False)


def shown(doc, scale=1.0):
    return np.asarray(render_bytes(build(doc, references=True), scale)).astype(int)


def off(a, b):
    return abs(shown(a) - shown(b)).max(axis=-1)


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
    word = Shape(1, "word", TextForm("Bob", size=60, x=20, y=90), (solid("#2b8577"), Body("ball"), Sliver(depth=3.0)))
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
    assert "2 other colours" in combine.looks_dropped(doc, [1, 4], "intersect")
    assert combine.looks_dropped(document(disc(1, 50, 50, 20), disc(2, 60, 50, 20)), [1, 2], "intersect") == ""


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
    axis = arrange.mirroring(90, (60, 0))
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


# -- looks and gradients land in the box of each


def rect(node_id, x, y, w, h, *recipe, **more):
    return Shape(node_id, f"rect {node_id}", RectangleForm(x, y, w, h), recipe or (solid("#d9dbd3"),), **more)


def relative(doc, node_id):
    """Where a gradient's start and end lie in the box of its shape."""
    node = find(doc, node_id)
    l, t, r, b = own_box(node)
    paint = gradients.paint_of(node)
    return [((x - l) / (r - l), (y - t) / (b - t)) for x, y in (paint.start, paint.end)]


SOURCE = rect(1, 10, 10, 40, 20, Fill(Linear(STOPS, (10, 10), (50, 30))), Line(Solid(INK), 3.0))
TARGETS = (rect(2, 100, 20, 60, 80), rect(3, 0, 0, 10, 10, transform=(3, 0, 0, 3, 20, 120)))
GIVERS = {
    "look": lambda d: transfer_look(d, find(d, 1), [2, 3]),
    "recipe": lambda d: give_recipe(d, [2, 3], sheet_recipe(find(d, 1).recipe, world_of(d, 1)), own_box(find(d, 1))),
    "kept look": lambda d: give_look(palette.save_look(d, find(d, 1), "k"), [2, 3], palette.save_look(d, find(d, 1), "k").palette.looks[0]),
    "card": lambda d: recipes.edit_alike(d, [1, 2, 3], 0, find(d, 1).recipe[0], paint=Linear(STOPS, (10, 10), (50, 30))),
}  # fmt: skip


@pytest.mark.parametrize("giver", GIVERS)
def test_a_look_lands_in_the_box_of_each(giver):
    doc = GIVERS[giver](document(SOURCE, *TARGETS))
    wanted = [(0.0, 0.0), (1.0, 1.0)]
    for i in (1, 2, 3):
        first, last = relative(doc, i)
        paint = gradients.paint_of(find(doc, i))
        assert first == pytest.approx(wanted[0], abs=1e-9)
        # The end lies where the line of its colour runs through the far corner.
        _, _, r, b = own_box(find(doc, i))
        (sx, sy), (ex, ey) = paint.start, paint.end
        share = ((r - sx) * (ex - sx) + (b - sy) * (ey - sy)) / ((ex - sx) ** 2 + (ey - sy) ** 2)
        assert share == pytest.approx(1.0, abs=1e-9) and last
        if giver != "card":
            line = next(k for k in find(doc, i).recipe if isinstance(k, Line))
            assert line.width * mean_scale(world_of(doc, i)) == pytest.approx(3.0), "as wide on the sheet"


def test_colours_of_one_change_colours_of_all_and_leave_their_places():
    doc = transfer_look(document(SOURCE, *TARGETS), SOURCE, [2, 3])
    before = find(doc, 2).recipe[0].paint
    changed = replace(find(doc, 1).recipe[0].paint, stops=STOPS[:2])
    after = recipes.edit_alike(doc, [1, 2, 3], 0, find(doc, 1).recipe[0], paint=changed)
    assert find(after, 2).recipe[0].paint == replace(before, stops=STOPS[:2])


def test_one_gradient_across_several_moves_as_one_from_any_of_them():
    doc = gradients.across(document(SOURCE, *TARGETS), [1, 2, 3])
    on_sheet = [carried(gradients.paint_of(find(doc, i)), world_of(doc, i)) for i in (1, 2, 3)]
    assert on_sheet[0].start == pytest.approx(on_sheet[2].start)
    third = find(doc, 3)
    moved = replace(gradients.paint_of(third), start=(0.0, 0.0), end=(3.0, 9.0))
    edited = objects.update_nodes(doc, [3], lambda n: gradients.with_paint(n, moved))
    after = gradients.one_gradient(doc, edited)
    want = carried(moved, world_of(doc, 3))
    for i in (1, 2):
        got = carried(gradients.paint_of(find(after, i)), world_of(after, i))
        assert (got.start, got.end) == (pytest.approx(want.start), pytest.approx(want.end))
    copies, made = objects.duplicate(after, [1, 2])
    assert gradients.shared_of(find(copies, made[0])) not in (None, gradients.shared_of(find(after, 1)))


# -- lengths are lengths on the sheet


def test_typed_lengths_are_lengths_on_the_sheet_whatever_the_place():
    squashed = multiply(rotation(20), scaling(1.0, 0.25))
    doc = document(
        rect(1, 0, 0, 60, 60, solid("#2b8577"), Line(Solid(INK), 2.0)),
        rect(2, 0, 0, 60, 60, solid("#2b8577"), Line(Solid(INK), 2.0), transform=squashed),
    )
    doc = recipes.edit_alike(doc, [1, 2], 1, find(doc, 1).recipe[1], on_sheet=True, width=20.0)
    assert find(doc, 1).recipe[1].width == 20.0 and find(doc, 2).recipe[1].width == pytest.approx(40.0)
    assert objects.set_lift(doc, [2], 9.0).root.children[1].lift == pytest.approx(18.0)


@pytest.mark.parametrize("bearing", [0.0, 90.0, 215.0])
def test_slivers_are_as_deep_from_every_side_of_a_squashed_thing(bearing):
    place = scaling(1.0, 0.25)
    depth = 8.0 / mean_scale(place)
    doc = document(
        rect(
            1,
            20,
            80,
            160,
            400,
            solid("#2b8577"),
            Sliver(depth=depth, opacity=1.0, blend="normal", angle=bearing),
            transform=place,
        )
    )
    bare = document(rect(1, 20, 80, 160, 400, solid("#2b8577"), transform=place))
    change = off(doc, bare)
    covered = change.sum() / change.max()
    x, y = math.sin(math.radians(bearing)), -math.cos(math.radians(bearing))
    w, h = 160, 100
    wanted = w * h - max(w - abs(8 * x), 0) * max(h - abs(8 * y), 0)
    assert covered == pytest.approx(wanted, rel=0.02)


def test_keeping_lengths_keeps_every_length_and_the_lift():
    recipe = (*LIT, CastShadow(softness=3.0, length=9.0), OuterGlow(RED, 5.0, 2.0), Offset(3.0))
    doc = document(disc(1, 60, 60, 30, *recipe, lift=7.0))
    larger = arrange.keep_lengths(objects.transform(doc, [1], scaling(3, 3)), [1], 3.0)
    node, k = find(larger, 1), mean_scale(world_of(larger, 1))
    assert node.lift * k == pytest.approx(7.0)
    for old, new in zip(recipe, node.recipe, strict=True):
        for field in LENGTHS.get(type(old), ()):
            if getattr(old, field) is not None:
                assert getattr(new, field) * k == pytest.approx(getattr(old, field)), (type(old), field)
    assert scaled_lengths(Offset(5.0, percent=True), 3.0) == Offset(5.0, percent=True)
    assert scaled_lengths(Sliver(min_area=2.0), 3.0).min_area == 18.0, "an area grows with the square"


def test_what_joins_a_link_takes_its_look_and_gives_it_none():
    doc = document(disc(1, 50, 50, 20, link=7), disc(2, 90, 50, 20, link=7), disc(3, 150, 50, 20, solid("#c8402a")))
    joined = links.link(doc, [1, 3])
    after = links.followed(doc, joined)
    assert {find(after, i).recipe for i in (1, 2, 3)} == {find(doc, 1).recipe} and find(after, 3).link == 7
    other = objects.set_fields(doc, [3], link=7)
    assert find(links.followed(doc, other), 1).recipe == find(doc, 1).recipe


def test_a_conic_gradient_between_two_turns_the_short_way():
    a, b = (Conic(STOPS, (0.0, 0.0), turn) for turn in (170.0, -170.0))
    assert mixed(a, b, 0.5).turn % 360 == pytest.approx(180.0)


# -- groups, meshes, second fills


def test_a_body_on_a_group_goes_to_each_child_in_its_own_colour():
    pair = (disc(1, 50, 60, 24), Group(4, "in", (disc(2, 120, 60, 24, solid("#c8402a")),)))
    doc = recipes.add(document(Group(3, "g", pair)), [3], Body("ball"))
    picture = shown(doc)
    left, right = picture[60, 50, :3], picture[60, 120, :3]
    assert left[1] > left[0] and right[0] > 2 * right[1], "sea green and vermilion, not one grey"


def test_a_second_fill_shows_together_with_the_first():
    doc = document(disc(1, 60, 60, 30))
    after = add_to_see(doc, [1], Fill(Solid(SEA)))
    assert (off(doc, after) > 12).sum() > 600
    assert shown(after)[60, 60, 1] > shown(after)[60, 60, 0], "the first colour is still seen"


def test_the_tone_of_a_sliver_brings_its_usual_blend_mode():
    doc = document(disc(1, 60, 60, 30, solid("#2b8577"), Sliver("shade")))
    lit = recipes.edit_alike(doc, [1], 1, find(doc, 1).recipe[1], kind="light")
    assert find(lit, 1).recipe[1].blend == "screen"
    own = recipes.edit_alike(doc, [1], 1, find(doc, 1).recipe[1], blend="overlay")
    assert find(recipes.edit_alike(own, [1], 1, find(own, 1).recipe[1], kind="light"), 1).recipe[1].blend == "overlay"


def test_step_copies_shrink_fade_and_are_named_once():
    doc = document(disc(1, 60, 60, 30))
    made, ids = arrange.step_copies(doc, [1], 4, (60, 60), 0.0, (10.0, 0.0), scale=0.5, fade=0.8)
    nodes = [find(made, i) for i in ids]
    assert [n.opacity for n in nodes] == pytest.approx([0.8, 0.64, 0.512])
    assert [mean_scale(n.transform) for n in nodes] == pytest.approx([0.5, 0.25, 0.125])
    assert [apply(n.transform, (60, 60)) for n in nodes] == [
        pytest.approx((70, 60)),
        pytest.approx((80, 60)),
        pytest.approx((90, 60)),
    ]
    again, _ = arrange.step_copies(made, [1], 3, (60, 60), 0.0, (10.0, 0.0))
    names = [n.name for n in walk(again.root)]
    assert len(names) == len(set(names))


def test_ungrouping_passes_on_what_it_can_and_names_the_rest():
    group = Group(
        3,
        "g",
        (disc(1, 50, 60, 20, Body()), disc(2, 120, 60, 20)),
        (Sliver(each=True, depth=4.0), CastShadow()),
        own_lamp=Lamp(90, 40),
        opacity=0.5,
    )
    doc, free, lost = objects.ungroup(document(group), [3])
    assert free == [1, 2] and lost == "cast shadow, opacity"
    assert all(find(doc, i).own_lamp == Lamp(90, 40) and isinstance(find(doc, i).recipe[-1], Sliver) for i in free)
    clips = objects.branches(document(replace(group, recipe=(), opacity=1.0)), [1])
    assert clips[0].children[0].own_lamp == Lamp(90, 40), "a copy keeps the light it has where it is"
