"""The colour of four jobs by hand in the real window, from flat shapes to finished gradients."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from driving import arrange, click, option, tool
from gestures import (
    ALT,
    CTRL,
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
from volumen.app.canvas.tools.spindle_shape import normal_at
from volumen.app.commands.colour_acts import ColourActs
from volumen.colour.difference import srgb_difference
from volumen.edit import objects
from volumen.edit.placing import laid_recipe, own_box
from volumen.model.ingredients import Fill
from volumen.model.make import circle, linear, solid
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import find
from volumen.shading.paint import Linear, Radial

METAL = linear((100, 0), (300, 0), (0, "#5d4a2b"), (0.5, "#f3dfa6"), (1, "#7a5a22"))


def drop(window, swatch, x, y, beside=(0, 0)):
    """Drag a swatch from the palette to a place on the sheet, a few pixels beside it."""
    px, py = window.canvas.viewport.to_canvas((x, y))
    where, none = QPointF(px + beside[0], py + beside[1]), Qt.KeyboardModifier.NoModifier
    data = swatch_data(swatch)  # the event does not keep it alive
    window.canvas.dropEvent(QDropEvent(where, Qt.DropAction.CopyAction, data, LEFT, none))


def test_j02_colours_off_the_sketch_one_metal_gradient_in_every_part(window, qtbot):
    s = window.session
    photographed(window)  # stands for the scanned sketch
    ColourActs(window).from_picture()
    picked = s.document.palette.swatches
    assert len(picked) >= 5 and {x.group for x in picked} == {"photograph"}, "a group of the palette, off the sketch"
    put(window, bar(1, 100, (solid("#999999"),)), bar(2, 250, (solid("#888888"),)), bar(3, 400, (solid("#777777"),)),
        palette=s.document.palette)  # fmt: skip
    s.select((1, 2, 3))
    window.recipe.editor.toggle(0)
    QTest.mouseClick(paint_editor_of(window).buttons[Linear], LEFT)
    tops = [find(s.document, i).recipe[-1].paint for i in (1, 2, 3)]
    assert all(isinstance(p, Linear) for p in tops), "all parts at once"
    s.select((2,))
    QTest.mouseClick(paint_editor_of(window).acts["reverse"], LEFT)
    turned = find(s.document, 2).recipe[-1].paint
    assert turned.stops[0].colour == tops[1].stops[-1].colour and find(s.document, 1).recipe[-1].paint == tops[0]
    tool(window, "spindle")
    nx, ny = normal_at(turned, window.canvas.viewport.affine(), 1.0)  # the drops hang beside the line
    drop(window, picked[0], *turned.end, beside=(13 * nx, 13 * ny))
    assert find(s.document, 2).recipe[-1].paint.stops[2].swatch == picked[0].id, "the stop follows the swatch"
    s.snapping = False
    (ax, ay), (bx, by) = turned.start, turned.end  # three stops: the first midpoint lies at a quarter
    middle, later = (ax * 0.75 + bx * 0.25, ay * 0.75 + by * 0.25), (ax * 0.65 + bx * 0.35, ay * 0.65 + by * 0.35)
    drag(window, middle, middle, later)
    assert find(s.document, 2).recipe[-1].paint.stops[0].middle == pytest.approx(0.7, abs=0.03)
    settle(qtbot, window)
    s.select((1, 3))
    tool(window, "eyedropper")
    QTest.mouseClick(window.canvas, LEFT, ALT, at(window, 120, 300))
    looks = [find(s.document, i) for i in (1, 2, 3)]
    given = [laid_recipe(s.document, looks[1].recipe, own_box(looks[1]), n) for n in looks]
    assert [n.recipe for n in looks] == given, "one part's look on the others, in the box of each"
    s.select((1, 2, 3))
    tool(window, "spindle")
    option(window, "as_one")
    drag(window, (200, 90), (200, 200), (200, 510))
    starts = {find(s.document, i).recipe[-1].paint.start for i in (1, 2, 3)}
    assert len(starts) == 1, "one gradient runs across all three"
    s.select((1,))
    press(window, Qt.Key.Key_Up, CTRL | SHIFT)
    assert [c.id for c in s.document.root.children] == [2, 3, 1]


def test_j12_bands_of_one_gradient_running_both_ways(window):
    s = window.session
    put(window, bar(1, 100, (Fill(METAL),)), bar(2, 220, (solid("#888888"),)))
    s.select((1,))
    tool(window, "spindle")
    option(window, "keep")
    saved = s.document.palette.gradients[0]
    s.select((2,))
    bars = [w for w in window.swatches.widget().children() if type(w).__name__ == "_Bar"]
    QTest.mouseClick(bars[0], LEFT)
    assert paint(window, 2).link == saved.id and paint(window, 2).stops == paint(window, 1).stops
    laid = paint(window, 2)
    s.snapping = False
    drag(window, laid.start, (60, 250), (300, 270))
    drag(window, laid.end, (290, 250), (100, 270))
    a, b = paint(window, 1), paint(window, 2)
    assert a.start[0] < a.end[0] and b.start[0] > b.end[0] + 100, "the next part runs the other way"
    s.select((1, 2))
    press(window, Qt.Key.Key_M, CTRL | ALT)
    copies = [c for c in s.document.root.children if c.id not in (1, 2)]
    assert len(copies) == 2 and all(c.transform[0] < 0 for c in copies), "mirrored for another numeral"
    assert [c.recipe[0].paint.link for c in copies] == [saved.id] * 2


def test_j13_parts_of_one_rosette_take_colour_direction_and_grain_in_one_place(window):
    s = window.session
    put(window, Shape(1, "part", RectangleForm(330, 120, 140, 200, 60), (Fill(METAL),)))
    s.select((1,))
    tool(window, "move")
    drag(window, (400, 220), (400, 380), (400, 400), modifier=CTRL)  # the centre that copies turn about
    window.toolbox._toggle_arrange()
    panel = arrange(window, copies=6)
    panel.linked.setChecked(True)
    panel._make_copies()
    parts = s.selection
    assert len(parts) == 6
    s.select(parts[:1])  # whatever is done to one is done to all
    tool(window, "spindle")
    s.snapping = False
    drag(window, (350, 170), (380, 200), (455, 280))
    paints = [paint(window, i) for i in parts]
    assert all(p.start == paints[0].start and p.end == paints[0].end for p in paints), "each turned with its part"
    assert paints[0].start == pytest.approx((350, 170), abs=2)
    place = lambda t: tuple(np.array(paints[0].start) * (1 - t) + np.array(paints[0].end) * t)  # noqa: E731
    drag(window, place(0.25), place(0.3), place(0.4))  # the midpoints pulled in to the light middle
    drag(window, place(0.75), place(0.7), place(0.6))
    stops = paint(window, parts[4]).stops
    assert stops[0].middle == pytest.approx(0.8, abs=0.05) and stops[1].middle == pytest.approx(0.2, abs=0.05)
    window.recipe.editor.open_first()
    paint_editor_of(window).grain.done.emit(0.08)
    click(window, *place(0.5))
    ColourActs(window).keep_colour()
    assert all(paint(window, i).grain.amount == pytest.approx(0.08) for i in parts)
    before = paint(window, parts[2]).stops
    tool(window, "recolour")
    QApplication.processEvents()
    window.canvas.tool.values["hue"] = 120.0
    window.canvas.tool.option_changed("hue", True)
    option(window, "keep")
    after = [paint(window, i).stops for i in parts]
    assert len(set(after)) == 1 and after[0] != before, "one change, six parts"
    s.select(parts[3:4])
    window.registry.run("object.unlink")
    s.apply("opacity", objects.set_fields(s.document, parts[:1], opacity=0.5))
    assert [find(s.document, i).opacity for i in parts] == [0.5, 0.5, 0.5, 1.0, 0.5, 0.5]
    window.registry.run("edit.undo")
    assert {find(s.document, i).opacity for i in parts} == {1.0}, "the others went back with it"


def test_j14_radial_set_on_the_canvas_flat_beside_shaded_and_small(window, qtbot):
    s = window.session
    put(window, Group(9, "icon", (Shape(1, "sea", circle(300, 300, 150), (solid("#1f7f8c"),)),)))
    s.select((1,))
    window.recipe.editor.open_first()
    QTest.mouseClick(paint_editor_of(window).buttons[Radial], LEFT)
    tool(window, "spindle")
    s.snapping = False
    made = paint(window)
    assert isinstance(made, Radial)
    drag(window, made.centre, (280, 270), (250, 240))  # the centre
    assert paint(window).centre == pytest.approx((250, 240), abs=2)
    moved = paint(window)
    drag(window, (moved.centre[0] + moved.radius, moved.centre[1]), (430, 240), (450, 240))  # the radius
    assert paint(window).radius * np.hypot(*paint(window).transform[:2]) == pytest.approx(200, abs=3)
    s.select((9,))
    press(window, Qt.Key.Key_D, CTRL)
    copy = next(c for c in s.document.root.children if c.id != 9)
    s.set_flat(True)
    s.set_flat(False)
    assert copy.children[0].recipe == find(s.document, 1).recipe, "flat and shaded side by side"
    press(window, Qt.Key.Key_F6)
    qtbot.waitUntil(lambda: len(window.wall.small) >= 4, timeout=20000)
    assert {64, 32, 16} <= set(window.wall.small) and not window.wall.small[16].isNull()


def test_a_line_over_the_photograph_becomes_a_gradient(window, qtbot):
    s = window.session
    photographed(window)
    picture, _ = s.document.root.children
    put(window, picture, bar(1, 450, (solid("#808080"),)), assets=s.document.assets)
    settle(qtbot, window)
    s.select((1,))
    tool(window, "ramp")
    drag(window, (100, 180), (150, 200), (260, 260))
    made = find(s.document, 1).recipe[0].paint
    assert isinstance(made, Linear) and 3 <= len(made.stops) <= 7
    drawn = find(s.document, 1)
    press(window, Qt.Key.Key_Z, CTRL)
    assert find(s.document, 1).recipe != drawn.recipe, "one step of undo"
    assert srgb_difference([made.stops[0].colour.rgb], [made.stops[-1].colour.rgb])[0] > 1
    drag(window, (120, 210), (121, 211), (121, 211))
    assert window.canvas.tool.start is None
    before, window.link.image = s.document, QImage()  # nothing is drawn yet
    drag(window, (100, 180), (150, 200), (260, 260))
    assert s.document is before and "not drawn yet" in s.note
