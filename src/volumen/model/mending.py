"""Bringing a document that was read into the limits, and saying what was changed for it.

Older versions let an edit go beyond what they could open again. Such a file is not refused: what lies too deep is
brought up, numbers come to the end of their range, long texts are cut, ids become unique.
"""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import IDENTITY, Affine, multiply
from volumen.model import limits
from volumen.model.fitting import NotTaken, fitted
from volumen.model.ingredients import REPEATING
from volumen.model.nodes import Document, Group, Node
from volumen.model.sizes import DocumentError, is_too_heavy, times_shown
from volumen.model.tree import replace_nodes, walk, with_children
from volumen.model.validate import check_branch_depth, check_whole, last_id, walk_with_depth, where

replace = msgspec.structs.replace
_MOST_NAMED = 4


def mended(document: Document) -> tuple[Document, list[str]]:
    """The document within the limits, and a line for each kind of thing that was changed; the same object if nothing
    was. Raises DocumentError for what cannot be mended."""
    notes: list[str] = []
    try:
        made = _within_range(_unique_ids(_raised(document, notes), notes), notes)
    except NotTaken as problem:
        raise DocumentError(str(problem)) from problem
    made = _lightened(made, notes)
    check_whole(made)
    return made, notes


def _lightened(document: Document, notes: list[str]) -> Document:
    """Where lit copies would take minutes to draw, which older versions let pass, the largest repeats are off."""
    off: list[str] = []
    while is_too_heavy(document):
        most = max(walk(document.root), key=times_shown)
        off.append(where(most))
        quiet = tuple(replace(i, on=False) if isinstance(i, REPEATING) else i for i in most.recipe)
        document = replace_nodes(document, {most.id: replace(most, recipe=quiet)})
    if off:
        notes.append(f"lit copies that would take minutes to draw were switched off: {', '.join(off[:_MOST_NAMED])}")
    return document


def _raised(document: Document, notes: list[str]) -> Document:
    """What is nested too deep comes up to the deepest level there may be, at its place on the sheet."""
    for motif in document.palette.motifs:  # none was ever written deeper than the artwork
        check_branch_depth(motif.node)
    deep = next((n for n, depth in walk_with_depth(document.root) if depth > limits.MAX_DEPTH), None)
    if deep is None:
        return document
    notes.append(f"what was nested deeper than {limits.MAX_DEPTH} levels was brought up, from {where(deep)} on")

    def shallow(node: Node, depth: int) -> Node:
        if depth == limits.MAX_DEPTH - 1:
            return with_children(node, tuple(_leaves(node)))
        return with_children(node, tuple(shallow(c, depth + 1) for c in node.children))

    root = shallow(document.root, 0)
    assert isinstance(root, Group)
    return replace(document, root=root)


def _leaves(node: Node) -> list[Node]:
    """All below a node that is no group, each at its place within it, back to front."""
    out: list[Node] = []
    stack: list[tuple[Node, Affine]] = [(c, IDENTITY) for c in reversed(node.children)]
    while stack:
        one, outer = stack.pop()
        place = multiply(outer, one.transform)
        if not isinstance(one, Group):
            out.append(replace(one, children=(), transform=place))
        stack.extend((c, place) for c in reversed(one.children))
    return out


def _unique_ids(document: Document, notes: list[str]) -> Document:
    """Every id once, from the first that has it, and the next ones free."""
    nodes = list(walk(document.root))
    if any(not -limits.MAX_ID <= n.id <= limits.MAX_ID for n in nodes):
        raise DocumentError(f"an object has an id beyond {limits.MAX_ID}")
    ids = {n.id for n in nodes}
    following = max(*ids, document.next_id - 1 if document.next_id <= limits.MAX_ID else 0) + 1
    if len(ids) < len(nodes):
        twice = len(nodes) - len(ids)
        notes.append(f"{twice} objects had the id of another and got one of their own")
        seen: set[int] = set()

        def own(node: Node) -> Node:
            nonlocal following
            made = node
            if node.id in seen:
                made, following = replace(node, id=following), following + 1
            seen.add(made.id)
            return with_children(made, tuple([own(c) for c in node.children])) if node.children else made

        root = own(document.root)
        assert isinstance(root, Group)
        document = replace(document, root=root)
    palette = document.palette
    taken = last_id(palette)
    if palette.next_id <= taken:
        document = replace(document, palette=replace(palette, next_id=taken + 1))
    if document.next_id != following:
        document = replace(document, next_id=following)
    return document


def _within_range(document: Document, notes: list[str]) -> Document:
    made: Document = fitted(document)
    if made == document:
        return made
    names = [
        where(a)
        for a, b in zip(walk(document.root), walk(made.root), strict=True)
        if a is not b and with_children(a, ()) != with_children(b, ())
    ]
    if not names:
        names = ["the sheet, its lights or its palette"]
    more = f" and {len(names) - _MOST_NAMED} more" if len(names) > _MOST_NAMED else ""
    notes.append(f"values out of range were brought to the end of it: {', '.join(names[:_MOST_NAMED])}{more}")
    return made
