"""Bodies that are laid on letters or on a line, as shapes of their own."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.compose.bodies_on import as_relief, body_items, is_embossed, text_of
from volumen.compose.memo import Around
from volumen.edit.frozen_items import NodeMaker
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.ingredients import Body, Line
from volumen.model.nodes import Node, Shape
from volumen.outline.forms import path_form
from volumen.outline.lines import line_of


def frozen_bodies(maker: NodeMaker, node: Node, path: Path, around: Around, world: Affine) -> list[Node]:
    """The bodies of a node that lie on its letters or its line, outline by outline, in its coordinates."""
    out: list[Node] = []
    for i in node.recipe:
        if not isinstance(i, Body) or not i.on or around.light.flat:
            continue
        if text_of(node) is None and line_of(node, path, i) is None:
            continue
        items, name = body_items(i, node, path, around.light, world), f"{node.name}, body"
        embossed = is_embossed(i, node)
        out += maker.nodes(items[:1] if embossed else items, world, name)
        if embossed:  # no plain shape can be a relief
            recipe = (replace(as_relief(i, node, path, around.light), lights=around.light.lights),)
            out.append(Shape(maker.take(), name, path_form(path), recipe, substance=False))
    return out


def line_under(node: Node, path: Path) -> Line | None:
    """The line that bodies of a node are laid on, if any are."""
    lines = (line_of(node, path, i) for i in node.recipe if isinstance(i, Body) and i.on)
    return next((line for line in lines if line is not None), None)
