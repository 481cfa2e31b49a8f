"""Arranging objects: aligning, distributing, mirroring, step copies, and lengths that keep their size."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Literal

import msgspec

from volumen.edit import objects
from volumen.edit.objects import duplicate, inner_links, insert, next_name, selection_box, transform
from volumen.geometry.affine import Affine, Point, mirroring, multiply, rotation, scaling, translation
from volumen.geometry.path import Box
from volumen.model.lengths import scaled_radii, scaled_recipe
from volumen.model.nodes import Document, Node, Shape
from volumen.model.tree import find, ids_within, parent_of, renumbered_all, top_level, update_nodes, walk

replace = msgspec.structs.replace
Edge = Literal["left", "centre", "right", "top", "middle", "bottom"]
Axis = Literal["across", "down"]
# Which coordinate an edge is about, and how far along the box it lies.
_EDGES: dict[Edge, tuple[int, float]] = {
    "left": (0, 0.0), "centre": (0, 0.5), "right": (0, 1.0), "top": (1, 0.0), "middle": (1, 0.5), "bottom": (1, 1.0),
}  # fmt: skip


def align(document: Document, ids: Iterable[int], edge: Edge, to: Box, keep: int | None = None) -> Document:
    """Move each object so that its edge lies on that of the box ``to``; the object ``keep`` stays."""
    axis, share = _EDGES[edge]
    target = to[axis] + share * (to[axis + 2] - to[axis])
    for node_id in top_level(document, ids):
        box = selection_box(document, [node_id])
        if box is not None and node_id != keep:
            by = target - (box[axis] + share * (box[axis + 2] - box[axis]))
            document = transform(document, [node_id], translation(by, 0) if axis == 0 else translation(0, by))
    return document


def distribute(
    document: Document, ids: Iterable[int], axis: Axis, by: Literal["centres", "gaps"], gap: float | None = None
) -> Document:
    """Even out centres or gaps between the outermost objects; a given ``gap`` is kept from the first one on."""
    k = 0 if axis == "across" else 1
    boxes = [(box, i) for i in top_level(document, ids) if (box := selection_box(document, [i])) is not None]
    boxes.sort(key=lambda b: b[0][k] + b[0][k + 2])
    if len(boxes) < 2 or (len(boxes) < 3 and gap is None):
        return document
    first, last = boxes[0][0], boxes[-1][0]
    if by == "centres" and gap is None:
        start, end = (first[k] + first[k + 2]) / 2, (last[k] + last[k + 2]) / 2
        places = [start + (end - start) * n / (len(boxes) - 1) for n in range(len(boxes))]
        shifts = [place - (b[k] + b[k + 2]) / 2 for place, (b, _) in zip(places, boxes, strict=True)]
    else:
        sizes = [b[k + 2] - b[k] for b, _ in boxes]
        space = (last[k + 2] - first[k] - sum(sizes)) / (len(boxes) - 1) if gap is None else gap
        shifts, at = [], first[k]
        for (b, _), size in zip(boxes, sizes, strict=True):
            shifts.append(at - b[k])
            at += size + space
    for shift, (_, node_id) in zip(shifts, boxes, strict=True):
        document = transform(document, [node_id], translation(shift, 0) if k == 0 else translation(0, shift))
    return document


def skewing(across: float, down: float, about: Point) -> Affine:
    """The map that slants by angles in degrees: uprights by ``across``, levels by ``down``."""
    x, y = about
    a, d = math.tan(math.radians(across)), math.tan(math.radians(down))
    return (1.0, d, a, 1.0, -a * y, -d * x)


def mirror_copy(document: Document, ids: Iterable[int], angle: float, about: Point) -> tuple[Document, list[int]]:
    """Mirrored copies in front of their originals; the new ids."""
    document, made = duplicate(document, ids)
    return transform(document, made, mirroring(angle, about)), made


def step_copies(
    document: Document, ids: Iterable[int], count: int, about: Point, angle: float | None, shift: Point = (0.0, 0.0),
    scale: float = 1.0, fade: float = 1.0, linked: bool = False,
) -> tuple[Document, list[int]]:  # fmt: skip
    """``count`` placements in all, each turned on about a centre, shifted, scaled and faded from the one before.

    Without an ``angle`` the steps close a full turn exactly; copy n is placed from the original, so errors do not add
    up. ``scale`` and ``fade`` (of opacity) multiply with each step. ``linked`` copies keep their links. The new ids.
    """
    count = max(min(count, 2000), 1)
    step = 360 / count if angle is None else angle
    made: list[int] = []
    for node_id in top_level(document, ids):
        node, parent = find(document, node_id), parent_of(document, node_id)
        if node is None or parent is None:
            continue
        copies: list[Node] = []
        following = document.next_id
        inside = [] if linked else inner_links(document, (node,))
        taken = {n.name for n in walk(document.root)}
        for n in range(1, count):
            (copy,), following = renumbered_all((node,), following, inside)
            name = next_name(node.name, taken)
            taken.add(name)
            copies.append(replace(copy, name=name, opacity=min(max(node.opacity * fade**n, 0.0), 1.0)))
        index = parent.children.index(node) + 1
        document = replace(insert(document, parent.id, tuple(copies), index), next_id=following)
        for n, copy in enumerate(copies, 1):
            k = scale**n
            turn = multiply(translation(shift[0] * n, shift[1] * n), rotation(step * n, about))
            document = transform(document, [copy.id], multiply(turn, scaling(k, k, about)))
        made += [c.id for c in copies]
    return document, made


def keep_lengths(document: Document, ids: Iterable[int], factor: float) -> Document:
    """Divide line widths, radii, light distances and lifts in whole branches by ``factor``.

    After scaling by the factor they then have the size they had before.
    """
    if factor <= 0 or not math.isfinite(factor) or abs(factor - 1) < 1e-12:
        return document
    inside = ids_within(document, top_level(document, ids))

    def change(node: Node) -> Node:
        recipe = scaled_recipe(node.recipe, 1 / factor)
        node = replace(node, recipe=recipe, lift=node.lift / factor)
        return replace(node, form=scaled_radii(node.form, 1 / factor)) if isinstance(node, Shape) else node

    return update_nodes(document, inside, change)


def beside(document: Document, ids: list[int], anchor: int, above: bool) -> Document:
    """Move nodes right above or below another one in the pile, where they stay in place."""
    parent = parent_of(document, anchor)
    if parent is None:
        return document
    index = next(i for i, c in enumerate(parent.children) if c.id == anchor)
    return objects.move_in_tree(document, ids, parent.id, index + (1 if above else 0))
