"""The outputs that are kept: in the document, and with the program for every document."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QMenu, QPushButton, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.engine.folders import state_folder
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.formats.files import FileProblem
from volumen.model.outputs import Output


def remembered_file() -> Path:
    """Where the outputs kept with the program lie."""
    return state_folder() / "outputs.json"


class KeptOutputs(QWidget):
    """A list to tick; ``chosen`` gives the output that was clicked, ``keep`` is asked for with the button."""

    chosen = Signal(object)
    keep = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.ticked: set[str] = set()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.list = QListWidget()
        self.list.setAccessibleName("kept outputs")
        self.list.setFixedHeight(78)
        self.list.setStyleSheet(
            f"QListWidget {{ background: {theme.CARD}; border: 1px solid {theme.EDGE}; border-radius: 6px; }}"
        )
        self.list.itemClicked.connect(lambda item: self.chosen.emit(self.outputs[self.list.row(item)]))
        self.list.itemChanged.connect(self._changed)
        column.addWidget(self.list)
        line = QHBoxLayout()
        line.setSpacing(4)
        for word, tip, call in (
            ("keep this", "Keep what is set above under a name, with the artwork", self.keep.emit),
            ("remove", "Remove the one that is chosen", self.remove),
            ("more …", "Outputs for every document", self._menu),
        ):
            button = QPushButton(word)
            button.setObjectName("small")
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, call=call: call())
            line.addWidget(button)
        column.addLayout(line)
        session.on((News.DOCUMENT,), self.refresh)
        self.refresh()

    @property
    def outputs(self) -> tuple[Output, ...]:
        return self.session.document.outputs

    @property
    def wanted(self) -> list[Output]:
        """Those that are ticked."""
        return [o for o in self.outputs if o.name in self.ticked]

    def refresh(self) -> None:
        names = [o.name for o in self.outputs]
        if names == [self.list.item(k).text() for k in range(self.list.count())]:
            return
        self.list.blockSignals(True)
        self.list.clear()
        for name in names:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEditable)
            item.setCheckState(Qt.CheckState.Checked if name in self.ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)

    def add(self, output: Output, name: str) -> None:
        """Keep an output under a name that none has yet, ticked."""
        names, free, k = {o.name for o in self.outputs}, name, 2
        while free in names:
            free, k = f"{name} {k}", k + 1
        self.ticked.add(free)
        self._keep("keep an output", (*self.outputs, replace(output, name=free)))

    def remove(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.outputs):
            self.ticked.discard(self.outputs[row].name)
            self._keep("remove an output", self.outputs[:row] + self.outputs[row + 1 :])

    def _changed(self, item: QListWidgetItem) -> None:
        row, name = self.list.row(item), item.text().strip()[:60]
        old = self.outputs[row]
        ticked = item.checkState() == Qt.CheckState.Checked
        self.ticked.discard(old.name)
        if name and name != old.name and name not in {o.name for o in self.outputs}:
            made = tuple(replace(o, name=name) if k == row else o for k, o in enumerate(self.outputs))
            self.ticked |= {name} if ticked else set()
            self._keep("name an output", made)
        else:
            self.ticked |= {old.name} if ticked else set()
        if item.text() != self.outputs[row].name:
            item.setText(self.outputs[row].name)

    def _keep(self, label: str, outputs: tuple[Output, ...]) -> None:
        self.session.apply(label, replace(self.session.document, outputs=outputs))

    def _menu(self) -> None:
        menu = QMenu(self)
        menu.addAction("Remember these for every document", self.remember)
        menu.addAction("Add those that are remembered", self.recall)
        menu.exec(self.mapToGlobal(self.rect().bottomRight()))

    def remember(self) -> None:
        """Keep the outputs of this document with the program."""
        from volumen.formats.outputs import write_kept

        self._said(lambda: write_kept(remembered_file(), self.outputs), f"{len(self.outputs)} outputs remembered")

    def recall(self) -> None:
        """Add the outputs that are kept with the program; those of the same name stay as they are here."""
        from volumen.formats.outputs import read_kept

        def add() -> None:
            names = {o.name for o in self.outputs}
            more = tuple(o for o in read_kept(remembered_file()) if o.name not in names)
            if more:
                self._keep("add remembered outputs", self.outputs + more)

        self._said(add, "")

    def _said(self, call: object, done: str) -> None:
        try:
            assert callable(call)
            call()
        except FileProblem as problem:
            done = str(problem)
        if done:
            self.session.say(done)
