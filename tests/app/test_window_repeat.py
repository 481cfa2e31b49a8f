"""Repeats in the window: made by buttons, shaped by dragging and typing, let go by a click, undone."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from driving import click, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, at, drag, field, move, press, show, type_into
from scenes import disc, document, solid
from volumen.edit import objects
from volumen.geometry.affine import apply, rotation, scaling
from volumen.model.nodes import Group, RaysForm, RectangleForm, Shape
from volumen.model.repeats import Course, Grid, Mirror, Ring, Scatter
from volumen.model.tree import find, guides, world_of
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline
from volumen.outline.repeats import box_of, standing

pytestmark = pytest.mark.one_window


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
    assert window.recipe.cards[0].is_open, "its card opens"
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


def test_a_burst_is_drawn_bounded_shaped_and_changed_afterwards(window):
    """Job J10 by mouse and keys: rays held inside one shape and clear of another, both of which stay shapes."""
    frame = Shape(1, "frame", RectangleForm(50, 50, 300, 300), (solid("#d9dbd3"),))
    show(window, document(frame, disc(2, 200, 200, 40, solid("#c8402a")), side=400))
    s = window.session
    s.set_look(snapping=False)
    tool(window, "rays")
    type_into(window.toolbox.options.sliders["count"].number, "30")
    drag(window, (200, 200), (300, 200), (380, 200))
    rays = s.first
    assert (rays.form.kind, rays.form.count) == ("radial", 30)
    assert rays.form.reach == pytest.approx(180, abs=2)
    drag(window, (380, 200), (390, 190), (200, 390), modifier=SHIFT)
    assert s.first.form.angle == pytest.approx(90) and s.first.id == rays.id, (
        "the grip turns them; nothing new is drawn"
    )
    for other, name in ((1, "rays_inside"), (2, "rays_outside")):
        s.select([rays.id, other])
        window.registry.run(f"combine.{name}")
    assert [c.id for c in s.first.children] == [1, 2] and s.first.form.held == "both"
    box = outline(s.first).bounds()
    assert box == pytest.approx((50, 50, 350, 350), abs=0.5)
    type_into(field(window.recipe, "gap"), "20")
    type_into(field(window.recipe, "count"), "1e9")
    assert (s.first.form.gap, s.first.form.count) == (20, 5000)
    type_into(field(window.recipe, "count"), "12")
    s.select([1])
    tool(window, "move")
    before = outline(find(s.document, rays.id))
    s.apply("narrower", objects.transform(s.document, [1], scaling(0.5, 1.0, (200, 200))))
    after = outline(find(s.document, rays.id))
    assert after.bounds()[0] == pytest.approx(125, abs=0.5) and after is not before, "rays follow what holds them"
    s.apply("beside", objects.add_shape(s.document, RectangleForm(0, 0, 9, 9), (), "beside")[0])
    s.select([rays.id, s.document.root.children[-1].id])
    window.registry.run("combine.release_rays")
    assert not s.first.children and {1, 2} <= {n.id for n in s.document.root.children}, "whatever else is selected"
    for _ in range(30):
        press(window, Qt.Key.Key_Z, CTRL)
    assert [n.id for n in s.document.root.children] == [1, 2]


def test_parallel_rays_are_drawn_with_alt(window):
    show(window, document(side=400))
    s = window.session
    tool(window, "rays")
    drag(window, (200, 200), (260, 200), (300, 200), modifier=ALT)
    assert s.first.form.kind == "parallel"
    count = len(outline(s.first).contours)
    assert count == s.first.form.count


def test_half_of_an_outline_is_made_whole_and_its_axis_dragged(window):
    half = Shape(1, "half", RectangleForm(100, 100, 60, 80), (solid("#2b8577"),))
    show(window, document(half, side=400), 1)
    s = window.session
    window.registry.run("add.halves")
    i = s.first.recipe[-1]
    assert i.centre == (130, 140)
    tool(window, "repeat")
    s.set_look(snapping=False)
    drag(window, (130, 140), (150, 140), (160, 140))
    assert outline(s.first).bounds() == pytest.approx((100, 100, 220, 180), abs=1.5)
    press(window, Qt.Key.Key_Z, CTRL)
    assert outline(s.first).bounds() == pytest.approx((100, 100, 160, 180), abs=1e-6)


def test_a_garland_is_laid_turned_round_and_reshaped_and_never_turns_by_itself(window):
    """Job J07 by mouse and keys: a motif of two parts on a drawn path, fitted, repeated, flipped, its path changed."""
    stem = Shape(1, "stem", RectangleForm(20, 20, 40, 4), (solid("#7a5a2f"),))
    show(window, document(stem, disc(2, 30, 14, 6, solid("#2b8577")), side=400))
    s = window.session
    s.set_look(snapping=False)
    tool(window, "pen")
    for x, y in ((60, 300), (200, 150), (340, 300)):
        click(window, x, y)
    press(window, Qt.Key.Key_Return)
    path = s.first
    assert isinstance(path, Shape) and len(path.form.runs[0].points) == 3
    s.select([1, 2, path.id])
    tool(window, "repeat")
    option(window, "start_course")
    group = s.first
    assert [g.id for g in guides(group)] == [path.id] and isinstance(i_of(window), Course)

    def begins():
        box = box_of(standing(s.first)[0].nodes)
        return (box[0] + box[2]) / 2

    assert begins() < 100, "at the path's first point"
    click(window, *corner_of(s))
    assert i_of(window).flip and begins() > 300, "one click on the arrow"
    option(window, "flip_course")
    assert not i_of(window).flip and begins() < 100
    window.recipe.editor.open_first()
    count = len(standing(s.first))
    type_into(field(window.recipe, "gap"), "1e9")
    assert len(standing(s.first)) == 1
    type_into(field(window.recipe, "gap"), "-1e9")
    assert "gap" in window.session.note or len(standing(s.first)) <= 1
    type_into(field(window.recipe, "gap"), "0")
    type_into(field(window.recipe, "at most"), "3")
    assert len(standing(s.first)) == 3
    type_into(field(window.recipe, "at most"), "100")
    assert len(standing(s.first)) == count
    # The path goes on from its first point: what runs along it keeps its direction.
    tool(window, "pen")
    click(window, 60, 300)
    click(window, 20, 380)
    press(window, Qt.Key.Key_Return)
    assert len(find(s.document, path.id).form.runs[0].points) == 4
    s.select([group.id])
    assert begins() < 60
    tool(window, "repeat")
    drag(window, (20, 380), (45, 330), (60, 300))
    assert 0.1 < i_of(window).start < 0.3
    s.select([2])
    option(window, "set_caps")
    found = standing(s.first)
    assert i_of(window).caps == (2,) and (found[0].copy.number, found[-1].copy.number) == (-1, -2)
    option(window, "release_all")
    assert find(s.document, group.id) is None and len(s.selection) == len(found)
    for _ in range(30):
        press(window, Qt.Key.Key_Z, CTRL)
    assert [n.id for n in s.document.root.children] == [1, 2]


def corner_of(s):
    """Half way along the path, where its arrow is."""
    box = outline(guides(s.first)[0]).bounds()
    return (box[0] + box[2]) / 2, box[1]


def test_two_thousand_rays_are_selected_without_a_halt(window):
    """Their outline was one stroked path: a painter took over a minute for it."""
    show(
        window,
        document(Shape(1, "rays", RaysForm(centre=(200, 200), reach=180, count=24), (solid("#c98f35"),)), side=400),
        1,
    )
    tool(window, "rays")  # which shows outlines
    type_into(field(window.recipe, "count"), "2000")
    assert window.session.first.form.count == 2000
    QTest.qWaitForWindowExposed(window)
    window.canvas.repaint()
    shown = window.canvas.grab().toImage().convertToFormat(QImage.Format.Format_Grayscale8)
    grey = np.frombuffer(shown.constBits(), np.uint8).reshape(shown.height(), -1)[:, : shown.width()]
    assert (grey < 70).sum() > 2000, "lines of ink over rays that are lighter"
