"""Guides: lines dragged from the rulers or drawn at an angle, and construction circles."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import VERMILION, dot
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool, near, rounded_to
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.model.nodes import Document, Guide, GuideCircle, GuideLine

replace = msgspec.structs.replace


class GuidesTool(Tool):
    """Lays and moves guides."""

    name = "guides"
    icon = "ruler"
    keys = "J"
    toolbox = (Shown(Stage.DRAW, 150),)
    hint = "Drag to lay a guide, <b>Shift</b> at 15° steps, <b>Alt</b> for a construction circle. Drag one to move it, <b>Delete</b> removes it."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.before: Document | None = None
        self.start: Pointer | None = None
        self.grabbed: int | None = None
        self.touched: int | None = None
        self.fixed: float | None = None  # the angle of a guide that comes from a ruler
        self.readout = ""

    def from_ruler(self, p: Pointer) -> None:
        """A guide dragged out of a ruler: level from the one on top, upright from the one at the side."""
        self.before, self.start = self.session.document, p
        self.fixed = 0.0 if p.at[1] < p.at[0] else 90.0
        self.grabbed = None

    def press(self, p: Pointer) -> None:
        self.before, self.fixed = self.session.document, None
        self.grabbed = None if p.alt else self._under(p)
        at = self.sheet.snap(p) if self.grabbed is None else p.sheet  # a new one begins at what is near: a crossing
        self.start = Pointer(p.at, at, p.shift, p.ctrl, p.alt)
        self.touched = self.grabbed

    def _under(self, p: Pointer) -> int | None:
        to = self.sheet.viewport.to_canvas
        for i, guide in reversed(list(enumerate(self.session.document.guides))):
            x, y = to(guide.at)
            if isinstance(guide, GuideCircle):
                r = guide.radius * self.sheet.viewport.scale
                if abs(math.dist((x, y), p.at) - r) < 5 or near((x, y), p.at, 6):
                    return i
            else:
                a = math.radians(guide.angle)
                if abs((p.at[0] - x) * math.sin(a) - (p.at[1] - y) * math.cos(a)) < 5:
                    return i
        return None

    def move(self, p: Pointer) -> None:
        if self.before is None or self.start is None:
            return
        guides = list(self.before.guides)
        at = self.sheet.snap(p)
        if self.grabbed is not None:
            old = guides[self.grabbed]
            dx, dy = at[0] - self.start.sheet[0], at[1] - self.start.sheet[1]
            guides[self.grabbed] = replace(old, at=(old.at[0] + dx, old.at[1] + dy))
            self.readout = f"{guides[self.grabbed].at[0]:.1f}, {guides[self.grabbed].at[1]:.1f}"
        else:
            made = self._made(p, at)
            if made is None:
                return
            guides.append(made)
        self.session.preview(replace(self.before, guides=tuple(guides)))

    def _made(self, p: Pointer, at: tuple[float, float]) -> Guide | None:
        assert self.start is not None
        if self.fixed is not None:
            self.readout = f"{at[1 if self.fixed == 0 else 0]:.1f}"
            return GuideLine(at, self.fixed)
        if near(p.at, self.start.at, 3):
            return None
        start = self.start.sheet
        dx, dy = at[0] - start[0], at[1] - start[1]
        if p.alt:
            self.readout = f"radius {math.hypot(dx, dy):.1f}"
            return GuideCircle(start, math.hypot(dx, dy))
        angle = math.degrees(math.atan2(dy, dx))
        angle = rounded_to(angle, 15) if p.shift else angle
        self.readout = f"{angle:.1f}°"
        return GuideLine(start, angle)

    def release(self, p: Pointer) -> None:
        if self.fixed is not None and min(p.at) < 20:
            self.session.cancel()  # back into the ruler
        elif self.session.history.in_gesture:
            self.session.commit("move guide" if self.grabbed is not None else "lay guide")
            self.touched = self.grabbed if self.grabbed is not None else len(self.session.document.guides) - 1
        self.before = self.start = self.grabbed = self.fixed = None
        self.readout = ""
        self.sheet.update()

    def wants(self, key: int) -> bool:
        return self.touched is not None and key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)

    def key(self, key: int) -> bool:
        guides = self.session.document.guides
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.touched is not None and self.touched < len(guides):
            rest = guides[: self.touched] + guides[self.touched + 1 :]
            self.touched = None
            self.session.apply("remove guide", replace(self.session.document, guides=rest))
            return True
        if key == Qt.Key.Key_Escape and self.start is not None:
            self.session.cancel()
            self.before = self.start = None
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        if self.touched is not None and self.touched < len(self.session.document.guides):
            dot(painter, self.sheet.viewport.to_canvas(self.session.document.guides[self.touched].at), VERMILION, 4)
        self.tell(painter, self.readout)
