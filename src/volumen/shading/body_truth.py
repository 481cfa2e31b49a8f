"""How true the plain paints of a body are to the surface that they stand for."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from volumen.caching import by_value
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY, Affine, Point, multiply, rotation, scaling
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse
from volumen.shading import surfaces
from volumen.shading.bodies import BodyKind, body_paints
from volumen.shading.lamp import Lights
from volumen.shading.paint_pixels import colours_at
from volumen.shading.round_gradients import sunflower
from volumen.shading.tones import Look, lighting, lit

MOST_MEAN, MOST_P95 = 1.2, 3.0  # CIEDE2000: what a plain paint may be off its surface
_PLACES = sunflower(200) * 0.97  # the very rim holds half of all tones in a pixel


class Truth(NamedTuple):
    """CIEDE2000 between a body as drawn and its surface: the mean, and what one place in twenty is beyond."""

    mean: float
    p95: float

    @property
    def holds(self) -> bool:
        return self.mean <= MOST_MEAN and self.p95 <= MOST_P95


def truth_of(kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float = 0.0) -> Truth | None:
    """How true a ball, dish or cone is over the ellipse of its outline's box; None for other bodies and for an outline
    without extent. ``world`` maps the outline to the sheet, ``turn`` turns the body's axis in degrees."""
    box = path.transformed(rotation(-turn)).bounds() if kind in ("ball", "dish", "cone") else None
    if box is None or box[2] - box[0] < 1e-6 or box[3] - box[1] < 1e-6:
        return None
    radii = ((box[2] - box[0]) / 2, (box[3] - box[1]) / 2)
    a, b, c, d, *_ = multiply(world, rotation(turn))
    return _truth(kind, radii, look, lights, (a, b, c, d, 0.0, 0.0))


@by_value("truth of bodies", 256)
def _truth(kind: BodyKind, radii: Point, look: Look, lights: Lights, world: Affine) -> Truth:
    """The same for an ellipse about the origin: wherever an object is moved to, it is asked for once."""
    path, shown = ellipse(0, 0, *radii), np.zeros((len(_PLACES), 3))
    for paint in body_paints(kind, path, look, lights, world):
        rgba = colours_at(paint, (_PLACES * radii)[None], path)[0]
        over = rgba[:, 3:]
        shown = shown * (1 - over) + rgba[:, :3] * over
    off = srgb_difference(shown, _tones(kind, radii, look, lights, world))
    return Truth(float(off.mean()), float(np.percentile(off, 95)))


def _tones(kind: BodyKind, radii: Point, look: Look, lights: Lights, world: Affine) -> Floats:
    """The tones (n, 3) of the surface itself."""
    light = lighting(lights, IDENTITY)
    light = surfaces.turned_over(light) if kind == "dish" else light
    a, lean = surfaces.matrix_of(multiply(world, scaling(*radii))), surfaces.lean_of(light)
    if kind == "cone":
        normals, s = surfaces.cone(_PLACES / np.hypot(*_PLACES.T)[:, None], a, look.roundness, lean)
    else:
        normals, s = surfaces.ball(_PLACES, a, look.roundness, lean)
    return lit(look, light, normals, s)
