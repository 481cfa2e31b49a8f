"""Every field of every card, tool and panel takes what a hand may type: what cannot be is said, never kept."""

from __future__ import annotations

import math
from typing import get_args

import msgspec
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit
from shiboken6 import delete, isValid

from gestures import number_fields, show, type_into
from ingredient_cases import ingredient
from scenes import disc, document, solid
from volumen.app.state.news import Stage
from volumen.app.state.registry import offered
from volumen.app.widgets.number import NumberField
from volumen.edit import objects, palette
from volumen.formats import native
from volumen.model import ingredients as model
from volumen.model import limits
from volumen.model.catalogue.forms import FORM_ROWS
from volumen.model.fitting import NotTaken, fitted, is_whole
from volumen.model.make import circle
from volumen.model.nodes import (
    CloudForm,
    CombinedForm,
    Document,
    DropForm,
    EllipseForm,
    Group,
    PolygonForm,
    RectangleForm,
    Shape,
    SpiralForm,
    StarForm,
    TextForm,
)
from volumen.model.validate import validate
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour, Conic, Grain, Inward, Linear, Radial, Solid, Stop, colour

replace = msgspec.structs.replace
TYPED = ("5", "5.7", "-3", "0", "", "rubbish", "nan", "inf", "1e400", "1/0", "1e9", "-1e9", "99999999999999999999")
FORMS = (
    EllipseForm(40, 40, 60, 50), RectangleForm(40, 40, 60, 50), PolygonForm(40, 40, 60, 50), StarForm(40, 40, 60, 50),
    DropForm(40, 40, 60, 50), CloudForm(40, 40, 60, 50), SpiralForm((70, 70), 40), TextForm("Bo", size=40, x=40, y=90),
)  # fmt: skip
STOPS = (Stop(0.0, colour("#f0ae45")), Stop(1.0, colour("#20242a")))
PAINTS = (
    Solid(colour("#2b8577"), grain=Grain()), Linear(STOPS, (40, 40), (90, 90), grain=Grain()),
    Radial(STOPS, (70, 70), 30, (64, 62)), Conic(STOPS, (70, 70)), Inward(STOPS, 5.0),
)  # fmt: skip


def writable(document):
    """A document that is valid and comes back from its file as it is."""
    validate(document)
    plain = replace(document, assets=())
    assert native.decode(native.encode(plain), "again") == plain


def open_card(window, index):
    """Opened as if no card had been: one of a kind stays open from object to object, and here the window does, too."""
    window.recipe.editor.open_kinds.clear()
    window.recipe.editor.toggle(index)
    QApplication.processEvents()


def drive(window, holder):
    """Type everything into every field of a panel; the panel may be built anew by what is typed."""
    count, seen = len(number_fields(holder())), None
    for k in range(count):
        for text in TYPED:
            fields = number_fields(holder())
            if k < len(fields):
                type_into(fields[k], text)
                if window.session.document is not seen:  # most of what is typed is refused
                    seen = window.session.document
                    writable(seen)
    return count


@pytest.mark.parametrize("kind", get_args(model.Ingredient), ids=lambda k: k.__name__)
def test_every_field_of_every_card(unseen, kind):
    i = ingredient(kind)
    if kind in (model.Steps, model.Seams):
        node = Group(1, "pair", (disc(2, 50, 60, 20), disc(3, 120, 60, 20)), (i,))
    else:
        node = Shape(1, "thing", circle(70, 70, 30), (solid("#2b8577"), i), lift=4.0)
    show(unseen, document(node, side=200), 1)
    open_card(unseen, len(node.recipe) - 1)
    assert drive(unseen, lambda: unseen.recipe) >= 6


@pytest.mark.parametrize("form", FORMS, ids=lambda f: type(f).__name__)
def test_every_field_of_every_form(unseen, form):
    show(unseen, document(Shape(1, "thing", form, (solid("#2b8577"),)), side=200), 1)
    assert drive(unseen, lambda: unseen.recipe.parameters) == sum(
        type(r).__name__ == "Number" for r in FORM_ROWS[type(form)].controls
    )


@pytest.mark.parametrize("paint", PAINTS, ids=lambda p: type(p).__name__)
def test_every_field_of_every_paint(unseen, paint):
    show(unseen, document(Shape(1, "thing", circle(70, 70, 30), (model.Fill(paint),)), side=200), 1)
    open_card(unseen, 0)
    assert drive(unseen, lambda: unseen.recipe.cards[0]) >= 5


def test_every_field_of_every_tool_and_panel(unseen):
    show(unseen, document(disc(1, 70, 70, 30), disc(2, 120, 90, 20), side=200), 1)
    QApplication.processEvents()
    driven = 0
    for stage in Stage:
        for name in dict.fromkeys(c.tool for _, c in offered(unseen.registry, stage) if c.tool):
            unseen.session.set_stage(stage)
            unseen.take_tool(name)
            QApplication.processEvents()
            driven += drive(unseen, lambda: unseen.toolbox.options)
    unseen.session.set_stage(0)
    unseen.take_tool("move")
    unseen.toolbox._toggle_arrange()
    driven += drive(unseen, lambda: unseen.toolbox.arrange)
    for button in ("apply", "make step copies"):
        found = next(
            b for b in unseen.toolbox.arrange.findChildren(type(unseen.recipe.add_button)) if b.text() == button
        )
        QTest.mouseClick(found, Qt.MouseButton.LeftButton)
        writable(unseen.session.document)
    unseen.session.set_stage(3)
    driven += drive(unseen, lambda: unseen.toolbox.lamp_options)
    unseen.session.set_stage(4)
    driven += drive(unseen, lambda: unseen.proof)
    assert driven > 25


def test_text_fields_take_any_text(unseen):
    show(
        unseen,
        document(
            Shape(1, "word", TextForm("Bo", size=40, x=40, y=90), (model.Line(Solid(colour("#20242a")), 3.0),)),
            side=200,
        ),
        1,
    )
    open_card(unseen, 0)
    for field in [f for f in unseen.recipe.findChildren(QLineEdit) if not isinstance(f, NumberField) and f.isVisible()]:
        for text in ("", "12 6", "-1 -1", "nan", "\ud800x", "#zzz", "9" * 400):
            field.setFocus()
            field.selectAll()
            field.insert(text)
            QTest.keyClick(field, Qt.Key.Key_Return)
            writable(unseen.session.document)


def test_whole_numbers_stay_whole_and_the_worker_lives(window, qtbot):
    pair = Group(1, "pair", (disc(2, 50, 60, 20), disc(3, 140, 60, 20)), (model.Steps(),))
    show(window, document(pair, side=200), 1)
    process = window.link.client.process.pid
    window.recipe.editor.toggle(0)
    QApplication.processEvents()
    count = next(f for f in number_fields(window.recipe.cards[0]) if f.accessibleName() == "count")
    type_into(count, "5.4")
    steps = window.session.first.recipe[0]
    assert steps.count == 5 and type(steps.count) is int and count.text() == "5"
    type_into(count, "4000")
    assert window.session.first.recipe[0].count == 500 and "count: 0 to 500" in window.session.note
    type_into(count, "nonsense")
    assert window.session.first.recipe[0].count == 500 and "not a number" in window.session.note
    type_into(count, "6")
    qtbot.waitUntil(lambda: window.link.idle, timeout=20000)
    assert window.link.client.process.pid == process


# -- the one place where values are fitted


def test_values_are_brought_to_type_and_range_and_what_fits_stays_the_same_object():
    steps = model.Steps(count=3)
    assert fitted(model.Steps(count=7.6), steps).count == 8
    assert fitted(model.Steps(count=math.nan), steps).count == 3, "what is no number gives way to what was there"
    assert fitted(model.Steps(count=-4), steps).count == 0
    assert fitted(model.Line(Solid(colour("#20242a")), width=-2.0)).width == 0.0
    assert fitted(replace(steps, mode="sideways"), steps).mode == "count"
    assert fitted(steps) is steps
    with pytest.raises(NotTaken):
        fitted(model.Steps(count=math.nan))
    doc = document(disc(1, 50, 50, 20))
    assert fitted(doc) == doc
    wild = replace(doc, lamp=Lamp(10.0, 400.0, -3.0, math.inf))
    assert fitted(wild, doc).lamp == Lamp(10.0, 90.0, 0.0, doc.lamp.size)
    assert fitted(Colour(1.7, -0.2, 0.5)) == Colour(1.0, 0.0, 0.5)
    assert len(fitted(TextForm("x" * 30_000)).text) == limits.MAX_TEXT
    native.encode(replace(doc, root=replace(doc.root, name=fitted(TextForm("\ud800")).text)))


def test_only_what_changed_is_looked_at():
    many = document(*(disc(k, 10 + k, 50, 4) for k in range(1, 400)))
    moved = replace(
        many, root=replace(many.root, children=(replace(many.root.children[0], lift=math.nan), *many.root.children[1:]))
    )
    made = fitted(moved, many)
    assert made.root.children[0].lift == 0.0 and made.root.children[1] is many.root.children[1]
    assert fitted(made, made) is made


@pytest.mark.parametrize(
    ("kind", "field", "whole"),
    [(model.Steps, "count", True), (model.Speckle, "seed", True), (Grain, "seed", True), (PolygonForm, "sides", True),
     (StarForm, "points", True), (CloudForm, "count", True), (model.Bend, "count", False), (model.Line, "width", False),
     (CombinedForm, "min_area", False)],
)  # fmt: skip
def test_which_fields_are_whole(kind, field, whole):
    assert is_whole(kind, field) is whole


def test_every_limit_names_a_field_there_is():
    import volumen.model.nodes as nodes
    import volumen.model.repeats as repeats
    import volumen.shading.lamp as lamp
    import volumen.shading.paint as paint

    kinds = {k: v for m in (model, nodes, repeats, lamp, paint) for k, v in vars(m).items() if isinstance(v, type)}
    for name, (low, high) in limits.LIMITS.items():
        assert low < high
        kind, _, field = name.rpartition(".")
        owners = [kinds[kind]] if kind else kinds.values()
        assert any(field in getattr(o, "__struct_fields__", ()) for o in owners), name
    assert Document().grid == fitted(Document()).grid


def test_a_field_may_be_gone_when_what_it_changed_is_shown(qtbot):
    """A card that is built anew while its field still has the focus takes the field along."""
    field, gone = NumberField("depth"), []
    field.done.connect(lambda value: (gone.append(value), delete(field)))
    field.setText("7")
    field._typed()  # not by a key: the toolkit itself would still be at work on what is gone
    assert gone == [7.0]


def test_a_field_whose_entry_builds_its_panel_anew_lives_until_its_key_is_done(window):
    """The palette, the cards and the toolbox are built anew by what is entered in them."""
    s = window.session
    s.apply("swatch", palette.add_swatches(s.document, [("sea", colour("#2b8577"))])[0])
    window.swatches.edit(s.document.palette.swatches[0].id)
    (field,) = (f for f in window.swatches.findChildren(QLineEdit) if f.accessibleName() == "hex colour")
    before = s.document.palette.swatches[0].colour
    field.setFocus()
    field.selectAll()
    QTest.keyClicks(field, "#123456")
    QTest.keyPress(field, Qt.Key.Key_Return)
    assert s.document.palette.swatches[0].colour != before and isValid(field)
    old = window.swatches.widget()
    window.swatches.refresh()
    window.swatches.edit(None)
    assert isValid(old) and window.swatches.widget() is not old and not old.isVisible()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert not isValid(old), "and goes then"


def typed_not_entered(window, text):
    s = window.session
    s.open(document(disc(1, 60, 60, 30), disc(2, 140, 140, 30)), None, "two")
    s.select((1,))
    s.apply("before", objects.set_lift(s.document, [1], 4.0))
    number = window.recipe._fields["lift"].number
    number.setFocus()
    number.selectAll()
    QTest.keyClicks(number, text)
    return s


def test_what_is_typed_counts_before_the_next_command(window):
    """Undo from the menu takes back what was typed, and not the step before it with the typing put on top."""
    s = typed_not_entered(window, "33")
    window.registry.run("edit.undo")
    assert [n.lift for n in s.document.root.children] == [4.0, 0.0] and s.history.redo_label is not None
    window.registry.run("edit.redo")
    assert s.document.root.children[0].lift == 33.0


def test_what_is_typed_for_one_object_is_never_put_on_another(window):
    """The selection is changed from elsewhere while a field holds an entry: it goes with its object."""
    s = typed_not_entered(window, "33")
    s.select((2,))
    QApplication.processEvents()
    assert [n.lift for n in s.document.root.children] == [4.0, 0.0]
