"""What lasts while a key or the mouse is held, and what comes after: marquee, panning, exports that are cancelled, values."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from gestures import CTRL, LEFT, SHIFT, at, drag, move, press, roll, settle, show
from scenes import lit_trio
from volumen.app.panels.header import FlatLit, purity_of
from volumen.app.widgets.paint_editor import PaintEditor
from volumen.compose.scene import build
from volumen.edit import objects
from volumen.model.tree import find, parent_of
from volumen.picture.purity import node_purity

pytestmark = pytest.mark.one_window

NO = Qt.KeyboardModifier.NoModifier


def test_holding_the_key_grabs_the_lamp_in_any_stage(window):
    show(window, lit_trio())
    QTest.keyPress(window.canvas, Qt.Key.Key_L)
    assert window.canvas.lamp_held
    drag(window, (20, 20), (100, 190), (100, 200))
    QTest.keyRelease(window.canvas, Qt.Key.Key_L)
    assert not window.canvas.lamp_held
    assert window.session.document.lamp.bearing == pytest.approx(180, abs=2)
    assert window.session.selection == ()


def test_escape_cancels_a_drag_without_a_step(window):
    show(window, lit_trio(), 1)
    press(window, Qt.Key.Key_M)
    QTest.mousePress(window.canvas, LEFT, NO, at(window, 60, 70))
    move(window, (90, 90), NO)
    assert window.session.history.in_gesture
    press(window, Qt.Key.Key_Escape)
    assert window.session.document == lit_trio()
    assert window.session.history.undo_label is None


def test_what_an_edit_that_was_cancelled_made_is_not_selected(window):
    """Commands that asked the first of the selection met none."""
    s = window.session
    show(window, lit_trio(), 1)
    document, made = objects.duplicate(s.document, [1])
    s.preview(document)
    s.select(made)
    assert s.selection == tuple(made)
    press(window, Qt.Key.Key_Escape)
    s.cancel()
    s.select([*made, 2, 9999])
    assert s.selection == (2,)


def test_marquee_wheel_and_panning(window, qtbot):
    show(window, lit_trio())
    press(window, Qt.Key.Key_M)
    drag(window, (5, 5), (60, 60), (198, 66))
    assert set(window.session.selection) == {1, 2}
    before = window.canvas.viewport
    for modifier, moved in ((CTRL, "scale"), (NO, "dy"), (SHIFT, "dx")):
        roll(window.canvas, QPoint(300, 300), 120, modifier)
        assert getattr(window.canvas.viewport, moved) != getattr(before, moved)
        before = window.canvas.viewport
    press(window, Qt.Key.Key_0, CTRL)
    settle(qtbot, window)
    press(window, Qt.Key.Key_9, CTRL)
    assert window.canvas.viewport.scale > before.scale
    press(window, Qt.Key.Key_1, CTRL)
    assert window.canvas.viewport.scale == pytest.approx(1)


def test_hold_release_hide_lock_and_order_by_keys(window):
    show(window, lit_trio(), 1, 2)
    s = window.session
    press(window, Qt.Key.Key_H, CTRL)
    assert parent_of(s.document, 2).id == 1
    press(window, Qt.Key.Key_G, CTRL | SHIFT)
    assert parent_of(s.document, 2).id == 0
    s.select((1,))
    press(window, Qt.Key.Key_Up, CTRL | SHIFT)
    assert s.document.root.children[-1].id == 1
    press(window, Qt.Key.Key_K, CTRL | SHIFT)
    assert find(s.document, 1).locked
    press(window, Qt.Key.Key_H, CTRL | SHIFT)
    assert not find(s.document, 1).visible
    s.select((2,))
    press(window, Qt.Key.Key_H, CTRL)
    assert "hold" not in (s.history.undo_label or ""), "one shape alone cannot be held"


def test_purity_of_a_selection():
    doc = lit_trio()
    known = node_purity(build(doc))
    assert purity_of(doc, (2,), known).pdf == "vector"
    assert purity_of(doc, (1,), known).pdf == "pixels"
    assert purity_of(doc, (4,), known).pdf == "pixels", "what is held counts with its holder"
    assert purity_of(doc, (), known).svg == "filter"


def test_pile_rows_tell_what_exports_will_hold(window, qtbot):
    show(window, lit_trio())
    tip = lambda i: window.pile._items[i].toolTip(0)  # noqa: E731
    qtbot.waitUntil(lambda: tip(1) != "", timeout=20000)
    assert tip(1).startswith("in SVG: needs a filter, in PDF: becomes pixels (soft shadow or glow")
    assert tip(2) == "in SVG: stays vector, in PDF: stays vector"


def test_only_the_newest_state_is_drawn(window, qtbot):
    show(window, lit_trio(), 1)
    settle(qtbot, window)
    link = window.link
    sent = link.client.last_id
    for i in range(20):
        window.session.preview(objects.transform(lit_trio(), [1], (1, 0, 0, 1, i, 0)))
    settle(qtbot, window)
    assert link.client.last_id - sent < 12, "requests that went stale while one was under way were dropped"
    window.session.cancel()
    settle(qtbot, window)


def test_an_export_can_be_cancelled(window, qtbot, tmp_path):
    window.files.load("demo:ferry")
    press(window, Qt.Key.Key_F6)
    target = tmp_path / "big.png"
    target.write_bytes(b"old")
    window.proof.form.set(width=9000)
    window.proof.export_to(target)
    qtbot.wait(300)
    QTest.mouseClick(window.proof.cancel_button, LEFT)
    assert window.proof.job is None
    assert "cancelled" in window.proof.note.text()
    assert target.read_bytes() == b"old"
    assert [p.name for p in tmp_path.iterdir() if p.name != "state"] == ["big.png"]
    assert window.proof.findChild(PaintEditor) is None


def shown(qtbot, win):
    """The picture on the canvas as bytes (h, w, 4), when it is at rest."""
    qtbot.waitUntil(lambda: win.link.idle and not win.link._refine.isActive(), timeout=20000)
    image = win.link.image
    return np.array(np.ndarray((image.height(), image.width(), 4), np.uint8, image.constBits()))


def test_values_by_key_and_by_the_header(window, qtbot):
    show(window, lit_trio())
    coloured = shown(qtbot, window)
    assert (coloured[..., 0] != coloured[..., 2]).any()
    press(window, Qt.Key.Key_Comma)
    grey = shown(qtbot, window)
    assert window.session.values and (grey[..., 0] == grey[..., 2]).all()
    switch = window.findChild(FlatLit)
    QTest.mouseClick(switch, LEFT, NO, QPoint(110, 12))
    assert not window.session.values and np.array_equal(shown(qtbot, window), coloured)
    QTest.mouseClick(switch, LEFT, NO, QPoint(20, 12))
    assert window.session.flat and not window.session.values


def test_a_held_key_shows_the_artwork_without_the_open_ingredient(window, qtbot):
    show(window, lit_trio(), 1)
    s, before = window.session, window.session.document
    whole = shown(qtbot, window)
    window.recipe.editor.toggle(1)  # the card of the body
    window.canvas.setFocus()
    QTest.keyPress(window.canvas, Qt.Key.Key_Z)
    assert s.muted and [i.on for i in find(s.shown, 1).recipe] == [True, False, True, True, True]
    without_body = shown(qtbot, window)
    QTest.keyRelease(window.canvas, Qt.Key.Key_Z)
    off = np.abs(shown(qtbot, window).astype(int) - whole).max(axis=-1)
    # where the part drawn anew ends, edges of outlines are smoothed a little differently
    assert not s.muted and (off > 2).mean() < 3e-4
    window.recipe.editor.toggle(1)
    QTest.keyPress(window.canvas, Qt.Key.Key_Z)
    assert [i.on for i in find(s.shown, 1).recipe] == [True, False, False, False, False], "all of its light"
    assert not np.array_equal(shown(qtbot, window), without_body)
    window.canvas.clearFocus()
    assert not s.muted, "a key that is let go elsewhere does not stay held"
    assert s.document is before and not s.history.changed, "it was only looked at"
