"""Matching: a click on the first member of a stepped blend, then one on the second, say what becomes what."""

from __future__ import annotations

from PySide6.QtGui import QPainter

from volumen.app.handles import AMBER, dot, halo_line
from volumen.app.tools.base import Pointer, Tool
from volumen.edit.blends import with_matching_points
from volumen.geometry.affine import Point
from volumen.outline.steps import steps_of


class MatchTool(Tool):
    name = "match"
    hint = "With a stepped blend selected: click a point on its first object, then the point on the last that it shall become."

    def __init__(self, canvas) -> None:  # type: ignore[no-untyped-def]
        super().__init__(canvas)
        self.first: Point | None = None

    def press(self, p: Pointer) -> None:
        node = self.session.first
        if node is None or steps_of(node) is None:
            self.first = None
            self.session.select(self.under(p)[:1])
            return
        at = self.canvas.snap(p)
        if self.first is None:
            self.first = at
        else:
            document = with_matching_points(self.session.document, node.id, self.first, at)
            self.first = None
            if document is self.session.document:
                self.session.say("only closed shapes can be matched by hand")
            else:
                self.session.apply("match points", document)
        self.canvas.update()

    def hover(self, p: Pointer) -> None:
        self.canvas.snap(p)
        self.canvas.update()

    def key(self, key: int) -> bool:
        used, self.first = self.first is not None, None
        return used

    def leave(self) -> None:
        self.first = None

    def paint(self, painter: QPainter) -> None:
        self.canvas.paint_outlines(painter)
        if self.first is None:
            return
        at = self.canvas.viewport.to_canvas(self.first)
        if self.canvas.pointer is not None:
            halo_line(painter, at, self.canvas.pointer, dashed=True)
        dot(painter, at, AMBER)
