"""What was done is not lost, nothing blocks: half-done work, recovery, files changed elsewhere, workers that end."""

import os
import signal
import sys
import time
from dataclasses import replace
from pathlib import Path

import pytest
from PySide6.QtCore import QMimeData, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from gestures import CTRL, at, changed, drag, press, settle
from scenes import disc, document, lit_trio
from volumen.app.commands import kept_work
from volumen.app.commands.sheet_settings import SheetSettings
from volumen.app.engine import recovery
from volumen.app.engine.claims import Claim
from volumen.app.engine.faults import catch_faults, log_file
from volumen.app.engine.recovery import About, Keeper, earlier, left_behind
from volumen.app.window.start import offer_recovery
from volumen.edit import objects
from volumen.formats import native
from volumen.formats.files import FileProblem, write_bytes
from volumen.geometry.engine import PathOpError
from volumen.model.fitting import fitted
from volumen.model.make import empty_document
from volumen.model.nodes import Document, Group, PathForm, Shape, TextForm
from volumen.model.tree import walk

LEFT = Qt.MouseButton.LeftButton


# -- half-done work


def typed(window):
    window.take_tool("text")
    QTest.mouseClick(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, 200, 300))
    QTest.keyClicks(window.canvas, "Kelder")


def half_drawn(window):
    window.take_tool("pen")
    for p in ((200, 200), (400, 260), (300, 420)):
        QTest.mouseClick(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, *p))


def holds(document, kind):
    return [n for n in walk(document.root) if isinstance(n, Shape) and isinstance(n.form, kind)]


@pytest.mark.parametrize(("begin", "kind"), [(typed, TextForm), (half_drawn, PathForm)])
def test_what_is_half_done_is_saved_recovered_and_asked_about(window, answers, tmp_path, begin, kind):
    window.files.new()
    window.findChild(SheetSettings).reject()
    window.activateWindow()
    begin(window)
    s = window.session
    assert not s.history.changed and s.unsaved
    asked = answers("Stay")
    assert not window.close() and len(asked) == 1, "quitting asks"
    window.autosave.tick()
    window.autosave.wait()
    (kept,) = holds(native.load(window.autosave.keeper.file), kind)
    QTest.mouseClick(window.canvas, LEFT, Qt.KeyboardModifier.NoModifier, at(window, 500, 500))  # the work goes on
    if kind is TextForm:
        assert kept.form.text == "Kelder"
        typed(window)
    else:
        assert len(kept.form.runs[0].points) == 3
    assert window.files.save_to(tmp_path / "half.volumen")
    saved = holds(native.load(tmp_path / "half.volumen"), kind)
    assert saved and native.load(tmp_path / "half.volumen") == s.document
    if kind is PathForm:
        assert len(saved[0].form.runs[0].points) == 4
    assert not s.unsaved
    press(window, Qt.Key.Key_Z, CTRL)
    assert len(holds(s.document, kind)) == len(saved) - 1, "one step of undo"


@pytest.mark.parametrize("begin", [typed, half_drawn])
def test_another_document_is_not_written_into_by_what_was_half_done(window, answers, begin):
    begin(window)
    answers("Discard")
    window.registry.run("file.new")
    press(window, Qt.Key.Key_Return)
    press(window, Qt.Key.Key_Escape)
    window.session.set_tool("move")
    assert window.session.document == empty_document() and not window.session.unsaved


def test_a_text_is_cut_at_its_limit_and_that_is_said(window):
    typed(window)
    window.canvas.tool.text("w" * 30_000)
    (words,) = holds(window.session.document, TextForm)
    assert len(words.form.text) == 20_000 and "20,000 letters" in window.session.note


def test_an_edit_beyond_the_limits_is_refused_in_words_and_saving_never_refuses(window, tmp_path):
    s = window.session
    deep = disc(1, 50, 50, 20)
    for i in range(2, 101):
        deep = Group(i, "g", (deep,))
    s.open(Document(root=Group(0, "pile", (deep,)), next_id=101), None, "deep")
    s.select((100,))
    press(window, Qt.Key.Key_G, CTRL)
    assert "nested deeper than 100" in s.note and s.document.root.children[0].id == 100
    assert window.files.save_to(tmp_path / "deep.volumen")
    assert native.read(tmp_path / "deep.volumen") == (s.document, [])


# -- recovery


def crashed(document, name="artwork", path=""):
    """A recovery file as a window leaves it behind that was killed."""
    keeper = Keeper()
    keeper.write(document, About(name, path), None)
    keeper._lock.close()
    return keeper.file


def test_autosave_writes_beside_and_is_no_crash_while_the_window_runs(window, qtbot):
    press(window, Qt.Key.Key_E)
    drag(window, (250, 250), (300, 300), (550, 500))
    window.autosave.tick()
    window.autosave.wait()
    file = window.autosave.keeper.file
    assert native.load(file) == window.session.document
    assert left_behind() == [], "a window that still runs is not a crash"
    qtbot.waitUntil(lambda: window.autosave.preview is not None, timeout=10000)
    window.session.history.mark_saved()
    window.autosave.tick()
    assert not file.exists() and [f.about.name for f in earlier()] == ["untitled"], "it is an earlier state now"
    drag(window, (150, 250), (200, 300), (250, 400))
    window.autosave.tick()
    window.autosave.wait()
    assert window.autosave.keeper.file.exists() and left_behind() == [], "nor is what is written later"


@pytest.mark.parametrize(("newer", "left", "kept"), [(False, True, True), (True, True, False), (False, False, False)])
def test_recovered_work_is_saved_over_its_file_only_if_that_is_no_newer(window, tmp_path, newer, left, kept):
    path = tmp_path / "artwork.volumen"
    native.save(document(disc(1, 9, 9, 5)), path)
    os.utime(path, (time.time() + (50 if newer else -50),) * 2)
    crashed(lit_trio(), "artwork", str(path))
    (found,) = left_behind()
    assert window.files.recover(found if left else replace(found, left=False))
    assert window.session.path == (path if kept else None) and window.session.unsaved


def test_all_that_was_left_behind_is_offered_and_what_is_unreadable_is_put_aside(window, qtbot):
    first, second = lit_trio(), document(disc(1, 50, 50, 20))
    files = [crashed(first, "trio"), crashed(second, "disc"), crashed(first, "broken")]
    files[2].write_bytes(b"PK nothing")
    for age, file in zip((30, 20, 10), files, strict=True):
        os.utime(file, (time.time() - age,) * 2)
    offer_recovery(window)
    dialog = window.findChild(kept_work.KeptWork)
    qtbot.waitUntil(dialog.isVisible)
    assert [dialog.list.item(k).text().split("  ")[0] for k in range(3)] == ["broken", "disc", "trio"]
    dialog.open_button.click()
    assert dialog.isVisible() and "put aside" in window.session.note
    assert [f.read_bytes() for f in (recovery.folder() / "unreadable").iterdir()] == [b"PK nothing"]
    dialog.list.setCurrentRow(1)
    dialog.open_button.click()
    assert window.session.document == first and window.session.name == "trio" and window.session.unsaved
    assert native.load(window.autosave.keeper.file) == first, "it is safe again before the old file goes"
    assert [f.about.name for f in left_behind()] == ["disc"], "the others are still there"


def test_a_full_disk_at_the_next_autosave_leaves_the_last_one(window, monkeypatch):
    work = changed(window)
    window.autosave.tick()
    window.autosave.wait()
    file = window.autosave.keeper.file

    def full(*_):
        raise FileProblem("the disk is full")

    monkeypatch.setattr(native, "save", full)
    window.session.apply("more", objects.set_fields(work, [1], opacity=0.25))
    window.session.name = "renamed"
    window.autosave.tick()
    window.autosave.wait()
    assert native.load(file) == work
    window.autosave.tick()
    assert "disk is full" in window.session.note
    monkeypatch.undo()


def test_ten_states_of_each_document_are_kept_for_a_week(window, tmp_path):
    window.session.open(lit_trio(), None, "trio")
    for k in range(14):
        window.session.apply("opacity", objects.set_fields(window.session.document, [1], opacity=0.1 + k / 20))
        assert window.files.save_to(tmp_path / "trio.volumen")
    states = [native.load(f.file) for f in earlier()]
    assert len(states) == 10 and window.session.document in states
    os.utime(earlier()[0].file, (time.time() - 8 * 24 * 3600,) * 2)
    assert len(earlier()) == 9


def test_recovery_files_of_older_versions_are_offered(tmp_path):
    recovery.folder().mkdir(parents=True)
    native.save(lit_trio(), recovery.folder() / "harbour-999999.volumen")
    (found,) = left_behind()
    assert found.about.name == "harbour"


# -- files


def test_a_file_changed_by_another_program_is_not_written_over_unasked(window, answers, monkeypatch, tmp_path):
    path = tmp_path / "shared.volumen"
    native.save(lit_trio(), path)
    assert window.files.load(str(path))
    s = window.session
    theirs = document(disc(1, 9, 9, 5))
    native.save(theirs, path)
    s.apply("opacity", objects.set_fields(s.document, [1], opacity=0.5))
    asked = answers("Stay")
    assert not window.files.save() and "changed on disk" in asked[0]
    assert native.load(path) == theirs and s.unsaved
    answers("Save under")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "mine.volumen"), ""))
    assert window.files.save() and native.load(path) == theirs
    assert native.load(tmp_path / "mine.volumen") == s.document and s.path.name == "mine.volumen"
    before = len(asked)
    assert window.files.save() and len(asked) == before, "our own writing is no change"
    (tmp_path / "mine.volumen").unlink()
    assert window.files.save() and len(asked) == before, "what is gone is written anew"
    native.save(theirs, tmp_path / "mine.volumen")
    answers("Write over")
    assert window.files.save() and native.load(tmp_path / "mine.volumen") == s.document


def test_two_windows_on_one_file_know_of_each_other(window, answers, tmp_path):
    path = tmp_path / "shared.volumen"
    native.save(lit_trio(), path)
    other = Claim()
    assert other.take(path)
    assert window.files.load(str(path)) and "another window" in window._notice_text.text()
    window.session.open(lit_trio(), None, "trio")
    asked = answers("Stay")
    assert not window.files.save_to(path) and "another window" in asked[-1]
    other.release()
    assert window.files.save_to(path)
    assert not Claim().take(path)


def test_a_name_without_suffix_does_not_write_over_a_file(window, answers, monkeypatch, tmp_path):
    (tmp_path / "old.volumen").write_bytes(b"precious")
    (tmp_path / "old.png").write_bytes(b"precious")
    asked = answers("Stay")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "old"), ""))
    assert not window.files.save_as()
    window.session.set_stage(4)
    window.proof.choose()
    assert len(asked) == 2 and window.proof.job is None
    assert {p.read_bytes() for p in tmp_path.glob("old.*")} == {b"precious"}


def test_a_link_stays_a_link_and_a_protected_file_as_it_is(tmp_path, monkeypatch):
    target, link = tmp_path / "target.volumen", tmp_path / "link.volumen"
    target.write_bytes(b"old")
    link.symlink_to(target)
    write_bytes(link, b"new")
    assert link.is_symlink() and target.read_bytes() == b"new"
    left = tmp_path / ".target.volumen-abc.part"
    left.write_bytes(b"of a crash")
    monkeypatch.setattr(os, "open", lambda *a, **k: (_ for _ in ()).throw(OSError(5, "Input/output error")))
    write_bytes.__globals__["_sync_folder"](tmp_path)  # a folder that cannot be synced is no failed writing
    monkeypatch.undo()
    write_bytes(link, b"newer")
    assert target.read_bytes() == b"newer" and not left.exists()
    monkeypatch.setattr(os, "access", lambda *a: False)
    with pytest.raises(FileProblem, match="write-protected"):
        write_bytes(link, b"newest")


def test_saving_does_not_hang_on_its_picture(window, monkeypatch, tmp_path):
    monkeypatch.setattr(window.link, "request_image", lambda *a: None)  # no answer ever comes
    assert window.files.save_to(tmp_path / "plain.volumen")
    assert native.load(tmp_path / "plain.volumen") == window.session.document


def test_closing_leaves_the_clipboard_of_another_program(window, monkeypatch, answers):
    window.session.open(lit_trio(), None, "trio")
    window.session.select((1,))
    press(window, Qt.Key.Key_C, CTRL)
    clipboard = QGuiApplication.clipboard()
    theirs = QMimeData()
    theirs.setText("theirs")
    clipboard.setMimeData(theirs)
    monkeypatch.setattr(type(clipboard), "ownsClipboard", lambda self: False)
    window.session.history.mark_saved()
    window.close()
    assert clipboard.text() == "theirs"


# -- the worker


def test_a_stopped_worker_is_told_then_replaced(window, qtbot):
    window.files.load("demo:ferry")
    settle(qtbot, window)
    before, process = window.link.image.copy(), window.link.client.process.pid
    window.link.watch.patience = 0.03
    told = []
    window.link.watch.late.connect(lambda: told.append(1))
    os.kill(process, signal.SIGSTOP)
    window.session.set_flat(True)
    window.session.set_flat(False)
    qtbot.waitUntil(lambda: window.link.client.process.pid != process, timeout=20000)
    window.link.watch.patience = 1.0
    assert told == [1] and not Path(f"/proc/{process}").exists()
    settle(qtbot, window)
    assert window.link.image == before


def test_restarts_end_with_a_message_and_begin_again_with_a_change(window, qtbot):
    link, s = window.link, window.session
    s.open(lit_trio(), None, "trio")
    settle(qtbot, window)
    link.watch.drawn = lambda: None  # as if none of them ever drew a picture
    given_up = []
    link.watch.given_up.connect(lambda: given_up.append(1))
    while not given_up:
        qtbot.waitUntil(lambda: link.client.alive or bool(given_up), timeout=10000)
        if not given_up:
            os.kill(link.client.process.pid, signal.SIGKILL)
            link.client.process.join(5)
        QApplication.processEvents()
    assert "cannot be drawn" in s.note
    del link.watch.drawn
    starts = link.client.restarts
    qtbot.wait(900)
    assert link.client.restarts == starts, "not in a loop"
    s.apply("opacity", objects.set_fields(s.document, [1], opacity=0.5))
    qtbot.waitUntil(lambda: link.client.restarts == starts + 1 and link.idle, timeout=20000)


def test_a_change_that_the_worker_cannot_take_is_sent_anew(window, qtbot):
    link, s = window.link, window.session
    s.open(lit_trio(), None, "trio")
    settle(qtbot, window)
    starts, blank = link.client.restarts, link.image.copy()
    more = fitted(disc(50, 100, 100, 60))
    link.client._sender._known[50] = more  # as if it had been lost on the way
    root = s.document.root
    root = Group(root.id, root.name, (*root.children, more))
    s.apply("add", Document(s.document.sheet, root=root, next_id=51))
    qtbot.waitUntil(lambda: link.idle and link.image != blank, timeout=10000)
    assert link.client.restarts == starts and "KeyError" in log_file().read_text()


def test_what_a_paint_event_raises_is_logged_and_the_gesture_undone(window, qtbot, tmp_path):
    changed(window)
    settle(qtbot, window)
    s, told = window.session, []
    s.preview(objects.set_fields(s.document, [1], opacity=0.1))
    with qtbot.captureExceptions():
        hook = sys.excepthook
        catch_faults(lambda what: (told.append(what), window.fault(what)))
        try:
            window.canvas._paint_picture = lambda painter: 1 / 0
            window.canvas.repaint()
            del window.canvas._paint_picture
            window.canvas.repaint()
        finally:
            sys.excepthook = hook
    assert told and not s.history.in_gesture and "Something went wrong" in window._notice_text.text()
    assert "ZeroDivisionError" in log_file().read_text()


def test_outlines_without_an_answer_end_a_gesture_or_a_command_in_words(window, monkeypatch):
    def none(*_):
        raise PathOpError("the shapes are too large to combine")

    work = changed(window)
    window.take_tool("rectangle")
    monkeypatch.setattr(window.canvas.tool, "release", none)
    drag(window, (250, 250), (300, 300), (350, 350))
    assert window.session.document == work and "too large" in window.session.note
    command = next(c for c in window.registry if c.title == "Select all")
    window.registry._commands[command.id] = replace(command, action=none)
    assert not window.registry.run(command.id)
    assert window.session.note == "Select all: the shapes are too large to combine" and window.session.document == work
