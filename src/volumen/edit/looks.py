"""Looks: recipes to give to any object, their lengths scaled to its size; a set to start with."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import msgspec

from volumen.edit.placing import SIZE, fitting_lift, laid_recipe, own_box, sheet_recipe, size_of
from volumen.edit.recipes import add, fits
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box
from volumen.model.catalogue.ingredients import row_of
from volumen.model.ingredients import (
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    Ingredient,
    InnerGlow,
    InnerShadow,
    Line,
    OuterGlow,
    Recipe,
    Relief,
    Sliver,
    Speckle,
    only_form_changes,
)
from volumen.model.lengths import scaled_recipe
from volumen.model.nodes import Document, Group, Look, Node
from volumen.model.tree import find, update_nodes, world_of
from volumen.shading.paint import colour

replace = msgspec.structs.replace
LookPart = Literal["paint", "line", "light", "finish"]


LOOK_PARTS: tuple[LookPart, ...] = ("paint", "line", "light", "finish")


def _light(depth: float, opacity: float, feather: float = 0.0, sunk: bool = False) -> Sliver:
    return Sliver("light", depth=depth, opacity=opacity, blend="screen", feather=feather, sunk=sunk)


_EDGE = _light(1.2, 0.7)
_PALE, _CREAM, _AMBER = colour("#e8fff6"), colour("#fff3cf"), colour("#f0ae45")
# Each keeps the fill that the object has; a look with no paint of its own takes the object's colour.
READY: tuple[Look, ...] = (
    Look(-1, "enamel badge", (Body("cushion", "enamel"), _EDGE, ContactShadow(2.0), CastShadow(0.45))),
    Look(-2, "cut paper", (_light(1.0, 0.5), Speckle(0.05, 0.8), CastShadow(0.55))),
    Look(-3, "pressed in", (InnerShadow(5.0), _light(1.6, 0.5, sunk=True))),
    Look(-4, "engraved", (InnerShadow(2.4, opacity=0.7), _light(1.0, 0.6, sunk=True))),
    Look(-5, "embossed", (Relief("inside", "round", width=5.0, height=0.7), CastShadow(0.3, softness=2.0))),
    Look(-6, "brass plate", (Body("slab", "brass", roundness=0.3), Relief(width=3.0, height=0.5), CastShadow(0.5))),
    Look(-7, "sea glass", (Body("cushion", "sea glass"), InnerGlow(_PALE, 8.0), CastShadow(0.35, softness=5.0))),
    Look(-8, "glowing", (InnerGlow(_CREAM, 12.0, "middle"), OuterGlow(_AMBER, 12.0, opacity=0.9))),
    Look(-9, "water drop", (Body("drop", "glass", opacity=0.85), _light(4.0, 0.8, feather=1.2), CastShadow(0.4))),
    Look(-10, "carved stone", (Body("slab", "stone", roundness=0.5), Relief(profile="flat", width=6.0, height=0.6))),
    Look(-11, "soft toy", (Body("cushion", "cloth"), Sliver(depth=6.0, feather=4.0, opacity=0.3), ContactShadow(3.0))),
    Look(-12, "sliver shading", (Sliver(depth=9.0, opacity=0.32), _light(5.0, 0.32), _EDGE)),
)

# Both sides of an edge at once, above all for lettering.
PAIRS: dict[str, Recipe] = {
    "Engraved: a pair of slivers": (
        Sliver(depth=2.2, opacity=0.55, feather=0.3, sunk=True),
        _light(1.3, 0.6, sunk=True),
    ),
    "Embossed: a pair of slivers": (_light(1.6, 0.65, feather=0.2), Sliver(depth=2.4, opacity=0.45, feather=0.4)),
}


def add_pair(document: Document, ids: Iterable[int], pair: Recipe) -> Document:
    """Add ingredients that go together to objects, their lengths by the size of each."""
    for node_id in ids:
        node = find(document, node_id)
        if node is not None:
            document = add(document, [node_id], *scaled_recipe(pair, size_of(document, node) / SIZE))
    return document


def give_look(document: Document, ids: Iterable[int], look: Look) -> Document:
    """Give a look to objects: form stays, and where the look has no paint of its own the object's stays as well.

    Lengths follow the size of each object.
    """
    own_paint = any(isinstance(i, Fill | Line) for i in look.recipe)
    for node_id in list(ids):
        node = find(document, node_id)
        if node is None:
            continue
        k = 1.0 if look.id > 0 else size_of(document, node) / SIZE  # one that was kept has its lengths as they were
        made = laid_recipe(document, scaled_recipe(look.recipe, k), look.box, node)
        made = tuple(i for i in made if fits(node, i))
        paints = () if own_paint else tuple(i for i in node.recipe if isinstance(i, Fill | Line))
        if isinstance(node, Group):  # as one it would hide what the group shows
            made = tuple(replace(i, each=True) if isinstance(i, Body) else i for i in made)
        recipe = (*only_form_changes(node.recipe), *paints, *made)
        shadow = any(isinstance(i, CastShadow) for i in made)
        lift = node.lift or (fitting_lift(document, node, 6.0) if shadow else 0.0)
        document = update_nodes(document, [node_id], lambda n, r=recipe, z=lift: replace(n, recipe=r, lift=z))  # type: ignore[misc]
    return document


def transfer_look(
    document: Document, source: Node, ids: Iterable[int], parts: Iterable[LookPart] = LOOK_PARTS,
    place: Affine | None = None,
) -> Document:  # fmt: skip
    """Give objects the chosen parts of another's look; their own form, and the parts not chosen, stay. ``place`` is
    that of a copy, which is no object of the document."""
    wanted = set(parts)
    taken = tuple(i for i in source.recipe if row_of(i).part in wanted)
    taken, box = sheet_recipe(taken, place or world_of(document, source.id)), own_box(source)

    def change(node: Node) -> Node:
        if node.id == source.id:
            return node
        kept = [i for i in node.recipe if row_of(i).part not in wanted]
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
    rank = {"form": 0, "paint": 1, "line": 2, "light": 3, "finish": 4}
    return tuple(sorted(recipe, key=lambda i: rank[row_of(i).part]))
