"""The section: the artwork from the side. Slabs lie at their lift; drag one to lift it; shadows have their lengths."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QCheckBox, QWidget

from volumen.app import theme
from volumen.app.canvas.canvas import Canvas
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.compose.face import base_colour
from volumen.compose.heights import Heights, heights_of
from volumen.compose.light import light_at
from volumen.edit import objects
from volumen.edit.lifting import switched
from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.model.ingredients import CastShadow
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Document, Group, Node
from volumen.outline.boxes import node_box
from volumen.shading.lamp import Lamp, shadow_offset

_HINT = "from the side: drag a slab to lift it"


@dataclass(slots=True)
class Slab:
    """A sheet in the section: where it lies and how high."""

    node: Node
    left: float
    right: float
    base: float  # height of what it is lifted above
    lift: float  # of its own, in sheet units
    box: QRectF | None = None


class Section(QWidget):
    """The artwork from the side: what is lifted how high, under which rays."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__()
        self.session, self.canvas = session, canvas
        self._slabs: list[Slab] = []
        self._of: tuple[Node, bool] | None = None  # the tree whose slabs they are, and what lift means there
        self._drag: tuple[int, float, float] | None = None
        self._before: Document | None = None
        self._heights: Heights | None = None  # where lifts add up
        self.adds_up = QCheckBox("lifts add up", self)
        self.adds_up.setToolTip(
            "Sheets stand on what lies under them: a shadow falls farther and softer on what is farther down"
        )
        self.adds_up.setAccessibleName("lifts add up")
        self.adds_up.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.adds_up.clicked.connect(self._switch)
        self.setFixedHeight(124)
        self.setMouseTracking(True)
        self.setAccessibleName("section")
        session.on((News.DOCUMENT, News.SELECTION, News.VIEW), self.update)
        session.on((News.DOCUMENT,), self._show_switch)
        self._show_switch()

    def _show_switch(self) -> None:
        self.adds_up.setChecked(self.session.document.lifts_add_up)

    def _switch(self) -> None:
        self.session.apply(*switched(self.session.document))

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.adds_up.adjustSize()
        self.adds_up.move(self.width() - self.adds_up.width() - 14, 6)

    def slabs(self) -> list[Slab]:
        """What stands on the sheet: objects of the top level, and those below them that are lifted."""
        out: list[Slab] = []
        document = self.session.document

        self._heights = heights_of(document, self._heights) if document.lifts_add_up else None
        stands = {s.node.id: s for s in self._heights.standing if s is not None} if self._heights is not None else {}

        def visit(node: Node, parent: Affine, base: float, depth: int) -> None:
            for child in node.children:
                if not child.visible or (child.locked and depth == 0):
                    continue
                place = multiply(parent, child.transform)
                lift = lift_on_sheet(child, place)
                below = stands[child.id].height - lift if child.id in stands else base  # on what carries it
                lifted = child.lift != 0 or any(isinstance(i, CastShadow) for i in child.recipe)
                if depth == 0 or lifted:
                    box = node_box(child, parent)
                    if box is not None:
                        out.append(Slab(child, box[0], box[2], below, lift))
                visit(child, place, below + lift, depth + 1)

        visit(document.root, IDENTITY, 0.0, 0)
        return out[:60]

    def _scale(self) -> float:
        """Pixels per unit of height: the highest slab fits, and small lifts can still be seen."""
        highest = max((s.base + s.lift for s in self._slabs), default=0.0)
        return min((self.height() - 56) / max(highest, 20.0), 3.0)

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(theme.SECTION))
        root = self.session.document.root
        if self._of != (root, self.session.document.lifts_add_up):  # a lamp that turns moves no slab
            self._slabs, self._of = self.slabs(), (root, self.session.document.lifts_add_up)
        scale, floor = self._scale(), self.height() - 20.0
        self._paint_rays(painter, floor)
        painter.setPen(QPen(QColor("#a9a59b"), 1))
        painter.setBrush(QColor("#ece6da"))
        view = self.canvas.viewport
        sheet = self.session.document.sheet
        left, right = view.to_canvas((0, 0))[0], view.to_canvas((sheet.width, 0))[0]
        painter.drawRect(QRectF(left, floor, right - left, 6))
        words = self._paint_slabs(painter, floor, scale)
        painter.setPen(QColor(theme.SOFT_INK))
        font = painter.font()
        font.setPixelSize(11)
        font.setBold(True)
        painter.setFont(font)
        painter.drawText(14, 18, "SECTION")
        font.setBold(False)
        font.setPixelSize(12)
        painter.setFont(font)
        painter.drawText(76, 18, _HINT)
        painter.setPen(QColor(theme.VERMILION))
        painter.drawText(76 + painter.fontMetrics().horizontalAdvance(_HINT) + 20, 18, words)

    def _paint_rays(self, painter: QPainter, floor: float) -> None:
        """Lamp rays as they fall in this view: steep for a high lamp, leaning with its bearing."""
        lamp = self.session.document.lamp
        lean = -lamp.toward[0] / max(math.tan(lamp.elevation), 0.05)
        pen = QPen(QColor(theme.AMBER_DARK), 1, Qt.PenStyle.CustomDashLine)
        pen.setDashPattern([4, 5])
        colour = QColor(theme.AMBER_DARK)
        colour.setAlpha(110)
        pen.setColor(colour)
        painter.setPen(pen)
        for k in range(9):
            x = self.width() * (k + 0.5) / 9
            top = floor - 26
            painter.drawLine(QPointF(x - lean * top, 26), QPointF(x, floor))

    def _paint_slabs(self, painter: QPainter, floor: float, scale: float) -> str:
        """What is said of the slab in hand."""
        view, document = self.canvas.viewport, self.session.document
        words = ""
        for slab in sorted(self._slabs, key=lambda s: s.node.id in self.session.selection):
            node = slab.node
            lamp = light_at(document, node.id).lamp
            y = floor - (slab.base + slab.lift) * scale
            left, right = view.to_canvas((slab.left, 0))[0], view.to_canvas((slab.right, 0))[0]
            slab.box = QRectF(left, y - 6, max(right - left, 3), 6)
            chosen = node.id in self.session.selection
            if chosen and slab.lift:
                for y_at, x, far in self._shadows(slab, lamp):
                    l, r = view.to_canvas((x, 0))[0], view.to_canvas((far, 0))[0]
                    painter.fillRect(QRectF(l, floor - y_at * scale - 1.5, r - l, 3), QColor(60, 52, 44, 130))
            painter.setPen(QPen(QColor(theme.VERMILION), 2) if chosen else QPen(QColor(30, 30, 30, 60), 1))
            if isinstance(node, Group):
                painter.setBrush(QColor("#a9a69d"))
            else:
                painter.setBrush(theme.qcolor(base_colour(node).rgb))
            painter.drawRect(slab.box)
            if chosen and len(self.session.selection) == 1:
                words = self._told(slab, lamp)
        return words

    def _shadows(self, slab: Slab, lamp: Lamp) -> list[tuple[float, float, float]]:
        """Where a slab's shadow lies: at which height, from where and to where on the sheet."""
        found = self._heights
        number = found.number_of(slab.node.id) if found is not None else 0
        if found is None or number not in found.falls.of:
            dx = shadow_offset(lamp, slab.lift)[0]
            return [(slab.base, slab.left + dx, slab.right + dx)]
        out: list[tuple[float, float, float]] = []
        part = found.falls.of[number]
        for receiver, depth in zip(found.falls.receivers[part], found.falls.depths[part], strict=True):
            dx, dy = shadow_offset(lamp, float(depth))
            seen, box = found.seen[receiver], found.boxes[number]
            left, right = max(slab.left + dx, float(seen[0])), min(slab.right + dx, float(seen[2]))
            if left < right and box[1] + dy < seen[3] and seen[1] < box[3] + dy:
                standing = found.standing[receiver]
                out.append((standing.height if standing is not None else 0.0, left, right))
        return out

    def _told(self, slab: Slab, lamp: Lamp) -> str:
        length = math.hypot(*shadow_offset(lamp, slab.lift))
        high = slab.base + slab.lift
        stands = f", stands {high:.0f} high" if self._heights is not None and high > slab.lift + 0.5 else ""
        return f"lift {slab.lift:.0f}{stands}, shadow {length:.1f}"

    def _at(self, event: QMouseEvent) -> Slab | None:
        p = event.position()
        for slab in reversed(self._slabs):
            if slab.box is not None and slab.box.adjusted(-2, -4, 2, 4).contains(p):
                return slab
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        slab = self._at(event)
        self.session.select((slab.node.id,) if slab else ())
        if slab:
            self._drag = (slab.node.id, event.position().y(), slab.lift)
            self._drag_scale = self._scale()
            self._before = self.session.document

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None or self._before is None:
            self.setCursor(Qt.CursorShape.SizeVerCursor if self._at(event) else Qt.CursorShape.ArrowCursor)
            return
        node_id, y, lift = self._drag
        value = max(round((lift + (y - event.position().y()) / self._drag_scale) * 2) / 2, 0.0)
        if abs(event.position().y() - y) >= 1:
            self.session.preview(objects.set_lift(self._before, [node_id], value))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._drag = self._before = None
        self.session.commit("lift")
