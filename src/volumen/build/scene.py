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


@dataclass(slots=True)
class Surface:
    """Something a shadow can fall on."""

    box: Box
    path: Path
    world: Affine
    colour: Colour


@dataclass(slots=True)
class Entry:
    """The node object, what else its chunks depended on, the chunks of what it holds, and its own."""

    node: Node
    key: object
    inner: tuple[Chunk, ...]
    chunks: tuple[Chunk, ...]

    def still_holds(self, node: Node, key: object, inner: tuple[Chunk, ...]) -> bool:
        return (
            self.node is node
            and len(self.inner) == len(inner)
            and all(a is b for a, b in zip(self.inner, inner, strict=True))
            and self.key == key
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
        self.sheet_colour = document.sheet.ground or PAPER
        self.receivers = self._find_receivers(document)

    def _find_receivers(self, document: Document) -> dict[int, tuple[Shape, Affine]]:
        """Shapes that shadows are held to, with their place on the sheet."""
        wanted = {
            i.receiver for n in walk(document.root) for i in n.recipe
            if isinstance(i, CastShadow) and i.receiver is not None
        }  # fmt: skip
        found: dict[int, tuple[Shape, Affine]] = {}
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
        beneath, clips = self._shadow_ground(node, world)
        if isinstance(node, Shape):
            self._note_surface(node, world)
        inner = tuple(self.children_chunks(node, world)) if node.children else ()
        key = (world, self.light, beneath, tuple((id(c[0]), c[1]) for c in clips.values()))
        hit = self.memo.entries.get(node.id)
        if hit is not None and hit.still_holds(node, key, inner):
            return hit.chunks
        items = self.softs[node.id] = self._soft_items(node, world, beneath, clips)
        make = self._shape_chunks if isinstance(node, Shape) else self._group_chunks
        chunks = make(node, world, items, inner)  # type: ignore[arg-type]
        self.memo.entries[node.id] = Entry(node, key, inner, chunks)
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

    def _soft_items(
        self, node: Node, world: Affine, beneath: Colour, clips: dict[int, tuple[Shape, Affine]]
    ) -> tuple[Item, ...]:
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

    def _shadow_ground(self, node: Node, world: Affine) -> tuple[Colour, dict[int, tuple[Shape, Affine]]]:
        """The colour that a node's free shadows fall on, and the receivers of its held ones."""
        shadows = [i for i in node.recipe if isinstance(i, CastShadow) and i.on]
        if not shadows or self.light.flat:
            return PAPER, {}
        clips = {i.receiver: self.receivers[i.receiver] for i in shadows if i.receiver in self.receivers}
        box = _own_box(node, world)
        if box is None or all(i.colour for i in shadows):
            return PAPER, clips
        dx, dy = shadow_offset(self.light.lamp, node.lift)
        at = ((box[0] + box[2]) / 2 + dx, (box[1] + box[3]) / 2 + dy)
        for surface in reversed(self.below):
            b = surface.box
            if b[0] <= at[0] <= b[2] and b[1] <= at[1] <= b[3]:
                inverse = invert(surface.world)
                if inverse and contains(surface.path, *apply(inverse, at)):
                    return surface.colour, clips
        return self.sheet_colour, clips

    def _note_surface(self, node: Shape, world: Affine) -> None:
        if any(isinstance(i, Fill | Body) and i.on for i in node.recipe):
            box = _own_box(node, world)
            if box is not None:
                self.below.append(Surface(box, outline(node.form), world, base_colour(node)))


def _own_box(node: Node, world: Affine) -> Box | None:
    if isinstance(node, Shape):
        box = outline(node.form).bounds()
        return transform_box(box, world) if box else None
    inverse = invert(node.transform)
    return node_box(node, multiply(world, inverse)) if inverse else None


def _chunk(node: Node, items: tuple[Item, ...]) -> tuple[Chunk, ...]:
    box = items_box(items)
    return (Chunk(node.id, items, box),) if box is not None else ()
