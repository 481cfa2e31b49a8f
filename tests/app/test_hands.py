"""What a hand does off the path: undo with what was selected, guides grabbed by their inside, counters, crossings."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from driving import click, tool
from gestures import ALT, SHIFT, at, drag, move, show
from scenes import disc, document, shown, solid
from volumen.edit import rays
from volumen.edit.variants import materials
from volumen.geometry.affine import translation
from volumen.geometry.snap import KINDS, SnapField
from volumen.model.ingredients import Block, CastShadow, Offset
from volumen.model.make import circle
from volumen.model.nodes import Group, GuideCircle, GuideLine, RaysForm, RectangleForm, Shape, TextForm
from volumen.model.repeats import Course, Ring, Scatter
from volumen.model.tree import find
from volumen.outline.outlines import outline

pytestmark = pytest.mark.one_window
replace = msgspec.structs.replace
LEFT = Qt.MouseButton.LeftButton


@pytest.mark.parametrize(
    "command",
    ["combine.union", "object.group", "edit.delete", "edit.duplicate", "object.freeze", "combine.divide_once"],
)
def test_undo_and_redo_bring_back_what_was_selected(window, command):
    s = window.session
    show(window, document(disc(1, 70, 70, 30), disc(2, 100, 70, 30, solid("#c8402a"), CastShadow()), side=200), 1, 2)
    window.registry.run(command)
    after = s.selection
    window.registry.run("edit.undo")
    assert s.selection == (1, 2)
    window.registry.run("edit.redo")
    assert s.selection == after
    window.registry.run("edit.undo")
    assert s.selection == (1, 2)


def bounded_rays():
    form = RaysForm(centre=(100.0, 100.0), reach=90.0, count=4)
    doc = replace(document(Shape(1, "rays", form, (solid("#f0ae45"),)), disc(2, 100, 100, 60), side=200), next_id=9)
    return rays.bound(doc, 1, 2, True), (1,), 2


def scattered():
    area = disc(2, 100, 100, 80, member=True)
    group = Group(1, "drops", (area, disc(3, 100, 100, 2)), (Scatter(count=3, distance=30.0),))
    return replace(document(group, side=200), next_id=9), (1,), 2


def closed_course():
    path = disc(2, 100, 100, 60, member=True)
    group = Group(1, "garland", (path, disc(3, 20, 20, 3)), (Course(gap=30.0),))
    return replace(document(group, side=200), next_id=9), (1,), 2


@pytest.mark.parametrize("make", [bounded_rays, scattered, closed_course])
def test_what_guides_is_grabbed_by_its_inside(window, make):
    """A press inside it, where nothing is painted, while what it guides is selected."""
    doc, chosen, guide = make()
    show(window, doc, *chosen)
    tool(window, "move")
    window.session.snapping = False
    drag(window, (118, 85), (128, 97), (128, 97))
    s = window.session
    assert find(s.document, guide).transform[4:] == pytest.approx((10, 12), abs=0.7)
    assert s.selection == (guide,)
    drag(window, (120, 90), (110, 78), (110, 78))
    assert find(s.document, guide).transform[4:] == pytest.approx((0, 0), abs=1.4)
    click(window, 195, 195)
    assert s.selection == ()


def test_a_block_drag_that_begins_in_a_counter_is_that_letters(window):
    word = Shape(1, "o", TextForm("O", size=120, x=40, y=140), (solid("#2b8577"),))
    show(window, document(word, side=200))
    box = outline(word).bounds()
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    window.take_tool("block")
    drag(window, middle, (middle[0] + 30, middle[1] + 30), (middle[0] + 30, middle[1] + 30))
    assert any(isinstance(i, Block) for i in find(window.session.document, 1).recipe)


def test_a_circle_is_drawn_from_a_crossing_of_guides(window):
    doc = replace(document(side=200), guides=(GuideLine((100, 100), 0.0), GuideLine((100, 100), 90.0)))
    show(window, doc)
    window.take_tool("guides")
    drag(window, (101, 99), (130, 140), (130, 140), modifier=ALT)
    made = window.session.document.guides[-1]
    assert isinstance(made, GuideCircle) and made.at == pytest.approx((100, 100), abs=1e-6)
    assert made.radius == pytest.approx(50, abs=1.5)


def test_a_corner_within_reach_beats_an_outline():
    box = outline(Shape(1, "b", RectangleForm(0, 0, 100, 60)))
    field = SnapField([box], [(0, 0, 100, 60)])
    found = field.snap((8.0, 0.1), 9.0, KINDS)
    assert found.at == (0, 0) and found.note == "point"
    assert field.snap((30.0, 0.5), 9.0, set(KINDS) - {"handles"}).kind in ("outlines", "edges")


def test_the_pens_handle_catches_the_tangent_of_the_circle_its_point_lies_on(window):
    doc = replace(document(side=200), guides=(GuideCircle((100, 100), 50.0),))
    show(window, doc)
    window.take_tool("pen")
    angle = math.radians(30)
    p = (100 + 50 * math.cos(angle), 100 + 50 * math.sin(angle))
    along = (p[0] - 40 * math.sin(angle) + 2, p[1] + 40 * math.cos(angle) + 1)
    QTest.mousePress(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, *p))
    move(window, along, Qt.KeyboardModifier.NoModifier)
    held = window.canvas.tool.points[0]
    assert window.canvas.snapped.note == "tangent"
    QTest.mouseRelease(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, *along))
    (x, y), (hx, hy) = held.at, held.leave
    assert math.dist((x, y), (100, 100)) == pytest.approx(50, abs=1e-6)
    assert (hx - x) * (x - 100) + (hy - y) * (y - 100) == pytest.approx(0, abs=1e-6)
    window.canvas.drop()


def test_union_takes_one_group_from_the_menu(window):
    petals = Group(1, "petals", (disc(2, 100, 60, 24),), (Ring((100.0, 100.0), 6),))
    show(window, replace(document(petals, side=200), next_id=9), 1)
    assert window.registry.run("combine.union")
    assert len(outline(window.session.first).contours) in (1, 2)
    show(window, document(disc(1, 100, 60, 24), side=200), 1)
    assert not window.registry.run("combine.union") and "one group" in window.session.note


def test_the_repeat_tool_opens_its_card(window):
    show(window, document(disc(1, 100, 60, 24), side=200), 1)
    window.take_tool("repeat")
    window.canvas.tool.start_ring()
    editor, s = window.recipe.editor, window.session
    assert isinstance(s.first.recipe[-1], Ring) and editor.is_open(len(s.first.recipe) - 1)


@pytest.mark.parametrize("place", [translation(10, 5), (2.0, 0, 0, 2.0, 0, 0), (2.0, 0, 0, 1.0, 0, 0)])
def test_switching_to_percent_keeps_the_length(window, place):
    shape = Shape(1, "b", RectangleForm(10, 10, 50, 30), (solid("#2b8577"), Offset(-6.0)), transform=place)
    show(window, document(shape, side=200), 1)
    before = outline(window.session.first, place).bounds()
    for percent in (True, False):
        window.recipe.editor.change(1, "measure", percent=percent)
        assert window.session.first.recipe[1].percent is percent
        assert outline(window.session.first, place).bounds() == pytest.approx(before, abs=1e-6)
    assert window.session.first.recipe[1].distance == pytest.approx(-6.0)


def test_members_that_only_cut_are_not_offered_as_receivers(window):
    s = window.session
    show(window, document(disc(1, 70, 70, 30), disc(2, 90, 70, 20), disc(3, 150, 150, 20), side=200), 1, 2)
    window.registry.run("combine.subtract")
    made = s.selection[0]
    s.select((3,))
    assert [n.id for n in window.recipe.editor.possible_receivers()] == [made]
    assert {n.id for n in window.recipe.editor.other_outlines()} == {1, 2, made}


def test_a_combination_that_leaves_nothing_is_refused_in_words(window):
    show(
        window,
        document(Shape(1, "small", circle(70, 70, 10), (solid("#2b8577"),)), disc(2, 70, 70, 40), side=200),
        1,
        2,
    )
    before = window.session.document
    window.registry.run("combine.subtract")
    assert window.session.document is before and "nothing would be left" in window.session.note


def ring_and_disc():
    lit = disc(2, 100, 50, 14, solid("#c8402a"), CastShadow(0.4), lift=5.0)
    ring = Group(1, "ring", (lit,), (Ring((100.0, 100.0), 4),))
    pair = Group(3, "pair", (disc(4, 30, 180, 10), disc(5, 60, 180, 10)))
    return replace(document(ring, pair, side=200), next_id=9)


@pytest.mark.parametrize("held", [ALT, SHIFT])
def test_the_eyedropper_takes_from_copies_and_gives_to_groups(window, held):
    s = window.session
    show(window, ring_and_disc(), 3)
    window.take_tool("eyedropper")
    click(window, 100, 150, held)  # the copy across
    red = solid("#c8402a").paint
    for i in (4, 5):
        node = find(s.document, i)
        assert node.recipe[0].paint == red
        assert any(isinstance(k, CastShadow) for k in node.recipe) == (held == ALT)
    before = s.history.undo_label
    s.note = ""
    click(window, 100, 150, held)
    assert s.note and s.history.undo_label == before, "what is so already is said and leaves no step"
    click(window, 195, 5, held)
    assert "nothing to take" in s.note


def test_materials_by_eye_act_on_groups_and_copies():
    doc = ring_and_disc()
    for chosen, inside in ((1, (2,)), (3, (4, 5))):
        made = materials(doc, [chosen])
        assert len({tuple(find(d, i).recipe for i in inside) for _, d in made}) == len(made)


def test_another_wall_while_one_is_open_says_nothing_untrue(window):
    show(window, document(disc(1, 100, 60, 24), side=200), 1)
    s = window.session
    ids = [c.id for c in window.registry if "by eye" in c.title.lower() or c.id.startswith("choose.")]
    assert len(ids) > 3
    for command in ids:
        s.note = ""
        window.registry.run(command)
        assert "nothing to change" not in s.note and window.choosing.isVisible()
    window.choosing.hide()


def test_an_area_cut_from_a_wall_is_flat_in_the_walls_tone(window):
    block = Block(depth=40.0, angle=135.0)
    box = Shape(1, "b", RectangleForm(60, 60, 60, 50), (solid("#2b8577"), block), transform=(1, 0, 0, 1, 5, 0))
    show(window, document(box, side=200), 1)
    s = window.session
    before = shown(s.document)
    window.take_tool("areas")
    click(window, 132, 100)  # in the wall at the right
    made = s.only_shape
    assert made.id != 1 and len(made.recipe) == 1, "nothing but a paint"
    assert np.abs(shown(s.document) - before)[95:105, 130:135].max() <= 1
    click(window, 95, 85)  # in the front
    assert s.only_shape.recipe[0] == solid("#2b8577")
