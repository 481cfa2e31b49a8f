"""Whether a swatch is a spot ink: its name on the press, how it was measured, whether it overprints."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.colour.relatives import measured_lab
from volumen.edit.inks import InkProblem, set_ink
from volumen.model.inks import Ink
from volumen.model.nodes import Swatch

_LAB = (("L*", 0.0, 100.0), ("a*", -128.0, 127.0), ("b*", -128.0, 127.0))


class InkFields(QWidget):
    """Shows and changes the ink of one swatch."""

    def __init__(self, session: Session, swatch: Swatch) -> None:
        super().__init__()
        self.session, self.swatch = session, swatch
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        ink = swatch.ink
        self.tick = QCheckBox("spot ink")
        self.tick.setToolTip("Printed with an ink of its own, from a plate of its own")
        self.tick.setChecked(ink is not None)
        self.tick.clicked.connect(self._switch)
        column.addWidget(self.tick)
        if ink is None:
            return
        self.name = QLineEdit(ink.name)
        self.name.setAccessibleName("name of the ink")
        self.name.setToolTip("The press calls the plate by this name")
        self.name.editingFinished.connect(self._rename)
        column.addWidget(self.name)
        row = QHBoxLayout()
        look = ink.lab or measured_lab(swatch.colour.rgb)
        self.lab = []
        for k, (word, low, high) in enumerate(_LAB):
            field = NumberField(f"{word} of the ink", f" {word}", 1, low, high, 1)
            field.show_value(look[k])
            field.setToolTip("How the ink was measured, D50; its colour on the screen follows")
            field.done.connect(self._measured(k))
            field.setMinimumWidth(30)
            self.lab.append(field)
            row.addWidget(field)
        column.addLayout(row)
        self.overprints = QCheckBox("overprints")
        self.overprints.setToolTip("Printed on what lies beneath; without this nothing else is printed where it lies")
        self.overprints.setChecked(ink.overprints)
        self.overprints.clicked.connect(lambda on: self._set("ink", replace(ink, overprints=on)))
        column.addWidget(self.overprints)

    def _switch(self, on: bool) -> None:
        self._set("spot ink" if on else "no spot ink", Ink(self.swatch.name.strip() or "spot") if on else None)

    def _rename(self) -> None:
        ink = self.swatch.ink
        if ink is not None and self.name.text().strip() != ink.name:
            self._set("name of the ink", replace(ink, name=self.name.text()))

    def _measured(self, k: int) -> Callable[[float], None]:
        def taken(value: float) -> None:
            ink = self.swatch.ink
            if ink is not None:
                look = [*(ink.lab or measured_lab(self.swatch.colour.rgb))]
                look[k] = value
                self._set("look of the ink", replace(ink, lab=(look[0], look[1], look[2])))

        return taken

    def _set(self, label: str, ink: Ink | None) -> None:
        s = self.session
        try:
            s.apply(label, set_ink(s.document, self.swatch.id, ink))
        except InkProblem as problem:
            s.say(str(problem))
            self.tick.setChecked(self.swatch.ink is not None)
            if self.swatch.ink is not None:
                self.name.setText(self.swatch.ink.name)
