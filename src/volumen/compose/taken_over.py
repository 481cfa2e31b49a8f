"""What is taken over from the last composition: siblings that stayed, and nodes that depend on nothing around them."""

from __future__ import annotations

from abc import ABC, abstractmethod

from volumen.compose.beneath import Beneath
from volumen.compose.falling import Shade
from volumen.compose.finish import is_finished
from volumen.compose.knockout import knocked_out
from volumen.compose.light import Light, own_light
from volumen.compose.memo import Entry, Memo, Siblings, same_light
from volumen.geometry.affine import Affine
from volumen.model.nodes import Document, Group, Node, Shape
from volumen.outline.making import itself, shown_children
from volumen.picture.instructions import Chunk
from volumen.picture.stopping import Stop, raise_if


def shade_chunk(node: int, shade: Shade | None) -> tuple[Chunk, ...]:
    """The shade on what a node shows, as a chunk of its own."""
    return (Chunk(node, shade.items, shade.box),) if shade is not None else ()


class TakingOver(ABC):
    """Walks a document from back to front and takes over what still holds; ``composed`` makes the rest.

    ``stop`` is asked between nodes; when it says so, Stopped is raised. ``below`` are the surfaces beneath the node
    that it is at, ``signature`` identifies them.
    """

    def __init__(self, document: Document, light: Light, memo: Memo, stop: Stop | None = None) -> None:
        self.document, self.light, self.memo, self.stop = document, light, memo, stop
        self.below = Beneath()
        self.signature = hash(document.sheet.ground)
        self.spliced: tuple[list[Chunk], int, int] | None = None  # the last row spliced, and what stayed at its ends
        self.shades: dict[int | None, Shade] = {}  # what falls on sheets, by the id of its object
        self.shaded_rows: frozenset[int] = frozenset()  # the parents of those

    @abstractmethod
    def composed(self, node: Node, parent: Affine) -> tuple[Chunk, ...]:
        """The chunks of one node, in the light that shines on it."""

    @abstractmethod
    def note_made(self, node: Node, children: tuple[Node, ...], world: Affine) -> None:
        """Told of nodes that are not in the document: copies and steps in a group."""

    def children_chunks(self, node: Node, world: Affine) -> list[Chunk]:
        """The chunks of what a node shows of its children, knockouts taken out of what lies beneath them.

        Most edits touch few of many siblings: those before and after them that depend on nothing around them
        are taken over from the last build in one piece.
        """
        self.signature = hash((self.signature, world))
        children = shown_children(node)
        if children is not node.children:
            self.note_made(node, children, world)
        known = self.memo.rows.get(node.id)
        if (known is not None and known.alone and known.world == world and known.lit_as(self.light)
                and node.id not in self.shaded_rows):  # fmt: skip
            low, end = self.memo.stayed(node, known, children)
            changed = children[low : len(children) - end]
            if not any(c.knockout for c in changed):
                known.all_children = children is node.children
                return self._spliced(known, children, low, end)
        mark = self.below.mark()
        row = self.memo.rows[node.id] = self._row(children, world)
        row.all_children = children is node.children
        self.memo.spans.pop(node.id, None)
        if row.alone:
            self.below.instead(mark, row.surfaces)
        return row.chunks

    def takes_shade_inside(self, node: Node) -> bool:
        """Whether the shade on a node lies in its own chunk: beneath what it holds, or finished with it."""
        if isinstance(node, Shape):
            return bool(node.children) or is_finished(node, self.light.flat)
        return isinstance(node, Group) and is_finished(itself(node), self.light.flat)

    def _spliced(self, row: Siblings, children: tuple[Node, ...], low: int, end: int) -> list[Chunk]:
        """The chunks of a known row whose children changed between ``low`` and ``end`` from its end."""
        stop = len(row.children) - end
        first, last = (row.surface_ends[low - 1] if low else 0), (row.surface_ends[stop - 1] if stop else 0)
        mark = self.below.mark()
        self.below.add_run(row.surfaces, first)
        self.signature = hash((self.signature, *(id(c) for c in children[:1]), low))
        new = self._row(children[low : len(children) - end], row.world)
        after = row.surfaces[last:] if not new.alone else []
        start, ends = (row.chunk_ends[low - 1] if low else 0), (row.chunk_ends[stop - 1] if stop else 0)
        self.spliced = (row.chunks, start, len(row.chunks) - ends)
        row.splice(low, stop, new)
        row.children = children
        if new.alone:
            self.below.instead(mark, row.surfaces)
        else:
            self.below.add_run(after, len(after))
        self.signature = hash((self.signature, end))
        return row.chunks

    def _row(self, children: tuple[Node, ...], world: Affine) -> Siblings:
        """Siblings built one by one."""
        row = Siblings(children, world, light=self.light)
        for child in children:
            raise_if(self.stop)
            if child.knockout and child.visible:
                row.alone = row.unlit = False
                row.chunks[:] = knocked_out(self.memo, child, world, row.chunks, self.memo.stock_of(self.document.root))
            elif (known := self._unchanged(child, world)) is not None:
                row.chunks += known.chunks
                row.unlit = row.unlit and known.unlit
                if known.surface is not None:
                    row.surfaces.append(known.surface)
            else:
                row.chunks += self.chunks_of(child, world)
                entry = self.memo.entries.get(child.id)
                if entry is None or not (entry.alone or not child.visible):
                    row.alone = False
                elif entry.surface is not None and child.visible:
                    row.surfaces.append(entry.surface)
                row.unlit = row.unlit and (entry is None or entry.unlit)
            if child.id in self.shades and child.visible and not self.takes_shade_inside(child):
                row.chunks += shade_chunk(child.id, self.shades[child.id])
                row.alone = False
            row.chunk_ends.append(len(row.chunks))
            row.surface_ends.append(len(row.surfaces))
        return row

    def _unchanged(self, node: Node, parent: Affine) -> Entry | None:
        """What is known of a node that depends on nothing around it, if it is the same as in the last build."""
        known = self.memo.entries.get(node.id)
        if known is None or known.node is not node or not known.alone:
            return None
        if node.id in self.shades and self.takes_shade_inside(node):
            return None
        if known.parent != parent or not same_light(known.setting.light, self.light, known.unlit):
            return None
        known.below, known.setting.light = self.signature, self.light
        if known.surface is not None:
            self.below.add(known.surface)
            self.signature = hash((self.signature, id(node)))
        return known

    def chunks_of(self, node: Node, parent: Affine) -> tuple[Chunk, ...]:
        """The chunks of one node under the lamps that shine on it; none for what is hidden."""
        if not node.visible:
            return ()
        if (node.unlit or node.own_lamp is not None) and not self.light.flat:
            around, self.light = self.light, own_light(node, self.light)
            try:
                return self.composed(node, parent)
            finally:
                self.light = around
        return self.composed(node, parent)
