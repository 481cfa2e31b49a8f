"""Panels and widgets of the window, by mouse and keys."""

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPushButton

from gestures import CTRL, LEFT, SHIFT, field, press, show
from scenes import disc, document, lit_trio
from volumen.app.state.viewport import Viewport, fitted
from volumen.app.widgets.balls import Ball
from volumen.app.widgets.colours import ColourPanel
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.slider import SliderRow
from volumen.app.widgets.stopbar import StopBar
from volumen.edit import objects
from volumen.edit.gradients import converted, lighter_and_darker
from volumen.model.ingredients import Body, CastShadow, Fill, Sliver
from volumen.model.make import linear, solid
from volumen.model.tree import find, parent_of
from volumen.shading.paint import Linear, Radial, Solid, colour

pytestmark = pytest.mark.one_window

NO = Qt.KeyboardModifier.NoModifier


def scrub(widget, start, end, modifier=NO):
    QTest.mousePress(widget, LEFT, modifier, start)
    for t in (0.3, 0.7, 1.0):
        QTest.mouseMove(widget, start + (end - start) * t)
        place = QPointF(start + (end - start) * t)
        from PySide6.QtCore import QEvent
        from PySide6.QtGui import QMouseEvent

        event = QMouseEvent(QEvent.Type.MouseMove, place, widget.mapToGlobal(place), LEFT, LEFT, modifier)
        QApplication.sendEvent(widget, event)
    QTest.mouseRelease(widget, LEFT, modifier, end)


def test_number_field_scrubs_steps_and_refuses_rubbish(qtbot):
    f = NumberField("size", " px", 1.0, 0, 100)
    qtbot.addWidget(f)
    f.show()
    previews, values = [], []
    f.preview.connect(previews.append)
    f.done.connect(values.append)
    f.show_value(50)
    scrub(f, QPoint(10, 8), QPoint(30, 8))
    assert values == [60]
    assert previews[-1] == 60
    assert len(previews) > 1
    QTest.mouseClick(f, LEFT, NO, QPoint(10, 8))
    QTest.keyClick(f, Qt.Key.Key_Up)
    QTest.keyClick(f, Qt.Key.Key_Down, SHIFT)
    assert values[1:] == [61, 51]
    f.selectAll()
    QTest.keyClicks(f, "rubbish")
    QTest.keyClick(f, Qt.Key.Key_Return)
    assert f.text() == "51 px"
    f.selectAll()
    QTest.keyClicks(f, "1e5")
    QTest.keyClick(f, Qt.Key.Key_Return)
    assert values[-1] == 100, "held to what the maths allows"
    f.show_value(7, mixed=True)
    f.clearFocus()
    f.show_value(7, mixed=True)
    assert f.text() == "differ"


def test_slider_row_shows_factor_and_goes_beyond_by_typing(qtbot):
    row = SliderRow("strength", 0, 1, " %", 100, 0, 2)
    qtbot.addWidget(row)
    row.resize(280, 24)
    row.show()
    values = []
    row.done.connect(values.append)
    row.show_value(0.5)
    assert row.number.text() == "50 %"
    QTest.mouseClick(row.track, LEFT, NO, QPoint(row.track.width() - 2, 10))
    assert values[-1] == pytest.approx(1)
    row.number.setFocus()
    row.number.selectAll()
    QTest.keyClicks(row.number, "150")
    QTest.keyClick(row.number, Qt.Key.Key_Return)
    assert values[-1] == pytest.approx(1.5)
    QTest.keyClick(row.track, Qt.Key.Key_Left)
    assert row.value == pytest.approx(0.99)


def test_colour_panel_keeps_hue_through_grey_and_reads_hex(qtbot):
    panel = ColourPanel()
    qtbot.addWidget(panel)
    values = []
    panel.done.connect(values.append)
    panel.show_colour(colour("#2b8577"))
    hue = panel.hue.value
    panel.chroma.show_value(0)
    panel.chroma.done.emit(0.0)
    grey = values[-1]
    assert max(grey.rgb) - min(grey.rgb) < 1e-3
    panel.show_colour(grey)
    assert panel.hue.value == pytest.approx(hue, abs=0.5)
    panel.hex.setText("#c8402a")
    panel.hex.editingFinished.emit()
    assert values[-1] == colour("#c8402a")
    panel.hex.setText("vermilion")
    panel.hex.editingFinished.emit()
    assert panel.hex.text() == "#c8402a"
    panel.alpha.show_value(0.25)
    panel.alpha.done.emit(0.25)
    assert values[-1].a == 0.25


def test_stop_bar_moves_adds_and_removes(qtbot):
    bar = StopBar()
    qtbot.addWidget(bar)
    bar.resize(220, 40)
    bar.show()
    gradient = linear((0, 0), (1, 0), (0, "#000000"), (0.5, "#c8402a"), (1, "#ffffff"))
    bar.show_gradient(gradient, 0)
    results = []
    bar.done.connect(results.append)
    x = round(bar._x(0.5))
    scrub(bar, QPoint(x, 30), QPoint(x + 40, 30))
    assert results[-1].stops[1].at == pytest.approx(0.7, abs=0.02)
    bar.show_gradient(gradient, 0)
    scrub(bar, QPoint(x, 30), QPoint(x + 190, 30))
    assert results[-1].stops[1].at == 1.0, "a stop does not pass its neighbour"
    bar.show_gradient(gradient, 0)
    scrub(bar, QPoint(x, 30), QPoint(x, 120))
    assert len(results[-1].stops) == 2
    bar.show_gradient(gradient, 0)
    middle = round(bar._x(0.25))
    scrub(bar, QPoint(middle, 22), QPoint(middle + 15, 22))
    assert results[-1].stops[0].middle > 0.55
    bar.show_gradient(gradient, 0)
    QTest.mouseDClick(bar, LEFT, NO, QPoint(round(bar._x(0.75)), 10))
    assert len(results[-1].stops) == 4
    bar.show_gradient(gradient, 1)
    QTest.keyClick(bar, Qt.Key.Key_Delete)
    assert len(results[-1].stops) == 2


def test_converting_paints_keeps_their_colours():
    box = (0, 0, 100, 50)
    assert [s.at for s in lighter_and_darker(colour("#2b8577"))] == [0, 0.5, 1]
    made = converted(Solid(colour("#2b8577")), Linear, box)
    assert made.end == (50, 50)
    radial = converted(made, Radial, box)
    assert radial.stops == made.stops
    assert radial.radius == 50
    assert converted(radial, Solid, box) == Solid(colour("#2b8577"))
    assert converted(radial, Radial, box) is radial


def test_viewport_zooms_about_a_point_and_fits():
    v = Viewport(2, 30, -10).zoomed(1.7, (200, 100))
    assert v.to_sheet((200, 100)) == pytest.approx(Viewport(2, 30, -10).to_sheet((200, 100)))
    assert v.to_canvas(v.to_sheet((5, 6))) == pytest.approx((5, 6))
    assert Viewport(200).zoomed(1e9, (0, 0)).scale == 256
    f = fitted((0, 0, 100, 50), 400, 400, 20)
    assert f.scale == pytest.approx(3.6)
    assert f.to_canvas((50, 25)) == pytest.approx((200, 200), abs=1)


def test_cards_edit_several_objects_and_show_where_they_differ(window):
    a = disc(1, 100, 100, 30, solid("#2b8577"), Sliver(depth=5.0))
    b = disc(2, 200, 200, 30, solid("#c8402a"), Sliver(depth=9.0))
    show(window, document(a, b, side=400), 1, 2)
    window.recipe.editor.toggle(1)
    card = next(c for c in window.recipe.cards if isinstance(c.ingredient, Sliver))
    depth = field(card, "depth")
    assert depth.text() == "differ"
    depth.setFocus()
    depth.selectAll()
    QTest.keyClicks(depth, "12")
    QTest.keyClick(depth, Qt.Key.Key_Return)
    s = window.session
    assert [find(s.document, i).recipe[1].depth for i in (1, 2)] == [12, 12]
    choice = next(c for c in card.findChildren(QComboBox) if c.accessibleName() == "tone")
    choice.setCurrentIndex(1)
    choice.activated.emit(1)
    assert [find(s.document, i).recipe[1].kind for i in (1, 2)] == ["light", "light"]
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Z, CTRL)
    assert [find(s.document, i).recipe[1].depth for i in (1, 2)] == [5, 9]


def test_cards_duplicate_reorder_remove_and_copy(window):
    show(
        window, document(disc(1, 100, 100, 30, solid("#2b8577"), Body(), Sliver()), disc(2, 200, 200, 30), side=400), 1
    )
    recipe, s = window.recipe.editor, window.session
    recipe.duplicate(2)
    assert [type(i) for i in s.only_shape.recipe] == [Fill, Body, Sliver, Sliver]
    recipe.reorder(1, 3)
    assert [type(i) for i in s.only_shape.recipe] == [Fill, Sliver, Sliver, Body]
    recipe.remove(1)
    assert [type(i) for i in s.only_shape.recipe] == [Fill, Sliver, Body]
    recipe.reorder(0, -1)
    assert [type(i) for i in s.only_shape.recipe] == [Fill, Sliver, Body], "nothing lies before the first"
    s.select((1, 2))
    recipe.copy_to_others(2)
    assert isinstance(find(s.document, 2).recipe[-1], Body)
    s.select((1,))
    window.registry.run("edit.copy_recipe")
    s.select((2,))
    window.registry.run("edit.paste_recipe")
    assert find(s.document, 2).recipe == find(s.document, 1).recipe
    window.registry.run("object.freeze")
    assert not any(isinstance(i, Body | Sliver) for i in find(s.document, 2).recipe)


def test_material_balls_and_receiver(window):
    show(
        window,
        document(
            disc(1, 100, 100, 60), disc(2, 90, 90, 30, solid("#c98f35"), Body(), CastShadow(), lift=5.0), side=300
        ),
        2,
    )
    s = window.session
    window.recipe.editor.toggle(1)
    card = next(c for c in window.recipe.cards if c.is_open)
    brass = next(b for b in card.findChildren(Ball) if b.material == "brass")
    QTest.mouseClick(brass, LEFT)
    assert s.only_shape.recipe[1].material == "brass"
    window.recipe.editor.toggle(2)
    card = next(c for c in window.recipe.cards if c.is_open)
    button = next(b for b in card.findChildren(QPushButton) if b.accessibleName() == "held to")
    assert button.text().strip() == "everything beneath"
    button.menu().aboutToShow.emit()
    assert [a.text() for a in button.menu().actions() if a.text()] == ["everything beneath", "disc 1"]
    button.menu().actions()[2].trigger()
    assert s.only_shape.recipe[2].receivers == (1,) and button.text().strip() == "only disc 1"
    button.menu().aboutToShow.emit()
    button.menu().actions()[0].trigger()
    assert s.only_shape.recipe[2].receivers == ()


def test_form_numbers_move_and_scale(window):
    show(window, document(disc(1, 100, 100, 30), side=300), 1)
    for name, text in (("x of the selection", "10"), ("w of the selection", "120")):
        f = field(window.recipe, name)
        f.setFocus()
        f.selectAll()
        QTest.keyClicks(f, text)
        QTest.keyClick(f, Qt.Key.Key_Return)
    assert objects.selection_box(window.session.document, [1]) == pytest.approx((10, 70, 130, 130))


def test_lamp_ball_and_lamp_numbers(window, qtbot):
    show(window, lit_trio(), 1)
    press(window, Qt.Key.Key_F5)
    ball = window.toolbox.lamp_options.ball
    scrub(ball, QPoint(32, 32), QPoint(52, 32))
    lamp = window.session.document.lamp
    assert lamp.bearing == pytest.approx(90)
    assert lamp.height == pytest.approx(np.degrees(np.arccos(20 / 28)), abs=0.2)
    f = window.toolbox.lamp_options.fields["bearing"]
    f.setFocus()
    f.selectAll()
    QTest.keyClicks(f, "360 + 45")
    QTest.keyClick(f, Qt.Key.Key_Return)
    assert window.session.document.lamp.bearing == 45
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_Z, CTRL)
    assert window.session.document.lamp == lit_trio().lamp


def test_linked_copies_by_menu_follow_one_another(window):
    show(window, document(disc(1, 60, 60, 30), disc(2, 140, 60, 20, solid("#c8402a")), side=200), 1)
    s = window.session
    window.registry.run("object.copy_linked")
    copy = s.selection[0]
    window.recipe.editor.add(Sliver("shade", depth=5))
    assert find(s.document, 1).recipe == find(s.document, copy).recipe and len(find(s.document, 1).recipe) == 2
    s.select((2, 1))
    window.registry.run("object.link")
    assert {find(s.document, i).recipe for i in (1, 2)} == {find(s.document, 2).recipe}, "all like the first"
    s.select((1,))
    window.registry.run("object.select_linked")
    assert set(s.selection) == {1, 2}, "the copy stays with the link it had"
    s.preview(objects.set_fields(s.document, [1], opacity=0.4))
    assert find(s.document, 2).opacity == 0.4, "while the hand still moves"
    s.cancel()
    window.registry.run("object.unlink")
    s.apply("opacity", objects.set_fields(s.document, [1], opacity=0.4))
    assert find(s.document, 2).opacity == 1.0
    s.select((1, 2))
    window.registry.run("edit.undo")
    window.registry.run("edit.undo")
    assert all(find(s.document, i).link is not None for i in (1, 2))
    s.apply("group", objects.group(s.document, [1])[0])
    s.select((2, find(s.document, parent_of(s.document, 1).id).id))
    window.registry.run("object.link")
    assert "two or more groups" in s.note
