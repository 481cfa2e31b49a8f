"""Depth in the window: a word typed, given depth by a drag, coloured, laid on a plane, changed and frozen; linked sets."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from driving import NONE, click, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, drag, field, press, show, type_into
from scenes import disc, document, solid
from volumen.edit import links
from volumen.model.ingredients import Block
from volumen.model.nodes import RectangleForm, Shape, TextForm
from volumen.model.tree import walk


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
