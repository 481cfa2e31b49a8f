"""Light that looks at its object, by hand in the real window: glows in a gradient, pairs, fitted bodies, mesh corners."""

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from driving import click, option, tool
from gestures import LEFT, bar, put
from volumen.app.widgets.glow_colours import GlowColours
from volumen.geometry.affine import rotation
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import Body, OuterGlow, Sliver
from volumen.model.make import solid
from volumen.model.nodes import Shape
from volumen.outline.forms import path_form
from volumen.shading.mesh import from_paint

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
