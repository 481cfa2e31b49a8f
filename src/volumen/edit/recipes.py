"""Editing recipes: pure functions on the ordered tuple of ingredients, for one node or several."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import cast

import msgspec

from volumen.edit.placing import USUAL_LIFT, edited_paint, fitting_lift, own_recipe
from volumen.geometry.affine import Affine, mean_scale, uneven
from volumen.model.catalogue.ingredients import row_of
from volumen.model.catalogue.rows import Holder
from volumen.model.ingredients import Body, CastShadow, Fill, Ingredient, Line, Offset, Recipe, Sliver
from volumen.model.lengths import is_length
from volumen.model.nodes import Document, Group, Image, Node, Shape
from volumen.model.tree import find, update_nodes, world_of
from volumen.outline.outlines import outline_before
from volumen.shading.paint import Paint

replace = msgspec.structs.replace


def set_recipe(document: Document, ids: Iterable[int], change: Callable[[Recipe], Recipe]) -> Document:
    """Change the recipes of some nodes."""
    return update_nodes(document, ids, lambda n: replace(n, recipe=change(n.recipe)))


def with_ingredient(document: Document, node_id: int, rank: int, i: Ingredient) -> Document:
    """A node with another ingredient at position ``rank`` of its recipe."""
    return update_nodes(document, [node_id], lambda n: replace(n, recipe=(*n.recipe[:rank], i, *n.recipe[rank + 1 :])))


def fits(node: Node, ingredient: Ingredient) -> bool:
    """Form changes need a form, and seams a group to close them in; the colours of a picture are its own."""
    holder: Holder = "image" if isinstance(node, Image) else "group" if isinstance(node, Group) else "shape"
    return holder in row_of(ingredient).holders


def add(document: Document, ids: Iterable[int], *ingredients: Ingredient) -> Document:
    """Add ingredients, their lengths as on the sheet, at the end of each recipe that can hold them.

    A shadow needs lift: it gets some. A body on a group goes to each of its children, in their own colours.
    """

    def change(node: Node) -> Node:
        world = world_of(document, node.id)
        fitting = own_recipe(tuple(i for i in ingredients if fits(node, i)), world)
        if isinstance(node, Group):
            fitting = tuple(replace(i, each=True) if isinstance(i, Body) else i for i in fitting)
        shadow = any(isinstance(i, CastShadow) for i in fitting)
        lift = node.lift or (fitting_lift(document, node, USUAL_LIFT) if shadow else 0.0)
        return replace(node, recipe=(*node.recipe, *fitting), lift=lift) if fitting else node

    return update_nodes(document, ids, change)


def without_light(document: Document, ids: Iterable[int]) -> Document:
    """All that is not form, fill or line switched off."""

    def change(recipe: Recipe) -> Recipe:
        return tuple(i if row_of(i).heading in ("Repeat", "Form", "Surface") else replace(i, on=False) for i in recipe)

    return set_recipe(document, ids, change)


def edit_alike(
    document: Document, ids: Iterable[int], index: int, pattern: Ingredient, *, on_sheet: bool = False, **fields: object
) -> Document:  # fmt: skip
    """Set fields of the ingredient number ``index`` of the first node, and of its counterpart in the other recipes.

    The counterpart is the ingredient of the same kind with the same rank among its kind. A paint lands in each one's
    own box; lengths that are given ``on_sheet`` become each one's own.
    """
    order = list(ids)
    first = next((n for i in order if (n := find(document, i)) is not None), None)
    if first is None:
        return document
    rank = sum(type(i) is type(pattern) for i in first.recipe[:index])

    def change(node: Node) -> Node:
        at = counterpart(node.recipe, type(pattern), rank)
        if at is None:
            return node
        recipe = list(node.recipe)
        world = world_of(document, node.id)
        scale = mean_scale(world) if on_sheet else 1.0
        recipe[at] = _edited(recipe[at], node, first, pattern, scale, fields)
        if set(fields) == {"percent"} and isinstance(node, Shape):
            recipe[at] = _measured_otherwise(node, at, world, recipe[at])
        return replace(node, recipe=tuple(recipe))

    return update_nodes(document, order, change)


def _measured_otherwise(node: Shape, at: int, world: Affine, changed: Ingredient) -> Ingredient:
    """An offset that is told in the other measure, units or percent of the shorter side, as far out as it was."""
    before = node.recipe[at]
    if not isinstance(changed, Offset) or not isinstance(before, Offset) or changed.percent == before.percent:
        return changed
    squeeze = uneven(world)
    path = outline_before(node, at, world)
    box = (path.transformed(squeeze) if squeeze is not None else path).bounds()
    side = min(box[2] - box[0], box[3] - box[1]) if box is not None else 0.0
    side /= mean_scale(squeeze) if squeeze is not None else 1.0
    if side <= 0:
        return changed
    share = 100 / side if changed.percent else side / 100
    return replace(changed, distance=before.distance * share)


def _edited(
    i: Ingredient, node: Node, first: Node, pattern: Ingredient, scale: float, fields: dict[str, object]
) -> Ingredient:  # fmt: skip
    own = dict(fields)
    if node.id != first.id and isinstance(i, Fill | Line) and isinstance(pattern, Fill | Line) and "paint" in own:
        own["paint"] = edited_paint(i.paint, pattern.paint, cast("Paint", own["paint"]), first, node)
    for name, value in fields.items():
        if isinstance(value, float | int) and is_length(replace(i, **fields), name):
            own[name] = value / (scale or 1.0)
    if isinstance(i, Sliver) and own.get("kind", i.kind) != i.kind and "blend" not in own and i.blend == _USUAL[i.kind]:
        own["blend"] = _USUAL["light" if i.kind == "shade" else "shade"]
    return replace(i, **own)


_USUAL = {"shade": "multiply", "light": "screen"}  # how a sliver of each tone is laid on


def counterpart(recipe: Recipe, kind: type, rank: int) -> int | None:
    """Position of the ingredient of ``kind`` that has ``rank`` others of it before itself."""
    places = [i for i, ingredient in enumerate(recipe) if type(ingredient) is kind]
    return places[rank] if rank < len(places) else None


def remove(recipe: Recipe, index: int) -> Recipe:
    """A recipe without the ingredient at a position."""
    return recipe[:index] + recipe[index + 1 :]


def duplicate(recipe: Recipe, index: int) -> Recipe:
    """A recipe with the ingredient at a position twice."""
    return (*recipe[: index + 1], recipe[index], *recipe[index + 1 :])


def move(recipe: Recipe, index: int, to: int) -> Recipe:
    """Take the ingredient at ``index`` out and put it back at ``to``."""
    rest = list(remove(recipe, index))
    rest.insert(max(0, min(to, len(rest))), recipe[index])
    return tuple(rest)
