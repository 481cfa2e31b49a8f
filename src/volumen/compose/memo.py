"""What is remembered from one build to the next, so that unchanged nodes keep their chunks."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from volumen.compose.beneath import Surface
from volumen.compose.drawing import Others
from volumen.compose.falling import Kept
from volumen.compose.heights import Heights, heights_of
from volumen.compose.light import Light
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box, Path
from volumen.model.difference import Difference, Span, fitted_span, then
from volumen.model.ingredients import Ingredient
from volumen.model.nodes import Document, Node, Sheet
from volumen.model.sequences import same_ends
from volumen.model.tree import walk
from volumen.picture.instructions import Chunk, Item
from volumen.shading.paint import Colour


@dataclass(slots=True)
class Setting:
    """All that a node's chunks depend on beside the node and its place: the light on it, the colour that its shadows
    fall on, the other shapes that its recipe refers to, the chunks of what it holds, and the shade beneath those."""

    light: Light
    beneath: Colour
    others: Others
    inner: tuple[Chunk, ...]
    shade: tuple[Item, ...] = ()

    def gives_the_same(self, other: Setting, unlit: bool) -> bool:
        """Whether chunks made in one setting are right in another; those of an ``unlit`` node under any lamps."""
        return (
            same_light(self.light, other.light, unlit)
            and len(self.inner) == len(other.inner)
            and all(a is b for a, b in zip(self.inner, other.inner, strict=True))
            and len(self.shade) == len(other.shade)
            and all(a is b for a, b in zip(self.shade, other.shade, strict=True))
            and self.beneath == other.beneath
            and self.others.keys() == other.others.keys()
            and all(a[0] is other.others[k][0] and a[1] == other.others[k][1] for k, a in self.others.items())
        )


def same_light(a: Light, b: Light, unlit: bool) -> bool:
    """Whether something looks the same in two lights; what is ``unlit`` does under any lamps."""
    return a is b or (unlit and a.flat == b.flat) or a == b


@dataclass(slots=True)
class Entry:
    """What is remembered of a node: its place, the setting that its chunks were made in, and the chunks.

    ``below`` identifies all surfaces that lay beneath it; while it stays the same, so does the colour beneath.
    ``alone`` says that nothing around the node changes its chunks, ``unlit`` that no lamp does.
    """

    node: Node
    parent: Affine
    world: Affine
    below: int
    setting: Setting
    surface: Surface | None
    chunks: tuple[Chunk, ...]
    alone: bool = False
    unlit: bool = False

    def only_moved(self, node: Node, world: Affine) -> bool:
        """Whether something with nothing inside is the same elsewhere: lamps shine alike on the whole sheet."""
        return self.node is node and self.world[:4] == world[:4] and not node.children and not self.setting.others

    def still_holds(self, setting: Setting) -> bool:
        """Whether the chunks of the same node in the same place can be used again."""
        return self.setting.gives_the_same(setting, self.unlit)


@dataclass(slots=True)
class Siblings:
    """Siblings of the last composition with their chunks and surfaces; ``alone`` while none depends on another,
    ``unlit`` while none depends on the lamps. ``all_children`` says that they are the children that their node has."""

    children: tuple[Node, ...]
    world: Affine
    chunks: list[Chunk] = field(default_factory=list)
    surfaces: list[Surface] = field(default_factory=list)
    chunk_ends: list[int] = field(default_factory=list)
    surface_ends: list[int] = field(default_factory=list)
    alone: bool = True
    light: Light | None = None
    unlit: bool = True
    all_children: bool = False

    def lit_as(self, light: Light) -> bool:
        """Whether its chunks are the same under other lights."""
        return self.light is not None and same_light(self.light, light, self.unlit)

    def splice(self, low: int, stop: int, new: Siblings) -> None:
        """Put other siblings in place of the children ``low`` to ``stop``; where counts agree nothing else moves."""
        for items, ends, made, made_ends in (
            (self.chunks, self.chunk_ends, new.chunks, new.chunk_ends),
            (self.surfaces, self.surface_ends, new.surfaces, new.surface_ends),
        ):
            first, last = (ends[low - 1] if low else 0), (ends[stop - 1] if stop else 0)
            items[first:last] = made  # type: ignore[assignment]
            shift = len(made) - (last - first)
            ends[low:stop] = [e + first for e in made_ends]
            if shift:
                k = low + len(made_ends)
                ends[k:] = [e + shift for e in ends[k:]]
        self.alone, self.unlit, self.light = self.alone and new.alone, self.unlit and new.unlit, new.light


def _stock_of(root: Node) -> frozenset[int]:
    return frozenset(n.id for top in walk(root) if top.stock for n in walk(top))


@dataclass(slots=True)
class Memo:
    """Results of the last build, kept by node id."""

    entries: dict[int, Entry] = field(default_factory=dict)
    rows: dict[int, Siblings] = field(default_factory=dict)
    spans: dict[int, Span] = field(default_factory=dict)  # what stayed of children since they were composed
    knockouts: dict[int, tuple[object, object, list[Chunk]]] = field(default_factory=dict)
    holes: dict[int, tuple[Node, Affine, Path | None]] = field(default_factory=dict)
    last: tuple[Chunk, ...] | None = None  # the chunks of the picture built last
    light: Light | None = None  # the lamps of that
    boxes: dict[int, tuple[Node, Affine, Box | None]] = field(default_factory=dict)
    stock: tuple[Node, frozenset[int]] | None = None  # the root, and the nodes in it that are stock
    heights: tuple[Node, Sheet, Heights] | None = None  # those of the last build, with what they were found of
    shades: Kept = field(default_factory=dict)  # the shadows by height of the last build
    throws: frozenset[int] = frozenset()  # the nodes whose shadows those are

    def note(self, difference: Difference) -> None:
        """The document has changed; what was found of that needs not be found again."""
        self.forget(difference.gone)
        for node_id, span in difference.spans.items():
            if node_id in self.rows:
                self.spans[node_id] = then(self.spans.get(node_id), span)

    def stayed(self, node: Node, known: Siblings, children: tuple[Node, ...]) -> Span:
        """How many of the known siblings are the same at the start and at the end of the children now."""
        told = self.spans.pop(node.id, None)
        if children is known.children:
            return len(children), 0
        if told is None or not known.all_children or children is not node.children:
            return same_ends(known.children, children)
        return fitted_span(told, len(known.children), len(children))

    def forget(self, gone: Iterable[int]) -> None:
        """Drop what is remembered of nodes that are no longer in the document, and of what was made of them."""
        gone = list(gone)
        for node_id in gone:
            if node_id in self.rows:
                gone += (m.id for c in self.rows[node_id].children if c.id < 0 for m in walk(c))
            for kept in (self.entries, self.rows, self.spans, self.knockouts, self.holes, self.boxes):
                kept.pop(node_id, None)

    def note_throws(self, throws: frozenset[int]) -> None:
        """These nodes' shadows lie with the sheets they fall on now, all others' with their nodes. That hangs on what
        is around a node, so after a change nothing is taken over unasked."""
        changed = throws ^ self.throws
        self.throws = throws
        if not any(k in self.entries for k in changed):
            return
        self.rows.clear()
        self.spans.clear()
        for k in changed:
            self.entries.pop(k, None)
        for entry in self.entries.values():
            entry.alone = False

    def heights_of(self, document: Document) -> Heights:
        """How high its sheets lie; the same while no object changes."""
        known = self.heights if self.heights is not None and self.heights[1] == document.sheet else None
        if known is not None and known[0] is document.root:
            known[2].moving = False
            return known[2]
        self.heights = (document.root, document.sheet, heights_of(document, known[2] if known is not None else None))
        return self.heights[2]

    def stock_of(self, root: Node) -> frozenset[int]:
        """What is marked as stock, with all in it. Nodes that stay the same objects are not looked through again."""
        if self.stock is None or self.stock[0] is not root:
            self.stock = (root, _stock_of(root))
        return self.stock[1]


@dataclass(frozen=True, slots=True)
class Around:
    """What decides how a node looks beside itself: its place, the light on it, the colour its shadows fall on, the
    other shapes that its recipe refers to; and what lies behind it, each part with the ingredient it comes from."""

    world: Affine
    light: Light
    beneath: Colour
    clips: Others
    soft: tuple[tuple[Ingredient, Item], ...]
    inside: tuple[tuple[Ingredient, Item], ...] = ()  # on it, beneath its finish
    by_height: bool = False  # whether shadows that fall by height are among what lies behind it
    finished_sheets: tuple[str, ...] = ()  # on whose finish they lie
    meets_others: bool = False  # whether they were one with shadows of objects that are not noted together
