"""Stepped blends: made of a selection, along a spine, as hatching or shading of one shape."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from volumen.compose.face import base_colour
from volumen.edit.objects import delete, group, insert
from volumen.geometry.affine import IDENTITY, invert, multiply
from volumen.geometry.correspondence import best_shift
from volumen.geometry.curve import nearest, ruler
from volumen.geometry.path import Path, clockwise
from volumen.model.ingredients import Fill, Line, Recipe, Steps, only_form_changes
from volumen.model.nodes import Document, Group, Node, SegmentForm, Shape
from volumen.model.recolour import shifted
from volumen.model.tree import find, replace_nodes, update_nodes, world_of
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline
from volumen.outline.steps import steps_of
from volumen.shading.paint import Colour, Solid

replace = msgspec.structs.replace


def blend(document: Document, ids: Iterable[int], steps: Steps | None = None) -> tuple[Document, int | None]:
    """Group objects and put steps between them; the group's id, None for fewer than two."""
    document, made = group(document, ids)
    found = find(document, made) if made is not None else None
    if made is None or not isinstance(found, Group) or len(found.children) < 2:
        return document, None
    document = update_nodes(
        document, [made], lambda n: replace(n, name="stepped blend", recipe=(steps or Steps(), *n.recipe))
    )
    return document, made


def blend_and_path(nodes: Sequence[Node]) -> tuple[int, int] | None:
    """Of two nodes the one with steps and the open path beside it."""
    if len(nodes) != 2:
        return None
    with_steps = [n for n in nodes if steps_of(n) is not None]
    paths = [n for n in nodes if isinstance(n, Shape)]
    return (with_steps[0].id, paths[0].id) if len(with_steps) == 1 and len(paths) == 1 else None


def with_spine(document: Document, group_id: int, path_id: int) -> Document:
    """The steps of a group laid along a path, which is used up by it."""
    node, path = find(document, group_id), find(document, path_id)
    back = invert(world_of(document, group_id))
    if not isinstance(node, Group) or not isinstance(path, Shape) or back is None:
        return document
    place = multiply(back, world_of(document, path_id))
    form = path_form(outline(path).transformed(place))
    if not form.runs:
        return document

    def change(n: Node) -> Node:
        return replace(n, recipe=tuple(replace(i, spine=form.runs[0]) if isinstance(i, Steps) else i for i in n.recipe))

    return delete(update_nodes(document, [group_id], change), [path_id])


def with_matching_points(
    document: Document, group_id: int, first: tuple[float, float], second: tuple[float, float]
) -> Document:
    """Let a point on the first member become a point on the second; both in sheet coordinates."""
    node = find(document, group_id)
    if not isinstance(node, Group) or len(node.children) < 2:
        return document
    shares = []
    rulers = []
    for member, at in zip(node.children, (first, second), strict=False):
        if not isinstance(member, Shape):
            return document
        path = outline(member, world_of(document, member.id)).transformed(world_of(document, member.id))
        path = Path(tuple(clockwise(c) for c in path.contours))
        near = nearest(path, at)
        if near is None or not path.contours[0].closed:
            return document
        measured = ruler(path.contours[near.contour])
        distance = float(np.interp(near.place, measured.places, measured.distances))
        shares.append(distance / max(measured.total, 1e-9))
        rulers.append(measured)
    shift = (shares[1] - shares[0] - best_shift(rulers[0], rulers[1]) + 0.5) % 1.0 - 0.5

    def change(n: Node) -> Node:
        return replace(n, recipe=tuple(replace(i, shift=shift) if isinstance(i, Steps) else i for i in n.recipe))

    return update_nodes(document, [group_id], change)


def hatch(document: Document, node_id: int, count: int = 15) -> tuple[Document, int | None]:
    """Even slanted lines held inside a shape, as a stepped blend; the blend's id."""
    shape = find(document, node_id)
    box = outline(shape).bounds() if isinstance(shape, Shape) else None
    if box is None or not isinstance(shape, Shape):
        return document, None
    l, t, r, b = box
    high = b - t
    tone = Solid(shifted(base_colour(shape), 0, -0.45, 0.1))
    width = max(min(r - l, high) / 40, 0.5)
    lines = [
        Shape(document.next_id + 1 + k, name, SegmentForm((x, b + 1), (x + high * 0.5, t - 1)), (Line(tone, width),))
        for k, (name, x) in enumerate((("first line", l - high * 0.5), ("last line", r)))
    ]
    held = Group(document.next_id, "hatching", tuple(lines), (Steps(count=count),))
    document = replace(document, next_id=document.next_id + 3)
    document = insert(document, node_id, (held,))
    return document, held.id


def shaded_form(document: Document, node_id: int) -> tuple[Document, int | None]:
    """A small light shape blended into a large dark one: the shape itself and a copy on the lamp's side."""
    shape = find(document, node_id)
    box = outline(shape).bounds() if isinstance(shape, Shape) else None
    if box is None or not isinstance(shape, Shape):
        return document, None
    colour = base_colour(shape)
    dark, light = shifted(colour, 0, -0.35, 0.1), shifted(colour, 0, 0.55, -0.3)
    cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    x, y = document.lamp.toward
    reach = 0.2 * min(box[2] - box[0], box[3] - box[1])
    k = 0.22
    small = (k, 0.0, 0.0, k, cx * (1 - k) + x * reach, cy * (1 - k) + y * reach)
    large = replace(shape, id=document.next_id, recipe=_in_one_colour(shape, dark), transform=IDENTITY)
    bright = replace(
        shape, id=document.next_id + 1, name=f"{shape.name} light", recipe=_in_one_colour(shape, light), children=(),
        transform=small,
    )  # fmt: skip
    made = Group(
        node_id, shape.name, (large, bright), (Steps(mode="smooth"),), shape.transform,
        shape.visible, shape.locked, shape.lift,
    )  # fmt: skip
    document = replace(document, next_id=document.next_id + 2)
    return replace_nodes(document, {node_id: made}), node_id


def _in_one_colour(shape: Shape, colour: Colour) -> Recipe:
    return (*only_form_changes(shape.recipe), Fill(Solid(colour)))
