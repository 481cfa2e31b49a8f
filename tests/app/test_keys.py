"""Keys reach what has the focus first; commands that cannot act say what they need."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QComboBox, QPlainTextEdit

from gestures import show
from scenes import disc, document, solid
from volumen.app.state.registry import is_single
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.slider import Track
from volumen.app.widgets.stopbar import StopBar
from volumen.model.ingredients import CastShadow, Fill
from volumen.model.nodes import Group, Shape, TextForm
from volumen.shading.paint import Linear, Stop, colour

pytestmark = pytest.mark.one_window

RAMP = Linear((Stop(0.0, colour("#f0ae45")), Stop(1.0, colour("#20242a"))), (40, 40), (90, 90))
ARROWS = (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right)


def find(holder, kind, name=""):
    return next(w for w in holder.findChildren(kind) if w.isVisibleTo(holder) and name in w.accessibleName())


def lift(w):
    return find(w.recipe, NumberField, "lift")


# Each kind of control, and how to come by one in the window.
CONTROLS = {
    "number": lift,
    "slider": lambda w: find(w.recipe, Track, "lift"),
    "choice": lambda w: find(w.recipe, QComboBox, "blend mode"),
    "pile": lambda w: w.pile.tree,
    "search": lambda w: w.pile.search,
    "tool row": lambda w: w.toolbox.rows[1],
    "button": lambda w: w.recipe.add_button,
    "text": lambda w: find(w.recipe, QPlainTextEdit),
    "stops": lambda w: find(w.recipe, StopBar),
    "command list": lambda w: (w.registry.run("help.list"), w.command_list.field)[1],
}


@pytest.mark.parametrize("name", CONTROLS)
def test_arrows_and_letters_belong_to_the_control_that_has_the_focus(window, name):
    word = Shape(1, "word", TextForm("Bo", size=60, x=40, y=90), (Fill(RAMP), CastShadow()), lift=4.0)
    show(window, document(word, disc(2, 150, 150, 20), side=200), 1)
    window.recipe.editor.toggle(0)
    QApplication.processEvents()
    control = CONTROLS[name](window)
    control.setFocus()
    QApplication.processEvents()
    assert control.hasFocus()
    place, tool = window.session.document.root.children[0].transform, window.session.tool
    for key in ARROWS:
        QTest.keyClick(control, key)
    for letter in "ebdos.,n":
        QTest.keyClick(control, letter)
    s = window.session
    assert s.document.root.children[0].transform == place, "nothing was nudged"
    assert s.tool == tool and not s.flat and not s.values and s.snapping
    assert len(s.document.root.children[0].recipe) == 2, "nothing was added"
    if window.command_list is not None:
        window.command_list.hide()


def test_the_controls_do_take_their_arrows(window):
    show(
        window,
        document(disc(1, 70, 70, 30, solid("#2b8577"), CastShadow(), lift=4.0), disc(2, 150, 150, 20), side=200),
        1,
    )
    s = window.session
    number, track = lift(window), find(window.recipe, Track, "lift")
    number.setFocus()
    QTest.keyClick(number, Qt.Key.Key_Up)
    assert s.first.lift == 5.0
    track.setFocus()
    QTest.keyClick(track, Qt.Key.Key_Right)
    assert s.first.lift == pytest.approx(5.6), "a hundredth of the slider"
    QTest.keyClick(track, Qt.Key.Key_Home)
    assert s.first.lift == 0.0
    QTest.keyClick(track, Qt.Key.Key_End)
    assert s.first.lift == 60.0
    s.select((2,))
    window.pile.tree.setFocus()
    QTest.keyClick(window.pile.tree, Qt.Key.Key_Down)
    assert s.selection == (1,)


def test_on_the_sheet_single_keys_act(window):
    show(window, document(disc(1, 70, 70, 30), side=200), 1)
    s, canvas = window.session, window.canvas
    canvas.setFocus()
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    QTest.keyClick(canvas, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
    assert s.first.transform[4:] == (1.0, 10.0)
    QTest.keyClick(canvas, "e")
    assert s.tool == "ellipse"
    QTest.keyClick(canvas, "m")
    QTest.keyClick(canvas, ".")
    QTest.keyClick(canvas, ",")
    assert s.tool == "move" and s.flat and s.values
    QTest.keyClick(canvas, "d")
    assert isinstance(s.first.recipe[-1], CastShadow)


def test_a_field_that_is_left_gives_the_keyboard_back_to_the_sheet(window):
    show(window, document(disc(1, 70, 70, 30), side=200), 1)
    number = lift(window)
    number.setFocus()
    QTest.keyClick(number, Qt.Key.Key_Escape)
    QApplication.processEvents()
    assert window.canvas.hasFocus()


def test_keys_with_control_work_from_anywhere(window):
    show(window, document(disc(1, 70, 70, 30), disc(2, 150, 150, 20), side=200), 1)
    window.pile.tree.setFocus()
    QTest.keyClick(window.pile.tree, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier)
    assert len(window.session.document.root.children) == 3
    QTest.keyClick(window.pile.tree, Qt.Key.Key_Delete)
    assert len(window.session.document.root.children) == 2


@pytest.mark.parametrize(
    ("keys", "single"),
    [("E", True), ("Shift+E", True), ("Up", True), (".", True), ("F2", False), ("Ctrl+G", False), ("Del", False),
     ("Backspace", False), ("Ctrl+Shift+Up", False), ("Ctrl++", False), ("Shift+Left", True)],
)  # fmt: skip
def test_which_keys_are_single(keys, single):
    assert is_single(keys) is single


# -- commands


def test_every_command_that_cannot_act_says_what_it_needs(window):
    s = window.session
    s.select(())
    silent = []
    for command in window.registry:
        if command.enabled():
            continue
        before, s.note = s.document, ""
        assert not window.registry.run(command.id)
        if not (command.need.words and command.need.words in s.note) or s.document is not before:
            silent.append(command.id)
    assert not silent
    assert sum(not c.enabled() for c in window.registry) > 60
    window.menus.refresh()
    action = window.menus._actions["object.group"]
    assert not action.isEnabled() and "select an object first" in action.toolTip()
    window.menus.release_keys()


NOTHING_TO_DO = {
    "edit.undo": "nothing was done yet", "edit.redo": "nothing was undone", "edit.paste": "nothing on the clipboard",
    "object.ungroup": "select a group", "combine.union": "two or more objects, or one group", "combine.release": "live combination",
    "object.to_path": "plain points", "object.line_to_outline": "has a line", "combine.join_ends": "open path",
    "colour.spine": "stepped blend", "object.text_on_path": "a text and a path", "object.unlink": "linked copy",
    "view.clear_guides": "no guides", "colour.write_palette": "no swatches", "edit.strays": "no stray points",
    "edit.duplicates": "no object lies exactly", "object.dim": "reference image", "edit.paste_recipe": "copy a recipe",
    "object.align_left": "nothing to change", "object.front": "nothing to change", "object.freeze": "plain already",
}  # fmt: skip


@pytest.mark.parametrize("command", NOTHING_TO_DO)
def test_a_command_with_nothing_to_do_says_so_and_leaves_no_step(window, command):
    from PySide6.QtGui import QGuiApplication

    from volumen.model.make import corner, path_form

    QGuiApplication.clipboard().clear()
    form = path_form(corner(0, 40), corner(60, 40), corner(60, 90), corner(0, 90))
    show(window, document(Shape(1, "plain", form, (solid("#2b8577"),)), side=200), 1)
    s = window.session
    s.note = ""
    window.registry.run(command)
    assert NOTHING_TO_DO[command] in s.note
    assert s.history.undo_label is None


def test_menus_are_short_and_every_command_is_in_one(window):
    seen = []

    def look(menu):
        rows = [a for a in menu.actions() if not a.isSeparator()]
        assert len(rows) <= 22, menu.title()
        for action in rows:
            if action.menu() is not None:
                look(action.menu())
            else:
                seen.append(action)

    for action in window.menuBar().actions():
        look(action.menu())
    assert len(seen) == len(list(window.registry))


def test_the_command_list_chooses_the_first_and_finds_by_other_words(window):
    show(window, document(Group(1, "g", (disc(2, 70, 70, 30),)), side=200), 1)
    window.registry.run("help.list")
    found = window.command_list
    field = found.field
    for typed, first in (
        ("union", "Union, live"),
        ("drop shadow", "Add cast shadow"),
        ("group", "Group"),
        ("stroke", "Add line"),
    ):
        field.clear()
        QTest.keyClicks(field, typed)
        assert found.list.currentRow() == 0 and found.list.item(0) is found.list.currentItem()
        assert any(found.list.item(k).text().startswith(first) for k in range(found.list.count())), typed
    field.clear()
    QTest.keyClicks(field, "exclude, live")
    assert "two or more objects" in found.list.currentItem().text(), "what cannot act says why"
    QTest.keyClick(field, Qt.Key.Key_Return)
    assert "two or more objects" in window.session.note


def test_the_window_fits_a_small_screen_and_panels_fold(window):
    assert window.minimumSizeHint().width() <= 1024 and window.minimumSizeHint().height() <= 700
    for side in ("left", "right"):
        window.registry.run(f"view.{side}")
        assert window.folded(side)
        window.registry.run(f"view.{side}")
        assert not window.folded(side)
    window.fit_screen()
    free = window.screen().availableGeometry()
    assert window.height() <= max(free.height(), window.minimumSizeHint().height())


def test_no_colour_of_a_dark_system_shows_through(window, qapp):
    palette = qapp.palette()
    for text, ground in (
        (palette.ColorRole.WindowText, palette.ColorRole.Window), (palette.ColorRole.Text, palette.ColorRole.Base),
        (palette.ColorRole.ButtonText, palette.ColorRole.Button), (palette.ColorRole.ToolTipText, palette.ColorRole.ToolTipBase),
    ):  # fmt: skip
        a, b = palette.color(text).lightnessF(), palette.color(ground).lightnessF()
        assert abs(a - b) > 0.6
