"""Bodies that are laid on letters or on a line, as shapes of their own."""

from __future__ import annotations

from volumen.compose.bodies_on import body_items, line_of
from volumen.compose.memo import Around
from volumen.edit.frozen_items import NodeMaker
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.ingredients import Body, Line
from volumen.model.nodes import Node


def frozen_bodies(maker: NodeMaker, node: Node, path: Path, around: Around, world: Affine) -> list[Node]:
    """The bodies of a node, outline by outline, in its coordinates."""
    bodies = [i for i in node.recipe if isinstance(i, Body) and i.on and not around.light.flat]
    items = [item for i in bodies for item in body_items(i, node, path, around.light, world)]
    return maker.nodes(items, world, f"{node.name}, body")


def line_under(node: Node, path: Path) -> Line | None:
    """The line that the bodies of a node are laid on, if it has any."""
    return line_of(node, path) if any(isinstance(i, Body) and i.on for i in node.recipe) else None
