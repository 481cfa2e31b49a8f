"""The shapes of six jobs, drawn and carved in the real window by mouse and keys."""

import math

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from driving import area_of, arrange, click, double, names, on_outline, option, row, tool
from gestures import ALT, CTRL, SHIFT, drag, press, settle
from volumen.app.canvas.handles import guide_colour
from volumen.edit import objects
from volumen.model.ingredients import Bend, Offset, Rim, Thickness
from volumen.model.nodes import CombinedForm, Group, GuideCircle, GuideLine, PathForm, SegmentForm, TextForm
from volumen.model.tree import find, walk

# -- the six jobs


def test_j01_plate_of_two_circles_repeated_named_and_contoured(window, qtbot):
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
    window.recipe.editor.change(index, "inset", distance=-10.0, percent=True)
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
    window.recipe.editor.add(Rim(distance=12.0))
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
    assert [c.name for c in s.first.children] == list("URCHIN"), "one word: its letters, in one group"
    assert len(list(walk(s.document.root))) == row_before + 6
    tool(window, "drop")
    click(window, 700, 100)
    tool(window, "bend")
    option(window, "start_arc")
    assert isinstance(s.only_shape.recipe[-1], Bend) or any(isinstance(i, Bend) for i in s.only_shape.recipe)
    settle(qtbot, window)


def test_j02_circles_tangents_areas_and_fewer_points(window):
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
    double(window, *on_outline(s))
    assert len(s.only_shape.form.runs[0].points) == count + 1
    option(window, "tidy")
    assert len(s.only_shape.form.runs[0].points) <= count


def test_j12_thick_lines_become_numerals_with_even_insets(window):
    s = window.session
    tool(window, "segment")
    drag(window, (300, 200), (300, 300), (300, 500), modifier=SHIFT)
    line = s.only_shape
    assert isinstance(line.form, SegmentForm) and line.form.start[0] == pytest.approx(line.form.end[0])
    press(window, Qt.Key.Key_F3)
    row(window, "Thickness")
    index = next(i for i, x in enumerate(s.only_shape.recipe) if isinstance(x, Thickness))
    window.recipe.editor.change(index, "width", width=60.0)
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


def test_j13_one_area_of_a_rosette_turned_round_its_centre(window):
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


def test_j14_strokes_past_the_boundary_and_what_is_outside_removed(window):
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


def test_j03_bars_birds_lettering_and_knockouts(window):
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
