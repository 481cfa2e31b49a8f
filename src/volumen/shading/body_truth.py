"""How true the plain paints of a body are to the surface that they stand for."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from volumen.caching import by_value
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, multiply, rotation, scaling
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse
from volumen.shading.bodies import body_paints
from volumen.shading.lamp import Lights
from volumen.shading.mesh_raster import mesh_pixels
from volumen.shading.paint import Gradient, LaidMesh
from volumen.shading.paint_pixels import colours_at
from volumen.shading.plain_bodies import BodyKind
from volumen.shading.round_gradients import sunflower
from volumen.shading.round_mesh import surface_tones
from volumen.shading.tones import Look

MOST_MEAN, MOST_P95 = 1.2, 3.0  # CIEDE2000: what a plain paint may be off its surface
_PIXELS = 200  # along a side, where a mesh is drawn to be measured
# In the middles of such pixels; the very rim holds half of all tones in a pixel.
_PLACES = (np.floor((sunflower(200) * 0.97 + 1) * _PIXELS / 2) + 0.5) * 2 / _PIXELS - 1


class Truth(NamedTuple):
    """CIEDE2000 between a body as drawn and its surface: the mean, and what one place in twenty is beyond."""

    mean: float
    p95: float

    @property
    def holds(self) -> bool:
        return self.mean <= MOST_MEAN and self.p95 <= MOST_P95


def truth_of(
    kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float = 0.0, mesh: bool = False
) -> Truth | None:  # fmt: skip
    """How true a ball, dish or cone is over the ellipse of its outline's box; None for other bodies and for an outline
    without extent. ``world`` maps the outline to the sheet, ``turn`` turns the body's axis in degrees."""
    box = path.transformed(rotation(-turn)).bounds() if kind in ("ball", "dish", "cone") else None
    if box is None or box[2] - box[0] < 1e-6 or box[3] - box[1] < 1e-6:
        return None
    radii = ((box[2] - box[0]) / 2, (box[3] - box[1]) / 2)
    a, b, c, d, *_ = multiply(world, rotation(turn))
    return _truth(kind, radii, look, lights, (a, b, c, d, 0.0, 0.0), mesh)


@by_value("truth of bodies", 256)
def _truth(kind: BodyKind, radii: Point, look: Look, lights: Lights, world: Affine, mesh: bool) -> Truth:
    """The same for an ellipse about the origin: wherever an object is moved to, it is asked for once."""
    path, shown = ellipse(0, 0, *radii), np.zeros((len(_PLACES), 3))
    for paint, blend in body_paints(kind, path, look, lights, world, mesh=mesh):
        rgba = _of_mesh(paint, radii) if isinstance(paint, LaidMesh) else _of_gradient(paint, radii, path)
        over = rgba[:, 3:]
        colour = rgba[:, :3] if blend == "normal" else 1 - (1 - shown) * (1 - rgba[:, :3])
        shown = shown * (1 - over) + colour * over
    off = srgb_difference(shown, surface_tones(kind, _PLACES, multiply(world, scaling(*radii)), look, lights))
    return Truth(float(off.mean()), float(np.percentile(off, 95)))


def _of_gradient(paint: Gradient, radii: Point, path: Path) -> Floats:
    return np.asarray(colours_at(paint, (_PLACES * radii)[None], path)[0])


def _of_mesh(paint: LaidMesh, radii: Point) -> Floats:
    """The colours (n, 4) of a mesh round the origin in the pixels that hold the places."""
    at, handles = ((v / radii + 1) * (_PIXELS / 2) for v in (paint.mesh.at, paint.mesh.handles))
    mesh = replace(paint.mesh, at=at, handles=handles)
    pixels = mesh_pixels(mesh, (0, 0, _PIXELS, _PIXELS))
    x, y = ((_PLACES + 1) * (_PIXELS / 2)).astype(int).T
    return np.asarray(pixels[y, x], np.float64)
