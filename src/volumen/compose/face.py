"""The colour that a node shows on the whole."""

from __future__ import annotations

from volumen.model.ingredients import Body, Fill
from volumen.model.nodes import Group, Node, Shape
from volumen.shading.paint import Colour, face_colour


def base_colour(node: Node) -> Colour:
    """The colour a node shows on the whole: its body's, else its topmost fill's."""
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Body) and ingredient.on and ingredient.colour:
            return ingredient.colour
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Fill) and (ingredient.blend == "normal" or isinstance(node, Shape)):
            face = ingredient.face or face_colour(ingredient.paint)
            if face is not None:
                return face
    return base_colour(node.children[0]) if isinstance(node, Group) and node.children else Colour(0.6, 0.6, 0.6)
