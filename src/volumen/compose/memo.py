"""What is remembered from one build to the next, so that unchanged nodes keep their chunks."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from volumen.compose.beneath import Surface
from volumen.compose.drawing import Others
from volumen.compose.light import Light
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box, Path
from volumen.model.ingredients import Ingredient
from volumen.model.nodes import Node
from volumen.model.tree import walk
from volumen.picture.instructions import Chunk, Item
from volumen.shading.paint import Colour


@dataclass(slots=True)
class Entry:
    """What is remembered of a node: what its chunks depended on, the chunks of what it holds, and its own.

    ``below`` identifies all surfaces that lay beneath it; while it stays the same, so does ``beneath``, the
    colour that its shadow falls on.
    """

    node: Node
    parent: Affine
    world: Affine
    light: Light
    below: int
    beneath: Colour
    clips: Others
    surface: Surface | None
    inner: tuple[Chunk, ...]
    chunks: tuple[Chunk, ...]
    alone: bool = False  # nothing around the node changes its chunks
    unlit: bool = False  # nor do the lamps

    def only_moved(self, node: Node, world: Affine) -> bool:
        """Whether something with nothing inside is the same elsewhere: lamps shine alike on the whole sheet."""
        return self.node is node and self.world[:4] == world[:4] and not node.children and not self.clips

    def lit_as(self, light: Light) -> bool:
        """Whether the chunks are the same under other lights."""
        return self.light is light or (self.unlit and self.light.flat == light.flat) or self.light == light

    def still_holds(self, light: Light, beneath: Colour, clips: Others, inner: tuple[Chunk, ...]) -> bool:
        """Whether the chunks of the same node in the same place can be used again."""
        return (
            self.lit_as(light)
            and len(self.inner) == len(inner)
            and all(a is b for a, b in zip(self.inner, inner, strict=True))
            and self.beneath == beneath
            and len(self.clips) == len(clips)
            and all(a[0] is clips[k][0] and a[1] == clips[k][1] for k, a in self.clips.items() if k in clips)
        )


@dataclass(slots=True)
class Row:
    """Siblings of the last build with their chunks and surfaces; ``alone`` while none depends on another."""

    children: tuple[Node, ...]
    world: Affine
    chunks: list[Chunk] = field(default_factory=list)
    surfaces: list[Surface] = field(default_factory=list)
    chunk_ends: list[int] = field(default_factory=list)
    surface_ends: list[int] = field(default_factory=list)
    alone: bool = True
    light: Light | None = None
    unlit: bool = True  # whether none of it depends on the lamps

    def lit_as(self, light: Light) -> bool:
        """Whether its chunks are the same under other lights."""
        return self.light == light or (self.unlit and self.light is not None and self.light.flat == light.flat)

    def splice(self, low: int, stop: int, new: Row) -> None:
        """Put another row in place of the children ``low`` to ``stop``; where the counts agree nothing else moves."""
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
    rows: dict[int, Row] = field(default_factory=dict)
    knockouts: dict[int, tuple[object, object, list[Chunk]]] = field(default_factory=dict)
    holes: dict[int, tuple[Node, Affine, Path | None]] = field(default_factory=dict)
    last: tuple[Chunk, ...] | None = None  # the chunks of the picture built last
    boxes: dict[int, tuple[Node, Affine, Box | None]] = field(default_factory=dict)
    stock: tuple[Node, frozenset[int]] | None = None  # the root, and the nodes in it that are stock

    def forget(self, gone: Iterable[int]) -> None:
        """Drop what is remembered of nodes that are no longer in the document."""
        for node_id in gone:
            for kept in (self.entries, self.rows, self.knockouts, self.holes, self.boxes):
                kept.pop(node_id, None)

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
