"""Keeping a copy of the document in the worker by sending only what changed.

The tree is immutable, so an unchanged branch is the same object: the sender walks only along changes. Each
changed node travels without its children, followed by their ids; the receiver puts branches together again
and thereby also shares what did not change, which is what its memo of built chunks lives from.
"""

from __future__ import annotations

import msgspec

from volumen.model.nodes import Asset, Document, Group, Node, Sheet
from volumen.model.tree import with_children
from volumen.shading.lamp import Lamp


class Changes(msgspec.Struct):
    """Sheet, lamp and the changed nodes, parents before children: (node without children, ids of children)."""

    sheet: Sheet
    lamp: Lamp
    root: int
    nodes: list[tuple[Node, tuple[int, ...]]]
    assets: list[Asset] = []


_encoder = msgspec.msgpack.Encoder()
_decoder = msgspec.msgpack.Decoder(Changes)


class Sender:
    """Knows what the other side holds. After a lost connection, make a new one: it sends everything."""

    def __init__(self) -> None:
        self._known: dict[int, Node] = {}
        self._assets: set[str] = set()

    def changes(self, document: Document) -> bytes:
        nodes: list[tuple[Node, tuple[int, ...]]] = []
        self._collect(document.root, nodes)
        assets = [a for a in document.assets if a.key not in self._assets]
        self._assets.update(a.key for a in assets)
        return _encoder.encode(Changes(document.sheet, document.lamp, document.root.id, nodes, assets))

    def _collect(self, node: Node, out: list[tuple[Node, tuple[int, ...]]]) -> None:
        if self._known.get(node.id) is node:
            return
        self._known[node.id] = node
        children = node.children
        out.append((with_children(node, ()) if children else node, tuple(c.id for c in children)))
        known = self._known
        for child in children:
            if known.get(child.id) is not child:
                self._collect(child, out)


class Receiver:
    def __init__(self) -> None:
        self._nodes: dict[int, Node] = {}
        self._assets: dict[str, Asset] = {}

    def apply(self, data: bytes) -> Document:
        """The document after the changes."""
        changes = _decoder.decode(data)
        for node, children in reversed(changes.nodes):
            self._nodes[node.id] = with_children(node, tuple(self._nodes[c] for c in children)) if children else node
        root = self._nodes[changes.root]
        assert isinstance(root, Group)
        self._assets.update((a.key, a) for a in changes.assets)
        return Document(changes.sheet, changes.lamp, root, assets=tuple(self._assets.values()))
