"""Mesh paints and their arrays: what documents hold, what bodies are laid as, and the way from one to the other."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import msgspec
import numpy as np

from volumen.colour.srgb import Floats
from volumen.shading.mesh import MOST_PATCHES, Mesh, MeshError, mixing_of, straight_of
from volumen.shading.paint import Colour, Coloured, LaidMesh, Meshed, MeshPaint, MeshPoint, Paint


def laid_in(mesh: Mesh, rgb: Floats, alpha: float) -> LaidMesh:
    """A mesh in encoded sRGB (points, 3), row by row. It shares what is no colour: that must not be written to."""
    rgba = np.concatenate([np.clip(rgb, 0, 1), np.full((len(rgb), 1), alpha)], axis=1)
    return LaidMesh(replace(mesh, mixing=mixing_of(rgba).reshape(*mesh.at.shape[:2], 4)))


def mesh_colours(paint: Meshed) -> list[Colour]:
    """The colours of a mesh, row by row."""
    if isinstance(paint, MeshPaint):
        return [p.colour for p in paint.points]
    return [Colour(*rgba) for rgba in straight_of(paint.mesh.mixing).reshape(-1, 4).tolist()]


def with_colours(paint: LaidMesh, colours: Iterable[Colour]) -> LaidMesh:
    """The same mesh in other colours, row by row."""
    rgba = np.array([(*c.rgb, c.a) for c in colours])
    return LaidMesh(replace(paint.mesh, mixing=mixing_of(rgba).reshape(paint.mesh.mixing.shape)), paint.grain)


def stored(paint: Coloured) -> Paint:
    """What a drawing instruction is painted with as a paint that documents can hold."""
    return msgspec.structs.replace(to_paint(paint.mesh), grain=paint.grain) if isinstance(paint, LaidMesh) else paint


def mesh_of(paint: Meshed) -> Mesh:
    """The arrays of a mesh, which must not be written to. Raises MeshError as ``from_paint``."""
    return paint.mesh if isinstance(paint, LaidMesh) else from_paint(paint)


def from_paint(paint: MeshPaint) -> Mesh:
    """The arrays of a mesh paint. Raises MeshError if its points do not make up its patches."""
    wide = paint.columns + (0 if paint.ring else 1)
    high = paint.rows + 1
    if paint.columns < 1 or paint.rows < 1 or (paint.ring and paint.columns < 3):
        raise MeshError("a mesh needs at least one patch, a ring three")
    if len(paint.points) != wide * high or paint.columns * paint.rows > MOST_PATCHES:
        raise MeshError(f"a mesh of {paint.columns} x {paint.rows} patches cannot have {len(paint.points)} points")
    at = np.array([p.at for p in paint.points], dtype=np.float64).reshape(high, wide, 2)
    handles = np.array([p.handles for p in paint.points], dtype=np.float64).reshape(high, wide, 4, 2)
    rgba = np.array([(*p.colour.rgb, p.colour.a) for p in paint.points]).reshape(high, wide, 4)
    crease = np.array([p.crease for p in paint.points]).reshape(high, wide)
    slopes = np.full((high * wide, 4, 12), np.nan)
    for i, p in enumerate(paint.points):
        if p.slopes is not None and len(p.slopes) in (12, 48):
            slopes[i] = np.reshape(p.slopes, (-1, 12))
    return Mesh(at, handles, mixing_of(rgba), crease, slopes.reshape(high, wide, 4, 3, 4), paint.ring)


def to_paint(mesh: Mesh, like: MeshPaint | None = None) -> MeshPaint:
    """The paint of some arrays. Colours that did not change stay exactly those of ``like``."""
    rgba = straight_of(mesh.mixing).reshape(-1, 4).tolist()
    known = like.points if like is not None and len(like.points) == len(rgba) else ()
    same: list[bool] = [False] * len(rgba)
    if known and like is not None:
        same = (np.abs(from_paint(like).mixing - mesh.mixing).max(axis=-1).reshape(-1) < 1e-9).tolist()
    points = [
        MeshPoint(
            (at[0], at[1]),
            tuple([(x, y) for x, y in handles]),  # type: ignore[arg-type]
            known[i].colour if same[i] else Colour(*colour),
            crease,
            slopes,
        )
        for i, (at, handles, colour, crease, slopes) in enumerate(
            zip(
                mesh.at.reshape(-1, 2).tolist(),
                mesh.handles.reshape(-1, 4, 2).tolist(),
                rgba,
                mesh.crease.reshape(-1).tolist(),
                _own_slopes(mesh),
                strict=True,
            )
        )
    ]
    grain = like.grain if like is not None else None
    return MeshPaint(tuple(points), mesh.columns, mesh.rows, mesh.ring, grain)


def _own_slopes(mesh: Mesh) -> list[tuple[float, ...] | None]:
    """The slopes of each point as a paint keeps them: twelve where they are alike all round, None where not given."""
    rows = mesh.slopes.reshape(-1, 4, 12)
    given = ~np.isnan(rows).any(axis=(1, 2))
    out: list[tuple[float, ...] | None] = [None] * len(rows)
    for i in np.flatnonzero(given):
        out[i] = tuple((rows[i, :1] if (rows[i] == rows[i, 0]).all() else rows[i]).reshape(-1).tolist())
    return out
