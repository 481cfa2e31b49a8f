"""Paints that come from elsewhere land in the outline that they are given to, each in its own box."""

from __future__ import annotations

import math

import msgspec

from volumen.geometry.affine import Affine, invert, mean_scale
from volumen.geometry.path import Box
from volumen.model.catalogue.ingredients import row_of
from volumen.model.ingredients import Fill, Ingredient, Line, Recipe
from volumen.model.lengths import LENGTHS, scaled_lengths, scaled_recipe
from volumen.model.nodes import Document, Node, Shape
from volumen.model.tree import chain_to, place_of, world_of
from volumen.outline.boxes import node_box
from volumen.outline.outlines import outline
from volumen.shading.carried import carried
from volumen.shading.paint import GRADIENTS, MeshPaint, Paint

replace = msgspec.structs.replace
_GEOMETRY = ("start", "end", "centre", "radius", "focus", "transform", "turn", "depth", "across", "points")

SIZE = 100.0  # the size of object that looks and fresh ingredients are written for, in units
USUAL_LIFT = 12.0  # of a fresh shadow on an object of that size
_NOT_BY_SIZE = ("Repeat", "Form", "Surface")


def own_box(node: Node) -> Box | None:
    """The box of a node's outline in its own coordinates, which its paints live in."""
    if isinstance(node, Shape):
        return outline(node).bounds()
    return node_box(replace(node, transform=(1.0, 0.0, 0.0, 1.0, 0.0, 0.0)))


def box_map(a: Box | None, b: Box | None) -> Affine | None:
    """The map from one box to another, with its sides kept where one has no width or height."""
    if a is None or b is None:
        return None
    w, h = a[2] - a[0], a[3] - a[1]
    sx, sy = ((b[2] - b[0]) / w if w > 1e-9 else 1.0), ((b[3] - b[1]) / h if h > 1e-9 else 1.0)
    made = (sx or 1.0, 0.0, 0.0, sy or 1.0, b[0] - a[0] * (sx or 1.0), b[1] - a[1] * (sy or 1.0))
    return made if invert(made) is not None else None


def laid(paint: Paint, source: Box | None, target: Box | None) -> Paint:
    """A paint laid out for one box as it lies in another."""
    m = box_map(source, target)
    if getattr(paint, "shared", None) is not None:
        paint = replace(paint, shared=None)
    return carried(paint, m) if m is not None and isinstance(paint, (*GRADIENTS, MeshPaint)) else paint


def laid_ingredient(i: Ingredient, source: Box | None, target: Box | None) -> Ingredient:
    """An ingredient whose paint, laid out for one box, is laid out for another."""
    return replace(i, paint=laid(i.paint, source, target)) if isinstance(i, Fill | Line) else i


def sheet_recipe(recipe: Recipe, world: Affine) -> Recipe:
    """A recipe with its lengths as they are on the sheet; ``world`` is the place of the object that has it."""
    k = mean_scale(world)
    return scaled_recipe(recipe, k) if k > 0 and k != 1 else recipe


def own_recipe(recipe: Recipe, world: Affine) -> Recipe:
    """A recipe whose lengths are given on the sheet, for an object at a place."""
    k = mean_scale(world)
    return scaled_recipe(recipe, 1 / k) if k > 0 and k != 1 else recipe


def laid_recipe(document: Document, recipe: Recipe, source: Box | None, node: Node) -> Recipe:
    """A recipe with its lengths on the sheet and its paints laid out for the box ``source``, for another object."""
    box = own_box(node)
    return tuple(laid_ingredient(i, source, box) for i in own_recipe(recipe, world_of(document, node.id)))


def edited_paint(own: Paint, before: Paint, after: Paint, source: Node, target: Node) -> Paint:
    """What becomes of one object's paint when another's was edited from ``before`` to ``after`` for both of them.

    Where only colours changed, its own place stays; a changed or new place is laid in its own box.
    """
    if getattr(own, "shared", None) is not None and getattr(own, "shared", None) == getattr(before, "shared", None):
        return own  # it follows by itself
    if type(own) is type(before) is type(after):
        changed = [f for f in after.__struct_fields__ if getattr(before, f) != getattr(after, f)]
        if not any(f in _GEOMETRY for f in changed):
            return replace(own, **{f: getattr(after, f) for f in changed})
    return laid(after, own_box(source), own_box(target))


def size_of(document: Document, node: Node) -> float:
    """How large a node is on the sheet: the root of its box's area, in units."""
    box = node_box(node, place_of(chain_to(document, node.id)[:-1]))
    return math.sqrt(max((box[2] - box[0]) * (box[3] - box[1]), 1e-6)) if box is not None else SIZE


def tidy_length(value: float) -> float:
    """A length that a hand might type: of two digits."""
    return float(f"{value:.2g}")


def fitting_lift(document: Document, node: Node, lift: float) -> float:
    """A lift, written for an object of ``SIZE``, that fits a node, in the node's own units."""
    own = mean_scale(world_of(document, node.id)) or 1.0
    return tidy_length(lift * size_of(document, node) / SIZE) / own


def by_size(document: Document, node: Node, i: Ingredient) -> Ingredient:
    """An ingredient of light, written for an object of ``SIZE``, with lengths that fit a node."""
    k = size_of(document, node) / SIZE
    if row_of(i).heading in _NOT_BY_SIZE:
        return i
    fitting = scaled_lengths(i, k)
    fields = {f: tidy_length(value) for f in LENGTHS.get(type(i), ()) if (value := getattr(fitting, f)) is not None}
    return replace(fitting, **fields)
