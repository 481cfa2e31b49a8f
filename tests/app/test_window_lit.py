"""Light that looks at its object, by hand in the real window: glows in a gradient, pairs, fitted bodies, mesh corners."""

import itertools

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QProgressDialog, QPushButton

from drawings import drawing
from driving import click, option, tool
from gestures import CTRL, LEFT, SHIFT, bar, field, press, put, settle, show, type_into
from volumen.app.state.news import Stage
from volumen.app.widgets import waiting
from volumen.app.widgets.glow_colours import GlowColours
from volumen.app.widgets.slider import Track
from volumen.geometry.affine import rotation
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import Body, CastShadow, Line, OuterGlow, Sliver
from volumen.model.make import circle, empty_document, solid
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import find
from volumen.outline.forms import path_form
from volumen.shading.mesh_paints import from_paint

pytestmark = pytest.mark.one_window

NONE = Qt.KeyboardModifier.NoModifier
SEA = solid("#2b8577")


def card(window, kind):
    """The open card of an ingredient of the selected object."""
    QApplication.processEvents()
    at = next(k for k, i in enumerate(window.session.first.recipe) if isinstance(i, kind))
    if not window.recipe.cards[at].is_open:
        window.recipe.editor.toggle(at)
    return window.recipe.cards[at]


def test_a_glow_gets_a_gradient_a_third_stop_and_another_colour(window):
    s = window.session
    put(window, bar(1, 100, (SEA, OuterGlow(SEA.paint.colour))))
    s.set_stage(3)
    s.select((1,))

    def glow():
        return s.first.recipe[-1]

    widget = card(window, OuterGlow).findChild(GlowColours)
    QTest.mouseClick(widget.many, LEFT)
    assert len(glow().stops) == 2 and glow().stops[0].colour == SEA.paint.colour
    widget = card(window, OuterGlow).findChild(GlowColours)
    middle = QPoint(widget.bar.width() // 2, 10)
    QTest.mouseClick(widget.bar, LEFT, NONE, middle)
    QTest.mouseDClick(widget.bar, LEFT, NONE, middle)
    assert len(glow().stops) == 3 and glow().stops[1].at == pytest.approx(0.5, abs=0.02)
    widget = card(window, OuterGlow).findChild(GlowColours)
    hex_field = widget.panel.hex
    hex_field.setFocus()
    hex_field.selectAll()
    QTest.keyClicks(hex_field, "#ff8800")
    QTest.keyClick(hex_field, Qt.Key.Key_Return)
    assert glow().stops[1].colour.rgb == pytest.approx((1, 0x88 / 255, 0), abs=0.01), "the stop that was just put in"
    widget = card(window, OuterGlow).findChild(GlowColours)
    QTest.mouseClick(widget.plain, LEFT)
    assert glow().stops == () and glow().colour == SEA.paint.colour
    s.undo()
    assert len(glow().stops) == 3


def test_a_pair_for_lettering_is_one_step(window):
    s = window.session
    put(window, bar(1, 100, (SEA,)), bar(2, 300, (SEA,)))
    s.select((1, 2))
    assert window.registry.run("add.embossed")
    for node in s.nodes:
        assert [type(i) for i in node.recipe[-2:]] == [Sliver, Sliver]
        assert {i.kind for i in node.recipe[-2:]} == {"light", "shade"}
    s.undo()
    assert all(len(n.recipe) == 1 for n in s.nodes)


def test_a_body_is_fitted_to_each_shape_by_its_button(window):
    s = window.session
    leaf = [ellipse(200, 200 * k, 90, 20).transformed(rotation(25.0 * k, (200, 200 * k))) for k in (1, 2)]
    put(window, *(Shape(k, f"leaf {k}", path_form(p), (SEA, Body("tube", "wax"))) for k, p in enumerate(leaf, 1)))
    s.set_stage(3)
    s.select((1, 2))
    button = next(b for b in card(window, Body).findChildren(QPushButton) if b.text() == "fit to shape")
    QTest.mouseClick(button, LEFT)
    turns = [n.recipe[-1].turn for n in s.nodes]
    assert turns[0] == pytest.approx(25, abs=0.3)
    assert turns[1] - 90 * round((turns[1] - 50) / 90) == pytest.approx(50, abs=0.3)
    s.undo()
    assert [n.recipe[-1].turn for n in s.nodes] == [0, 0]


def test_corners_of_a_mesh_are_clicked_and_taken_back(window):
    s = window.session
    put(window, bar(1, 100, (SEA,)))
    s.set_stage(2)
    s.select((1,))
    tool(window, "mesh")
    l, t, r, b = (100, 100, 300, 200)
    middles = [((l + r) / 2, t), (r, (t + b) / 2), ((l + r) / 2, b), (l, (t + b) / 2)]
    click(window, (l + r) / 2 + 20, t)
    assert len(window.canvas.tool.corners[1]) == 1
    click(window, (l + r) / 2 + 20, t)
    assert window.canvas.tool.corners[1] == (), "a second click takes it back"
    for x, y in middles:
        click(window, x, y)
    option(window, "lay")
    mesh = from_paint(s.first.recipe[0].paint)
    found = [tuple(mesh.at[i, j].tolist()) for i in (0, -1) for j in (0, -1)]
    assert all(min(abs(x - a) + abs(y - c) for a, c in found) < 3 for x, y in middles)


@pytest.mark.parametrize("shown_after", [0.4, 0.0])
def test_first_light_by_key_dials_a_wall_of_styles_and_undo(window, monkeypatch, shown_after):
    """A flat sheet is lit with one key; a dial is typed and dragged; another style is taken by eye; all of it undone. On
    a slow machine as well, where a dialog waits each time: the next key goes to the window again."""
    monkeypatch.setattr(waiting, "_SHOWN_AFTER", shown_after)
    s = window.session
    show(window, drawing(3))
    flat = s.document
    press(window, Qt.Key.Key_B, SHIFT)
    first, panel = s.document, window.toolbox.first_light
    assert first.first_light.style == "enamel" and s.stage == Stage.LIGHT and panel.isVisibleTo(window)
    assert panel.count.text() == f"{len(first.first_light.given)} pieces"
    type_into(field(panel, "depth"), "999")
    assert s.document.first_light.depth == 2.0, "the end of the dial"
    type_into(field(panel, "softness"), "words")
    assert s.document.first_light.softness == first.first_light.softness and "words" in s.note
    track = panel.rows["depth"].findChild(Track)
    QTest.mousePress(track, LEFT, pos=QPoint(track.width() // 2, track.height() // 2))
    QTest.mouseRelease(track, LEFT, pos=QPoint(4, track.height() // 2))
    assert s.document.first_light.depth < 2.0
    window.registry.run("choose.first light")
    tile = next(t for t in window.choosing.tiles if t.accessibleName() == "wax")
    QTest.mouseClick(tile, LEFT)
    assert s.document.first_light.style == "wax" and s.history.undo_label == "first light: wax"
    assert panel.style_box.currentText() == "wax"
    mine = s.document.first_light.given[0].id
    s.select([mine])
    window.recipe.editor.remove(len(s.first.recipe) - 1)
    assert (
        panel.count.text() == f"{len(s.document.first_light.given) - 1} of {len(s.document.first_light.given)} pieces"
    )
    kept = find(s.document, mine)
    away = next(b for b in panel.findChildren(QPushButton) if b.text() == "take away")
    QTest.mouseClick(away, LEFT)
    assert s.document.first_light is None and find(s.document, mine) == kept and not panel.isVisibleTo(window)
    for _ in range(40):
        press(window, Qt.Key.Key_Z, CTRL)
    assert s.document == flat


def test_in_the_section_sheets_stand_on_one_another_and_carry_what_lies_on_them(window, qtbot):
    """A slab dragged higher takes along what stands on it; the switch is one step, and back."""
    plates = [Shape(k, f"plate {k}", RectangleForm(*at), (solid("#2b8577"), CastShadow()), lift=10.0)
              for k, at in ((1, (20, 20, 300, 200)), (2, (60, 60, 100, 90)))]  # fmt: skip
    show(window, replace(empty_document(), root=Group(0, "pile", tuple(plates)), next_id=3), 1)
    window.session.set_stage(Stage.LIGHT)
    settle(qtbot, window)
    section = window.section
    section.grab()
    slabs = {s.node.id: s for s in section._slabs}
    assert {k: s.base + s.lift for k, s in slabs.items()} == {1: 10.0, 2: 20.0}
    start = slabs[1].box.center().toPoint()
    start.setX(round(slabs[1].box.right()) - 4)
    QTest.mousePress(section, Qt.MouseButton.LeftButton, pos=start)
    QTest.mouseMove(section, start - QPoint(0, 20))
    QTest.mouseRelease(section, Qt.MouseButton.LeftButton, pos=start - QPoint(0, 20))
    section.grab()
    raised = {s.node.id: s for s in section._slabs}
    assert raised[1].lift > 12 and raised[2].lift == 10 and raised[2].base == pytest.approx(raised[1].lift)
    QTest.mouseClick(section.adds_up, Qt.MouseButton.LeftButton, pos=QPoint(8, section.adds_up.height() // 2))
    assert not window.session.document.lifts_add_up
    section.grab()
    assert {s.node.id: s.base for s in section._slabs} == {1: 0.0, 2: 0.0}
    press(window, Qt.Key.Key_Z, CTRL)
    assert window.session.document.lifts_add_up and section.adds_up.isChecked()
    assert window.session.history.undo_label == "lift"


def test_the_light_check_shows_before_and_after_and_takes_a_word_for_it(window, qtbot):
    s = window.session
    wrong = [
        bar(k, y, (SEA, Sliver("light", depth=24.0, angle=180.0, blend="screen")))
        for k, y in ((1, 100), (2, 300), (3, 500))
    ]
    put(window, *wrong)
    s.set_stage(Stage.LIGHT)
    s.set_tool("light check")
    settle(qtbot, window)
    check = window.canvas.tool
    assert [d.node for d in check.found()] == [1, 2, 3]
    box = check._box(2)
    middle, places = QPoint(round((box[0] + box[2]) / 2), round((box[1] + box[3]) / 2)), itertools.cycle((0, 1))

    def looked():  # a hand does not lie still; a window that comes up beside takes the pointer away for a moment
        QTest.mouseMove(window.canvas, middle + QPoint(next(places), 0))
        return len(check._pictures) == 2

    qtbot.waitUntil(looked, timeout=20000)
    assert check._pictures["before"] != check._pictures["after"] and find(s.document, 2) == wrong[1]
    s.select((1,))
    option(window, "meant_so")
    assert [d.node for d in check.found()] == [2, 3]
    s.select((2,))
    option(window, "alike_right")
    assert check.found() == [] and find(s.document, 1) == wrong[0] and find(s.document, 3).recipe[1].angle is None
    option(window, "ask_again")
    assert [d.node for d in check.found()] == [1]
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Z, CTRL)
    assert [d.node for d in check.found()] == [1, 2, 3]


def test_first_light_on_much_can_be_stopped(window, monkeypatch):
    """What takes long shows a dialog; its button leaves the artwork as it was, and a second call goes through."""
    show(window, drawing(3))
    flat = window.session.document
    monkeypatch.setattr(waiting, "_SHOWN_AFTER", 0.0)
    monkeypatch.setattr(waiting, "_STEP", 0.0)

    def stop():
        dialog = window.findChild(QProgressDialog)
        QTest.mouseClick(dialog.findChild(QPushButton), LEFT)

    QTimer.singleShot(0, stop)
    window.choosing.show_kind("first light")
    assert not window.choosing.tiles and "stopped" in window.session.note
    QApplication.processEvents()
    window.choosing.rebuild()
    assert len(window.choosing.tiles) == 8
    window.choosing.hide()
    QTimer.singleShot(0, stop)
    press(window, Qt.Key.Key_B, SHIFT)
    assert window.session.document == flat and "stopped" in window.session.note
    QApplication.processEvents()
    press(window, Qt.Key.Key_B, SHIFT)
    assert window.session.document.first_light is not None, window.session.note


def test_where_no_gradient_comes_near_the_card_offers_a_mesh_and_a_way_back(window):
    def show_ball(rx, ry, name):
        ball = Shape(1, "float", circle(200, 150, rx, ry), (SEA, Body("ball", name)))
        show(window, replace(empty_document(), root=Group(0, "pile", (ball,)), next_id=2), 1)
        return [b for b in card(window, Body).findChildren(QPushButton) if b.text().startswith("as a ")]

    assert show_ball(50, 50, "clay") == []
    show_ball(150, 40, "brass")
    for mesh, other in ((True, "as a gradient"), (False, "as a mesh")):
        offer = next(b for b in card(window, Body).findChildren(QPushButton) if b.text().startswith("as a "))
        QTest.mouseClick(offer, LEFT)
        assert window.session.first.recipe[1].mesh is mesh
        assert any(b.text() == other for b in card(window, Body).findChildren(QPushButton))


def test_a_tube_is_laid_along_the_line_by_the_button_of_its_card_and_back(window):
    ring = Shape(1, "ring", circle(200, 150, 60), (SEA, Line(SEA.paint, 20.0), Body("tube", "clay")))
    show(window, replace(empty_document(), root=Group(0, "pile", (ring,)), next_id=2), 1)
    for along, offered in ((True, "over the inside"), (False, "along the line")):
        offer = next(
            b for b in card(window, Body).findChildren(QPushButton) if b.text() in ("along the line", "over the inside")
        )
        QTest.mouseClick(offer, LEFT)
        assert window.session.first.recipe[2].along is along
        assert offered in [b.text() for b in card(window, Body).findChildren(QPushButton)]
    window.session.undo()
    assert window.session.first.recipe[2].along
