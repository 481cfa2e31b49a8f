"""What colour a thing's shadow has on what it falls on."""

from __future__ import annotations

from volumen.compose.face import base_colour
from volumen.model.ingredients import Body
from volumen.model.nodes import Group, Node
from volumen.shading.lamp import shadow_factor
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour


def shadow_tint(node: Node, beneath: Colour, own: tuple[Material, ...]) -> Colour:
    """The multiply colour of the full shadow of a node on a surface; ``own`` are the document's materials.

    What is made of something clear lets light through in its colour: a share t of light of the colour c in the place of
    darkness d leaves d + (1 - d) t c.
    """
    dark = shadow_factor(beneath, 1.0)
    body = _body(node)
    through = min(max(material(body.material, own).clear, 0.0), 1.0) if body is not None else 0.0
    if body is None or through <= 0:
        return dark
    of = body.colour or base_colour(node)
    r, g, b = (d + (1 - d) * through * c for d, c in zip(dark.rgb, of.rgb, strict=True))
    return Colour(r, g, b)


def lets_through(node: Node, own: tuple[Material, ...]) -> bool:
    """Whether light goes through what a node is made of."""
    body = _body(node)
    return body is not None and material(body.material, own).clear > 0


def _body(node: Node) -> Body | None:
    """The body that a thing is made of; of a group that of what shows at its back, if it has none of its own."""
    own = next((i for i in reversed(node.recipe) if isinstance(i, Body) and i.on), None)
    if own is not None or not isinstance(node, Group):
        return own
    first = next((c for c in node.children if c.visible), None)
    return _body(first) if first is not None else None
