"""The tools of Draw and Carve one by one, in the real window."""

import math

import numpy as np
import pytest
from PIL import Image as Pillow
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtTest import QTest

from driving import NONE, click, length_of, on_outline, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, at, drag, move, press, settle
from volumen.edit import objects
from volumen.model.ingredients import Bend, Line, Rounding
from volumen.model.make import circle, solid
from volumen.model.nodes import ArcForm, Document, Group, GuideLine, Image, PathForm, PolygonForm, Shape, SpiralForm
from volumen.model.tree import find

pytestmark = pytest.mark.one_window

# -- tools and panels


def test_primitives_by_typed_size_and_by_points(window):
    s = window.session
    tool(window, "polygon")
    slider = window.toolbox.options.sliders["width"]
    slider.number.setFocus()
    slider.number.selectAll()
    QTest.keyClicks(slider.number, "40mm")
    QTest.keyClick(slider.number, Qt.Key.Key_Return)
    click(window, 400, 400)
    form = s.only_shape.form
    assert isinstance(form, PolygonForm) and form.width == pytest.approx(40 * 96 / 25.4, abs=0.05)
    window.recipe.parameters._set("sides", 9.0, True)
    assert s.only_shape.form.sides == 9
    tool(window, "arc")
    for p in ((100, 200), (300, 200), (200, 100)):
        click(window, *p)
    assert isinstance(s.only_shape.form, ArcForm)
    assert length_of(s.only_shape) == pytest.approx(math.pi * 100, rel=0.02)
    tool(window, "spiral")
    drag(window, (600, 600), (650, 600), (700, 600))
    assert isinstance(s.only_shape.form, SpiralForm) and s.only_shape.form.outer == pytest.approx(100, abs=2)
    tool(window, "star")
    drag(window, (500, 100), (550, 150), (600, 200))
    press(window, Qt.Key.Key_Escape)
    assert len(s.document.root.children) == 4


def test_pen_breaks_moves_continues_and_joins(window):
    s = window.session
    s.snapping = False
    tool(window, "pen")
    click(window, 100, 100)
    drag(window, (200, 100), (230, 100), (240, 100))
    drag(window, (200, 100), (205, 120), (210, 140), modifier=CTRL)  # an earlier point is moved while drawing
    click(window, 300, 100)
    press(window, Qt.Key.Key_Return)
    run = s.only_shape.form.runs[0]
    assert run.points[1].at == pytest.approx((210, 140), abs=2) and run.points[1].smooth
    click(window, 300, 100)  # go on from its end
    click(window, 300, 300)
    press(window, Qt.Key.Key_Return)
    assert len(s.document.root.children) == 1 and len(s.only_shape.form.runs[0].points) == 4
    click(window, 500, 300)
    click(window, 400, 300)
    click(window, 300, 300)  # joins the other path's end
    assert len(s.document.root.children) == 1 and len(s.only_shape.form.runs[0].points) == 6
    click(window, 600, 600)
    drag(window, (700, 600), (720, 560), (730, 540), modifier=ALT)
    click(window, 700, 700)
    press(window, Qt.Key.Key_Return)
    broken = s.only_shape.form.runs[0].points[1]
    assert not broken.smooth and broken.arrive == broken.at and broken.leave != broken.at


def test_points_by_lasso_numbers_and_buttons(window):
    s = window.session
    s.open(
        Document(root=Group(0, "pile", (Shape(1, "disc", circle(400, 400, 150), (solid("#2b8577"),)),)), next_id=2),
        None,
        "d",
    )
    s.select((1,))
    tool(window, "points")
    t = window.canvas.tool
    drag(window, (600, 330), (620, 480), (350, 480), (350, 330), (600, 330))
    assert len(t.chosen) == 1
    option(window, "make_corner")
    assert isinstance(s.only_shape.form, PathForm), "a primitive becomes a path at the first change"
    field = window.toolbox.options.numbers["x"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "600")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert s.only_shape.form.runs[0].points[t.chosen[0][1]].at[0] == pytest.approx(600)
    count = len(s.only_shape.form.runs[0].points)
    press(window, Qt.Key.Key_Delete)
    assert len(s.only_shape.form.runs[0].points) == count - 1
    x, y = on_outline(s)
    before = s.only_shape.form
    drag(window, (x, y), (x + 5, y + 20), (x + 10, y + 40))
    assert s.only_shape.form != before and len(s.only_shape.form.runs[0].points) == count - 1
    option(window, "reverse")
    option(window, "simplify")
    assert "points" in s.note


def test_rounding_widths_and_cage_are_dragged_on_the_canvas(window):
    s = window.session
    s.snapping = False
    tool(window, "rectangle")
    drag(window, (200, 200), (300, 300), (500, 400))
    tool(window, "rounding")
    t = window.canvas.tool
    found = t.target()
    dot = window.canvas.viewport.to_sheet(t._dot(found[2], found[1][0], 0.0))
    drag(window, dot, (dot[0] + 10, dot[1] + 10), (dot[0] + 30, dot[1] + 30))
    rounding = next(i for i in s.only_shape.recipe if isinstance(i, Rounding))
    assert rounding.everywhere and rounding.radius > 20
    found = t.target()
    dot = window.canvas.viewport.to_sheet(t._dot(found[2], found[1][1], rounding.radius))
    drag(window, dot, (dot[0] - 10, dot[1] + 10), (dot[0] - 20, dot[1] + 20), modifier=ALT)
    assert len(next(i for i in s.only_shape.recipe if isinstance(i, Rounding)).own) == 1
    tool(window, "bend")
    option(window, "start_cage")
    t = window.canvas.tool
    _, _, bend, box, m = t.target()
    grip = window.canvas.viewport.to_sheet(t._grips(bend, box, m)[0])
    drag(window, grip, (grip[0] - 20, grip[1] - 20), (grip[0] - 50, grip[1] - 40))
    cage = next(i for i in s.only_shape.recipe if isinstance(i, Bend)).cage
    assert cage[0][0] < -1.2 and cage[5] == pytest.approx((-1 / 3, -1 / 3))
    tool(window, "segment")
    drag(window, (200, 600), (300, 600), (600, 600), modifier=SHIFT)
    tool(window, "widths")
    click(window, 400, 600)
    line = next(i for i in s.only_shape.recipe if isinstance(i, Line))
    assert len(line.profile) == 3
    drag(window, (400, 598.5), (400, 590), (400, 580))
    line = next(i for i in s.only_shape.recipe if isinstance(i, Line))
    assert line.profile[1][1] == pytest.approx(20 / 1.5, rel=0.1) and line.profile[0][1] == 1


def test_nib_follows_a_pens_pressure_and_freehand_closes(window):
    s = window.session
    tool(window, "nib")
    QTest.mousePress(window.canvas, LEFT, NONE, at(window, 200, 400))
    for i in range(1, 60):
        window.canvas._pressure = i / 60
        move(window, (200 + 6 * i, 400), NONE)
    QTest.mouseRelease(window.canvas, LEFT, NONE, at(window, 560, 400))
    window.canvas._pressure = None
    line = s.only_shape.recipe[0]
    assert isinstance(line, Line) and line.profile[2][1] < line.profile[-3][1]
    tool(window, "freehand")
    ring = [(400 + 100 * math.cos(a), 600 + 100 * math.sin(a)) for a in np.linspace(0, 2 * math.pi, 60)]
    drag(window, ring[0], *ring[1:])
    assert s.only_shape.form.runs[0].closed and len(s.only_shape.form.runs[0].points) <= 10


def test_text_is_typed_edited_set_on_a_path_and_changed_in_its_card(window):
    s = window.session
    tool(window, "text")
    click(window, 200, 300)
    QTest.keyClicks(window.canvas, "Kelder e")
    press(window, Qt.Key.Key_Backspace)
    press(window, Qt.Key.Key_Home)
    press(window, Qt.Key.Key_Delete)
    QTest.keyClicks(window.canvas, "k")
    press(window, Qt.Key.Key_Escape)
    assert s.only_shape.form.text == "kelder " and s.history.undo_label == "type text"
    word = s.selection[0]
    window.recipe.parameters._set_family("Zilla Slab")
    assert (find(s.document, word).form.family, find(s.document, word).form.style) == ("Zilla Slab", "Bold")
    tool(window, "ellipse")
    drag(window, (400, 600), (450, 650), (500, 700), modifier=ALT | SHIFT)
    s.select((word, s.selection[0]))
    assert window.registry.run("object.text_on_path")
    assert find(s.document, word).form.path is not None
    tool(window, "points")
    assert window.canvas.tool.target() is not None, "the path under a text is edited by its points"
    assert window.registry.run("object.text_off_path")
    tool(window, "text")
    click(window, 650, 100)
    press(window, Qt.Key.Key_Escape)
    assert len(s.document.root.children) == 2, "a text without letters leaves nothing"


def test_snapping_is_named_and_can_be_switched_off(window):
    s = window.session
    s.open(Document(root=Group(0, "pile", (Shape(1, "a", circle(300, 300, 100), (solid("#2b8577"),)), Shape(2, "b", circle(600, 330, 50), (solid("#c8402a"),)))), next_id=3), None, "d")  # fmt: skip
    tool(window, "segment")
    QTest.mouseMove(window.canvas, at(window, 401, 302))
    move(window, (401, 302), NONE)
    window.canvas.tool.hover(type(window.canvas)._pointer(window.canvas, _event(window, 401, 302)))
    assert window.canvas.snapped.note == "point"
    drag(window, (401, 302), (500, 350), (552, 331))
    assert s.only_shape.form.start == pytest.approx((400, 300), abs=1e-6)
    assert s.only_shape.form.end == pytest.approx((550, 330), abs=1e-6)
    press(window, Qt.Key.Key_N)
    assert not s.snapping
    tool(window, "move")
    s.select((2,))
    drag(window, (600, 330), (600, 320), (600, 303))
    assert s.document.root.children[1].transform[5] == pytest.approx(-27, abs=1.5)
    press(window, Qt.Key.Key_N)
    drag(window, (600, 303), (600, 302), (600, 301.5))
    drag(window, (600, 302), (600, 310), (600, 306))
    box = objects.selection_box(s.document, (2,))
    assert (box[1] + box[3]) / 2 == pytest.approx(300, abs=0.01), "it falls into line with the other's centre"


def _event(window, x, y):
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent

    place = QPointF(at(window, x, y))
    return QMouseEvent(QEvent.Type.MouseMove, place, window.canvas.mapToGlobal(place), LEFT, LEFT, NONE)


def test_rulers_give_guides_and_references_are_placed_levelled_and_dimmed(window, tmp_path, qtbot):
    s = window.session
    window.registry.run("view.rulers")
    QTest.mousePress(window.canvas, LEFT, NONE, QPoint(200, 8))
    move(window, (300, 250), NONE)
    QTest.mouseRelease(window.canvas, LEFT, NONE, at(window, 300, 250))
    assert s.document.guides == (GuideLine(s.document.guides[0].at, 0.0),)
    assert s.document.guides[0].at[1] == pytest.approx(250, abs=1.5)
    Pillow.new("RGB", (600, 400), "#998877").save(tmp_path / "sketch.jpg")
    assert window.placing.place_file(tmp_path / "sketch.jpg")
    node = s.first
    assert isinstance(node, Image) and s.document.root.children[0] is node
    tool(window, "level")
    drag(window, (200, 400), (300, 405), (500, 430))
    m = s.first.transform
    assert math.degrees(math.atan2(m[1], m[0])) == pytest.approx(-math.degrees(math.atan2(30, 300)), abs=0.3)
    assert window.registry.run("object.dim") and s.first.opacity == pytest.approx(0.35)
    settle(qtbot, window)
    (tmp_path / "bad.png").write_bytes(b"x")
    assert not window.placing.place_file(tmp_path / "bad.png")
    assert "bad.png" in window._notice_text.text()


def test_the_clipboard_speaks_svg_and_png_and_pastes_in_place(window, tmp_path):
    s = window.session
    tool(window, "ellipse")
    drag(window, (300, 300), (350, 350), (400, 400))
    press(window, Qt.Key.Key_C, CTRL)
    first = window.clipboard.copied._process
    press(window, Qt.Key.Key_C, CTRL)
    assert not first.is_alive(), "forms of what is no longer on the clipboard are not made"
    mime = QGuiApplication.clipboard().mimeData()
    assert b"<svg" in bytes(mime.data("image/svg+xml").data()) and "<svg" in mime.text()
    assert not QImage(mime.imageData()).isNull() and mime.hasImage()
    press(window, Qt.Key.Key_V, CTRL | SHIFT)
    assert objects.selection_box(s.document, s.selection) == pytest.approx(objects.selection_box(s.document, [1]))
    assert window.registry.run("edit.duplicates") and len(s.selection) == 1
    press(window, Qt.Key.Key_Delete)
    foreign = QMimeData()
    foreign.setText(
        '<svg xmlns="http://www.w3.org/2000/svg"><g filter="url(#x)"><rect x="9" y="9" width="50" height="30" fill="red"/></g></svg>'
    )
    QGuiApplication.clipboard().setMimeData(foreign)
    press(window, Qt.Key.Key_V, CTRL)
    assert isinstance(s.first, Group) and "filters" in window._notice_text.text()
    (tmp_path / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 60"><circle cx="30" cy="30" r="20"/></svg>'
    )
    s.history.mark_saved()
    assert window.files.load(str(tmp_path / "a.svg")) and s.document.sheet.width == 90
    QGuiApplication.clipboard().clear()


def test_isolation_again_select_same_and_a_pile_of_five_thousand(window, qtbot):
    s = window.session
    tiles = tuple(
        Shape(i + 10, f"tile {i}", circle(10 + i % 70 * 11, 10 + i // 70 * 11, 4), (solid("#3a6ea8"),))
        for i in range(5000)
    )
    group = Group(
        1,
        "pair",
        (
            Shape(2, "a", circle(300, 300, 60), (solid("#c8402a"),)),
            Shape(3, "b", circle(420, 300, 60), (solid("#c8402a"),)),
        ),
    )
    s.open(Document(root=Group(0, "pile", (*tiles, group)), next_id=6000), None, "many")
    assert len(window.pile._items) == 5003
    window.pile.search.setText("tile 77 circle")
    window.pile.search.setText("pair")
    shown = [i for i in window.pile._items.values() if not i.isHidden()]
    assert len(shown) <= 3
    window.pile.search.clear()
    settle(qtbot, window)
    tool(window, "move")
    click(window, 300, 300)
    assert s.selection == (1,)
    press(window, Qt.Key.Key_I, CTRL)
    click(window, 300, 300)
    assert s.selection == (2,), "inside the isolated branch its parts are single objects"
    click(window, 100, 700)
    assert s.selection == ()
    s.select((2,))
    drag(window, (300, 300), (310, 300), (300, 340))
    first = find(s.document, 2).transform[5]
    press(window, Qt.Key.Key_D, CTRL | SHIFT)
    assert find(s.document, 2).transform[5] == pytest.approx(2 * first)
    assert window.registry.run("edit.same_paint") and set(s.selection) == {2, 3}
    press(window, Qt.Key.Key_I, CTRL)
    assert s.isolated is None
    settle(qtbot, window)
