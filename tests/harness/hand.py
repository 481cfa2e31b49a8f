"""A hand on the real window: plays events, answers dialogs, and checks what must hold."""

from __future__ import annotations

import os
import sys
import time
import traceback
from pathlib import Path

from volumen.app.engine.worker_watch import processor_time
from volumen.model.catalogue.ingredients import OFFERS

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtPrintSupport import QPrintDialog
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QFileDialog,
    QMenu,
    QMessageBox,
    QToolButton,
    QWidget,
)
from shiboken6 import isValid

from fresh import WORST, fresh_pixels
from volumen.app.canvas.tools import TOOLS
from volumen.app.widgets.number import NumberField, take_typed
from volumen.app.widgets.slider import SliderRow
from volumen.app.window.window import Window
from volumen.edit.variants import KINDS
from volumen.formats import native
from volumen.model.nodes import Document

Event = tuple
BATCH = 60
_ALL, _SOME = 8, 80  # every so many checks all steps are undone, else so many
_SETTLE = 90.0  # seconds without any work, after which the window counts as hung,
_LONGEST = 1200.0  # and at last with it
_LEFT = Qt.MouseButton.LeftButton
_HELD = {
    "": Qt.KeyboardModifier.NoModifier, "shift": Qt.KeyboardModifier.ShiftModifier,
    "ctrl": Qt.KeyboardModifier.ControlModifier, "alt": Qt.KeyboardModifier.AltModifier,
}  # fmt: skip
KEYS = (
    "Escape", "Return", "Delete", "Backspace", "Tab", "Space", "Left", "Right", "Up", "Down", "Home", "End", "F1",
    *"ABCDEFGHIJKLMNOPQRSTUVWXYZ123450", "Plus", "Minus", "Semicolon", "Comma", "Period", "BracketLeft",
)  # fmt: skip
TYPED = (
    "0", "1", "-1", "5", "12.5", "40%", "3mm", "1/3", "2*(3+4)", "100", "360", "-90", "1000", "1e6", "-1e6", "1e9", "-1e9",
    "1e300", "nan", "inf", "1/0", "9**9**9", "", "abc", "0.0001", "-0.5", "((((", "99999999999999999999", "٣", "1e-320",
)  # fmt: skip
WORDS = ("Kelder Sound", "Ä\u0301ß漢🙂", "a\nb", "   ", "x" * 300, "\u202e\u0000", "fi")
_NOT = {"file.quit", "view.full", "help.about"}  # end the run, or need a desktop


class Failure(Exception):
    """What went wrong, in words that stay the same when the run is played again."""


class Hand:
    """Plays events on a window and checks what must hold."""

    def __init__(self, window: Window, folder: Path) -> None:
        self.window, self.folder = window, folder
        self.faults: list[str] = []
        self.checking, self.checks = False, 0
        self.history, self.steps = None, {}  # each step as it was when it was made
        self.count = 0
        self._guard = QTimer()
        self._guard.timeout.connect(self._no_dialog)
        self._guard.start(15)
        self._answers()
        sys.excepthook = self._raised
        window.session.changed.connect(self._told)

    def _raised(self, kind: type[BaseException], error: BaseException, trace: object) -> None:
        lines = traceback.format_exception(kind, error, trace)  # type: ignore[arg-type]
        self.faults.append("".join(lines)[-2500:])

    def _told(self, word: str) -> None:
        history = self.window.session.history
        if history is not self.history:  # another document was opened
            self.history, self.steps = history, {}
        newest = history._steps[-1]
        ended = not self.checking and not history.in_gesture and history._at == len(history._steps) - 1
        if ended and id(newest) not in self.steps:
            self.steps[id(newest)] = (newest, hash(native.encode(newest.document)))
        if word == "note" and "could not be drawn" in self.window.session.note:
            self.faults.append(self.window.session.note)

    def _answers(self) -> None:
        """What file dialogs and questions are answered with: in turn, so that a run can be played again."""
        names = [self.folder / "one.volumen", self.folder / "two", self.folder / "no" / "where.volumen", ""]

        def name(*_: object, **__: object) -> tuple[str, str]:
            self.count += 1
            return str(names[self.count % len(names)]), ""

        def answer(box: QMessageBox) -> int:
            self.count += 1
            buttons = box.buttons()
            buttons[self.count % len(buttons)].click()
            return 0

        QFileDialog.getSaveFileName = QFileDialog.getOpenFileName = staticmethod(name)  # type: ignore[assignment]
        QMessageBox.exec = answer  # type: ignore[assignment,method-assign]

    def _no_dialog(self) -> None:
        """Menus get a key or two, dialogs are closed: no hand waits for ever."""
        popup, modal = QApplication.activePopupWidget(), QApplication.activeModalWidget()
        if isinstance(popup, QMenu):
            self.count += 1
            able = [a for a in popup.actions() if a.isEnabled() and not a.isSeparator() and a.menu() is None]
            if able and self.count % 3:
                popup.setActiveAction(able[self.count % len(able)])
                QTest.keyClick(popup, Qt.Key.Key_Return)
            else:
                popup.close()
        elif popup is not None:
            popup.close()
        elif isinstance(modal, QDialog):
            self.count += 1
            modal.accept() if self.count % 2 and not isinstance(modal, QPrintDialog) else modal.reject()

    # -- events

    def do(self, event: Event) -> None:
        """Play one event; whatever it raises is a failure."""
        try:
            getattr(self, "_do_" + event[0].replace(" ", "_"))(*event[1:])
            QApplication.processEvents()
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as under a running window
        except Failure:
            raise
        except Exception:
            self.faults.append(traceback.format_exc()[-2500:])
        if self.faults:
            raise Failure(self.faults[0])

    def _at(self, x: float, y: float) -> QPoint:
        return QPoint(round(x * self.window.canvas.width()), round(y * self.window.canvas.height()))

    def _move(self, at: QPoint, held: str, buttons: Qt.MouseButton) -> None:
        c = self.window.canvas
        place = QPointF(at)
        QApplication.sendEvent(
            c, QMouseEvent(QEvent.Type.MouseMove, place, c.mapToGlobal(place), _LEFT, buttons, _HELD[held])
        )

    def _do_drag(self, x: float, y: float, u: float, v: float, held: str, steps: int) -> None:
        c = self.window.canvas
        QTest.mousePress(c, _LEFT, _HELD[held], self._at(x, y))
        for k in range(1, steps + 1):
            self._move(self._at(x + (u - x) * k / steps, y + (v - y) * k / steps), held, _LEFT)
            QApplication.processEvents()
        QTest.mouseRelease(c, _LEFT, _HELD[held], self._at(u, v))

    def _do_half_drag(self, x: float, y: float, u: float, v: float, then: str) -> None:
        QTest.mousePress(self.window.canvas, _LEFT, _HELD[""], self._at(x, y))
        self._move(self._at(u, v), "", _LEFT)
        if then == "Escape":
            QTest.keyClick(self.window.canvas, Qt.Key.Key_Escape)
        elif then == "ctrl Z":
            QTest.keyClick(self.window.canvas, Qt.Key.Key_Z, _HELD["ctrl"])
        elif then == "tool":
            self.window.take_tool("move")
        QTest.mouseRelease(self.window.canvas, _LEFT, _HELD[""], self._at(u, v))

    def _do_click(self, x: float, y: float, held: str) -> None:
        QTest.mouseClick(self.window.canvas, _LEFT, _HELD[held], self._at(x, y))

    def _do_double(self, x: float, y: float, held: str) -> None:
        QTest.mouseClick(self.window.canvas, _LEFT, _HELD[held], self._at(x, y))
        QTest.mouseDClick(self.window.canvas, _LEFT, _HELD[held], self._at(x, y))

    def _do_key(self, key: str, held: str) -> None:
        if held == "ctrl" and key == "Q":
            return
        tap(QApplication.focusWidget() or self.window.canvas, getattr(Qt.Key, f"Key_{key}"), _HELD[held])

    def _do_type(self, words: str) -> None:
        target = QApplication.focusWidget() or self.window.canvas
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            QApplication.sendEvent(target, QKeyEvent(kind, 0, _HELD[""], words))

    def _do_command(self, share: float) -> None:
        commands = [c for c in self.window.registry if c.id not in _NOT]
        self.window.registry.run(commands[int(share * len(commands))].id)

    def _visible(self, kind: type) -> list:
        return [w for w in self.window.findChildren(kind) if w.isVisible() and w.isEnabled()]

    def _do_field(self, share: float, text: str) -> None:
        fields = self._visible(NumberField)
        if fields:
            field = fields[int(share * len(fields))]
            field.setFocus()
            field.selectAll()
            for letter in text:
                tap(field, letter)
            tap(field, Qt.Key.Key_Return)

    def _do_slider(self, share: float, at: float) -> None:
        sliders = self._visible(SliderRow)
        if sliders:
            s = sliders[int(share * len(sliders))]
            QTest.mouseClick(s, _LEFT, _HELD[""], QPoint(round(at * s.width()), s.height() // 2))

    def _do_button(self, share: float) -> None:
        buttons = [
            b for b in self._visible(QAbstractButton)
            if not (isinstance(b, QToolButton) and b.menu() is not None) and b is not self.window.proof.export_button
        ]  # fmt: skip
        if buttons:
            QTest.mouseClick(buttons[int(share * len(buttons))], _LEFT)

    def _do_add(self, share: float) -> None:
        if self.window.session.nodes:
            self.window.recipe.editor.add(OFFERS[int(share * len(OFFERS))][0].ingredient)

    def _do_tool(self, share: float) -> None:
        self.window.take_tool(TOOLS[int(share * len(TOOLS))].name)

    def _do_stage(self, stage: int) -> None:
        self.window.session.set_stage(stage)

    def _do_pick(self, share: float, held: str) -> None:
        rows = list(self.window.pile._items.values())
        if rows:
            tree = self.window.pile.tree
            box = tree.visualItemRect(rows[int(share * len(rows))])
            QTest.mouseClick(tree.viewport(), _LEFT, _HELD[held], QPoint(box.left() + 60, box.center().y()))

    def _do_select_all(self) -> None:
        self.window.session.select([n.id for n in self.window.session.document.root.children])

    def _do_undo(self, times: int) -> None:
        for _ in range(times):
            self.window.registry.run("edit.undo")

    def _do_redo(self, times: int) -> None:
        for _ in range(times):
            self.window.registry.run("edit.redo")

    def _do_wall(self, kind: float, tile: float) -> None:
        wall = self.window.choosing
        wall.show_kind(list(KINDS)[int(kind * len(KINDS))])
        QApplication.processEvents()
        if wall.tiles:
            chosen = wall.tiles[int(tile * len(wall.tiles))]
            wall._pointed(chosen.variant)
            QApplication.processEvents()
            wall._pointed(None)
            if tile > 0.5:
                chosen.click()

    def _do_wheel(self, x: float, y: float, by: int, held: str) -> None:
        c = self.window.canvas
        at = QPointF(self._at(x, y))
        QApplication.sendEvent(
            c,
            QWheelEvent(at, c.mapToGlobal(at), QPoint(), QPoint(0, by), Qt.MouseButton.NoButton, _HELD[held],
                        Qt.ScrollPhase.NoScrollPhase, False),
        )  # fmt: skip

    def _do_paste(self, text: str) -> None:
        QApplication.clipboard().setText(text)
        self.window.clipboard.paste()

    def _do_save(self, which: int) -> None:
        self.window.files.save_to(self.folder / f"{which}.volumen")

    def _do_export(self, suffix: str) -> None:
        proof = self.window.proof
        if proof.job is None:
            proof.form.set(kind=suffix, width=120)
            proof.export_to(self.folder / f"out.{suffix}")
            if self.count % 2:
                proof.cancel()

    def _do_proof(self, x: float, y: float, by: int) -> None:
        """A tick of the wall, a click on it, the wheel over it."""
        wall, ticks = self.window.wall, list(self.window.proof_choices.ticks.values())
        self.window.session.set_stage(4)
        ticks[int(abs(x) * len(ticks)) % len(ticks)].click()
        at = QPoint(round(x * wall.width()), round(y * wall.height()))
        QTest.mouseClick(wall, _LEFT, pos=at)
        wall._zoom(1.0015**by, QPointF(at))

    def _do_rest(self, times: int) -> None:
        for _ in range(times):
            time.sleep(0.02)
            QApplication.processEvents()

    # -- checks

    def _state(self) -> str:
        """What the picture waits for."""
        link, watch = self.window.link, self.window.link.watch
        return (
            f"under way {link._under_way}, pending {link._pending}, to refine {link._refine.isActive()}, images "
            f"{len(link._images)}, variants {len(link._variants)}, alive {link.client.alive}, refused {watch.refused}, "
            f"wanted {link._wanted}, reading {self.window.reading.under_way}, in a gesture "
            f"{self.window.session.history.in_gesture}, times {link.times[-3:]}"
        )

    def _worked(self) -> int:
        """The processor time of the worker, in whole seconds."""
        return (processor_time(self.window.link.client.process.pid) or 0) // 100

    def settle(self) -> None:
        """Wait until the picture rests. What goes on working, slow as absurd artwork may be, is not hung."""
        start = time.monotonic()
        end = start + _SETTLE
        last = (self.window.link.times[-1:], self._worked())
        while not self.window.link.idle or self.window.reading.under_way:
            QApplication.processEvents()
            time.sleep(0.003)
            now = (self.window.link.times[-1:], self._worked())
            if now != last:
                end, last = min(time.monotonic() + _SETTLE, start + _LONGEST), now
            if time.monotonic() > end:
                raise Failure(f"the picture does not come to rest: {self._state()}")
        if self.faults:
            raise Failure(self.faults[0])

    def check(self) -> None:
        """Undo to the first document and redo to the last exactly; save and open; the picture at rest."""
        window, s = self.window, self.window.session
        window.choosing.hide()
        window.canvas.drop()
        take_typed()
        QApplication.processEvents()
        last, steps = s.document, s.history._steps
        at, self.checking = s.history._at, True
        self.checks += 1
        lowest = 0 if self.checks % _ALL == 1 else max(at - _SOME, 0)  # undoing a thousand steps takes a while
        for k in range(at, lowest - 1, -1):
            known = self.steps.get(id(steps[k]))
            if s.history._at != k or known is None or hash(native.encode(s.document)) != known[1]:
                why = "not where undo should be" if s.history._at != k else "unknown" if known is None else "another"
                where = f"{why}: step {k} of {at}, '{steps[k].label}', before '{steps[min(k + 1, at)].label}'"
                raise Failure(f"undo does not bring back the document that was there ({where})")
            if k > lowest:
                self.window.registry.run("edit.undo")
        for _ in range(at - lowest):
            self.window.registry.run("edit.redo")
        self.checking = False
        if s.document is not last:
            raise Failure("redo does not come to the last document")
        again = self._saved(last)
        s.set_look(isolated=None, muted=False)
        self.settle()
        self._compare(again)

    def _saved(self, document: Document) -> Document:
        path = self.folder / "check.volumen"
        native.save(document, path)
        again, notes = native.read(path)
        if again != document or notes:
            raise Failure(f"what was saved opens otherwise: {notes}")
        return again

    def _compare(self, document: Document) -> None:
        """The picture on the canvas against one that another service makes of the document that was read again."""
        link = self.window.link
        if self.window.session.stage == 4 or link.image_view is None or self.window.link.watch.refused:
            return
        width, height = link.image.width(), link.image.height()
        ours = np.frombuffer(bytes(link.image.constBits()), np.uint8).reshape(height, -1, 4)[:, :width].astype(int)
        fresh = fresh_pixels(document, link.image_view, (width, height), self.window.session)
        off = np.abs(ours - fresh).max(axis=2)
        if off.max(initial=0) > WORST:
            raise Failure(f"the picture at rest differs from a fresh one in {np.count_nonzero(off > WORST)} pixels")


def tap(widget: QWidget, key: object, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    """A key pressed on a widget and released on what has the focus then: the first may be gone."""
    if isinstance(key, str) and not key.isascii():
        for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
            if isValid(widget):
                QApplication.sendEvent(widget, QKeyEvent(kind, 0, held, key))
        return
    if isValid(widget):
        QTest.keyPress(widget, key, held)
    after = QApplication.focusWidget()
    if after is not None:
        QTest.keyRelease(after, key, held)
