"""Matching: a click on the first member of a stepped blend, then one on the second, say what becomes what."""

from __future__ import annotations

from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, dot, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.blends import with_matching_points
from volumen.geometry.affine import Point
from volumen.outline.steps import steps_of


class MatchTool(Tool):
    """Says which point of one shape becomes which of the next in a stepped blend."""

    name = "match"
    icon = "git-fork"
    toolbox = (Shown(Stage.COLOUR, 90, folded=True),)
    hint = "With a stepped blend selected: click a point on its first object, then the point on the last that it shall become."

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.first: Point | None = None

    def press(self, p: Pointer) -> None:
        node = self.session.first
        if node is None or steps_of(node) is None:
            self.first = None
            self.session.select(self.under(p)[:1])
            return
        at = self.sheet.snap(p)
        if self.first is None:
            self.first = at
        else:
            document = with_matching_points(self.session.document, node.id, self.first, at)
            self.first = None
            if document is self.session.document:
                self.session.say("only closed shapes can be matched by hand")
            else:
                self.session.apply("match points", document)
        self.sheet.update()

    def hover(self, p: Pointer) -> None:
        self.sheet.snap(p)
        self.sheet.update()

    def key(self, key: int) -> bool:
        used, self.first = self.first is not None, None
        return used

    def leave(self) -> None:
        self.first = None

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if self.first is None:
            return
        at = self.sheet.viewport.to_canvas(self.first)
        if self.sheet.pointer is not None:
            halo_line(painter, at, self.sheet.pointer, dashed=True)
        dot(painter, at, AMBER)
