"""A walk over everything a hand can ask for: every command, tool row and card button, on every kind of object.

After each the document has changed, or the view, or words were said; undo brings back the document exactly, and what
was selected. ``make walk`` walks all; the suite a little of it.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import msgspec
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractButton, QApplication
from shiboken6 import isValid

from hand import Failure, Hand
from scenes import disc, document, png, solid
from volumen.app import theme
from volumen.app.window.window import Window
from volumen.demo import DEMOS
from volumen.edit import combine, palette, rays
from volumen.formats.native import asset_key
from volumen.model.ingredients import Bend, Block, Body, CastShadow, Fill, Line, OuterGlow, Rounding, Sliver, Steps
from volumen.model.make import corner, linear, path_form, smooth
from volumen.model.nodes import Asset, Document, Group, Image, RaysForm, RectangleForm, Shape, TextForm
from volumen.model.repeats import Course, Grid, Mirror, Ring, Scatter
from volumen.processes import get_ready
from volumen.render.worker.client import RenderClient
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
INK = Line(Solid(colour("#20242a")), 3.0)
TEAL, RED = solid("#2b8577"), solid("#c8402a")
# End the run, need a desktop, or open a dialog of it that a hand answers.
LEFT_OUT = {"file.quit", "view.full", "help.about", "file.print", "file.new", "file.open", "file.save", "file.save_as"}


def _whole(*nodes: Shape | Group | Image, **more: object) -> Document:
    return replace(document(*nodes, side=300.0), next_id=60, **more)


def _pair() -> tuple[Shape, Shape]:
    return disc(1, 100, 100, 40, TEAL), disc(2, 140, 110, 36, RED, CastShadow(), lift=6.0)


def _combined(operation: str) -> Document:
    return combine.combine(_whole(*_pair()), [1, 2], operation)[0]  # type: ignore[arg-type]


def _repeated(*recipe: object, guide: bool = False) -> Document:
    inside = (disc(3, 150, 150, 90, member=True),) if guide else ()
    return _whole(Group(1, "repeated", (*inside, disc(2, 150, 80, 14, RED)), recipe))  # type: ignore[arg-type]


def _rays() -> Document:
    form = RaysForm(centre=(150.0, 150.0), reach=120.0, count=12)
    return rays.bound(_whole(Shape(1, "rays", form, (RED,)), disc(2, 150, 150, 90)), 1, 2, True)


def _image() -> Document:
    data = png()
    return _whole(
        Image(1, "sketch", asset_key(data), 120, 90, transform=(1, 0, 0, 1, 40, 40)),
        assets=(Asset(asset_key(data), data),),
    )


KINDS: dict[str, Callable[[], Document]] = {
    "plain path": lambda: _whole(Shape(1, "p", path_form(corner(60, 60), corner(200, 70), corner(120, 200)), (TEAL,))),
    "open path": lambda: _whole(Shape(1, "l", path_form(smooth(60, 200, 30, -40), smooth(220, 90, 30, 40), closed=False), (INK,))),
    "ellipse": lambda: _whole(disc(1, 120, 120, 50)),
    "lit": lambda: _whole(disc(1, 120, 120, 50, TEAL, Body("ball"), Sliver("shade"), CastShadow(), OuterGlow(colour("#f0ae45"), 6.0), lift=8.0)),
    "gradient": lambda: _whole(disc(1, 120, 120, 50, Fill(linear((70, 70), (170, 170), (0, "#f0ae45"), (1, "#0f4a49"))))),
    "mesh": lambda: DEMOS["mussel"][1](),
    "form changes": lambda: _whole(Shape(1, "r", RectangleForm(60, 60, 120, 90), (TEAL, Rounding(12.0), Bend(amount=0.2), INK))),
    "text": lambda: _whole(Shape(1, "word", TextForm("Bo ra", size=60, x=40, y=150), (TEAL,))),
    "group": lambda: _whole(Group(1, "pair", (disc(2, 100, 100, 30), disc(3, 140, 110, 26, RED)))),
    "holder": lambda: _whole(disc(1, 120, 120, 60, children=(disc(2, 160, 120, 30, RED),))),
    "union": lambda: _combined("union"), "divide": lambda: _combined("divide"), "subtract": lambda: _combined("subtract"),
    "rays": _rays, "image": _image,
    "block": lambda: _whole(Shape(1, "b", RectangleForm(80, 80, 90, 60), (TEAL, Block(depth=24.0)))),
    "ring": lambda: _repeated(Ring((150.0, 150.0), 6)), "grid": lambda: _repeated(Grid(3, 2)),
    "mirror": lambda: _repeated(Mirror((150.0, 150.0), 90.0)), "scatter": lambda: _repeated(Scatter(count=5, distance=20.0), guide=True),
    "course": lambda: _repeated(Course(gap=20.0), guide=True),
    "steps": lambda: _whole(Group(1, "steps", (disc(2, 60, 150, 20), disc(3, 220, 150, 40, RED)), (Steps(count=4),))),
    "knockout": lambda: _whole(disc(3, 120, 120, 70), disc(1, 120, 120, 30, RED, knockout=True)),
    "linked": lambda: _whole(disc(1, 100, 100, 30, link=7), disc(2, 200, 100, 30, link=7)),
    "several": lambda: _whole(*_pair(), disc(3, 220, 200, 30)),
    "swatches": lambda: palette.add_swatches(_whole(*_pair()), [("sea", colour("#2b8577"))])[0],
    "nothing": lambda: _whole(),
}  # fmt: skip


class Walk:
    """Walks over a window, and collects what was silent and what undo did not bring back."""

    def __init__(self, window: Window, folder: Path) -> None:
        self.window, self.hand = window, Hand(window, folder)
        self.silent: list[str] = []
        self.wrong: list[str] = []
        self.count = 0
        self.every = 1  # of the commands, so that the suite walks some of them
        self.opened = 0  # menus and dialogs that came up, and what was put on the clipboard
        QApplication.clipboard().dataChanged.connect(self._copied)
        guard = self.hand._no_dialog

        def seen() -> None:
            if QApplication.activePopupWidget() is not None or QApplication.activeModalWidget() is not None:
                self.opened += 1
            guard()

        self.hand._guard.timeout.disconnect()
        self.hand._guard.timeout.connect(seen)

    def _copied(self) -> None:
        self.opened += 1

    def begin(self, kind: str, how: str) -> None:
        """A kind of object on the sheet, one or all of it selected, or nothing."""
        w, s = self.window, self.window.session
        w.canvas.drop()
        w.choosing.hide()
        w.canvas.lamp_held = False
        for side in ("left", "right"):
            if w.folded(side):
                w.fold(side)
        s.open(KINDS[kind](), None, kind)
        s.set_stage(0)
        s.set_tool("move")
        s.set_look(isolated=None, muted=False, flat=False, values=False)
        ids = [n.id for n in s.document.root.children]
        s.select({"one": ids[-1:], "two": ids[-2:], "all": ids, "none": []}[how])
        w.recipe.editor.open_kinds.clear()
        QApplication.processEvents()

    def _state(self) -> tuple[object, ...]:
        """What a person can see or will find, but for the document and the words."""
        w, s = self.window, self.window.session
        shown = tuple(
            x.isVisibleTo(w) for x in (w.choosing, w.section, w.wall, w.recipe, w.proof, w.toolbox, w.swatches)
        )
        return (
            s.selection, s.active, s.tool, s.stage, s.flat, s.values, s.muted, s.snapping, s.snap_kinds, s.rulers,
            s.keep_lengths, s.isolated, s.proofing, w.canvas.viewport, shown, w.panes.sizes(), w.compare_overlay.isVisible(),
            w.command_list is not None and w.command_list.isVisible(), w.clipboard.recipe, self.opened, self.hand.count,
            frozenset(w.recipe.editor.open_kinds), w.toolbox.unfolded, w.toolbox.arranging, len(QApplication.topLevelWidgets()),
            tuple(x.isVisible() for x in w.findChildren(QAbstractButton)),
        )  # fmt: skip

    def step(self, what: str, act: Callable[[], object]) -> None:
        """Do one thing, and see that it did something, showed something or said something."""
        s = self.window.session
        before, chosen, state = s.document, s.selection, self._state()
        history, label = s.history, s.history.undo_label
        s.note = ""
        self.count += 1
        try:
            act()
            QApplication.processEvents()
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        except Exception as error:
            self.hand.faults.append(f"{type(error).__name__}: {error}")
        if self.hand.faults:
            self.wrong.append(f"{what}: {self.hand.faults[0]}")
            self.hand.faults.clear()
            self.window.canvas.drop()
        changed = s.document is not before
        if not (changed or s.note or self._state() != state):
            self.silent.append(what)
        if changed and s.history is history and s.history.undo_label != label and not s.history.in_gesture:
            self._undone(what, before, chosen)

    def _undone(self, what: str, before: Document, chosen: tuple[int, ...]) -> None:
        s = self.window.session
        after = s.document
        for _ in range(4):  # some acts are more than one step
            self.window.registry.run("edit.undo")
            if s.document is before:
                break
        if s.document is not before:
            self.wrong.append(f"{what}: undo does not bring back what was there")
        elif s.selection != chosen:
            self.wrong.append(f"{what}: undo selects {s.selection}, not {chosen}")
        for _ in range(4):
            if s.document is after:
                break
            self.window.registry.run("edit.redo")
        if s.document is not after:
            self.wrong.append(f"{what}: redo does not come back to it")

    # -- what there is to ask for

    def commands(self, kind: str, how: str) -> None:
        """Every command: from the menu, the command list or a key."""
        for command in list(self.window.registry)[:: self.every]:
            if command.id not in LEFT_OUT:
                self.begin(kind, how)
                self.step(f"{kind}, {how}: {command.id}", lambda c=command.id: self.window.registry.run(c))

    def rows(self, kind: str, how: str) -> None:
        """Every row of the toolbox of every stage, by the mouse."""
        for stage in range(4):
            for at in range(60):
                self.begin(kind, how)
                self.window.session.set_stage(stage)
                self.window.toolbox.unfolded = True
                self.window.toolbox.rebuild()
                QApplication.processEvents()
                if at >= len(self.window.toolbox.rows):
                    break
                row = self.window.toolbox.rows[at]
                if row.command.id in LEFT_OUT or row.chosen:
                    continue
                self.step(
                    f"{kind}, {how}: row {row.command.short}",
                    lambda r=row: QTest.mouseClick(r, Qt.MouseButton.LeftButton),
                )

    def cards(self, kind: str, how: str) -> None:
        """Every button of every card, open."""
        self.begin(kind, how)
        first = self.window.session.first
        for index in range(len(first.recipe) if first is not None else 0):
            for at in range(80):
                self.begin(kind, how)
                self.window.recipe.editor.toggle(index)
                QApplication.processEvents()
                buttons = [b for b in self._card_buttons() if b.isEnabled()]
                if at >= len(buttons):
                    break
                button = buttons[at]
                if button.isCheckable() and button.isChecked() and button.group() is not None:
                    continue  # the choice that stands
                name = button.accessibleName() or button.text() or button.toolTip()
                self.step(f"{kind}, {how}: card {index}, {name}", lambda b=button: _click(b))

    def _card_buttons(self) -> Iterator[QAbstractButton]:
        for button in self.window.recipe.findChildren(QAbstractButton):
            if button.isVisible() and not button.visibleRegion().isEmpty():
                yield button


def _click(button: QAbstractButton) -> None:
    if isValid(button):
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def walked(
    window: Window, folder: Path, kinds: list[str], hows: tuple[str, ...], parts: tuple[str, ...], every: int = 1
) -> Walk:  # fmt: skip
    """Walk over some kinds of objects, with one of ``every`` so many commands; what was found is in the answer."""
    hook = sys.excepthook
    walk = Walk(window, folder)
    walk.every = every
    try:
        for kind in kinds:
            for how in hows:
                for part in parts:
                    getattr(walk, part)(kind, how)
    except Failure as failure:
        walk.wrong.append(str(failure))
    finally:
        walk.hand._guard.stop()
        sys.excepthook = hook
        window.canvas.drop()
        window.session.history.mark_saved()
    return walk


def _opened() -> Window:
    app = QApplication.instance() or QApplication(sys.argv[:1])
    theme.dress(app)  # type: ignore[arg-type]
    get_ready()
    window = Window(RenderClient())
    window.resize(1280, 800)
    window.show()
    return window


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kind", default="", help=f"one of {', '.join(KINDS)}; all without it")
    parser.add_argument("--how", nargs="*", default=["one", "two", "all", "none"], help="what is selected")
    parser.add_argument("--parts", nargs="*", default=["commands", "rows", "cards"])
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        os.environ["VOLUMEN_STATE"] = str(Path(folder) / "state")
        window = _opened()
        kinds = [options.kind] if options.kind else list(KINDS)
        total, silent, wrong = 0, [], []
        for kind in kinds:
            walk = walked(window, Path(folder), [kind], tuple(options.how), tuple(options.parts))
            total, silent, wrong = total + walk.count, silent + walk.silent, wrong + walk.wrong
            print(f"{kind}: {walk.count} asked, {len(walk.silent)} silent, {len(walk.wrong)} wrong", flush=True)
        for line in silent:
            print(f"silent: {line}")
        for line in wrong:
            print(f"wrong: {line}")
        print(f"{total} things asked for: {len(silent)} silent, {len(wrong)} wrong")
        window.close()
    return int(bool(silent or wrong))


if __name__ == "__main__":
    sys.exit(main())
