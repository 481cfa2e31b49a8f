"""Losses are found by a table: every operation that takes things together or apart, on every ingredient, shows the same
afterwards, or names what was lost. A level is the dither; freezing lands on the same pixels."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from ingredient_cases import CASES, ingredient
from scenes import disc, document, shown, solid
from volumen.compose.scene import around_all
from volumen.edit import links, motifs, objects
from volumen.edit.combine import LeavesNothing, combine, combine_once, release
from volumen.edit.combined_looks import looks_dropped, own_light
from volumen.edit.freeze import freeze
from volumen.edit.joining import mirror_weld
from volumen.edit.line_outlines import line_to_outline, otherwise_on_bands
from volumen.edit.links import linked_beside
from volumen.edit.objects import transform
from volumen.edit.plain_forms import to_path
from volumen.edit.plainness import is_plain
from volumen.edit.recipes import fits
from volumen.edit.repeats import each_its_own, let_go
from volumen.edit.search import duplicates
from volumen.formats import native
from volumen.geometry.affine import scaling
from volumen.model.catalogue.ingredients import row_of
from volumen.model.fitting import fitted
from volumen.model.ingredients import FORM, REPEATING, Block, Blur, CastShadow, Fill, Line, OuterGlow, Seams
from volumen.model.make import path_form, smooth
from volumen.model.nodes import Group, RectangleForm, Shape, TextForm
from volumen.model.repeats import Grid, Ring
from volumen.model.tree import find, replace_nodes
from volumen.outline.copies import beyond_sight
from volumen.outline.outlines import outline
from volumen.outline.repeats import standing
from volumen.outline.silhouettes import silhouette
from volumen.picture.bounds import items_box
from volumen.picture.stopping import Stopped
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
PAPER = Shape(1, "paper", RectangleForm(30, 30, 80, 60), (solid("#d9c7a3"),))
NAMES = {"ids": lambda k: getattr(k, "__name__", k)}


def pair(*recipe, **more):
    """A sheet of paper, and before it a disc with something on it."""
    front = disc(5, 100, 80, 36, solid("#2b8577"), *recipe, lift=5.0, **more)
    return replace(fitted(document(PAPER, front)), next_id=50)


def worst(a, b):
    return np.abs(shown(a) - shown(b)).max()


@pytest.mark.slow
@pytest.mark.parametrize("operation", ["divide", "cut hidden"])
@pytest.mark.parametrize("kind", CASES, **NAMES)
def test_pieces_keep_the_whole_look_of_their_members(kind, operation):
    doc = pair(ingredient(kind), opacity=0.7, blend="multiply")
    made, whole = combine(doc, [1, 5], operation)
    assert worst(made, to_path(made, whole)) == 0
    assert worst(made, freeze(made, [whole]).document) <= 1
    bare = combine(pair(), [1, 5], operation)[0]
    if not isinstance(ingredient(kind), (*REPEATING, Seams)):  # these are idle on a shape
        assert worst(made, bare) > 2
    assert not looks_dropped(doc, [1, 5], operation)


@pytest.mark.parametrize("operation", ["divide", "cut hidden"])
def test_a_piece_that_stands_alone_shows_what_its_member_did(operation):
    """Nothing lies over it, so nothing but the form of the other may change."""
    beside = pair(CastShadow(), OuterGlow(colour("#f0ae45"), 5.0), opacity=0.6)
    away = document(
        disc(2, 40, 40, 20), replace(find(beside, 5), transform=(1, 0, 0, 1, 20, 20)), ground=colour("#efe6d6")
    )
    assert worst(away, combine(away, [2, 5], operation)[0]) <= 1


def test_what_a_member_holds_and_how_faint_its_group_is_stays():
    held = disc(6, 110, 90, 14, solid("#c8402a"))
    group = Group(7, "g", (disc(5, 130, 120, 24, children=(held,)),), opacity=0.5)
    doc = replace(document(PAPER, group), next_id=50)
    assert worst(doc, combine(doc, [1, 7], "cut hidden")[0]) <= 1


@pytest.mark.parametrize("operation", ["union", "intersect", "exclude", "subtract"])
@pytest.mark.parametrize("kind", CASES, **NAMES)
def test_one_look_for_all_names_what_it_drops(kind, operation):
    """The ingredient lies on the member that does not give its look; the one that does keeps all of it."""
    i = ingredient(kind)
    doc = pair(i)
    giver, other = (1, 5) if operation == "subtract" else (5, 1)
    told = looks_dropped(doc, [1, 5], operation)
    made, whole = combine(doc, [1, 5], operation)
    if giver == 5:
        kept = find(made, whole).recipe
        assert isinstance(i, (*FORM, Line, Fill)) or i in kept or any(isinstance(k, type(i)) for k in kept)
        turned = replace(doc, root=replace(doc.root, children=(doc.root.children[1], doc.root.children[0])))
        told = looks_dropped(turned, [1, 5], operation)
        silent = isinstance(i, (*FORM, Fill, Line, *REPEATING, Seams))
        assert silent or row_of(i).title in told
    assert other != giver


def test_a_union_is_as_faint_as_its_front_shape():
    doc = pair(opacity=0.4, blend="multiply")
    made, whole = combine(doc, [1, 5], "union")
    assert (find(made, whole).opacity, find(made, whole).blend) == (0.4, "multiply")
    turned = replace(doc, root=replace(doc.root, children=(doc.root.children[1], doc.root.children[0])))
    assert "opacity" in looks_dropped(turned, [1, 5], "union")


def test_releasing_names_what_the_combination_showed_of_its_own():
    made, whole = combine(pair(CastShadow()), [1, 5], "union")
    assert own_light(find(made, whole)) == ""
    lit = replace(find(made, whole), recipe=(*find(made, whole).recipe, ingredient(OuterGlow)), opacity=0.5)
    assert own_light(lit) == f"{row_of(ingredient(OuterGlow)).title}, opacity"
    assert release(made, [whole])[1] == [1, 5]


@pytest.mark.parametrize("operation", ["subtract", "intersect", "exclude"])
@pytest.mark.parametrize("make", [combine, combine_once])
def test_a_combination_that_leaves_nothing_is_not_made(operation, make):
    larger = disc(2, 60, 60, 40)
    other = disc(3, 60, 60, 20) if operation == "subtract" else disc(3, 160, 160, 20)
    nodes = {"subtract": (other, larger), "intersect": (larger, other), "exclude": (larger, replace(larger, id=3))}
    with pytest.raises(LeavesNothing, match="nothing would be left"):
        make(document(*nodes[operation]), [2, 3], operation)


def test_one_group_is_united_with_its_copies_live():
    ring = Ring((100.0, 100.0), 6)
    group = Group(1, "petals", (disc(2, 100, 60, 18),), (ring,))
    doc, made = combine(replace(document(group), next_id=9), [1], "union")
    assert len(outline(find(doc, made)).contours) == 6
    fewer = replace(find(doc, 1), recipe=(replace(ring, count=3),))
    changed = replace_nodes(doc, {1: fewer})
    assert len(outline(find(changed, made)).contours) == 3
    alone = document(disc(2, 100, 60, 18))
    assert combine(alone, [2], "union")[1] is None, "one shape alone is nothing to unite"


def test_a_group_that_lets_the_stock_show_freezes():
    word = Shape(4, "w", TextForm("Bo", size=30, x=80, y=110), (solid("#222222"),))
    ring = Group(2, "ring", (disc(3, 100, 60, 14, solid("#111111"), CastShadow(), lift=3.0), word),
                 (Ring((100.0, 100.0), 6),), knockout=True, transform=(1.2, 0.3, 0, 0.8, -10, 4))  # fmt: skip
    doc = replace(document(disc(1, 100, 100, 80), ring), next_id=9)
    frozen = freeze(doc, [2])
    assert worst(doc, frozen.document) <= 1 and "stock" in frozen.told
    assert is_plain(find(frozen.document, 2)) and find(frozen.document, 2).knockout


@pytest.mark.parametrize("finish", [{"recipe": (Blur(3.0),)}, {"opacity": 0.5}, {"blend": "multiply"}], ids=str)
def test_shadows_on_a_finished_sheet_freeze_within_its_finish_or_it_is_told(finish):
    recipe = (solid("#d9c7a3"), *finish.get("recipe", ()))
    sheet = Shape(1, "sheet", RectangleForm(30, 30, 100, 90), recipe, lift=2.0, opacity=finish.get("opacity", 1.0),
                  blend=finish.get("blend", "normal"))  # fmt: skip
    pair = Group(9, "pair", (sheet, disc(5, 80, 70, 24, solid("#2b8577"), CastShadow(), lift=9.0)))
    doc = replace(document(pair, ground=colour("#efe6d6")), next_id=60, lifts_add_up=True)
    both = freeze(doc, [9])
    assert worst(doc, both.document) <= 2 and "finish" not in both.told
    alone = freeze(doc, [5])
    assert worst(doc, alone.document) <= 2 or "on 'sheet' lie over the finish" in alone.told


def test_frozen_shadows_over_a_glow_of_their_group_are_told():
    glowing = (OuterGlow(colour("#f0ae45"), 14.0),)
    pair = Group(9, "pair", (disc(5, 80, 70, 24, solid("#2b8577"), CastShadow(), lift=9.0),), glowing)
    doc = replace(document(pair, ground=colour("#efe6d6")), next_id=60, lifts_add_up=True)
    frozen = freeze(doc, [5])
    assert worst(doc, frozen.document) > 2 and "the glow or shadow of 'pair'" in frozen.told
    assert worst(doc, freeze(doc, [9]).document) <= 2


@pytest.mark.parametrize("asked", [1, 5, 40])
def test_freezing_many_copies_can_be_stopped_at_any_moment(asked):
    ring = Group(
        1, "ring", (disc(2, 100, 60, 9, solid("#2b8577"), CastShadow(), lift=3.0),), (Ring((100.0, 100.0), 60),)
    )
    doc = replace(document(ring), next_id=9, lifts_add_up=True)
    moments = iter(range(asked))
    with pytest.raises(Stopped):
        freeze(doc, [1], lambda: next(moments, None) is None)
    with pytest.raises(Stopped):  # composing, which takes most of the time, listens too
        around_all(doc, None, lambda: True)


@pytest.mark.parametrize(
    "repeat", [Ring((100.0, 100.0), 400, scale=10.0), Grid(1000, 2, scale=0.01), Grid(2, 1000, scale=9.0)]
)
def test_steps_that_no_picture_can_hold_leave_copies_out(repeat):
    group = Group(1, "g", (disc(2, 100, 60, 4),), (repeat,))
    shown_of = [c for c in standing(group) if c.nodes]
    assert len(shown_of) >= 2 and len(shown_of) + beyond_sight(repeat) == getattr(repeat, "count", 2000)
    assert np.isfinite(shown(document(group))).all()


def test_duplicates_are_found_across_groups_and_groups_on_groups():
    pair = (disc(2, 60, 60, 20), disc(3, 90, 60, 20, CastShadow(), lift=4.0))
    twin = tuple(replace(c, id=c.id + 10) for c in pair)
    doc = document(
        Group(1, "a", pair, transform=(2, 0, 0, 2, 5, 5)), Group(11, "b", twin, transform=(2, 0, 0, 2, 5, 5))
    )
    assert duplicates(doc) == [11]
    alone = replace(twin[0], transform=(2, 0, 0, 2, 5, 5))
    assert duplicates(document(doc.root.children[0], alone)) == [12]
    assert duplicates(document(doc.root.children[0], replace(alone, opacity=0.5))) == []
    assert duplicates(document(doc.root.children[0], replace(alone, transform=(2, 0, 0, 2, 5, 5.1)))) == []


# -- operations that take one thing apart, or set it elsewhere

FINISHES = {
    "opacity": {"opacity": 0.5}, "blend": {"blend": "multiply"}, "lamp": {"own_lamp": Lamp(200, 20)},
    "unlit": {"unlit": True}, "lines": {"lines_only": True}, "isolated": {"isolated": True},
}  # fmt: skip
LINE = Line(Solid(colour("#20242a")), 7.0)
PLACE = (1.1, 0.2, 0.0, 0.8, 3.0, 5.0)
SIZES = pytest.mark.parametrize("size", [0.35, pytest.param(1.0, marks=pytest.mark.slow)])


def on_paper(node, size):
    doc = replace(document(PAPER, node, ground=colour("#efe6d6")), next_id=60)
    return fitted(transform(doc, [1, node.id], scaling(size, size)))


def of(kind):
    """The recipe and the finish that a case stands for."""
    return ((), FINISHES[kind]) if kind in FINISHES else ((ingredient(kind),), {})


def as_motif(doc):
    kept = motifs.keep_motif(doc, 5)
    box = objects.selection_box(kept, [5])
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    return objects.delete(motifs.placed(kept, kept.palette.motifs[0], middle)[0], [5])


def copied_by_file(doc):
    data = native.encode_branches(objects.branches(doc, [5]))
    return objects.paste(objects.delete(doc, [5]), native.decode_branches(data))[0]


ELSEWHERE = {
    "motif": as_motif,
    "linked copy": lambda doc: objects.delete(links.linked_copies(doc, [5])[0], [5]),
    "cut and pasted": copied_by_file,
    "grouped": lambda doc: objects.group(doc, [5])[0],
}


@SIZES
@pytest.mark.parametrize("kind", [*CASES, *FINISHES], **NAMES)
def test_what_is_set_elsewhere_shows_the_same(kind, size):
    recipe, finish = of(kind)
    doc = on_paper(disc(5, 100, 80, 36, solid("#2b8577"), *recipe, lift=5.0, transform=PLACE, **finish), size)
    for name, act in ELSEWHERE.items():
        assert worst(doc, act(doc)) <= 1, name


def differs(a, b):
    """Where two pictures differ by more than an edge's share of a pixel: of the sheet. A cusp of a line is a few."""
    return float((np.abs(shown(a) - shown(b)).max(axis=-1) > 8).mean()) > 0.002


@SIZES
@pytest.mark.parametrize("closed", [True, False], ids=["closed", "open"])
@pytest.mark.parametrize("kind", [*CASES, *FINISHES], **NAMES)
def test_a_line_as_an_outline_shows_the_same_or_names_what_does_not(kind, closed, size):
    recipe, finish = of(kind)
    whole = disc(5, 100, 80, 36, solid("#2b8577"), *recipe, LINE, lift=5.0, transform=PLACE, **finish)
    open_line = path_form(smooth(70, 50, 20, 3), smooth(140, 90, 3, 30), closed=False)
    node = whole if closed else replace(whole, form=open_line, recipe=(*recipe, LINE))
    doc = on_paper(node, size)
    told = otherwise_on_bands(doc, [5])
    if not differs(doc, line_to_outline(doc, [5])[0]):
        return
    assert told and row_of(recipe[0]).title in told


@SIZES
@pytest.mark.parametrize("kind", [*CASES, *FINISHES], **NAMES)
def test_what_a_group_shows_as_one_is_named_when_it_goes(kind, size):
    recipe, finish = of(kind)
    pair = (disc(5, 60, 60, 26, solid("#2b8577")), disc(6, 90, 70, 22, solid("#c8402a"), lift=3.0))
    group = Group(9, "g", pair, transform=PLACE, **finish)
    if recipe and not fits(group, recipe[0]):
        return
    doc = on_paper(replace(group, recipe=recipe), size)
    apart, _, lost = objects.ungroup(doc, [9])
    assert lost or worst(doc, apart) <= 1
    if recipe and isinstance(recipe[0], REPEATING):
        return
    ring = replace(group, children=pair[:1], recipe=(*recipe, Ring((80.0, 80.0), 5)))
    doc = on_paper(ring, size)
    assert each_its_own(ring) or worst(doc, let_go(doc, 9)[0]) <= 1


@SIZES
@pytest.mark.parametrize("kind", [*CASES, *FINISHES], **NAMES)
def test_copies_let_go_look_as_they_did(kind, size):
    recipe, finish = of(kind)
    member = disc(5, 60, 60, 16, solid("#2b8577"), *recipe, lift=4.0, **finish)
    doc = on_paper(Group(9, "g", (member,), (Ring((80.0, 80.0), 5),), transform=PLACE), size)
    assert worst(doc, let_go(doc, 9)[0]) <= 1


@pytest.mark.parametrize("kind", [k for k in CASES if not isinstance(ingredient(k), FORM)], **NAMES)
def test_a_mirrored_half_keeps_its_recipe(kind):
    half = Shape(
        5,
        "half",
        path_form(smooth(70, 50, 20, 3), smooth(140, 90, 3, 30), closed=False),
        (ingredient(kind), LINE),
        opacity=0.5,
    )
    doc = document(half)
    made, whole = mirror_weld(doc, 5)
    assert find(made, whole) == replace(half, form=find(made, whole).form)


@pytest.mark.parametrize("angle", [0.0, 90.0, 200.0, 300.0])
def test_a_linked_copy_beside_lies_clear_of_all_that_its_original_shows(angle):
    block = Shape(1, "b", RectangleForm(60, 80, 60, 50), (solid("#2b8577"), Block(depth=40.0, angle=angle)))
    doc, (copy,) = linked_beside(replace(document(block), next_id=9), [1])
    boxes = [items_box(silhouette(n, n.transform)) for n in (find(doc, 1), find(doc, copy))]
    assert boxes[1][0] - boxes[0][2] == pytest.approx(0.1 * (boxes[0][2] - boxes[0][0]), abs=0.5)
