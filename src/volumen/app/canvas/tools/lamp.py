"""The lamp on its ring: direction gives the bearing, the place along the spoke the height."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from volumen.app.canvas.handles import AMBER, AMBER_DARK, OWN, OWN_DARK, sun, tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.still import Still
from volumen.app.canvas.tools.base import Tool, near
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.lights import key_in_hand, lamp_words, whose_lamp, with_key_in_hand
from volumen.geometry.affine import Point
from volumen.model.nodes import Node
from volumen.shading.lamp import Lamp, lamp_on_dome


class LampTool(Tool):
    """Drags the sun round its ring."""

    name = "lamp"
    icon = "sun"
    toolbox = (Shown(Stage.LIGHT, 0),)
    key_hint = "hold L"
    hint = "Drag the sun round the ring to turn the light, along the spoke to raise it. <b>Shift</b> steps 15°."

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.dragging = False
        self._ring = Still()  # dots take long to paint

    @property
    def lamp(self) -> Lamp:
        """The document's lamp, or the selection's own."""
        return key_in_hand(self.session.document, self.session.selection)

    @property
    def owners(self) -> tuple[Node, ...]:
        """The nodes whose own lamp it is; none: it is the document's."""
        return whose_lamp(self.session.document, self.session.selection)

    def ring(self) -> tuple[Point, float]:
        """Centre and radius of the ring on the canvas: a dome over the sheet, seen from above."""
        sheet = self.session.document.sheet
        centre = self.sheet.viewport.to_canvas((sheet.width / 2, sheet.height / 2))
        return centre, 0.58 * max(sheet.width, sheet.height) * self.sheet.viewport.scale

    def sun_place(self) -> Point:
        (cx, cy), radius = self.ring()
        lamp = self.lamp
        x, y = lamp.toward
        r = radius * math.cos(math.radians(min(max(lamp.height, 0.0), 90.0)))
        return (cx + x * r, cy + y * r)

    def on_sun(self, at: Point) -> bool:
        return near(self.sun_place(), at, 17)

    def press(self, p: Pointer) -> None:
        self.dragging = True

    def move(self, p: Pointer) -> None:
        if self.dragging:
            s = self.session
            s.preview(with_key_in_hand(s.document, s.selection, self.lamp_at(p.at, p.shift)))

    def lamp_at(self, at: Point, stepped: bool) -> Lamp:
        (cx, cy), radius = self.ring()
        radius = max(radius, 1e-6)
        return lamp_on_dome(self.lamp, (at[0] - cx) / radius, (at[1] - cy) / radius, 15 if stepped else 0)

    def release(self, p: Pointer) -> None:
        self.dragging = False
        self.session.commit("move own lamp" if self.owners else "move lamp")
        self.sheet.update()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.dragging:
            self.dragging = False
            self.session.cancel()
            return True
        return False

    def _paint_ring(self, painter: QPainter) -> None:
        (cx, cy), radius = self.ring()
        colour = OWN_DARK if self.owners else QColor(96, 90, 78, 150)
        pen = QPen(colour, 1.3, Qt.PenStyle.CustomDashLine, Qt.PenCapStyle.RoundCap)
        pen.setDashPattern([0.1, 5.0])
        painter.setPen(pen)
        painter.drawEllipse(QPointF(cx, cy), radius, radius)

    def paint(self, painter: QPainter) -> None:
        (cx, cy), _ = self.ring()
        lamp, at, owners = self.lamp, self.sun_place(), self.owners
        self._ring.paint(painter, self.sheet, (self.ring(), bool(owners)), self._paint_ring)
        light, dark = (OWN, OWN_DARK) if owners else (AMBER, AMBER_DARK)
        painter.setPen(QPen(dark, 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(*at), QPointF(at[0] + (cx - at[0]) * 0.62, at[1] + (cy - at[1]) * 0.62))
        sun(painter, at, self.dragging, light, dark)
        if self.dragging or self.session.tool == "lamp" or owners:
            whose = f"{lamp_words(owners)} · " if owners else ""
            tag(painter, (at[0] + 14, at[1] - 50), f"{whose}{lamp.bearing:.0f}° · {lamp.height:.0f}° high")
