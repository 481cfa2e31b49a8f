"""Combining shapes: live, with members that stay editable, or once and for all."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import msgspec

from volumen.compose.light import light_at
from volumen.edit.combined_looks import look_of, seen_through
from volumen.edit.objects import delete, free_name, insert, move_in_tree, set_fields, ungroup
from volumen.edit.plain_forms import to_path
from volumen.geometry.affine import IDENTITY, Affine, invert, multiply
from volumen.geometry.boolean import boolean
from volumen.geometry.engine import drop_specks
from volumen.geometry.path import Path
from volumen.model.ingredients import Recipe, without_form_changes
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import IN_PIECES, CombinedForm, Combining, Document, Group, Image, Node, Shape
from volumen.model.tree import (
    chain_to,
    find,
    handed_on,
    members,
    painted_children,
    parent_of,
    top_level,
    update_nodes,
    world_of,
)
from volumen.outline.blocks import block_of, block_walls
from volumen.outline.forms import path_form
from volumen.outline.making import shown_before
from volumen.outline.outlines import member_path, outline
from volumen.outline.silhouettes import whole_outline

replace = msgspec.structs.replace


class LeavesNothing(Exception):
    """A combination of which nothing would be left, with why in words."""


_NOTHING_LEFT: dict[Combining, str] = {
    "subtract": "what lies in front covers the back-most object whole: nothing would be left of it",
    "intersect": "the objects have no area in common: nothing would be left",
    "exclude": "the objects cover each other exactly: nothing would be left",
}


def to_combine(document: Document, ids: Iterable[int], operation: Combining) -> list[int]:
    """The objects that a combination is made of, back to front; empty where they are too few. Pictures have no outline.
    One group can be united: what it shows, its copies too, becomes one outline."""
    order = [i for i in top_level(document, ids) if not isinstance(find(document, i), Image)]
    enough = len(order) > 1 or (operation == "union" and order and isinstance(find(document, order[0]), Group))
    return order if enough else []


def combine(document: Document, ids: Iterable[int], operation: Combining) -> tuple[Document, int | None]:
    """Make objects the members of a new live combination; its id (None where they are too few).

    It looks like the back-most for ``subtract``, else like the front-most; where pieces keep their own looks it
    has none of its own. Raises LeavesNothing where nothing would be left.
    """
    order = to_combine(document, ids, operation)
    if not order:
        return document, None
    front = chain_to(document, order[-1])
    parent, made = front[-2], document.next_id
    look = find(document, order[0] if operation == "subtract" else order[-1])
    assert look is not None
    place = multiply(invert(world_of(document, parent.id)) or IDENTITY, world_of(document, look.id))
    index = next(i for i, c in enumerate(parent.children) if c.id == order[-1]) + 1
    shape = Shape(made, free_name(document, operation), CombinedForm(operation), lift=lift_on_sheet(look, place))
    if operation not in IN_PIECES:
        opacity, blend = seen_through(look)
        shape = replace(shape, recipe=look_of(look, place), opacity=opacity, blend=blend)
    document = insert(document, parent.id, (shape,), index)
    document = move_in_tree(document, order, made, 0)
    document = set_fields(document, order, member=True)
    whole = find(document, made)
    assert isinstance(whole, Shape)
    if not outline(whole, world_of(document, made)):
        raise LeavesNothing(_NOTHING_LEFT.get(operation, "nothing would be left"))
    if operation in IN_PIECES:  # what was held to one of them is held to its pieces
        return document, made
    if operation != "subtract":  # here to what they became
        return handed_on(document, dict.fromkeys(order, made)), made
    return handed_on(document, {order[0]: made}), made


def combine_once(document: Document, ids: Iterable[int], operation: Combining) -> tuple[Document, list[int]]:
    """The combination as plain shapes; the ids of what came out."""
    document, made = combine(document, ids, operation)
    if made is None:
        return document, []
    document = to_path(document, made)
    if isinstance(find(document, made), Group):
        return ungroup(document, [made])[:2]
    return document, [made]


def release(document: Document, ids: Iterable[int]) -> tuple[Document, list[int]]:
    """Take combinations apart: their members take their place; the members' ids."""
    free: list[int] = []
    for node_id in top_level(document, ids):
        node, parent = find(document, node_id), parent_of(document, node_id)
        if node is None or parent is None or not members(node):
            continue
        inside = [c.id for c in node.children]
        document = move_in_tree(document, inside, parent.id, parent.children.index(node) + 1)
        document = set_fields(document, inside, member=False)
        document = delete(document, [node_id])
        free += inside
    return document, free


# -- areas


def area_sources(document: Document, ids: Iterable[int]) -> list[tuple[int, Path]]:
    """The outlines that cut out areas, on the sheet, back to front: of the shapes in the given branches, or of all, of
    the copies that groups show, under the id of their group, and of the walls of blocks."""
    chosen = top_level(document, ids) or [c.id for c in document.root.children if c.visible and not c.locked]
    out: list[tuple[int, Path]] = []
    for node_id in chosen:
        node, parent = find(document, node_id), parent_of(document, node_id)
        outer = world_of(document, parent.id) if parent else IDENTITY
        stack = [(node, outer, node_id)] if node is not None else []
        while stack:
            current, world, owner = stack.pop()
            if not current.visible or isinstance(current, Image):
                continue
            place = multiply(world, current.transform)
            shown = (
                shown_before(current, len(current.recipe)) if isinstance(current, Group) else painted_children(current)
            )
            stack += [(c, place, c.id if c.id > 0 else owner) for c in reversed(shown)]
            out += [(owner, wall) for wall in walls_on_sheet(document, current, place)]
            if isinstance(current, Shape) and (path := outline(current, place).transformed(place)):
                out.append((owner, path))
    return out


def walls_on_sheet(document: Document, node: Node, world: Affine) -> list[Path]:
    """The outlines of the walls of a node's block, on the sheet."""
    block = block_of(node.recipe)
    if block is None:
        return []
    path = whole_outline(node, world)
    away = light_at(document, node.id).lamp.away
    return [w.path.transformed(world) for w in block_walls(node, path, block, world, away)]


def merge_areas(
    document: Document, path: Path, sources: Sequence[int], name: str, recipe: Recipe
) -> tuple[Document, int]:
    """A new shape in front of the shapes it was cut from; its id. ``path`` is on the sheet."""
    order = top_level(document, sources)
    parent = parent_of(document, order[-1]) if order else None
    parent = parent or document.root
    inverse = invert(world_of(document, parent.id)) or IDENTITY
    index = next((i + 1 for i, c in enumerate(parent.children) if order and c.id == order[-1]), None)
    shape = Shape(document.next_id, free_name(document, name), path_form(path.transformed(inverse)), recipe)
    return insert(document, parent.id, (shape,), index), shape.id


def cut_areas(document: Document, gone: Path, sources: Sequence[int]) -> Document:
    """Take areas away from all shapes that hold them; a shape with nothing left goes. ``gone`` is on the sheet."""
    for node_id in sources:
        node, parent = find(document, node_id), parent_of(document, node_id)
        if not isinstance(node, Shape) or parent is None:
            continue
        world = world_of(document, node_id)
        inverse = invert(world)
        if inverse is None:
            continue
        own = member_path(node, world_of(document, parent.id)).transformed(world_of(document, parent.id))
        rest = drop_specks(boolean(own, gone, "subtract"), 0.05)
        if abs(abs(rest.area()) - abs(own.area())) < 1e-4 * abs(own.area()):
            continue
        if not rest:
            document = delete(document, [node_id])
        else:
            recipe = without_form_changes(node.recipe)
            form = path_form(rest.transformed(inverse))
            kept = tuple(c for c in node.children if not c.member)
            changed = replace(node, form=form, recipe=recipe, children=kept)
            document = update_nodes(document, [node_id], lambda _, n=changed: n)  # type: ignore[misc]
    return document
