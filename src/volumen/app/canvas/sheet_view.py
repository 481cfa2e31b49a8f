"""The picture of the sheet as it is seen: zoomed, moved, over the desk, with outlines."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QTransform
from PySide6.QtWidgets import QWidget

from volumen.app import theme
from volumen.app.canvas.handles import halo_stroke, qt_path
from volumen.app.canvas.still import Still
from volumen.app.engine.frames import FrameLink, image_of
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.state.viewport import Viewport, fitted
from volumen.edit import objects
from volumen.geometry.affine import Affine, Point, multiply
from volumen.geometry.path import Box
from volumen.geometry.primitives import rectangle
from volumen.model.nodes import Document, Image, Node, Shape
from volumen.model.tree import world_of
from volumen.outline.outlines import outline
from volumen.render.worker.messages import ImageAnswer


class SheetView(QWidget):
    """Shows the worker's picture through a viewport."""

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__()
        self.session, self.link = session, link
        self.viewport = Viewport()
        self._behind = Still()
        self._fitted = True  # until the view is moved by hand
        self._outlined: tuple[tuple[Document, tuple[int, ...], Affine], QPainterPath] | None = None

    def fit(self) -> None:
        """Show the whole sheet, with room for the lamp's ring."""
        sheet = self.session.document.sheet
        margin = min(self.width(), self.height()) * 0.07
        self.set_viewport(fitted((0, 0, sheet.width, sheet.height), self.width(), self.height(), margin))
        self._fitted = True

    def fit_selection(self) -> None:
        box = objects.selection_box(self.session.document, self.session.selection)
        if box is None:
            self.fit()
        else:
            self.set_viewport(fitted(box, self.width(), self.height(), 60))

    def zoom(self, factor: float, at: Point | None = None) -> None:
        self.set_viewport(self.viewport.zoomed(factor, at or (self.width() / 2, self.height() / 2)))

    def set_viewport(self, viewport: Viewport) -> None:
        self.viewport = viewport
        self._fitted = False
        self._ask_frame()
        self.update()
        self.session.tell(News.VIEW)

    def _ask_frame(self) -> None:
        ratio = self.devicePixelRatioF()
        size = (max(round(self.width() * ratio), 1), max(round(self.height() * ratio), 1))
        self.link.show(size, self.viewport.affine(ratio))

    def resizeEvent(self, event: object) -> None:
        if self._fitted:
            self.fit()
        self._ask_frame()

    def picture(self) -> QImage:
        """The artwork as it was drawn last, in device pixels."""
        return self.link.image

    def ask_picture(self, document: Document, box: Box, side: int, done: Callable[[QImage], None]) -> None:
        """Ask for a picture of a part of the sheet as a document would show it; ``done`` gets it later, if it comes."""

        def take(answer: ImageAnswer) -> None:
            if answer.width:
                done(image_of(answer))

        self.link.request_variant(document, box, side, take)

    def drop_pictures(self) -> None:
        """What was asked for and has not begun is not wanted any more."""
        self.link.drop_variants()

    def holds(self, at: Point) -> bool:
        """Whether a place lies on the canvas."""
        return self.rect().contains(QPoint(int(at[0]), int(at[1])))

    def seen_round(self, at: Point, size: int) -> tuple[QImage, Point] | None:
        """A picture of what is seen round a place and where in the picture the place is; None outside the window."""
        if self.holds(at) and not self.link.image.isNull():
            ratio = self.devicePixelRatioF()
            return self.link.image, (at[0] * ratio, at[1] * ratio)
        window = self.window()
        there = self.mapTo(window, QPoint(int(at[0]), int(at[1])))
        if not window.rect().contains(there):
            return None
        shot = window.grab(QRect(there.x() - size, there.y() - size, 2 * size + 1, 2 * size + 1)).toImage()
        middle = (size + 0.5) * shot.devicePixelRatio()
        return shot, (middle, middle)

    def _paint_sheet(self, painter: QPainter) -> None:
        painter.fillRect(self.rect(), QColor(theme.DESK))
        sheet = self.session.document.sheet
        a, b = self.viewport.to_canvas((0, 0)), self.viewport.to_canvas((sheet.width, sheet.height))
        box = QRectF(QPointF(*a), QPointF(*b))
        for i in range(6):  # the sheet lies a little above the desk
            painter.fillRect(box.adjusted(-i + 2, -i + 4, i + 2, i + 4), QColor(40, 38, 34, 9))
        if sheet.ground is None:
            theme.paint_squares(painter, box)
        else:
            painter.fillRect(box, theme.qcolor(sheet.ground.rgb))

    def _paint_picture(self, painter: QPainter) -> None:
        """The last picture that arrived, moved to where the view is now."""
        view, image = self.link.image_view, self.link.image
        if view is None or image.isNull():
            return
        ratio = self.devicePixelRatioF()
        now = self.viewport.affine(ratio)
        k = now[0] / view[0]
        painter.save()
        painter.scale(1 / ratio, 1 / ratio)
        if now != view:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.setTransform(QTransform(k, 0, 0, k, now[4] - view[4] * k, now[5] - view[5] * k), combine=True)
        painter.drawImage(0, 0, image)
        painter.restore()

    def paint_outlines(self, painter: QPainter) -> None:
        """The outlines of what is selected, kept until that or the view changes."""
        s = self.session
        key = (s.document, s.selection, self.viewport.affine())
        if self._outlined is None or self._outlined[0][0] is not key[0] or self._outlined[0][1:] != key[1:]:
            whole = QPainterPath()
            for node_id, node in zip(s.selection, s.nodes, strict=False):
                _add_outline(whole, node, world_of(s.document, node_id), key[2])
            self._outlined = (key, whole)
        halo_stroke(painter, self._outlined[1])


def _add_outline(whole: QPainterPath, node: Node, world: Affine, view: Affine) -> None:
    if isinstance(node, Shape):
        whole.addPath(qt_path(outline(node, world), multiply(view, world)))
    elif isinstance(node, Image):
        whole.addPath(qt_path(rectangle(0, 0, node.width, node.height), multiply(view, world)))
    else:
        for child in node.children:
            _add_outline(whole, child, multiply(world, child.transform), view)
