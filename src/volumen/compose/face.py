"""The colour that a node shows on the whole."""

from __future__ import annotations

from volumen.model.ingredients import Body, Fill, Line
from volumen.model.nodes import Group, Node, Shape
from volumen.shading.paint import Colour, face_colour

_SEEN = 0.1  # less hardly colours what it lies on


def base_colour(node: Node) -> Colour:
    """The colour a node shows on the whole: its body's, else that of its topmost fill that is seen."""
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Body) and ingredient.on and ingredient.colour and not ingredient.along:
            return ingredient.colour
    unseen = None
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Fill) and (ingredient.blend == "normal" or isinstance(node, Shape)):
            face = ingredient.face or face_colour(ingredient.paint)
            if face is not None and ingredient.on and ingredient.opacity * face.a >= _SEEN:
                return face
            unseen = unseen or face
    if isinstance(node, Group) and node.children:
        return base_colour(next((c for c in node.children if c.visible), node.children[0]))
    if unseen is None:  # lines alone
        lines = (face_colour(i.paint) for i in reversed(node.recipe) if isinstance(i, Line) and i.on)
        unseen = next((f for f in lines if f is not None), None)
    return unseen or Colour(0.6, 0.6, 0.6)
