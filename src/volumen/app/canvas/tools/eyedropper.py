"""The eyedropper: takes a colour, a whole paint or a whole look from wherever the pointer is."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Flag, Option, Tool
from volumen.app.state.colouring import coloured, painted
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.colour.srgb import Floats, to_hex
from volumen.edit.combined_looks import seen_of
from volumen.edit.gradients import paint_of
from volumen.edit.looks import LOOK_PARTS, LookPart, transfer_look
from volumen.edit.picking import reference_colour
from volumen.formats.files import FileProblem
from volumen.formats.images import pixels_of
from volumen.model.nodes import Asset, Group, Shape
from volumen.outline.hit import shape_at
from volumen.shading.paint import Colour


class EyedropperTool(Tool):
    """Takes a colour, a paint or a look from what lies under the pointer."""

    name = "eyedropper"
    icon = "pipette"
    keys = "Y"
    toolbox = (Shown(Stage.COLOUR, 20),)
    hint = "Click takes a colour, <b>Shift</b> the whole paint, <b>Alt</b> the look. Press and drag out to pick anywhere in the window."
    cursor = Qt.CursorShape.CrossCursor
    options = (
        Option("size", "average", 1, 1, 41, " px", 1, whole=True, hard_high=401),
        Flag("paint", "look: paint", True),
        Flag("line", "look: line", True),
        Flag("light", "look: light", True),
        Flag("finish", "look: finish", True),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.colour: Colour | None = None

    def hover(self, p: Pointer) -> None:
        self.colour = self.colour_at(p)
        self.sheet.update()

    def colour_at(self, p: Pointer) -> Colour | None:
        """The mean colour round the pointer: of the reference picture itself where one is seen, else of the artwork on
        the canvas, or of the window outside it."""
        size = max(int(self.values["size"]), 1)
        own = self._reference(p, size)
        if own is not None:
            return own
        seen = self.sheet.seen_round(p.at, size)
        return mean_colour(seen[0], *seen[1], size) if seen is not None else None

    def _reference(self, p: Pointer, size: int) -> Colour | None:
        if not self.sheet.holds(p.at):
            return None
        side = size / self.sheet.viewport.scale
        return reference_colour(self.session.document, p.sheet, _pixels, side)

    def press(self, p: Pointer) -> None:
        if p.shift or p.alt:
            self._take_from_object(p)
            return
        self._show(p)

    def move(self, p: Pointer) -> None:
        if not (p.shift or p.alt):
            self._show(p)

    def _show(self, p: Pointer) -> None:
        self.colour = self.colour_at(p)
        if self.colour is not None and self.session.selection:
            self.session.preview(coloured(self.session, self.colour))
        self.sheet.update()

    def release(self, p: Pointer) -> None:
        if self.session.history.in_gesture:
            self.session.commit("pick colour")
        elif self.colour is not None and not self.session.selection:
            self.session.say(f"{to_hex(self.colour.rgb)}; select an object first to give it the colour")

    def _take_from_object(self, p: Pointer) -> None:
        document = self.session.document
        found = shape_at(document.root, document.root.transform, p.sheet, 4.0 / self.sheet.viewport.scale)
        if found is None:
            self.session.say("there is nothing to take here")
            return
        if not self.session.selection:
            self.session.say("select what shall take it first")
            return
        source, place = found
        if p.alt:
            parts: list[LookPart] = [k for k in LOOK_PARTS if self.values[k]]
            document = transfer_look(document, source, self._takers(), parts, place)
            self.session.apply("take look", document)
            return
        paint = paint_of(source)
        if paint is not None:
            self.session.apply("take paint", painted(self.session, paint, source))

    def _takers(self) -> list[int]:
        """What a look goes to: what is selected, and the shapes in groups."""
        out: list[int] = []
        for node in self.session.nodes:
            inside = [n.id for n in seen_of(node) if isinstance(n, Shape)] if isinstance(node, Group) else []
            out += inside or [node.id]
        return out

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.session.history.in_gesture:
            self.session.cancel()
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if self.colour is None or self.sheet.pointer is None:
            return
        x, y = self.sheet.pointer
        painter.setPen(QPen(QColor("white"), 3))
        painter.setBrush(QColor.fromRgbF(*self.colour.rgb))
        painter.drawEllipse(int(x) + 14, int(y) - 34, 22, 22)
        self.tell(painter, to_hex(self.colour.rgb))


@lru_cache(maxsize=4)
def _pixels(asset: Asset) -> Floats | None:
    """The pixels of a placed picture, kept while the pointer goes over it."""
    try:
        return pixels_of(asset.data)
    except FileProblem:
        return None


def mean_colour(image: QImage, x: float, y: float, size: int) -> Colour | None:
    """The mean straight colour of a square of pixels; None outside the picture."""
    half = size // 2
    part = QRect(int(x) - half, int(y) - half, size, size).intersected(image.rect())
    if part.isEmpty():
        return None
    rows = image.copy(part).convertToFormat(QImage.Format.Format_RGBA8888_Premultiplied)
    pixels = np.frombuffer(rows.constBits(), np.uint8).reshape(rows.height(), rows.bytesPerLine())
    rgba = pixels[:, : 4 * rows.width()].reshape(-1, 4).astype(np.float64).mean(axis=0) / 255
    if rgba[3] <= 0:
        return None
    r, g, b = (float(v) for v in np.clip(rgba[:3] / rgba[3], 0, 1))
    return Colour(r, g, b)
