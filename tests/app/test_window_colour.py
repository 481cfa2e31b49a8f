"""Colour by hand in the real window: spindle, eyedropper, palette, recolouring, meshes from a photograph, blends."""

import io

import msgspec
import numpy as np
import pytest
from PIL import Image as Pillow
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest

from agreement import unpacked
from driving import click, double, option, tool
from gestures import (
    ALT,
    FADE,
    LEFT,
    SHIFT,
    at,
    bar,
    drag,
    paint,
    paint_editor_of,
    photographed,
    press,
    put,
    settle,
    swatch_data,
)
from volumen.app.commands.colour_acts import ColourActs
from volumen.app.state.colouring import give_gradient
from volumen.compose.scene import build
from volumen.edit import palette
from volumen.formats.pdf.write import pdf_bytes
from volumen.model.ingredients import Fill, Line
from volumen.model.make import circle, solid
from volumen.model.nodes import Group, RectangleForm, SegmentForm, Shape
from volumen.model.tree import find
from volumen.outline.making import shown_children
from volumen.outline.steps import steps_of
from volumen.shading.mesh import folded
from volumen.shading.mesh_paints import from_paint
from volumen.shading.paint import Along, Conic, Inward, Linear, MeshPaint, Radial, Solid, colour


def test_spindle_moves_ends_stops_midpoints_and_adds_and_removes(window):
    s = window.session
    put(window, bar())
    s.select((1,))
    tool(window, "spindle")
    s.snapping = False
    drag(window, (300, 200), (280, 220), (260, 240))
    assert paint(window).end == pytest.approx((260, 240), abs=1.5)
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    double(window, 200, 200)
    assert len(paint(window).stops) == 3 and s.active_stop == 1
    r, _, b, _ = msgspec.structs.astuple(paint(window).stops[1].colour)
    assert 0.1 < r < 0.75 and 0.17 < b < 0.3, "the colour already there"
    drag(window, (150, 200), (140, 200), (120, 200))
    assert paint(window).stops[0].middle < 0.35
    press(window, Qt.Key.Key_Delete)
    assert len(paint(window).stops) == 2
    drag(window, (130, 170), (160, 180), (220, 170))  # across the shape: laid anew
    assert paint(window).start == pytest.approx((130, 170), abs=2) and paint(window).end == pytest.approx(
        (220, 170), abs=2
    )


def test_spindle_turns_into_the_lamp_and_makes_an_ellipse(window):
    s = window.session
    put(window, bar())
    s.select((1,))
    tool(window, "spindle")
    x, y = s.document.lamp.away
    drag(window, (300, 200), (250, 250), (100 + 150 * x + 3, 200 + 150 * y))
    end = np.array(paint(window).end) - (100, 200)
    assert end[0] * y - end[1] * x == pytest.approx(0, abs=0.5), "turned into the light's direction"
    window.recipe.editor.open_first()
    editor = paint_editor_of(window)
    QTest.mouseClick(editor.buttons[Radial], LEFT)
    s.snapping = False
    assert isinstance(paint(window), Radial)
    centre, r = paint(window).centre, paint(window).radius
    drag(window, (centre[0], centre[1] + r), (centre[0], centre[1] + r * 0.7), (centre[0], centre[1] + r / 2))
    assert np.hypot(*paint(window).transform[2:4]) == pytest.approx(0.5, abs=0.05)


def test_kinds_of_paint_spread_grain_and_reversing(window):
    s = window.session
    put(window, bar())
    s.select((1,))
    window.recipe.editor.toggle(0)
    QTest.mouseClick(paint_editor_of(window).acts["reverse"], LEFT)
    assert paint(window).stops[0].colour == colour("#0f4a49")
    paint_editor_of(window).spread.activated.emit(1)
    assert paint(window).spread == "reflect"
    paint_editor_of(window).mix.activated.emit(1)
    assert not paint(window).oklab
    paint_editor_of(window).grain.done.emit(0.1)
    assert paint(window).grain.amount == pytest.approx(0.1)
    for label, kind in (("conic", Conic), ("inwards", Inward), ("along line", Along)):
        editor = paint_editor_of(window)
        editor._other_chosen(editor.others.findText(label))
        assert isinstance(paint(window), kind) and len(paint(window).stops) == 2 and paint(window).grain is not None
    assert s.document.root.children[0].recipe[0].paint.grain.size == 1.0


def test_one_gradient_across_several_parts_moves_as_one(window):
    s = window.session
    put(window, bar(1, 100), bar(2, 250, (Fill(FADE),)), bar(3, 400, (solid("#ffffff"),)))
    s.select((1, 2, 3))
    tool(window, "spindle")
    option(window, "as_one")
    assert paint(window, 1).start == paint(window, 3).start, "the shapes lie where they were drawn"
    before = paint(window, 3)
    s.snapping = False
    drag(window, before.end, (280, 300), (240, 500))
    assert paint(window, 3).end == paint(window, 1).end != before.end


def test_swatches_keep_follow_and_drop_on_a_stop(window):
    s = window.session
    put(window, bar(1), bar(2, 400, (solid("#2b8577"),)))
    s.select((2,))
    ColourActs(window).keep_colour()
    (kept,) = s.document.palette.swatches
    assert paint(window, 2).swatch == kept.id
    s.select((1,))
    tool(window, "spindle")
    p = window.canvas.viewport.to_canvas((300, 200))
    nx, ny = p[0], p[1] + 13
    data = swatch_data(kept)
    event = QDropEvent(QPointF(nx, ny), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
    window.canvas.dropEvent(event)
    assert paint(window, 1).stops[1].swatch == kept.id and paint(window, 1).stops[1].colour == kept.colour
    window.swatches.edit(kept.id)
    window.swatches._recolour(kept.id, colour("#2040c0"))
    assert paint(window, 2).colour == colour("#2040c0") and paint(window, 1).stops[1].colour == colour("#2040c0")
    window.swatches.edit(None)
    s.select((1,))
    s.set_active(None)
    QTest.mouseClick(window.swatches.grids[0], LEFT, pos=QPoint(8, 8))
    assert isinstance(paint(window, 1), Solid) and paint(window, 1).swatch == kept.id


def test_saved_gradients_stay_linked_on_the_canvas(window):
    s = window.session
    put(window, bar(1), bar(2, 400, (solid("#2b8577"),)))
    s.select((1,))
    tool(window, "spindle")
    option(window, "keep")
    link = paint(window, 1).link
    assert link == s.document.palette.gradients[0].id
    s.select((2,))
    bars = [w for w in window.swatches.widget().children() if type(w).__name__ == "_Bar"]
    QTest.mouseClick(bars[0], LEFT)
    assert paint(window, 2).link == link and paint(window, 2).stops == paint(window, 1).stops
    moved = Shape(9, "moved", RectangleForm(0, 0, 60, 40), (solid("#2b8577"),), transform=(2, 0, 0, 2, 300, 100))
    root = s.document.root
    s.apply(
        "add", msgspec.structs.replace(s.document, root=msgspec.structs.replace(root, children=(*root.children, moved)))
    )
    s.select((9,))
    give_gradient(s, s.document.palette.gradients[0])
    assert paint(window, 9).start == (30, 0) and paint(window, 9).end == (30, 40), "laid in the shape's own coordinates"
    s.snapping = False
    s.select((1,))
    double(window, 200, 200)
    assert len(paint(window, 2).stops) == 3, "a stop more here is a stop more everywhere"
    option(window, "detach")
    assert paint(window, 1).link is None
    assert palette.saved_gradient(s.document, link) is not None


def test_eyedropper_takes_colour_paint_look_and_from_beside_the_canvas(window, qtbot):
    s = window.session
    put(
        window,
        bar(1, 100, (solid("#c8402a"), Line(Solid(colour("#000000")), 4.0))),
        bar(2, 300, (solid("#ffffff"),)),
        bar(3, 500),
    )
    settle(qtbot, window)
    s.select((2,))
    tool(window, "eyedropper")
    click(window, 200, 150)
    assert np.abs(np.array(paint(window, 2).colour.rgb) - colour("#c8402a").rgb).max() < 0.01
    QTest.mouseClick(window.canvas, LEFT, SHIFT, at(window, 200, 550))
    assert isinstance(paint(window, 2), Linear)
    QTest.mouseClick(window.canvas, LEFT, ALT, at(window, 200, 150))
    assert [type(i) for i in find(s.document, 2).recipe] == [Fill, Line]
    QTest.mousePress(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, 200, 350))
    swatches = window.swatches.grids[0]
    place = window.canvas.mapFromGlobal(swatches.mapToGlobal(swatches.place(0).center()))
    QTest.mouseMove(window.canvas, place)
    _move_held(window, place)
    QTest.mouseRelease(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, place)
    assert np.abs(np.array(paint(window, 2).colour.rgb) - colour("#0f4a49").rgb).max() < 0.02


def _move_held(window, place):
    from PySide6.QtCore import QEvent
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    where = QPointF(place)
    event = QMouseEvent(
        QEvent.Type.MouseMove, where, window.canvas.mapToGlobal(where), LEFT, LEFT, Qt.KeyboardModifier.NoModifier
    )
    QApplication.sendEvent(window.canvas, event)


def test_recolouring_shows_at_once_and_can_be_taken_back(window):
    s = window.session
    put(window, bar(1, 100, (solid("#c8402a"),)))
    s.select((1,))
    tool(window, "recolour")
    before = paint(window)
    window.toolbox.options.sliders["hue"].preview.emit(120.0)
    assert paint(window) != before and s.history.in_gesture
    option(window, "back")
    assert paint(window) == before
    window.toolbox.options.sliders["hue"].done.emit(120.0)
    option(window, "keep")
    assert paint(window).colour != before.colour and not s.history.in_gesture


# -- J18


def test_j18_mesh_from_a_photograph(window, qtbot, tmp_path):
    """Lay lines that follow the outline, choose, colour, move, put lines in, fit, mend, and print as a true mesh."""
    s = window.session
    photographed(window)
    s.select((1,))
    tool(window, "mesh")
    window.toolbox.options.sliders["columns"].done.emit(5.0)
    window.toolbox.options.sliders["rows"].done.emit(5.0)
    option(window, "lay")
    assert isinstance(paint(window), MeshPaint) and paint(window).columns == 5
    mesh = from_paint(paint(window))
    x, y = mesh.at[2, 2]
    s.snapping = False
    drag(window, (x, y), (x + 4, y + 3), (x + 10, y + 6))
    moved = from_paint(paint(window)).at[2, 2]
    assert moved == pytest.approx((x + 10, y + 6), abs=1.5) and s.mesh_points == ((2, 2),)
    option(window, "whole_row")
    assert len(s.mesh_points) == 6
    lasso = [(x - 20, y - 20), (x + 35, y - 20), (x + 35, y + 35), (x - 20, y + 35), (x - 20, y - 20)]
    drag(window, *lasso)
    assert s.mesh_points == ((2, 2),)
    from volumen.app.state.colouring import give_colour

    give_colour(s, colour("#ffffff"))
    assert paint(window).points[2 * 6 + 2].colour.r > 0.99
    edge = from_paint(paint(window)).at[0, :, :]
    along = (edge[2] + edge[3]) / 2
    place = window.canvas.tool
    assert place.found() is not None
    from volumen.app.canvas.tools.mesh_shape import nearest_line

    shown, _ = place.shown()
    px = window.canvas.viewport.to_canvas((float(along[0]), float(along[1])))
    line = nearest_line(shown, px)
    assert line is not None and line[0] == "row"
    sheet = window.canvas.viewport.to_sheet(px)
    double(window, *sheet)
    assert paint(window).columns == 6, "a line put across the one under the pointer"
    press(window, Qt.Key.Key_Escape)
    option(window, "all_points")
    option(window, "relax")
    place.values["move_points"] = True
    option(window, "fit")
    qtbot.waitUntil(lambda: place.job is None, timeout=30000)
    assert "differs from the picture" in s.note and place.error is not None
    assert float(s.note.split(" by ")[1].split()[0]) < 2.0
    assert not folded(from_paint(paint(window))).any()
    option(window, "mend")
    option(window, "sample")
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    place.values["show_error"] = True
    settle(qtbot, window)
    window.canvas.grab()
    assert b"/ShadingType 7" in unpacked(pdf_bytes(build(s.document)))
    shot = np.asarray(Pillow.open(io.BytesIO(s.document.assets[0].data)))
    assert shot.shape == (240, 240, 4)


def test_mesh_lines_go_out_creases_and_refusals(window):
    s = window.session
    photographed(window)
    tool(window, "mesh")
    option(window, "lay")
    assert "select one shape" in s.note
    s.select((1,))
    option(window, "lay_gradient")
    assert "gradient first" in s.note
    option(window, "lay_ring")
    assert paint(window).ring
    s.apply("plain", window.session.history.committed)
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    option(window, "lay")
    window.canvas.tool.choose(((1, 1),))
    option(window, "crease")
    assert paint(window).points[5 + 1].crease
    option(window, "whole_column")
    press(window, Qt.Key.Key_Delete)
    assert paint(window).columns == 3
    option(window, "mirror")
    assert "even number" in s.note
    option(window, "whole_row")
    option(window, "smooth")
    option(window, "straight")
    window.canvas.tool.fit()
    window.canvas.tool.job.cancel()
    window.canvas.tool.job.wait()


def test_stepped_blend_spine_hatching_and_shaded_form(window):
    s = window.session
    ends = (
        Shape(1, "a", circle(150, 200, 40), (solid("#000000"),)),
        Shape(2, "b", circle(450, 200, 20), (solid("#ffffff"),)),
    )
    put(window, *ends, Shape(3, "path", SegmentForm((150, 500), (450, 300)), (Line(Solid(colour("#000000")), 1.0),)))
    s.select((1, 2))
    window.registry.run("colour.blend")
    group = s.first
    assert steps_of(group) is not None and len(shown_children(group)) == 9
    window.recipe.editor.change(0, "count", count=3)
    assert len(shown_children(s.first)) == 5
    window.recipe.editor.change(0, "mode", mode="smooth")
    assert len(shown_children(s.first)) > 60
    s.select((group.id, 3))
    window.registry.run("colour.spine")
    assert steps_of(s.first).spine is not None and find(s.document, 3) is None
    tool(window, "match")
    click(window, 150, 160)
    click(window, 470, 200)
    assert steps_of(find(s.document, group.id)).shift != 0
    s.select((group.id,))
    window.registry.run("object.freeze")
    assert len(find(s.document, group.id).children) > 60
    put(window, bar(1, 100, (solid("#c98f35"),)))
    s.select((1,))
    window.registry.run("colour.hatch")
    assert find(s.document, 1).children
    s.select((1,))
    press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    s.select((1,))
    window.registry.run("colour.shade_form")
    assert isinstance(s.first, Group)


def test_palettes_from_artwork_picture_and_files(window, tmp_path):
    s = window.session
    photographed(window)
    s.select((1,))
    ColourActs(window).from_selection()
    ColourActs(window).from_picture()
    assert palette.groups(s.document.palette) == ["from the artwork", "photograph"]
    assert len(s.document.palette.swatches) > 5
    ColourActs(window).write_palette_file(tmp_path / "p.json")
    before = len(s.document.palette.swatches)
    ColourActs(window).read_palette_file(tmp_path / "p.json")
    assert len(s.document.palette.swatches) == 2 * before
    ColourActs(window).read_palette_file(tmp_path / "none.css")
    assert window._notice.isVisibleTo(window)
    ColourActs(window).keep_look()
    (look,) = s.document.palette.looks
    window.swatches._give_look(look)
    assert window.swatches.grids and look.recipe == find(s.document, 1).recipe


def test_colour_guide_offers_relatives_and_takes_typed_values(window):
    s = window.session
    put(window, bar(1, 100, (solid("#c8402a"),)))
    s.select((1,))
    window.recipe.editor.toggle(0)
    guide = paint_editor_of(window).colours.guide
    assert len(guide.tones.colours) == 9 and len(guide.lit.colours) == 9
    QTest.mouseClick(guide.tones, LEFT, pos=QPoint(guide.tones.width() - 4, 8))
    assert paint(window).colour.r > 0.9
    guide = paint_editor_of(window).colours.guide
    guide.notation.setCurrentText("press")
    guide._refresh()
    guide._typed(0, 80.0)
    assert paint(window).colour.r < 0.5
    assert "against what lies behind" in paint_editor_of(window).colours.guide.note.text()
