"""Linked copies: objects that share what they are made of, and differ in name, place, and whether they are seen.

Every edit is followed up once: what it changed in one of several linked objects is put into the others.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import msgspec

from volumen.edit.arrange import step_copies
from volumen.edit.objects import duplicate, selection_box, transform
from volumen.edit.palette import with_palette
from volumen.geometry.affine import Point, translation
from volumen.model.catalogue.ingredients import with_references
from volumen.model.nodes import Document, Group, Node, Shape
from volumen.model.tree import changed_nodes, find, renumbered, replace_nodes, update_nodes, walk, world_of
from volumen.outline.silhouettes import silhouette
from volumen.picture.bounds import items_box

replace = msgspec.structs.replace
_SHARED = (
    "recipe", "lift", "opacity", "blend", "own_lamp", "unlit", "keep_vector", "knockout", "isolated", "substance",
    "stock",
)  # fmt: skip


def linked_with(document: Document, node_id: int) -> list[int]:
    """The ids of all objects linked with one, itself included; empty for one that is not linked."""
    node = find(document, node_id)
    if node is None or node.link is None:
        return []
    found = [n.id for n in walk(document.root) if n.link == node.link]
    return found if len(found) > 1 else []


def link(document: Document, ids: Iterable[int]) -> Document:
    """Objects of one kind linked: all become like the first, in their own places."""
    first, *others = (n for i in ids if isinstance(n := find(document, i), Shape | Group))
    number = first.link if first.link is not None else document.next_id
    document = replace(document, next_id=document.next_id + 1)
    marked = replace(first, link=number)
    changes: dict[int, Node | None] = {first.id: marked}
    document, more = _like(document, marked, [o for o in others if type(o) is type(first)])
    return replace_nodes(document, changes | more)


def unlink(document: Document, ids: Iterable[int]) -> Document:
    """Objects on their own again, as they are."""
    return update_nodes(document, ids, lambda n: replace(n, link=None))


def unlink_all(document: Document, ids: Iterable[int]) -> Document:
    """Objects, and all that are linked with them, on their own again."""
    return unlink(document, [k for i in ids for k in linked_with(document, i) or [i]])


def linked_copies(document: Document, ids: Iterable[int]) -> tuple[Document, list[int]]:
    """Copies linked with their originals; the new ids."""
    order = list(ids)
    return duplicate(_numbered(document, order), order, linked=True)


def linked_beside(document: Document, ids: Iterable[int]) -> tuple[Document, list[int]]:
    """Linked copies to the right of their originals, clear of all that these show, their depth too; the new ids."""
    order = list(ids)
    shown = [find(document, i) for i in order]
    items = [item for n in shown if n is not None for item in silhouette(n, world_of(document, n.id))]
    box = items_box(items) or selection_box(document, order)
    document, made = linked_copies(document, order)
    wide = 0.0 if box is None else box[2] - box[0]
    return transform(document, made, translation(1.1 * wide, 0.0)), made


def linked_steps(
    document: Document, ids: Iterable[int], count: int, about: Point, angle: float | None, shift: Point,
    scale: float = 1.0,
) -> tuple[Document, list[int]]:  # fmt: skip
    """Step copies linked with their originals, which share their opacity; the new ids."""
    order = list(ids)
    return step_copies(_numbered(document, order), order, count, about, angle, shift, scale, linked=True)


def _numbered(document: Document, ids: list[int]) -> Document:
    """The document with a link for each of some objects that has none; copies keep it."""
    for i in ids:
        node = find(document, i)
        if isinstance(node, Shape | Group) and node.link is None:
            number = document.next_id
            document = update_nodes(replace(document, next_id=number + 1), [i], lambda n, k=number: replace(n, link=k))  # type: ignore[misc]
    return document


def followed(before: Document, after: Document) -> Document:
    """``after`` with what was changed since ``before`` in linked objects put into all that are linked with them.

    What came to lie in a linked copy of itself is linked no more: it would hold itself without end.
    """
    sources: dict[int, Node] = {}
    for old, new in changed_nodes(before.root, after.root):
        if new.link is not None and new.link == old.link and new.link not in sources and not _alike(old, new):
            sources[new.link] = new
    if not sources:
        return after
    endless = _in_themselves(after)
    if endless:
        return followed(before, unlink(after, endless))
    targets: dict[int, list[Node]] = {}
    for node in walk(after.root):
        if node.link in sources and node is not sources[node.link]:
            targets.setdefault(node.link, []).append(node)
    motifs = after.palette.motifs
    kept = tuple(replace(m, node=sources[m.node.link]) if m.node.link in sources else m for m in motifs)
    if kept != motifs:
        after = with_palette(after, motifs=kept)
    for number, source in sources.items():
        after, changes = _like(after, source, targets.get(number, []))
        after = replace_nodes(after, changes)
    return after


def _in_themselves(document: Document) -> list[int]:
    """The ids of linked objects that lie in one of their own set, be it by way of others."""
    inside: list[tuple[int, int, int]] = []  # the link of a holder, that of what is in it, and whose that is
    stack: list[tuple[Node, frozenset[int]]] = [(document.root, frozenset())]
    while stack:
        node, around = stack.pop()
        if node.link is not None:
            inside += [(outer, node.link, node.id) for outer in around]
            around = around | {node.link}
        stack += [(c, around) for c in node.children]
    holds: dict[int, set[int]] = {}
    for outer, inner, _ in inside:
        holds.setdefault(outer, set()).add(inner)
    return [i for outer, inner, i in inside if _reaches(holds, inner, outer)]


def _reaches(holds: Mapping[int, set[int]], start: int, goal: int) -> bool:
    seen, stack = set(), [start]
    while stack:
        at = stack.pop()
        if at == goal:
            return True
        if at not in seen:
            seen.add(at)
            stack += holds.get(at, ())
    return False


def _alike(a: Node, b: Node) -> bool:
    """Whether two versions of an object share all that links share."""
    if isinstance(a, Shape) and isinstance(b, Shape) and a.form is not b.form:
        return False
    return a.children is b.children and all(getattr(a, f) == getattr(b, f) for f in _SHARED)


def _like(document: Document, source: Node, targets: Iterable[Node]) -> tuple[Document, dict[int, Node | None]]:
    """Targets made like a source, each keeping its id, name and place; the document with ids for what is new."""
    following = document.next_id
    changes: dict[int, Node | None] = {}
    for target in targets:
        made, following = _as(source, target, following)
        ids = {a.id: b.id for a, b in zip(walk(source), walk(made), strict=True)}
        changes[target.id] = _referring(made, ids)
    return replace(document, next_id=following), changes


def _referring(node: Node, ids: Mapping[int, int]) -> Node:
    """A branch that refers to its own nodes where the one that it is like refers to its own."""
    children = tuple([_referring(c, ids) for c in node.children])
    return replace(node, recipe=tuple([with_references(i, ids) for i in node.recipe]), children=children)


def _as(source: Node, target: Node, following: int) -> tuple[Node, int]:
    fields = {f: getattr(source, f) for f in (*_SHARED, "link")}
    if isinstance(source, Shape):
        fields["form"] = source.form
    children: list[Node] = []
    same = [type(c) for c in source.children] == [type(c) for c in target.children]
    for k, child in enumerate(source.children):
        if same:  # what is there keeps its ids
            made, following = _as(child, target.children[k], following)
            made = replace(made, name=child.name, transform=child.transform, visible=child.visible, member=child.member)
        else:
            made, following = renumbered(child, following)
        children.append(made)
    return replace(target, **fields, children=tuple(children)), following


def own_links(document: Document, pasted: tuple[Group, ...]) -> tuple[Document, tuple[Group, ...]]:
    """Clipboard nodes with links of their own where the document's objects under the same number are others."""
    known = {n.link: n for n in walk(document.root) if n.link is not None}
    fresh: dict[int, int] = {}
    following = document.next_id

    def renamed(node: Node) -> Node:
        nonlocal following
        children = tuple(renamed(c) for c in node.children)
        number = node.link
        if number is not None and not _same_thing(known.get(number), node):
            if number not in fresh:
                fresh[number], following = following, following + 1
            number = fresh[number]
        return replace(node, children=children, link=number)

    clips = tuple(replace(clip, children=tuple(renamed(c) for c in clip.children)) for clip in pasted)
    return replace(document, next_id=following), clips


def _same_thing(a: Node | None, b: Node) -> bool:
    if a is None or type(a) is not type(b) or a.recipe != b.recipe:
        return False
    return not isinstance(a, Shape) or not isinstance(b, Shape) or a.form == b.form
