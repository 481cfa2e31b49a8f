"""The sheet's settings by hand, and the fields of the window in its unit."""

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLabel

from gestures import LEFT, type_into
from scenes import disc, document
from volumen.app.commands.sheet_settings import SheetSettings
from volumen.model.make import empty_document
from volumen.model.sheet import PER_UNIT

MM = PER_UNIT["mm"]


def settings(window, name="file.sheet"):
    window.registry.run(name)
    QApplication.processEvents()
    return window.findChildren(SheetSettings)[-1]


def choose(box, word):
    n = next(n for n in range(box.count()) if box.itemText(n).startswith(word))
    box.setCurrentIndex(n)
    box.activated.emit(n)


def test_a_size_typed_in_mm_is_one_step_and_all_fields_follow(window):
    s = window.session
    s.open(document(disc(1, 100, 100, 50)), None, "sheet")
    dialog = settings(window)
    choose(dialog.unit, "mm")
    type_into(dialog.fields["width"], "10cm")
    type_into(dialog.fields["height"], "100 + 1in")
    type_into(dialog.fields["bleed"], "3")
    QTest.mouseClick(dialog.place.buttons[0.0, 0.0], LEFT)
    QTest.mouseClick(dialog.take_button, LEFT)
    sheet = s.document.sheet
    assert (sheet.width, sheet.height, sheet.bleed) == pytest.approx((100 * MM, 125.4 * MM, 3 * MM))
    assert "sheet 100 × 125.4 mm" in [q.text() for q in window.findChildren(QLabel)]
    s.select((1,))
    place = window.recipe._place
    assert float(place["x"].text()) == pytest.approx(50 / MM, abs=0.006), "the corner stayed where it was"
    type_into(place["x"], "20")
    assert s.document.root.children[0].transform[4] == pytest.approx(20 * MM - 50)
    s.undo()
    s.undo()
    assert s.document.sheet.unit == "px" and place["x"].text() == "50"


@pytest.mark.parametrize(("text", "limit"), [("0", 1.0), ("-5", 1.0), ("10000000", 1e6)])
def test_a_sheet_of_nothing_or_of_ten_kilometres_is_refused_in_words(window, text, limit):
    dialog = settings(window)
    said = []
    dialog.fields["width"].refused.connect(said.append)
    type_into(dialog.fields["width"], text)
    assert dialog.sheet.width == limit and "sheet width: 1 to 1000000" in said[0]
    dialog.reject()
    assert window.session.document.sheet.width == 800, "left as it was"


def test_the_resolution_of_the_sheet_is_that_of_its_outputs(window):
    window.session.set_stage(4)
    panel = window.proof
    panel.form.set(kind="pdf")
    for typed, told in (("450", "450 dpi"), ("200", "200 dpi")):
        dialog = settings(window)
        type_into(dialog.fields["dpi"], typed)
        QTest.mouseClick(dialog.take_button, LEFT)
        assert panel.form.dpi_field.text() == told
    type_into(panel.form.dpi_field, "72")
    window.session.undo()
    assert panel.form.output.dpi == 72, "what a hand set stays"


def test_a_new_sheet_is_asked_for_and_is_no_unsaved_work(window):
    dialog = settings(window, "file.new")
    choose(dialog.formats, "A5")
    QTest.mouseClick(dialog.across, LEFT)
    QTest.mouseClick(dialog.take_button, LEFT)
    sheet = window.session.document.sheet
    assert (sheet.width, sheet.height, sheet.unit) == pytest.approx((210 * MM, 148 * MM, "mm"))
    assert not window.session.unsaved
    settings(window, "file.new").reject()
    assert window.session.document == empty_document()


def test_a_look_at_a_number_does_not_round_it(window):
    s = window.session
    s.open(document(disc(1, 100.123, 100, 50)), None, "sheet")
    s.select((1,))
    for name in "xywh":
        window.recipe._place[name].setFocus()
        QTest.keyClick(window.recipe._place[name], Qt.Key.Key_Return)
    assert not s.history.changed
