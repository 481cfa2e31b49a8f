"""Ramp: a line drawn over a picture or artwork becomes the gradient of what is selected."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QLinearGradient, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import halo_line, tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Option, Tool
from volumen.app.state.colouring import graded
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.colour.srgb import Floats
from volumen.edit.gradients import sampled_stops
from volumen.geometry.affine import Point
from volumen.shading.paint import Stop

_READINGS = 129


class RampTool(Tool):
    """Reads a gradient off the artwork along a line."""

    name = "ramp"
    icon = "move-diagonal"
    toolbox = (Shown(Stage.COLOUR, 30, folded=True),)
    hint = "Drag a line over a picture or the artwork: the colours along it become the gradient of what is selected."
    cursor = Qt.CursorShape.CrossCursor
    options = (
        Option("most", "stops at most", 7, 2, 16, "", 2, whole=True, hard_high=100),
        Option("width", "average across", 5, 1, 41, " px", 1, whole=True, hard_high=401),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.start: Point | None = None
        self.end: Point | None = None
        self.picture = QImage()  # the frame as it was when the line was begun: what it reads does not change it
        self.stops: tuple[Stop, ...] = ()

    def press(self, p: Pointer) -> None:
        if not self.session.selection:
            self.session.say("select first what shall take the gradient")
            return
        if self.sheet.picture().isNull():
            self.session.say("the artwork is not drawn yet; try again in a moment")
            return
        self.start = self.end = p.at
        self.picture = self.sheet.picture().copy()

    def move(self, p: Pointer) -> None:
        if self.start is None:
            return
        self.end = p.at
        self.stops = ()
        if math.dist(self.start, self.end) > 4:
            ratio = self.sheet.devicePixelRatioF()
            row = colours_along(self.picture, self.start, self.end, ratio, int(self.values["width"]))
            self.stops = sampled_stops(row, int(self.values["most"]))
            self.session.preview(graded(self.session, self.stops))
        self.sheet.update()

    def release(self, p: Pointer) -> None:
        if self.start is not None and self.stops:
            self.session.commit("gradient from a line")
        self._forget()

    def key(self, key: int) -> bool:
        if key != Qt.Key.Key_Escape or self.start is None:
            return False
        self.session.cancel()
        self._forget()
        return True

    def _forget(self) -> None:
        self.start = self.end = None
        self.stops, self.picture = (), QImage()
        self.sheet.update()

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if self.start is None or self.end is None:
            return
        halo_line(painter, self.start, self.end)
        if not self.stops:
            return
        box = QRectF(self.end[0] + 14, self.end[1] - 26, 120, 16)
        shown = QLinearGradient(box.left(), 0, box.right(), 0)
        for s in self.stops:
            shown.setColorAt(s.at, theme.qcolor(s.colour.rgb, s.colour.a))
        painter.setPen(QPen(theme.qcolor((1, 1, 1)), 2))
        painter.setBrush(shown)
        painter.drawRoundedRect(box, 3, 3)
        painter.setPen(QPen(theme.qcolor((0, 0, 0), 0.6), 1))
        for s in self.stops:
            x = box.left() + s.at * box.width()
            painter.drawLine(QPointF(x, box.bottom() - 5), QPointF(x, box.bottom()))
        tag(painter, (box.left(), box.bottom() + 6), f"{len(self.stops)} stops")


def colours_along(picture: QImage, start: Point, end: Point, ratio: float, width: int) -> Floats:
    """Straight colours (129, 4) along a line in canvas pixels, each the mean of ``width`` pixels across it."""
    import cv2  # loads slowly

    rows = picture.convertToFormat(QImage.Format.Format_RGBA8888_Premultiplied)
    pixels = np.frombuffer(rows.constBits(), np.uint8).reshape(rows.height(), rows.bytesPerLine())
    rgba = pixels[:, : 4 * rows.width()].reshape(rows.height(), rows.width(), 4).astype(np.float32) / 255
    a, b = np.array(start) * ratio, np.array(end) * ratio
    along = a + (b - a) * np.linspace(0, 1, _READINGS)[:, None]
    side = np.array([a[1] - b[1], b[0] - a[0]]) / max(math.dist(a, b), 1e-9)
    at = (along[:, None] + side * (np.arange(width) - (width - 1) / 2)[None, :, None]).astype(np.float32)
    found = cv2.remap(rgba, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    read = np.asarray(found, dtype=np.float64).mean(axis=1)
    read[:, :3] /= np.maximum(read[:, 3:], 1e-6)
    return np.asarray(np.clip(read, 0, 1))
