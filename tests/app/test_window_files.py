"""Leaving, opening and saving with questions; the pile's badges; help and the command list."""

import numpy as np
from PIL import Image as Pillow
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QTextBrowser

from gestures import LEFT, changed, settle, show
from scenes import disc, document, lit_trio
from volumen.app.state.viewport import Viewport
from volumen.compose.scene import build
from volumen.edit import links, objects
from volumen.formats import native
from volumen.formats.svg.write import svg_bytes
from volumen.model.ingredients import CastShadow
from volumen.model.make import solid
from volumen.model.nodes import Image
from volumen.model.tree import find


def test_unsaved_work_is_never_left_without_a_question(window, answers, monkeypatch, tmp_path):
    s, work = window.session, changed(window)
    asked = answers("Stay")
    window.registry.run("file.new")
    assert s.document is work and asked == ["'trio' has changes that are not saved."]
    assert not window.close() and window.isVisible()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: ("", ""))
    answers("Save")
    window.registry.run("file.new")
    assert s.document is work, "no name given: nothing is saved, so nothing is left"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "kept"), ""))
    window.registry.run("file.new")
    assert s.document is not work and s.name == "untitled"
    assert native.load(tmp_path / "kept.volumen") == work, "the suffix is added"
    before = len(asked)
    window.registry.run("file.new")
    assert len(asked) == before, "nothing to lose, nothing asked"
    changed(window)
    answers("Discard")
    window.registry.run("file.new")
    assert s.name == "untitled" and not s.history.changed


def test_what_cannot_be_opened_or_saved_leaves_the_document_and_says_why(window, answers, monkeypatch, tmp_path):
    s, work = window.session, changed(window)
    (tmp_path / "broken.volumen").write_bytes(b"PK nothing")
    answers("Discard")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "broken.volumen"), ""))
    window.registry.run("file.open")
    assert s.document is work and "broken.volumen" in s.note and window._notice.isVisible()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "no" / "where.volumen"), ""))
    window.registry.run("file.save_as")
    assert s.history.changed and s.path is None and "where.volumen" in s.note
    svg = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 90"><rect width="30" height="30" fill="teal"/><foreignObject/></svg>'
    (tmp_path / "drawn.svg").write_text(svg)
    assert window.files.load(str(tmp_path / "drawn.svg")) and s.name == "drawn"
    assert len(s.document.root.children) == 1
    assert not window.files.load(str(tmp_path / "absent.svg")) and s.name == "drawn"


def badge(window, node_id, from_right):
    """Click on a badge of a row of the pile, counted from its right end."""
    tree = window.pile.tree
    item = next(i for i in window.pile._items.values() if i.data(0, Qt.ItemDataRole.UserRole) == node_id)
    box = tree.visualItemRect(item)
    QTest.mouseClick(
        tree.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, QPoint(box.right() - from_right, box.center().y())
    )


def test_badges_of_the_pile_hide_and_lock(window):
    s = window.session
    s.open(document(disc(1, 60, 60, 30), disc(2, 120, 60, 30, solid("#c8402a"))), None, "two")
    badge(window, 1, 12)
    assert [find(s.document, i).visible for i in (1, 2)] == [False, True] and s.selection == ()
    badge(window, 2, 30)
    assert [find(s.document, i).locked for i in (1, 2)] == [False, True]
    badge(window, 1, 12)
    window.registry.run("edit.undo")
    assert not find(s.document, 1).visible, "each is one step"
    badge(window, 1, 150)
    assert s.selection == (1,), "anywhere else a click selects"


def test_every_badge_of_the_pile_can_be_clicked(window):
    """A row with all of them: from the right the eye, the lock, the lamp (which does nothing), the pen, the set."""
    show(window, lit_trio(), 1)
    s = window.session
    document, (copy,) = links.linked_copies(s.document, [1])
    s.apply("all badges", objects.set_fields(document, [1], lines_only=True, unlit=True))
    for from_right, field in ((12, "visible"), (30, "locked"), (68, "lines_only")):
        before = getattr(find(s.document, 1), field)
        badge(window, 1, from_right)
        assert getattr(find(s.document, 1), field) is not before, field
        window.registry.run("edit.undo")
    badge(window, 1, 90)
    assert set(s.selection) == {1, copy}


def test_help_names_every_command_and_what_is_held(window):
    window.registry.run("help.keys")
    view = next(v for v in window.findChildren(QTextBrowser) if v.windowTitle() == "Keys and commands")
    text = view.toPlainText()
    assert all(c.title in text for c in window.registry) and "hold L" in text and "hold Z" in text
    view.close()


def test_a_command_is_found_by_some_letters_and_run(window):
    window.registry.run("help.list")
    found = window.command_list
    QTest.keyClicks(found.field, "values")
    assert found.list.count() >= 1 and "Values only" in found.list.currentItem().text()
    QTest.keyClick(found.field, Qt.Key.Key_Down)
    QTest.keyClick(found.field, Qt.Key.Key_Up)
    QTest.keyClick(found.field, Qt.Key.Key_Return)
    assert window.session.values and not found.isVisible()


def test_a_reference_with_a_shadow_is_drawn_on_the_canvas_and_in_no_export(window, qtbot, tmp_path):
    Pillow.fromarray(np.full((20, 20, 3), 90, np.uint8)).save(tmp_path / "sketch.png")
    s = window.session
    s.open(document(side=200), None, "board")
    assert window.placing.place_file(tmp_path / "sketch.png")
    picture = s.first
    assert isinstance(picture, Image)
    settle(qtbot, window)
    window.canvas.set_viewport(Viewport(2.0, 0.0, 0.0))
    plain = window.grab().toImage()
    window.recipe.editor.add(CastShadow(0.9))
    assert isinstance(s.first.recipe[-1], CastShadow) and s.first.lift > 0
    settle(qtbot, window)
    assert window.grab().toImage() != plain
    assert b"<image" not in svg_bytes(build(s.document)) and b"<path" not in svg_bytes(build(s.document))
