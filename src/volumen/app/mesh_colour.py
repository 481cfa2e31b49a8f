"""Mesh points in another colour."""

from __future__ import annotations

import numpy as np

from volumen.shading.mesh import from_paint, mixing_of, to_paint
from volumen.shading.mesh_edit import with_colour
from volumen.shading.paint import Colour, MeshPaint


def with_mesh_colour(paint: MeshPaint, points: tuple[tuple[int, int], ...], colour: Colour) -> MeshPaint:
    mesh = from_paint(paint)
    inside = [p for p in points if p[0] < mesh.at.shape[0] and p[1] < mesh.at.shape[1]]
    return to_paint(with_colour(mesh, inside, mixing_of(np.array([*colour.rgb, colour.a]))), paint)
