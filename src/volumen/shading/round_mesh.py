"""Balls and dishes as gradient meshes of their surface, where no plain gradient comes near enough."""

from __future__ import annotations

import numpy as np

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY, Affine, apply_points, invert, multiply, rotation, scaling, translation
from volumen.geometry.curve import flatten
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse
from volumen.shading import surfaces
from volumen.shading.lamp import Lights
from volumen.shading.mesh import Mesh, MeshError
from volumen.shading.mesh_make import EYE, ring
from volumen.shading.mesh_paints import laid_in
from volumen.shading.paint import LaidMesh
from volumen.shading.tones import Look, lighting, lit

ROUND = ("ball", "dish")
_COLUMNS, _ROWS = 48, 18
_laid: Cache[Mesh] = Cache("meshes of round bodies", 5000)


def round_mesh(kind: str, path: Path, look: Look, lights: Lights, world: Affine, turn: float) -> LaidMesh | None:
    """A ball or a dish over an outline in the tones of its surface; None for an outline without extent."""
    box = path.transformed(rotation(-turn)).bounds()
    if box is None or min(box[2] - box[0], box[3] - box[1]) < 1e-9:
        return None
    centre, radii = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), ((box[2] - box[0]) / 2, (box[3] - box[1]) / 2)
    to_shape = multiply(rotation(turn), multiply(translation(*centre), scaling(*radii)))
    back = invert(to_shape)
    mesh = _laid_over(path, to_shape, back, turn) if back is not None else None
    if mesh is None or back is None:
        return None
    places = apply_points(back, mesh.at.reshape(-1, 2))
    a, b, c, d, *_ = multiply(world, to_shape)
    rgb = surface_tones(kind, places, (a, b, c, d, 0.0, 0.0), look, lights)
    return laid_in(mesh, rgb, look.base.a)


def surface_tones(kind: str, places: Floats, a: Affine, look: Look, lights: Lights) -> Floats:
    """The tones (n, 3) of a ball, a dish or a cone at places (n, 2) of the unit disc, which ``a`` maps to the sheet;
    those beyond its rim have the rim's."""
    light = lighting(lights, IDENTITY)
    light = surfaces.turned_over(light) if kind == "dish" else light
    matrix, lean = surfaces.matrix_of(a), surfaces.lean_of(light)
    far = np.hypot(places[:, 0], places[:, 1])[:, None]
    if kind == "cone":
        normals, s = surfaces.cone(places / np.maximum(far, 1e-12), matrix, look.roundness, lean)
    else:
        normals, s = surfaces.ball(places / np.maximum(far, 1.0), matrix, look.roundness, lean)
    return lit(look, light, normals, s)


def _laid_over(path: Path, to_shape: Affine, back: Affine, turn: float) -> Mesh | None:
    """The mesh without its colours: its lines are circles of the ball, closer together towards the rim, where its tones
    turn; one more lies round all of an outline that reaches beyond the ellipse of its box."""
    key = (id(path), turn)
    made = _laid.get(key)
    if made is None:
        points = np.concatenate([flatten(c, 0.002)[0] for c in path.transformed(back).contours])
        beyond = float(np.hypot(*points.T).max())
        reach = beyond if beyond > 1.01 else 1.0
        rows = np.sin(np.linspace(np.pi / 2, np.arcsin(EYE * reach), _ROWS + 1))
        rows = np.concatenate([[reach], rows]) if reach > 1 else rows
        round_it = ellipse(0, 0, reach, reach).transformed(to_shape)
        try:
            bare = ring(round_it, _COLUMNS, (1 - rows / reach) / (1 - EYE), lambda p: np.ones((len(p), 4)))
        except MeshError:
            return None
        made = _laid.put(key, path, bare.for_keeping())
    return made
