"""The shapes of the jobs, drawn and carved in the real window by mouse and keys; and the tools one by one."""

import math

import numpy as np
import pytest
from PIL import Image as Pillow
from PySide6.QtCore import QMimeData, QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from test_app import ALT, CTRL, LEFT, SHIFT, at, drag, move, press, settle, window  # noqa: F401
from volumen.app.handles import guide_colour
from volumen.build.outline import outline
from volumen.edit import objects
from volumen.geometry.engine import simplified
from volumen.model.ingredients import Bend, Line, Offset, Rim, Rounding, Thickness
from volumen.model.make import circle, solid
from volumen.model.nodes import (
    ArcForm,
    CombinedForm,
    Document,
    Group,
    GuideCircle,
    GuideLine,
    Image,
    PathForm,
    PolygonForm,
    SegmentForm,
    Shape,
    SpiralForm,
    TextForm,
)
from volumen.model.tree import find, walk, world_of

NONE = Qt.KeyboardModifier.NoModifier


def click(window, x, y, modifier=NONE):  # noqa: F811
    QTest.mouseClick(window.canvas, LEFT, modifier, at(window, x, y))


def double(window, x, y):  # noqa: F811
    QTest.mouseClick(window.canvas, LEFT, NONE, at(window, x, y))
    QTest.mouseDClick(window.canvas, LEFT, NONE, at(window, x, y))


def tool(window, name):  # noqa: F811
    """Choose a tool by clicking its row, unfolding the rest and changing the stage where needed."""
    window.take_tool(name)
    row = next(r for r in window.toolbox.rows if r.row.tool == name)
    QTest.mouseClick(row, LEFT)
    assert window.session.tool == name


def row(window, title):  # noqa: F811
    """Click a row that acts at once."""
    window.toolbox.unfolded = True
    window.toolbox.rebuild()
    QTest.mouseClick(next(r for r in window.toolbox.rows if r.row.title == title), LEFT)


def option(window, method):  # noqa: F811
    QApplication.processEvents()  # the buttons were made a moment ago
    QTest.mouseClick(window.toolbox.options.buttons[method], LEFT)


def arrange(window, **values):  # noqa: F811
    """Type numbers into the panel that arranges."""
    panel = window.toolbox.arrange
    for name, value in values.items():
        field = panel.fields[name.replace("_", " ")]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, str(value))
        QTest.keyClick(field, Qt.Key.Key_Return)
    return panel


def area_of(document, node_id):
    node, world = find(document, node_id), world_of(document, node_id)
    return abs(simplified(outline(node, world).transformed(world)).area())


def names(window):  # noqa: F811
    return [n.name for n in window.session.document.root.children]


# -- the six jobs


def test_j01_plate_of_two_circles_repeated_named_and_contoured(window, qtbot):  # noqa: F811
    s = window.session
    tool(window, "ellipse")
    drag(window, (340, 250), (400, 310), (440, 350), modifier=ALT | SHIFT)
    drag(window, (440, 250), (500, 310), (540, 350), modifier=ALT | SHIFT)
    press(window, Qt.Key.Key_A, CTRL)
    press(window, Qt.Key.Key_F3)
    row(window, "Intersect")
    plate = s.only_shape
    assert isinstance(plate.form, CombinedForm) and plate.form.operation == "intersect"
    lens = area_of(s.document, plate.id)
    tool(window, "move")
    drag(window, (390, 200), (390, 190), (390, 170))  # the plate keeps its members
    member = plate.children[0].id
    before = area_of(s.document, plate.id)
    assert before == pytest.approx(lens, rel=1e-6)
    s.apply("move member", objects.transform(s.document, [member], (1, 0, 0, 1, 20.0, 0)))
    assert area_of(s.document, plate.id) != pytest.approx(lens, rel=0.02), "its members stay live"
    row(window, "Offset")
    index = next(i for i, x in enumerate(s.only_shape.recipe) if isinstance(x, Offset))
    window.recipe.change(index, "inset", distance=-10.0, percent=True)
    assert area_of(s.document, plate.id) < before
    box = objects.selection_box(s.document, s.selection)
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    tool(window, "move")
    drag(window, middle, (400, 380), (400, 400), modifier=CTRL)  # the centre that copies turn about
    window.toolbox._toggle_arrange()
    panel = arrange(window, copies=10)
    panel._make_copies()
    assert len(s.document.root.children) == 10
    press(window, Qt.Key.Key_A, CTRL)
    press(window, Qt.Key.Key_G, CTRL)
    window.recipe.add(Rim(distance=12.0))
    group = s.first
    assert isinstance(group, Group) and isinstance(group.recipe[-1], Rim)
    tool(window, "text")
    click(window, 250, 760)
    QTest.keyClicks(window.canvas, "URCHIN")
    press(window, Qt.Key.Key_Escape)
    assert s.only_shape.form.text == "URCHIN"
    row_before = len(list(walk(s.document.root)))
    press(window, Qt.Key.Key_F3)
    row(window, "Form to path")
    word = s.first.children[0]
    assert [c.name for c in word.children] == list("URCHIN") and len(list(walk(s.document.root))) == row_before + 7
    tool(window, "drop")
    click(window, 700, 100)
    tool(window, "bend")
    option(window, "start_arc")
    assert isinstance(s.only_shape.recipe[-1], Bend) or any(isinstance(i, Bend) for i in s.only_shape.recipe)
    settle(qtbot, window)


def test_j02_circles_tangents_areas_and_fewer_points(window):  # noqa: F811
    s = window.session
    tool(window, "guides")
    drag(window, (300, 300), (350, 300), (400, 300), modifier=ALT)
    drag(window, (100, 500), (300, 500), (700, 500))
    assert isinstance(s.document.guides[0], GuideCircle) and isinstance(s.document.guides[1], GuideLine)
    assert s.document.guides[0].radius == pytest.approx(100, abs=1.5)
    before = guide_colour()
    window.registry.run("view.guide_colour")
    assert guide_colour() != before
    tool(window, "pen")
    click(window, 300, 600)
    tangent = (300 + 100 * math.cos(math.asin(100 / 300)), 300 + 100 * 100 / 300)
    click(window, tangent[0] + 2, tangent[1] + 1)
    press(window, Qt.Key.Key_Return)
    end = s.only_shape.form.runs[0].points[-1].at
    to = np.array(end) - (300, 600)
    radial = np.array(end) - (300, 300)
    assert abs(to @ radial) / np.hypot(*to) / np.hypot(*radial) < 0.02, "the line touches the circle"
    press(window, Qt.Key.Key_Delete)
    tool(window, "ellipse")
    for x in (300, 400):
        drag(window, (x, 300), (x + 50, 350), (x + 80, 380), modifier=ALT | SHIFT)
    press(window, Qt.Key.Key_A, CTRL)
    tool(window, "areas")
    drag(window, (350, 300), (400, 300), (450, 300))
    merged = s.only_shape
    assert merged.name == "merged areas"
    assert area_of(s.document, merged.id) == pytest.approx(math.pi * 80**2, rel=0.03)
    option(window, "clear")
    assert names(window) == ["merged areas"]
    tool(window, "points")
    count = len(s.only_shape.form.runs[0].points)
    double(window, *_on_outline(s))
    assert len(s.only_shape.form.runs[0].points) == count + 1
    option(window, "tidy")
    assert len(s.only_shape.form.runs[0].points) <= count


def _on_outline(session):
    """A place on the selected outline between two points, on the sheet."""
    from volumen.geometry.curve import evaluate

    shape = session.only_shape
    path = outline(shape).transformed(world_of(session.document, shape.id))
    return tuple(evaluate(path.contours[0].segments[:1], np.array([0.4]))[0])


def test_j12_thick_lines_become_numerals_with_even_insets(window):  # noqa: F811
    s = window.session
    tool(window, "segment")
    drag(window, (300, 200), (300, 300), (300, 500), modifier=SHIFT)
    line = s.only_shape
    assert isinstance(line.form, SegmentForm) and line.form.start[0] == pytest.approx(line.form.end[0])
    press(window, Qt.Key.Key_F3)
    row(window, "Thickness")
    index = next(i for i, x in enumerate(s.only_shape.recipe) if isinstance(x, Thickness))
    window.recipe.change(index, "width", width=60.0)
    row(window, "Form to path")
    assert isinstance(s.only_shape.form, PathForm) and not any(isinstance(i, Thickness) for i in s.only_shape.recipe)
    bar = s.only_shape.id
    assert area_of(s.document, bar) == pytest.approx(60 * 300 + math.pi * 900, rel=0.02)
    tool(window, "ellipse")
    drag(window, (300, 420), (360, 480), (420, 540), modifier=ALT | SHIFT)
    s.select((bar, s.selection[0]))
    press(window, Qt.Key.Key_F3)
    row(window, "Cut hidden")
    split = s.only_shape
    assert split.form.operation == "cut hidden"
    press(window, Qt.Key.Key_M, CTRL)
    row(window, "Freeze")
    assert isinstance(s.document.root.children[-1], Group)
    press(window, Qt.Key.Key_Z, CTRL)
    row(window, "Release")
    assert len(s.document.root.children) == 2


def test_j13_one_area_of_a_rosette_turned_round_its_centre(window):  # noqa: F811
    s = window.session
    tool(window, "ellipse")
    drag(window, (400, 300), (450, 350), (500, 400), modifier=ALT | SHIFT)
    tool(window, "move")
    box = objects.selection_box(s.document, s.selection)
    bottom = ((box[0] + box[2]) / 2, box[3])
    drag(window, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), (410, 390), bottom, modifier=CTRL)
    assert window.arranger.centre() == pytest.approx(bottom, abs=0.01), "the centre snaps to the circle's lowest point"
    window.toolbox._toggle_arrange()
    arrange(window, copies=6)._make_copies()
    assert len(s.document.root.children) == 6
    tool(window, "areas")
    net, _ = window.canvas.tool.net()
    assert len(net.areas) == 18
    click(window, bottom[0] + 60, bottom[1] - 2)
    comma = s.only_shape
    assert comma is not None and comma.name == "area"
    option(window, "clear")
    assert names(window) == ["area"]


def test_j14_strokes_past_the_boundary_and_what_is_outside_removed(window):  # noqa: F811
    s = window.session
    window.canvas.tools["rectangle"].values["radius"] = 60.0
    tool(window, "rectangle")
    drag(window, (200, 200), (400, 400), (600, 600), modifier=SHIFT)
    assert s.only_shape.form.radius == 60
    tool(window, "freehand")
    way = [(x, 420 + 60 * math.sin(x / 70)) for x in range(140, 680, 10)]
    drag(window, (130, 420), *way)
    assert isinstance(s.only_shape.form, PathForm) and len(s.only_shape.form.runs[0].points) < 25
    press(window, Qt.Key.Key_A, CTRL)
    tool(window, "areas")
    assert len(window.canvas.tool.net()[0].areas) == 2
    click(window, 400, 550)
    sea = s.only_shape
    low = objects.selection_box(s.document, [sea.id])
    assert low[3] == pytest.approx(600, abs=3) and low[1] > 340, "only what lies under the stroke and inside the tile"
    press(window, Qt.Key.Key_Z, CTRL)
    press(window, Qt.Key.Key_A, CTRL)
    drag(window, (400, 250), (405, 255), (410, 260), modifier=ALT)
    tile = find(s.document, 1)
    assert area_of(s.document, tile.id) < 400 * 400 * 0.75, "the area above was taken out of the tile"


def test_j03_bars_birds_lettering_and_knockouts(window):  # noqa: F811
    s = window.session
    tool(window, "rectangle")
    drag(window, (200, 150), (400, 400), (600, 650))
    frame = s.selection[0]
    for y in (250, 560):
        drag(window, (250, y), (400, y + 5), (550, y + 10))
    first, last = (c.id for c in s.document.root.children[-2:])
    s.select((first,))
    window.toolbox._toggle_arrange()
    arrange(window, copies=5, move_y=40)._make_copies()
    bars = [c.id for c in s.document.root.children if c.id != frame]
    s.select(tuple(bars))
    window.arranger.distribute("down", "gaps")
    tops = sorted(objects.selection_box(s.document, [b])[1] for b in bars)
    assert np.ptp(np.diff(tops)) < 0.01 and len(bars) == 6 and last in bars
    tool(window, "text")
    click(window, 260, 200)
    QTest.keyClicks(window.canvas, "SOUND")
    press(window, Qt.Key.Key_Escape)
    word = s.selection[0]
    s.select((frame, word))
    window.arranger.align("centre", "the first chosen")
    a, b = (objects.selection_box(s.document, [i]) for i in (frame, word))
    assert (a[0] + a[2]) / 2 == pytest.approx((b[0] + b[2]) / 2, abs=1e-6)
    s.select((word,))
    press(window, Qt.Key.Key_M, CTRL)
    assert find(s.document, word).transform[0] < 0
    press(window, Qt.Key.Key_F3)
    row(window, "Knockout")
    assert find(s.document, word).knockout
    text = find(s.document, word).form
    assert isinstance(text, TextForm) and text.text == "SOUND", "a knockout stays text"


# -- tools and panels


def test_primitives_by_typed_size_and_by_points(window):  # noqa: F811
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


def length_of(shape):
    from volumen.geometry.curve import length

    return sum(length(c) for c in outline(shape).contours)


def test_pen_breaks_moves_continues_and_joins(window):  # noqa: F811
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


def test_points_by_lasso_numbers_and_buttons(window):  # noqa: F811
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
    x, y = _on_outline(s)
    before = s.only_shape.form
    drag(window, (x, y), (x + 5, y + 20), (x + 10, y + 40))
    assert s.only_shape.form != before and len(s.only_shape.form.runs[0].points) == count - 1
    option(window, "reverse")
    option(window, "simplify")
    assert "points" in s.note


def test_rounding_widths_and_cage_are_dragged_on_the_canvas(window):  # noqa: F811
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


def test_nib_follows_a_pens_pressure_and_freehand_closes(window):  # noqa: F811
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


def test_text_is_typed_edited_set_on_a_path_and_changed_in_its_card(window):  # noqa: F811
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


def test_snapping_is_named_and_can_be_switched_off(window):  # noqa: F811
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


def _event(window, x, y):  # noqa: F811
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent

    place = QPointF(at(window, x, y))
    return QMouseEvent(QEvent.Type.MouseMove, place, window.canvas.mapToGlobal(place), LEFT, LEFT, NONE)


def test_rulers_give_guides_and_references_are_placed_levelled_and_dimmed(window, tmp_path, qtbot):  # noqa: F811
    s = window.session
    window.registry.run("view.rulers")
    QTest.mousePress(window.canvas, LEFT, NONE, QPoint(200, 8))
    move(window, (300, 250), NONE)
    QTest.mouseRelease(window.canvas, LEFT, NONE, at(window, 300, 250))
    assert s.document.guides == (GuideLine(s.document.guides[0].at, 0.0),)
    assert s.document.guides[0].at[1] == pytest.approx(250, abs=1.5)
    Pillow.new("RGB", (600, 400), "#998877").save(tmp_path / "sketch.jpg")
    assert window.exchange.place_file(tmp_path / "sketch.jpg")
    node = s.first
    assert isinstance(node, Image) and s.document.root.children[0] is node
    tool(window, "level")
    drag(window, (200, 400), (300, 405), (500, 430))
    m = s.first.transform
    assert math.degrees(math.atan2(m[1], m[0])) == pytest.approx(-math.degrees(math.atan2(30, 300)), abs=0.3)
    assert window.registry.run("object.dim") and s.first.opacity == pytest.approx(0.35)
    settle(qtbot, window)
    (tmp_path / "bad.png").write_bytes(b"x")
    assert not window.exchange.place_file(tmp_path / "bad.png")
    assert "bad.png" in window._notice_text.text()


def test_the_clipboard_speaks_svg_and_png_and_pastes_in_place(window, tmp_path):  # noqa: F811
    s = window.session
    tool(window, "ellipse")
    drag(window, (300, 300), (350, 350), (400, 400))
    press(window, Qt.Key.Key_C, CTRL)
    mime = QGuiApplication.clipboard().mimeData()
    assert b"<svg" in bytes(mime.data("image/svg+xml").data()) and mime.hasImage()
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


def test_isolation_again_select_same_and_a_pile_of_five_thousand(window, qtbot):  # noqa: F811
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
