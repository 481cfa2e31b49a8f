"""Colours of a whole selection: shifted together, or a look carried from one object to others."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal, get_args

import msgspec

from volumen.edit.placing import laid_recipe, own_box, sheet_recipe
from volumen.edit.recipes import fits
from volumen.geometry.path import Box
from volumen.model.ingredients import (
    FORM,
    Fill,
    FinishIngredient,
    Ingredient,
    InnerGlow,
    LightIngredient,
    Line,
    OuterGlow,
    Recipe,
)
from volumen.model.nodes import Document, Node
from volumen.model.tree import find, update_nodes, walk, world_of
from volumen.shading.paint import Colour
from volumen.shading.shift import paint_with, shifted, stops_with

replace = msgspec.structs.replace
LookPart = Literal["paint", "line", "light", "finish"]
LOOK_PARTS: tuple[LookPart, ...] = ("paint", "line", "light", "finish")
_PART: dict[type, LookPart] = {
    Fill: "paint", Line: "line", **dict.fromkeys(get_args(LightIngredient), "light"),
    **dict.fromkeys(get_args(FinishIngredient), "finish"),
}  # fmt: skip
_COLOURS = ("colour", "light", "shade")  # the fields of ingredients that hold one


def map_colours(document: Document, ids: Iterable[int], change: Callable[[Colour], Colour]) -> Document:
    """Change every colour in some branches; what followed a swatch or a saved gradient no longer does."""
    wanted = {n.id for i in ids if (node := find(document, i)) is not None for n in walk(node)}
    return update_nodes(document, wanted, lambda n: replace(n, recipe=tuple(_ingredient(i, change) for i in n.recipe)))


def recolour(
    document: Document, ids: Iterable[int], hue: float = 0.0, lightness: float = 0.0, chroma: float = 0.0,
    contrast: float = 0.0,
) -> Document:  # fmt: skip
    """Shift every colour in some branches; see ``shifted``."""
    known: dict[Colour, Colour] = {}

    def change(c: Colour) -> Colour:
        if c not in known:
            known[c] = shifted(c, hue, lightness, chroma, contrast)
        return known[c]

    return map_colours(document, ids, change)


def _ingredient(i: Ingredient, change: Callable[[Colour], Colour]) -> Ingredient:
    if isinstance(i, Fill | Line):
        return replace(i, paint=paint_with(i.paint, change))
    tones: dict[str, object] = {f: change(v) for f in _COLOURS if isinstance(v := getattr(i, f, None), Colour)}
    if isinstance(i, OuterGlow | InnerGlow):
        tones["stops"] = stops_with(i.stops, change)
    return replace(i, **tones) if tones else i


def transfer_look(
    document: Document, source: Node, ids: Iterable[int], parts: Iterable[LookPart] = LOOK_PARTS
) -> Document:
    """Give objects the chosen parts of another's look; their own form, and the parts not chosen, stay."""
    wanted = set(parts)
    taken = tuple(i for i in source.recipe if _PART.get(type(i)) in wanted)
    taken, box = sheet_recipe(taken, world_of(document, source.id)), own_box(source)

    def change(node: Node) -> Node:
        if node.id == source.id:
            return node
        kept = [i for i in node.recipe if isinstance(i, FORM) or _PART.get(type(i)) not in wanted]
        given = [i for i in laid_recipe(document, taken, box, node) if fits(node, i)]
        out: Node = replace(node, recipe=ordered([*kept, *given]))
        if "finish" in wanted:
            out = replace(out, opacity=source.opacity, blend=source.blend)
        return out

    return update_nodes(document, ids, change)


def give_recipe(document: Document, ids: Iterable[int], recipe: Recipe, source: Box | None) -> Document:
    """Give objects a whole recipe, its lengths as on the sheet, that was taken from one with the box ``source``; what
    does not fit stays out."""

    def change(node: Node) -> Node:
        return replace(node, recipe=tuple(i for i in laid_recipe(document, recipe, source, node) if fits(node, i)))

    return update_nodes(document, ids, change)


def ordered(recipe: Iterable[Ingredient]) -> Recipe:
    """Ingredients in the order of a recipe's headings: form, paints, lines, light, finish."""
    rank = {"paint": 1, "line": 2, "light": 3, "finish": 4}
    return tuple(sorted(recipe, key=lambda i: rank.get(_PART.get(type(i), ""), 0)))
