"""How a mesh is seen on the canvas: its lines, its points, the handles of those in hand, and where it folds."""

from __future__ import annotations

from collections.abc import Collection

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from volumen.app.canvas.handles import HALO, INK, VERMILION, diamond, dot, halo_line, halo_stroke
from volumen.colour.srgb import Floats
from volumen.shading.mesh import Mesh, bernstein, folded, places

_STEPS = bernstein(np.linspace(0, 1, 13))


def paint_net(painter: QPainter, mesh: Mesh, chosen: Collection[tuple[int, int]]) -> None:
    """A mesh in canvas pixels, its ``chosen`` points (row, column) with their handles."""
    nets = places(mesh)
    lines = QPainterPath()
    for net in nets.reshape(-1, 4, 4, 2):
        for control in (net[0], net[:, 0], net[3], net[:, 3]):
            lines.addPolygon(QPolygonF([QPointF(x, y) for x, y in (_STEPS @ control).tolist()]))
    halo_stroke(painter, lines)
    for i, j in np.argwhere(folded(mesh)):
        _paint_fold(painter, nets[i, j])
    for i, j in np.ndindex(*mesh.at.shape[:2]):
        x, y = mesh.at[i, j].tolist()
        if (i, j) in chosen:
            for k in range(4):
                hx, hy = mesh.handles[i, j, k].tolist()
                halo_line(painter, (x, y), (hx, hy))
                dot(painter, (hx, hy), HALO, 3, INK)
        shape = diamond if mesh.crease[i, j] else dot
        shape(painter, (x, y), VERMILION if (i, j) in chosen else HALO, 4.5 if (i, j) in chosen else 3.2)


def _paint_fold(painter: QPainter, net: Floats) -> None:
    corner = QPolygonF([QPointF(*net[v, u].tolist()) for v, u in ((0, 0), (0, 3), (3, 3), (3, 0))])
    painter.setPen(QPen(VERMILION, 2))
    shade = QColor(VERMILION)
    shade.setAlpha(110)
    painter.setBrush(shade)
    painter.drawPolygon(corner)
