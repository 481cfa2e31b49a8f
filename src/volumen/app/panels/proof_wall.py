"""The wall of proofs: the same artwork in several views that move together; any of them can be made large."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.panels.proof_compare import Comparing
from volumen.app.panels.proof_kinds import BY_NAME, view_for
from volumen.app.panels.proof_stock import OnStockProofs
from volumen.app.panels.proof_view import CAPTION, WallView, hung, in_pixels, packed
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.colour.press import INKS, Bytes
from volumen.edit.objects import selection_box
from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.picture.spots import spot_inks
from volumen.render.worker.messages import ImageAnswer
from volumen.stock.stocks import Stock

_INSET = 6.0  # round small pictures
_OWN_SIZE = ("underbase", "cut out")
_FINEST = 4.0  # times larger than it fits, that such a picture is drawn
_ON_STOCK = ("stock", "all colours")
_WALL, _LIGHT, _DARK = "#cfcdc8", "#f4f2ec", "#23262b"


class ProofWall(QWidget):
    """Paints the proofs; asks the worker for them again whenever they, or the artwork, change."""

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__()
        self.session, self.link = session, link
        self.view = WallView()
        self.marked: Box | None = None  # a part of the sheet that is pointed at
        self.images: dict[str, tuple[QImage, Box]] = {}  # by name: the picture, and the part of the sheet it shows
        self.inks: dict[str, Bytes] = {}
        self.figures: dict[str, dict[str, float]] = {}
        self.small: dict[int, QImage] = {}
        self.problem = ""
        self._owed: set[str] = set()
        self._again = False
        self._timer = QTimer(self, singleShot=True, interval=60)
        self._timer.timeout.connect(self._ask)
        link.renewed.connect(self._ask_again)
        self._pressed: tuple[QPointF, str] | None = None
        self._moved, self._wiping = False, False
        self.comparing, self.on_stock = Comparing(self), OnStockProofs(self)
        self.pointer: QPointF | None = None
        self._stock: tuple[Stock, str, bool] | None = None
        self._written = ""
        self.setMouseTracking(True)
        self.setAccessibleName("wall of proofs")
        session.on((News.DOCUMENT, News.STAGE, News.SELECTION, News.PROOF), self.refresh)
        session.on((News.DOCUMENT, News.SELECTION, News.FILE), self._unmark)

    def _unmark(self) -> None:
        self.marked = None

    # -- what hangs where

    @property
    def size_of_sheet(self) -> tuple[float, float]:
        sheet = self.session.document.sheet
        return sheet.width, sheet.height

    @property
    def places(self) -> dict[str, QRectF]:
        w, h = self.size_of_sheet
        p = self.session.proofing
        return hung(p.shown, p.large, QRectF(self.rect()), w / h)

    def _size_of(self, name: str) -> tuple[float, float]:
        """That of the sheet; devices show what they make in its own proportions."""
        if self._is_own_size(name) and name in self.images:
            image = self.images[name][0]
            return float(max(image.width(), 1)), float(max(image.height(), 1))
        return self.size_of_sheet

    def _is_own_size(self, name: str) -> bool:
        return name in _OWN_SIZE or (name == "printed" and bool(self.session.proofing.written))

    def proof_at(self, at: QPointF) -> str | None:
        return next((n for n, place in self.places.items() if place.contains(at)), None)

    # -- asking

    def refresh(self) -> None:
        p = self.session.proofing
        if self._stock != (p.on, p.ink, p.own_size):
            self._stock = (p.on, p.ink, p.own_size)
            self.on_stock.forget()
        if self._written != p.written:
            self._written = p.written
            self.images.pop("printed", None)
            self.figures.pop("printed", None)
        if self.session.stage == Stage.PROOF:
            self._timer.start()
            self.update()

    def resizeEvent(self, event: object) -> None:
        self.refresh()

    def _ask(self) -> None:
        if self._owed:
            self._again = True
            return
        self._again, self.problem = False, ""
        ratio, p = self.devicePixelRatioF(), self.session.proofing
        spots = len(spot_inks(self.session.document))
        self.on_stock.keep(n for n in p.shown if n in _ON_STOCK)
        for name, place in self.places.items():
            kind = BY_NAME[name]
            if name == "compare":
                self.comparing.ask(place, ratio, self._owed, self._taken)
                continue
            if name in _ON_STOCK:
                self.on_stock.ask(name, place, ratio, self._owed, self._taken)
                continue
            if kind.view is None:
                self._ask_small()
                continue
            box, seen = self.view.shown(place, self._size_of(name))
            self._owed.add(name)
            whole = self.view.zoom == 1.0 or self._is_own_size(name)
            if self._is_own_size(name):  # drawn whole, as large as it is looked at
                k = min(self.view.zoom, _FINEST)
                box, seen = (0.0, 0.0, *self._size_of(name)), QRectF(0, 0, seen.width() * k, seen.height() * k)
            done = partial(self._take, name, box)
            self.link.request_image(
                (), in_pixels(seen, ratio), kind.flat, done, None if whole else box, view_for(kind, p, spots)
            )

    def _ask_again(self) -> None:
        """What a worker owed that has ended is asked of the next one."""
        self._owed = set()
        self.refresh()

    def _ask_small(self) -> None:
        p = self.session.proofing
        nodes = self.session.selection if p.alone else ()
        self.small = {s: i for s, i in self.small.items() if s in p.sizes}
        for size in p.sizes:
            self._owed.add(f"{size} px")
            self.link.request_image(nodes, (size, size), False, partial(self._take_small, size))

    def _take(self, name: str, box: Box, answer: ImageAnswer) -> None:
        if answer.problem:
            self.problem = answer.problem
        else:
            image = image_of(answer)
            own = self._is_own_size(name)
            self.images[name] = (image, (0.0, 0.0, float(image.width()), float(image.height())) if own else box)
            self.figures[name] = answer.figures
            self.inks.pop(name, None)
            if answer.inks:
                self.inks[name] = np.frombuffer(answer.inks, np.uint8).reshape(answer.height, answer.width, -1)
        self._taken(name)

    def _take_small(self, size: int, answer: ImageAnswer) -> None:
        self.small[size] = image_of(answer)
        self._taken(f"{size} px")

    def _taken(self, what: str) -> None:
        self._owed.discard(what)
        self.update()
        if not self._owed and self._again:
            self._timer.start()

    # -- painting

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor(_WALL))
        places = self.places
        if not places:
            painter.setPen(QColor(theme.SOFT_INK))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Tick on the left what shall hang here.")
        for name, place in places.items():
            if name == "compare":
                seen = self.comparing.paint(painter, place)
            elif name in _ON_STOCK:
                seen = self.on_stock.paint(painter, name, place)
            elif BY_NAME[name].view is None:
                seen = self._paint_small(painter, place)
            else:
                seen = self._paint_proof(painter, name, place)
            self._paint_caption(painter, name, place, seen)

    def _paint_proof(self, painter: QPainter, name: str, place: QRectF) -> QRectF:
        size = self._size_of(name)
        _, seen = self.view.shown(place, size)
        painter.fillRect(seen.translated(0, 2).adjusted(-2, 0, 2, 3), QColor(40, 38, 34, 30))
        painter.fillRect(seen, QColor("white"))
        if name in self.images:
            image, box = self.images[name]
            painter.save()
            painter.setClipRect(seen)
            painter.drawImage(self.view.lies(box, place, size), image)
            if self.marked is not None and not self._is_own_size(name):
                painter.setPen(QPen(QColor(theme.VERMILION), 2))
                painter.drawRect(self.view.lies(self.marked, place, size).adjusted(-4, -4, 4, 4))
            painter.restore()
        return seen

    def _paint_small(self, painter: QPainter, place: QRectF) -> QRectF:
        """Each size pixel by pixel, above on light and below on dark."""
        half = place.height() / 2
        ratio = self.devicePixelRatioF()
        for row, ground in enumerate((_LIGHT, _DARK)):
            band = QRectF(place.left(), place.top() + row * half, place.width(), half)
            painter.fillRect(band, QColor(ground))
            painter.save()
            painter.setClipRect(band)
            sizes = self.session.proofing.sizes
            for size, (x, y) in zip(sizes, packed(sizes, band.height() - 2 * _INSET, _INSET), strict=True):
                image = self.small.get(size)
                if image is not None and not image.isNull():
                    image.setDevicePixelRatio(ratio)
                    painter.drawImage(QPointF(round(band.left() + _INSET + x), round(band.top() + _INSET + y)), image)
            painter.restore()
        return place

    def _paint_caption(self, painter: QPainter, name: str, place: QRectF, seen: QRectF) -> None:
        said, metrics, high = self._said(name), painter.fontMetrics(), CAPTION / 2
        box = QRectF(seen.left(), min(seen.bottom(), place.bottom()) + 3, place.right() - seen.left(), high)
        painter.setPen(QColor(theme.INK))
        painter.drawText(box, name)
        painter.setPen(QColor(theme.SOFT_INK))
        line = metrics.elidedText(said, Qt.TextElideMode.ElideRight, round(box.width()))
        painter.drawText(box.translated(0, high - 3), line)
        if self.hasFocus() and name == self.session.proofing.large:
            painter.setPen(QPen(QColor(theme.AMBER_DARK), 1.5))
            painter.drawRect(seen.adjusted(-3, -3, 3, 3))

    def _said(self, name: str) -> str:
        p = self.session.proofing
        if name == "small sizes":
            sizes = ", ".join(map(str, p.sizes)) + " px"
            return f"{sizes}, of the selection alone" if p.alone and self.session.selection else sizes
        if name == "compare":
            return self.comparing.said()
        if name in _ON_STOCK:
            return self.on_stock.said(name)
        under = self._under_pointer(name)
        if under or (self.problem and name in ("press proof", "total ink", "plates", "printed", *_OWN_SIZE)):
            return under or self.problem
        return BY_NAME[name].said(self.figures[name], p) if self.figures.get(name) else ""

    def _under_pointer(self, name: str) -> str:
        """The inks where the pointer is, on the proof that it is on."""
        inks = self.inks.get(name)
        if inks is None or self.pointer is None or self.proof_at(self.pointer) != name:
            return ""
        _, seen = self.view.shown(self.places[name], self.size_of_sheet)
        x = int((self.pointer.x() - seen.left()) / seen.width() * inks.shape[1])
        y = int((self.pointer.y() - seen.top()) / seen.height() * inks.shape[0])
        if not (0 <= x < inks.shape[1] and 0 <= y < inks.shape[0]):
            return ""
        here = inks[y, x] / 2.55
        names = [*INKS, *(ink.name for ink in spot_inks(self.session.document).values())]
        words = "  ".join(f"{n} {v:.0f}" for n, v in zip(names, here, strict=False) if v >= 0.5)
        return f"{words}  = {here.sum():.0f} %"

    # -- hands

    def mousePressEvent(self, event: QMouseEvent) -> None:
        name = self.proof_at(event.position())
        self._pressed, self._moved = ((event.position(), name) if name else None), False
        self._wiping = name == "compare" and self.comparing.grips(self.places[name], event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointer = event.position()
        if self._wiping:
            self._moved = True
            self.comparing.wipe(self.places["compare"], event.position())
        elif self._pressed is not None:
            way = event.position() - self._pressed[0]
            if self._moved or way.manhattanLength() > 4:
                self._moved = True
                self.view.pan(self.places[self._pressed[1]], self.size_of_sheet, way)
                self._pressed = (event.position(), self._pressed[1])
                self._timer.start()
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, self._pressed, self._wiping = self._pressed, None, False
        if pressed is not None and not self._moved:
            self.make_large(pressed[1])

    def make_large(self, name: str) -> None:
        """Make a proof large, or put the large one back among the others."""
        large = None if self.session.proofing.large == name else name
        self.view.fit()
        self.session.set_proofing(large=large)

    def point_at(self, node_id: int) -> None:
        """Show where an object is: near, and framed, in all proofs of the sheet. One is hung where there is none."""
        self.marked = selection_box(self.session.document, (node_id,))
        if self.marked is None:
            return
        self.view.look_at(self.marked, self.size_of_sheet)
        p = self.session.proofing
        if not any(BY_NAME[n].view is not None and not self._is_own_size(n) for n in self.places):
            self.session.set_proofing(shown=(*(n for n in p.shown if n != "as drawn"), "as drawn"), large="as drawn")
        self.refresh()

    def compare_with(self, found: tuple[str, Document] | None) -> None:
        """Compare with a document from a file; without one what was chosen before stays."""
        if found is not None:
            self.comparing.file = found
            self.refresh()

    def leaveEvent(self, event: QEvent) -> None:
        self.pointer = None
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        self._zoom(1.0015 ** event.angleDelta().y(), event.position())

    def _zoom(self, factor: float, at: QPointF) -> None:
        places = self.places
        name = self.proof_at(at) or next(iter(places), None)
        if name is not None:
            self.view.zoom_at(factor, places[name], self.size_of_sheet, at)
            self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = list(self.places)
        large = self.session.proofing.large
        middle = self.places[names[0]].center() if names else QPointF()
        key = event.key()
        if key == Qt.Key.Key_Escape and large is not None:
            self.make_large(large)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and names:
            shown = list(self.session.proofing.shown)
            step = 1 if key == Qt.Key.Key_Right else -1
            k = (shown.index(large) + step) % len(shown) if large in shown else 0
            self.session.set_proofing(large=shown[k])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._zoom(1.25 if key == Qt.Key.Key_Plus else 0.8, middle)
        elif key == Qt.Key.Key_0:
            self.view.fit()
            self.refresh()
        else:
            super().keyPressEvent(event)
