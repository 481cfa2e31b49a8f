"""Freezing: live ingredients become plain shapes with plain paints that no lamp changes any more.

It goes through the picture: what is drawn, under the lamps that shine on it where it stands, is what comes out, in
the same order. What no plain shape can be (a relief, a glow of several colours, grain, blurs) stays as an ingredient
that follows no lamp, and is told.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from dataclasses import replace as with_changes

import msgspec

from volumen.compose.blocks import bevel_of
from volumen.compose.bodies_on import blend_of, body_of, text_of
from volumen.compose.face import base_colour
from volumen.compose.facts import facts_of
from volumen.compose.knockout import cut_beneath, holes_of
from volumen.compose.light import light_at
from volumen.compose.memo import Around, Memo
from volumen.compose.recipe import over_items
from volumen.compose.scene import PAPER, around_all, frame_of
from volumen.edit.frozen_bodies import frozen_bodies, line_under
from volumen.edit.frozen_colours import adjusted
from volumen.edit.frozen_faces import with_faces
from volumen.edit.frozen_items import NodeMaker
from volumen.edit.frozen_ramps import ramped_nodes
from volumen.edit.frozen_shade import lying_over
from volumen.edit.plain_forms import plain_shape
from volumen.edit.plainness import is_plain, is_same
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.geometry.primitives import rectangle
from volumen.model.catalogue.forms import FORM_ROWS
from volumen.model.catalogue.ingredients import acts_at, row_of
from volumen.model.ingredients import (
    Adjust,
    Block,
    Blur,
    Body,
    Feather,
    Fill,
    Ingredient,
    InnerShadow,
    Line,
    Recipe,
    Relief,
    Seams,
    Sliver,
)
from volumen.model.nodes import Document, FromMembers, Group, Image, Node, PathForm, Shape, TextForm
from volumen.model.tree import chain_to, find, replace_nodes, top_level, update_nodes, walk, world_of
from volumen.outline.forms import path_form
from volumen.outline.line_drawing import as_lines
from volumen.outline.lines import is_broken, line_of
from volumen.outline.making import all_shown, itself, repeats_of, shared_ingredients, shown_children
from volumen.outline.outlines import form_changes, outline, pieces
from volumen.outline.silhouettes import rim_items, silhouette_path, whole_outline
from volumen.picture.bounds import items_box
from volumen.picture.instructions import Item, Soft
from volumen.picture.stopping import Stop, raise_if
from volumen.shading.lamp import shadow_factor
from volumen.shading.mesh_paints import stored
from volumen.shading.paint import Along, Solid

replace = msgspec.structs.replace


@dataclass(frozen=True, slots=True)
class Frozen:
    """What freezing made: the document, the ids that stand for what was asked, and what became of it in words."""

    document: Document
    ids: list[int]
    told: str


def freeze(document: Document, ids: Iterable[int], stop: Stop | None = None) -> Frozen:
    """Replace objects, with all in them, by plain shapes that look the same; what is plain already stays as it is.
    Raises Stopped when ``stop``, asked now and then, says so."""
    told: list[str] = []
    order = []
    for node_id in top_level(document, ids):
        above = next((p for p in chain_to(document, node_id)[:-1] if repeats_of(p) or shared_ingredients(p)), None)
        if above is not None:
            told.append(f"what lies in '{above.name}' is made by it: freeze that group instead")
        else:
            order.append(node_id)
    freezer = _Freezer(document, order, stop)
    changes: dict[int, Node | None] = {}
    made: list[int] = []
    for node_id in order:
        node = find(document, node_id)
        assert node is not None
        frozen = freezer.node(node, world_of(document, node_id))
        made.append(frozen.id)
        if frozen is not node:
            changes[node_id] = frozen
    if changes:
        told = [freezer.words(), *told, *lying_over(document, order, freezer.around)]
        cut = [n.id for i in changes for n in chain_to(document, i) if n.link is not None]
        linked = cut or any(n.link is not None for i in changes if (b := find(document, i)) for n in walk(b))
        told += ["cut from their linked copies"] if linked else []
        document = update_nodes(document, cut, lambda n: replace(n, link=None))
        document = replace(replace_nodes(document, changes), next_id=freezer.next_id)
    elif order:
        told.append("nothing live in it: it is plain already")
    return Frozen(document, made, "; ".join(t for t in told if t))


_PLACED = ("transform", "visible", "locked", "lift", "member", "knockout", "keep_vector", "link", "substance", "stock")


class _Freezer(NodeMaker):
    def __init__(self, document: Document, ids: Iterable[int], stop: Stop | None = None) -> None:
        super().__init__(document.next_id)
        self.document, self.stop = document, stop
        together = {n.id: i for i in ids if (b := find(document, i)) for n in all_shown(b)}
        self.around = around_all(document, together, stop)
        hidden = [n.id for i in ids if (b := find(document, i)) for n in walk(b) if not n.visible]
        if hidden:  # what is hidden freezes as it would be seen
            seen = around_all(update_nodes(document, hidden, lambda n: replace(n, visible=True)), together, stop)
            self.around = {**seen, **self.around}
        self.made: Counter[str] = Counter()
        self.kept: Counter[str] = Counter()

    def words(self) -> str:
        text = "frozen"
        if self.made:
            text += " into plain shapes: " + ", ".join(self.made)
        return text + (f"; still ingredients, which no lamp changes: {', '.join(self.kept)}" if self.kept else "")

    def node(self, node: Node, world: Affine) -> Node:
        """A node frozen, with all in it; the same object if it is plain."""
        raise_if(self.stop)
        if node.lines_only:
            self.made["lines"] += 1
            node = as_lines(node)
        if is_plain(node):
            for words in {row_of(i).stays for n in walk(node) for i in n.recipe} - {""}:
                self.kept[words] += 1
            return node
        around = self.around.get(node.id) or Around(world, light_at(self.document, node.id), PAPER, {}, ())
        if isinstance(node, Shape) and (node.knockout or node.member):
            return plain_shape(node, world)
        if isinstance(node, Group) and node.knockout:
            return self._cutter(node, around.world)
        if isinstance(node, Group):
            frozen = self._group(node, around)
        elif isinstance(node, Shape):
            frozen = self._shape(node, around)
        else:
            frozen = self._image(node, around)
        return node if is_same(frozen, node) else frozen

    # -- kinds of nodes

    def _cutter(self, node: Group, world: Affine) -> Node:
        """A group that lets the stock show, as one shape: the area that it takes away."""
        back = invert(world)
        try:
            area = silhouette_path(replace(node, knockout=False), world) if back is not None else Path()
        except PathOpError:
            area = Path()
        if back is None or not area:
            return node
        self.made["one outline that lets the stock show"] += 1
        shape = Shape(node.id, node.name, path_form(area.transformed(back)), (Fill(Solid(PAPER)),))
        shared = {f: getattr(node, f) for f in _PLACED}
        return replace(shape, **shared)

    def _shape(self, node: Shape, around: Around) -> Node:
        if isinstance(node.form, TextForm | FromMembers):
            self.made[FORM_ROWS[type(node.form)].made] += 1
        path = outline(node, around.world)
        held = tuple(self.node(c, multiply(around.world, c.transform)) for c in shown_children(node))
        split = pieces(node, around.world)
        base: Node
        if split:
            flat = tuple(self.numbered(self.node(p.shape, multiply(around.world, p.shape.transform))) for p in split)
            rest = replace(self._bare(node, path, IDENTITY), recipe=(), children=held)
            base = Group(node.id, node.name, (*flat, rest) if held else flat)
            inner: list[Node] = [base, *self._over(node, path, around, around.world, _overs(node, around.light.flat))]
        else:
            form = node.form if isinstance(node.form, PathForm) and not form_changes(node.recipe) else path_form(path)
            base = Shape(node.id, node.name, form, (), held)
            inner = self._layers(node, base, path, around, around.world)
        inner = [*self._with_faces(node, path, around, inner[:1]), *inner[1:]]  # lines reach beyond what seams hold
        return self._assembled(node, inner, around)

    def _bare(self, shape: Shape, path: Path, place: Affine) -> Shape:
        return Shape(self.take(), shape.name, path_form(path), (), transform=place)

    def _image(self, node: Image, around: Around) -> Node:
        if not node.recipe:
            return node
        frame = Path() if around.light.flat else rectangle(0.0, 0.0, node.width, node.height)
        base = Image(node.id, node.name, node.asset, node.width, node.height)
        over: list[Node] = [self._laid(node, frame, (i,)) for i in self._paints(node, frame, around)]
        over += self._over(node, frame, around, around.world, _overs(node, around.light.flat))
        return self._assembled(node, [base, *over], around)

    def _group(self, node: Group, around: Around) -> Node:
        own = itself(node)
        shown = shown_children(node)
        known = {c.id for c in shown}
        hidden = tuple(c for c in node.children if c.id not in known and not c.visible and not c.member)
        children: list[Node] = []
        for child in (*hidden, *shown):
            frozen = self.node(child, multiply(around.world, child.transform))
            children.append(self.numbered(frozen) if child.id < 0 else frozen)
        flat = around.light.flat
        over: list[Node] = []
        wanted = [i for i in own.recipe if i.on and (isinstance(i, Fill) or not flat)]
        if any(acts_at(i) in ("paint", "over") for i in wanted):
            path = whole_outline(own, around.world)
            if path:
                over = [self._laid(own, path, (i,)) for i in self._paints(own, path, around)]
                over += self._over(own, path, around, around.world, _overs(own, flat))
        if facts_of(own.recipe).blocks:
            children = self._with_faces(own, whole_outline(own, around.world), around, children)
        seams = () if flat else tuple(i for i in own.recipe if isinstance(i, Seams) and i.on)
        if seams and over:
            children = [Group(self.take(), node.name, tuple(children), seams)]
            seams = ()
        if seams:
            self.kept["closed seams"] += 1
        base = Group(node.id, node.name, (*children, *over), seams, isolated=bool(over))
        return self._assembled(own, [base], around)

    # -- what a recipe shows

    def _layers(self, node: Shape, base: Shape, path: Path, around: Around, world: Affine) -> list[Node]:
        """A shape with its paints and the first of what lies over it, and the rest as shapes in front of it, in the
        order in which they are drawn."""
        overs = _overs(node, around.light.flat)
        line = line_under(node, path)
        first = next((k for k, i in enumerate(overs) if _is_baked(i) or i is line), len(overs))
        at = with_changes(around, world=world)
        recipe = (*self._paints(node, path, at), *(self._still(i, at) for i in overs[:first]))
        letters = frozen_bodies(self, node, path, at, world) if text_of(node) is not None else []
        if letters:
            self.made["gradients"] += 1
            first, recipe = 0, self._paints(node, path, at)
        rest = [*letters, *self._over(node, path, at, world, overs[first:])]
        moved = tuple(replace(n, transform=multiply(base.transform, n.transform)) for n in rest)
        return [replace(base, recipe=recipe), *moved]

    def _paints(self, node: Node, path: Path, around: Around) -> Recipe:
        """Fills as they are, bodies as the paints that they have under the lamps."""
        out: list[Ingredient] = []
        flat = around.light.flat
        for i in node.recipe:
            if isinstance(i, Fill) and i.on:
                out.append(i)
            elif isinstance(i, Body) and i.on and not flat and text_of(node) is None and line_of(node, path, i) is None:
                self.made["gradients"] += 1
                coats = body_of(i, node, path, around.light, around.world)
                out += [Fill(stored(c.paint), i.opacity, blend_of(c, i)) for c in coats]
        body = next((i for i in node.recipe if isinstance(i, Body) and i.on), None)
        if flat and not out and body is not None:
            out = [Fill(Solid(body.colour or base_colour(node)), body.opacity, body.blend)]
        if body is not None and isinstance(node, Shape):  # it goes on to have the colour that shadows fall on
            tops = [k for k, i in enumerate(out) if isinstance(i, Fill)]
            if tops:
                out[tops[-1]] = replace(out[tops[-1]], face=base_colour(node))
        return tuple(out)

    def _over(
        self, node: Node, path: Path, around: Around, world: Affine, overs: list[Ingredient]
    ) -> list[Node]:  # fmt: skip
        """Nodes in the coordinates of ``node`` for what lies over its paints."""
        out: list[Node] = []
        run: list[Ingredient] = []
        line = line_under(node, path)
        for i in overs:
            if line is not None and i is line:
                out.append(self._laid(node, path, (*run, i)))
                run = []
                self.made["gradients"] += 1
                out += frozen_bodies(self, node, path, around, world)
                continue
            if not _is_baked(i):
                run.append(self._still(i, around))
                continue
            if run:
                out, run = [*out, self._laid(node, path, tuple(run))], []
            self.made[row_of(i).made] += 1
            if isinstance(i, InnerShadow):
                i = replace(i, colour=i.colour or shadow_factor(base_colour(node), 1.0))
            items = over_items(replace(node, recipe=(i,)), world, around.light, path, around.clips)
            out += self.nodes(items, world, f"{node.name}, {_name(i)}")
        return [*out, self._laid(node, path, tuple(run))] if run else out

    def _laid(self, node: Node, path: Path, recipe: Recipe) -> Shape:
        """A shape on an object's outline that shows some of its recipe; lines have substance, light has none."""
        substance = isinstance(node, Shape) and any(isinstance(i, Line) for i in recipe)
        name = f"{node.name}, {_name(recipe[0])}"
        return Shape(self.take(), name, path_form(path), recipe, substance=substance)

    def _still(self, i: Ingredient, around: Around) -> Ingredient:
        """An ingredient that no lamp changes, or no longer."""
        self.kept[row_of(i).stays] += 1
        return replace(i, lights=i.lights or around.light.lights) if isinstance(i, Relief) else i

    def _with_faces(self, node: Node, path: Path, around: Around, inner: list[Node]) -> list[Node]:
        made = with_faces(self, node, path, around, inner)
        self.made["faces"] += made is not inner
        return made

    # -- putting it together

    def _assembled(self, node: Node, inner: list[Node], around: Around) -> Node:
        """What a node shows of itself, finished, with its shadows and glows behind it."""
        parent = multiply(around.world, invert(node.transform) or IDENTITY)
        finish: Recipe = ()
        for i, item in around.inside:
            self.made[row_of(i).made] += 1
            inner = [*inner, *self.nodes((item,), around.world, f"{node.name}, {_name(i)}")]
        if not around.light.flat:
            finish = tuple(i for i in node.recipe if isinstance(i, Blur | Feather) and i.on)
            for i in finish:
                self.kept[row_of(i).stays] += 1
            for a in node.recipe:
                if isinstance(a, Adjust) and a.on:
                    self.made["colour shifts"] += 1
                    inner = [adjusted(n, a) for n in inner]
        shared = {
            "transform": node.transform, "opacity": node.opacity, "blend": node.blend, "isolated": node.isolated
        }  # fmt: skip
        whole: Node
        if len(inner) == 1 and not isinstance(inner[0], Image):
            first = inner[0]
            shared["isolated"] = node.isolated or first.isolated
            whole = replace(first, **shared, recipe=(*first.recipe, *finish))
        else:
            whole = Group(self.take(), node.name, tuple(inner), finish, **shared)  # type: ignore[arg-type]
        behind = [] if around.light.flat else self._behind(node, around, parent)
        lift = node.lift
        if behind:
            whole = Group(self.take(), node.name, (*behind, whole))
            lift *= mean_scale(node.transform)
        return replace(
            whole, visible=node.visible, locked=node.locked, lift=lift, member=node.member, knockout=node.knockout,
            keep_vector=node.keep_vector, substance=node.substance, stock=node.stock,
        )  # fmt: skip

    def _behind(self, node: Node, around: Around, parent: Affine) -> list[Node]:
        """Shadows, glows and rims, back to front, in the coordinates of the node's parent."""
        out: list[Node] = []
        holes = holes_of(node)
        for i, item in around.soft:
            box = items_box((item,))
            if holes and box is not None:
                (item,) = cut_beneath(Memo(), holes, around.world, (item,), box)
            if isinstance(item, Soft) and item.ramp:
                self.kept[row_of(i).stays] += 1
                shape = frame_of(node) if isinstance(node, Image) else node
                out += ramped_nodes(self, shape, i, item, around.world, parent, f"{node.name}, {_name(i)}")
            else:
                self.made[row_of(i).made] += 1
                out += self.nodes((item,), parent, f"{node.name}, {_name(i)}")
        rims: list[Item] = list(rim_items(frame_of(node) if isinstance(node, Image) else node, around.world))
        box = items_box(rims)
        if holes and box is not None:
            rims = cut_beneath(Memo(), holes, around.world, rims, box)
        for rim in self.nodes(rims, parent, f"{node.name}, rim"):
            self.made["rims"] += 1
            out.append(replace(rim, substance=node.substance))
        return out


def _overs(node: Node, flat: bool) -> list[Ingredient]:
    """What lies over a node's paints, in its order."""
    found: list[Ingredient] = []
    for i in node.recipe:
        bevel = bevel_of(i) if isinstance(i, Block) and i.on else None
        if bevel is not None:
            found += [bevel, replace(i, bevel=0.0)]
        elif i.on and acts_at(i) == "over":
            found.append(i)
    return [i for i in found if isinstance(i, Line) or not flat]


def _is_baked(i: Ingredient) -> bool:
    if isinstance(i, Line):  # an area has no gradient along a line that it is the outline of
        return is_broken(i) and not isinstance(i.paint, Along)
    return isinstance(i, Block | Sliver | InnerShadow)


def _name(i: Ingredient) -> str:
    return str(i.kind) if isinstance(i, Sliver | Body) else type(i).__struct_config__.tag  # type: ignore[return-value]
