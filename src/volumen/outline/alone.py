"""Some branches of a document without the rest."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import translation
from volumen.geometry.path import Box, grow_box, union_box
from volumen.model.nodes import Document, Group, Node
from volumen.model.tree import chain_to, place_of
from volumen.outline.boxes import node_box


def branches_alone(document: Document, ids: tuple[int, ...]) -> tuple[Document, Box] | None:
    """A document that shows some branches only, under the lamps that shine on them where they are, and the box around
    them; None if they have no outline."""
    holders: list[Node] = []
    boxes: list[Box | None] = []
    for k, node_id in enumerate(ids):
        chain = chain_to(document, node_id)
        if len(chain) < 2:
            continue
        world = place_of(chain[:-1])
        boxes.append(node_box(chain[-1], world))
        lit = next((n for n in reversed(chain[:-1]) if n.unlit or n.own_lamp is not None), chain[0])
        holder = Group(-2 - k, "alone", (chain[-1],), transform=world, own_lamp=lit.own_lamp, unlit=lit.unlit)
        holders.append(holder)
    box = union_box(boxes)
    if box is None:
        return None
    box = grow_box(box, 1 + 0.04 * max(box[2] - box[0], box[3] - box[1]))
    return msgspec.structs.replace(document, root=Group(-1, "alone", tuple(holders))), box


def sheet_of_branches(document: Document, ids: tuple[int, ...]) -> Document | None:
    """Some branches on a clear sheet as large as they are; None if they have no outline."""
    found = branches_alone(document, ids)
    if found is None:
        return None
    alone, (left, top, right, bottom) = found
    sheet = msgspec.structs.replace(document.sheet, width=right - left, height=bottom - top, ground=None, bleed=0.0)
    root = msgspec.structs.replace(alone.root, transform=translation(-left, -top))
    return msgspec.structs.replace(alone, sheet=sheet, root=root)
