"""Editing nodes: pure functions from a document to a document. Ids that do not exist are passed over."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterable
from typing import Any

import msgspec

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply
from volumen.geometry.path import Box, union_box
from volumen.model.ingredients import Recipe, without_form_changes
from volumen.model.nodes import Document, Form, FromMembers, Group, Node, Shape
from volumen.model.tree import (
    chain_to,
    find,
    ids_within,
    parent_of,
    place_of,
    renumbered_all,
    replace_nodes,
    top_level,
    update_nodes,
    walk,
    with_children,
    world_of,
)
from volumen.outline.boxes import node_box

replace = msgspec.structs.replace


def insert(document: Document, parent_id: int, nodes: tuple[Node, ...], index: int | None = None) -> Document:
    """Put nodes among a parent's children, at ``index`` from the back (None: in front of all)."""

    def change(parent: Node) -> Node:
        at = len(parent.children) if index is None else max(0, min(index, len(parent.children)))
        return with_children(parent, parent.children[:at] + nodes + parent.children[at:])

    highest = max((n.id for branch in nodes for n in walk(branch)), default=0)
    document = update_nodes(document, [parent_id], change)
    return replace(document, next_id=max(document.next_id, highest + 1))


def add_shape(
    document: Document, form: Form, recipe: Recipe, name: str, parent_id: int | None = None
) -> tuple[Document, int]:
    """A new shape in front of all (or of a parent's children); its id. The form is given in sheet coordinates."""
    parent = document.root.id if parent_id is None else parent_id
    inverse = invert(world_of(document, parent)) or IDENTITY
    shape = Shape(document.next_id, name, form, recipe, transform=inverse)
    return insert(document, parent, (shape,)), shape.id


def delete(document: Document, ids: Iterable[int]) -> Document:
    """A document without some branches."""
    return replace_nodes(document, dict.fromkeys(top_level(document, ids)))


def set_fields(document: Document, ids: Iterable[int], **fields: Any) -> Document:
    """Set fields that all nodes have: name, visible, locked, lift, opacity, blend, recipe, transform."""
    return update_nodes(document, ids, lambda n: replace(n, **fields))


def set_lift(document: Document, ids: Iterable[int], lift: float) -> Document:
    """Lift nodes by some sheet units, whatever their scale."""

    def change(node: Node) -> Node:
        return replace(node, lift=lift / (mean_scale(world_of(document, node.id)) or 1.0))

    return update_nodes(document, ids, change)


def without_changes(shape: Shape) -> Shape:
    """The shape as its form alone makes it, without rounding, offset, bend or thickness."""
    return replace(shape, recipe=without_form_changes(shape.recipe))


def set_form(document: Document, node_id: int, form: Form) -> Document:
    """Give a shape another form; other nodes stay."""
    return update_nodes(document, [node_id], lambda n: replace(n, form=form) if isinstance(n, Shape) else n)


def transform(document: Document, ids: Iterable[int], by: Affine) -> Document:
    """Map nodes by an affine given in sheet coordinates; a node inside another mapped one moves once."""
    maps: dict[int, Affine] = {}
    known: dict[int, Affine | None] = {}  # by parent: thousands of siblings have one
    for node_id in top_level(document, ids):
        chain = chain_to(document, node_id)[:-1]
        parent = chain[-1].id if chain else -1
        if parent not in known:
            outer = place_of(chain)
            inverse = invert(outer)
            known[parent] = multiply(inverse, multiply(by, outer)) if inverse is not None else None
        local = known[parent]
        if local is not None:
            maps[node_id] = local
    return update_nodes(document, maps, lambda n: replace(n, transform=multiply(maps[n.id], n.transform)))


def duplicate(document: Document, ids: Iterable[int], linked: bool = False) -> tuple[Document, list[int]]:
    """Copies in front of their originals; the new ids. References and links among what is copied lead to the copies;
    ``linked`` keeps all links, so that the copies follow the originals."""
    order = top_level(document, ids)
    nodes = tuple(n for i in order if (n := find(document, i)) is not None)
    inside = () if linked else inner_links(document, nodes)
    copies, following = renumbered_all(nodes, document.next_id, inside)
    made: list[int] = []
    for node, copy in zip(nodes, copies, strict=True):
        parent = parent_of(document, node.id)
        if parent is None:
            continue
        named = replace(copy, name=copy_name(document, node.name))
        at = next(k for k, c in enumerate(parent.children) if c.id == node.id) + 1
        document = insert(document, parent.id, (named,), at)
        made.append(copy.id)
    return replace(document, next_id=max(document.next_id, following)), made


def inner_links(document: Document, branches: Iterable[Node]) -> list[int]:
    """The links of which all objects lie in some branches, where there are several."""
    inside = Counter(n.link for b in branches for n in walk(b) if n.link is not None)
    if not inside:
        return []
    everywhere = Counter(n.link for n in walk(document.root) if n.link in inside)
    return [number for number, count in inside.items() if 1 < count >= everywhere[number]]


def free_name(document: Document, name: str) -> str:
    """``name``, or with a number after it if it is taken."""
    return copy_name(document, name) if any(n.name == name for n in walk(document.root)) else name


def copy_name(document: Document, name: str) -> str:
    """``name 2``, or the next number that is free."""
    return next_name(name, {n.name for n in walk(document.root)})


def next_name(name: str, taken: Container[str]) -> str:
    """A name with the next number after it that is not taken."""
    stem, _, tail = name.rpartition(" ")
    stem = stem if stem and tail.isdigit() else name
    number = 2
    while f"{stem} {number}" in taken:
        number += 1
    return f"{stem} {number}"


def move_in_tree(document: Document, ids: Iterable[int], parent_id: int, index: int) -> Document:
    """Put nodes into ``parent_id`` before its child number ``index`` (from the back), where they stay in place
    on the sheet. In a combination, or in rays, they become members. A node is not put into itself."""
    order = top_level(document, ids)
    inside = ids_within(document, order)
    parent = find(document, parent_id)
    if parent is None or parent_id in inside or not order:
        return document
    inverse = invert(world_of(document, parent_id))
    if inverse is None:
        return document
    moved: list[Node] = []
    joins = isinstance(parent, Shape) and isinstance(parent.form, FromMembers)
    for node_id in order:
        node = find(document, node_id)
        if node is not None:
            place = multiply(inverse, world_of(document, node_id))
            moved.append(replace(node, transform=place, member=joins))
    before = sum(1 for c in parent.children[:index] if c.id in set(order))
    document = replace_nodes(document, dict.fromkeys(order))
    return insert(document, parent_id, tuple(moved), index - before)


def restack(document: Document, ids: Iterable[int], steps: int) -> Document:
    """Move each node ``steps`` places to the front (negative: to the back) among its siblings. Those moved together
    keep their order, and none passes another."""
    order = top_level(document, ids)
    ends: dict[int, int] = {}  # by parent: where the next one can go at most
    for node_id in reversed(order) if steps > 0 else order:
        parent = parent_of(document, node_id)
        if parent is None:
            continue
        at = next(k for k, c in enumerate(parent.children) if c.id == node_id)
        end = ends.get(parent.id, len(parent.children) - 1 if steps > 0 else 0)
        to = min(at + steps, end) if steps > 0 else max(at + steps, end)
        ends[parent.id] = to - 1 if steps > 0 else to + 1
        rest = [c for c in parent.children if c.id != node_id]
        rest.insert(to, parent.children[at])
        document = _set_children(document, parent.id, tuple(rest))
    return document


def _set_children(document: Document, parent_id: int, children: tuple[Node, ...]) -> Document:
    return update_nodes(document, [parent_id], lambda n: with_children(n, children))


def group(document: Document, ids: Iterable[int]) -> tuple[Document, int | None]:
    """Gather nodes in a new group where the front-most of them lies; its id (None if there was nothing)."""
    order = top_level(document, ids)
    if not order:
        return document, None
    front = chain_to(document, order[-1])
    parent, made = front[-2], document.next_id
    index = next(i for i, c in enumerate(parent.children) if c.id == order[-1]) + 1
    document = insert(document, parent.id, (Group(made, free_name(document, "group")),), index)
    return move_in_tree(document, order, made, 0), made


def ungroup(document: Document, ids: Iterable[int]) -> tuple[Document, list[int], str]:
    """Dissolve groups, and release what shapes hold; the ids of what came free, and what could not stay, in words.

    The group's lamp, and what acts on each of its children, goes on to them.
    """
    free: list[int] = []
    lost: list[str] = []
    for node_id in top_level(document, ids):
        node, parent = find(document, node_id), parent_of(document, node_id)
        if node is None or parent is None or not node.children:
            continue
        children = [c.id for c in node.children]
        if isinstance(node, Group):
            document = _passed_on(document, node)
            lost += shown_as_one(node)
        document = move_in_tree(document, children, parent.id, parent.children.index(node) + 1)
        if isinstance(node, Group):
            document = delete(document, [node_id])
        free.extend(children)
    return document, free, ", ".join(dict.fromkeys(lost))


def _passed_on(document: Document, group: Group) -> Document:
    """A group's children with its lamp, and with what acts on each of them."""
    each = tuple(replace(i, each=False) for i in group.recipe if getattr(i, "each", False) and i.on)

    def change(child: Node) -> Node:
        child = with_light_of(child, (group,))
        return replace(
            child,
            recipe=(*child.recipe, *each),
            visible=child.visible and group.visible,
            lines_only=child.lines_only or group.lines_only,
        )

    return update_nodes(document, [c.id for c in group.children], change)


def shown_as_one(group: Group | Shape) -> list[str]:
    """What a group shows as one, in words: it goes when the group does."""
    lost = [type(i).__struct_config__.tag for i in group.recipe if i.on and not getattr(i, "each", False)]
    lost += ["composed on its own"] if group.isolated else []
    lost += ["opacity"] if group.opacity < 1 else []
    lost += ["blend mode"] if group.blend != "normal" else []
    return [str(word) for word in lost]


def hold_inside(document: Document, ids: Iterable[int]) -> tuple[Document, int | None]:
    """Hold nodes inside the back-most shape among them; the holder's id (None if there is no such shape)."""
    order = top_level(document, ids)
    holder = next((i for i in order if isinstance(find(document, i), Shape)), None)
    if holder is None or len(order) < 2:
        return document, None
    node = find(document, holder)
    assert node is not None
    inside = [i for i in order if i != holder]
    document = move_in_tree(document, inside, holder, len(node.children))
    return set_fields(document, inside, member=False), holder


_boxes: Cache[tuple[Box | None]] = Cache("boxes of selections", 8)  # panels and handles ask for the same one


def selection_box(document: Document, ids: Iterable[int]) -> Box | None:
    """The box around the outlines of nodes, on the sheet."""
    asked = tuple(ids)
    key = (id(document), asked)
    hit = _boxes.get(key)
    if hit is not None:
        return hit[0]
    wanted = set(asked)
    boxes = []
    for node_id in wanted:
        chain = chain_to(document, node_id)
        if chain and not any(n.id in wanted for n in chain[:-1]):
            boxes.append(node_box(chain[-1], place_of(chain[:-1])))
    return _boxes.put(key, document, (union_box(boxes),))[0]


def branches(document: Document, ids: Iterable[int]) -> tuple[Group, ...]:
    """Nodes as they stand on the sheet, for the clipboard: each in a group that carries its parents' map. The lamp of
    a group around them shines on them there, too."""
    out = []
    for k, node_id in enumerate(top_level(document, ids)):
        chain = chain_to(document, node_id)
        if len(chain) > 1:  # numbered apart: what is kept while they are drawn is kept by number
            out.append(Group(-1 - k, "clip", (with_light_of(chain[-1], chain[:-1]),), transform=place_of(chain[:-1])))
    return tuple(out)


def with_light_of(node: Node, around: Iterable[Node]) -> Node:
    """A node that keeps the light it has inside some others, outermost first, when it leaves them."""
    if node.unlit or node.own_lamp is not None:
        return node
    for outer in reversed(list(around)):
        if outer.unlit or outer.own_lamp is not None:
            return replace(node, unlit=outer.unlit, own_lamp=outer.own_lamp)
    return node


def paste(document: Document, clips: tuple[Group, ...], shift: float = 0.0) -> tuple[Document, list[int]]:
    """Put clipboard nodes in front of all, moved by ``shift`` each way; the new ids.

    What was cut out of this document comes back under its own ids, so that what referred to it does again.
    """
    inverse = invert(document.root.transform) or IDENTITY
    placed: list[Node] = []
    for clip in clips:
        for node in clip.children:
            place = multiply((1, 0, 0, 1, shift, shift), multiply(clip.transform, node.transform))
            placed.append(replace(node, transform=multiply(inverse, place)))
    copies, following = tuple(placed), document.next_id
    if not _are_free(document, [n.id for p in placed for n in walk(p)]):
        copies, following = renumbered_all(placed, document.next_id, inner_links(document, placed))
    document = insert(document, document.root.id, copies)
    return replace(document, next_id=max(document.next_id, following)), [c.id for c in copies]


def _are_free(document: Document, ids: list[int]) -> bool:
    """Whether a document has given out these ids and has none of them any more."""
    known = {n.id for n in walk(document.root)}
    return len(set(ids)) == len(ids) and all(0 < i < document.next_id and i not in known for i in ids)


def dimmed_around(document: Document, node_id: int, opacity: float = 0.15) -> Document:
    """A document with all but one branch dimmed; as it is if the branch is not there."""
    chain = chain_to(document, node_id)
    if len(chain) < 2:
        return document
    along = {n.id for n in chain}
    others: dict[int, Node | None] = {
        c.id: replace(c, opacity=c.opacity * opacity)
        for parent in chain[:-1] for c in parent.children if c.id not in along
    }  # fmt: skip
    return replace_nodes(document, others)
