"""A small drawing of the sheet that is being set, with the artwork on it; and the nine places that can stay."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QToolButton, QWidget

from volumen.app import theme
from volumen.app.widgets.painting import painted
from volumen.app.widgets.segment import segment
from volumen.geometry.affine import Point
from volumen.model.nodes import Sheet
from volumen.model.on_sheet import MIDDLE

_WORDS = (("left top", "top", "right top"), ("left", "middle", "right"), ("left bottom", "bottom", "right bottom"))


class PlaceButtons(QWidget):
    """Which of nine places of the old sheet stays in its place on the new one."""

    chosen = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.place: Point = MIDDLE
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(2)
        self.buttons: dict[Point, QToolButton] = {}
        for row in range(3):
            for column in range(3):
                button = segment("•", exclusive=True)
                button.setFixedSize(24, 24)
                button.setAccessibleName(f"{_WORDS[row][column]} stays")
                button.setToolTip(f"The {_WORDS[row][column]} of the old sheet stays there on the new one")
                at = (column / 2, row / 2)
                button.clicked.connect(lambda _=False, at=at: self._choose(at))
                self.buttons[at] = button
                grid.addWidget(button, row, column)
        self.buttons[MIDDLE].setChecked(True)

    def _choose(self, at: Point) -> None:
        self.place = at
        self.chosen.emit()


class SheetPreview(QWidget):
    """The new sheet in proportion: the artwork where it will lie, and the bleed round it."""

    def __init__(self, old: Sheet, picture: QImage) -> None:
        super().__init__()
        self.old, self.sheet, self.picture = old, old, picture
        self.place, self.scale = MIDDLE, False
        self.setFixedSize(250, 290)
        self.setAccessibleName("the sheet as it will be")

    def show_sheet(self, sheet: Sheet, place: Point, scale: bool) -> None:
        self.sheet, self.place, self.scale = sheet, place, scale
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), QColor("#cfcdc8"))
        s, b = self.sheet, self.sheet.bleed
        k = min((self.width() - 36) / (s.width + 2 * b), (self.height() - 56) / (s.height + 2 * b))
        w, h = s.width * k, s.height * k
        paper = QRectF((self.width() - w) / 2, (self.height() - 20 - h) / 2, w, h)
        grown = paper.adjusted(-b * k, -b * k, b * k, b * k)
        if s.ground is None:
            painter.fillRect(paper, QColor("white"))
            painter.fillRect(paper, Qt.BrushStyle.Dense6Pattern)
        else:
            painter.fillRect(grown, theme.qcolor(s.ground.rgb, s.ground.a))
        self._artwork(painter, paper, k)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(theme.INK), 1))
        painter.drawRect(paper)
        if b > 0:
            painter.setPen(QPen(QColor(theme.VERMILION), 1, Qt.PenStyle.DashLine))
            painter.drawRect(grown)
        painter.setPen(QColor(theme.SOFT_INK))
        box = QRectF(0, self.height() - 24, self.width(), 20)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, s.size_in_unit)

    def _artwork(self, painter: QPainter, paper: QRectF, k: float) -> None:
        if self.picture.isNull():
            return
        old, new = self.old, self.sheet
        z = min(new.width / old.width, new.height / old.height) if self.scale else 1.0
        x = paper.left() + self.place[0] * (new.width - z * old.width) * k
        y = paper.top() + self.place[1] * (new.height - z * old.height) * k
        painter.save()
        painter.setClipRect(paper)
        painter.drawImage(QRectF(x, y, old.width * z * k, old.height * z * k), self.picture)
        painter.restore()
