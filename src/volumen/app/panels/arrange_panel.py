"""Arranging by number: aligning, distributing, turning, scaling, slanting, mirroring and step copies."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, get_args

from PySide6.QtWidgets import (
    QCheckBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.canvas.arranger import ALIGN_TO, Arranger
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.segment import ListBox
from volumen.edit import arrange
from volumen.edit.arrange import Edge
from volumen.geometry.affine import multiply, rotation, scaling, translation

if TYPE_CHECKING:
    pass

_ALIGN_ICONS: dict[Edge, str] = {
    "left": "align-start-vertical", "centre": "align-center-vertical", "right": "align-end-vertical",
    "top": "align-start-horizontal", "middle": "align-center-horizontal", "bottom": "align-end-horizontal",
}  # fmt: skip
_SPACING = (
    ("across", "centres", "align-horizontal-distribute-center"), ("down", "centres", "align-vertical-distribute-center"),
    ("across", "gaps", "align-horizontal-space-between"), ("down", "gaps", "align-vertical-space-between"),
)  # fmt: skip


_LENGTHS = ("move x", "move y", "gap")


class ArrangePanel(QWidget):
    """Numbers for moving, turning, scaling and aligning."""

    def __init__(self, session: Session, arranger: Arranger) -> None:
        super().__init__()
        self.session, self.do = session, arranger
        self.setObjectName("options")
        self.setStyleSheet(f"QWidget#options {{ background: {theme.CARD}; }}")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 4, 12, 8)
        self.column.setSpacing(4)
        self.fields: dict[str, NumberField] = {}
        self._align_rows()
        self._transform_rows()
        self._copy_rows()

    def _icon_button(self, icon: str, tip: str, call: Callable[[], None]) -> QToolButton:
        button = QToolButton()
        button.setIcon(theme.icon(icon))
        button.setToolTip(tip)
        button.setAccessibleName(tip)
        button.clicked.connect(lambda: call())
        return button

    def _quiet(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setObjectName("quiet")
        return label

    def _align_rows(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(2)
        for edge in get_args(Edge):
            row.addWidget(self._icon_button(_ALIGN_ICONS[edge], f"align {edge}", self._aligner(edge)))
        self.column.addLayout(row)
        self.to = ListBox()
        self.to.setAccessibleName("align with")
        self.to.addItems([f"to {t}" for t in ALIGN_TO])
        self.column.addWidget(self.to)
        row = QHBoxLayout()
        row.setSpacing(2)
        for axis, by, icon in _SPACING:
            row.addWidget(self._icon_button(icon, f"even {by} {axis}", self._spacer(axis, by)))
        row.addWidget(self._quiet("gap"))
        row.addWidget(self._field("gap", "", ""))
        self.column.addLayout(row)

    def _aligner(self, edge: Edge) -> Callable[[], None]:
        return lambda: self.do.align(edge, ALIGN_TO[self.to.currentIndex()])

    def _spacer(self, axis: str, by: str) -> Callable[[], None]:
        def run() -> None:
            text = self.fields["gap"].text().strip()
            gap = self.fields["gap"].value if text and by == "gaps" and self.fields["gap"].value else None
            self.do.distribute("across" if axis == "across" else "down", by, gap)

        return run

    def _field(self, name: str, unit: str, start: str) -> NumberField:
        field = NumberField(name, unit, 1).set_length(name in _LENGTHS)
        field.show_value(float(start or 0))
        self.fields[name] = field
        return field

    def _transform_rows(self) -> None:
        grid = QGridLayout()
        grid.setSpacing(4)
        for k, (name, unit, start) in enumerate(
            (("turn", "°", "0"), ("scale", " %", "100"), ("slant", "°", "0"), ("move x", "", "0"), ("move y", "", "0"))
        ):
            grid.addWidget(self._quiet(name), k // 2, (k % 2) * 2)
            grid.addWidget(self._field(name, unit, start), k // 2, (k % 2) * 2 + 1)
        self.column.addLayout(grid)
        row = QHBoxLayout()
        row.setSpacing(3)
        for label, call in (("apply", self._apply), ("again", self.do.again)):
            button = QPushButton(label)
            button.setObjectName("small")
            button.clicked.connect(call)
            row.addWidget(button)
        row.addWidget(self._icon_button("flip-horizontal-2", "mirror left and right", lambda: self.do.mirror(90)))
        row.addWidget(self._icon_button("flip-vertical-2", "mirror top and bottom", lambda: self.do.mirror(0)))
        self.column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self._quiet("axis"))
        row.addWidget(self._field("axis", "°", "90"))
        for label, copy in (("mirror", False), ("copy", True)):
            button = QPushButton(label)
            button.setObjectName("small")
            button.setToolTip(
                "Mirror" + (" a copy" if copy else "") + " at a line through the centre at this angle (90° is upright)"
            )
            button.clicked.connect(lambda _=False, c=copy: self.do.mirror(self.fields["axis"].value, c))
            row.addWidget(button)
        self.column.addLayout(row)
        keep = QCheckBox("line widths and radii stay")
        keep.setToolTip("Scaling leaves line widths, rounding, light distances and lifts as they are")
        keep.toggled.connect(lambda on: self.session.set_look(keep_lengths=on))
        self.column.addWidget(keep)

    def _apply(self) -> None:
        about = self.do.centre()
        if about is None:
            self.session.say("select an object first")
            return
        v = {name: field.value for name, field in self.fields.items()}
        k = v["scale"] / 100 or 1.0
        m = multiply(rotation(v["turn"], about), multiply(arrange.skewing(v["slant"], 0, about), scaling(k, k, about)))
        self.do.transform("transform", multiply(translation(v["move x"], v["move y"]), m))

    def _copy_rows(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        row.addWidget(self._quiet("copies"))
        row.addWidget(self._field("copies", "", "6"))
        row.addWidget(self._quiet("every"))
        row.addWidget(self._field("angle", "°", "0"))
        self.column.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(4)
        for label, name in (("size", "size a step"), ("opacity", "opacity a step")):
            row.addWidget(self._quiet(label))
            row.addWidget(self._field(name, " %", "100"))
            self.fields[name].low = 0.1
            self.fields[name].setToolTip(f"{label} of each copy, in percent of the one before")
        self.fields["opacity a step"].high = 100.0
        self.column.addLayout(row)
        self.linked = QCheckBox("linked copies")
        self.linked.setToolTip("What is changed in one later, form or recipe, changes in all")
        self.column.addWidget(self.linked)
        button = QPushButton("make step copies")
        button.setObjectName("small")
        button.setToolTip("With 0° the copies close a full turn exactly; they also move by x and y each time")
        button.clicked.connect(self._make_copies)
        self.column.addWidget(button)

    def _make_copies(self) -> None:
        v = {name: field.value for name, field in self.fields.items()}
        shift = (v["move x"], v["move y"])
        angle = v["angle"] if v["angle"] else (None if shift == (0.0, 0.0) else 0.0)
        scale, fade = v["size a step"] / 100, v["opacity a step"] / 100
        if fade != 1 and self.linked.isChecked():
            self.session.say("linked copies share their opacity: it stays as it is")
        self.do.copies(int(v["copies"]), angle, shift, self.linked.isChecked(), scale, fade)
