"""The real window, driven by real mouse and key events."""

import os
import signal

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from gestures import ALT, CTRL, LEFT, SHIFT, at, drag, press, settle
from scenes import lit_trio
from volumen.app.state.news import Stage
from volumen.app.widgets.number import NumberField, evaluate
from volumen.app.window.layout import LEFT_PANEL
from volumen.model.ingredients import Body, CastShadow, Fill, Sliver
from volumen.model.nodes import EllipseForm, PathForm, RectangleForm
from volumen.model.tree import find, walk
from volumen.shading.paint import Linear, Radial, Solid


def pixel(window, x, y):
    image = window.link.image
    p = at(window, x, y)
    c = image.pixelColor(p)
    return np.array([c.red(), c.green(), c.blue()])


def test_from_flat_to_lit_saved_and_exported(window, qtbot, tmp_path):
    """The whole line of work: draw, light, drag the lamp, undo, save, reopen, export."""
    s = window.session
    press(window, Qt.Key.Key_E)
    assert s.tool == "ellipse"
    drag(window, (250, 250), (300, 300), (550, 500), modifier=SHIFT)
    shape = s.only_shape
    assert isinstance(shape.form, EllipseForm)
    assert shape.form.width == pytest.approx(shape.form.height)
    assert len(s.document.root.children) == 1
    press(window, Qt.Key.Key_F5)
    press(window, Qt.Key.Key_B)
    press(window, Qt.Key.Key_S)
    press(window, Qt.Key.Key_D)
    kinds = [type(i) for i in s.only_shape.recipe]
    assert kinds == [Fill, Body, Sliver, CastShadow]
    assert s.only_shape.lift > 0
    settle(qtbot, window)
    before, lamp = pixel(window, 330, 330), s.document.lamp
    drop = window.canvas.viewport.to_sheet(window.canvas.lamp.sun_place())
    steps = len(window.session.history._steps)
    drag(window, drop, (500, 200), (600, 420), (560, 560))
    assert len(s.history._steps) == steps + 1, "a drag is one step of undo"
    assert 90 < s.document.lamp.bearing < 180
    settle(qtbot, window)
    after = pixel(window, 330, 330)
    assert after.sum() < before.sum() - 30, "the side that was lit lies in the shade now"
    press(window, Qt.Key.Key_Z, CTRL)
    assert s.document.lamp == lamp
    settle(qtbot, window)
    assert np.abs(pixel(window, 330, 330) - before).max() <= 2
    path = tmp_path / "ball.volumen"
    assert window.files.save_to(path)
    saved = s.document
    press(window, Qt.Key.Key_Delete)
    assert s.document.root.children == ()
    s.history.mark_saved()
    assert window.files.load(str(path))
    assert s.document == saved
    for suffix in ("png", "svg", "pdf"):
        window.proof.formats[suffix].click()
        window.proof.export_to(tmp_path / f"ball.{suffix}")
        qtbot.waitUntil(lambda: window.proof.job is None, timeout=30000)
        assert "exported" in window.proof.note.text()
        assert (tmp_path / f"ball.{suffix}").stat().st_size > 500
    with Image.open(tmp_path / "ball.png") as image:
        assert image.width == 1600
    window.proof.export_to(tmp_path / "missing" / "ball.png")
    qtbot.waitUntil(lambda: window.proof.job is None, timeout=30000)
    assert "folder does not exist" in window.proof.note.text()


def test_drawing_moving_scaling_turning_and_copies(window, qtbot):
    s = window.session
    press(window, Qt.Key.Key_R)
    drag(window, (100, 100), (150, 130), (300, 200))
    form = s.only_shape.form
    assert isinstance(form, RectangleForm)
    assert (form.width, form.height) == pytest.approx((200, 100), abs=2.5)
    press(window, Qt.Key.Key_M)
    drag(window, (200, 150), (220, 160), (260, 190))
    box = s.only_shape.transform
    assert box[4:] == pytest.approx((60, 40), abs=2.5)
    press(window, Qt.Key.Key_Right)
    press(window, Qt.Key.Key_Down, SHIFT)
    assert s.only_shape.transform[4:] == pytest.approx((box[4] + 1, box[5] + 10))
    drag(window, (260, 200), (300, 260), (320, 400), modifier=ALT)
    assert len(s.document.root.children) == 2
    assert s.only_shape.name == "rectangle 2"
    drag_handle(window, "se", 100, 50)
    from volumen.edit import objects

    box = objects.selection_box(s.document, s.selection)
    assert box[2] - box[0] == pytest.approx(300, abs=6)
    assert (box[2] - box[0]) / (box[3] - box[1]) == pytest.approx(2, abs=0.05), "corners keep the proportions"
    before = s.document
    drag_handle(window, "centre", -80, 30, CTRL)
    assert s.document is before
    drag_handle(window, "turn", 120, 130, SHIFT)
    m = s.only_shape.transform
    angle = np.degrees(np.arctan2(m[1], m[0]))
    assert angle == pytest.approx(15 * round(angle / 15), abs=1e-6)
    assert abs(angle) > 10
    assert s.document is not before
    press(window, Qt.Key.Key_C, CTRL)
    press(window, Qt.Key.Key_V, CTRL)
    assert len(s.document.root.children) == 3
    press(window, Qt.Key.Key_A, CTRL)
    press(window, Qt.Key.Key_G, CTRL)
    assert len(s.document.root.children) == 1
    press(window, Qt.Key.Key_G, CTRL | SHIFT)
    assert len(s.document.root.children) == 3
    for _ in range(10):
        press(window, Qt.Key.Key_Z, CTRL)
    assert s.document.root.children == ()
    press(window, Qt.Key.Key_Z, CTRL | SHIFT)
    assert len(s.document.root.children) == 1


def drag_handle(window, name, dx, dy, modifier=Qt.KeyboardModifier.NoModifier):
    tool = window.canvas.tool
    place = tool._handle_places(tool.selection_box())[name]
    x, y = window.canvas.viewport.to_sheet(place)
    drag(window, (x, y), (x + dx / 2, y + dy / 2), (x + dx, y + dy), modifier=modifier)


def test_pen_draws_takes_back_and_closes(window):
    s = window.session
    press(window, Qt.Key.Key_P)
    for p in ((200, 200), (400, 200), (500, 300)):
        drag(window, p, p)
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Backspace)
    drag(window, (400, 400), (440, 420), (460, 430))
    drag(window, (200, 400), (200, 400))
    drag(window, (200, 200), (200, 200))
    shape = s.only_shape
    assert isinstance(shape.form, PathForm)
    run = shape.form.runs[0]
    assert run.closed
    assert [p.smooth for p in run.points] == [False, True, False]
    assert run.points[1].leave == pytest.approx((460, 430), abs=2)
    press(window, Qt.Key.Key_O)
    drag(window, (200, 400), (180, 420), (150, 450))
    assert s.only_shape.form.runs[0].points[2].at == pytest.approx((150, 450), abs=2)
    press(window, Qt.Key.Key_Delete)
    assert len(s.only_shape.form.runs[0].points) == 2, "with a chosen point the key deletes the point"


def test_gradient_by_card_and_spindle(window, qtbot):
    s = window.session
    press(window, Qt.Key.Key_R)
    drag(window, (200, 200), (300, 300), (600, 500))
    press(window, Qt.Key.Key_F4)
    window.recipe.editor.toggle(0)
    assert window.recipe.cards[0].is_open
    from volumen.app.widgets.paint_editor import PaintEditor

    window.recipe.cards[0].findChild(PaintEditor).buttons[Linear].click()
    paint = s.only_shape.recipe[0].paint
    assert isinstance(paint, Linear)
    press(window, Qt.Key.Key_G)
    assert s.tool == "spindle"
    x, y = paint.end
    drag(window, (x, y), (x, y - 20), (x + 150, y - 60))
    assert s.only_shape.recipe[0].paint.end == pytest.approx((x + 150, y - 60), abs=2.5)
    paint = s.only_shape.recipe[0].paint
    t = 0.25
    mid = tuple(a + (b - a) * t for a, b in zip(paint.start, paint.end, strict=True))
    QTest.mouseDClick(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, *mid))
    stops = s.only_shape.recipe[0].paint.stops
    assert len(stops) == 4
    assert stops[1].at == pytest.approx(t, abs=0.02)
    press(window, Qt.Key.Key_Delete)
    assert len(s.only_shape.recipe[0].paint.stops) == 3
    window.recipe.cards[0].findChild(PaintEditor).buttons[Radial].click()
    assert isinstance(s.only_shape.recipe[0].paint, Radial)
    window.recipe.cards[0].findChild(PaintEditor).buttons[Solid].click()
    assert isinstance(s.only_shape.recipe[0].paint, Solid)


def test_numbers_take_sums_units_and_values_beyond_the_slider(window, qtbot):
    assert evaluate("2 + 3*4") == 14
    assert evaluate("25.4mm") == pytest.approx(96)
    assert evaluate("-(1 in) / 2") == pytest.approx(-48)
    for wrong in ("", "abc", "1/0", "__import__('os')", "9**9**9", "1e400"):
        with pytest.raises(ValueError, match=r"number|range"):
            evaluate(wrong)
    s = window.session
    press(window, Qt.Key.Key_E)
    drag(window, (250, 250), (300, 300), (550, 500))
    press(window, Qt.Key.Key_W)
    card = window.recipe.cards[-1]
    field = next(f for f in card.findChildren(NumberField) if f.accessibleName() == "size")
    first = s.only_shape.recipe[-1].size
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "600 + 40")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert s.only_shape.recipe[-1].size == 640
    press(window, Qt.Key.Key_Z, CTRL)
    assert s.only_shape.recipe[-1].size == first


def test_stages_flat_view_and_pile(window, qtbot):
    s = window.session
    assert window.files.load("demo:ferry")
    settle(qtbot, window)
    for i, key in enumerate((Qt.Key.Key_F2, Qt.Key.Key_F3, Qt.Key.Key_F4, Qt.Key.Key_F5, Qt.Key.Key_F6)):
        press(window, key)
        assert s.stage == i
        window.grab()
    qtbot.waitUntil(lambda: "flat" in window.wall.images and 16 in window.wall.small, timeout=20000)
    assert window.proof.list.count() == len(window.proof.findings) >= 3
    press(window, Qt.Key.Key_F5)
    settle(qtbot, window)
    lit = window.link.image.copy()
    press(window, Qt.Key.Key_Period)
    settle(qtbot, window)
    assert s.flat
    assert window.link.image != lit
    press(window, Qt.Key.Key_Period)
    funnel = next(n for n in walk(s.document.root) if n.name == "funnel")
    s.select((funnel.id,))
    assert [i.data(0, Qt.ItemDataRole.UserRole) for i in window.pile.tree.selectedItems()] == [funnel.id]
    window.pile.flip(funnel.id, "visible")
    assert not find(s.document, funnel.id).visible
    window.pile.rename(funnel.id, "chimney")
    assert find(s.document, funnel.id).name == "chimney"
    window.pile.search.setText("chimney")
    shown = [i for i in window.pile._items.values() if not i.isHidden()]
    assert 0 < len(shown) < 8
    rim, sea = s.document.root.children[2:4]
    window.pile.dropped([sea.id], rim.id, window.pile.tree.dropIndicatorPosition().OnItem)
    assert find(s.document, rim.id).children[0].id == sea.id


def test_the_section_lifts_and_the_recipe_switches(window, qtbot):
    window.files.load("demo:net-float")
    s = window.session
    press(window, Qt.Key.Key_F5)
    settle(qtbot, window)
    becket = next(n for n in walk(s.document.root) if n.name == "becket")
    window.section.grab()
    slab = next(slab for slab in window.section._slabs if slab.node.id == becket.id)
    place = slab.box.center().toPoint()
    QTest.mousePress(window.section, LEFT, Qt.KeyboardModifier.NoModifier, place)
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    up = QPointF(place - QPoint(0, 10))
    QApplication.sendEvent(
        window.section, QMouseEvent(QEvent.Type.MouseMove, up, window.section.mapToGlobal(up), LEFT, LEFT, SHIFT)
    )
    QTest.mouseRelease(window.section, LEFT, Qt.KeyboardModifier.NoModifier, place - QPoint(0, 10))
    assert find(s.document, becket.id).lift > becket.lift
    card = window.recipe.cards[0]
    QTest.mouseClick(card.eye, LEFT)
    assert find(s.document, becket.id).recipe[card.index].on is False


@pytest.mark.parametrize("stage", Stage)
def test_the_window_fits_a_small_screen_with_all_unfolded(window, qtbot, stage):
    """A screen of 1280 x 720 under a title bar: panels that grow scroll, they do not push the window over its edge."""
    window.session.open(lit_trio(), None, "trio")
    window.session.set_stage(stage)
    window.registry.run("light.first")
    window.session.set_stage(stage)
    window.toolbox._toggle_fold()
    window.toolbox._toggle_arrange()
    for box in window.proof_choices.ticks.values():
        if stage == Stage.PROOF and not box.isChecked():
            QTest.mouseClick(box, LEFT, pos=QPoint(8, 8))
    window.notice("something to read " * 12)
    qtbot.wait(50)
    window.resize(1280, 680)
    assert window.minimumSizeHint().height() <= 680 and window.height() <= 680
    assert window.panes.widget(0).minimumSizeHint().width() <= LEFT_PANEL[1]
    for panel in (window.toolbox, window.proofs):
        assert panel.body.minimumSizeHint().width() <= panel.viewport().width() or not panel.isVisible()


def test_a_bad_file_leaves_the_open_document_and_says_so(window, tmp_path):
    window.files.load("demo:ferry")
    before = window.session.document
    bad = tmp_path / "bad.volumen"
    bad.write_bytes(b"rubbish")
    assert not window.files.load(str(bad))
    assert window.session.document is before
    assert window._notice.isVisible()
    assert "not a Volumen document" in window._notice_text.text()
    assert not window.files.save_to(tmp_path / "nowhere" / "x.volumen")
    assert "folder does not exist" in window._notice_text.text()


def test_a_dead_worker_is_replaced_and_nothing_is_lost(window, qtbot):
    window.files.load("demo:ferry")
    settle(qtbot, window)
    before, document = window.link.image.copy(), window.session.document
    starts = window.link.client.restarts
    os.kill(window.link.client.process.pid, signal.SIGKILL)
    qtbot.waitUntil(lambda: window.link.client.restarts == starts + 1 and window.link.idle, timeout=20000)
    assert window.session.document is document
    assert window.link.image == before


def test_every_command_has_a_title_and_no_two_share_a_key(window, qtbot):
    keys = [k for c in window.registry for k in (c.keys, *c.more_keys) if k]
    assert len(keys) == len(set(keys))
    assert all(c.title for c in window.registry)
    press(window, Qt.Key.Key_Space, CTRL)
    field = window.command_list.field
    QTest.keyClicks(field, "rectangle")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert window.session.tool == "rectangle"
    window.command_list.hide()
