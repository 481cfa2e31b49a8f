"""The dials of first light, below its row: style, depth and softness, as long as its pieces were not changed by hand."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.segment import ListBox
from volumen.app.widgets.slider import SliderRow
from volumen.app.widgets.waiting import Waiting
from volumen.edit.first_light.light import Prepared, is_untouched, lit, prepared, without_first_light
from volumen.edit.first_light.styles import STYLES
from volumen.model.first_light import FirstLight
from volumen.model.nodes import Document, Node
from volumen.model.tree import walk


class FirstLightPanel(QWidget):
    """Style and dials; each change is one step of undo."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._ready: tuple[Node, Prepared] | None = None  # for the root that it was worked out for
        self.setStyleSheet(f"FirstLightPanel {{ background: {theme.CARD}; }}")
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 4, 10, 8)
        column.setSpacing(3)
        self.style_box = ListBox()
        self.style_box.setAccessibleName("style of first light")
        self.style_box.addItems([s.name for s in STYLES])
        self.style_box.activated.connect(lambda _=0: self._change(True, style=self.style_box.currentText()))
        column.addWidget(self.style_box)
        self.rows = {name: self._dial(name, most) for name, most in (("depth", 2.0), ("softness", 1.0))}
        for row in self.rows.values():
            column.addWidget(row)
        foot = QHBoxLayout()
        self.count = QLabel()
        self.count.setObjectName("quiet")
        self.count.setToolTip("Dials change what first light gave; what was changed by hand since stays as it is")
        away = QPushButton("take away")
        away.setObjectName("small")
        away.setToolTip("Take away what first light gave, but for what was changed by hand")
        away.clicked.connect(self._take_away)
        foot.addWidget(self.count, 1)
        foot.addWidget(away)
        column.addLayout(foot)
        session.on((News.DOCUMENT,), self.refresh)
        self.hide()

    def _dial(self, name: str, most: float) -> SliderRow:
        row = SliderRow(name, 0, most, " %", 100.0, 0, most)
        row.preview.connect(lambda v: self._change(False, **{name: v}))
        row.done.connect(lambda v: self._change(True, **{name: v}))
        row.number.refused.connect(self.session.say)
        row.narrow()
        return row

    @property
    def record(self) -> FirstLight | None:
        """What is known of first light in the document."""
        return self.session.document.first_light

    def _change(self, final: bool, **changes: object) -> None:
        record, before = self.record, self.session.history.committed
        if record is None:
            return
        if self._ready is None or self._ready[0] is not before.root:
            self._ready = (before.root, self._prepared(before, record.of))
        values = {"style": record.style, "depth": record.depth, "softness": record.softness} | changes
        self.session.preview(lit(self._ready[1], **values))  # type: ignore[arg-type]
        if final:
            self.session.commit("first light")

    def _prepared(self, before: Document, of: tuple[int, ...]) -> Prepared:
        """The pieces looked at, or those that are known, when they are the same without their light."""
        bare, _ = without_first_light(before, of)
        if self._ready is not None and self._ready[1].of == of and self._ready[1].document == bare:
            return self._ready[1]
        with Waiting(self, "First light", "", asks=False) as waiting:
            return prepared(before, of, waiting.stops)

    def _take_away(self) -> None:
        document, _ = without_first_light(self.session.document)
        self.session.apply("take first light away", replace(document, first_light=None))

    def showEvent(self, event: object) -> None:
        self.refresh()

    def refresh(self) -> None:
        record = self.record
        if record is None or self.isHidden():  # pieces are looked at one by one
            return
        self.style_box.setCurrentText(record.style)
        self.rows["depth"].show_value(record.depth)
        self.rows["softness"].show_value(record.softness)
        if not self.session.history.in_gesture:
            nodes = {n.id: n for n in walk(self.session.document.root)}
            kept = sum(is_untouched(nodes.get(g.id), g) for g in record.given)
            all_lit = len(record.given) + len(record.left)
            self.count.setText(f"{kept} of {all_lit} pieces" if kept < all_lit else f"{kept} pieces")
