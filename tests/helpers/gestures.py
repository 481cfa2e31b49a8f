"""What a hand does in the window: the mouse at places of the sheet, keys, typing into fields, cards and panels."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from scenes import ball, lit_trio
from volumen.app.canvas.swatch_drag import MIME
from volumen.app.widgets.number import NumberField
from volumen.edit import objects
from volumen.formats.bitmaps import png_bytes
from volumen.formats.native import asset_key
from volumen.model.ingredients import Fill
from volumen.model.make import circle, linear, solid
from volumen.model.nodes import Asset, Document, Group, Image, RectangleForm, Shape
from volumen.model.tree import find

LEFT = Qt.MouseButton.LeftButton
SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


def at(window, x, y):
    cx, cy = window.canvas.viewport.to_canvas((x, y))
    return QPoint(round(cx), round(cy))


def drag(window, start, *way, modifier=Qt.KeyboardModifier.NoModifier):
    """Press at a sheet position, move along ``way``, release at its end."""
    canvas = window.canvas
    QTest.mousePress(canvas, LEFT, modifier, at(window, *start))
    for p in way:
        move(window, p, modifier)
    QTest.mouseRelease(canvas, LEFT, modifier, at(window, *way[-1]))


def roll(widget, place, steps, modifier=Qt.KeyboardModifier.NoModifier):
    """Turn the wheel over a place of a widget."""
    from PySide6.QtCore import QPointF
    from PySide6.QtGui import QWheelEvent
    from PySide6.QtWidgets import QApplication

    place = QPointF(place)
    QApplication.sendEvent(widget, QWheelEvent(
        place, widget.mapToGlobal(place), QPoint(), QPoint(0, steps), Qt.MouseButton.NoButton, modifier,
        Qt.ScrollPhase.NoScrollPhase, False,
    ))  # fmt: skip


def move(window, p, modifier):
    from PySide6.QtCore import QEvent, QPointF
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    place = QPointF(at(window, *p))
    event = QMouseEvent(QEvent.Type.MouseMove, place, window.canvas.mapToGlobal(place), LEFT, LEFT, modifier)
    QApplication.sendEvent(window.canvas, event)


def press(window, key, modifier=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(window.canvas, key, modifier)


def settle(qtbot, window):
    qtbot.waitUntil(lambda: window.link.idle, timeout=20000)


def show(win, doc, *selected):
    win.session.open(doc, None, "test")
    win.session.select(selected)


def field(parent, name):
    return next(f for f in parent.findChildren(NumberField) if f.accessibleName() == name)


def type_into(field, text):
    field.setFocus()
    field.selectAll()
    QTest.keyClick(field, Qt.Key.Key_Delete)
    QTest.keyClicks(field, text)
    QTest.keyClick(field, Qt.Key.Key_Return)


def number_fields(holder):
    return [f for f in holder.findChildren(NumberField) if f.isVisibleTo(holder)]


def changed(window):
    """A document with something to lose."""
    s = window.session
    s.open(lit_trio(), None, "trio")
    s.apply("opacity", objects.set_fields(s.document, [1], opacity=0.5))
    return s.document


FADE = linear((100, 200), (300, 200), (0, "#c8402a"), (1, "#0f4a49"))


def put(window, *nodes, **more):
    window.session.open(Document(root=Group(0, "pile", nodes), next_id=50, **more), None, "test")
    window.session.set_stage(2)


def paint(window, i=1):
    return find(window.session.document, i).recipe[0].paint


def bar(node_id=1, y=150, recipe=None):
    return Shape(node_id, f"bar {node_id}", RectangleForm(100, y, 200, 100), recipe or (Fill(FADE),))


def paint_editor_of(window):
    from volumen.app.widgets.paint_editor import PaintEditor

    return window.recipe.widget().findChild(PaintEditor)


def swatch_data(swatch):
    from PySide6.QtCore import QMimeData

    data = QMimeData()
    c = swatch.colour
    data.setData(MIME, f"{swatch.id} {c.r} {c.g} {c.b} {c.a}".encode())
    return data


def photographed(window):
    """A photograph of a ball on the sheet, and a disc beside it to become its likeness."""
    data = png_bytes(np.round(ball(240) * 255).astype(np.uint8))
    image = Image(2, "photograph", asset_key(data), 240.0, 240.0, transform=(1, 0, 0, 1, 60, 100))
    r = 240 * 0.46 - 1.5
    shape = Shape(1, "shell", circle(180, 220, r), (solid("#808080"),))
    put(window, image, shape, assets=(Asset(asset_key(data), data),))
