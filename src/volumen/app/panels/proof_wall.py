"""The wall of proofs: the same artwork as drawn, flat, in values only, and at small sizes."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QTimer
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.app.widgets.segment import segment
from volumen.colour.values import values_of
from volumen.render.worker.messages import ImageAnswer

SMALL = (128, 64, 32, 16)


def values_only(image: QImage) -> QImage:
    """The same picture in greys of equal OKLab lightness."""
    rgba = np.array(np.ndarray((image.height(), image.width(), 4), np.uint8, image.constBits()))
    rgba[..., :3] = values_of(rgba[..., :3])[..., None]
    return QImage(rgba.tobytes(), image.width(), image.height(), QImage.Format.Format_RGBA8888).copy()


class ProofWall(QWidget):
    """As drawn, flat, values only, and at the small sizes of icons."""

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__()
        self.session, self.link = session, link
        self.lit: QImage | None = None
        self.flat: QImage | None = None
        self.small: dict[int, QImage] = {}
        self._timer = QTimer(self, singleShot=True, interval=60)
        self._timer.timeout.connect(self._ask)
        self.setAccessibleName("wall of proofs")
        self.alone = segment("selection alone")
        self.alone.setParent(self)
        self.alone.setToolTip("The small sizes show only what is selected, as large as it fits")
        self.alone.toggled.connect(self.refresh)
        session.on((News.DOCUMENT, News.STAGE, News.SELECTION), self.refresh)

    def refresh(self) -> None:
        if self.session.stage == Stage.PROOF:
            self._timer.start()

    def resizeEvent(self, event: object) -> None:
        self.refresh()

    def _ask(self) -> None:
        side = int(min(self.width() / 2, self.height() * 0.62)) * 2
        ask = self.link.request_image
        ask((), (side, side), False, lambda a: self._take("lit", a))
        ask((), (side, side), True, lambda a: self._take("flat", a))
        self.alone.setEnabled(bool(self.session.selection))
        nodes = self.session.selection if self.alone.isChecked() else ()
        for size in SMALL:
            ask(nodes, (size, size), False, lambda a, s=size: self._take_small(s, a))

    def _take(self, name: str, answer: ImageAnswer) -> None:
        setattr(self, name, image_of(answer))
        self.update()

    def _take_small(self, size: int, answer: ImageAnswer) -> None:
        self.small[size] = image_of(answer)
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("#cfcdc8"))
        gap, caption = 22.0, 24.0
        side = min((self.width() - 3 * gap) / 2, (self.height() - 3 * gap - 2 * caption) * 0.60)
        left = (self.width() - 2 * side - gap) / 2
        self._proof(painter, QRectF(left, gap, side, side), self.lit, "as drawn")
        self._proof(painter, QRectF(left + side + gap, gap, side, side), self.flat, "flat")
        top = gap + side + caption + gap
        low = self.height() - top - caption - gap / 2
        values = values_only(self.lit) if self.lit is not None else None
        self._proof(painter, QRectF(left, top, low, low), values, "values only")
        x = left + low + gap
        self.alone.move(round(x), round(top + 156))
        for size in SMALL:
            if size in self.small:
                image = self.small[size]
                painter.drawImage(QRectF(x, top + 128 - image.height(), image.width(), image.height()), image)
                painter.setPen(QColor(theme.SOFT_INK))
                painter.drawText(QRectF(x, top + 132, max(size, 40), 18), f"{size} px")
                x += max(size, 40) + gap

    def _proof(self, painter: QPainter, box: QRectF, image: QImage | None, caption: str) -> None:
        if image is None or image.isNull():
            return
        k = min(box.width() / image.width(), box.height() / image.height())
        w, h = image.width() * k, image.height() * k
        place = QRectF(box.center().x() - w / 2, box.top() + (box.height() - h) / 2, w, h)
        painter.fillRect(place.translated(0, 2).adjusted(-2, 0, 2, 3), QColor(40, 38, 34, 30))
        painter.fillRect(place, QColor("white"))
        painter.drawImage(place, image)
        painter.setPen(QColor(theme.SOFT_INK))
        painter.drawText(QRectF(place.left(), place.bottom() + 5, place.width(), 20), caption)
