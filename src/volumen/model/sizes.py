"""How large a document is: what an edit must not make larger than a file may be."""

from __future__ import annotations

from math import prod
from typing import NamedTuple

import msgspec

from volumen.geometry.affine import max_scale
from volumen.model import limits
from volumen.model.ingredients import Block, Body, Ingredient, Relief, Sliver, Steps
from volumen.model.nodes import Document, Group, Node
from volumen.model.repeats import REPEATS, most_copies
from volumen.model.tree import with_children

_encode = msgspec.json.Encoder().encode
_bare = Group(0, "pile")
_SEPARATOR = 1  # the comma between two children
_SOME_STEPS = 100
# Of plain pieces, by the time that composing takes: a mesh is made for every cushion and slab, with points of its own.
_BODY, _CUT, _MESHED = 5, 10, 50


class DocumentError(ValueError):
    """A document that cannot be used; the message says what and where."""


class Size(NamedTuple):
    """A node with all that it holds: levels, nodes, bytes as JSON, and the most by which anything in it is enlarged."""

    depth: int
    nodes: int
    bytes: int
    scale: float


def times_shown(node: Node) -> int:
    """How many times at most a group shows what it holds."""
    times = prod(most_copies(i) for i in node.recipe if isinstance(i, REPEATS) and i.on)
    for i in node.recipe:
        if isinstance(i, Steps) and i.on:  # by distance or smooth they are counted when they are made
            times *= 1 + (i.count if i.mode == "count" else _SOME_STEPS)
    return times


def _weight(i: Ingredient) -> int:
    """How many plain pieces take as long to draw as one with such an ingredient takes longer than without."""
    if not i.on or not isinstance(i, Body | Block | Sliver | Relief):
        return 0
    if isinstance(i, Body):
        return _MESHED if i.kind in ("cushion", "slab") else _BODY
    return _MESHED if isinstance(i, Block) else _CUT


class Drawn(NamedTuple):
    """What a node draws: nodes without copies and with them, and how much the copies weigh.

    ``added`` is what light adds to the weight where nothing is copied: so much every file may hold.
    """

    nodes: int
    copies: int
    weight: int
    added: int

    @property
    def too_heavy(self) -> bool:
        """Whether lit copies would take minutes to draw."""
        return self.copies <= limits.MAX_DRAWN < self.weight - self.added


def _drawn(node: Node, known: dict[int, tuple[Node, Drawn]], seen: dict[int, tuple[Node, Drawn]]) -> Drawn:
    hit = known.get(id(node)) or seen.get(id(node))
    if hit is None or hit[0] is not node:
        inner = [_drawn(c, known, seen) for c in node.children]
        nodes, copies = (1 + sum(d[k] for d in inner) for k in (0, 1))
        each = sum(_weight(i) for i in node.recipe if getattr(i, "each", False))
        own = sum(_weight(i) for i in node.recipe) - each
        weight = copies * each + own + 1 + sum(d.weight for d in inner)
        added = nodes * each + own + sum(d.added for d in inner)
        times = times_shown(node)
        hit = (node, Drawn(nodes, times * copies, times * weight, added))
    seen[id(node)] = hit
    return hit[1]


def is_too_heavy(document: Document) -> bool:
    """Whether lit copies would take minutes to draw, though they are few enough."""
    return _drawn(document.root, {}, {}).too_heavy


class Sizes:
    """Knows the sizes of the nodes of the last document, so that only what changed is measured."""

    def __init__(self) -> None:
        self._known: dict[int, tuple[Node, Size]] = {}
        self._pieces: dict[int, tuple[Node, Drawn]] = {}

    def check_pieces(self, document: Document) -> None:
        """Raise DocumentError if more would be drawn than can be, copies counted: before anything is made of it."""
        seen: dict[int, tuple[Node, Drawn]] = {}
        drawn = _drawn(document.root, self._pieces, seen)
        self._pieces = seen
        if drawn.copies > limits.MAX_DRAWN:
            raise DocumentError(f"there would be more than {limits.MAX_DRAWN:,} pieces to draw, with all copies")
        if drawn.too_heavy:
            raise DocumentError(
                f"so many lit copies would take minutes to draw: a copied body counts as {_BODY} pieces, a cushion, "
                f"slab or block as {_MESHED}, and {limits.MAX_DRAWN:,} can be drawn; freeze or copy less"
            )

    def check(self, document: Document) -> None:
        """Raise DocumentError if a document is larger than a file may be."""
        size = self._of(document.root)
        if len(self._known) > 2 * size.nodes + 1000:
            known, self._known = self._known, {}
            self._keep(document.root, known)
        if size.depth > limits.MAX_DEPTH + 1:
            raise DocumentError(f"objects would be nested deeper than {limits.MAX_DEPTH} levels")
        kept = sum(self._of(m.node).nodes for m in document.palette.motifs)
        if not size.scale <= limits.MAX_NUMBER:
            raise DocumentError("groups in groups would enlarge their objects beyond what any picture can hold")
        if size.nodes + kept > limits.MAX_NODES:
            raise DocumentError(f"there would be more than {limits.MAX_NODES:,} objects")
        self.check_pieces(document)
        rest = len(_encode(msgspec.structs.replace(document, root=_bare, assets=())))
        if size.bytes + rest > limits.MAX_JSON:
            raise DocumentError(f"the artwork would be larger than {limits.MAX_JSON >> 20} MB; simplify or split it")
        if sum(len(a.data) for a in document.assets) > limits.MAX_ASSETS:
            raise DocumentError(f"the placed pictures would be larger than {limits.MAX_ASSETS >> 20} MB together")

    def _of(self, node: Node) -> Size:
        hit = self._known.get(id(node))
        if hit is not None and hit[0] is node:
            return hit[1]
        inner = [self._of(c) for c in node.children]
        own = len(_encode(with_children(node, ()) if inner else node)) + _SEPARATOR
        size = Size(
            1 + max((s.depth for s in inner), default=0),
            1 + sum(s.nodes for s in inner),
            own + sum(s.bytes for s in inner),
            max_scale(node.transform) * max([1.0, *(s.scale for s in inner)]),
        )
        self._known[id(node)] = (node, size)
        return size

    def _keep(self, node: Node, known: dict[int, tuple[Node, Size]]) -> None:
        self._known[id(node)] = known[id(node)]
        for child in node.children:
            self._keep(child, known)
