"""Keeping a copy of the document in the worker by sending only what changed.

The tree is immutable, so an unchanged branch is the same object: the sender walks only along changes. Each
changed node travels without its children, followed by their ids; the receiver puts branches together again
and thereby also shares what did not change, which is what its memo of built chunks lives from.
"""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from volumen.model.nodes import Asset, Document, Group, Node, Shape, Sheet
from volumen.model.rows import same_ends, tell_ends
from volumen.model.tree import with_children
from volumen.shading.lamp import Lights
from volumen.shading.materials import Material


class Row(NamedTuple):
    """The children of a changed node: how many stay at the start and at the end, and the ids between them."""

    low: int
    end: int
    ids: list[int]


class Changes(msgspec.Struct):
    """Sheet, lights, materials and the changed nodes without their children, parents before children."""

    sheet: Sheet
    lights: Lights
    materials: tuple[Material, ...]
    root: int
    nodes: list[tuple[Node, Row]]
    assets: list[Asset] = []


_encoder = msgspec.msgpack.Encoder()
_decoder = msgspec.msgpack.Decoder(Changes)


class Sender:
    """Knows what the other side holds. After a lost connection, make a new one: it sends everything."""

    def __init__(self) -> None:
        self._known: dict[int, Node] = {}
        self._assets: set[str] = set()

    def fork(self) -> Sender:
        """Another that knows the same, for changes that are only tried."""
        other = Sender()
        other._known, other._assets = dict(self._known), set(self._assets)
        return other

    def changes(self, document: Document) -> bytes:
        nodes: list[tuple[Node, Row]] = []
        self._collect(document.root, nodes)
        assets = [a for a in document.assets if a.key not in self._assets]
        self._assets.update(a.key for a in assets)
        return _encoder.encode(
            Changes(document.sheet, document.lights, document.materials, document.root.id, nodes, assets)
        )

    def _collect(self, node: Node, out: list[tuple[Node, Row]]) -> None:
        known = self._known.get(node.id)
        if known is node:
            return
        self._known[node.id] = node
        children = node.children
        low, end = same_ends(known.children, children) if known is not None and children else (0, 0)
        changed = children[low : len(children) - end]
        out.append((with_children(node, ()) if children else node, Row(low, end, [c.id for c in changed])))
        for child in changed:
            self._collect(child, out)


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
    def __init__(self) -> None:
        self._nodes: dict[int, Node] = {}
        self._assets: dict[str, Asset] = {}

    def fork(self) -> Receiver:
        """Another that holds the same, for changes that are only tried."""
        other = Receiver()
        other._nodes, other._assets = dict(self._nodes), dict(self._assets)
        return other

    def apply(self, data: bytes) -> Document:
        """The document after the changes."""
        changes = _decoder.decode(data)
        nodes = self._nodes
        for sent, (low, end, ids) in reversed(changes.nodes):
            node = _sharing(sent, nodes.get(sent.id))
            if low or end or ids:
                old = nodes[node.id].children if low or end else ()
                children = old[:low] + tuple([nodes[c] for c in ids]) + old[len(old) - end :]
                tell_ends(old, children, low, end)
                nodes[node.id] = with_children(node, children)
            else:
                nodes[node.id] = node
        root = self._nodes[changes.root]
        assert isinstance(root, Group)
        self._assets.update((a.key, a) for a in changes.assets)
        bare = Document(changes.sheet, root=root, assets=tuple(self._assets.values()), materials=changes.materials)
        return bare.with_lights(changes.lights)
