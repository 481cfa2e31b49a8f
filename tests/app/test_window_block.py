"""Depth in the window: a word typed, given depth by a drag, coloured, laid on a plane, changed and frozen; linked sets."""

from __future__ import annotations

import math

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from driving import NONE, click, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, drag, field, press, show, type_into
from scenes import disc, document, solid
from volumen.edit import links
from volumen.model.ingredients import Block, Line
from volumen.model.nodes import RectangleForm, SegmentForm, Shape, TextForm
from volumen.model.tree import walk
from volumen.outline.outlines import outline
from volumen.shading.paint import Solid, colour

pytestmark = pytest.mark.one_window


def block_of(window):
    return next(i for i in window.session.first.recipe if isinstance(i, Block))


def test_block_letters_are_typed_given_depth_coloured_and_frozen(window):
    """Job J06 by mouse and keys: a word with depth, colours by the way faces face, edges, another letter, frozen."""
    show(window, document(side=400))
    s = window.session
    s.set_look(snapping=False)
    tool(window, "text")
    click(window, 60, 200)
    QTest.keyClicks(window.canvas, "KELDER")
    press(window, Qt.Key.Key_Escape)
    (word,) = s.document.root.children
    s.select([word.id])
    assert isinstance(word.form, TextForm) and word.form.text == "KELDER"
    tool(window, "block")
    drag(window, (100, 190), (120, 200), (140, 230))
    i = block_of(window)
    assert isinstance(s.first.form, TextForm), "it stays text"
    assert i.angle is not None and 90 < i.angle < 180 and i.depth > 5
    before = s.document
    window.recipe.editor.toggle(len(s.first.recipe) - 1)
    for name, text, now in (
        ("to the side", "90", lambda i: i.angle == 90),
        ("edges", "1", lambda i: i.edge == 1),
        ("depth", "1e99", lambda i: i.depth <= 1e9),
        ("depth", "-5", lambda i: i.depth == 0),
        ("depth", "30", lambda i: i.depth == 30),
    ):
        type_into(field(window.recipe, name), text)
        assert now(block_of(window)), (name, text)
    tool(window, "text")
    click(window, 70, 195)
    QTest.keyClick(window.canvas, Qt.Key.Key_End)
    QTest.keyClick(window.canvas, Qt.Key.Key_Backspace)
    QTest.keyClicks(window.canvas, "N")
    press(window, Qt.Key.Key_Escape)
    s.select([word.id])
    assert s.first.form.text == "KELDEN" and block_of(window).depth == 30, "a letter replaced keeps the depth"
    tool(window, "block")
    option(window, "follow")
    assert block_of(window).angle is None
    option(window, "towards")
    assert block_of(window).point is not None
    option(window, "towards")
    assert block_of(window).point is None
    window.registry.run("object.plane_left")
    assert block_of(window).angle == 60.0 and s.first.transform[1] > 0.4
    window.registry.run("object.freeze")
    assert not any(isinstance(i, Block) for n in walk(s.document.root) for i in n.recipe)
    assert any("facing" in n.name for n in walk(s.document.root))
    for _ in range(40):
        press(window, Qt.Key.Key_Z, CTRL)
    assert not s.document.root.children and before is not s.document


def test_depth_is_dragged_with_steps_and_towards_a_point_and_let_be(window):
    show(window, document(Shape(1, "brick", RectangleForm(100, 100, 80, 60), (solid("#c9b48a"),)), side=400), 1)
    s = window.session
    tool(window, "block")
    drag(window, (140, 130), (170, 170), (190, 172), modifier=SHIFT)
    assert block_of(window).angle % 15 == 0
    end = block_of(window)
    drag(window, (140, 130), (300, 60), modifier=ALT)
    assert block_of(window).point == pytest.approx((300, 60), abs=2)
    press(window, Qt.Key.Key_Z, CTRL)
    assert block_of(window) == end
    press(window, Qt.Key.Key_Z, CTRL)
    assert not any(isinstance(i, Block) for i in s.first.recipe)


def test_a_linked_set_shows_its_count_is_chosen_by_a_click_and_taken_apart(window):
    show(window, document(disc(1, 60, 60, 20), side=400), 1)
    s = window.session
    doc, made = links.linked_copies(s.document, [1])
    doc, more = links.linked_copies(doc, [1])
    s.apply("copies", doc)
    s.select([1])
    tree = window.pile.tree
    box = tree.visualItemRect(window.pile._items[1])
    QTest.mouseClick(tree.viewport(), LEFT, NONE, QPoint(box.right() - 4 - 38 - 10, box.center().y()))
    assert set(s.selection) == {1, *made, *more}
    s.select([1])
    window.registry.run("object.unlink_all")
    assert all(n.link is None for n in walk(s.document.root))


def test_a_shape_drawn_exactly_on_its_double_is_told(window):
    show(window, document(disc(1, 60, 60, 20), side=400), 1)
    s = window.session
    s.set_look(snapping=False)
    press(window, Qt.Key.Key_C, CTRL)
    window.registry.run("edit.paste_above")
    assert "lies exactly on" in s.note
    s.say("")
    press(window, Qt.Key.Key_Right)
    assert s.note == "", "a nudge away is none"


def test_lines_are_broken_by_clicks_and_by_lot_and_put_back(window):
    """Pieces of a line and of a block's edges, in a turned place too, with another object clicked between."""
    line = Line(Solid(colour("#000000")), 3.0)
    turned = (0.0, 1.0, -1.0, 0.0, 400.0, 0.0)
    box = Shape(1, "box", RectangleForm(100, 100, 80, 60), (line,))
    brick = Shape(2, "brick", RectangleForm(60, 60, 80, 60), (solid("#c9b48a"), Block(30, edge=2.0)), transform=turned)
    show(window, document(box, brick, disc(3, 330, 330, 20, solid("#2b8577")), side=400), 1)
    s = window.session
    before = s.document
    tool(window, "broken")
    click(window, 140, 100)
    assert len(s.first.recipe[0].omitted) == 1 and s.first.recipe[0].omitted[0] == pytest.approx((140, 100))
    click(window, 180, 130)
    assert len(s.first.recipe[0].omitted) == 2
    click(window, 140, 100)
    assert len(s.first.recipe[0].omitted) == 1, "clicked back"
    click(window, 325, 151)  # a wall of the brick, apart from its edges
    assert s.selection == (2,) and not block_of(window).omitted
    click(window, 300, 60)  # the front's upper edge
    assert len(block_of(window).omitted) == 1 and block_of(window).omitted[0] % 3 == 0
    click(window, 330, 330)
    assert s.selection == (3,) and "no line" in s.note
    s.select([1])
    window.recipe.editor.toggle(0)
    back = next(b for b in window.recipe.findChildren(QPushButton) if b.accessibleName() == "put all pieces back")
    QTest.mouseClick(back, LEFT)
    assert s.first.recipe == (line,)
    for text, share in (("40", 0.4), ("250", 1.0), ("-3", 0.0), ("abc", 0.0), ("100", 1.0)):
        type_into(field(window.recipe, "left out"), text)
        assert s.first.recipe[0].broken == pytest.approx(share)
    click(window, 140, 100)
    assert not s.first.recipe[0].omitted and "by lot" in s.note
    for _ in range(12):
        press(window, Qt.Key.Key_Z, CTRL)
    assert s.document == before


def test_a_linked_line_drawing_beside_a_word_follows_it(window):
    word = Shape(1, "word", TextForm("KE", x=40, y=140, size=80), (solid("#c9a24a"), Block(20, edge=1.0)))
    show(window, document(word, side=500), 1)
    s = window.session
    window.registry.run("object.copy_as_lines")
    copy = s.first
    assert copy.lines_only and copy.transform[4] > 80 and copy.link is not None
    s.select([1])
    tool(window, "text")
    click(window, 60, 130)
    QTest.keyClick(window.canvas, Qt.Key.Key_End)
    QTest.keyClicks(window.canvas, "L")
    press(window, Qt.Key.Key_Escape)
    followed = next(n for n in walk(s.document.root) if n.id == copy.id)
    assert followed.form.text == "KEL" and followed.lines_only
    s.select([copy.id])
    window.registry.run("object.lines_only")
    assert not s.first.lines_only
    s.select([1])
    assert not s.first.lines_only


def test_faces_are_cut_along_a_drawn_line_and_hatched(window):
    """An area of a wall, cut by a line drawn over it, becomes a shape; hatching lies held in it."""
    brick = Shape(1, "brick", RectangleForm(100, 100, 120, 80), (solid("#c9b48a"), Block(60, angle=90.0)))
    line = Shape(2, "cut", SegmentForm((200, 130), (300, 130)), (Line(Solid(colour("#000000")), 1.0),))
    show(window, document(brick, line, side=400), 1)
    s = window.session
    s.select(())
    tool(window, "areas")
    click(window, 250, 115)
    made = s.first
    l, t, r, b = outline(made).bounds()
    assert (l, t, r, b) == pytest.approx((220, 100, 280, 130), abs=0.01), "the wall above the line"
    window.registry.run("colour.hatch")
    held = [n for n in walk(s.document.root) if n.name == "hatching"]
    assert len(held) == 1


def test_planes_by_two_angles_are_typed_and_impossible_ones_refused(window):
    show(
        window, document(Shape(1, "brick", RectangleForm(150, 150, 80, 60), (solid("#c9b48a"), Block(20))), side=400), 1
    )
    s = window.session
    tool(window, "block")
    type_into(window.toolbox.options.sliders["left"].number, "50")
    type_into(window.toolbox.options.sliders["right"].number, "1e9")
    before = s.document
    option(window, "lay_right")
    assert s.document is before and "no cube" in s.note
    type_into(window.toolbox.options.sliders["right"].number, "20")
    option(window, "lay_right")
    a, b, c, d = s.first.transform[:4]
    assert b / a == pytest.approx(-math.tan(math.radians(20))) and (c, d) == pytest.approx((0, 1))
    assert block_of(window).angle == pytest.approx(320)
    s.select(())
    option(window, "lay_left")
    assert "select" in s.note


def test_one_letter_goes_back_its_own_way(window):
    word = Shape(
        1, "word", TextForm("KLM", x=60, y=200, size=100), (solid("#c9a24a"), Block(30, angle=135.0, edge=1.0))
    )
    show(window, document(word, side=400), 1)
    s = window.session
    before = s.document
    tool(window, "block")
    drag(window, (75, 180), (60, 160), (45, 150), modifier=CTRL)
    ((letter, angle),) = block_of(window).own
    assert letter == 0 and angle == pytest.approx(315, abs=1), "the K goes up and to the left"
    assert block_of(window).angle == 135 and block_of(window).depth == 30
    tool(window, "broken")
    starts = {p.number // 3_000_000 for p in window.canvas.tool.pieces()}
    assert starts == {0, 1}, "its edges are pieces of their own"
    tool(window, "block")
    drag(window, (150, 185), (180, 185), (200, 185), modifier=CTRL | SHIFT)
    assert dict(block_of(window).own)[1] == 90
    window.registry.run("object.freeze")
    assert any("facing left" in n.name for n in walk(s.document.root)), "the K shows what the others hide"
    press(window, Qt.Key.Key_Z, CTRL)
    s.select([1])
    option(window, "alike")
    assert block_of(window).own == ()
    for _ in range(4):
        press(window, Qt.Key.Key_Z, CTRL)
    assert s.document == before
