"""A tube along a line: a gradient mesh in the tones of its surface, however the line bends."""

from __future__ import annotations

import numpy as np

from volumen.geometry.curve import ruler
from volumen.geometry.path import Contour
from volumen.shading.mesh import Mesh
from volumen.shading.mesh_make import straight_handles
from volumen.shading.mesh_paints import laid_in
from volumen.shading.paint import LaidMesh
from volumen.shading.surfaces import lean_of
from volumen.shading.tones import Lighting, Look, lit

_ACROSS = 8  # patches from edge to edge
_MOST = 60  # patches along a line


def tube_along(course: Contour, width: float, look: Look, light: Lighting) -> LaidMesh | None:
    """A round tube of ``width`` along a line, in the line's coordinates; None for a line of no length.

    At the share s (-1..1) of half its width from the middle its normal leans outwards by asin(roundness s).
    """
    measured = ruler(course)
    if measured.total <= 0 or width <= 0:
        return None
    columns = int(min(max(measured.total / (0.4 * width), 2), _MOST))
    points, tangents = measured.at(np.linspace(0, measured.total, columns + 1))
    ends = np.stack([points[0] - tangents[0] * width / 2, points[-1] + tangents[-1] * width / 2])  # under round caps
    points = np.concatenate([ends[:1], points, ends[1:]])
    tangents = np.concatenate([tangents[:1], tangents, tangents[-1:]])
    outward = np.stack([tangents[:, 1], -tangents[:, 0]], axis=1)
    s = np.sin(np.linspace(-0.5, 0.5, _ACROSS + 1) * np.pi)  # closer together where tones change fast
    at = points[None] + s[:, None, None] * (width / 2) * outward[None]
    lean = np.arcsin(np.clip(look.roundness * s, -1, 1))
    flat = np.broadcast_to(outward[None], at.shape)
    normals = np.concatenate(
        [flat * np.sin(lean)[:, None, None], np.broadcast_to(np.cos(lean)[:, None, None], (*at.shape[:2], 1))], axis=2
    )
    towards = (flat @ np.array(lean_of(light))) * s[:, None]
    rgb = lit(look, light, normals.reshape(-1, 3), towards.reshape(-1))
    shape = at.shape[:2]
    slopes, handles = np.full((*shape, 4, 3, 4), np.nan), straight_handles(at, False)
    bare = Mesh(at, handles, np.zeros((*shape, 4)), np.zeros(shape, bool), slopes, False)
    return laid_in(bare.for_keeping(), rgb, look.base.a)
