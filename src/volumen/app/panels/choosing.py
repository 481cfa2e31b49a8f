"""Choosing by eye: the real selection in many variants along the foot of the canvas; a click takes one."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QEnterEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import (
    QAbstractButton,
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from volumen.app import theme
from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.app.widgets.scrolled import show_body
from volumen.app.widgets.segment import segment
from volumen.app.widgets.waiting import Waiting
from volumen.edit.objects import selection_box
from volumen.edit.variants import KINDS, Variant, first_lights
from volumen.geometry.path import Box, grow_box
from volumen.picture.stopping import Stopped
from volumen.render.worker.messages import ImageAnswer

_TILE, _HEIGHT = 96, 176


class Tile(QAbstractButton):
    """One variant: its picture, worked out by the worker, and its name."""

    pointed = Signal(object)

    def __init__(self, variant: Variant) -> None:
        super().__init__()
        self.variant = variant
        self.picture: QPixmap | None = None
        self.setFixedSize(_TILE + 8, _TILE + 26)
        self.setAccessibleName(variant[0])
        self.setToolTip(f"{variant[0]}: click to take it")

    def take(self, answer: ImageAnswer) -> None:
        if answer.width:
            self.picture = QPixmap.fromImage(image_of(answer))
            self.picture.setDevicePixelRatio(2.0)
            self.update()

    def enterEvent(self, event: QEnterEvent) -> None:
        self.pointed.emit(self.variant)

    def leaveEvent(self, event: object) -> None:
        self.pointed.emit(None)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frame = QRectF(4, 2, _TILE, _TILE)
        painter.fillRect(frame, QColor("#cfcdc6"))
        if self.picture is not None:
            size = self.picture.deviceIndependentSize()
            at = frame.center()
            painter.drawPixmap(round(at.x() - size.width() / 2), round(at.y() - size.height() / 2), self.picture)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        lit = self.underMouse() or self.hasFocus()
        painter.setPen(
            QPen(QColor(theme.VERMILION if self.isDown() else theme.AMBER_DARK if lit else theme.EDGE), 2 if lit else 1)
        )
        painter.drawRect(frame)
        painter.setPen(QColor(theme.INK))
        text = painter.fontMetrics().elidedText(self.variant[0], Qt.TextElideMode.ElideRight, self.width() - 4)
        painter.drawText(QRectF(0, _TILE + 4, self.width(), 20), Qt.AlignmentFlag.AlignHCenter, text)


class ChoosingWall(QWidget):
    """A strip of tiles for one kind of choice. Pointing at a tile shows it on the artwork."""

    opened = Signal()  # opened or closed

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__()
        self.session, self.link = session, link
        self.kind = next(iter(KINDS))
        self.tiles: list[Tile] = []
        self._built_of: tuple[object, ...] = ()
        self._looking = False  # at pieces, while the window lives on
        self.setFixedHeight(_HEIGHT)
        self.setObjectName("side")
        self.setAccessibleName("wall of choices")
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 6, 10, 4)
        column.setSpacing(4)
        column.addLayout(self._head())
        self.strip = QScrollArea()
        self.strip.setWidgetResizable(True)
        self.strip.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.strip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column.addWidget(self.strip)
        self._timer = QTimer(self, singleShot=True, interval=120)
        self._timer.timeout.connect(self.rebuild)
        session.on((News.DOCUMENT, News.SELECTION, News.ACTIVE), self._changed)
        self.hide()

    def _head(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(0)
        title = QLabel("CHOOSE BY EYE")
        title.setObjectName("heading")
        row.addWidget(title)
        row.addSpacing(14)
        self.group = QButtonGroup(self)
        for k, kind in enumerate(KINDS):
            button = segment(kind, exclusive=True)
            button.setChecked(k == 0)
            self.group.addButton(button, k)
            row.addWidget(button)
        self.group.idClicked.connect(lambda k: self.show_kind(list(KINDS)[k]))
        row.addStretch(1)
        close = QToolButton()
        close.setIcon(theme.icon("x", theme.SOFT_INK))
        close.setAccessibleName("close the wall of choices")
        close.clicked.connect(self.hide)
        row.addWidget(close)
        return row

    def show_kind(self, kind: str) -> None:
        """Open the wall on one kind of choice."""
        if kind != self.kind or self.isHidden():
            self.session.tell(News.LOOK)  # something is done, though nothing of the artwork has changed
        self.kind = kind
        self.group.button(list(KINDS).index(kind)).setChecked(True)
        self.show()
        self.rebuild()

    def showEvent(self, event: object) -> None:
        self.opened.emit()

    def hideEvent(self, event: object) -> None:
        self.opened.emit()

    def _changed(self) -> None:
        if self.isVisible() and not self.session.history.in_gesture and self._state() != self._built_of:
            self._timer.start()

    def _state(self) -> tuple[object, ...]:
        """What the tiles depend on."""
        s = self.session
        return (id(s.history.committed), s.selection, s.active, self.kind)

    def rebuild(self) -> None:
        """Tiles anew: one request for each, drawn in the worker while the window stays free."""
        if self.session.history.in_gesture or self._looking:
            return
        self._built_of = self._state()
        self.link.drop_variants()
        holder = QWidget()
        holder.setObjectName("side")
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.tiles = []
        box = self._box()
        if box is None:
            row.addWidget(QLabel("Select what shall be seen in other ways."))
        else:
            for variant in self._variants():
                tile = Tile(variant)
                tile.clicked.connect(lambda _=False, v=variant: self.take(v))
                tile.pointed.connect(self._pointed)
                self.link.request_variant(variant[1], box, 2 * _TILE, partial(self._arrived, tile))
                self.tiles.append(tile)
                row.addWidget(tile)
        row.addStretch(1)
        show_body(self.strip, holder)

    def _variants(self) -> list[Variant]:
        """What the tiles show; none where a person did not wait for what first light asks of large artwork."""
        s = self.session
        if self.kind != "first light":
            return KINDS[self.kind](s.document, s.selection, s.active)
        self._looking = True
        try:
            with Waiting(self, "Choose by eye", "Looking at the pieces …") as waiting:
                return first_lights(s.document, s.selection, stop=waiting.stops)
        except Stopped:
            s.say("first light was stopped; choose it again to see its styles")
            return []
        finally:
            self._looking = False

    def _arrived(self, tile: Tile, answer: ImageAnswer) -> None:
        """A picture for a tile that may have made way for others meanwhile."""
        if tile in self.tiles:
            tile.take(answer)

    def _box(self) -> Box | None:
        """What the tiles show: the selection with some room around it; for lights the whole sheet, for first light
        too where nothing is selected."""
        sheet = self.session.document.sheet
        if self.kind == "lights" or (self.kind == "first light" and not self.session.selection):
            return (0.0, 0.0, sheet.width, sheet.height)
        box = selection_box(self.session.document, self.session.selection)
        if box is None:
            return None
        side = max(box[2] - box[0], box[3] - box[1], 1.0) * 1.25
        cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        return grow_box((cx, cy, cx, cy), side / 2)

    def _pointed(self, variant: Variant | None) -> None:
        """Show a variant on the artwork while the pointer is on it."""
        if variant is not None:
            self.session.preview(variant[1])
        elif self.session.history.in_gesture:
            self.session.cancel()

    def take(self, variant: Variant) -> None:
        """One step of undo."""
        if self.session.history.in_gesture:
            self.session.cancel()
        self.session.apply(f"{self.kind}: {variant[0]}", variant[1])
