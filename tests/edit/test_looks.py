"""Looks, gradients and lengths as hands set them: each lands where it is wanted and measures what it says."""

from __future__ import annotations

import math

import msgspec
import pytest

from scenes import disc, document, off, shown, solid
from volumen.edit import arrange, gradients, links, objects, palette, recipes
from volumen.edit.adding import add_to_see
from volumen.edit.looks import give_look, give_recipe, transfer_look
from volumen.edit.placing import own_box, sheet_recipe
from volumen.geometry.affine import apply, mean_scale, multiply, rotation, scaling
from volumen.model.ingredients import (  # fmt: skip
    Body,
    CastShadow,
    Fill,
    InnerShadow,
    Line,
    Offset,
    OuterGlow,
    Relief,
    Sliver,
)
from volumen.model.lengths import LENGTHS, scaled_lengths
from volumen.model.make import corner, path_form
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import find, walk, world_of
from volumen.shading.between import mixed
from volumen.shading.carried import carried
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Conic, Linear, Solid, Stop, colour

replace = msgspec.structs.replace
INK, RED, SEA = colour("#20242a"), colour("#c8402a"), colour("#2b8577")
STOPS = (Stop(0.0, colour("#f0ae45")), Stop(0.4, RED), Stop(1.0, INK))
TRIANGLE = path_form(corner(20, 90), corner(60, 20), corner(100, 90), closed=False)


LIT = (solid("#2b8577"), Body("ball"), Sliver(depth=6.0), InnerShadow(5.0), Relief(width=5.0), Line(Solid(INK), 3.0))


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
