"""The line under the menus: document, stages, flat or lit; and the status bar at the bottom."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QSizePolicy, QStatusBar, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.canvas.canvas import Canvas
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.app.widgets.units import LENGTH_UNIT
from volumen.edit import objects
from volumen.model.nodes import Document
from volumen.model.tree import chain_to, find, walk
from volumen.picture.purity import Purity


class Stages(QWidget):
    """The five stages as a road; click one to go there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedSize(548, 46)
        self.setAccessibleName("stages")
        session.on((News.STAGE,), self.update)

    def place(self, i: int) -> QRectF:
        return QRectF(i * 110 + 4, 6, 96, 34)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = painter.font()
        for i in Stage:
            box, chosen = self.place(i), i == self.session.stage
            centre = QPointF(box.left() + 14, box.center().y())
            painter.setPen(QPen(QColor(theme.INK if chosen else theme.FAINT), 1.2))
            painter.setBrush(QColor(theme.INK) if chosen else QColor(0, 0, 0, 0))
            painter.drawEllipse(centre, 10, 10)
            font.setPixelSize(11)
            font.setBold(chosen)
            painter.setFont(font)
            painter.setPen(QColor(theme.CARD if chosen else theme.SOFT_INK))
            painter.drawText(QRectF(centre.x() - 10, centre.y() - 10, 20, 20), Qt.AlignmentFlag.AlignCenter, str(i + 1))
            font.setPixelSize(14)
            painter.setFont(font)
            painter.setPen(QColor(theme.INK if chosen else theme.SOFT_INK))
            painter.drawText(
                QRectF(box.left() + 31, box.top(), 70, box.height()), Qt.AlignmentFlag.AlignVCenter, i.title
            )
            width = painter.fontMetrics().horizontalAdvance(i.title)
            if chosen:
                painter.fillRect(QRectF(box.left() + 3, 43, 30 + width, 3), QColor(theme.AMBER_DARK))
            if i + 1 < len(Stage):
                painter.setPen(QPen(QColor("#c3c1ba"), 1.4))
                painter.drawLine(
                    QPointF(box.left() + 40 + width, box.center().y()),
                    QPointF(self.place(i + 1).left() - 4, box.center().y()),
                )

    def mousePressEvent(self, event: QMouseEvent) -> None:
        for i in Stage:
            if self.place(i).contains(event.position()):
                self.session.set_stage(i)


class FlatLit(QWidget):
    """The switch between flat and lit, and beside it the one for values."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedSize(QSize(138, 26))
        self.setAccessibleName("flat or lit, values")
        self.setToolTip("flat or lit  (.)\nvalues: greys of the same lightness  (,)")
        session.on((News.LOOK,), self.update)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRoundedRect(QRectF(0.5, 0.5, 83, 25), 12.5, 12.5)
        painter.drawRoundedRect(QRectF(87.5, 0.5, 50, 25), 12.5, 12.5)
        flat, values = self.session.flat, self.session.values
        self._part(painter, QRectF(2.5, 2.5, 39, 21), "flat", flat, theme.CARD)
        self._part(painter, QRectF(42.5, 2.5, 39, 21), "lit", not flat, theme.AMBER)
        self._part(painter, QRectF(89.5, 2.5, 46, 21), "values", values, theme.CARD)

    def _part(self, painter: QPainter, place: QRectF, name: str, chosen: bool, ink: str) -> None:
        if chosen:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(theme.INK))
            painter.drawRoundedRect(place, 10.5, 10.5)
        painter.setPen(QColor(ink if chosen else theme.SOFT_INK))
        painter.drawText(place, Qt.AlignmentFlag.AlignCenter, name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.position().x() > 86:
            self.session.set_look(values=not self.session.values)
        else:
            self.session.set_flat(not self.session.flat)


class Header(QWidget):
    """The line under the menus."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("plain")
        self.setFixedHeight(48)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 0, 14, 0)
        names = QVBoxLayout()
        names.setSpacing(0)
        names.setContentsMargins(0, 5, 0, 5)
        self.name = QLabel()
        self.name.setObjectName("strong")
        self.sheet = QLabel()
        self.sheet.setObjectName("quiet")
        names.addWidget(self.name)
        names.addWidget(self.sheet)
        holder = QWidget()
        holder.setLayout(names)
        row.addWidget(holder, 1)  # both sides alike, so that the stages stay in the middle
        row.addWidget(Stages(session))
        right = QWidget()
        line = QHBoxLayout(right)
        line.setContentsMargins(0, 0, 0, 0)
        line.addStretch(1)
        line.addWidget(FlatLit(session))
        row.addWidget(right, 1)
        for side in (holder, right):
            side.setMinimumWidth(170)
            side.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        session.on((News.DOCUMENT, News.FILE), self.refresh)
        self.refresh()

    def refresh(self) -> None:
        sheet = self.session.document.sheet
        self.name.setText(self.session.name + (" •" if self.session.history.changed else ""))
        LENGTH_UNIT.use(sheet.unit)
        self.sheet.setText(f"sheet {sheet.size_in_unit}")
        mm = replace(sheet, unit="mm").size_in_unit
        bleed = f", {LENGTH_UNIT.said(sheet.bleed)} {sheet.unit} of bleed" if sheet.bleed else ""
        self.sheet.setToolTip(f"{mm} at its printed size{bleed}")


_PROOF_HINT = (
    "Click a proof to make it large. The wheel looks nearer, dragging moves all. Click a check to go to its object."
)
_USUAL = "x 0000.0  y 0000.0   w 0000.0  h 0000.0"


class Status(QStatusBar):
    """What the pointer does now, where it is, the zoom, and what will happen on export."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__()
        self.session, self.canvas = session, canvas
        self.setSizeGripEnabled(False)
        self.hint, self.place, self.zoom, self.purity = QLabel(), QLabel(), QLabel(), QLabel()
        self.hint.setContentsMargins(10, 0, 0, 0)
        self.hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.addWidget(self.hint, 1)
        for label in (self.place, self.zoom, self.purity):
            label.setContentsMargins(8, 0, 8, 0)
            self.addPermanentWidget(label)
        self.place.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.place.setFixedHeight(self.place.sizeHint().height())
        self._note = QTimer(self, singleShot=True, interval=7000)
        self._note.timeout.connect(self._show_hint)
        session.on((News.TOOL, News.STAGE), self._show_hint)
        session.on((News.NOTE,), self._show_note)
        session.on((News.POINTER, News.SELECTION, News.DOCUMENT), self._show_place)
        session.on((News.VIEW,), self._show_zoom)
        session.on((News.PURITY, News.SELECTION), self._show_purity)
        self._show_hint()
        self._show_zoom()
        self._show_purity()

    def _show_hint(self) -> None:
        self._note.stop()
        self.hint.setToolTip("")
        self.hint.setText(self.canvas.tool.hint if self.session.stage != Stage.PROOF else _PROOF_HINT)

    def _show_note(self) -> None:
        self.hint.setText(self.session.note)
        self.hint.setToolTip(self.session.note)  # a long one is cut off at the edge of the label
        self._note.start()

    def _show_place(self) -> None:
        text = ""
        if self.canvas.pointer is not None:
            x, y = self.canvas.viewport.to_sheet(self.canvas.pointer)
            text = f"x {LENGTH_UNIT.said(x)}  y {LENGTH_UNIT.said(y)}"
        box = objects.selection_box(self.session.document, self.session.selection)
        if box is not None:
            text += f"   w {LENGTH_UNIT.said(box[2] - box[0])}  h {LENGTH_UNIT.said(box[3] - box[1])}"
        # Of a fixed size: a label that may grow has the whole window laid out anew each time the pointer moves.
        wide = self.place.fontMetrics().horizontalAdvance(max(text, _USUAL, key=len)) + 20
        if wide > self.place.width() or self.place.minimumWidth() != self.place.maximumWidth():
            self.place.setFixedWidth(wide)
        self.place.setText(text)

    def _show_zoom(self) -> None:
        self.zoom.setText(f"{self.canvas.viewport.scale * 100:.0f} %")

    def _show_purity(self) -> None:
        """Purity of the selection, or of the whole document."""
        purity = purity_of(self.session.document, self.session.selection, self.session.purity)
        whose = "" if not self.session.selection else "selection "
        if purity.svg == "vector" and purity.pdf == "vector":
            self.purity.setText(f"<span style='color:#2f6b46'>◆ {whose}stays vector</span>")
        else:
            self.purity.setText(f"<span style='color:#8a5200'>◆ {whose}SVG {purity.svg} · PDF {purity.pdf}</span>")
        self.purity.setToolTip("\n".join(purity.reasons) or "no filters, no pixels in any export")


def purity_of(document: Document, ids: tuple[int, ...], known: dict[int, Purity]) -> Purity:
    """What exports will hold for these nodes with all inside them, or for everything."""
    wanted = set(known)
    if ids:
        below = {n.id for i in ids if (node := find(document, i)) for n in walk(node)}
        wanted = below | {n.id for i in ids for n in chain_to(document, i)[1:]}
    out = Purity()
    for node_id in wanted & set(known):
        out = out.joined(known[node_id])
    return out
