"""What a piece cut from a wall of a block looks like: flat, in the tone that the wall has under the lamps."""

from __future__ import annotations

from volumen.compose.blocks import block_faces
from volumen.compose.light import light_at
from volumen.geometry.affine import Point, apply, invert
from volumen.geometry.engine import contains
from volumen.geometry.path import Path
from volumen.geometry.polygons import polygons_of
from volumen.model.ingredients import Fill, Recipe
from volumen.model.lengths import carried_recipe
from volumen.model.nodes import Document, Image
from volumen.model.tree import find, world_of
from volumen.outline.silhouettes import whole_outline
from volumen.shading.mesh_paints import stored
from volumen.shading.paint import ReliefPaint


def wall_look(document: Document, node_id: int, piece: Path) -> Recipe | None:
    """The paint of the wall that a piece (on the sheet) of an object lies in, in the coordinates of the object's
    parent; None where it lies in the front, or there is no block."""
    node, world = find(document, node_id), world_of(document, node_id)
    inverse, at = invert(world), _inside(piece)
    if node is None or isinstance(node, Image) or inverse is None or at is None:
        return None
    path, local = whole_outline(node, world), apply(inverse, at)
    if contains(path, *local):
        return None
    for face in reversed(block_faces(node, world, light_at(document, node_id), path)):
        paint = face.item.paint
        if contains(face.item.path, *local) and not isinstance(paint, ReliefPaint):  # no wall has one
            return carried_recipe((Fill(stored(paint)),), node.transform)
    return None


def _inside(piece: Path) -> Point | None:
    """A place within an area."""
    whole = polygons_of(piece)
    point = whole.representative_point()
    return (float(point.x), float(point.y)) if not point.is_empty else None
