"""Walking and replacing in the immutable tree. Everything that is not on the path to a change is shared."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping

import msgspec

from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.model.catalogue.ingredients import references_of, with_references
from volumen.model.ingredients import Fill, Ingredient, Line
from volumen.model.nodes import Document, FromMembers, Group, Node, Shape
from volumen.model.sequences import same_ends


def walk(node: Node) -> Iterator[Node]:
    """The node and all below it, parents first, back to front. Needs no recursion, so depth is no limit."""
    stack: list[Node] = [node]
    while stack:
        current = stack.pop()
        yield current
        stack.extend(reversed(current.children))


def find(document: Document, node_id: int) -> Node | None:
    """The node with an id; None if it is not there."""
    chain = chain_to(document, node_id)
    return chain[-1] if chain else None


_FEW = 16  # nodes that are looked up one by one
_hints: dict[int, tuple[int, ...]] = {}  # where nodes were found last
_MOST_HINTS = 100_000
_MANY = 8  # nodes searched for in one document, after which all of it is looked through once
_searched: tuple[Node | None, int] = (None, 0)


def way_to(document: Document, node_id: int) -> tuple[int, ...] | None:
    """The positions of the children that lead from the root to a node; None if there is no such node.

    A node is mostly where it was last: then one of thousands of siblings is found at once.
    """
    hint = _hints.get(node_id)
    if hint is not None and _leads_to(document.root, hint, node_id):
        return hint
    global _searched
    root = document.root
    _searched = (root, _searched[1] + 1 if _searched[0] is root else 1)
    if _searched[1] == _MANY:
        _hints.clear()
        _note_ways(root)
        return _hints.get(node_id)
    found = _search(root, node_id)
    if found is not None:
        if len(_hints) >= _MOST_HINTS:
            _hints.clear()
        _hints[node_id] = found
    return found


def _note_ways(root: Node) -> None:
    """Note where all nodes are. Of an id that there is twice the first counts, as in a search."""
    stack: list[tuple[Node, tuple[int, ...]]] = [(root, ())]
    while stack:
        node, way = stack.pop()
        _hints.setdefault(node.id, way)
        stack.extend((c, (*way, k)) for k, c in reversed(list(enumerate(node.children))))


def _leads_to(node: Node, way: tuple[int, ...], node_id: int) -> bool:
    for i in way:
        if i >= len(node.children):
            return False
        node = node.children[i]
    return node.id == node_id


def _search(node: Node, node_id: int) -> tuple[int, ...] | None:
    if node.id == node_id:
        return ()
    for i, child in enumerate(node.children):
        if child.id == node_id:
            return (i,)
        if child.children and (found := _search(child, node_id)) is not None:
            return (i, *found)
    return None


def ids_within(document: Document, ids: Iterable[int]) -> set[int]:
    """The ids of some nodes and of all that is in them; ids that are not there are left out."""
    return {n.id for i in ids if (top := find(document, i)) is not None for n in walk(top)}


def chain_to(document: Document, node_id: int) -> list[Node]:
    """The nodes from the root down to ``node_id``, both included; empty if there is none."""
    way = way_to(document, node_id)
    if way is None:
        return []
    chain: list[Node] = [document.root]
    for i in way:
        chain.append(chain[-1].children[i])
    return chain


def seen_chains(document: Document, seen: Callable[[Node], bool] = lambda n: n.visible) -> Iterator[list[Node]]:
    """Every node that is ``seen``, at the end of what it is in, back to front; what it holds comes after it. Of what is
    not seen nothing inside is either."""
    stack: list[list[Node]] = [[document.root]]
    while stack:
        chain = stack.pop()
        if seen(chain[-1]):
            yield chain
            stack += [[*chain, c] for c in reversed(chain[-1].children)]


def _ways(document: Document, ids: Iterable[int]) -> list[tuple[tuple[int, ...], int]]:
    """The ways to the nodes there are below the root, each with its id, back to front."""
    missing = set(ids) - {document.root.id}
    if len(missing) <= _FEW:
        return sorted((way, i) for i in missing if (way := way_to(document, i)) is not None)
    out: list[tuple[tuple[int, ...], int]] = []

    def visit(node: Node, way: tuple[int, ...]) -> None:
        for k, child in enumerate(node.children):
            if not missing:
                return
            if child.id in missing:
                missing.discard(child.id)
                out.append(((*way, k), child.id))
            if child.children:
                visit(child, (*way, k))

    visit(document.root, ())
    return out


def ways_to(document: Document, ids: Iterable[int]) -> dict[int, list[int]]:
    """For every node above one of some ids: the positions of the children that lead there or are there."""
    out: dict[int, list[int]] = {}
    for way, _ in _ways(document, ids):
        node: Node = document.root
        for i in way:
            row = out.setdefault(node.id, [])
            if not row or row[-1] != i:
                row.append(i)
            node = node.children[i]
    return out


def top_level(document: Document, ids: Iterable[int]) -> list[int]:
    """The ids that exist and are not inside another of them, back to front."""
    out: list[int] = []
    outer: tuple[int, ...] | None = None  # the last one taken: what is inside it comes right after
    for way, node_id in _ways(document, ids):
        if outer is None or way[: len(outer)] != outer:
            out.append(node_id)
            outer = way
    return out


def parent_of(document: Document, node_id: int) -> Node | None:
    """What holds a node; None for the root and for what is not there."""
    chain = chain_to(document, node_id)
    return chain[-2] if len(chain) > 1 else None


def world_of(document: Document, node_id: int) -> Affine:
    """The map from a node's own coordinates to the sheet (identity for an unknown id)."""
    return place_of(chain_to(document, node_id))


def place_of(chain: Iterable[Node]) -> Affine:
    """The map from the coordinates of the last of a chain of nodes to those that the first lies in."""
    m = IDENTITY
    for node in chain:
        m = multiply(m, node.transform)
    return m


def replace_nodes(document: Document, changes: Mapping[int, Node | None]) -> Document:
    """The document with the given nodes replaced (None removes). Untouched branches stay the same objects."""
    if not changes:
        return document
    start = changes.get(document.root.id)
    if isinstance(start, Group):
        document = msgspec.structs.replace(document, root=start)
    ways = ways_to(document, changes)

    def rebuild(node: Node) -> Node:
        children: list[Node | None] = list(node.children)
        for i in ways.get(node.id, ()):
            child = node.children[i]
            children[i] = changes[child.id] if child.id in changes else rebuild(child)
        own = ways.get(node.id, ())
        if all(children[i] is node.children[i] for i in own):
            return node
        return with_children(node, tuple([c for c in children if c is not None]))

    root = rebuild(document.root)
    assert isinstance(root, Group)
    return msgspec.structs.replace(document, root=root)


def update_nodes(document: Document, ids: Iterable[int], change: Callable[[Node], Node]) -> Document:
    """Apply ``change`` to each of the nodes. A node inside another changed one is changed as well."""
    wanted = set(ids)
    ways = ways_to(document, wanted)

    def rebuild(node: Node) -> Node:
        if node.id in ways:
            children = list(node.children)
            for i in ways[node.id]:
                children[i] = rebuild(children[i])
            if any(children[i] is not node.children[i] for i in ways[node.id]):
                node = with_children(node, tuple(children))
        return change(node) if node.id in wanted else node

    root = rebuild(document.root)
    if root is document.root:
        return document
    assert isinstance(root, Group)
    return msgspec.structs.replace(document, root=root)


def changed_nodes(old: Node, new: Node) -> Iterator[tuple[Node, Node]]:
    """Pairs of nodes that differ between two versions of a branch."""
    if old is new:
        return
    yield old, new
    low, end = same_ends(old.children, new.children)
    was = {c.id: c for c in old.children[low : len(old.children) - end]}
    for child in new.children[low : len(new.children) - end]:
        if child.id in was:
            yield from changed_nodes(was[child.id], child)


def with_children(node: Node, children: tuple[Node, ...]) -> Node:
    """A node with other children."""
    return msgspec.structs.replace(node, children=children)


def members(node: Node) -> tuple[Node, ...]:
    """The children that make up a combined form, or hold rays."""
    if not isinstance(node, Shape) or not isinstance(node.form, FromMembers):
        return ()
    return tuple(c for c in node.children if c.member)


def guides(node: Node) -> tuple[Node, ...]:
    """The children of a group that guide its repeats, and are not painted."""
    return tuple(c for c in node.children if c.member) if isinstance(node, Group) else ()


def painted_children(node: Node) -> tuple[Node, ...]:
    """The children that are painted: a group's without its guides, or those held inside a shape."""
    if isinstance(node, Group) and not any(c.member for c in node.children):
        return node.children
    if isinstance(node, Group) or isinstance(node.form if isinstance(node, Shape) else None, FromMembers):
        return tuple(c for c in node.children if not c.member)
    return node.children


def renumbered(node: Node, first: int) -> tuple[Node, int]:
    """A copy of a branch with new ids from ``first`` on, and the next free id; see ``renumbered_all``."""
    (copy,), following = renumbered_all((node,), first)
    return copy, following


def renumbered_all(
    branches: Iterable[Node], first: int, links: Iterable[int] = ()
) -> tuple[tuple[Node, ...], int]:  # fmt: skip
    """Copies of some branches with new ids from ``first`` on, and the next free id.

    What refers to a node in any of them, a shadow to its receivers or a sliver to its cutter, refers to the copy; what
    refers to others stays. The ``links`` named get new numbers, so that copies are linked among themselves.
    """
    branches = tuple(branches)
    nodes = [n for b in branches for n in walk(b)]
    ids = {n.id: first + k for k, n in enumerate(nodes)}
    fresh = {number: first + len(ids) + k for k, number in enumerate(dict.fromkeys(links))}
    shared = {s for n in nodes for i in n.recipe if (s := _shared(i)) is not None}
    across = {number: first + len(ids) + len(fresh) + k for k, number in enumerate(sorted(shared))}

    def copy(n: Node) -> Node:
        recipe = tuple([_with_shared(with_references(i, ids), across) for i in n.recipe])
        link = None if n.link is None else fresh.get(n.link, n.link)
        children = tuple([copy(c) for c in n.children])
        return msgspec.structs.replace(n, id=ids[n.id], recipe=recipe, children=children, link=link)

    return tuple([copy(b) for b in branches]), first + len(ids) + len(fresh) + len(across)


def _shared(i: Ingredient) -> int | None:
    """The number of a gradient that lies across several shapes."""
    found: int | None = getattr(i.paint, "shared", None) if isinstance(i, Fill | Line) else None
    return found


def _with_shared(i: Ingredient, numbers: Mapping[int, int]) -> Ingredient:
    """An ingredient whose gradient lies across copies: one of its own, not that of the originals."""
    number = _shared(i)
    if number is None or not isinstance(i, Fill | Line):
        return i
    paint = msgspec.structs.replace(i.paint, shared=numbers[number])
    return msgspec.structs.replace(i, paint=paint)


def handed_on(document: Document, ids: Mapping[int, int]) -> Document:
    """The document with whatever refers to some nodes referring to others instead."""
    users = [n.id for n in walk(document.root) if any(r in ids for i in n.recipe for r in references_of(i))]
    return update_nodes(
        document, users, lambda n: msgspec.structs.replace(n, recipe=tuple(with_references(i, ids) for i in n.recipe))
    )


def loose_references(document: Document) -> list[Node]:
    """The nodes whose recipe refers to one that is not there any more."""
    known = {n.id for n in walk(document.root)}
    return [n for n in walk(document.root) if any(r not in known for i in n.recipe if i.on for r in references_of(i))]
