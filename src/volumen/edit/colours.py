"""Colours of a whole selection: shifted together, or a look carried from one object to others."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

import msgspec
import numpy as np

from volumen.colour import oklab
from volumen.model.ingredients import (
    FORM,
    Blur,
    Body,
    CastShadow,
    Fill,
    Ingredient,
    Line,
    OuterGlow,
    Recipe,
    Rim,
    Sliver,
)
from volumen.model.nodes import Document, Node
from volumen.model.tree import find, update_nodes, walk
from volumen.shading.paint import GRADIENTS, Colour, MeshPaint, Paint, Solid

replace = msgspec.structs.replace
LookPart = Literal["paint", "line", "light", "finish"]
LOOK_PARTS: tuple[LookPart, ...] = ("paint", "line", "light", "finish")
_PART: dict[type, LookPart] = {
    Fill: "paint", Line: "line", Body: "light", Sliver: "light", CastShadow: "light", OuterGlow: "light",
    Blur: "finish", Rim: "finish",
}  # fmt: skip


def shifted(colour: Colour, hue: float, lightness: float, chroma: float, contrast: float = 0.0) -> Colour:
    """A colour turned by ``hue`` degrees, lighter by ``lightness`` (-1..1), its chroma times 1 + ``chroma``.

    ``contrast`` (-1 and up) draws lightness away from middle grey. Chroma gives way where the screen cannot show it.
    """
    l, c, h = (float(v) for v in oklab.to_lch(oklab.from_srgb(colour.rgb)))
    l = 0.6 + (l - 0.6) * (1 + contrast)
    l = l + (1 - l) * lightness if lightness > 0 else l * (1 + lightness)
    r, g, b = (float(v) for v in oklab.lch_to_srgb(np.array([l, max(c * (1 + chroma), 0.0), (h + hue) % 360])))
    return Colour(r, g, b, colour.a)


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
    if isinstance(i, Body | Sliver | CastShadow | OuterGlow | Rim) and i.colour is not None:
        return replace(i, colour=change(i.colour))
    return i


def paint_with(paint: Paint, change: Callable[[Colour], Colour]) -> Paint:
    """A paint with all its colours changed."""
    if isinstance(paint, Solid):
        return replace(paint, colour=change(paint.colour), swatch=None)
    if isinstance(paint, MeshPaint):
        return replace(paint, points=tuple(replace(p, colour=change(p.colour), slopes=None) for p in paint.points))
    assert isinstance(paint, GRADIENTS)
    return replace(paint, stops=tuple(replace(s, colour=change(s.colour), swatch=None) for s in paint.stops), link=None)


def transfer_look(
    document: Document, source: Node, ids: Iterable[int], parts: Iterable[LookPart] = LOOK_PARTS
) -> Document:
    """Give objects the chosen parts of another's look; their own form, and the parts not chosen, stay."""
    wanted = set(parts)
    taken = [i for i in source.recipe if _PART.get(type(i)) in wanted]

    def change(node: Node) -> Node:
        if node.id == source.id:
            return node
        kept = [i for i in node.recipe if isinstance(i, FORM) or _PART.get(type(i)) not in wanted]
        out: Node = replace(node, recipe=ordered([*kept, *taken]))
        if "finish" in wanted:
            out = replace(out, opacity=source.opacity, blend=source.blend)
        return out

    return update_nodes(document, ids, change)


def ordered(recipe: Iterable[Ingredient]) -> Recipe:
    """Ingredients in the order of a recipe's headings: form, paints, lines, light, finish."""
    rank = {"paint": 1, "line": 2, "light": 3, "finish": 4}
    return tuple(sorted(recipe, key=lambda i: rank.get(_PART.get(type(i), ""), 0)))
