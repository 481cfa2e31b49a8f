"""Keeping a copy of the document in the worker by sending only what changed.

The tree is immutable, so an unchanged branch is the same object: the sender walks only along changes. Each
changed node travels without its children, followed by their ids; the receiver puts branches together again
and thereby also shares what did not change, which is what its memo of built chunks lives from.
"""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from volumen.model.difference import Difference, Span
from volumen.model.nodes import Asset, Document, Group, Node, Palette, Shape, Sheet, Swatch
from volumen.model.sequences import same_ends
from volumen.model.tree import walk, with_children
from volumen.shading.lamp import Lights
from volumen.shading.materials import Material


class ChildrenSent(NamedTuple):
    """The children of a changed node: how many stay at the start and at the end, and the ids between them."""

    low: int
    end: int
    ids: list[int]


class Changes(msgspec.Struct):
    """Sheet, lights, materials, what lift means, the spot inks of the palette, and the changed nodes without their
    children, parents before them."""

    sheet: Sheet
    lights: Lights
    materials: tuple[Material, ...]
    root: int
    nodes: list[tuple[Node, ChildrenSent]]
    assets: list[Asset] = []
    keys: list[str] = []  # of all assets there are
    gone: list[int] = []  # nodes that are no longer in the document
    anew: bool = False  # nothing is known on the other side
    lifts_add_up: bool = False
    inks: tuple[Swatch, ...] = ()


_encoder = msgspec.msgpack.Encoder()
_decoder = msgspec.msgpack.Decoder(Changes)


class Sender:
    """Knows what the other side holds. After a lost connection, make a new one: it sends everything."""

    def __init__(self) -> None:
        self._known: dict[int, Node] = {}
        self._assets: set[str] = set()
        self._fresh = True

    def fork(self) -> Sender:
        """Another that knows the same, for changes that are only tried."""
        other = Sender()
        other._known, other._assets, other._fresh = dict(self._known), set(self._assets), self._fresh
        return other

    def changes(self, document: Document) -> bytes:
        """What the other side needs to hold this document."""
        nodes: list[tuple[Node, ChildrenSent]] = []
        left: list[Node] = []  # what changed nodes held, and
        stayed: list[Node] = []  # of what they hold now, what the other side knows
        root = self._known.get(document.root.id)
        if root is None and self._known:  # another document, with another root
            left.extend(self._known.values())
        self._collect(document.root, nodes, left, stayed)
        gone = self._gone(nodes, left, stayed)
        assets = [a for a in document.assets if a.key not in self._assets]
        self._assets = {a.key for a in document.assets}
        anew, self._fresh = self._fresh, False
        return _encoder.encode(
            Changes(
                document.sheet,
                document.lights,
                document.materials,
                document.root.id,
                nodes,
                assets,
                [a.key for a in document.assets],
                gone,
                anew,
                document.lifts_add_up,
                tuple(s for s in document.palette.swatches if s.ink is not None),
            )
        )

    def _collect(self, node: Node, out: list[tuple[Node, ChildrenSent]], left: list[Node], stayed: list[Node]) -> None:
        known = self._known.get(node.id)
        if known is node:
            stayed.append(node)
            return
        self._known[node.id] = node
        children, before = node.children, known.children if known is not None else ()
        low, end = same_ends(before, children) if before or children else (0, 0)
        changed = children[low : len(children) - end]
        left.extend(before[low : len(before) - end])
        out.append((with_children(node, ()) if children else node, ChildrenSent(low, end, [c.id for c in changed])))
        for child in changed:
            self._collect(child, out, left, stayed)

    def _gone(self, sent: list[tuple[Node, ChildrenSent]], left: list[Node], stayed: list[Node]) -> list[int]:
        """Of what changed nodes held, what is nowhere any more; it is not known any longer either."""
        gone = {n.id for top in left for n in walk(top)}
        if gone:
            here = [self._known[n.id] for n, _ in sent if n.id in gone]
            gone.difference_update(n.id for top in (*here, *stayed) for n in walk(top))
        for node_id in gone:
            self._known.pop(node_id, None)
        return list(gone)


def _sharing(node: Node, old: Node | None) -> Node:
    """A node that was sent, with what equals the old one's as the same objects: what is made of them is kept by
    identity."""
    if old is None or type(old) is not type(node):
        return node
    pairs = zip(old.recipe, node.recipe, strict=False)
    recipe = tuple(a if a == b else b for a, b in pairs) + node.recipe[len(old.recipe) :]
    if isinstance(node, Shape) and isinstance(old, Shape) and node.form == old.form:
        return msgspec.structs.replace(node, recipe=recipe, form=old.form)
    return msgspec.structs.replace(node, recipe=recipe)


class Receiver:
    """Holds a copy of the document. ``difference`` is what the last changes changed."""

    def __init__(self) -> None:
        self._nodes: dict[int, Node] = {}
        self._assets: dict[str, Asset] = {}
        self.difference = Difference()

    def fork(self) -> Receiver:
        """Another that holds the same, for changes that are only tried."""
        other = Receiver()
        other._nodes, other._assets = dict(self._nodes), dict(self._assets)
        return other

    def apply(self, data: bytes) -> Document:
        """The document after the changes."""
        changes = _decoder.decode(data)
        before = list(self._nodes) if changes.anew else []
        if changes.anew:
            self._nodes, self._assets = {}, {}
        nodes = self._nodes
        spans: dict[int, Span] = {}
        for sent, (low, end, ids) in reversed(changes.nodes):
            node = _sharing(sent, nodes.get(sent.id))
            if low or end or ids:
                old = nodes[node.id].children if low or end else ()
                children = old[:low] + tuple([nodes[c] for c in ids]) + old[len(old) - end :]
                spans[node.id] = (low, end)
                nodes[node.id] = with_children(node, children)
            else:
                nodes[node.id] = node
        root = self._nodes[changes.root]
        assert isinstance(root, Group)
        known = {**self._assets, **{a.key: a for a in changes.assets}}
        self._assets = {key: known[key] for key in changes.keys}
        for node_id in changes.gone:
            nodes.pop(node_id, None)
        self.difference = Difference(spans, [i for i in before if i not in nodes] if changes.anew else changes.gone)
        bare = Document(
            changes.sheet, root=root, assets=tuple(self._assets.values()), materials=changes.materials,
            lifts_add_up=changes.lifts_add_up, palette=Palette(swatches=changes.inks),
        )  # fmt: skip
        return bare.with_lights(changes.lights)
