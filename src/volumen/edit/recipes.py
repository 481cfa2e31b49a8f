"""Editing recipes: pure functions on the ordered tuple of ingredients, for one node or several."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from volumen.model.ingredients import FORM, Adjust, CastShadow, Fill, Ingredient, Line, Recipe, Seams, Steps
from volumen.model.nodes import Document, Group, Image, Node
from volumen.model.tree import update_nodes

replace = msgspec.structs.replace


def set_recipe(document: Document, ids: Iterable[int], change: Callable[[Recipe], Recipe]) -> Document:
    return update_nodes(document, ids, lambda n: replace(n, recipe=change(n.recipe)))


def fits(node: Node, ingredient: Ingredient) -> bool:
    """Form changes need a form, and seams a group to close them in; the colours of a picture are its own."""
    if isinstance(node, Image):
        return not isinstance(ingredient, (*FORM, Seams, Steps, Adjust))
    if isinstance(node, Group):
        return not isinstance(ingredient, FORM)
    return not isinstance(ingredient, Seams | Steps)


def add(document: Document, ids: Iterable[int], *ingredients: Ingredient) -> Document:
    """Add ingredients at the end of each recipe that can hold them. A shadow needs lift: it gets some."""

    def change(node: Node) -> Node:
        fitting = tuple(i for i in ingredients if fits(node, i))
        lift = node.lift or 12.0 if any(isinstance(i, CastShadow) for i in fitting) else node.lift
        return replace(node, recipe=(*node.recipe, *fitting), lift=lift) if fitting else node

    return update_nodes(document, ids, change)


def without_light(document: Document, ids: Iterable[int]) -> Document:
    """All that is not form, fill or line switched off."""

    def change(recipe: Recipe) -> Recipe:
        return tuple(i if isinstance(i, (*FORM, Fill, Line, Steps)) else replace(i, on=False) for i in recipe)

    return set_recipe(document, ids, change)


def edit_alike(document: Document, ids: Iterable[int], index: int, pattern: Ingredient, **fields: object) -> Document:
    """Set fields of the ingredient number ``index``, and of its counterpart in the other recipes.

    The counterpart is the ingredient of the same kind with the same rank among its kind.
    """
    order = list(ids)
    rank: int | None = None

    def change(node: Node) -> Node:
        at = counterpart(node.recipe, type(pattern), rank or 0)
        if at is None:
            return node
        recipe = list(node.recipe)
        recipe[at] = replace(recipe[at], **fields)
        return replace(node, recipe=tuple(recipe))

    def find_rank(node: Node) -> Node:
        nonlocal rank
        if rank is None and index < len(node.recipe):
            rank = sum(type(i) is type(pattern) for i in node.recipe[:index])
        return node

    update_nodes(document, order[:1], find_rank)
    return update_nodes(document, order, change)


def counterpart(recipe: Recipe, kind: type, rank: int) -> int | None:
    """Position of the ingredient of ``kind`` that has ``rank`` others of it before itself."""
    places = [i for i, ingredient in enumerate(recipe) if type(ingredient) is kind]
    return places[rank] if rank < len(places) else None


def remove(recipe: Recipe, index: int) -> Recipe:
    return recipe[:index] + recipe[index + 1 :]


def duplicate(recipe: Recipe, index: int) -> Recipe:
    return (*recipe[: index + 1], recipe[index], *recipe[index + 1 :])


def move(recipe: Recipe, index: int, to: int) -> Recipe:
    """Take the ingredient at ``index`` out and put it back at ``to``."""
    rest = list(remove(recipe, index))
    rest.insert(max(0, min(to, len(rest))), recipe[index])
    return tuple(rest)
