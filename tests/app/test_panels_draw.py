"""Cards and panels of Draw and Carve: every form's numbers, dashes, profiles, arranging by number, rows and options."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox, QComboBox, QLineEdit

from driving import tool
from gestures import CTRL, LEFT, press
from volumen.app.panels.card_line_rows import PRESETS
from volumen.edit import objects
from volumen.edit.strokes import read_dashes, save_profile
from volumen.model.catalogue.forms import FORM_ROWS
from volumen.model.ingredients import Bend, Line, Offset, Rim, Rounding, Thickness
from volumen.model.make import circle, corner, path_form, solid
from volumen.model.nodes import (
    ArcForm,
    CloudForm,
    CombinedForm,
    Document,
    DropForm,
    Group,
    PolygonForm,
    RectangleForm,
    SegmentForm,
    Shape,
    SpiralForm,
    StarForm,
    TextForm,
    WidthProfile,
)
from volumen.model.tree import find
from volumen.shading.paint import Solid, colour

pytestmark = pytest.mark.one_window

FORMS = [
    circle(200, 200, 80),
    RectangleForm(100, 100, 200, 120),
    PolygonForm(100, 100, 200, 200),
    StarForm(100, 100, 200, 200),
    DropForm(100, 100, 100, 160),
    CloudForm(100, 100, 200, 140),
    SpiralForm((200, 200), 90.0),
    SegmentForm((100, 100), (300, 200)),
    ArcForm((100, 200), (200, 100), (300, 200)),
    TextForm("Quay", "Bebas Neue", "Regular", 80, 100, 200),
    path_form(corner(100, 100), corner(300, 100), corner(200, 300)),
]
INK = Line(Solid(colour("#0d1c2a")), 8.0)


def show(window, *nodes):
    highest = max(n.id for n in nodes)
    window.session.open(Document(root=Group(0, "pile", nodes), next_id=highest + 20), None, "d")
    window.session.select((nodes[0].id,))


@pytest.mark.parametrize("form", FORMS, ids=lambda f: type(f).__name__)
def test_every_form_shows_its_numbers_and_takes_new_ones(window, form):
    show(window, Shape(1, "s", form, (solid("#2b8577"),)))
    panel = window.recipe.parameters
    assert FORM_ROWS[type(form)].title
    for row in FORM_ROWS[type(form)].controls:
        before = window.session.document
        value = getattr(form, row.field)
        if isinstance(value, bool):
            next(c for c in panel.findChildren(QCheckBox) if c.text() == row.label).click()
        elif isinstance(value, str):
            box = next(c for c in panel.findChildren(QComboBox) if c.accessibleName() == row.label)
            box.setCurrentIndex((box.currentIndex() + 1) % box.count())
            box.activated.emit(box.currentIndex())
        else:
            panel._set(row.field, value + 1 if value + 1 <= row.hard_high else value - 1, True)
        assert window.session.document is not before, row.field
        press(window, Qt.Key.Key_Z, CTRL)
        assert getattr(window.session.only_shape.form, row.field) == value


def test_each_corner_of_a_rectangle_takes_its_own_radius(window):
    show(window, Shape(1, "s", RectangleForm(100, 100, 200, 120, 10.0), (solid("#2b8577"),)))
    panel = window.recipe.parameters
    next(c for c in panel.findChildren(QCheckBox) if "own radius" in c.text()).click()
    panel._set_corner(2, 40.0, True)
    assert window.session.only_shape.form.radii == (10.0, 10.0, 40.0, 10.0)


def test_two_shapes_of_one_kind_change_together(window):
    show(window, *(Shape(i, "s", StarForm(100 * i, 100, 80, 80), (solid("#2b8577"),)) for i in (1, 2)))
    window.session.select((1, 2))
    window.recipe.parameters._set("points", 9.0, True)
    assert [n.form.points for n in window.session.nodes] == [9, 9]


def test_text_is_changed_in_its_card_and_a_missing_font_is_named(window):
    show(window, Shape(1, "t", TextForm("Quay", "No Such Face", "Bold", 60, 100, 200), (solid("#2b8577"),)))
    panel = window.recipe.parameters
    notes = [w.text() for w in panel.children() if hasattr(w, "text")]
    assert any("No Such Face" in n and "shown in Vollkorn" in n for n in notes)
    from PySide6.QtWidgets import QPlainTextEdit

    words = panel.findChild(QPlainTextEdit)
    words.setFocus()
    words.selectAll()
    QTest.keyClicks(words, "Pier 4")
    assert window.session.only_shape.form.text == "Pier 4" and window.session.only_shape.name == "Pier 4"


def test_combination_card_changes_operation_specks_and_holes(window):
    members = tuple(Shape(i, "m", circle(150 + 60 * i, 200, 80), (solid("#2b8577"),), member=True) for i in (2, 3))
    show(window, Shape(1, "c", CombinedForm("union"), (solid("#2b8577"),), members))
    for operation in ("subtract", "intersect", "exclude", "divide", "cut hidden"):
        window.recipe.parameters._set("operation", operation, True)
        assert window.session.only_shape.form.operation == operation
    window.recipe.parameters._set("fill_holes", True, True)
    assert window.session.only_shape.form.fill_holes
    window.session.select((2,))
    press(window, Qt.Key.Key_Right)
    assert find(window.session.document, 2).transform[4] == 1, "a member is moved on its own"


@pytest.mark.parametrize(
    ("text", "found"),
    [("12 6", (12.0, 6.0)), ("3,1", (3.0, 1.0)), ("", ()), ("0 0", None), ("a", None), ("-1 2", None)],
)
def test_dashes_are_read_or_refused(text, found):
    assert read_dashes(text) == found


def test_a_line_takes_dashes_profiles_and_saved_ones(window):
    show(
        window,
        Shape(1, "l", SegmentForm((100, 200), (500, 200)), (INK,)),
        Shape(2, "m", SegmentForm((100, 300), (500, 300)), (INK,)),
    )
    window.recipe.editor.toggle(0)
    card = window.recipe.cards[0]
    field = next(f for f in card.findChildren(QLineEdit) if f.accessibleName() == "dashes")
    field.setText("14 7")
    field.editingFinished.emit()
    assert window.session.only_shape.recipe[0].dashes == (14.0, 7.0)
    box = next(c for c in card.findChildren(QComboBox) if c.accessibleName() == "width profile")
    box.setCurrentText("leaf")
    box.activated.emit(box.currentIndex())
    leaf = PRESETS["leaf"]
    assert window.session.only_shape.recipe[0].profile == leaf
    saved = save_profile(window.session.document, "reed", leaf)
    assert saved.profiles == (WidthProfile("reed", leaf),)
    other = ((0.0, 1.0, 1.0), (1.0, 0.2, 0.2))
    again = save_profile(saved, "reed", other)
    assert find(again, 1).recipe[0].profile == other, "lines that used the saved profile follow"
    assert find(again, 2).recipe[0].profile is None


def test_aligning_and_spacing_by_the_panels_buttons(window):
    discs = [Shape(i, "d", circle(100 * i, 60 * i, 10 * i), (solid("#2b8577"),)) for i in (1, 2, 3)]
    show(window, *discs)
    window.session.select((1, 2, 3))
    panel = window.toolbox.arrange
    for edge, k in (("left", 0), ("bottom", 3)):
        panel._aligner(edge)()
        places = {round(objects.selection_box(window.session.document, [i])[k], 6) for i in (1, 2, 3)}
        assert len(places) == 1, edge
        press(window, Qt.Key.Key_Z, CTRL)
    panel.to.setCurrentIndex(2)
    panel._aligner("right")()
    assert objects.selection_box(window.session.document, [1])[2] == pytest.approx(800)
    panel.fields["turn"].value = 90.0
    panel.fields["scale"].value = 50.0
    panel._apply()
    box = objects.selection_box(window.session.document, window.session.selection)
    panel.do.again()
    assert objects.selection_box(window.session.document, window.session.selection) != pytest.approx(box)
    panel.do.mirror(90, True)
    assert len(window.session.document.root.children) == 6


def test_scaling_keeps_line_widths_when_asked(window):
    show(window, Shape(1, "l", RectangleForm(100, 100, 200, 120), (INK, Rounding(12.0))))
    for child in window.toolbox.arrange.findChildren(QCheckBox):
        child.setChecked(True)
    assert window.session.keep_lengths
    window.toolbox.arrange.fields["scale"].value = 200.0
    window.toolbox.arrange._apply()
    line, rounding = window.session.only_shape.recipe
    assert (line.width, rounding.radius) == (4.0, 6.0), "halved, as the place now doubles them"


def test_rows_fold_and_options_follow_the_tool(window):
    shown = {r.command.short for r in window.toolbox.rows}
    assert "Spiral" not in shown and "Pen" in shown
    QTest.mouseClick(window.toolbox.fold, LEFT)
    assert "Spiral" in {r.command.short for r in window.toolbox.rows}
    tool(window, "star")
    assert {"width", "height", "points", "inner"} <= set(window.toolbox.options.sliders)
    tool(window, "points")
    assert {"x", "y"} <= set(window.toolbox.options.numbers) and "simplify" in window.toolbox.options.buttons
    window.toolbox.options.buttons["make_corner"].click()
    assert "select one shape" in window.session.note


def test_form_ingredients_are_added_from_the_menu_and_stack(window):
    show(window, Shape(1, "s", RectangleForm(200, 200, 200, 120), (solid("#2b8577"),)))
    for name, kind in (
        ("rounding", Rounding),
        ("offset", Offset),
        ("bend", Bend),
        ("thickness", Thickness),
        ("rim", Rim),
    ):
        assert window.registry.run(f"add.{name}")
        assert isinstance(window.session.only_shape.recipe[-1], kind)
    assert len(window.recipe.cards) == 6
    window.recipe.editor.reorder(4, 1)
    assert isinstance(window.session.only_shape.recipe[1], Thickness)
    window.recipe.editor.change(1, "switch ingredient", on=False)
    assert window.registry.run("object.to_path")
    assert [type(i).__name__ for i in window.session.only_shape.recipe] == ["Fill", "Rim"]
