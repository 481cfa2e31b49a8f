"""After a click of a real mouse into any panel, a tool's key reaches the sheet."""

from __future__ import annotations

from collections import Counter

import pytest
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLineEdit, QToolButton, QWidget
from shiboken6 import isValid

from gestures import LEFT, show
from scenes import disc, document, solid
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.stopbar import StopBar
from volumen.app.window.keys import is_typed_into
from volumen.model import limits
from volumen.model.ingredients import Body, CastShadow, Fill
from volumen.model.nodes import Group, Shape, TextForm
from volumen.shading.paint import Linear, Stop, colour

pytestmark = pytest.mark.one_window

_OF_A_KIND = 2  # in one panel
RAMP = Linear((Stop(0.0, colour("#f0ae45")), Stop(1.0, colour("#20242a"))), (40, 40), (90, 90))


def real_click(window, widget, place=None):
    """The mouse on the screen's window: the toolkit finds the widget and gives the focus itself."""
    place = widget.mapTo(window, place or widget.rect().center())
    QTest.mouseClick(window.windowHandle(), LEFT, Qt.KeyboardModifier.NoModifier, place)
    QApplication.processEvents()


def real_key(window, key):
    QTest.keyClick(window.windowHandle(), key)
    QApplication.processEvents()


def artwork():
    word = Shape(1, "word", TextForm("Bo", size=60, x=40, y=90), (Fill(RAMP), Body("ball"), CastShadow()), lift=4.0)
    return document(word, disc(2, 150, 150, 20, solid("#2b8577")), Group(3, "pair", (disc(4, 30, 150, 10),)), side=200)


def sides(window):
    return (window.recipe, window.toolbox, window.swatches, window.pile, window.section, window.proofs, window.proof)


def to_click(window, holder):
    """Where the mouse can go: widgets that are seen, of which the place in their middle is theirs. What opens a dialog of
    the desktop or a menu is left out; of those that are alike some will do."""
    seen: Counter[object] = Counter()
    for w in holder.findChildren(QWidget):
        if not w.isVisible() or not w.isEnabled() or w.visibleRegion().isEmpty():
            continue
        if (isinstance(w, QToolButton) and w.menu() is not None) or isinstance(w, QComboBox):
            continue
        if isinstance(w, QAbstractButton) and w.text().endswith("…"):
            continue
        alike = (type(w), type(w.parentWidget()))
        if seen[alike] < _OF_A_KIND and window.childAt(w.mapTo(window, w.rect().center())) is w:
            seen[alike] += 1
            yield w


def close_what_waits():
    """A menu or a dialog that a click opened is closed by Escape, as a hand does."""
    waiting = QApplication.activePopupWidget() or QApplication.activeModalWidget()
    if waiting is not None:
        QTest.keyClick(waiting, Qt.Key.Key_Escape)
        waiting.close()


@pytest.fixture(autouse=True)
def at_the_front(window, qtbot):
    """Windows of other tests may have the focus."""
    window.activateWindow()
    qtbot.waitUntil(window.isActiveWindow, timeout=5000)


def put(window, stage):
    show(window, artwork(), 1)
    window.activateWindow()
    window.session.set_stage(stage)
    window.session.set_tool("move")
    window.canvas.setFocus()
    QApplication.processEvents()


@pytest.mark.parametrize(("stage", "opened"), [(0, None), (1, 2), (2, 0), (3, 1)])
def test_a_click_on_any_widget_leaves_the_keys_to_the_sheet(window, stage, opened):
    guard = QTimer(interval=10)
    guard.timeout.connect(close_what_waits)
    guard.start()
    dead, count = [], 0
    put(window, stage)
    while True:
        put(window, stage)
        if opened is not None:
            window.recipe.editor.open_kinds.clear()
            window.recipe.editor.toggle(opened)
            QApplication.processEvents()
        found = [w for side in sides(window) if side.isVisible() for w in to_click(window, side)]
        if count >= len(found):
            break
        w = found[count]
        count += 1
        what = f"{type(w).__name__} '{w.accessibleName() or w.objectName()}'"
        typed = is_typed_into(w) or is_typed_into(w.parentWidget())
        real_click(window, w)
        if window.session.stage == 4 or QApplication.activeModalWidget() or not window.isActiveWindow():
            continue
        typed = typed or is_typed_into(window.focusWidget())  # it asks for a name
        if typed:
            real_key(window, Qt.Key.Key_Escape)
        real_key(window, "r")
        if window.session.tool != "rectangle":
            dead.append(what)
        del w
    assert not dead
    assert count > 20


def test_the_five_minutes_of_the_readme(window):
    """A click on the card Fill, then F5 and B: there is a body."""
    show(window, document(disc(1, 70, 70, 30, solid("#2b8577")), side=200), 1)
    window.session.set_stage(0)
    real_click(window, window.recipe.cards[0], QPoint(60, 10))
    real_key(window, Qt.Key.Key_F5)
    real_key(window, "b")
    assert any(isinstance(i, Body) for i in window.session.first.recipe)
    real_click(window, window.recipe.cards[0], QPoint(60, 10))
    QTest.keyPress(window.windowHandle(), Qt.Key.Key_L)
    assert window.canvas.lamp_held
    QTest.keyRelease(window.windowHandle(), Qt.Key.Key_L)
    assert not window.canvas.lamp_held


@pytest.mark.parametrize("key", [Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape])
def test_enter_and_escape_in_a_field_give_the_keys_back(window, key):
    put(window, 3)
    for kind in (NumberField, QLineEdit):
        field = next(f for f in (*window.recipe.findChildren(kind), window.pile.search) if isValid(f) and f.isVisible())
        real_click(window, field)
        assert field.hasFocus()
        real_key(window, "5")
        real_key(window, key)
        assert window.canvas.hasFocus()
        real_key(window, "r")
        assert window.session.tool == "rectangle"
        put(window, 3)
    window.pile.search.clear()


def test_a_field_is_left_by_a_click_beside_it(window):
    put(window, 3)
    field = next(f for f in window.recipe.findChildren(NumberField) if f.isVisible())
    real_click(window, field)
    assert field.hasFocus()
    real_click(window, window.recipe.cards[0], QPoint(60, 10))
    assert window.canvas.hasFocus()


def test_a_list_that_was_clicked_keeps_its_arrows_and_delete_is_the_stops(window):
    put(window, 2)
    tree = window.pile.tree
    item = window.pile._items[2]
    real_click(window, tree.viewport(), tree.visualItemRect(item).center())
    assert window.session.selection == (2,)
    real_key(window, Qt.Key.Key_Down)
    assert window.session.selection == (1,)
    real_key(window, "r")
    assert window.session.tool == "rectangle" and window.canvas.hasFocus()
    window.recipe.editor.toggle(0)
    QApplication.processEvents()
    bar = next(b for b in window.recipe.findChildren(StopBar) if b.isVisible())
    real_click(window, bar, QPoint(round(bar._x(1.0)), 30))
    real_key(window, Qt.Key.Key_Delete)
    assert len(window.session.first.recipe[0].paint.stops) == 1
    real_key(window, "e")
    assert window.session.tool == "ellipse"


def test_what_a_command_believes_of_an_edit_that_was_refused_is_not_heard(window, qtbot, monkeypatch):
    s = window.session
    s.open(document(disc(1, 100, 100, 40)), None, "refused")
    monkeypatch.setattr(limits, "MAX_NODES", 1)
    s.select((1,))
    window.registry.run("edit.duplicate")
    s.say("two objects now")
    assert s.note.startswith("duplicate: ") and len(s.document.root.children) == 1
    qtbot.wait(1)
    s.say("heard again")
    assert s.note == "heard again"
