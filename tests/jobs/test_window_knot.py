"""Job J09 in the window: a rounded polygon and an arc turned about an exact centre, areas that close over gaps, linked parts."""

import math

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QToolButton

from driving import area_of, arrange, click, option, tool
from gestures import ALT, CTRL, LEFT, SHIFT, drag, field, paint, press, type_into
from volumen.edit import objects
from volumen.geometry.boolean import boolean
from volumen.model.ingredients import Line, Rounding
from volumen.model.tree import find, world_of
from volumen.outline.outlines import outline
from volumen.shading.paint import Linear


def on_sheet(document, node_id):
    return outline(find(document, node_id)).transformed(world_of(document, node_id))


def test_j09_three_linked_parts_that_fold_over_one_another(window):
    s = window.session
    s.set_look(snapping=False)
    tool(window, "polygon")
    type_into(field(window.toolbox.options, "sides"), "3")
    drag(window, (400, 400), (500, 500), (600, 600), modifier=ALT | SHIFT)
    triangle = s.only_shape.id
    window.recipe.editor.add(Rounding(10.0))
    rank = next(k for k, i in enumerate(s.only_shape.recipe) if isinstance(i, Rounding))
    type_into(field(window.recipe, "radius"), "60")
    assert s.only_shape.recipe[rank].radius == 60
    middle = (400.0, 400.0)
    tool(window, "arc")
    for place in ((400, 268), (480, 494), (340, 420)):  # it falls short of the outline at both ends
        click(window, *place)
    arc = s.only_shape.id
    s.set_look(snapping=True)
    tool(window, "move")
    box = objects.selection_box(s.document, [arc])
    drag(window, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), (390, 390), middle, modifier=CTRL)
    assert window.arranger.centre() == pytest.approx(middle, abs=0.5), "copies turn about the polygon's centre"
    window.toolbox._toggle_arrange()
    arrange(window, copies=3)._make_copies()
    arcs = s.selection
    assert len(arcs) == 3
    s.select((triangle, *arcs))
    tool(window, "areas")
    apart = len(window.canvas.tool.net()[0].areas)
    type_into(field(window.toolbox.options, "close gaps"), "12")
    net, _ = window.canvas.tool.net()
    assert len(net.areas) > apart, "what nearly meets is closed"
    click(window, 460, 330)
    part = s.only_shape
    assert part is not None and 0 < area_of(s.document, part.id) < area_of(s.document, triangle) / 2
    option(window, "clear")
    assert [n.id for n in s.document.root.children] == [part.id]
    window.recipe.editor.open_first()
    QTest.mouseClick(next(b for b in window.recipe.findChildren(QToolButton) if b.text() == "linear"), LEFT)
    tool(window, "spindle")
    l, t, r, b = objects.selection_box(s.document, [part.id])
    laid = paint(window, part.id)
    drag(window, laid.start, (l + 20, b - 20), (l + 6, b - 6))
    assert paint(window, part.id).start == pytest.approx((l, b), abs=16) != laid.start  # at a point of the outline
    assert isinstance(paint(window, part.id), Linear) and not any(isinstance(i, Line) for i in s.only_shape.recipe)
    tool(window, "move")
    drag(window, ((l + r) / 2, (t + b) / 2), (390, 390), middle, modifier=CTRL)
    centre = window.arranger.centre()
    assert centre == pytest.approx(middle, abs=0.5)
    panel = arrange(window, copies=3)
    panel.linked.setChecked(True)
    panel._make_copies()
    parts = s.selection
    assert len(parts) == 3
    first, second = on_sheet(s.document, parts[0]), on_sheet(s.document, parts[1])
    turn = np.array(
        [
            [math.cos(2 * math.pi / 3), -math.sin(2 * math.pi / 3)],
            [math.sin(2 * math.pi / 3), math.cos(2 * math.pi / 3)],
        ]
    )
    about = np.array(centre)
    turned = (first.contours[0].points - about) @ turn.T + about
    back = (first.contours[0].points - about) @ turn + about
    assert min(np.abs(turned - second.contours[0].points).max(), np.abs(back - second.contours[0].points).max()) < 1e-6
    overlap = boolean(first, second, "intersect")
    assert abs(overlap.area()) < 0.02 * abs(first.area()), "they meet, and do not lie over one another"
    s.select(parts[1:2])
    tool(window, "recolour")
    window.canvas.tool.values["hue"] = 150.0
    window.canvas.tool.option_changed("hue", True)
    option(window, "keep")
    assert len({paint(window, i).stops for i in parts}) == 1, "one recoloured, all change"
    for _ in range(60):
        press(window, Qt.Key.Key_Z, CTRL)
    assert not s.document.root.children
