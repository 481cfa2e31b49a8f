"""Objects shown as a line drawing: their lines and edges alone. What they are made of stays, so they follow edits."""

from __future__ import annotations

import msgspec

from volumen.caching import Cache
from volumen.model.catalogue.ingredients import acts_at
from volumen.model.ingredients import Block, Body, Fill, Ingredient, Line
from volumen.model.nodes import Group, Image, Node
from volumen.shading.paint import Colour, Solid, face_colour

replace = msgspec.structs.replace
INK = Colour(0.05, 0.09, 0.12)
_EDGE = 1.5  # the width of the edges of a block that has none
_drawn: Cache[Node] = Cache("line drawings")


def as_lines(node: Node, edged: bool = False) -> Node:
    """A node as a line drawing. The same node gives the same one.

    Fills and bodies go, but the outline still counts as filled; a block shows its edges; what has no line gets one in
    its own colour, unless it is ``edged``: a block around it draws its outline.
    """
    key = (id(node), edged)
    hit = _drawn.get(key)
    return hit if hit is not None else _drawn.put(key, node, _made(node, edged))


def _made(node: Node, edged: bool) -> Node:
    kept = [made for i in node.recipe if i.on and (made := _kept(i)) is not None]
    edged = edged or any(isinstance(i, Block) for i in kept)
    faces = [i for i in node.recipe if i.on and isinstance(i, Fill | Body)]
    if faces and not edged and not isinstance(node, Group) and not any(isinstance(i, Line) for i in kept):
        kept.append(Line(Solid(_colour_of(faces[-1]).with_alpha(1.0)), 1.0))
    children = () if isinstance(node, Image) else tuple(as_lines(c, edged) for c in node.children)
    return replace(node, recipe=tuple(kept), children=children, lines_only=False)


def _kept(i: Ingredient) -> Ingredient | None:
    if isinstance(i, Block):
        return replace(i, faces=False, bevel=0.0, edge=i.edge or _EDGE)
    if isinstance(i, Fill | Body):
        return Fill(Solid(_colour_of(i)), 0.0)
    return i if isinstance(i, Line) or acts_at(i) in ("form", "repeat") else None


def _colour_of(i: Fill | Body) -> Colour:
    return (face_colour(i.paint) if isinstance(i, Fill) else i.colour) or INK
