"""Repeats in the window: made by buttons, shaped by dragging and typing, let go by a click, undone."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from driving import click, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, at, drag, field, move, press, show, type_into
from scenes import disc, document, solid
from volumen.edit import objects
from volumen.geometry.affine import apply, rotation, scaling
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.repeats import Grid, Mirror, Ring, Scatter
from volumen.model.tree import find, world_of
from volumen.outline.making import shown_children


def started(window, method, *nodes):
    """The Repeat tool in hand, and one of its buttons pressed with some objects selected."""
    show(window, document(*nodes, side=400), *(n.id for n in nodes))
    tool(window, "repeat")
    option(window, method)
    group = window.session.first
    assert isinstance(group, Group) and window.session.selection == (group.id,)
    return group


def i_of(window):
    return window.session.first.recipe[0]


def test_a_ring_is_made_typed_dragged_and_undone(window):
    group = started(window, "start_ring", disc(1, 200, 80, 12))
    assert isinstance(i_of(window), Ring)
    assert window.recipe.cards[0].is_open is False
    window.recipe.editor.open_first()
    for name, text, count in (
        ("count", "12", 12),
        ("angle", "50", 7),
        ("angle", "1e9", 1),
        ("count", "1e9", 2000),
        ("count", "6", 6),
    ):
        type_into(field(window.recipe, name), text)
        assert i_of(window).count == count
    assert field(window.recipe, "angle").text().startswith("60")
    type_into(field(window.recipe, "centre x"), "200")
    type_into(field(window.recipe, "centre y"), "200")
    type_into(field(window.recipe, "radius"), "100")
    assert i_of(window).centre == pytest.approx((200, 180)), "what was drawn stays, the centre moves"
    drag(window, (200, 180), (205, 170), (200, 200))
    assert i_of(window).centre == pytest.approx((200, 200), abs=1.5)
    second = apply(rotation(60, i_of(window).centre), (200, 80))
    to = apply(rotation(90, i_of(window).centre), (200, 80))
    drag(window, second, to)
    assert i_of(window).count == 4
    for _ in range(30):
        press(window, Qt.Key.Key_Z, CTRL)
    assert [n.id for n in window.session.document.root.children] == [1]
    assert find(window.session.document, group.id) is None


def test_escape_ends_the_drag_of_a_centre(window):
    started(window, "start_ring", disc(1, 200, 80, 12))
    before = window.session.document
    x, y = i_of(window).centre
    QTest.mousePress(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, x, y))
    move(window, (x + 40, y), Qt.KeyboardModifier.NoModifier)
    assert window.session.document is not before
    press(window, Qt.Key.Key_Escape)
    assert window.session.document is before


def test_rows_and_axes_are_dragged_in_turned_and_squashed_groups(window):
    group = started(window, "start_grid", Shape(1, "brick", RectangleForm(60, 60, 20, 20), (solid("#2b8577"),)))
    s = window.session
    s.apply("turn", objects.transform(s.document, [group.id], scaling(1.0, 0.7)))
    world = world_of(s.document, group.id)
    assert isinstance(i_of(window), Grid)
    drag(window, apply(world, (95, 70)), apply(world, (130, 75)), apply(world, (130, 72)), modifier=SHIFT)
    assert (i_of(window).x, i_of(window).angle) == (pytest.approx(40, abs=1.5), 0.0)
    drag(window, apply(world, (70, 95)), apply(world, (70, 130)), modifier=SHIFT)
    assert (i_of(window).y, i_of(window).slant) == (pytest.approx(40, abs=2.5), 90.0)
    option(window, "start_mirror")
    assert [type(i) for i in s.first.recipe] == [Grid, Mirror]
    assert len(shown_children(s.first)) == 32


def test_places_of_a_scatter_are_put_and_taken_by_clicks(window):
    area = Shape(2, "area", RectangleForm(100, 100, 200, 200), (solid("#d9dbd3"),))
    started(window, "start_scatter", area, disc(1, 200, 200, 5))
    window.recipe.editor.open_first()
    type_into(field(window.recipe, "count"), "0")
    assert isinstance(i_of(window), Scatter)
    click(window, 150, 150)
    drag(window, (250, 150), (250, 151), (250, 200), (251, 250))
    assert len(i_of(window).added) == 4
    click(window, 250, 200, ALT)
    assert len(i_of(window).added) == 3
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Z, CTRL)
    assert len(i_of(window).added) == 1, "a stroke is one step"


def test_a_copy_is_let_go_by_a_click_and_all_by_a_button(window):
    group = started(window, "start_row", disc(1, 60, 60, 10))
    s = window.session
    place = shown_children(s.first)[2].transform
    at = (60 + place[4], 60)
    click(window, *at, CTRL)
    assert i_of(window).gone == (2,)
    freed = next(n for n in s.document.root.children if n.id != group.id)
    assert freed.transform == place
    click(window, *at, CTRL)
    assert len(s.document.root.children) == 2, "it is gone from there"
    option(window, "release_all")
    assert find(s.document, group.id) is None
    assert len(s.document.root.children) == 4 and len(s.selection) == 3


def test_too_many_are_refused_in_words_and_nothing_is_selected_is_said(window):
    started(window, "start_grid", disc(1, 60, 60, 10))
    window.recipe.editor.open_first()
    type_into(field(window.recipe, "across"), "2000")
    type_into(field(window.recipe, "rows"), "2000")
    assert "100,000" in window.session.note
    assert (i_of(window).across, i_of(window).down) == (2000, 4)
    window.session.select([])
    option(window, "start_ring")
    assert "select what is to be repeated" in window.session.note
