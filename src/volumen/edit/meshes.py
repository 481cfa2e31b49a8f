"""Meshes of shapes: made from an outline or a gradient, held against a reference picture."""

from __future__ import annotations

from typing import Literal

import msgspec
import numpy as np

from volumen.colour.srgb import Floats
from volumen.edit.gradients import paint_of, with_paint
from volumen.geometry.affine import Affine, invert, multiply, scaling
from volumen.geometry.path import Path
from volumen.model.nodes import Asset, Document, Image, Shape
from volumen.model.tree import find, update_nodes, walk, world_of
from volumen.outline.outlines import outline
from volumen.shading.mesh import Mesh, MeshError, mixing_of
from volumen.shading.mesh_edit import with_colour
from volumen.shading.mesh_fit import read
from volumen.shading.mesh_make import Colours, four_sided, from_linear, from_radial, ring
from volumen.shading.mesh_paints import from_paint, to_paint
from volumen.shading.paint import Colour, Linear, MeshPaint, Paint, Radial, Solid
from volumen.shading.paint_pixels import colours_at

replace = msgspec.structs.replace
MeshKind = Literal["four-sided", "ring", "gradient"]


def make_mesh(
    document: Document, node_id: int, kind: MeshKind, columns: int, rows: int, corners: tuple[float, ...] = ()
) -> Document:
    """A shape's topmost fill as a mesh in the colours it has; ``corners`` are places on its border (none: found).

    Raises MeshError where that cannot be.
    """
    shape = find(document, node_id)
    if not isinstance(shape, Shape):
        raise MeshError("select one shape to lay a mesh in")
    path = outline(shape, world_of(document, node_id))
    paint = paint_of(shape)
    if isinstance(paint, MeshPaint):
        raise MeshError("this shape has a mesh already")
    base = paint if paint is not None else Solid(Colour(0.7, 0.7, 0.7))

    def colours(points: Floats) -> Floats:
        return np.asarray(colours_at(base, points[None], path)[0])

    if kind == "four-sided":
        mesh = four_sided(path, columns, rows, colours, corners or None)
    elif kind == "ring":
        mesh = ring(path, columns, rows, colours)
    else:
        mesh = _of_gradient(path, base, columns, rows, colours)
    made = to_paint(mesh)
    return update_nodes(document, [node_id], lambda n: with_paint(n, made) if isinstance(n, Shape) else n)


def _of_gradient(path: Path, paint: Paint, columns: int, rows: int, colours: Colours) -> Mesh:
    box = path.bounds()
    if isinstance(paint, Linear) and box is not None:
        return from_linear(paint, box, rows, colours)
    if isinstance(paint, Radial):
        return from_radial(paint, max(columns, 6), colours)
    raise MeshError("give the shape a linear or radial gradient first")


def with_mesh_colour(paint: MeshPaint, points: tuple[tuple[int, int], ...], colour: Colour) -> MeshPaint:
    """Some of a mesh's points, by row and column, in another colour; points that it has not are left out."""
    mesh = from_paint(paint)
    inside = [p for p in points if p[0] < mesh.at.shape[0] and p[1] < mesh.at.shape[1]]
    return to_paint(with_colour(mesh, inside, mixing_of(np.array([*colour.rgb, colour.a]))), paint)


def all_mesh_points(paint: MeshPaint) -> tuple[tuple[int, int], ...]:
    """Every point of a mesh, by row and column."""
    wide = paint.columns + (0 if paint.ring else 1)
    return tuple((k // wide, k % wide) for k in range(len(paint.points)))


def reference_for(document: Document, chosen: tuple[int, ...] = ()) -> tuple[Image, Asset] | None:
    """The reference picture to fit to: a selected one, else the front-most that is visible."""
    assets = {a.key: a for a in document.assets}
    found = [n for n in walk(document.root) if isinstance(n, Image) and n.asset in assets]
    picked = [n for n in found if n.id in chosen] or [n for n in found if n.visible] or found
    return (picked[-1], assets[picked[-1].asset]) if picked else None


def to_picture(document: Document, shape: Shape, image: Image, size: tuple[int, int]) -> Affine | None:
    """The map from a shape's own coordinates to the pixels (width, height) of a placed picture."""
    back = invert(world_of(document, image.id))
    if back is None or image.width <= 0 or image.height <= 0:
        return None
    fit = scaling(size[0] / image.width, size[1] / image.height)
    return multiply(fit, multiply(back, world_of(document, shape.id)))


def picked_colours(mesh: Mesh, place: Affine, pixels: Floats) -> Mesh:
    """Every point in the picture's colour right under it; points beside the picture stay as they are."""
    out = mesh.copy()
    rgba, inside = read(pixels, mesh.transformed(place).at.reshape(-1, 2))
    flat = out.mixing.reshape(-1, 4)
    flat[inside] = mixing_of(rgba[inside])
    out.slopes[:] = np.nan
    return out
