"""Driving the window as a hand does: tools by their rows, options by their buttons, numbers by typing."""

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from gestures import LEFT, at
from volumen.geometry.winding import simplified
from volumen.model.tree import find, world_of
from volumen.outline.outlines import outline

NONE = Qt.KeyboardModifier.NoModifier


def click(window, x, y, modifier=NONE):
    QTest.mouseClick(window.canvas, LEFT, modifier, at(window, x, y))


def double(window, x, y):
    QTest.mouseClick(window.canvas, LEFT, NONE, at(window, x, y))
    QTest.mouseDClick(window.canvas, LEFT, NONE, at(window, x, y))


def tool(window, name):
    """Choose a tool by clicking its row, unfolding the rest and changing the stage where needed."""
    window.take_tool(name)
    row = next(r for r in window.toolbox.rows if r.command.tool == name)
    QTest.mouseClick(row, LEFT)
    assert window.session.tool == name


def row(window, title):
    """Click a row that acts at once."""
    window.toolbox.unfolded = True
    window.toolbox.rebuild()
    QTest.mouseClick(next(r for r in window.toolbox.rows if r.command.short == title), LEFT)


def option(window, method):
    QApplication.processEvents()  # the buttons were made a moment ago
    QTest.mouseClick(window.toolbox.options.buttons[method], LEFT)


def arrange(window, **values):
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


def names(window):
    return [n.name for n in window.session.document.root.children]


def on_outline(session):
    """A place on the selected outline between two points, on the sheet."""
    from volumen.geometry.curve import evaluate

    shape = session.only_shape
    path = outline(shape).transformed(world_of(session.document, shape.id))
    return tuple(evaluate(path.contours[0].segments[:1], np.array([0.4]))[0])


def length_of(shape):
    from volumen.geometry.curve import length

    return sum(length(c) for c in outline(shape).contours)
