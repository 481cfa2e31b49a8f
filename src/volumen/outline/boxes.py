"""The boxes of nodes on the sheet."""

from __future__ import annotations

from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.geometry.path import Box, Path, transform_box, union_box
from volumen.model.nodes import Image, Node, Shape
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline

_MOST_TURNS = 2000  # that an outline's boxes are kept of: a ring or a scatter turns each of its copies otherwise


def placed_box(path: Path, world: Affine) -> Box | None:
    """The tight box of an outline in its place; the box of its turned form is kept with it."""
    if abs(world[1]) < 1e-12 and abs(world[2]) < 1e-12:
        box = path.bounds()
        return transform_box(box, world) if box is not None else None
    boxes = path.turned_boxes = path.turned_boxes or {}
    if world[:4] not in boxes:
        if len(boxes) > _MOST_TURNS:
            boxes.clear()
        boxes[world[:4]] = path.transformed((*world[:4], 0.0, 0.0)).bounds()
    l, t, r, b = boxes[world[:4]] or (0.0, 0.0, 0.0, 0.0)
    x, y = world[4:]
    return (l + x, t + y, r + x, b + y) if boxes[world[:4]] is not None else None


def node_box(node: Node, parent: Affine = IDENTITY) -> Box | None:
    """The box of a node's outlines (without effects) on the sheet; ``parent`` maps its parent to the sheet.

    Tight for shapes that are not turned, a little generous for others.
    """
    world = multiply(parent, node.transform)
    if isinstance(node, Image):
        return transform_box((0.0, 0.0, node.width, node.height), world)
    if isinstance(node, Shape):
        path = outline(node, world)
        return placed_box(path, world)
    children = shown_children(node)
    things = [
        c for c in children if c.substance
    ]  # light and shade laid over things do not count, but where all is such
    return union_box(node_box(c, world) for c in things or children)
