"""Knockouts: the area that a node takes away from what lies beneath it, so that the stock shows through."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from msgspec.structs import replace

from volumen.compose.memo import Memo
from volumen.geometry.affine import Affine, multiply, translation
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Box, Path, grow_box, union_box
from volumen.geometry.primitives import rectangle
from volumen.geometry.winding import evenodd_simplified
from volumen.model.nodes import Node, Shape
from volumen.outline.silhouettes import silhouette_path
from volumen.picture.instructions import Chunk, Clip, Item, Layer


def knocked_out(
    memo: Memo, node: Node, parent: Affine, beneath: list[Chunk], spared: frozenset[int]
) -> list[Chunk]:  # fmt: skip
    """Chunks with the area of a knockout taken away; those of ``spared`` nodes, the stock, stay whole."""
    whole = union_box(c.box for c in beneath)
    world = multiply(parent, node.transform)
    if whole is None:
        return beneath
    key = (id(node), world, tuple((id(c), c.node in spared) for c in beneath))
    hit = memo.knockouts.get(node.id)
    if hit is not None and hit[0] == key:
        return hit[2]
    clip = without(memo, node, world, whole)
    if clip is None:
        return beneath
    cut = [c if c.node in spared else Chunk(c.node, (Layer(c.items, clip=clip),), c.box) for c in beneath]
    memo.knockouts[node.id] = (key, (node, tuple(beneath)), cut)
    return cut


def holes_of(node: Node) -> list[Node]:
    """The knockouts that a shape holds: they go through all that it shows, but for stock."""
    if not isinstance(node, Shape) or node.stock:
        return []
    return [c for c in node.children if c.knockout and c.visible and not c.member]


def cut_beneath(memo: Memo, nodes: Iterable[Node], parent: Affine, items: Sequence[Item], box: Box) -> list[Item]:
    """Instructions without the areas of the knockouts that a shape holds: through them its own paints are not seen."""
    out = list(items)
    for node in nodes:
        clip = without(memo, node, multiply(parent, node.transform), box)
        if clip is not None and out:
            out = [Layer(tuple(out), clip=clip)]
    return out


def without(memo: Memo, node: Node, world: Affine, whole: Box) -> Clip | None:
    """A clip to all of a box but the area of a knockout; None where it has none."""
    hole, (x, y) = _hole(memo, node, world), world[4:]
    if hole is None:
        return None
    whole = (whole[0] - x, whole[1] - y, whole[2] - x, whole[3] - y)
    box = grow_box(union_box([whole, hole.hull()]) or whole, 10.0)
    frame = rectangle(box[0], box[1], box[2] - box[0], box[3] - box[1])
    return Clip(Path((*frame.contours, *hole.contours), True), translation(x, y))


def _hole(memo: Memo, node: Node, world: Affine) -> Path | None:
    """The area of a knockout, turned and scaled but not moved to its place; kept while it only moves."""
    turn = (*world[:4], 0.0, 0.0)
    known = memo.holes.get(node.id)
    if known is None or known[0] is not node or known[1] != turn:
        try:
            hole = evenodd_simplified(silhouette_path(replace(node, knockout=False), turn))
        except PathOpError:
            hole = None
        known = memo.holes[node.id] = (node, turn, hole)
    return known[2]
