"""What hangs on the wall of proofs, and the press that is proofed for."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QToolButton,
    QToolTip,
    QVBoxLayout,
    QWidget,
)

from volumen.app.engine.folders import home
from volumen.app.panels.device_choices import DeviceChoices
from volumen.app.panels.proof_kinds import KINDS
from volumen.app.panels.stock_choices import StockChoices
from volumen.app.state.news import News, Stage
from volumen.app.state.proofing import AGAINST, BY, sizes_of
from volumen.app.state.session import Session
from volumen.app.widgets.colour_guide import ColourGuide
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import heading_label, quiet_label
from volumen.app.widgets.segment import ListBox, narrow, segment
from volumen.colour.press import INKS, ProfileProblem, profile_bytes
from volumen.colour.press_settings import Press
from volumen.picture.spots import spot_inks

_OWN = "own profile …"
_INTENTS = ("relative", "perceptual")


class ProofChoices(QWidget):
    """Ticks for the proofs, and below them the settings of those that have any. ``wants_file``: a file to compare with
    shall be chosen."""

    wants_file = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(12, 10, 8, 10)
        self.column.setSpacing(5)
        self._ticks()
        self._press()
        self._plates()
        self._compare()
        self.stock = StockChoices(session)
        self.column.addWidget(self.stock)
        self.devices = DeviceChoices(session)
        self.column.addWidget(self.devices)
        self._sizes()
        session.on((News.PROOF, News.STAGE, News.SELECTION), self.refresh)
        session.on((News.PROOF,), self._tell_guides)
        self._tell_guides()
        self.refresh()

    # -- building

    def _ticks(self) -> None:
        self.column.addWidget(heading_label("PROOFS"))
        self.ticks: dict[str, QCheckBox] = {}
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        for k, kind in enumerate(KINDS):
            tick = QCheckBox(kind.name)
            tick.setToolTip(kind.tip)
            tick.clicked.connect(self._hang)
            self.ticks[kind.name] = tick
            grid.addWidget(tick, k // 2, k % 2)
        self.column.addLayout(grid)

    def _press(self) -> None:
        self.column.addWidget(heading_label("PRESS"))
        self.profiles, self.intents = narrow(ListBox()), narrow(ListBox())
        self.profiles.setAccessibleName("paper of the press")
        self.profiles.activated.connect(self._take_profile)
        self.intents.setAccessibleName("how colours become inks")
        self.intents.addItems(list(_INTENTS))
        self.intents.setToolTip("Relative keeps what can be printed; perceptual draws all colours in together")
        self.intents.activated.connect(lambda n: self._change_press(intent=_INTENTS[n]))
        line = QHBoxLayout()
        line.addWidget(self.profiles, 1)
        line.addWidget(self.intents, 1)
        self.column.addLayout(line)
        self.black_point, self.paper, self.veil = (
            QCheckBox("black point"), QCheckBox("paper white"), QCheckBox("stripes out of gamut"),
        )  # fmt: skip
        self.black_point.setToolTip("The deepest black of the artwork becomes the deepest that the press has")
        self.black_point.clicked.connect(lambda on: self._change_press(black_point=on))
        self.paper.clicked.connect(lambda on: self._change_press(paper=on))
        self.veil.clicked.connect(lambda on: self.session.set_proofing(veil=on))
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        grid.addWidget(self.black_point, 0, 0)
        grid.addWidget(self.paper, 0, 1)
        grid.addWidget(self.veil, 1, 0, 1, 2)
        self.column.addLayout(grid)
        self.limit = NumberField("most ink", " %", 5, 100, 400, 0)
        self.limit.done.connect(lambda v: self._change_press(limit=v))
        self.limit.refused.connect(self.session.say)
        self.column.addLayout(_row("most ink", self.limit))

    def _plates(self) -> None:
        self.plate_grid = grid = QGridLayout()
        grid.setSpacing(2)
        self.plates: list[QToolButton] = []
        self.plate_heading = heading_label("PLATES")
        self.column.addWidget(self.plate_heading)
        self.column.addLayout(grid)
        self.coloured = QCheckBox("in the colours of the inks")
        self.coloured.clicked.connect(lambda on: self.session.set_proofing(coloured=on))
        self.column.addWidget(self.coloured)

    def _name_plates(self) -> None:
        """One button for each ink: those of every press, and the spot inks of the palette."""
        names = [*INKS, *(ink.name for ink in spot_inks(self.session.document).values())]
        if names == [b.text() for b in self.plates]:
            return
        for old in self.plates:
            self.plate_grid.removeWidget(old)
            old.hide()
            old.deleteLater()
        self.plates = []
        for k, name in enumerate(names):
            button = segment(name, wide=True)
            button.clicked.connect(lambda on, k=k: self._show_plate(k, on))
            self.plates.append(button)
            self.plate_grid.addWidget(button, k // 2, k % 2)

    def _compare(self) -> None:
        self.compare_heading = heading_label("COMPARE")
        self.column.addWidget(self.compare_heading)
        self.against, self.by = narrow(ListBox()), narrow(ListBox())
        self.against.setAccessibleName("what the artwork is compared with")
        self.against.addItems(list(AGAINST))
        self.against.activated.connect(lambda n: self._compare_with(AGAINST[n]))
        self.by.setAccessibleName("how it is compared")
        self.by.addItems(list(BY))
        self.by.activated.connect(lambda n: self.session.set_proofing(by=BY[n]))
        self.steps = NumberField("steps ago", " back", 1, 1, 999, 0)
        self.steps.done.connect(lambda v: self.session.set_proofing(steps=round(v)))
        line = QHBoxLayout()
        line.addWidget(self.against, 1)
        line.addWidget(self.by, 1)
        self.column.addLayout(line)
        self.column.addWidget(self.steps)

    def _compare_with(self, word: str) -> None:
        if word == AGAINST[-1]:
            self.wants_file.emit()
        self.session.set_proofing(against=word)

    def _sizes(self) -> None:
        self.size_heading = heading_label("SMALL SIZES")
        self.column.addWidget(self.size_heading)
        self.sizes = QLineEdit()
        self.sizes.setAccessibleName("small sizes in pixels")
        self.sizes.editingFinished.connect(self._take_sizes)
        self.alone = QCheckBox("selection alone")
        self.alone.setToolTip("Small sizes and stock show only what is selected, as large as it fits")
        self.alone.clicked.connect(lambda on: self.session.set_proofing(alone=on))
        self.column.addWidget(self.sizes)
        self.column.addWidget(self.alone)

    # -- showing and choosing

    def refresh(self) -> None:
        if self.session.stage != Stage.PROOF:
            return
        p = self.session.proofing
        for name, tick in self.ticks.items():
            tick.setChecked(name in p.shown)
        self._show_press(p.press)
        self.veil.setChecked(p.veil)
        seen = "plates" in p.shown
        self._name_plates()
        for widget in (self.plate_heading, self.coloured, *self.plates):
            widget.setVisible(seen)
        for k, button in enumerate(self.plates):
            button.setChecked(k not in p.hidden_plates)
        self.coloured.setChecked(p.coloured)
        compared = "compare" in p.shown
        for widget in (self.compare_heading, self.against, self.by):
            widget.setVisible(compared)
        self.steps.setVisible(compared and p.against == "steps ago")
        self.against.setCurrentText(p.against)
        self.by.setCurrentText(p.by)
        self.steps.show_value(p.steps)
        on_stock = "stock" in p.shown or "all colours" in p.shown
        self.stock.setVisible(on_stock)
        for widget in (self.size_heading, self.sizes):
            widget.setVisible("small sizes" in p.shown)
        self.alone.setVisible(on_stock or "small sizes" in p.shown)
        if not self.sizes.hasFocus():
            self.sizes.setText(", ".join(map(str, p.sizes)))
        self.alone.setChecked(p.alone)
        self.alone.setEnabled(bool(self.session.selection))

    def _show_press(self, press: Press) -> None:
        names = ["coated", "uncoated"]
        if press.name not in names:
            names.append(press.name)
        self.profiles.clear()
        self.profiles.addItems([*names, _OWN])
        self.profiles.setCurrentText(press.name)
        self.profiles.setToolTip(press.profile if press.name == Path(press.profile).stem else "Offset on this paper")
        self.intents.setCurrentText(press.intent)
        self.black_point.setChecked(press.black_point)
        self.paper.setChecked(press.paper)
        self.limit.show_value(press.ink_limit)

    def _hang(self) -> None:
        shown = tuple(n for n, tick in self.ticks.items() if tick.isChecked())
        large = self.session.proofing.large
        self.session.set_proofing(shown=shown, large=large if large in shown else None)

    def _change_press(self, **fields: object) -> None:
        self.session.set_press(replace(self.session.proofing.press, **fields))

    def _tell_guides(self) -> None:
        """Colour guides speak of the press that is proofed for."""
        ColourGuide.press = self.session.proofing.press

    def _take_profile(self, row: int) -> None:
        word = self.profiles.itemText(row)
        if word in ("coated", "uncoated"):
            self._change_press(profile=word, limit=None)
        elif word == _OWN:
            name, _ = QFileDialog.getOpenFileName(self, "Profile of a press", str(home()), "ICC profiles (*.icc *.icm)")
            if name:
                self.load_profile(Path(name))
        self.refresh()

    def load_profile(self, path: Path) -> bool:
        """Proof for a press of one's own; what is no profile of a press is said."""
        try:
            profile_bytes(str(path))
        except ProfileProblem as problem:
            self.session.say(str(problem))
            QToolTip.showText(self.profiles.mapToGlobal(self.profiles.rect().bottomLeft()), str(problem), self.profiles)
            return False
        self._change_press(profile=str(path), limit=None)
        return True

    def _show_plate(self, plate: int, on: bool) -> None:
        hidden = {*self.session.proofing.hidden_plates}
        hidden = hidden - {plate} if on else hidden | {plate}
        self.session.set_proofing(hidden_plates=tuple(sorted(hidden)))

    def _take_sizes(self) -> None:
        try:
            self.session.set_proofing(sizes=sizes_of(self.sizes.text()))
        except ValueError as error:
            self.session.say(f"small sizes: {error}")
            self.sizes.setText(", ".join(map(str, self.session.proofing.sizes)))


def _row(text: str, widget: QWidget) -> QHBoxLayout:
    line = QHBoxLayout()
    line.addWidget(quiet_label(text))
    line.addStretch(1)
    line.addWidget(widget)
    return line
