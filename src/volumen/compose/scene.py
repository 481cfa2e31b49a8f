"""A document under its lamp becomes a picture."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

import msgspec

from volumen.compose.all_bodies import prepare_bodies
from volumen.compose.behind import apart
from volumen.compose.beneath import Surface
from volumen.compose.blocks import with_block
from volumen.compose.drawing import Behind, Others, drawn_behind
from volumen.compose.face import base_colour
from volumen.compose.facts import facts_of
from volumen.compose.fallen import Fallen
from volumen.compose.falling import Falling
from volumen.compose.finish import finished, is_finished
from volumen.compose.heights import casts, holds_lifted
from volumen.compose.knockout import cut_beneath, holes_of
from volumen.compose.light import Light, light_of
from volumen.compose.memo import Around, Entry, Memo, Setting
from volumen.compose.recipe import over_items, paint_items, shows_lamps
from volumen.compose.seams import closed_seams
from volumen.compose.taken_over import TakingOver, shade_chunk
from volumen.geometry.affine import IDENTITY, Affine, invert, multiply
from volumen.geometry.path import Box, Path, transform_box
from volumen.model.catalogue.ingredients import acts_at, references_of, row_of
from volumen.model.ingredients import Body, CastShadow, Fill, Ingredient
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Document, Group, Image, Node, RectangleForm, Shape
from volumen.model.tree import chain_to, place_of, walk
from volumen.outline.boxes import node_box
from volumen.outline.forms import path_form
from volumen.outline.lines import is_filled
from volumen.outline.making import itself
from volumen.outline.outlines import Piece, outline, pieces
from volumen.outline.silhouettes import rim_items, whole_outline
from volumen.picture.bounds import items_box
from volumen.picture.instructions import Bitmap, Chunk, Clip, Item, Layer, Picture, Since
from volumen.picture.shifting import moved_chunk
from volumen.picture.spots import spot_inks
from volumen.picture.stopping import Stop, now_and_then
from volumen.shading.lamp import shadow_offset
from volumen.shading.paint import Colour, Solid

replace = msgspec.structs.replace
PAPER = Colour(1.0, 1.0, 1.0)


def build(
    document: Document, flat: bool = False, memo: Memo | None = None, ground: bool = True, references: bool = False,
    stop: Stop | None = None,
) -> Picture:  # fmt: skip
    """The picture of a document. ``flat`` leaves light and finish out; ``memo`` carries chunks over to the
    next build; ``ground`` False leaves the sheet clear; ``references`` shows reference images.

    ``stop`` is asked now and then; when it says so, Stopped is raised, and the memo must not be used any more.
    """
    memo = memo or Memo()
    light = light_of(document, flat)
    if light != memo.light:
        prepare_bodies(document, light, stop)
    builder = _Composer(document, light, memo, references, now_and_then(stop))
    shade = builder.begin()
    found = builder.children_chunks(document.root, document.root.transform)
    chunks, before = (*shade, *found), memo.last
    since = None
    if not shade and before is not None and builder.spliced is not None and builder.spliced[0] is found:
        since = Since(before, *builder.spliced[1:])
    memo.last, memo.light = chunks, light
    sheet = document.sheet
    return Picture(sheet.width, sheet.height, sheet.ground if ground else None, chunks, since, spot_inks(document))


def around_all(
    document: Document, together: Mapping[int, int] | None = None, stop: Stop | None = None
) -> dict[int, Around]:
    """The surroundings of every node that is seen, steps and what acts on each child included, by its id.

    Where lifts add up, what nodes of ``together`` throw lies behind the branches that they are in (``Fallen``). Raises
    Stopped when ``stop`` says so.
    """
    builder = _Composer(document, light_of(document), Memo(), True, now_and_then(stop))
    builder.noted = {}
    builder.begin()
    builder.fallen = Fallen(builder.falling, together or {}) if builder.falling is not None else None
    builder.children_chunks(document.root, document.root.transform)
    return builder.noted


class _Composer(TakingOver):
    """Composes each node from its recipe and what it holds."""

    def __init__(
        self, document: Document, light: Light, memo: Memo, references: bool = False, stop: Stop | None = None
    ) -> None:
        super().__init__(document, light, memo, stop)
        self.references = references
        self.assets = {a.key: a for a in document.assets}
        self.noted: dict[int, Around] | None = None  # filled in on request
        self.sheet_colour = document.sheet.ground or PAPER
        self.receivers: dict[int, tuple[Shape, Affine] | None] = {}
        self.falling: Falling | None = None
        self.fallen: Fallen | None = None

    def begin(self) -> tuple[Chunk, ...]:
        """Find the shadows that fall by height, where lifts add up; the shade on the ground."""
        may_fall = self.light.by_height and not self.light.flat and holds_lifted(self.document.root)
        heights = self.memo.heights_of(self.document) if may_fall else None
        if heights is None or not heights.falls.of:
            self.memo.note_throws(frozenset())
            return ()
        self.memo.note_throws(heights.throws)
        self.falling = Falling(heights, self.light, self.sheet_colour, self.memo.shades)
        self.shades, self.memo.shades = self.falling.shades(), self.falling.kept
        self.shaded_rows = frozenset(s.parent for s in heights.standing if s is not None and s.node.id in self.shades)
        return shade_chunk(self.document.root.id, self.shades.get(None))

    def _receiver(self, node_id: int) -> tuple[Shape, Affine] | None:
        """A shape that shadows are held to, with its place on the sheet."""
        if node_id not in self.receivers:
            chain = chain_to(self.document, node_id)
            found = chain[-1] if chain else None
            self.receivers[node_id] = (found, place_of(chain)) if isinstance(found, Shape) else None
        return self.receivers[node_id]

    def note_made(self, node: Node, children: tuple[Node, ...], world: Affine) -> None:
        if not any(facts_of(n.recipe).refers for n in walk(node)):
            return
        stack = [(c, world) for c in children if c.id < 0]
        while stack:
            made, parent = stack.pop()
            place = multiply(parent, made.transform)
            if isinstance(made, Shape):
                self.receivers[made.id] = (made, place)
            stack += [(c, place) for c in made.children]

    def composed(self, node: Node, parent: Affine) -> tuple[Chunk, ...]:
        world = multiply(parent, node.transform)
        if isinstance(node, Image):
            return self._image_chunks(node, parent, world)
        known = self.memo.entries.get(node.id)
        hit = known if known is not None and known.node is node and known.world == world else None
        below = self.signature
        if hit is not None and hit.below == below and hit.setting.light == self.light:
            beneath = hit.setting.beneath
        else:
            beneath = self._beneath(node, world)
        clips = self._clips(node)
        if hit is not None:
            surface = hit.surface
        elif known is not None and known.node is node and known.world[:4] == world[:4]:
            surface = known.surface and known.surface.moved_to(world)
        else:
            surface = _surface(node, world)
        if surface is not None:
            self.below.add(surface)
            self.signature = hash((below, id(node)))
        inner = tuple(self.children_chunks(node, world)) if node.children else ()
        split = self._piece_chunks(node, world) if node.children else ()
        shade = self.shades.get(node.id) if self.shades and self.takes_shade_inside(node) else None
        setting = Setting(self.light, beneath, clips, (*split, *inner), shade.items if shade is not None else ())
        if hit is not None and hit.still_holds(setting):
            hit.below, hit.setting.light = below, self.light
            return hit.chunks
        moved = hit is None and known is not None and known.only_moved(node, world)
        if moved and known is not None and known.still_holds(setting):
            dx, dy = world[4] - known.world[4], world[5] - known.world[5]
            known.parent, known.world, known.surface = parent, world, surface
            known.below, known.setting.light = below, self.light
            known.chunks = tuple(moved_chunk(c, dx, dy) for c in known.chunks)
            return known.chunks
        own = itself(node)
        items = self._soft_items(own, world, beneath, clips)
        if isinstance(own, Shape):
            chunks = self._shape_chunks(own, world, items, split, inner, setting)
        else:
            chunks = self._group_chunks(own, world, items, inner, setting)
        if hit is not None:
            alone, unlit = hit.alone, hit.unlit
        else:
            alone = not node.children and not any(row_of(i).beneath for i in node.recipe)
            unlit = not shows_lamps(node)
        alone = alone and not clips and shade is None
        entry = Entry(node, parent, world, below, setting, surface, chunks, alone, unlit)
        self.memo.entries[node.id] = entry
        return chunks

    def _image_chunks(self, node: Image, parent: Affine, world: Affine) -> tuple[Chunk, ...]:
        """A reference picture: shown on the canvas, in no export."""
        if not self.references:
            return ()
        hit = self.memo.entries.get(node.id)
        if hit is not None and (hit.node is not node or hit.world != world):
            hit = None
        frame = frame_of(node)
        beneath, clips = self._beneath(frame, world), self._clips(node)
        setting = Setting(self.light, beneath, clips, ())
        if hit is not None and hit.still_holds(setting):
            return hit.chunks
        asset = self.assets.get(node.asset)
        chunks: tuple[Chunk, ...] = ()
        if asset is not None:
            path = outline(frame, world)
            shown: list[Item] = [Bitmap(asset, world, node.width, node.height)]
            shown += paint_items(node, world, self.light, path)
            shown += over_items(node, world, self.light, path, clips)
            behind = (*self._soft_items(frame, world, beneath, clips), *self._rims(frame, world))
            chunks = _chunk(node, (*behind, *finished(node, shown, world, self.light.flat)))
        alone, unlit = not node.recipe, not shows_lamps(node)
        self.memo.entries[node.id] = Entry(node, parent, world, 0, setting, None, chunks, alone, unlit)
        return chunks

    def _rims(self, node: Node, world: Affine) -> tuple[Item, ...]:
        return rim_items(node, world) if facts_of(node.recipe).rims and not self.light.flat else ()

    def _piece_chunks(self, node: Node, world: Affine) -> tuple[Chunk, ...]:
        """What the pieces of a divided or cut combination show, each with the whole look of its member. What lies in
        front of the combination falls on it as on one."""
        split = pieces(node, world) if isinstance(node, Shape) else ()
        if not split:
            return ()
        mark, below, receivers = self.below.mark(), self.signature, self.receivers
        self.receivers = {**receivers, **_receiving(split, world)}
        found = tuple(c for piece in split for c in self.chunks_of(piece.shape, world))
        self.below.instead(mark, [])
        self.signature, self.receivers = below, receivers
        return found

    def _shape_chunks(
        self, node: Shape, world: Affine, soft: tuple[Item, ...], split: tuple[Chunk, ...], inner: tuple[Chunk, ...],
        setting: Setting,
    ) -> tuple[Chunk, ...]:  # fmt: skip
        path, others = outline(node, world), setting.others
        body: list[Item] = list(paint_items(node, world, self.light, path))
        body.extend(i for c in split for i in c.items)
        body.extend(setting.shade)
        held = tuple(i for c in inner for i in c.items)
        if held:
            body.append(Layer(held, clip=Clip(path, world)))
        body = with_block(node, world, self.light, path, body)
        behind = [*soft, *self._rims(node, world)]
        holes = holes_of(node)
        if holes and (box := items_box((*behind, *body))) is not None:
            behind = cut_beneath(self.memo, holes, world, behind, box)
            body = cut_beneath(self.memo, holes, world, body, box)
        body.extend(over_items(node, world, self.light, path, others))
        return _chunk(node, (*behind, *finished(node, body, world, self.light.flat)))

    def _group_chunks(
        self, node: Group, world: Affine, soft: tuple[Item, ...], inner: tuple[Chunk, ...], setting: Setting
    ) -> tuple[Chunk, ...]:
        behind = _chunk(node, (*soft, *self._rims(node, world)))
        over = self._over_group(node, world, setting.others)
        blocked = facts_of(node.recipe).blocks and not self.light.flat
        if not over and not blocked and not is_finished(node, self.light.flat):
            return (*behind, *inner)
        items = [*(i for c in inner for i in c.items), *setting.shade]
        if blocked:
            items = with_block(node, world, self.light, whole_outline(node, world), items)
        if not self.light.flat and facts_of(node.recipe).seams:
            whole = whole_outline(node, world)
            items = [closed_seams(items, whole, world)] if whole else items
        if over:  # what lies over a group must not blend with what lies beneath it
            items = [Layer((*items, *over), isolated=True)]
        return behind + _chunk(node, tuple(finished(node, items, world, self.light.flat)))

    def _over_group(self, node: Group, world: Affine, others: Others) -> list[Item]:
        """What a group's recipe lays over all that it shows."""
        if not any(i.on and acts_at(i) in ("paint", "over") for i in node.recipe):
            return []
        path = whole_outline(node, world)
        if not path:
            return []
        return [*paint_items(node, world, self.light, path), *over_items(node, world, self.light, path, others)]

    def _soft_items(self, node: Node, world: Affine, beneath: Colour, clips: Others) -> tuple[Item, ...]:
        parts = list(self._soft(node, world, beneath, clips))
        if self.noted is not None:
            around = Around(world, self.light, beneath, clips, tuple(parts))
            self.noted[node.id] = around if self.fallen is None else self.fallen.around(node.id, around)
        return tuple([item for _, item in parts])

    def _soft(self, node: Node, world: Affine, beneath: Colour, clips: Others) -> Iterator[tuple[Ingredient, Item]]:
        """What lies behind a node, each part with the ingredient it comes from."""
        if self.light.flat or not facts_of(node.recipe).behind:
            return
        by_height = casts(node) if self.falling is not None and node.id in self.falling.heights.throws else ()
        for i in node.recipe:
            if i.on and acts_at(i) == "behind" and not any(i is c for c in by_height):
                held = self._held(i, clips) if isinstance(i, CastShadow) and i.receivers else ()
                yield from (
                    (i, item)
                    for item in drawn_behind(
                        i, Behind(node, world, self.light.lights, beneath, held, self.light.materials)
                    )
                )

    def _held(self, i: CastShadow, clips: Others) -> list[tuple[Colour, Clip | None]]:
        """The colours and clips of a shadow's receivers that are there, each without what those before it cover."""
        found = [clips[r] for r in i.receivers if r in clips]
        if len(found) < 2:
            return [(base_colour(shape), Clip(outline(shape, place), place)) for shape, place in found]
        front = {n.id: k for k, n in enumerate(walk(self.document.root))}
        found.sort(key=lambda f: -front.get(f[0].id, 0))
        shown = apart(tuple(outline(shape, place) for shape, place in found), tuple(place for _, place in found))
        return [(base_colour(f[0]), Clip(p, IDENTITY)) for f, p in zip(found, shown, strict=True) if p]

    def _clips(self, node: Node) -> Others:
        """Other shapes that a node's recipe refers to: receivers of its shadows, outlines that cut its slivers."""
        if self.light.flat or not facts_of(node.recipe).refers:
            return {}
        ids = {r for i in node.recipe if i.on for r in references_of(i)}
        return {k: found for k in ids if (found := self._receiver(k)) is not None}

    def _box_of(self, node: Node, world: Affine) -> Box | None:
        known = self.memo.boxes.get(node.id)
        if known is None or known[0] is not node or known[1] != world:
            known = self.memo.boxes[node.id] = (node, world, _own_box(node, world))
        return known[2]

    def _falls_by_height(self, node: Node) -> bool:
        """Whether all that falls from a node takes the colours of the sheets that it falls on."""
        if self.falling is None or node.id not in self.falling.heights.throws or isinstance(node, Image):
            return False
        own = casts(node)
        return all(any(i is c for c in own) for i in node.recipe if i.on and row_of(i).beneath)

    def _beneath(self, node: Node, world: Affine) -> Colour:
        """The colour that a node's free shadows fall on: of the front-most surface under their middle."""
        falls = facts_of(node.recipe).falls and not self.light.flat and not self._falls_by_height(node)
        box = self._box_of(node, world) if falls else None
        if box is None:
            return PAPER
        dx, dy = shadow_offset(self.light.lamp, lift_on_sheet(node, world))
        x, y = (box[0] + box[2]) / 2 + dx, (box[1] + box[3]) / 2 + dy
        surface = self.below.front(x, y)
        return surface.colour if surface is not None else self.sheet_colour


def _receiving(split: tuple[Piece, ...], world: Affine) -> dict[int, tuple[Shape, Affine] | None]:
    """What shadows fall on that pieces of a combination throw on its members: on all that is left of each."""
    left: dict[int, list[Shape]] = {}
    for piece in split:
        left.setdefault(piece.member, []).append(piece.shape)
    found: dict[int, tuple[Shape, Affine] | None] = {}
    for member, shapes in left.items():
        first = shapes[0]
        contours = tuple(c for s in shapes for c in outline(s).contours)
        whole = first if len(shapes) == 1 else replace(first, form=path_form(Path(contours)))
        found[member] = (whole, multiply(world, first.transform))
    return found


def frame_of(node: Image) -> Shape:
    """A picture's box as a filled shape, which throws its shadows."""
    recipe = (Fill(Solid(PAPER)), *node.recipe)
    form = RectangleForm(0.0, 0.0, node.width, node.height)
    return Shape(node.id, node.name, form, recipe, transform=node.transform, lift=node.lift, opacity=node.opacity)


def _surface(node: Node, world: Affine) -> Surface | None:
    """What shadows can fall on: a shape that is filled."""
    if not isinstance(node, Shape) or not node.substance:
        return None
    if node.opacity <= 0 or not _covers(node, world):
        return None
    box = _own_box(node, world)
    return Surface(box, outline(node, world), world, base_colour(node)) if box is not None else None


def _covers(node: Shape, world: Affine) -> bool:
    """Whether something covers the inside of a shape."""
    seen = any(isinstance(i, Fill | Body) and i.on and i.opacity > 0 for i in node.recipe)
    return seen and is_filled(node, outline(node, world))


def _own_box(node: Node, world: Affine) -> Box | None:
    if isinstance(node, Shape):
        box = outline(node, world).bounds()
        return transform_box(box, world) if box else None
    inverse = invert(node.transform)
    return node_box(node, multiply(world, inverse)) if inverse else None


def _chunk(node: Node, items: tuple[Item, ...]) -> tuple[Chunk, ...]:
    box = items_box(items)
    return (Chunk(node.id, items, box),) if box is not None else ()
