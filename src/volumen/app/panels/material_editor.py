"""Materials in a body's card: small lit balls to try by pointing and take by clicking; own ones to edit and share."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QFileDialog, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from volumen.app.panels.slot import IngredientSlot
from volumen.app.widgets.asking import ask_save_name
from volumen.app.widgets.balls import Ball
from volumen.app.widgets.segment import segment
from volumen.app.widgets.slider import SliderRow
from volumen.compose.face import base_colour
from volumen.compose.light import light_at
from volumen.formats.files import FileProblem
from volumen.formats.material_files import read_materials, write_materials
from volumen.model.ingredients import Block, Body
from volumen.model.nodes import Document
from volumen.shading.lamp import Lamp
from volumen.shading.materials import MATERIALS, Material, material
from volumen.shading.paint import Colour
from volumen.shading.plain_bodies import BodyKind

replace = msgspec.structs.replace
_A_ROW = 7
_PAUSE = 40  # ms without a change after which the balls are drawn anew
_FIELDS = (
    ("contrast", "contrast", 0, 1, " %", 100), ("lighten", "lightening", 0, 1, " %", 100),
    ("hue_shift", "hue in shade", -60, 60, "°", 1), ("chroma", "chroma", -1, 1, " %", 100),
    ("gloss", "gloss", 0, 1, " %", 100), ("gloss_size", "gloss size", 0.02, 1, " %", 100),
    ("tinted_gloss", "tinted gloss", 0, 1, " %", 100), ("edge", "edge light", 0, 1, " %", 100),
    ("bands", "reflections", 0, 1, " %", 100), ("grain", "grain", 0, 0.2, " %", 100), ("glow", "lets light out", 0, 1, " %", 100),
    ("clear", "lets light through", 0, 1, " %", 100),
)  # fmt: skip


class MaterialEditor(QWidget):
    """The materials of a body's card."""

    def __init__(self, slot: IngredientSlot) -> None:
        super().__init__()
        self.slot = slot
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        self.grid = QGridLayout()
        self.grid.setSpacing(1)
        column.addLayout(self.grid)
        self.balls: list[Ball] = []
        self._later = QTimer(self, singleShot=True)
        self._later.timeout.connect(self._draw_next)
        self._undrawn: list[Ball] = []
        self._look: tuple[BodyKind, Colour, Lamp, tuple[Material, ...]] | None = None  # in which they are drawn
        acts = QHBoxLayout()
        acts.setSpacing(3)
        for text, tip, call in (
            ("make my own", "a copy of this material, kept with the document, to edit", self.make_own),
            ("read …", "add the materials of a file", self.read),
            ("share …", "write this document's own materials to a file", self.share),
        ):
            button = segment(text, checkable=False)
            button.setToolTip(tip)
            button.clicked.connect(call)
            acts.addWidget(button)
        acts.addStretch(1)
        column.addLayout(acts)
        self.sliders = QWidget()
        self.rows: dict[str, SliderRow] = {}
        own = QVBoxLayout(self.sliders)
        own.setContentsMargins(0, 0, 0, 0)
        own.setSpacing(1)
        for field, label, low, high, unit, factor in _FIELDS:
            row = SliderRow(label, low, high, unit, factor)
            row.preview.connect(lambda v, f=field: self._edit(f, v, False))
            row.done.connect(lambda v, f=field: self._edit(f, v, True))
            self.rows[field] = row
            own.addWidget(row)
        column.addWidget(self.sliders)
        slot.updates.append(self.refresh)

    @property
    def document(self) -> Document:
        return self.slot.session.document

    @property
    def body(self) -> Body | Block:
        """What is made of the material."""
        assert isinstance(self.slot.ingredient, Body | Block)
        return self.slot.ingredient

    def _names(self) -> list[str]:
        return list(dict.fromkeys([*(m.name for m in self.document.materials), *MATERIALS]))

    def refresh(self) -> None:
        """Balls for all materials in the object's own colour; sliders if the one in use is the document's own."""
        names = self._names()
        if [b.material for b in self.balls] != names:
            self._lay_balls(names)
        session, node = self.slot.session, self.slot.session.first
        if node is None:
            return
        lamp = light_at(session.history.committed, node.id).lamp
        kind = self.body.kind if isinstance(self.body, Body) else "ball"
        look = (kind, self.body.colour or base_colour(node), lamp, self.document.materials)
        for ball in self.balls:
            ball.setChecked(ball.material == self.body.material)
        if look != self._look:
            self._look, self._undrawn = look, list(self.balls)
            self._later.start(_PAUSE)
        own = next((m for m in self.document.materials if m.name == self.body.material), None)
        self.sliders.setVisible(own is not None)
        if own is not None:
            for field, row in self.rows.items():
                row.show_value(getattr(own, field))

    def _draw_next(self) -> None:
        """Draw one ball, and the others after what else waits: all of them would hold up a hand that drags a colour."""
        if self._undrawn and self._look is not None:
            self._undrawn.pop(0).show_look(*self._look)
            if self._undrawn:
                self._later.start(0)

    def _lay_balls(self, names: list[str]) -> None:
        for ball in self.balls:
            self.grid.removeWidget(ball)
            ball.deleteLater()
        self.balls, self._look = [Ball(name) for name in names], None
        for k, ball in enumerate(self.balls):
            ball.clicked.connect(lambda _=False, m=ball.material: self.take(m))
            ball.installEventFilter(self)
            self.grid.addWidget(ball, k // _A_ROW, k % _A_ROW)
        self.grid.setColumnStretch(_A_ROW, 1)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Pointing at a ball shows the artwork in that material."""
        if event.type() == QEvent.Type.Enter and isinstance(watched, Ball):
            self.slot.preview(material=watched.material)
        elif event.type() == QEvent.Type.Leave and self.slot.session.history.in_gesture:
            self.slot.session.cancel()
        return False

    def take(self, name: str) -> None:
        if self.slot.session.history.in_gesture:
            self.slot.session.cancel()
        self.slot.change("change material", material=name)

    # -- own materials

    def make_own(self) -> None:
        """A copy of the material in use under a new name, in use from now on."""
        old = material(self.body.material, self.document.materials)
        names, name, k = set(self._names()), f"my {old.name}", 2
        while name in names:
            name, k = f"my {old.name} {k}", k + 1
        session = self.slot.session
        document = replace(session.document, materials=(*session.document.materials, replace(old, name=name)))
        session.preview(document)
        self.slot.change("make a material", material=name)

    def _edit(self, field: str, value: float, final: bool) -> None:
        session = self.slot.session
        name = self.body.material
        changed = tuple(replace(m, **{field: value}) if m.name == name else m for m in session.document.materials)
        session.preview(replace(session.document, materials=changed))
        if final:
            session.commit(f"change {field} of {name}")

    def read(self) -> None:
        name, _ = QFileDialog.getOpenFileName(self, "Read materials", "", "Materials (*.json)")
        if name:
            self.read_file(Path(name))

    def read_file(self, path: Path) -> None:
        """Add the materials of a file; one of a known name takes its place."""
        session = self.slot.session
        try:
            found = read_materials(path)
        except FileProblem as error:
            session.say(str(error))
            return
        names = {m.name for m in found}
        kept = tuple(m for m in session.document.materials if m.name not in names)
        session.apply("read materials", replace(session.document, materials=(*kept, *found)))

    def share(self) -> None:
        path = ask_save_name(self, "Share materials", "materials.json", "Materials (*.json)", (".json",))
        if path is not None:
            self.share_file(path)

    def share_file(self, path: Path) -> None:
        """Write the document's own materials, or the one in use if it has none."""
        session = self.slot.session
        own: tuple[Material, ...] = session.document.materials or (material(self.body.material),)
        try:
            write_materials(own, path)
        except FileProblem as error:
            session.say(str(error))
        else:
            session.say(f"{len(own)} material{'' if len(own) == 1 else 's'} written to {path.name}")
