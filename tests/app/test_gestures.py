"""Gestures that end as they began: Escape, modifiers, the wheel; answers that come late."""

from __future__ import annotations

import math

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QWidget

from driving import tool
from gestures import LEFT, at, drag, move, roll, show
from scenes import disc, document, solid
from volumen.app.canvas.tools import TOOLS
from volumen.app.state.news import Stage
from volumen.edit import objects
from volumen.geometry.affine import IDENTITY
from volumen.model.ingredients import CastShadow, Fill, Line  # fmt: skip
from volumen.model.make import corner, path_form
from volumen.model.nodes import Group, RectangleForm, Shape, TextForm
from volumen.model.tree import find
from volumen.render.worker.messages import Failure, FrameAnswer, ImageAnswer
from volumen.shading.paint import Linear, Solid, Stop, colour

pytestmark = pytest.mark.one_window

NO, SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)  # fmt: skip


GREY = solid("#808080")


# -- gestures: Escape, modifiers, the wheel


@pytest.mark.parametrize("kind", TOOLS, ids=lambda t: t.name)
def test_escape_in_mid_gesture_leaves_everything_as_it_was(window, kind):
    form = path_form(corner(60, 60), corner(140, 60), corner(140, 140), corner(60, 140))
    ramp = Fill(Linear((Stop(0.0, colour("#ff0000")), Stop(1.0, colour("#0000ff"))), (60, 60), (140, 140)))
    show(window, document(Shape(1, "square", form, (ramp,)), disc(2, 40, 160, 14), side=200), 1)
    s, canvas = window.session, window.canvas
    window.take_tool(kind.name)
    QApplication.processEvents()
    before = s.document
    QTest.mousePress(canvas, LEFT, NO, at(window, 60, 60))
    for p in ((70, 64), (90, 80), (118, 96)):
        move(window, p, NO)
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    QTest.mouseRelease(canvas, LEFT, NO, at(window, 118, 96))
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    QApplication.processEvents()
    assert not s.history.in_gesture
    assert s.document == before, f"{kind.name} left {s.history.undo_label}"


def test_shift_alt_and_ctrl_of_moving_scaling_and_turning(window):
    def fresh():
        show(window, document(Shape(1, "box", RectangleForm(60, 60, 60, 40), (GREY,)), side=200), 1)
        QApplication.processEvents()
        window.session.snapping = False
        window.take_tool("move")
        return window.session

    s = fresh()
    drag(window, (80, 80), (90, 82), (120, 88), modifier=SHIFT)
    assert s.first.transform[4:] == (pytest.approx(40, abs=1.5), 0.0), "Shift keeps the direction"
    s = fresh()
    drag(window, (80, 80), (90, 82), (120, 88), modifier=ALT)
    assert len(s.document.root.children) == 2 and find(s.document, 1).transform == IDENTITY, "Alt drags a copy"
    s = fresh()
    drag(window, (120, 100), (130, 104), (150, 105))
    a, _, _, d, _, _ = s.first.transform
    assert a == pytest.approx(d) and a > 1.2, "a corner keeps the proportions"
    s = fresh()
    drag(window, (120, 100), (130, 104), (150, 110), modifier=SHIFT)
    a, _, _, d, _, _ = s.first.transform
    assert a == pytest.approx(1.5, abs=0.04) and d == pytest.approx(1.25, abs=0.04), "Shift frees them"
    s = fresh()
    drag(window, (120, 80), (130, 80), (150, 80), modifier=ALT)
    l, _, r, _ = objects.selection_box(s.document, [1])
    assert l == pytest.approx(30, abs=1.5) and r == pytest.approx(150, abs=1.5), "Alt scales about the middle"
    s = fresh()
    turn = window.canvas.tool._handle_places(window.canvas.tool.selection_box())["turn"]
    x, y = window.canvas.viewport.to_sheet(turn)
    drag(window, (x, y), (x + 20, y + 4), (x + 47, y + 40), modifier=SHIFT)
    angle = math.degrees(math.atan2(s.first.transform[1], s.first.transform[0]))
    assert angle > 10 and angle % 15 == pytest.approx(0, abs=1e-6), "to the right is clockwise, in steps of 15 degrees"
    show(window, document(Group(5, "g", (disc(1, 80, 80, 20),)), side=200))
    drag(window, (80, 80), (80, 80))
    assert window.session.selection == (5,)
    window.session.select(())
    drag(window, (80, 80), (80, 80), modifier=CTRL)
    assert window.session.selection == (1,), "Ctrl chooses inside groups"


def test_shift_makes_circles_and_alt_draws_from_the_middle(window):
    for modifier, box in ((NO, (60, 60, 120, 90)), (SHIFT, (60, 60, 120, 120)), (ALT, (0, 30, 120, 90))):
        show(window, document(side=200))
        window.session.snapping = False
        tool(window, "ellipse")
        drag(window, (60, 60), (90, 80), (120, 90), modifier=modifier)
        assert objects.selection_box(window.session.document, window.session.selection) == pytest.approx(box, abs=1.5)


@pytest.mark.parametrize("stage", Stage)
def test_the_wheel_over_a_panel_chooses_nothing(window, stage):
    """Who scrolls a panel passes over its fields and lists: blend modes, letters, presses and sizes stay as they are."""
    word = Shape(
        3, "word", TextForm("QUAY", x=40, y=150), (solid("#2b8577"), Line(Solid(colour("#102030")), 2.0), CastShadow())
    )
    show(window, document(disc(1, 80, 80, 20), word, side=200))
    s = window.session
    s.set_stage(stage)
    s.select([3])
    for k in range(len(s.first.recipe)):
        window.recipe.editor.toggle(k)
    s.set_proofing(shown=tuple(window.proof_choices.ticks))
    QApplication.processEvents()
    lists = [box for box in window.findChildren(QComboBox) if box.isVisible()]
    assert len(lists) > 2 or stage == Stage.CARVE
    before = s.document, s.proofing, window.proof.form.output, [box.currentText() for box in lists]
    for panel in (window.toolbox, window.proofs, window.right, window.swatches):
        for widget in panel.findChildren(QWidget):
            for steps in (-120, 120, -120) if widget.isVisible() else ():
                roll(widget, widget.rect().center(), steps)
    assert before == (s.document, s.proofing, window.proof.form.output, [box.currentText() for box in lists])


def test_the_wheel_moves_the_view_and_with_ctrl_zooms_at_the_pointer(window):
    show(window, document(disc(1, 80, 80, 20), side=200))
    canvas = window.canvas

    def rolled(steps, modifier):
        place = at(window, 100, 100)
        before, under = canvas.viewport, canvas.viewport.to_sheet((place.x(), place.y()))
        roll(canvas, place, steps, modifier)
        after = canvas.viewport
        return before, after, under, after.to_sheet((place.x(), place.y()))

    before, after, _, _ = rolled(120, NO)
    assert after.to_canvas((0, 0))[1] > before.to_canvas((0, 0))[1], "up shows what lies above"
    before, after, _, _ = rolled(120, SHIFT)
    assert after.to_canvas((0, 0))[0] > before.to_canvas((0, 0))[0]
    before, after, was, now = rolled(120, CTRL)
    assert after.scale > before.scale and now == pytest.approx(was, abs=1e-6), "what is under the pointer stays there"
    before, after, _, _ = rolled(-120, CTRL)
    assert after.scale < before.scale


# -- answers of the worker that come late


def test_stale_answers_change_nothing(window):
    link = window.link
    seen = link.image.copy()
    link._under_way = (link.client.last_id + 5, (10, 10), (1, 0, 0, 1, 0, 0))
    link._take_frame(FrameAnswer(3, [(0, 0, 10, 10)], False, 1.0, 1.0))
    assert link.image == seen and link._under_way is not None
    told = []
    link._images[7] = told.append
    for answer in (ImageAnswer(6, 1, 1, b"\0\0\0\0"), Failure(2, "nothing\nwrong")):
        link.client.receive, was = iter([answer, None]).__next__, link.client.receive
        link._receive()
        link.client.receive = was
    assert not told and 7 in link._images and link._under_way is not None, "only its own answer ends a wait"
    link._under_way = None


@pytest.mark.parametrize("fault", [lambda: int("a fault"), lambda: [][1], lambda: 1 / 0])
def test_a_tool_that_raises_in_mid_gesture_leaves_nothing_behind(window, monkeypatch, fault):
    """Faults of compiled code, too, which used to end the process in the binding."""
    show(window, document(disc(1, 100, 100, 30, solid("#2b8577")), side=200), 1)
    before, tool, real = window.session.document, window.canvas.tool, window.canvas.tool.move

    def broken(p):
        real(p)
        fault()

    monkeypatch.setattr(tool, "move", broken)
    with pytest.raises((ValueError, IndexError, ZeroDivisionError)):
        drag(window, (100, 100), (130, 120))
    assert window.session.document is before and not window.session.history.in_gesture
    monkeypatch.setattr(tool, "move", real)
    drag(window, (100, 100), (130, 100))
    assert find(window.session.document, 1).transform != find(before, 1).transform, "the next gesture is whole"
