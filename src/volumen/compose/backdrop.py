"""What lies behind an object: the colour that it has to stand out against."""

from __future__ import annotations

import msgspec

from volumen.compose.face import base_colour
from volumen.model.nodes import Document, Node
from volumen.model.tree import chain_to, find, place_of, replace_nodes
from volumen.outline.boxes import node_box
from volumen.outline.hit import hit
from volumen.shading.paint import Colour


def behind(document: Document, node: Node) -> Colour | None:
    """The colour of what lies under the middle of a node, or the sheet's; None on a clear sheet."""
    chain = chain_to(document, node.id)
    box = node_box(node, place_of(chain[:-1])) if chain else None
    if box is None:
        return document.sheet.ground
    without = replace_nodes(document, {node.id: msgspec.structs.replace(node, visible=False)})
    found = hit(without, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2), 0.0)
    beneath = find(document, found[-1]) if found else None
    return base_colour(beneath) if beneath is not None else document.sheet.ground
