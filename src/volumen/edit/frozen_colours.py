"""Colour shifts made final: every colour of a branch as it is seen."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace

from volumen.model.ingredients import Adjust, Fill, Ingredient, InnerGlow, Line, OuterGlow, Rim
from volumen.model.nodes import Node
from volumen.model.recolour import paint_with, shifted, stops_with


def adjusted(node: Node, a: Adjust) -> Node:
    """A branch with every colour shifted; grain and the light of reliefs stay."""
    change = partial(shifted, hue=a.hue, lightness=a.lightness, chroma=a.chroma, contrast=a.contrast)

    def tone(i: Ingredient) -> Ingredient:
        if isinstance(i, Fill | Line):
            return replace(i, paint=paint_with(i.paint, change))
        if isinstance(i, InnerGlow | OuterGlow):
            return replace(i, colour=change(i.colour), stops=stops_with(i.stops, change))
        return replace(i, colour=change(i.colour)) if isinstance(i, Rim) else i

    children = tuple(adjusted(c, a) for c in node.children)
    return replace(node, recipe=tuple(tone(i) for i in node.recipe), children=children)
