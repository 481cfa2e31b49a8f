"""The build: a document under its lamp becomes a picture. Unchanged nodes keep their chunks."""

from __future__ import annotations

from dataclasses import dataclass, field

from volumen.build.bounds import items_box
from volumen.build.outline import node_box, outline
from volumen.build.picture import Chunk, Clip, Item, Layer, Picture
from volumen.build.recipe import Light, base_colour, blur_of, glow_item, over_items, paint_items, shadow_item
from volumen.geometry.affine import IDENTITY, Affine, apply, invert, multiply
from volumen.geometry.engine import contains
from volumen.geometry.path import Box, Path, transform_box
from volumen.model.ingredients import Body, CastShadow, Fill, OuterGlow
from volumen.model.nodes import Document, Group, Node, Shape
from volumen.model.tree import walk
from volumen.shading.lamp import shadow_offset
from volumen.shading.paint import Colour

PAPER = Colour(1.0, 1.0, 1.0)
# Receivers of held shadows by id, with their place on the sheet.
Clips = dict[int, tuple[Shape, Affine]]


@dataclass(slots=True)
class Surface:
    """Something a shadow can fall on."""

    box: Box
    path: Path
    world: Affine
    colour: Colour


@dataclass(slots=True)
class Entry:
    """What is remembered of a node: what its chunks depended on, the chunks of what it holds, and its own.

    ``below`` identifies all surfaces that lay beneath it; while it stays the same, so does ``beneath``, the
    colour that its shadow falls on.
    """

    node: Node
    world: Affine
    light: Light
    below: int
    beneath: Colour
    clips: Clips
    surface: Surface | None
    inner: tuple[Chunk, ...]
    chunks: tuple[Chunk, ...]

    def still_holds(self, light: Light, beneath: Colour, clips: Clips, inner: tuple[Chunk, ...]) -> bool:
        """Whether the chunks of the same node in the same place can be used again."""
        return (
            len(self.inner) == len(inner)
            and all(a is b for a, b in zip(self.inner, inner, strict=True))
            and self.beneath == beneath
            and self.light == light
            and len(self.clips) == len(clips)
            and all(a[0] is clips[k][0] and a[1] == clips[k][1] for k, a in self.clips.items() if k in clips)
        )


@dataclass(slots=True)
class Memo:
    """Results of the last build, kept by node id."""

    entries: dict[int, Entry] = field(default_factory=dict)


def build(document: Document, flat: bool = False, memo: Memo | None = None, ground: bool = True) -> Picture:
    """The picture of a document. ``flat`` leaves light and finish out; ``memo`` carries chunks over to the
    next build; ``ground`` False leaves the sheet clear."""
    builder = _Builder(document, Light(document.lamp, flat), memo or Memo())
    chunks = builder.children_chunks(document.root, document.root.transform)
    sheet = document.sheet
    return Picture(sheet.width, sheet.height, sheet.ground if ground else None, tuple(chunks))


def soft_items(document: Document, node_id: int) -> tuple[Item, ...]:
    """The shadows and glows of one node as they stand in the whole document."""
    builder = _Builder(document, Light(document.lamp), Memo())
    builder.children_chunks(document.root, document.root.transform)
    return builder.softs.get(node_id, ())


class _Builder:
    def __init__(self, document: Document, light: Light, memo: Memo) -> None:
        self.softs: dict[int, tuple[Item, ...]] = {}
        self.light = light
        self.memo = memo
        self.below: list[Surface] = []
        self.signature = hash(document.sheet.ground)
        self.sheet_colour = document.sheet.ground or PAPER
        self.receivers = self._find_receivers(document)

    def _find_receivers(self, document: Document) -> Clips:
        """Shapes that shadows are held to, with their place on the sheet."""
        wanted = {
            i.receiver for n in walk(document.root) for i in n.recipe
            if isinstance(i, CastShadow) and i.receiver is not None
        }  # fmt: skip
        found: Clips = {}
        if wanted:
            stack: list[tuple[Node, Affine]] = [(document.root, IDENTITY)]
            while stack:
                node, parent = stack.pop()
                world = multiply(parent, node.transform)
                if node.id in wanted and isinstance(node, Shape):
                    found[node.id] = (node, world)
                stack.extend((c, world) for c in node.children)
        return found

    def children_chunks(self, node: Node, world: Affine) -> list[Chunk]:
        return [c for child in node.children for c in self.chunks_of(child, world)]

    def chunks_of(self, node: Node, parent: Affine) -> tuple[Chunk, ...]:
        if not node.visible:
            return ()
        world = multiply(parent, node.transform)
        hit = self.memo.entries.get(node.id)
        if hit is not None and (hit.node is not node or hit.world != world):
            hit = None
        below = self.signature
        if hit is not None and hit.below == below and hit.light == self.light:
            beneath = hit.beneath
        else:
            beneath = self._beneath(node, world)
        clips = self._clips(node)
        surface = hit.surface if hit is not None else _surface(node, world)
        if surface is not None:
            self.below.append(surface)
            self.signature = hash((below, id(node), world))
        inner = tuple(self.children_chunks(node, world)) if node.children else ()
        if hit is not None and hit.still_holds(self.light, beneath, clips, inner):
            hit.below = below
            return hit.chunks
        items = self.softs[node.id] = self._soft_items(node, world, beneath, clips)
        if isinstance(node, Shape):
            chunks = self._shape_chunks(node, world, items, inner)
        else:
            chunks = self._group_chunks(node, world, items, inner)
        entry = Entry(node, world, self.light, below, beneath, clips, surface, inner, chunks)
        self.memo.entries[node.id] = entry
        return chunks

    def _shape_chunks(
        self, node: Shape, world: Affine, soft: tuple[Item, ...], inner: tuple[Chunk, ...]
    ) -> tuple[Chunk, ...]:
        body: list[Item] = list(paint_items(node, world, self.light))
        held = tuple(i for c in inner for i in c.items)
        if held:
            body.append(Layer(held, clip=Clip(outline(node.form), world)))
        body.extend(over_items(node, world, self.light))
        return _chunk(node, (*soft, *self._finished(node, body, world)))

    def _group_chunks(
        self, node: Group, world: Affine, soft: tuple[Item, ...], inner: tuple[Chunk, ...]
    ) -> tuple[Chunk, ...]:
        blur = 0.0 if self.light.flat else blur_of(node, world)
        behind = _chunk(node, soft)
        if blur <= 0 and node.opacity >= 1 and node.blend == "normal":
            return (*behind, *inner)
        items = [i for c in inner for i in c.items]
        return behind + _chunk(node, tuple(self._finished(node, items, world)))

    def _finished(self, node: Node, items: list[Item], world: Affine) -> list[Item]:
        blur = 0.0 if self.light.flat else blur_of(node, world)
        if items and (blur > 0 or node.opacity < 1 or node.blend != "normal"):
            return [Layer(tuple(items), node.opacity, node.blend, None, blur)]
        return items

    def _soft_items(self, node: Node, world: Affine, beneath: Colour, clips: Clips) -> tuple[Item, ...]:
        if self.light.flat:
            return ()
        items: list[Item] = []
        for i in node.recipe:
            soft = None
            if isinstance(i, CastShadow) and i.on:
                held = clips.get(i.receiver) if i.receiver is not None else None
                clip = Clip(outline(held[0].form), held[1]) if held else None
                tone = base_colour(held[0]) if held else beneath
                soft = shadow_item(node, i, world, self.light.lamp, tone, clip)
            elif isinstance(i, OuterGlow) and i.on:
                soft = glow_item(node, i, world)
            if soft is not None:
                items.append(soft)
        return tuple(items)

    def _clips(self, node: Node) -> Clips:
        """The receivers that a node's shadows are held to."""
        if self.light.flat or not self.receivers:
            return {}
        held = (i.receiver for i in node.recipe if isinstance(i, CastShadow) and i.on and i.receiver is not None)
        return {r: self.receivers[r] for r in held if r in self.receivers}

    def _beneath(self, node: Node, world: Affine) -> Colour:
        """The colour that a node's free shadows fall on: of the front-most surface under their middle."""
        shadows = [i for i in node.recipe if isinstance(i, CastShadow) and i.on and i.colour is None]
        box = _own_box(node, world) if shadows and not self.light.flat else None
        if box is None:
            return PAPER
        dx, dy = shadow_offset(self.light.lamp, node.lift)
        at = ((box[0] + box[2]) / 2 + dx, (box[1] + box[3]) / 2 + dy)
        for surface in reversed(self.below):
            b = surface.box
            if b[0] <= at[0] <= b[2] and b[1] <= at[1] <= b[3]:
                inverse = invert(surface.world)
                if inverse and contains(surface.path, *apply(inverse, at)):
                    return surface.colour
        return self.sheet_colour


def _surface(node: Node, world: Affine) -> Surface | None:
    """What shadows can fall on: a shape that is filled."""
    if not isinstance(node, Shape) or not any(isinstance(i, Fill | Body) and i.on for i in node.recipe):
        return None
    box = _own_box(node, world)
    return Surface(box, outline(node.form), world, base_colour(node)) if box is not None else None


def _own_box(node: Node, world: Affine) -> Box | None:
    if isinstance(node, Shape):
        box = outline(node.form).bounds()
        return transform_box(box, world) if box else None
    inverse = invert(node.transform)
    return node_box(node, multiply(world, inverse)) if inverse else None


def _chunk(node: Node, items: tuple[Item, ...]) -> tuple[Chunk, ...]:
    box = items_box(items)
    return (Chunk(node.id, items, box),) if box is not None else ()
