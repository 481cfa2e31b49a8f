"""Small lit balls that show materials in the object's own colour under the current lamp."""

from __future__ import annotations

from functools import lru_cache

import cv2
import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QAbstractButton

from volumen.app import theme
from volumen.app.widgets.painting import painted
from volumen.geometry.affine import IDENTITY
from volumen.geometry.primitives import ellipse
from volumen.picture.instructions import Chunk, FillPath, Picture
from volumen.render.raster import render_float
from volumen.shading.bodies import body_paints, look_of
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour
from volumen.shading.plain_bodies import BodyKind


def ball_pixmap(
    kind: BodyKind, name: str, colour: Colour, lamp: Lamp, size: int, own: tuple[Material, ...] = ()
) -> QPixmap:
    """A body drawn by the same light maths as the artwork, in a material of that name."""
    pixmap = QPixmap.fromImage(_ball_image(kind, material(name, own), colour, lamp, size))
    pixmap.setDevicePixelRatio(2.0)
    return pixmap


@lru_cache(maxsize=512)
def _ball_image(kind: BodyKind, made_of: Material, colour: Colour, lamp: Lamp, size: int) -> QImage:
    box = (1.0, 1.0, size - 1.0, size - 1.0)
    path = ellipse(size / 2, size / 2, size / 2 - 1, size / 2 - 1)
    coats = body_paints(kind, path, look_of(colour, made_of, 1.0, 1.0, 0.4), Lights(lamp), IDENTITY)
    picture = Picture(size, size, None, (Chunk(0, tuple(FillPath(path, IDENTITY, c.paint) for c in coats), box),))
    pixels = np.asarray(cv2.convertScaleAbs(render_float(picture, 2.0), alpha=255))
    image = QImage(pixels.data, pixels.shape[1], pixels.shape[0], QImage.Format.Format_RGBA8888_Premultiplied)
    return image.copy()  # owns its pixels


class Ball(QAbstractButton):
    """One material to choose."""

    def __init__(self, material: str) -> None:
        super().__init__()
        self.material = material
        self.pixmap: QPixmap | None = None
        self.setCheckable(True)
        self.setAccessibleName(material)
        self.setToolTip(material)
        self.setFixedSize(34, 34)

    def sizeHint(self) -> QSize:
        return QSize(34, 34)

    def show_look(self, kind: BodyKind, colour: Colour, lamp: Lamp, own: tuple[Material, ...] = ()) -> None:
        self.pixmap = ball_pixmap(kind, self.material, colour, lamp, 26, own)
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.pixmap is not None:
            painter.drawPixmap(4, 4, self.pixmap)
        if self.isChecked() or self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(theme.VERMILION if self.isChecked() else theme.AMBER_DARK), 2))
            painter.drawEllipse(QRectF(1.5, 1.5, 31, 31))
