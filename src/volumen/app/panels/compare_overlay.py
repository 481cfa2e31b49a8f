"""Comparing on the sheet itself: a line to drag, left of it the artwork, right of it another state."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.canvas.canvas import Canvas
from volumen.app.engine.frames import image_of
from volumen.app.panels.proof_compare import compared_with, paint_wipe
from volumen.app.state.news import News, Stage
from volumen.app.widgets.painting import painted
from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.render.worker.messages import ImageAnswer

_PAUSE = 60  # ms after a change before the other state is asked for again


class CompareOverlay(QWidget):
    """Lies over the canvas while it is shown; looking nearer and moving go through to it."""

    def __init__(self, canvas: Canvas) -> None:
        super().__init__(canvas)
        self.canvas, self.session = canvas, canvas.session
        self.file: tuple[str, Document] | None = None
        self.line = 0.5  # of the way across the canvas
        self.picture: tuple[QImage, Box] | None = None
        self.under_way, self._again = False, False
        self._dragging = False
        self.setCursor(Qt.CursorShape.SplitHCursor)
        self.setAccessibleName("compare on the sheet")
        self._timer = QTimer(self, singleShot=True, interval=_PAUSE)
        self._timer.timeout.connect(self._ask)
        self.session.on((News.DOCUMENT, News.VIEW, News.PROOF, News.LOOK), self._refresh)
        self.session.on((News.STAGE, News.FILE), self.hide)
        canvas.link.renewed.connect(self._renewed)
        canvas.installEventFilter(self)
        self.hide()

    def toggle(self) -> None:
        """Show it, or put it away."""
        if self.isVisible():
            self.hide()
            return
        document, name = compared_with(self.session, self.file)
        if document is None:
            self.session.say(f"{name}: there is nothing to compare with; choose something else in Proof")
            return
        self.picture, self.under_way, self._again = None, False, False
        self.setGeometry(self.canvas.rect())
        self.show()
        self.raise_()
        self._ask()
        self.session.say(f"left as drawn, right {name}; drag the line, Escape ends it")

    def hideEvent(self, event: object) -> None:
        self.picture = None
        self._timer.stop()

    def _refresh(self) -> None:
        if self.isVisible():
            self.setGeometry(self.canvas.rect())
            self._timer.start()
            self.update()

    def _renewed(self) -> None:
        self.under_way = False
        self._refresh()

    def _seen(self) -> Box | None:
        """The part of the sheet that the canvas shows; None where it shows none of it."""
        sheet, view = self.session.document.sheet, self.canvas.viewport
        (l, t), (r, b) = view.to_sheet((0.0, 0.0)), view.to_sheet((float(self.width()), float(self.height())))
        box = (max(l, 0.0), max(t, 0.0), min(r, sheet.width), min(b, sheet.height))
        return box if box[0] < box[2] and box[1] < box[3] else None

    def _ask(self) -> None:
        if self.under_way:
            self._again = True
            return
        document, _ = compared_with(self.session, self.file)
        box = self._seen()
        if document is None or box is None or not self.isVisible() or self.session.stage == Stage.PROOF:
            return
        k = self.canvas.viewport.scale * self.devicePixelRatioF()
        size = (max(round((box[2] - box[0]) * k), 1), max(round((box[3] - box[1]) * k), 1))
        self.under_way, self._again = True, False
        references = self.session.proofing.against == "the reference"

        def take(answer: ImageAnswer) -> None:
            self.under_way = False
            if answer.width:
                self.picture = (image_of(answer), box)
            self.update()
            if self._again:
                self._timer.start()

        self.canvas.link.request_image((), size, self.session.flat, take, box, None, document, references)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        if self.picture is None:
            return
        painter = QPainter(self)
        image, box = self.picture
        view = self.canvas.viewport
        (l, t), (r, b) = view.to_canvas((box[0], box[1])), view.to_canvas((box[2], box[3]))
        x = self.width() * self.line
        painter.save()
        painter.setClipRect(QRectF(x, 0, self.width() - x, self.height()))
        painter.fillRect(QRectF(l, t, r - l, b - t), QColor("white"))
        painter.drawImage(QRectF(l, t, r - l, b - t), image)
        painter.restore()
        paint_wipe(painter, x, 0.0, float(self.height()))
        painter.setPen(QColor(theme.INK))
        _, name = compared_with(self.session, self.file)
        painter.drawText(QPointF(x + 10, 18), name)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._dragging = True
            self._wipe(event)
        else:
            event.ignore()  # the middle button moves the canvas below

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging:
            self._wipe(event)
        else:
            event.ignore()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._dragging = False
        event.ignore()

    def _wipe(self, event: QMouseEvent) -> None:
        self.line = min(max(event.position().x() / max(self.width(), 1), 0.0), 1.0)
        self.update()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """The canvas keeps the keys; Escape ends the comparison first."""
        pressed = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress
        if pressed and self.isVisible() and event.key() == Qt.Key.Key_Escape:  # type: ignore[attr-defined]
            self.hide()
            return True
        return super().eventFilter(watched, event)
