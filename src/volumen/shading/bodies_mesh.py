"""Bodies that follow any outline: a cushion and a slab, as gradient meshes laid round its middle."""

from __future__ import annotations

import dataclasses

import numpy as np

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.geometry.path import Path
from volumen.shading.mesh import Mesh, MeshError, mixing_of, to_paint
from volumen.shading.mesh_make import ring
from volumen.shading.paint import MeshPaint
from volumen.shading.tones import Lighting, Look, lit

_rings: Cache[Mesh] = Cache("ring meshes", 5000)
_COLUMNS = 40
_CUSHION_ROWS = 7
_STEEPEST = 0.5 * np.pi


def cushion(path: Path, look: Look, light: Lighting) -> MeshPaint | None:
    """Flat in the middle, rounder towards the edge, where it stands upright at full roundness."""
    mesh = _ring(path, _CUSHION_ROWS)
    if mesh is None:
        return None
    out = 1 - np.linspace(0, 1, _CUSHION_ROWS + 1)
    tilt = 0.94 * _STEEPEST * look.roundness * out**2.6
    return _shaded(mesh, tilt, out, look, light)


def slab(path: Path, look: Look, light: Lighting) -> MeshPaint | None:
    """A flat top with an even slope all round; roundness is how wide the slope is."""
    share = 0.06 + 0.34 * look.roundness
    rows = max(round(1 / share), 2)
    mesh = _ring(path, rows)
    if mesh is None:
        return None
    # The slope is the outermost row of patches; two lines close together make its inner edge crisp.
    out = 1 - np.linspace(0, 1, rows + 1)
    tilt = np.where(np.arange(rows + 1) == 0, 0.27 * np.pi, np.where(np.arange(rows + 1) == 1, 0.25 * np.pi, 0.0))
    mesh.crease = np.ones_like(mesh.crease)
    return _shaded(mesh, tilt, out, look, light)


def _ring(path: Path, rows: int) -> Mesh | None:
    """A ring mesh over an outline, without colours: lamps do not change it, and copies share it with their outline."""
    key = (id(path), rows)
    made = _rings.get(key)
    if made is None:
        try:
            made = _rings.put(key, path, ring(path, _COLUMNS, rows, _no_colours))
        except MeshError:
            return None
    return dataclasses.replace(made)


def _no_colours(points: Floats) -> Floats:
    return np.ones((len(points), 4))


def _shaded(mesh: Mesh, tilt: Floats, out: Floats, look: Look, light: Lighting) -> MeshPaint:
    """A ring mesh in the tones of normals that lean outwards by ``tilt`` (rows,), ``out`` (rows,) of the way."""
    rim = mesh.at[0]
    along = np.roll(rim, -1, axis=0) - np.roll(rim, 1, axis=0)
    outward = np.stack([along[:, 1], -along[:, 0]], axis=1)
    outward /= np.maximum(np.hypot(outward[:, 0], outward[:, 1]), 1e-9)[:, None]
    middle = rim.mean(axis=0)
    if ((rim - middle) * outward).sum() < 0:
        outward = -outward
    rows, columns = mesh.at.shape[:2]
    lean = np.broadcast_to(tilt[:, None], (rows, columns))
    flat = np.broadcast_to(outward[None], (rows, columns, 2))
    normals = np.concatenate([flat * np.sin(lean)[..., None], np.cos(lean)[..., None]], axis=-1).reshape(-1, 3)
    key = np.array(light.key[:2])
    toward = key / max(float(np.hypot(key[0], key[1])), 1e-9)
    s = (flat @ toward * out[:, None]).reshape(-1)
    rgb = lit(look, light, normals, s)
    rgba = np.concatenate([rgb, np.full((len(rgb), 1), look.base.a)], axis=1)
    mesh.mixing = mixing_of(rgba).reshape(mesh.mixing.shape)
    return to_paint(mesh)
