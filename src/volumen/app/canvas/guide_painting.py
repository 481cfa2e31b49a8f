"""Guides, rulers and snapping as they show on the canvas."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas import handles
from volumen.app.canvas.sheet import ToolSheet
from volumen.geometry.affine import Affine, multiply
from volumen.geometry.path import Box, Path
from volumen.geometry.snap import SnapField
from volumen.model.nodes import Document, GuideCircle, GuideLine, Node, Shape
from volumen.model.tree import painted_children
from volumen.outline.boxes import node_box
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline

RULER = 20  # pixels
_MOST_OUTLINES = 1500


def field_of(document: Document, without: set[int]) -> SnapField:
    """All that can be snapped to in a document, but for some branches."""
    outlines: list[Path] = []
    boxes: list[Box] = []

    def visit(node: Node, parent: Affine) -> None:
        held = any(c.id in without for c in node.children)  # then its copies move with it
        for child in painted_children(node) if held else shown_children(node):
            if not child.visible or child.id in without or len(outlines) > _MOST_OUTLINES:
                continue
            world = multiply(parent, child.transform)
            box = node_box(child, parent)
            if box is not None:
                boxes.append(box)
            if isinstance(child, Shape):
                outlines.append(outline(child, world).transformed(world))
            visit(child, world)

    visit(document.root, document.root.transform)
    sheet = document.sheet
    lines = [(g.at, g.angle) for g in document.guides if isinstance(g, GuideLine)]
    circles = [(g.at, g.radius) for g in document.guides if isinstance(g, GuideCircle)]
    return SnapField(outlines, boxes, (0.0, 0.0, sheet.width, sheet.height), document.grid, lines, circles)


def paint_guides(painter: QPainter, sheet: ToolSheet) -> None:
    """The guides of the document, and the grid while it is snapped to."""
    document, to = sheet.session.document, sheet.viewport.to_canvas
    if sheet.session.snapping and "grid" in sheet.session.snap_kinds:
        _paint_grid(painter, sheet)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(handles.guide_colour(), 1.0))
    far = sheet.width() + sheet.height()
    for guide in document.guides:
        x, y = to(guide.at)
        if isinstance(guide, GuideCircle):
            r = guide.radius * sheet.viewport.scale
            painter.drawEllipse(QPointF(x, y), r, r)
            painter.drawLine(QPointF(x - 3, y), QPointF(x + 3, y))
            painter.drawLine(QPointF(x, y - 3), QPointF(x, y + 3))
        else:
            c, s = math.cos(math.radians(guide.angle)) * far * 2, math.sin(math.radians(guide.angle)) * far * 2
            painter.drawLine(QPointF(x - c, y - s), QPointF(x + c, y + s))


def paint_bleed(painter: QPainter, sheet: ToolSheet) -> None:
    """How far the artwork is printed beyond the edges of the sheet."""
    paper, k = sheet.session.document.sheet, sheet.viewport.scale
    if paper.bleed > 0:
        x, y = sheet.viewport.to_canvas((-paper.bleed, -paper.bleed))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(theme.VERMILION), 1.0, Qt.PenStyle.DashLine))
        painter.drawRect(QRectF(x, y, (paper.width + 2 * paper.bleed) * k, (paper.height + 2 * paper.bleed) * k))


def _paint_grid(painter: QPainter, sheet: ToolSheet) -> None:
    document = sheet.session.document
    step = document.grid * sheet.viewport.scale
    if step < 5:
        return
    paper, to = document.sheet, sheet.viewport.to_canvas
    (x0, y0), (x1, y1) = to((0, 0)), to((paper.width, paper.height))
    painter.setPen(QPen(QColor(60, 70, 80, 40), 1.0))
    for i in range(int(paper.width / document.grid) + 1):
        painter.drawLine(QPointF(x0 + i * step, y0), QPointF(x0 + i * step, y1))
    for i in range(int(paper.height / document.grid) + 1):
        painter.drawLine(QPointF(x0, y0 + i * step), QPointF(x1, y0 + i * step))


def paint_snap(painter: QPainter, sheet: ToolSheet) -> None:
    """A cross where the point will go, and what it was drawn to beside the pointer."""
    snap, pointer = sheet.snapped, sheet.pointer
    assert snap is not None and pointer is not None
    x, y = sheet.viewport.to_canvas(snap.at)
    painter.setPen(QPen(handles.HALO, 3))
    for d in (-1, 1):
        painter.drawLine(QPointF(x - 5, y - 5 * d), QPointF(x + 5, y + 5 * d))
    painter.setPen(QPen(QColor(theme.VERMILION), 1.5))
    for d in (-1, 1):
        painter.drawLine(QPointF(x - 5, y - 5 * d), QPointF(x + 5, y + 5 * d))
    handles.tag(painter, (pointer[0] + 14, pointer[1] - 30), snap.note)


def paint_rulers(painter: QPainter, sheet: ToolSheet) -> None:
    """Rulers along the top and left edge, in the sheet's units; drag a guide out of them."""
    view = sheet.viewport
    step = _nice_step(70 / view.scale)
    font = painter.font()
    font.setPixelSize(9)
    painter.setFont(font)
    for across in (True, False):
        length = sheet.width() if across else sheet.height()
        band = QRectF(0, 0, length, RULER) if across else QRectF(0, 0, RULER, length)
        painter.fillRect(band, QColor(theme.PANEL))
        painter.setPen(QPen(QColor(theme.SOFT_INK), 1.0))
        start = view.to_sheet((0, 0))[0 if across else 1]
        value = math.floor(start / step) * step
        while True:
            at = view.to_canvas((value, value))[0 if across else 1]
            if at > length:
                break
            for i in range(5):
                tick = at + step * view.scale * i / 5
                size = 8 if i == 0 else 4
                a = QPointF(tick, RULER - size) if across else QPointF(RULER - size, tick)
                b = QPointF(tick, RULER) if across else QPointF(RULER, tick)
                painter.drawLine(a, b)
            if across:
                painter.drawText(QPointF(at + 3, 10), f"{value:g}")
            else:
                painter.save()
                painter.translate(10, at + 3)
                painter.rotate(90)
                painter.drawText(QPointF(0, 0), f"{value:g}")
                painter.restore()
            value += step
    painter.fillRect(QRectF(0, 0, RULER, RULER), QColor(theme.PANEL))


def _nice_step(least: float) -> float:
    """1, 2 or 5 times a power of ten, at least ``least``."""
    power = float(10 ** math.floor(math.log10(max(least, 1e-9))))
    return next(power * k for k in (1, 2, 5, 10) if power * k >= least)
