"""What the mesh tool finds and shows: lines under a point, corners on an outline, the veil of an error."""

from __future__ import annotations

import numpy as np
from PySide6.QtGui import QImage

from volumen.app.canvas.handles import VERMILION
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, apply, invert, max_scale
from volumen.geometry.curve import nearest, points_at
from volumen.geometry.path import Contour, Path
from volumen.model.nodes import Shape
from volumen.outline.outlines import outline
from volumen.shading.mesh import Mesh, MeshError, bernstein, places
from volumen.shading.mesh_make import border_of

REACH = 8.0


def border(shape: Shape, world: Affine) -> Contour | None:
    """The contour that a mesh would follow; None where there is none."""
    try:
        return border_of(outline(shape, world))
    except MeshError:
        return None


def corner_at(contour: Contour, place: Affine, at: Point) -> float | None:
    """The place on a contour under a point of the canvas, one of its own points where that is near."""
    back = invert(place)
    if back is None:
        return None
    found = nearest(Path((contour,)), apply(back, at))
    if found is None or found.distance * max_scale(place) > REACH:
        return None
    whole = float(round(found.place))
    x, y = points_at(contour, np.array([whole]))[0][0].tolist()
    px, py = apply(place, (x, y))
    near_point = (px - at[0]) ** 2 + (py - at[1]) ** 2 <= REACH * REACH
    return (whole if near_point else found.place) % len(contour.segments)


def error_veil(values: Floats) -> QImage:
    """The remaining error (h, w) as a veil: clear where nothing differs, vermilion from a difference of 8 on."""
    share = np.clip(np.nan_to_num(values) / 8, 0, 1)
    veil = np.zeros((*share.shape, 4), np.uint8)
    veil[..., :3] = (VERMILION.red(), VERMILION.green(), VERMILION.blue())
    veil[..., 3] = share * 220
    h, w = share.shape
    return QImage(veil.data, w, h, 4 * w, QImage.Format.Format_RGBA8888).copy()


def nearest_line(mesh: Mesh, at: Point) -> tuple[str, int, float] | None:
    """The line of a mesh under a point: whether it is of a row or a column, the patch along it, and where."""
    nets = places(mesh)
    t = np.linspace(0, 1, 41)
    b = bernstein(t)
    best: tuple[float, str, int, float] | None = None
    for i in range(mesh.rows):
        for j in range(mesh.columns):
            net = nets[i, j]
            for kind, patch, control in (
                ("row", j, net[0]),
                ("row", j, net[3]),
                ("column", i, net[:, 0]),
                ("column", i, net[:, 3]),
            ):
                d = np.hypot(*((b @ control) - np.array(at)).T)
                k = int(d.argmin())
                if best is None or d[k] < best[0]:
                    best = (float(d[k]), kind, patch, float(t[k]))
    if best is None or best[0] > REACH:
        return None
    return best[1], best[2], best[3]
