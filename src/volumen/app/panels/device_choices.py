"""Numbers of the simulated devices, shown for those that hang on the wall."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.rows import heading_label, quiet_label

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


class DeviceChoices(QWidget):
    """Shown while a proof of a device hangs on the wall."""

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
        self.fields: dict[str, NumberField] = {}
        self.labels: dict[str, QWidget] = {}
        for k, (_, words, part, name, unit, _, low, high, decimals, tip) in enumerate(_ROWS):
            field = NumberField(words, unit, 1 if high > 5 else 0.1, low, high, decimals)
            field.setToolTip(tip)
            field.done.connect(self._taker(part, name, k))
            field.refused.connect(session.say)
            label = quiet_label(words)
            self.fields[name], self.labels[name] = field, label
            grid.addWidget(label, k, 0)
            grid.addWidget(field, k, 1)
        session.on((News.PROOF, News.STAGE), self.refresh)

    def _taker(self, part: str, name: str, row: int) -> Callable[[float], None]:
        def taken(value: float) -> None:
            settings = getattr(self.session.proofing, part)
            self.session.set_proofing(**{part: replace(settings, **{name: value / _ROWS[row][5]})})

        return taken

    def refresh(self) -> None:
        p = self.session.proofing
        shown = False
        for proof, _, part, name, _, factor, *_ in _ROWS:
            here = proof in p.shown
            shown = shown or here
            self.fields[name].setVisible(here)
            self.labels[name].setVisible(here)
            self.fields[name].show_value(getattr(getattr(p, part), name) * factor)
        self.setVisible(shown)
