"""The window driven as an artist does it, off the beaten path: typed numbers, several objects, meshes, sketches, frames."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox

from driving import arrange, click, tool
from gestures import LEFT, drag, field, number_fields, show, type_into
from scenes import disc, document, png, solid
from volumen.app.widgets.paint_editor import PaintEditor
from volumen.edit import gradients, objects
from volumen.edit.placing import own_box
from volumen.formats import native
from volumen.geometry.affine import mean_scale, scaling, translation
from volumen.model.ingredients import Body, CastShadow, Fill, Line, OuterGlow, Sliver
from volumen.model.make import corner, path_form
from volumen.model.nodes import Asset, Group, Image, Palette, RectangleForm, SegmentForm, Shape, Swatch
from volumen.model.tree import find, walk, world_of
from volumen.render.worker.messages import ImageAnswer
from volumen.shading.paint import Linear, MeshPaint, Radial, Solid, Stop, colour

pytestmark = pytest.mark.one_window

replace = msgspec.structs.replace
NO = Qt.KeyboardModifier.NoModifier
STOPS = (Stop(0.0, colour("#f0ae45")), Stop(1.0, colour("#20242a")))
INK = Solid(colour("#20242a"))


def rect(node_id, x, y, w, h, *recipe, **more):
    return Shape(node_id, f"rect {node_id}", RectangleForm(x, y, w, h), recipe or (solid("#d9dbd3"),), **more)


def open_card(window, index):
    window.recipe.editor.toggle(index)
    QApplication.processEvents()
    return next(c for c in window.recipe.cards if c.index == index)


def test_lengths_typed_in_cards_are_lengths_on_the_sheet(window):
    thing = rect(1, 20, 20, 60, 60, solid("#2b8577"), Line(INK, 2.0), transform=scaling(1.0, 0.25))
    show(window, document(thing, side=200), 1)
    s = window.session
    width = next(f for f in number_fields(open_card(window, 1)) if f.accessibleName() == "width")
    assert width.text() == "1", "half as wide as in its own units"
    type_into(width, "20")
    assert s.first.recipe[1].width == pytest.approx(40.0) and width.text() == "20"
    lift = field(window.recipe, "lift")
    type_into(lift, "9")
    assert s.first.lift == pytest.approx(18.0) and lift.text() == "9"


def test_typing_wide_and_high_scales_lengths_or_leaves_them(window):
    show(
        window, document(rect(1, 20, 20, 60, 60, solid("#2b8577"), Line(INK, 4.0), CastShadow(), lift=6.0), side=200), 1
    )
    s = window.session
    on_sheet = lambda v: v * mean_scale(world_of(s.document, 1))  # noqa: E731
    type_into(field(window.recipe, "w of the selection"), "120")
    type_into(field(window.recipe, "h of the selection"), "120")
    assert on_sheet(s.first.recipe[1].width) == pytest.approx(8.0) and on_sheet(s.first.lift) == pytest.approx(12.0)
    s.set_stage(0)
    window.toolbox._toggle_arrange()
    keep = next(c for c in window.toolbox.arrange.findChildren(QCheckBox) if "stay" in c.text())
    keep.click()
    type_into(field(window.recipe, "w of the selection"), "60")
    type_into(field(window.recipe, "h of the selection"), "60")
    assert on_sheet(s.first.recipe[1].width) == pytest.approx(8.0) and on_sheet(s.first.lift) == pytest.approx(12.0)
    drag(window, (80, 80), (100, 100), (110, 110))
    assert on_sheet(s.first.recipe[1].width) == pytest.approx(8.0), "dragging a corner, too"
    panel = arrange(window, scale=50)
    apply = next(b for b in panel.findChildren(type(window.recipe.add_button)) if b.text() == "apply")
    QTest.mouseClick(apply, LEFT)
    assert on_sheet(s.first.lift) == pytest.approx(12.0)
    keep.click()


def test_a_colour_goes_to_all_points_of_a_mesh_or_to_those_in_hand(window):
    show(window, document(rect(1, 40, 40, 100, 100, solid("#2b8577")), side=200), 1)
    s = window.session
    s.set_stage(2)
    tool(window, "mesh")
    QApplication.processEvents()
    QTest.mouseClick(next(iter(window.toolbox.options.buttons.values())), LEFT)
    paint = gradients.paint_of(s.first)
    assert isinstance(paint, MeshPaint)
    window.swatches.grids[0].panel.session.note = ""
    swatch = window.swatches.grids[0]
    QTest.mouseClick(swatch, LEFT, NO, swatch.place(7).center())
    whole = gradients.paint_of(s.first)
    assert isinstance(whole, MeshPaint) and len({p.colour for p in whole.points}) == 1, "no flat colour in its place"
    assert "all points of the mesh" in s.note
    click(window, 40, 40)
    chosen = s.mesh_points
    assert len(chosen) == 1
    tool(window, "move")
    assert s.mesh_points == chosen, "leaving the tool keeps the points in hand"
    QTest.mouseClick(swatch, LEFT, NO, swatch.place(3).center())
    now = gradients.paint_of(s.first)
    assert sum(a.colour != b.colour for a, b in zip(whole.points, now.points, strict=True)) == 1


def test_the_eyedropper_takes_the_pictures_own_colour(window, qtbot):
    data = png()
    sketch = Image(3, "sketch", native.asset_key(data), 120, 96, (), (), translation(40, 40), locked=True, opacity=0.35)
    doc = replace(document(sketch, disc(1, 20, 180, 12), side=200), assets=(Asset(sketch.asset, data),))
    show(window, doc, 1)
    qtbot.waitUntil(lambda: window.link.idle, timeout=20000)
    tool(window, "eyedropper")
    click(window, 100, 88)
    own = window.session.first.recipe[0].paint.colour
    rows = np.zeros((24, 30, 3))
    rows[..., 0], rows[..., 2] = np.linspace(60, 220, 30), np.linspace(200, 40, 24)[:, None]
    x, y = (100 - 40) / 120 * 30, (88 - 40) / 96 * 24
    want = rows[int(y), int(x)][::-1] / 255  # the file is written blue first
    assert np.abs(np.array(own.rgb) - want).max() < 0.03, "not the dimmed one"


def test_swatches_from_a_picture_are_apart_and_go_into_the_chosen_group(window):
    from volumen.colour.difference import srgb_difference

    data = png()
    sketch = Image(3, "sketch", native.asset_key(data), 120, 96, (), (), translation(40, 40))
    doc = replace(
        document(sketch, side=200),
        assets=(Asset(sketch.asset, data),),
        palette=Palette((Swatch(1, "ink", INK.colour, "inks"),), next_id=2),
    )
    show(window, doc)
    s = window.session
    s.set_stage(2)
    window.swatches.refresh()
    QApplication.processEvents()
    head = next(b for b in window.swatches.findChildren(type(window.swatches._group_head("x"))) if b.text() == "inks")
    QTest.mouseClick(head, LEFT)
    window.registry.run("colour.from_picture")
    made = [w for w in s.document.palette.swatches if w.id > 1]
    assert made and {w.group for w in made} == {"inks"}
    for k, a in enumerate(made):
        for b in made[:k]:
            assert float(srgb_difference(a.colour.rgb, b.colour.rgb)) >= 5


def test_a_gradient_from_the_card_lands_in_each_of_the_selected(window):
    parts = (rect(1, 20, 20, 40, 20), rect(2, 90, 30, 60, 60), rect(3, 30, 120, 20, 40, transform=translation(5, 5)))
    show(window, document(*parts, side=200), 1)
    s = window.session
    s.select((1, 2, 3))
    open_card(window, 0)
    editor = window.recipe.findChild(PaintEditor)
    QTest.mouseClick(editor.buttons[Radial], LEFT)
    for i in (1, 2, 3):
        node = find(s.document, i)
        paint = gradients.paint_of(node)
        l, t, r, b = own_box(node)
        a, _, _, d, e, f = paint.transform
        assert ((a * paint.centre[0] + e - l) / (r - l), (d * paint.centre[1] + f - t) / (b - t)) == pytest.approx(
            (0.5, 0.5)
        )


def test_every_number_of_a_gradient_can_be_typed(window):
    ball = disc(1, 100, 100, 50, Fill(Radial(STOPS, (100, 100), 50, (90, 90))), transform=translation(10, 0))
    show(window, document(ball, side=240), 1)
    s = window.session
    open_card(window, 0)
    typed = {"centre x": 120, "focus y": 80, "radius": 33, "turn": 25}
    for name, value in typed.items():
        type_into(field(window.recipe, name), str(value))
    paint = s.first.recipe[0].paint
    assert isinstance(paint, Radial)
    again = {name: field(window.recipe, name).value for name in typed}
    assert again == pytest.approx({**typed, "focus y": again["focus y"]}, abs=1e-6)
    show(window, document(rect(1, 20, 20, 80, 40, Fill(Linear(STOPS, (20, 20), (100, 20)))), side=200), 1)
    QApplication.processEvents()
    type_into(field(window.recipe, "end y"), "60")
    assert window.session.first.recipe[0].paint.end == (100.0, 60.0)
    type_into(field(window.recipe, "turn"), "90")
    paint = window.session.first.recipe[0].paint
    assert paint.end[0] == pytest.approx(20) and paint.end[1] > 100


def test_a_swatch_on_a_group_colours_what_it_holds(window):
    pair = Group(
        5, "pair", (disc(1, 60, 60, 20), Shape(2, "line", SegmentForm((20, 150), (150, 150)), (Line(INK, 4.0),)))
    )
    show(window, document(pair, side=200), 5)
    s = window.session
    s.set_stage(2)
    QApplication.processEvents()
    swatch = window.swatches.grids[0]
    QTest.mouseClick(swatch, LEFT, NO, swatch.place(7).center())
    want = swatch.swatches[7].colour
    assert find(s.document, 1).recipe[0].paint.colour == want and find(s.document, 2).recipe[0].paint.colour == want


def test_a_frame_drawn_over_the_empty_corner_of_a_line_does_not_take_it(window):
    diagonal = Shape(1, "diagonal", SegmentForm((20, 20), (180, 180)), (Line(INK, 4.0),))
    ring = disc(2, 100, 100, 70, Line(INK, 4.0))
    full = disc(3, 40, 160, 20)
    show(window, document(diagonal, ring, full, side=200))
    s = window.session
    tool(window, "move")
    drag(window, (160, 8), (170, 30), (192, 40))
    assert s.selection == ()
    drag(window, (108, 8), (98, 40), (92, 60))
    assert set(s.selection) == {2}, "the ring by its course"
    drag(window, (118, 108), (100, 114), (82, 118))
    assert set(s.selection) == {1}, "inside the ring nothing of it is touched"
    drag(window, (12, 150), (30, 165), (40, 166))
    assert s.selection == (3,), "what is filled by its inside"


def test_small_sizes_show_the_selection_alone_on_request(window, qtbot):
    show(window, document(disc(1, 60, 60, 50), rect(2, 150, 150, 20, 40), side=200), 2)
    s = window.session
    s.set_stage(4)
    qtbot.waitUntil(lambda: set(window.wall.small) >= {16, 32, 64, 128}, timeout=20000)
    assert window.wall.small[64].width() == window.wall.small[64].height() == 64
    QTest.mouseClick(window.proof_choices.alone, LEFT, pos=QPoint(8, 8))
    qtbot.waitUntil(lambda: window.wall.small[64].width() < 50, timeout=20000)
    assert window.wall.small[64].height() == 64, "as large as it fits"


def test_small_pictures_in_the_pile_are_of_the_open_document(window, qtbot):
    def seen():
        pixmap = window.pile._thumbs.get(1)
        return pixmap.toImage().pixelColor(pixmap.width() // 2, pixmap.height() // 2).getRgb()[:3] if pixmap else None

    show(window, document(disc(1, 60, 60, 50, solid("#ff0000")), side=200), 1)
    qtbot.waitUntil(lambda: seen() == (255, 0, 0), timeout=20000)
    window.session.open(document(disc(1, 60, 60, 50, solid("#0000ff")), side=200), None, "other")
    assert seen() is None, "not a moment of the old one's"
    window.pile._receiver(1, "another history")(ImageAnswer(1, 1, 1, b"\xff\0\0\xff"))
    assert seen() is None, "nor when its answer comes late"
    qtbot.waitUntil(lambda: seen() == (0, 0, 255), timeout=20000)
    window.session.select((1,))
    window.session.apply("colour", objects.set_fields(window.session.document, [1], recipe=(solid("#00ff00"),)))
    qtbot.waitUntil(lambda: seen() == (0, 255, 0), timeout=20000)


def test_freezing_says_what_became_what_and_chooses_the_result(window):
    ball = disc(
        1,
        80,
        80,
        40,
        solid("#2b8577"),
        Body(),
        Sliver(depth=5.0),
        CastShadow(),
        OuterGlow(colour("#f0ae45"), stops=STOPS),
        lift=6.0,
    )
    show(window, document(ball, side=200), 1)
    s = window.session
    window.registry.run("object.freeze")
    assert all(w in s.note for w in ("gradients", "slivers", "shadows", "glows of several colours"))
    assert isinstance(s.first, Group) and find(s.document, 1) is not None
    window.registry.run("object.freeze")
    assert "plain already" in s.note and s.history.undo_label == "freeze"
    window.registry.run("edit.undo")
    assert s.history.undo_label is None


def test_lines_ends_and_halves_by_command(window):
    half = Shape(
        1,
        "half",
        path_form(corner(100, 40), corner(60, 90), corner(100, 140), closed=False),
        (solid("#2b8577"), Line(INK, 6.0)),
    )
    show(window, document(half, side=200), 1)
    s = window.session
    window.registry.run("combine.mirror_weld")
    assert s.first.form.runs[0].closed and len(s.first.form.runs[0].points) == 4
    window.registry.run("object.line_to_outline")
    assert isinstance(s.first, Group) and "1 line became a shape" in s.note
    assert not any(isinstance(i, Line) for n in walk(s.document.root) for i in n.recipe)
    window.registry.run("combine.join_ends")
    assert "open path" in s.note


def test_deleting_a_receiver_says_what_came_loose(window):
    held = disc(2, 90, 90, 20, solid("#c8402a"), CastShadow(receivers=(1,)), lift=6.0)
    show(window, document(disc(1, 80, 80, 60), held, side=200), 1)
    window.registry.run("edit.delete")
    assert "'disc 2'" in window.session.note and "held to" in window.session.note


def test_a_clear_ground_is_quiet_squares(window, qtbot):
    show(window, document(disc(1, 20, 20, 5), side=200, ground=None))
    qtbot.waitUntil(lambda: window.link.idle, timeout=20000)
    image = window.canvas.grab().toImage()
    a = window.canvas.viewport.to_canvas((100, 100))
    row = [image.pixelColor(round(a[0]) + k, round(a[1])).lightness() for k in range(64)]
    steps = [k for k in range(1, 64) if row[k] != row[k - 1]]
    assert {b - c for b, c in zip(steps[1:], steps, strict=False)} == {8} and max(row) - min(row) < 30
