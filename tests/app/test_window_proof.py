"""The wall of proofs by hand: what hangs there, made large, nearer, for which press; small sizes typed."""

import os
import signal

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QPushButton

from gestures import LEFT, photographed, settle, type_into
from scenes import disc, document, lit_trio
from volumen.app.state.proofing import sizes_of
from volumen.colour.press import profile_bytes, separated
from volumen.formats import native
from volumen.model.ingredients import Line
from volumen.model.make import solid
from volumen.shading.paint import Solid, colour


@pytest.fixture
def wall(window, qtbot):
    window.session.open(lit_trio(), None, "trio")
    window.session.set_stage(4)
    hung(qtbot, window.wall)
    return window.wall


def hung(qtbot, wall):
    """Wait until all that hangs on the wall is there."""
    qtbot.wait(80)
    qtbot.waitUntil(lambda: not wall._owed and not wall._timer.isActive(), timeout=20000)


def tick(window, name):
    QTest.mouseClick(window.proof_choices.ticks[name], LEFT, pos=QPoint(8, 8))


def pixels(wall, name):
    image = wall.images[name][0]
    return np.array(np.ndarray((image.height(), image.width(), 4), np.uint8, image.constBits()))


def centre(wall, name):
    return wall.places[name].center().toPoint()


def test_ticks_hang_proofs_and_the_press_follows_the_artwork(window, wall, qtbot):
    for name in ("flat", "values only", "small sizes"):
        tick(window, name)
    tick(window, "plates")
    hung(qtbot, wall)
    assert set(wall.places) == {"as drawn", "press proof", "plates"}
    drawn = pixels(wall, "as drawn")
    inks = np.frombuffer(separated(drawn[..., :3], window.session.proofing.press).tobytes(), np.uint8)
    assert np.abs(wall.inks["plates"].reshape(-1).astype(int) - inks).mean() < 1, "the inks of what is drawn"
    before = pixels(wall, "press proof")
    window.session.apply("green", document(disc(1, 100, 100, 90, solid("#00ff28"))))
    hung(qtbot, wall)
    assert wall.figures["press proof"]["out"] > 30 and (pixels(wall, "press proof") != before).any()
    choices = window.proof_choices
    choices.profiles.setCurrentText("uncoated")
    choices.profiles.activated.emit(choices.profiles.currentIndex())
    hung(qtbot, wall)
    assert window.session.proofing.press.ink_limit == 260 and choices.limit.text() == "260 %"
    type_into(choices.limit, "240")
    assert window.session.proofing.press.ink_limit == 240


def test_a_click_makes_one_large_and_all_move_together(window, wall, qtbot):
    QTest.mouseClick(wall, LEFT, pos=centre(wall, "flat"))
    hung(qtbot, wall)
    places = wall.places
    assert window.session.proofing.large == "flat"
    assert all(places["flat"].width() > 2 * r.width() for n, r in places.items() if n != "flat")
    wall._zoom(4.0, QPointF(centre(wall, "flat")))
    hung(qtbot, wall)
    boxes = {n: box for n, (_, box) in wall.images.items()}
    assert boxes["flat"][2] - boxes["flat"][0] < 100 and boxes["flat"] == pytest.approx(boxes["as drawn"], abs=40)
    x = wall.view.x
    QTest.mousePress(wall, LEFT, pos=centre(wall, "flat"))
    QTest.mouseMove(wall, centre(wall, "flat") - QPoint(60, 0))
    QTest.mouseRelease(wall, LEFT, pos=centre(wall, "flat") - QPoint(60, 0))
    assert wall.view.x > x and window.session.proofing.large == "flat", "a drag is no click"
    QTest.keyClick(wall, Qt.Key.Key_Escape)
    assert window.session.proofing.large is None and wall.view.zoom == 1


def test_the_ink_under_the_pointer_is_told(window, wall, qtbot):
    tick(window, "plates")
    hung(qtbot, wall)
    wall.pointer = QPointF(centre(wall, "plates"))
    assert "cyan" in wall._said("plates") and "%" in wall._said("plates") and "cyan" not in wall._said("press proof")


def test_a_worker_that_dies_leaves_no_proof_missing(window, wall, qtbot):
    """What it owed is asked of the next one, without a hand."""
    wall.images.clear()
    wall._ask()
    os.kill(window.link.client.process.pid, signal.SIGKILL)
    qtbot.waitUntil(lambda: not wall._owed and set(wall.images) >= {"as drawn", "flat", "press proof"}, timeout=30000)


@pytest.mark.parametrize("size", [(1.0, 1.0), (1e6, 1.0), (1.0, 1e6)])
def test_sheets_beyond_measure_hang_too(window, wall, qtbot, size):
    sheet = replace(window.session.document.sheet, width=size[0], height=size[1])
    window.session.apply("sheet", replace(window.session.document, sheet=sheet))
    wall._zoom(1e9, QPointF(60, 60))
    hung(qtbot, wall)
    assert not wall.grab().isNull() and wall.problem == ""


def test_nothing_on_the_wall_is_said_and_hands_do_no_harm(window, wall):
    for name in window.session.proofing.shown:
        tick(window, name)
    assert wall.places == {} and not window.grab().isNull()
    QTest.mouseClick(wall, LEFT, pos=QPoint(50, 50))
    QTest.keyClick(wall, Qt.Key.Key_Right)
    QTest.keyClick(wall, Qt.Key.Key_Plus)


def test_small_sizes_are_typed_and_refused_in_words(window, wall, qtbot):
    field = window.proof_choices.sizes
    for text in ("48 16, 24px", "nothing", "5000", "0"):
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
    hung(qtbot, wall)
    assert window.session.proofing.sizes == (48, 24, 16) and set(wall.small) == {48, 24, 16}
    assert "small sizes" in window.session.note and wall.small[24].width() == 24
    with pytest.raises(ValueError, match="up to 12"):
        sizes_of(" ".join(map(str, range(1, 20))))


def test_an_own_profile_is_checked(window, wall, qtbot, tmp_path):
    own = tmp_path / "own.icc"
    own.write_bytes(b"none")
    assert not window.proof_choices.load_profile(own) and "own.icc" in window.session.note
    own.write_bytes(profile_bytes("uncoated"))
    assert window.proof_choices.load_profile(own) and window.proof_choices.profiles.currentText() == "own"
    own.unlink()
    s = window.session
    s.apply("more", msgspec.structs.replace(document(disc(1, 100, 100, 50)), press=s.document.press))
    hung(qtbot, wall)
    assert "No such file" in wall._said("press proof"), "it is said where the proof would be"


# -- outputs


def press_button(panel, word):
    QTest.mouseClick(next(b for b in panel.findChildren(QPushButton) if b.text() == word), LEFT)


def test_outputs_are_kept_by_hand_and_written_in_one_go(window, wall, qtbot, tmp_path):
    s, panel = window.session, window.proof
    QTest.mouseClick(panel.formats["tif"], LEFT)
    QTest.mouseClick(panel.form.ticks["inks"], LEFT, pos=QPoint(8, 8))
    assert "inks for the coated press" in panel.note.text()
    type_into(panel.form.width_field, "90")
    press_button(panel.kept, "keep this")
    QTest.mouseClick(panel.formats["png"], LEFT)
    press_button(panel.kept, "keep this")
    panel.kept.list.item(0).setText("for the harbour press")
    assert [o.name for o in s.document.outputs] == ["for the harbour press", "PNG, 90 px"]
    panel.export_into(tmp_path, panel.kept.wanted)
    qtbot.waitUntil(lambda: panel.job is None, timeout=30000)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["trio PNG, 90 px.png", "trio for the harbour press.tif"]
    assert "2 files" in panel.note.text()
    panel.kept.list.setCurrentRow(1)
    press_button(panel.kept, "remove")
    panel.kept.remember()
    s.undo()
    assert len(s.document.outputs) == 2 and panel.kept.list.count() == 2
    s.apply("none", replace(s.document, outputs=()))
    panel.kept.recall()
    assert [o.name for o in s.document.outputs] == ["for the harbour press"]


def test_cancelling_leaves_nothing_and_what_cannot_be_is_said(window, wall, qtbot, tmp_path):
    panel = window.proof
    panel.form.set(kind="png", width=6000)
    panel.export_into(tmp_path, [panel.form.output] * 3)
    qtbot.waitUntil(lambda: any(tmp_path.iterdir()) or panel.job is None, timeout=30000)
    panel.cancel()
    assert list(tmp_path.iterdir()) == [] and "cancelled" in panel.note.text()
    panel.form.set(of="selection")
    panel.export_to(tmp_path / "none.png")
    assert "nothing is selected" in panel.note.text() and panel.job is None
    panel.choose_all()
    assert "keep this" in panel.note.text()


def test_print_faults_are_listed_and_mended_for_the_selection_or_all(window, qtbot):
    thin = [disc(k, 55 * k, 100, 25, solid("#3c6e71"), Line(Solid(colour("#14212b")), 0.2)) for k in (1, 2, 3)]
    s, panel = window.session, window.proof
    s.open(document(*thin), None, "thin")
    s.set_stage(4)
    assert panel.list.count() == 0 and not panel.mend_button.isEnabled()
    panel.device.setCurrentIndex(1)
    panel.device.activated.emit(1)
    assert panel.list.count() == 3 and "a line of 0.05 mm" in panel.list.item(0).text()
    assert [words for words, _ in panel.mendings()] == ["line: 0.2 mm (3 in all)"]
    s.select((2,))
    words, chosen = panel.mendings()[0]
    assert words == "line: 0.2 mm (1 of the selection)"
    panel.mend(chosen)
    assert [f.node for f in panel.faults] == [1, 3]
    panel.mend(panel.mendings()[-1][1])
    assert panel.faults == [] and panel.list.count() == 0
    s.undo()
    s.undo()
    assert len(panel.faults) == 3


# -- comparing


def other(wall):
    image = wall.comparing.pictures["other"][0]
    return np.array(np.ndarray((image.height(), image.width(), 4), np.uint8, image.constBits()))


def test_the_artwork_is_compared_with_earlier_states_files_and_references(window, qtbot, tmp_path, monkeypatch):
    s, wall, choices = window.session, window.wall, window.proof_choices
    s.open(document(disc(1, 100, 100, 50)), None, "one")
    red = document(disc(1, 100, 100, 50, solid("#c8402a")))
    s.apply("red", red)
    overlay = window.compare_overlay
    window.canvas.fit()
    settle(qtbot, window)
    QTest.keyClick(window.canvas, Qt.Key.Key_Semicolon)
    qtbot.waitUntil(lambda: overlay.picture is not None, timeout=20000)
    for x, green in ((0.3, False), (0.7, True)):  # the disc is in the middle, the line too
        at = window.canvas.viewport.to_canvas((100 + 150 * (x - 0.5), 100))
        seen = window.canvas.grab().toImage().pixelColor(round(at[0]), round(at[1]))
        assert (seen.green() > seen.red()) == green, "on the sheet itself: right of the line as it was opened"
    QTest.mousePress(overlay, LEFT, pos=QPoint(30, 200))
    QTest.mouseRelease(overlay, LEFT, pos=QPoint(30, 200))
    assert overlay.line < 0.1 and s.selection == (), "a drag moves the line and touches nothing"
    scale = window.canvas.viewport.scale
    window.canvas.zoom(1.5)
    qtbot.waitUntil(lambda: not overlay.under_way and not overlay._timer.isActive(), timeout=20000)
    assert window.canvas.viewport.scale > scale and overlay.picture[1][2] <= 200
    QTest.keyClick(window.canvas, Qt.Key.Key_Semicolon)
    assert overlay.isHidden() and s.stage != 4
    QTest.keyClick(window.canvas, Qt.Key.Key_Semicolon)
    QTest.keyClick(window.canvas, Qt.Key.Key_Escape)
    assert overlay.isHidden()
    s.set_stage(4)
    QTest.keyClick(wall, Qt.Key.Key_Semicolon)
    hung(qtbot, wall)
    assert s.proofing.large == "compare" and "as it was opened" in wall.comparing.said()
    middle = other(wall)[other(wall).shape[0] // 2, other(wall).shape[1] // 2]
    assert tuple(middle[:3]) == (0x2B, 0x85, 0x77), "the green of before"
    place = wall.places["compare"]
    seen = wall.view.shown(place, wall.size_of_sheet)[1]
    grip, left = seen.center().toPoint(), QPoint(round(seen.left() + 0.2 * seen.width()), round(seen.center().y()))
    for at, green in ((0.3, False), (0.7, True)):
        shot = window.wall.grab().toImage()
        there = shot.pixelColor(round(seen.left() + at * seen.width()), round(seen.center().y()))
        assert (there.green() > there.red()) == green, "left of the line as drawn, right of it the other"
    QTest.mousePress(wall, LEFT, pos=grip)
    QTest.mouseMove(wall, left)
    QTest.mouseRelease(wall, LEFT, pos=left)
    assert wall.comparing.line == pytest.approx(0.2, abs=0.01) and s.proofing.large == "compare"
    s.set_proofing(by="difference")
    hung(qtbot, wall)
    assert wall.comparing.figures["worst"] > 40 and "CIEDE2000" in wall.comparing.said()
    s.apply("back", document(disc(1, 100, 100, 50)))
    hung(qtbot, wall)
    assert wall.comparing.figures == {"mean": 0.0, "worst": 0.0}
    s.set_proofing(against="steps ago", steps=1, by="beside")
    hung(qtbot, wall)
    assert "before 'back'" in wall.comparing.said()
    native.save(red, tmp_path / "red.volumen")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(tmp_path / "red.volumen"), ""))
    choices.against.activated.emit(3)
    hung(qtbot, wall)
    assert "red.volumen" in wall.comparing.said()
    choices.against.activated.emit(2)
    hung(qtbot, wall)
    assert "nothing to compare with" in wall.comparing.said()
    photographed(window)
    s.set_stage(4)
    hung(qtbot, wall)
    assert len(np.unique(other(wall).reshape(-1, 4), axis=0)) > 500, "the photograph, and not the shape before it"
    QTest.keyClick(wall, Qt.Key.Key_Semicolon)
    assert s.stage == 4 and s.proofing.large is None
