"""Drawing of handles on the canvas: ink with a light halo, so they read over any artwork."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen, QPolygonF

from volumen.app import theme
from volumen.geometry.affine import Affine, Point
from volumen.geometry.path import Path

HALO = QColor(255, 255, 255, 215)
INK = QColor(theme.INK)
VERMILION = QColor(theme.VERMILION)
AMBER = QColor(theme.AMBER)
OWN, OWN_DARK = QColor(theme.OWN_LAMP), QColor(theme.OWN_LAMP_DARK)  # of an object's own lamp
AMBER_DARK = QColor(theme.AMBER_DARK)


GUIDE_COLOURS = ("#1f8fb0", "#c8402a", "#8a3fb0", "#2f8f46", "#f2efe8", "#0d1c2a")
_chosen = [0]


def guide_colour() -> QColor:
    """The colour of guides; ``next_colour`` changes it where it fights with the artwork."""
    return QColor(GUIDE_COLOURS[_chosen[0]])


def next_colour() -> None:
    """Take the next colour for guides and for handles' lines."""
    _chosen[0] = (_chosen[0] + 1) % len(GUIDE_COLOURS)
    INK.setRgb(QColor(theme.INK if _chosen[0] == 0 else GUIDE_COLOURS[_chosen[0]]).rgb())


def qt_path(path: Path, to_canvas: Affine) -> QPainterPath:
    """A cubic path on the canvas."""
    out = QPainterPath()
    moved = path.transformed(to_canvas)
    for contour in moved.contours:
        p = contour.points.clip(-1e6, 1e6).tolist()
        if not p:
            continue
        out.moveTo(*p[0])
        for i in range(1, len(p) - 2, 3):
            out.cubicTo(*p[i], *p[i + 1], *p[i + 2])
        if contour.closed:
            out.closeSubpath()
    return out


# Smooth strokes take a painter a tenth of a second for 30,000 pixels of line, and minutes where all of it is one path
# that lies over itself (2,000 rays). Longer outlines are drawn one pixel wide and not smoothed, in a hundredth of that.
_MOST_SMOOTH = 12_000  # pixels
_MOST_ELEMENTS = 6_000  # of a path whose length is still asked for, and which has a halo


def halo_stroke(painter: QPainter, path: QPainterPath, colour: QColor = INK, width: float = 1.2) -> None:
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if path.elementCount() > _MOST_ELEMENTS or path.length() > _MOST_SMOOTH:
        _fine_stroke(painter, path, colour)
        return
    runs = path.toSubpathPolygons()
    for pen in (QPen(HALO, width + 2), QPen(colour, width)):
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        for run in runs:
            painter.drawPolyline(run)


def _fine_stroke(painter: QPainter, path: QPainterPath, colour: QColor) -> None:
    """Lines of one pixel, with light ones beside them in place of a halo where that is not too much."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    halo = ((1, 1, HALO), (-1, -1, HALO)) if path.elementCount() <= _MOST_ELEMENTS else ()
    for dx, dy, drawn in (*halo, (0, 0, colour)):
        painter.setPen(QPen(drawn, 0))
        painter.drawPath(path.translated(dx, dy))
    painter.restore()


def halo_line(painter: QPainter, a: Point, b: Point, colour: QColor = INK, dashed: bool = False) -> None:
    painter.setPen(QPen(HALO, 3.2))
    painter.drawLine(QPointF(*a), QPointF(*b))
    painter.setPen(QPen(colour, 1.2, Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine))
    painter.drawLine(QPointF(*a), QPointF(*b))


def dot(painter: QPainter, at: Point, fill: QColor = HALO, radius: float = 4.5, ring: QColor = INK) -> None:
    """A round handle: smooth points, ends, centres."""
    painter.setPen(QPen(HALO, 3))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawEllipse(QPointF(*at), radius, radius)
    painter.setPen(QPen(ring, 1.4))
    painter.setBrush(QBrush(fill))
    painter.drawEllipse(QPointF(*at), radius, radius)


def diamond(painter: QPainter, at: Point, fill: QColor = HALO, radius: float = 5.0) -> None:
    """A corner point."""
    x, y = at
    path = QPainterPath(QPointF(x, y - radius))
    for dx, dy in ((radius, 0), (0, radius), (-radius, 0)):
        path.lineTo(x + dx, y + dy)
    path.closeSubpath()
    painter.setPen(QPen(HALO, 3))
    painter.drawPath(path)
    painter.setPen(QPen(INK, 1.4))
    painter.setBrush(QBrush(fill))
    painter.drawPath(path)


def drop(painter: QPainter, at: Point, normal: Point, fill: QColor, chosen: bool) -> None:
    """A stop on the spindle: a drop whose tip touches ``at`` and whose belly hangs along ``normal``."""
    x, y = at
    nx, ny = normal
    centre = QPointF(x + nx * 13, y + ny * 13)
    path = QPainterPath(QPointF(x, y))
    path.lineTo(centre.x() - ny * 6, centre.y() + nx * 6)
    path.lineTo(centre.x() + ny * 6, centre.y() - nx * 6)
    path.closeSubpath()
    path = path.united(_circle(centre, 6.5))
    painter.setPen(QPen(HALO, 3.4))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawPath(path)
    opaque = QColor(fill)
    opaque.setAlpha(255)
    painter.setPen(QPen(VERMILION if chosen else INK, 2.0 if chosen else 1.3))
    painter.setBrush(QBrush(opaque))
    painter.drawPath(path)


def _circle(centre: QPointF, r: float) -> QPainterPath:
    path = QPainterPath()
    path.addEllipse(centre, r, r)
    return path


def brackets(painter: QPainter, box: QRectF) -> None:
    """Corner brackets around a selection."""
    arm = min(14.0, max(box.width(), box.height()) / 3 + 2)
    path = QPainterPath()
    for x, sx in ((box.left(), 1), (box.right(), -1)):
        for y, sy in ((box.top(), 1), (box.bottom(), -1)):
            path.moveTo(x + sx * arm, y)
            path.lineTo(x, y)
            path.lineTo(x, y + sy * arm)
    halo_stroke(painter, path, VERMILION, 2.0)


def arrow(painter: QPainter, at: Point, along: Point, size: float) -> None:
    """An arrow head in the middle of ``at`` that points ``along`` (a unit direction)."""
    (x, y), (dx, dy) = at, along
    corners = ((size, 0.0), (-0.8 * size, 0.8 * size), (-0.4 * size, 0.0), (-0.8 * size, -0.8 * size))
    painter.setPen(QPen(INK, 1.2))
    painter.setBrush(AMBER)
    painter.drawPolygon(QPolygonF([QPointF(x + u * dx - v * dy, y + u * dy + v * dx) for u, v in corners]))


def tag(painter: QPainter, at: Point, text: str) -> None:
    """A small dark label beside ``at``, pushed back where it would leave what is painted on."""
    wide, room = painter.fontMetrics().horizontalAdvance(text) + 18, painter.viewport()
    x = max(min(at[0], room.right() - wide - 4), room.left() + 4.0)
    y = max(min(at[1], room.bottom() - 25), room.top() + 4.0)
    box = QRectF(x, y, wide, 21)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(INK)
    painter.drawRoundedRect(box, 10.5, 10.5)
    painter.setPen(QColor(theme.CARD))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def sun(painter: QPainter, at: Point, held: bool, light: QColor = AMBER, dark: QColor = AMBER_DARK) -> None:
    """The lamp on its ring."""
    import math

    painter.setPen(QPen(dark, 1.8, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    for k in range(8):
        a = math.radians(k * 45)
        c, s = math.cos(a), math.sin(a)
        painter.drawLine(QPointF(at[0] + c * 19, at[1] + s * 19), QPointF(at[0] + c * 25, at[1] + s * 25))
    painter.setPen(QPen(HALO, 4))
    painter.drawEllipse(QPointF(*at), 14, 14)
    painter.setPen(QPen(INK if held else dark, 1.6))
    painter.setBrush(light)
    painter.drawEllipse(QPointF(*at), 14, 14)
