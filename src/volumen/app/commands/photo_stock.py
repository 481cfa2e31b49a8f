"""A photograph as stock: its corners, and points between them, are dragged to where the artwork shall lie."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.commands.placing import PICTURE_FILTER
from volumen.app.engine.folders import home
from volumen.app.widgets.asking import ask_save_name
from volumen.app.widgets.colours import Swatch
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.painting import painted
from volumen.app.widgets.rows import quiet_label
from volumen.app.widgets.segment import ListBox
from volumen.colour.srgb import from_hex, to_hex
from volumen.formats.files import FileProblem, write_bytes
from volumen.shading.paint import Colour
from volumen.stock.photograph import SOURCE, finer, read_photograph
from volumen.stock.stocks import Pair, Photograph, Stock, StockProblem, checked, stock_bytes

_NEAR = 12.0  # pixels in which a point is taken hold of
_STEP = 0.002  # of the photograph, by an arrow key
_WIDE, _HIGH = 620, 480
_MESHES = {"four corners": 4, "sides too": 8, "mesh of 3 x 3": 9, "mesh of 5 x 5": 25}


class PointsOnPicture(QWidget):
    """A photograph with four corners, or a mesh of points, to drag; Space goes to the next, arrow keys move it.
    ``picking``: the next click reads a colour."""

    moved = Signal()
    read = Signal(object)

    def __init__(self, picture: QImage, points: tuple[Pair, ...]) -> None:
        super().__init__()
        self.picture, self.points, self.picking = picture, list(points), False
        self.held = 0
        self.dragging = False
        scale = min(_WIDE / picture.width(), _HIGH / picture.height())
        self.setFixedSize(round(picture.width() * scale), round(picture.height() * scale))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("points on the photograph")

    def at(self, k: int) -> QPointF:
        x, y = self.points[k]
        return QPointF(x * self.width(), y * self.height())

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.SmoothPixmapTransform | QPainter.RenderHint.Antialiasing)
        painter.drawImage(QRectF(self.rect()), self.picture)
        for colour, width in ((QColor(0, 0, 0, 120), 3.0), (QColor("white"), 1.2)):
            painter.setPen(QPen(colour, width))
            for line in _lines(len(self.points)):
                painter.drawPolyline(QPolygonF([self.at(k) for k in line]))
        for k in range(len(self.points)):
            painter.setPen(QPen(QColor(theme.INK), 1.2))
            painter.setBrush(QColor(theme.AMBER) if k == self.held else QColor("white"))
            painter.drawEllipse(self.at(k), 5.5, 5.5)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self.picking:
            x = min(max(int(at.x() / self.width() * self.picture.width()), 0), self.picture.width() - 1)
            y = min(max(int(at.y() / self.height() * self.picture.height()), 0), self.picture.height() - 1)
            self.read.emit(self.picture.pixelColor(x, y))
            return
        near = min(range(len(self.points)), key=lambda k: (self.at(k) - at).manhattanLength())
        self.dragging = (self.at(near) - at).manhattanLength() <= 2 * _NEAR
        self.held = near if self.dragging else self.held
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.dragging:
            at = event.position()
            self.move_to(self.held, at.x() / self.width(), at.y() / self.height())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.dragging = False

    def move_to(self, k: int, x: float, y: float) -> None:
        self.points[k] = (min(max(x, -0.5), 1.5), min(max(y, -0.5), 1.5))
        self.update()
        self.moved.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ways = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if event.key() in ways:
            dx, dy = ways[Qt.Key(event.key())]
            x, y = self.points[self.held]
            self.move_to(self.held, x + dx * _STEP, y + dy * _STEP)
        elif event.key() == Qt.Key.Key_Space:
            self.held = (self.held + 1) % len(self.points)
            self.update()
        else:
            super().keyPressEvent(event)


def _lines(count: int) -> list[list[int]]:
    """The points along the lines of a mesh, those of its sides included."""
    out = []
    for along, across in ((0, 1), (1, 0)):
        for place in np.unique(SOURCE[:count, across]):
            line = [k for k in range(count) if SOURCE[k, across] == place]
            if place in (0, 1) or len(line) > 2:  # without a middle two points have no line between them
                out.append(sorted(line, key=lambda k: float(SOURCE[k, along])))
    return out


class PhotographAsStock(QDialog):
    """``taken`` gets the stock. What the points make of it is seen on the wall, at once; who cancels has the stock of
    ``before`` again."""

    def __init__(
        self, parent: QWidget, path: Path, picture: QImage, say: Callable[[str], None], taken: Callable[[Stock], None],
        before: Stock,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.say = say
        self.rejected.connect(lambda: taken(before))
        self.setWindowTitle("On a photograph")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.stock = Stock(path.stem, Photograph(str(path)), 200.0, 200.0 * picture.height() / picture.width())
        self.taken = taken
        assert isinstance(self.stock.thing, Photograph)
        self.points = PointsOnPicture(picture, self.stock.thing.points)
        self.points.moved.connect(self._tell)
        self.points.read.connect(self._take_white)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.addWidget(quiet_label(
            "Drag the corners to where the artwork shall lie, from its top left one clockwise. Space goes to the next, "
            "arrow keys move it."
        ))  # fmt: skip
        column.addWidget(self.points)
        column.addLayout(self._row(say))
        self._tell()

    def _row(self, say: Callable[[str], None]) -> QHBoxLayout:
        """How the place is bent, what is white in it, how wide it is; keeping and ending."""
        self.mesh = ListBox()
        self.mesh.addItems(list(_MESHES))
        self.mesh.setAccessibleName("points on the photograph")
        self.mesh.setToolTip("More points bend the artwork: over a sail, a sleeve, a bowl")
        self.mesh.activated.connect(lambda row: self._bend(list(_MESHES.values())[row]))
        self.white = Swatch("white of the thing")
        self.white.setEnabled(False)
        self.pick = QPushButton("White is …")
        self.pick.setCheckable(True)
        self.pick.setToolTip("Click on the photograph where the thing is white and lies in the light")
        self.pick.toggled.connect(lambda on: setattr(self.points, "picking", on))
        self.wide = NumberField("width", " mm", 10, 1, 100_000, 0)
        self.wide.setToolTip("How wide the place is: for artwork in its own size")
        self.wide.show_value(self.stock.width)
        self.wide.done.connect(self._take_width)
        self.wide.refused.connect(say)
        self.keep = QPushButton("Keep as a stock …")
        self.keep.clicked.connect(self._keep)
        done = QPushButton("Done")
        done.setObjectName("main")
        done.clicked.connect(self.accept)
        row = QHBoxLayout()
        for widget in (self.mesh, self.pick, self.white, quiet_label("wide"), self.wide):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.keep)
        row.addWidget(done)
        return row

    def _bend(self, count: int) -> None:
        size = np.array([self.points.width(), self.points.height()], np.float64)
        try:
            made = finer(np.array(self.points.points) * size, count) / size
        except StockProblem as problem:
            self.say(str(problem))
            self.mesh.setCurrentIndex(list(_MESHES.values()).index(len(self.points.points)))
            return
        self.points.points, self.points.held = [(x, y) for x, y in made.tolist()], 0
        self.points.update()
        self._tell()

    def _take_width(self, value: float) -> None:
        self.stock = replace(self.stock, width=value)
        self._tell()

    def _take_white(self, colour: QColor) -> None:
        self.pick.setChecked(False)
        self._tell(white=to_hex((colour.redF(), colour.greenF(), colour.blueF())))

    def _tell(self, **fields: str) -> None:
        assert isinstance(self.stock.thing, Photograph)
        thing = replace(self.stock.thing, points=tuple(self.points.points), **fields)
        self.stock = checked(replace(self.stock, thing=thing))
        self.white.show_colour(Colour(*from_hex(thing.white)))
        self.taken(self.stock)

    def _keep(self) -> None:
        thing = self.stock.thing
        assert isinstance(thing, Photograph)
        start = str(Path(thing.picture).with_suffix(".stock.json"))
        path = ask_save_name(self, "Keep as a stock", start, "Stock (*.json)", (".json",))
        if path is not None:
            try:
                write_bytes(path, stock_bytes(self.stock))
            except FileProblem as problem:
                self.say(str(problem))


def choose_photograph(
    parent: QWidget, say: Callable[[str], None], taken: Callable[[Stock], None], before: Stock
) -> None:  # fmt: skip
    """Ask for a photograph, and for where the artwork lies on it."""
    name, _ = QFileDialog.getOpenFileName(parent, "Photograph", str(home()), PICTURE_FILTER)
    if name:
        open_photograph(parent, Path(name), say, taken, before)


def open_photograph(
    parent: QWidget, path: Path, say: Callable[[str], None], taken: Callable[[Stock], None], before: Stock
) -> PhotographAsStock | None:
    """Set a photograph up as stock; what cannot be read is said."""
    try:
        pixels = (read_photograph(str(path), 2 * _WIDE) * 255 + 0.5).astype("uint8")
    except StockProblem as problem:
        say(str(problem))
        return None
    h, w = pixels.shape[:2]
    picture = QImage(pixels.tobytes(), w, h, w * 3, QImage.Format.Format_RGB888).copy()
    dialog = PhotographAsStock(parent, path, picture, say, taken, before)
    dialog.open()
    return dialog
