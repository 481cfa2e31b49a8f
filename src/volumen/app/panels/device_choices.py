"""Numbers of the simulated devices, shown for those that hang on the wall."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import heading_label, quiet_label
from volumen.app.widgets.segment import ListBox, narrow

# Proof, words, part of the settings, its field, unit, factor shown, least, most, decimals, what it is.
_ROWS = (
    (
        "printed",
        "dot gain",
        "run",
        "gain",
        " %",
        100,
        0,
        40,
        0,
        "By how much a tone of a half grows beyond what the profile expects",
    ),
    ("printed", "plates astray", "run", "astray", " mm", 1, 0, 1, 2, "How far the plates miss one another"),
    ("underbase", "choke", "printer", "choke", " mm", 1, 0, 3, 2, "How far the white stays within the ink"),
    ("underbase", "thinnest white", "printer", "finest", " mm", 1, 0, 3, 2, "What is thinner gets none"),
    ("cut out", "gap", "cutter", "gap", " mm", 1, 0, 50, 1, "From the artwork to the line that is cut"),
    ("cut out", "blade", "cutter", "radius", " mm", 1, 0, 20, 2, "The tightest turn that the blade takes"),
)


_ARTWORK, _FILE = "the artwork", "a file …"


class DeviceChoices(QWidget):
    """Shown while a proof of a device hangs on the wall. ``wants_file``: a written file to print shall be chosen."""

    wants_file = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(3)
        column.addWidget(heading_label("DEVICES, SIMULATED"))
        grid = QGridLayout()
        grid.setVerticalSpacing(3)
        column.addLayout(grid)
        self.printed = narrow(ListBox())
        self.printed.setAccessibleName("what the press prints")
        self.printed.setToolTip("The artwork, or a file as a shop gets it: a PDF, or a TIFF in inks")
        self.printed.activated.connect(self._choose)
        self.printed_label = quiet_label("prints")
        grid.addWidget(self.printed_label, 0, 0)
        grid.addWidget(self.printed, 0, 1)
        self.fields: dict[str, NumberField] = {}
        self.labels: dict[str, QWidget] = {}
        for k, (_, words, part, name, unit, _, low, high, decimals, tip) in enumerate(_ROWS):
            field = NumberField(words, unit, 1 if high > 5 else 0.1, low, high, decimals)
            field.setToolTip(tip)
            field.done.connect(self._taker(part, name, k))
            field.refused.connect(session.say)
            label = quiet_label(words)
            self.fields[name], self.labels[name] = field, label
            grid.addWidget(label, k + 1, 0)
            grid.addWidget(field, k + 1, 1)
        session.on((News.PROOF, News.STAGE), self.refresh)

    def _taker(self, part: str, name: str, row: int) -> Callable[[float], None]:
        def taken(value: float) -> None:
            settings = getattr(self.session.proofing, part)
            self.session.set_proofing(**{part: replace(settings, **{name: value / _ROWS[row][5]})})

        return taken

    def _choose(self, row: int) -> None:
        word = self.printed.itemText(row)
        if word == _FILE:
            self.wants_file.emit()
        elif word == _ARTWORK:
            self.session.set_proofing(written="")
        self.refresh()

    def refresh(self) -> None:
        p = self.session.proofing
        self.printed.clear()
        self.printed.addItems([_ARTWORK, *([Path(p.written).name] if p.written else []), _FILE])
        self.printed.setCurrentIndex(1 if p.written else 0)
        for widget in (self.printed, self.printed_label):
            widget.setVisible("printed" in p.shown)
        shown = False
        for proof, _, part, name, _, factor, *_ in _ROWS:
            here = proof in p.shown
            shown = shown or here
            self.fields[name].setVisible(here)
            self.labels[name].setVisible(here)
            self.fields[name].show_value(getattr(getattr(p, part), name) * factor)
        self.setVisible(shown)
