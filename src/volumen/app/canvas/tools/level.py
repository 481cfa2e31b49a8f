"""Level: draw a line along what should be level or upright in a picture, and it is turned straight."""

from __future__ import annotations

import math

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import halo_line, tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Point, rotation


class LevelTool(Tool):
    """Levels the sheet along a drawn line."""

    name = "level"
    icon = "minus"
    keys = "Shift+H"
    toolbox = (Shown(Stage.DRAW, 170, folded=True),)
    hint = "Drag a line between two points that should be level or upright: the selection is turned straight."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.start: Point | None = None
        self.end: Point | None = None

    def press(self, p: Pointer) -> None:
        if not self.session.selection:
            chain = self.under(p)
            if chain:
                self.session.select((chain[0],))
        self.start = self.end = p.sheet

    def move(self, p: Pointer) -> None:
        if self.start is not None:
            self.end = p.sheet
            self.sheet.update()

    def turn(self) -> float:
        """The turn that makes the drawn line level or upright, whichever is nearer."""
        assert self.start is not None and self.end is not None
        angle = math.degrees(math.atan2(self.end[1] - self.start[1], self.end[0] - self.start[0]))
        return round(angle / 90) * 90 - angle

    def abandon(self) -> None:
        self.start = self.end = None

    def release(self, p: Pointer) -> None:
        if self.start is not None and self.end is not None and math.dist(self.start, self.end) > 1e-6:
            by = rotation(self.turn(), self.start)
            self.session.apply(
                "turn straight", objects.transform(self.session.document, self.session.selection, by)
            )  # fmt: skip
        self.start = self.end = None
        self.sheet.update()

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if self.start is None or self.end is None:
            return
        to = self.sheet.viewport.to_canvas
        halo_line(painter, to(self.start), to(self.end))
        tag(painter, (to(self.end)[0] + 12, to(self.end)[1] + 8), f"turn {self.turn():+.2f}°")
