"""Bodies that follow any outline: a cushion and a slab, as gradient meshes laid round its middle."""

from __future__ import annotations

import dataclasses

import numpy as np

from volumen.caching import Cache
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY
from volumen.geometry.mask import Part, places_in
from volumen.geometry.path import Path
from volumen.shading.edge_mesh import EdgeMesh, edge_mesh, to_edge
from volumen.shading.mesh import Mesh, MeshError
from volumen.shading.mesh_make import ring
from volumen.shading.mesh_paints import laid_in
from volumen.shading.paint import LaidMesh
from volumen.shading.surfaces import lean_of
from volumen.shading.tones import Lighting, Look, lit

_rings: Cache[Mesh] = Cache("ring meshes", 5000)
_COLUMNS, _RING_COLUMNS = 64, 40
_RING_ROWS = 10
_STEEPEST = 0.5 * np.pi
_INWARDS = 0.03  # of the way from the border to the middle
_ROWS, _BEND = 14, 2.6  # of a cushion from the edge in, and the power by which it bends
_DEPTHS = np.linspace(0, 1, 1000)
_DONE = (_DEPTHS + 1 - (1 - _DEPTHS) ** _BEND) / 2  # the mean of the way in and of the bend, up to there
_CUSHION_LEVELS = tuple(np.interp(np.linspace(0, 1, _ROWS + 1), _DONE, _DEPTHS).tolist())
_GRID = 24  # cells along each side of the box in which the deepest place is looked for
_known_edges: Cache[tuple[Floats, Floats]] = Cache("ways to the edges of cushions", 5000)


def cushion(path: Path, look: Look, light: Lighting) -> LaidMesh | None:
    """Flat where it is deepest, rounder towards the edge, where it stands upright at full roundness.

    Its normals lean towards the nearest edge: at the distance d from it, of D at the deepest place, by
    0.94 · 90° · roundness · (1 - d / D)^2.6. Between two rows of its mesh lie as much of the way in and of the bend.
    """
    laid = edge_mesh(path, _COLUMNS, _CUSHION_LEVELS)
    if laid is not None:
        return _on_edges(laid, cushion_tilt(1 - laid.inside, look.roundness), look, light)
    mesh = _ring(path, _RING_ROWS)
    if mesh is None:
        return None
    flat, out = _edges(path, mesh)
    return _in_tones(mesh, flat, cushion_tilt(out, look.roundness), out, look, light)


def _on_edges(laid: EdgeMesh, tilt: Floats, look: Look, light: Lighting) -> LaidMesh:
    """A mesh from the edge in, in tones of normals that lean by ``tilt`` (rows, columns)."""
    flat = np.broadcast_to(laid.leans, (*tilt.shape, 2))
    return _in_tones(laid.mesh, flat, tilt, 1 - laid.inside, look, light)


def cushion_tilt(out: Floats, roundness: float) -> Floats:
    """How far (radians) a cushion leans at ``out`` of the way from its deepest place (0) to its edge (1)."""
    return np.asarray(0.94 * _STEEPEST * roundness * np.clip(out, 0, 1) ** _BEND)


def _edges(path: Path, mesh: Mesh) -> tuple[Floats, Floats]:
    """The directions (rows, columns, 2) from the points of a mesh to the nearest edge, and how far out (0..1)."""
    hit = _known_edges.get(id(path))
    if hit is not None:
        return hit
    border = mesh.at[0]
    middle = mesh.at[-1].mean(axis=0)
    inside = mesh.at.copy()
    inside[0] = border + (middle - border) * _INWARDS  # on the border itself there is no direction to it
    flat, far = to_edge(path, inside.reshape(-1, 2))
    inner = places_in(Part(path, IDENTITY), path.hull() or (0.0, 0.0, 1.0, 1.0), _GRID)
    deepest = max(float(to_edge(path, inner)[1].max(initial=0.0)), float(far.max()), 1e-9)
    out = 1 - far.reshape(mesh.at.shape[:2]) / deepest
    out[0] = 1.0
    return _known_edges.put(id(path), path, (flat.reshape(mesh.at.shape), out))


def slope_share(roundness: float) -> float:
    """How wide the slope of a slab is, of the way to its middle."""
    return 0.06 + 0.34 * roundness


def slab(path: Path, look: Look, light: Lighting) -> LaidMesh | None:
    """A flat top with an even slope all round; roundness is how wide the slope is.

    At the distance d from the edge, of D at the deepest place, it leans towards the nearest edge by 45° where d / D is
    less than ``slope_share``, and a little more at the very edge.
    """
    share = slope_share(look.roundness)
    levels = (0.0, share, share, 1.0)  # two lines on one another make the edge of the top crisp
    laid = edge_mesh(path, _COLUMNS, levels)
    if laid is not None:
        slope = (0.27 - 0.02 * laid.inside / share) * np.pi
        top = (np.arange(len(slope)) > 1)[:, None] & (laid.inside > share * (1 - 1e-6))
        return _on_edges(laid, np.where(top, 0.0, slope), look, light)
    rows = max(round(1 / share), 2)
    mesh = _ring(path, rows)
    if mesh is None:
        return None
    # The slope is the outermost row of patches.
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
            made = _rings.put(key, path, ring(path, _RING_COLUMNS, rows, _no_colours).for_keeping())
        except MeshError:
            return None
    return dataclasses.replace(made)


def _no_colours(points: Floats) -> Floats:
    return np.ones((len(points), 4))


def _shaded(mesh: Mesh, tilt: Floats, out: Floats, look: Look, light: Lighting) -> LaidMesh:
    """A ring mesh in the tones of normals that lean outwards by ``tilt`` (rows,), ``out`` (rows,) of the way."""
    rim = mesh.at[0]
    along = np.roll(rim, -1, axis=0) - np.roll(rim, 1, axis=0)
    outward = np.stack([along[:, 1], -along[:, 0]], axis=1)
    outward /= np.maximum(np.hypot(outward[:, 0], outward[:, 1]), 1e-9)[:, None]
    middle = rim.mean(axis=0)
    if ((rim - middle) * outward).sum() < 0:
        outward = -outward
    rows, columns = mesh.at.shape[:2]
    flat = np.broadcast_to(outward[None], (rows, columns, 2))
    lean, far = (np.broadcast_to(v[:, None], (rows, columns)) for v in (tilt, out))
    return _in_tones(mesh, flat, lean, far, look, light)


def _in_tones(mesh: Mesh, flat: Floats, tilt: Floats, out: Floats, look: Look, light: Lighting) -> LaidMesh:
    """A mesh in the tones of normals that lean by ``tilt`` (rows, columns) along ``flat``, ``out`` of the way."""
    normals = np.concatenate([flat * np.sin(tilt)[..., None], np.cos(tilt)[..., None]], axis=-1).reshape(-1, 3)
    s = ((flat @ lean_of(light)) * out).reshape(-1)
    return laid_in(mesh, lit(look, light, normals, s), look.base.a)
