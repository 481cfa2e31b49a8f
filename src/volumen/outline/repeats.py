"""Rings, grids, mirrors and scattered copies: the nodes that a group shows, each made of what it holds.

A copy is the same node at another place, so it shares form, outline and recipe with what it is a copy of, and is kept
while that stays the same object. What in it refers to another node of the group refers to the copy of that one.
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import NamedTuple

import msgspec

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, multiply
from volumen.geometry.path import Box, Path, union_box
from volumen.model.catalogue.ingredients import references_of, with_references
from volumen.model.ingredients import Adjust, Recipe
from volumen.model.nodes import Group, Node, Shape
from volumen.model.repeats import REPEATS, Course, Repeat
from volumen.model.tree import guides, walk
from volumen.outline.bent import bent
from volumen.outline.boxes import node_box
from volumen.outline.copies import Copy, copies_of
from volumen.outline.courses import FIRST_CAP, LAST_CAP, laid, spine_of
from volumen.outline.making import made_id, makes, repeats_of, shown_before
from volumen.outline.mitres import mitred
from volumen.outline.outlines import outline

replace = msgspec.structs.replace
_copies: Cache[Node] = Cache("copies", 200_000)


class Standing(NamedTuple):
    """A copy of a repeat, and the nodes that stand there."""

    copy: Copy
    nodes: tuple[Node, ...]


def repeated(nodes: tuple[Node, ...], i: Repeat, group: Group, rank: int) -> tuple[Node, ...]:
    """Some nodes of a group, as often as a repeat with the number ``rank`` in its recipe shows them."""
    out: list[Node] = []
    for found in _standing(nodes, i, group, rank):
        out += found.nodes
    return tuple(out)


for _kind in REPEATS:
    makes(_kind)(repeated)


def standing(group: Group) -> list[Standing]:
    """The copies that the last repeat of a group shows, back to front; none without a repeat."""
    found = [(rank, i) for rank, i in repeats_of(group) if isinstance(i, REPEATS)]
    if not found:
        return []
    rank, i = found[-1]
    assert isinstance(i, REPEATS)
    return _standing(shown_before(group, rank), i, group, rank)


def _standing(nodes: tuple[Node, ...], i: Repeat, group: Group, rank: int) -> list[Standing]:
    if isinstance(i, Course):
        return _along(nodes, i, group, rank)
    return [Standing(c, nodes_of(c, nodes, group, rank)) for c in copies_of(i, box_of(nodes), guide_of(group))]


def _along(nodes: tuple[Node, ...], i: Course, group: Group, rank: int) -> list[Standing]:
    """What stands along a path; what was drawn, as it was drawn, where there is no path."""
    motif = tuple([n for n in nodes if n.id not in i.caps])
    caps = [tuple([n for n in nodes if n.id == k]) for k in i.caps]
    first, last = (caps[0], caps[-1]) if caps else ((), ())
    box = box_of(motif)
    spine = spine_of(guide_of(group), i, box) if box is not None else None
    if spine is None or box is None:
        return [Standing(Copy(0), nodes)]
    ends = box_of(first)
    lays = laid(i, spine, box, (ends, ends if last == first else box_of(last)))
    out: list[Standing] = []
    for held, here in (
        (first, [lay for lay in lays if lay.number == FIRST_CAP]),
        (motif, [lay for lay in lays if lay.number >= 0]),
        (last, [lay for lay in lays if lay.number == LAST_CAP]),
    ):
        copies = [Copy(lay.number, lay.turned) for lay in here]
        reach = box_of(held) if i.bends and i.corners == "mitre" else None
        if reach is not None:
            made = mitred(held, here, spine, reach, (group.id, rank))
        elif i.bends:
            made = bent(held, here, spine, (group.id, rank))
        else:
            made = (nodes_of(c, held, group, rank) for c in copies)
        out += [Standing(c, n) for c, n in zip(copies, made, strict=True)]
    return out


def box_of(nodes: tuple[Node, ...]) -> Box | None:
    """The box round what is repeated, in the group's coordinates; light and shade laid over things do not count."""
    things = [n for n in nodes if n.substance and n.visible]
    return union_box(node_box(n) for n in things or nodes)


def guide_of(group: Group) -> Path:
    """The outlines of a group's guides, in its own coordinates."""
    parts = [outline(g).transformed(g.transform) for g in guides(group) if isinstance(g, Shape)]
    if len(parts) == 1:
        return parts[0]
    return Path(tuple(c for p in parts for c in p.contours))


def nodes_of(copy: Copy, nodes: tuple[Node, ...], group: Group, rank: int) -> tuple[Node, ...]:
    """What stands at the place of one copy: the nodes themselves for the drawn one."""
    if copy.number == 0 and copy.place == IDENTITY and copy[2:] == (1.0, 0.0, 0.0):
        return nodes
    number = partial(made_id, group.id, rank, copy.number)
    ids = {m.id: number(m.id) for n in nodes for m in walk(n)} if _refer(nodes) else {}
    if copy.fade != 1 and len(nodes) > 1:  # faded as one: what lies over one another must not show through
        whole = tuple(_copy(n, copy._replace(fade=1.0), (group.id, rank), ids) for n in nodes)
        return (Group(number(), "copy", whole, opacity=copy.fade),)
    return tuple(_copy(n, copy, (group.id, rank), ids) for n in nodes)


def _refer(nodes: tuple[Node, ...]) -> bool:
    return any(references_of(i) for node in nodes for n in walk(node) for i in n.recipe)


def _copy(node: Node, copy: Copy, of: tuple[int, int], ids: Mapping[int, int]) -> Node:
    key = (id(node), copy, of, tuple(ids.items()))
    hit = _copies.get(key)
    if hit is not None:
        return hit
    made = _renumbered(node, (*of, copy.number), ids)
    recipe: Recipe = made.recipe
    if copy.hue or copy.light:
        recipe = (*recipe, Adjust(hue=copy.hue, lightness=copy.light))
    made = replace(
        made, transform=multiply(copy.place, node.transform), opacity=node.opacity * copy.fade, recipe=recipe, link=None
    )
    return _copies.put(key, node, made)


def _renumbered(node: Node, of: tuple[int, ...], ids: Mapping[int, int]) -> Node:
    children = tuple([_renumbered(c, of, ids) for c in node.children])
    recipe = tuple([with_references(i, ids) for i in node.recipe]) if ids else node.recipe
    return replace(node, id=made_id(*of, node.id), children=children, recipe=recipe)
