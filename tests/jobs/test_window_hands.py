"""Jobs done again by hand in another order: what must hold in each is looked at after squashing, copying, undoing, saving."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from driving import arrange, click, row, tool
from gestures import LEFT, drag, field, number_fields, show, type_into
from scenes import disc, document, solid
from volumen.app.widgets.paint_editor import PaintEditor
from volumen.compose.scene import build
from volumen.edit import gradients
from volumen.formats import native
from volumen.geometry.affine import mean_scale
from volumen.model.ingredients import CastShadow, Fill, Line, Offset, Rim, Sliver
from volumen.model.nodes import Group, PathForm, RectangleForm, Shape, TextForm
from volumen.model.tree import find, walk, world_of
from volumen.outline.outlines import outline
from volumen.outline.silhouettes import rim_items
from volumen.render.raster import render_bytes
from volumen.shading.paint import Linear, Stop, colour

replace = msgspec.structs.replace
NO, SHIFT, CTRL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def shown(doc):
    return np.asarray(render_bytes(build(doc), 1.0)).astype(int)


def card(window, kind):
    """The open card of an ingredient of the selection."""
    index = next(k for k, i in enumerate(window.session.first.recipe) if isinstance(i, kind))
    if not window.recipe.editor.is_open(index):
        window.recipe.editor.toggle(index)
    QApplication.processEvents()
    return next(c for c in window.recipe.cards if c.index == index)


def typed(window, kind, name, value):
    type_into(next(f for f in number_fields(card(window, kind)) if f.accessibleName() == name), value)


def again(doc):
    """The document saved and opened."""
    return native.decode(native.encode(replace(doc, assets=())), "again")


def test_j01_insets_stay_even_the_contour_follows_and_specks_are_found(window):
    s = window.session
    show(window, document(side=400))
    s.snapping = False
    tool(window, "ellipse")
    drag(window, (60, 60), (150, 150), (260, 260))
    QTest.keyClick(window.canvas, Qt.Key.Key_D, CTRL)
    window.registry.run("add.offset")
    typed(window, Offset, "distance", "-15")
    both = [n.id for n in s.document.root.children]
    s.select(both)
    window.registry.run("object.group")
    type_into(field(window.recipe, "h of the selection"), "120")
    group = s.first
    boxes = [
        outline(c, world_of(s.document, c.id)).transformed(world_of(s.document, c.id)).bounds() for c in group.children
    ]
    # Squashed to 0.6, the inset of 15 is that of the mean scale, on every side.
    wide, high = ([b[k + 2] - b[k] for b in boxes] for k in (0, 1))
    inset = (wide[0] - wide[1]) / 2
    assert (high[0] - high[1]) / 2 == pytest.approx(inset, rel=0.02), "as thick at the sides as above and below"
    assert inset == pytest.approx(15 * mean_scale((1, 0, 0, high[0] / wide[0], 0, 0)), rel=0.02)
    window.registry.run("add.rim")
    before = rim_items(s.first, world_of(s.document, s.first.id))[0].path.bounds()
    s.select((group.children[0].id,))
    type_into(field(window.recipe, "x of the selection"), "150")
    after = rim_items(find(s.document, group.id), world_of(s.document, group.id))[0].path.bounds()
    assert after[2] > before[2] + 20, "the contour follows later edits"
    s.select((group.id,))
    window.registry.run("object.freeze")
    assert "rims" in s.note and not any(isinstance(i, Rim) for n in walk(s.document.root) for i in n.recipe)
    window.registry.run("edit.strays")
    assert "no stray points" in s.note


def test_j04_one_action_several_parts_and_colours_changed_later(window):
    s = window.session
    parts = [disc(k, 60 + 70 * k, 100, 30, solid(c)) for k, c in ((1, "#2b8577"), (2, "#c8402a"), (3, "#d9dbd3"))]
    show(window, document(Group(9, "mark", tuple(parts)), side=400))
    s.select((1, 2, 3))
    s.set_stage(3)
    window.canvas.setFocus()
    QTest.keyClick(window.canvas, "s")
    typed(window, Sliver, "depth", "9")
    assert {find(s.document, k).recipe[-1].depth for k in (1, 2, 3)} == {9.0}
    lit = shown(s.document)
    for bearing in ("90", "270"):
        type_into(window.toolbox.lamp_options.fields["bearing"], bearing)
        left, right = shown(s.document)[100, 104], shown(s.document)[100, 156]
        assert (left.sum() < right.sum()) == (bearing == "90"), "the shade turns with the lamp"
    s.set_stage(2)
    QApplication.processEvents()
    swatch = window.swatches.grids[0]
    QTest.mouseClick(swatch, LEFT, NO, swatch.place(7).center())
    assert all(isinstance(find(s.document, k).recipe[-1], Sliver) for k in (1, 2, 3)), "no second set of gradients"
    while s.history.undo_label != "add ingredient":
        window.registry.run("edit.undo")
    assert np.abs(lit - shown(s.document)).max() > 0


def test_j05_a_shadow_held_to_its_receiver_never_leaks_whatever_is_done(window):
    s = window.session
    show(window, document(side=400))
    s.snapping = False
    tool(window, "ellipse")
    drag(window, (60, 80), (150, 150), (240, 260), modifier=SHIFT)
    shell = s.first.id
    drag(window, (200, 100), (260, 180), (360, 260), modifier=SHIFT)
    neighbour = s.first.id
    drag(window, (150, 120), (180, 160), (230, 200), modifier=SHIFT)
    ball = s.first.id
    s.set_stage(3)
    window.canvas.setFocus()
    QTest.keyClick(window.canvas, "d")
    type_into(field(window.recipe, "lift"), "30")
    opened = card(window, CastShadow)
    button = next(b for b in opened.findChildren(QPushButton) if b.accessibleName() == "held to")
    button.menu().aboutToShow.emit()
    next(a for a in button.menu().actions() if a.text() == find(s.document, shell).name).trigger()
    assert find(s.document, ball).recipe[-1].receivers == (shell,)

    def leaks(doc, ids):
        """How much any other object changes when the shadow is switched off."""
        bare = replace(doc, root=off(doc.root))
        change = np.abs(shown(doc) - shown(bare)).max(axis=-1)
        hull = [outline(find(doc, i), world_of(doc, i)).transformed(world_of(doc, i)).bounds() for i in ids]
        y, x = np.mgrid[: change.shape[0], : change.shape[1]]
        held = np.zeros(change.shape, bool)
        for l, t, r, b in hull:
            held |= (x >= l - 1) & (x <= r + 1) & (y >= t - 1) & (y <= b + 1)
        return change.max(), change[~held].max()

    def off(node):
        recipe = tuple(replace(i, on=False) if isinstance(i, CastShadow) else i for i in node.recipe)
        return replace(node, recipe=recipe, children=tuple(off(c) for c in node.children))

    most, outside = leaks(s.document, [shell])
    assert most > 8 and outside == 0
    s.select((shell, ball))
    QTest.keyClick(window.canvas, Qt.Key.Key_D, CTRL)
    copies = s.selection
    receiver = next(i for c in copies for i in find(s.document, c).recipe if isinstance(i, CastShadow)).receivers[0]
    assert receiver in copies, "the copy's shadow is held to the copy"
    assert leaks(s.document, [shell, receiver])[1] == 0
    panel = arrange(window, turn=15)
    QTest.mouseClick(next(b for b in panel.findChildren(QPushButton) if b.text() == "apply"), LEFT)
    assert leaks(again(s.document), [shell, receiver])[1] == 0
    s.select((shell, neighbour))
    s.set_stage(1)
    row(window, "Union")
    whole = s.first.id
    assert find(s.document, ball).recipe[-1].receivers == (whole,)
    s.select((whole,))
    window.registry.run("edit.delete")
    assert "held to" in s.note and leaks(s.document, [receiver])[1] == 0
    while s.history.undo_label:
        window.registry.run("edit.undo")
    assert not s.document.root.children


def test_j12_thick_lines_merged_filled_and_one_gradient_reversed(window):
    s = window.session
    show(window, document(side=400))
    s.snapping = False
    for a, b in (((60, 60), (60, 200)), ((60, 130), (160, 60)), ((60, 130), (160, 200))):
        tool(window, "segment")
        drag(window, a, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b)
        typed(window, Line, "width", "24")
    window.registry.run("edit.all")
    window.registry.run("object.line_to_outline")
    assert "3 lines became shapes" in s.note
    window.registry.run("combine.union_once")
    whole = s.first
    assert isinstance(whole.form, PathForm) and [type(i) for i in whole.recipe] == [Fill]
    assert outline(whole).bounds()[0] == pytest.approx(48, abs=1.5), "half the width beside the line"
    QTest.keyClick(window.canvas, Qt.Key.Key_D, CTRL)
    window.registry.run("object.mirror_across")
    ids = [n.id for n in s.document.root.children]
    s.select(ids)
    ramp = Linear((Stop(0.0, colour("#f0ae45")), Stop(1.0, colour("#20242a"))), (48, 60), (160, 60))
    window.recipe.editor.change(0, "change paint", paint=ramp)
    s.select(ids[1:])
    card(window, Fill)
    QTest.mouseClick(window.recipe.findChild(PaintEditor).acts["reverse"], LEFT)
    first, second = (gradients.paint_of(find(s.document, i)) for i in ids)
    assert [t.colour for t in second.stops] == [t.colour for t in reversed(first.stops)]


def test_j13_linked_parts_copied_as_a_group_stay_a_family_of_their_own(window):
    s = window.session
    show(window, document(disc(1, 200, 120, 20), side=400), 1)
    window.registry.run("object.copy_linked")
    window.registry.run("edit.all")
    window.registry.run("object.group")
    QTest.keyClick(window.canvas, Qt.Key.Key_D, CTRL)
    first, second = s.document.root.children
    assert {c.link for c in first.children}.isdisjoint({c.link for c in second.children})
    s.select((second.children[0].id,))
    window.canvas.setFocus()
    QTest.keyClick(window.canvas, "s")
    kinds = lambda g: [len(c.recipe) for c in find(s.document, g.id).children]  # noqa: E731
    assert kinds(first) == [1, 1] and kinds(second) == [2, 2]


def test_j03_and_j15_frames_knockouts_and_stock_by_hand(window):
    s = window.session
    bag = Shape(1, "bag", RectangleForm(0, 0, 400, 400), (solid("#f0ae45"),))
    frame = Shape(2, "frame", RectangleForm(60, 60, 280, 200), (solid("#0f4a49"),))
    word = Shape(3, "word", TextForm("KS", size=120, x=120, y=200), (solid("#ffffff"),))
    show(window, document(bag, frame, word, side=400), 1)
    window.registry.run("object.stock")
    assert "no knockout cuts it" in s.note
    s.select((2, 3))
    window.registry.run("object.hold")
    s.select((3,))
    window.registry.run("object.knockout")
    amber = lambda: (shown(s.document)[100:220, 100:300, :3] == (240, 174, 69)).all(axis=-1)  # noqa: E731
    seen = amber()
    assert seen.sum() > 1500, "the bag is seen through frame and word"
    assert isinstance(find(s.document, 3).form, TextForm), "and stays text"
    click(window, 380, 380)
    s.select((3,))
    type_into(field(window.recipe, "x of the selection"), "200")
    moved = amber()
    assert moved.sum() > 1000 and (seen & ~moved).sum() > 800, "and goes on following it"
    assert np.abs(shown(again(s.document)) - shown(s.document)).max() == 0
