"""Losses are found by a table: every operation that takes things together or apart, on every ingredient, shows the same
afterwards, or names what was lost. A level is the dither; freezing lands on the same pixels."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from ingredient_cases import CASES, ingredient
from scenes import disc, document, shown, solid
from volumen.edit.combine import LeavesNothing, combine, combine_once, release
from volumen.edit.combined_looks import looks_dropped, own_light
from volumen.edit.freeze import freeze
from volumen.edit.plain_forms import to_path
from volumen.edit.plainness import is_plain
from volumen.edit.search import duplicates
from volumen.model.catalogue.ingredients import row_of
from volumen.model.fitting import fitted
from volumen.model.ingredients import FORM, REPEATING, CastShadow, Fill, Line, OuterGlow, Seams
from volumen.model.nodes import Group, RectangleForm, Shape, TextForm
from volumen.model.repeats import Grid, Ring
from volumen.model.tree import find, replace_nodes
from volumen.outline.copies import beyond_sight
from volumen.outline.outlines import outline
from volumen.outline.repeats import standing
from volumen.shading.paint import colour

replace = msgspec.structs.replace
PAPER = Shape(1, "paper", RectangleForm(30, 30, 80, 60), (solid("#d9c7a3"),))
NAMES = {"ids": lambda k: getattr(k, "__name__", k)}


def pair(*recipe, **more):
    """A sheet of paper, and before it a disc with something on it."""
    front = disc(5, 100, 80, 36, solid("#2b8577"), *recipe, lift=5.0, **more)
    return replace(fitted(document(PAPER, front)), next_id=50)


def worst(a, b):
    return np.abs(shown(a) - shown(b)).max()


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
