"""Light by hand in the real window: lamps, walls of choices, the light check, and the light of six jobs."""

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QEnterEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from driving import click, option, row, tool
from gestures import ALT, CTRL, LEFT, SHIFT, at, bar, drag, field, press, put, type_into
from volumen.app.panels.material_editor import MaterialEditor
from volumen.compose.scene import build
from volumen.geometry.affine import rotation
from volumen.model.ingredients import (
    Adjust,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    GroundGlow,
    InnerGlow,
    InnerShadow,
    Line,
    OuterGlow,
    Relief,
    Seams,
    Sliver,
    Speckle,
)
from volumen.model.make import circle, corner, linear, path_form, radial, solid
from volumen.model.nodes import Group, Shape
from volumen.model.tree import find
from volumen.picture.purity import picture_purity
from volumen.render.raster import render_float
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Solid, colour

SEA = solid("#2b8577")


def kinds(window, i):
    return [type(x) for x in find(window.session.document, i).recipe]


def light(window, *nodes, **more):
    put(window, *nodes, **more)
    window.session.set_stage(3)


def add(window, title):
    """Click an ingredient's row among the tools."""
    row(window, title)


def test_lamps_are_chosen_typed_coloured_saved_and_switched(window):
    s = window.session
    light(window, bar(1, 100, (SEA, Body("ball", "clay"))))
    tool(window, "lamp")
    options = window.toolbox.lamp_options
    QTest.mouseClick(options.group.button(1), LEFT)
    assert s.document.fill is not None and s.document.edge is None, "lit by being chosen"
    field = options.fields["strength"]
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "250")
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert s.document.fill.strength == pytest.approx(2.5), "beyond any slider"
    QTest.mouseClick(options.swatches[3], LEFT)
    assert s.document.fill.colour == options.swatches[3].colour
    QTest.mouseClick(options.group.button(3), LEFT)
    assert s.document.ambient.strength > 0
    lights = s.document.lights
    options.name.show()
    options.name.setText("harbour dawn")
    QTest.keyClick(options.name, Qt.Key.Key_Return)
    assert [x.name for x in s.document.lamp_sets] == ["harbour dawn"]
    window.registry.run("light.set_stage")
    assert s.document.edge is not None and s.document.lights != lights
    options.sets.activated.emit(options.sets.findText("harbour dawn"))
    assert s.document.lights == lights
    press(window, Qt.Key.Key_Z, CTRL)
    assert s.document.lights != lights, "one step of undo"


def test_the_sun_of_a_selected_object_is_its_own(window):
    """Dragged while something with a lamp of its own is selected, also from within it; else it is the document's."""
    light(window, Group(8, "pair", (bar(1, 100, ()), bar(2, 300, ())), own_lamp=Lamp(90, 40)), bar(3, 200, ()))
    s, first = window.session, window.session.document.lamp
    sun = window.canvas.lamp
    for selected, own in (([8], True), ([1], True), ([3], False), ([1, 3], False), ([], False)):
        s.select(selected)
        before, (cx, cy) = s.document, sun.ring()[0]
        to_sheet = window.canvas.viewport.to_sheet
        assert sun.lamp == (Lamp(90, 40) if own else first)
        drag(window, to_sheet(sun.sun_place()), to_sheet((cx, cy + 60)))
        pair = find(s.document, 8)
        changed, kept = (pair.own_lamp, s.document.lamp) if own else (s.document.lamp, pair.own_lamp)
        assert changed.bearing == pytest.approx(180, abs=1) and kept == (first if own else Lamp(90, 40))
        window.registry.run("edit.undo")
        assert s.document == before
    s.select([8])
    type_into(field(window, "lamp height"), "12")
    assert find(s.document, 8).own_lamp == Lamp(90, 12) and s.document.lamp == first
    assert window.toolbox.lamp_options.whose.text() == "lamp of pair"


def test_own_lamp_and_unlit_by_command(window):
    s = window.session
    light(window, bar(1, 100, (SEA, Body("ball", "clay"))))
    s.select((1,))
    window.registry.run("light.own")
    assert s.first.own_lamp == s.document.lamp
    window.registry.run("light.unlit")
    assert s.first.unlit and s.first.own_lamp is None
    window.registry.run("light.follow")
    assert not s.first.unlit
    window.registry.run("object.keep_vector")
    assert s.first.keep_vector


def test_light_check_marks_names_and_puts_right(window):
    s = window.session
    wrong = Fill(linear((100, 100), (100, 200), (0, "#111111"), (1, "#eeeeee")))
    light(window, bar(1, 100, (wrong,)), bar(2, 300, (SEA, CastShadow(angle=10.0))), lamp=Lamp(0, 45))
    tool(window, "light check")
    settle_paint(window)
    assert {d.node for d in window.canvas.tool.found()} == {1, 2}
    click(window, 200, 150)
    assert s.selection == (1,)
    option(window, "selection_right")
    assert {d.node for d in window.canvas.tool.found()} == {2}
    QTest.mouseClick(window.canvas, LEFT, ALT, at(window, 200, 350))
    assert window.canvas.tool.found() == []
    option(window, "all_right")
    press(window, Qt.Key.Key_Z, CTRL)
    assert len(window.canvas.tool.found()) == 1


def settle_paint(window):
    window.canvas.repaint()
    QApplication.processEvents()


def test_walls_show_the_real_selection_and_a_click_takes_one(window, qtbot):
    s = window.session
    light(window, bar(1, 100, (solid("#c8402a"),)), bar(2, 140, (SEA,)))
    s.select((2,))
    press(window, Qt.Key.Key_J, CTRL)
    wall = window.choosing
    assert len(wall.tiles) == 16 and window.section.isHidden()
    qtbot.waitUntil(lambda: all(t.picture is not None for t in wall.tiles), timeout=20000)
    pictures = {bytes(t.picture.toImage().constBits()) for t in wall.tiles}
    assert len(pictures) > 8, "each tile is the artwork in its own mode"
    tile = next(t for t in wall.tiles if t.variant[0] == "multiply")
    where = QPointF(5, 5)
    QApplication.sendEvent(tile, QEnterEvent(where, where, where))
    assert find(s.document, 2).blend == "multiply" and s.history.in_gesture, "shown on the artwork while pointed at"
    tile.leaveEvent(None)
    assert find(s.document, 2).blend == "normal"
    QTest.mouseClick(tile, LEFT)
    assert find(s.document, 2).blend == "multiply" and not s.history.in_gesture
    for k, kind in enumerate(("blend modes", "opacity", "materials", "looks", "lights", "tints")):
        QTest.mouseClick(wall.group.button(k), LEFT)
        assert wall.kind == kind and len(wall.tiles) >= 6
    QTest.mouseClick(wall.tiles[2], LEFT)
    assert any(isinstance(i, Adjust) for i in find(s.document, 2).recipe), "a colour variant takes one control"


@pytest.mark.parametrize(("title", "kind"), [
    ("Relief", Relief), ("Contact shadow", ContactShadow), ("Inner shadow", InnerShadow), ("Inner glow", InnerGlow),
    ("Ground glow", GroundGlow), ("Grain", Speckle), ("Colour shift", Adjust), ("Closed seams", Seams), ("Edge light", Sliver),
])  # fmt: skip
def test_every_new_card_opens_changes_and_switches_off(window, title, kind):
    s = window.session
    light(window, Group(9, "g", (bar(1, 100), bar(2, 250))))
    s.select((9,))
    add(window, title)
    at_index = next(k for k, i in enumerate(s.first.recipe) if isinstance(i, kind))
    card = window.recipe.cards[-1]
    assert card.is_open and card.spec.controls is not None
    QTest.mouseClick(card.eye, LEFT)
    assert not s.first.recipe[at_index].on
    if hasattr(s.first.recipe[at_index], "each"):
        window.recipe.editor.change(at_index, "scope", each=True)
        assert s.first.recipe[at_index].each
    assert build(s.document).items


def test_materials_are_tried_by_pointing_made_ones_own_edited_and_shared(window, tmp_path):
    s = window.session
    light(window, bar(1, 100, (SEA, Body("ball", "clay"))))
    s.select((1,))
    window.recipe.editor.toggle(1)
    made = window.recipe.widget().findChild(MaterialEditor)
    assert len(made.balls) == 15 and made.sliders.isHidden()
    chrome = next(b for b in made.balls if b.material == "chrome")
    where = QPointF(5, 5)
    QApplication.sendEvent(chrome, QEnterEvent(where, where, where))
    assert s.first.recipe[1].material == "chrome" and s.history.in_gesture
    QApplication.sendEvent(chrome, QEvent(QEvent.Type.Leave))
    assert s.first.recipe[1].material == "clay"
    QTest.mouseClick(chrome, LEFT)
    assert s.first.recipe[1].material == "chrome"
    made.make_own()
    assert s.first.recipe[1].material == "my chrome" and s.document.materials[0].name == "my chrome"
    made = window.recipe.widget().findChild(MaterialEditor)
    assert not made.sliders.isHidden()
    before = render_float(build(s.document), 0.4)
    made.rows["contrast"].done.emit(0.1)
    assert s.document.materials[0].contrast == 0.1
    assert np.abs(render_float(build(s.document), 0.4) - before).max() > 0.1
    made.share_file(tmp_path / "m.json")
    s.apply("forget", msgspec.structs.replace(s.document, materials=()))
    made.read_file(tmp_path / "m.json")
    assert s.document.materials[0].contrast == 0.1
    (tmp_path / "bad.json").write_text("{")
    made.read_file(tmp_path / "bad.json")
    assert len(s.document.materials) == 1


# -- the six jobs


def test_j04_slivers_ground_shadow_and_a_hair_of_light_that_turn_with_the_lamp(window, qtbot):
    s = window.session
    light(window, bar(1, 100, (solid("#efe3cb"),)), bar(2, 300, (SEA,)))
    press(window, Qt.Key.Key_A, CTRL)
    add(window, "Sliver")
    add(window, "Edge light")
    assert kinds(window, 1) == kinds(window, 2) == [Fill, Sliver, Sliver], "several parts, the same setting at once"
    hair = next(i for i in find(s.document, 1).recipe if isinstance(i, Sliver) and i.kind == "light")
    assert hair.depth == 1.4, "a hair by the size of the bar"
    press(window, Qt.Key.Key_G, CTRL)
    group = s.first.id
    add(window, "Shadow")
    index = next(k for k, i in enumerate(s.first.recipe) if isinstance(i, CastShadow))
    window.recipe.editor.change(index, "squash", squash=0.2, opacity=0.08, colour=colour("#000000"))
    shadow = find(s.document, group).recipe[index]
    assert shadow.squash == 0.2 and shadow.opacity == pytest.approx(0.08)
    before = render_float(build(s.document), 0.3)
    s.apply("lamp", s.document.with_lights(s.document.lights.__class__(Lamp(120, 40))))
    assert np.abs(render_float(build(s.document), 0.3) - before).max() > 0.1, "slivers turn with the lamp"


def test_j08_glow_beyond_the_slider_on_the_bell_alone_and_what_stays_vector(window, qtbot, tmp_path):
    s = window.session
    rock = bar(2, 500, (solid("#444444"),))
    bell = Shape(
        1,
        "bell",
        circle(300, 250, 90),
        (Fill(radial((300, 250), 90, (0, "#f2fdff"), (1, "#3a5db4"), focus=(270, 220))),),
    )
    light(window, rock, bell)
    s.select((1,))
    add(window, "Glow")
    glow = next(k for k, i in enumerate(s.first.recipe) if isinstance(i, OuterGlow))
    window.recipe.editor.change(glow, "size", size=400.0)
    assert s.first.recipe[glow].size == 400.0 and kinds(window, 2) == [Fill], (
        "wider than any slider, and not on the rock"
    )
    window.recipe.editor.add(Fill(Solid(colour("#b58cf0")), 0.5, "overlay"))
    add(window, "Relief")
    add(window, "Contact shadow")
    assert {Relief, ContactShadow, OuterGlow} <= set(kinds(window, 1))
    qtbot.waitUntil(lambda: s.purity.get(1) is not None and s.purity[1].pdf == "pixels", timeout=20000)
    assert s.purity.get(2) is None or s.purity[2].pdf == "vector"
    press(window, Qt.Key.Key_F6)
    window.proof.formats["svg"].click()
    window.proof.pure.click()
    window.proof.export_to(tmp_path / "jelly.svg")
    qtbot.waitUntil(lambda: window.proof.job is None, timeout=60000)
    text = (tmp_path / "jelly.svg").read_text()
    assert "<filter" not in text and "<image" not in text and "vector form differs by" in window.proof.note.text()


def test_j11_metal_ring_glow_shown_on_it_and_a_repeat_that_closes(window):
    s = window.session
    dial = Shape(1, "dial", circle(400, 400, 150), (solid("#12606f"),))
    facet = Shape(
        2,
        "facet",
        path_form(corner(390, 230), corner(410, 230), corner(408, 250), corner(392, 250)),
        (Fill(linear((390, 0), (410, 0), (0, "#fff1c4"), (1, "#5f3c13"))),),
    )
    light(window, dial, facet)
    s.select((1,))
    add(window, "Inner glow")
    glow = next(i for i in s.first.recipe if isinstance(i, InnerGlow))
    assert glow.blend == "screen" and np.mean(glow.colour.rgb) > 0.8, "the default shows on what it is applied to"
    s.select((2,))
    copies = tuple(
        Shape(10 + k, f"facet {k}", facet.form, facet.recipe, transform=rotation(10 * k, (400, 400))) for k in range(36)
    )
    light(window, dial, Group(60, "ring", copies))
    s.select((60,))
    add(window, "Closed seams")
    add(window, "Shadow")
    assert {Seams, CastShadow} <= set(kinds(window, 60))
    tool(window, "move")
    ring = render_float(build(s.document), 1.0)[..., :3]
    angle = np.radians(np.arange(0, 360, 0.5))
    tones = ring[np.round(400 - 160 * np.cos(angle)).astype(int), np.round(400 + 160 * np.sin(angle)).astype(int)].mean(
        axis=1
    )
    assert tones.std() > 0.01 and np.abs(tones.reshape(36, 20).mean(axis=1) - tones.mean()).max() < 0.2, (
        "all the way round"
    )


def test_j15_lift_is_enough_for_shadows_of_every_sheet(window):
    s = window.session
    light(window, *(bar(k + 1, 100 + 60 * k, (solid(c),)) for k, c in enumerate(("#f6cf9d", "#6fa9ad", "#1f6b7a"))))
    press(window, Qt.Key.Key_A, CTRL)
    add(window, "Shadow")
    assert all(CastShadow in kinds(window, k) for k in (1, 2, 3)), "one action for the whole selection"
    window.recipe.editor.change(1, "opacity", opacity=0.5)
    assert all(find(s.document, k).recipe[1].opacity == 0.5 for k in (1, 2, 3))
    press(window, Qt.Key.Key_G, CTRL)
    add(window, "Grain")
    assert kinds(window, s.first.id) == [Speckle], "a paper grain over everything"
    offsets = {i.offset for i in _softs(build(s.document).items)}
    assert len(offsets) == 1
    s.apply("lamp", s.document.with_lights(s.document.lights.__class__(Lamp(60, 30))))
    assert len({i.offset for i in _softs(build(s.document).items)}) == 1, "all follow the lamp alike"


def _softs(items):
    from volumen.picture.instructions import Layer, Soft

    for i in items:
        if isinstance(i, Soft):
            yield i
        elif isinstance(i, Layer):
            yield from _softs(i.items)


def test_j16_facets_one_tint_all_modes_at_once_and_no_hairline(window):
    s = window.session
    left = Shape(1, "left", path_form(corner(200, 300), corner(300, 150), corner(300, 450)), (solid("#bbbbbb"),))
    right = Shape(2, "right", path_form(corner(300, 150), corner(400, 300), corner(300, 450)), (solid("#777777"),))
    light(window, left, right)
    press(window, Qt.Key.Key_A, CTRL)
    press(window, Qt.Key.Key_G, CTRL)
    group = s.first.id
    for title in ("Closed seams", "Glow", "Ground glow", "Inner shadow", "Relief", "Edge light", "Contact shadow"):
        add(window, title)
    window.recipe.editor.add(Fill(Solid(colour("#18b39a")), 0.9, "color"))
    index = len(s.first.recipe) - 1
    s.set_active(index)
    window.choosing.show_kind("blend modes")
    tile = next(t for t in window.choosing.tiles if t.variant[0] == "hard-light")
    QTest.mouseClick(tile, LEFT)
    assert find(s.document, group).recipe[index].blend == "hard-light", "the mode of the tint, not of the stones"
    column = render_float(build(s.document))[200:400, 292:308, :3]
    assert np.abs(np.diff(column[:, 6:10].mean(axis=(0, 2)))).max() < 0.3 and column.min() > 0.02, (
        "no dark line between"
    )
    before = s.document
    window.choosing.show_kind("tints")
    QTest.mouseClick(window.choosing.tiles[0], LEFT)
    assert s.document != before and any(isinstance(i, Adjust) for i in find(s.document, group).recipe)


def test_j17_sockets_shine_soft_strokes_and_a_cloud_from_svg(window, tmp_path):
    s = window.session
    head = Shape(1, "head", circle(400, 400, 140), (Fill(radial((400, 400), 140, (0, "#f2653f"), (1, "#6b1030"))),))
    light(window, head)
    tool(window, "ellipse")
    drag(window, (350, 380), (360, 395), (380, 410), modifier=ALT | SHIFT)
    socket = s.selection[0]
    window.recipe.editor.change(0, "paint", paint=radial((350, 380), 40, (0, "#2a0616"), (1, "#7a1530", 0.0)))
    press(window, Qt.Key.Key_M, CTRL | ALT)
    assert len(s.document.root.children) == 3 and find(s.document, socket) is not None
    (tmp_path / "cloud.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="800" height="800"><path d="M100 300 C 100 100 300 100 320 240 '
        'C 420 120 560 180 540 300 C 640 340 600 500 480 480 C 400 560 200 540 190 460 C 80 460 40 340 100 300 Z"/></svg>'
    )
    before = {c.id for c in s.document.root.children}
    window.placing.place_file(tmp_path / "cloud.svg")
    (cloud,) = (c for c in s.document.root.children if c.id not in before)
    s.select((cloud.id,))
    s.set_stage(3)
    add(window, "Blur")
    assert any(isinstance(i, Blur) for i in s.first.recipe)
    tool(window, "nib")
    drag(window, (300, 300), (320, 330), (340, 380), (350, 430))
    stroke = s.selection[0]
    assert any(isinstance(i, Line) and i.profile for i in find(s.document, stroke).recipe)
    s.set_stage(3)
    add(window, "Blur")
    assert picture_purity(build(s.document)).pdf == "pixels"
