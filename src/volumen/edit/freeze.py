"""Freezing: live ingredients become plain shapes with plain paints that no lamp changes any more."""

from __future__ import annotations

import msgspec

from volumen.build.effects import inner_glow, inner_shadow
from volumen.build.forms import path_form, text_glyphs
from volumen.build.outline import form_changes, outline, pieces
from volumen.build.picture import FillPath, Item, Soft, StrokePath
from volumen.build.recipe import base_colour, body_of, sliver_paint, sliver_path
from volumen.build.scene import light_of, soft_items
from volumen.build.steps import shown_children, steps_of
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply, translation
from volumen.geometry.text import words
from volumen.model.ingredients import (
    FORM,
    LOOK,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    GroundGlow,
    Ingredient,
    InnerGlow,
    InnerShadow,
    Line,
    OuterGlow,
    Recipe,
    Relief,
    Sliver,
    Steps,
    without_form_changes,
)
from volumen.model.nodes import CombinedForm, Document, Group, Node, PathForm, Shape, TextForm
from volumen.model.tree import find, painted_children, parent_of, replace_nodes, walk, world_of
from volumen.shading.paint import ReliefPaint, Solid

replace = msgspec.structs.replace


def to_path(document: Document, node_id: int) -> Document:
    """A shape's form with all its form changes as editable points; the rest of its recipe stays live.

    Text becomes a group with a group for each word and a shape for each glyph. Members of a combination go.
    """
    node = find(document, node_id)
    if not isinstance(node, Shape):
        return document
    changes = form_changes(node.recipe)
    if isinstance(node.form, TextForm) and not changes:
        return text_to_shapes(document, node, node.form)
    if isinstance(node.form, PathForm) and not changes:
        return document
    if pieces(node, world_of(document, node_id)):
        return split_pieces(document, node)
    return replace_nodes(document, {node_id: plain_shape(node, world_of(document, node_id))})


def plain_shape(node: Shape, world: Affine) -> Shape:
    """The shape with its final outline as a path, and nothing live left in its form."""
    form, recipe = path_form(outline(node, world)), without_form_changes(node.recipe)
    return replace(node, form=form, recipe=recipe, children=painted_children(node))


def text_to_shapes(document: Document, node: Shape, form: TextForm) -> Document:
    """Text as a group: one group for each word, in it one shape for each glyph, all with the text's recipe."""
    taker = _Taker(document.next_id)
    own = tuple(i for i in node.recipe if isinstance(i, LOOK))
    rest = tuple(i for i in node.recipe if i not in own)
    out: list[Node] = []
    for word, glyphs in words(form.text, text_glyphs(form)):
        shapes: list[Node] = []
        for glyph in glyphs:
            name = form.text[glyph.cluster] if glyph.cluster < len(form.text) else "glyph"
            shapes.append(Shape(taker.take(), name, path_form(glyph.path()), own))
        out.append(Group(taker.take(), word, tuple(shapes)))
    return _as_group(document, node, tuple(out), rest, taker.next_id)


def split_pieces(document: Document, node: Shape) -> Document:
    """A divided or cut combination as a group of plain shapes, each with the look of the member it shows."""
    taker = _Taker(document.next_id)
    shapes: list[Node] = []
    for member, path in pieces(node, world_of(document, node.id)):
        recipe = tuple(i for i in member.recipe if isinstance(i, LOOK))
        shapes.append(Shape(taker.take(), member.name, path_form(path), recipe))
    rest = without_form_changes(node.recipe)
    return _as_group(document, node, (*shapes, *painted_children(node)), rest, taker.next_id)


def _as_group(
    document: Document, node: Shape, children: tuple[Node, ...], recipe: Recipe, next_id: int
) -> Document:  # fmt: skip
    """The document with a shape replaced by a group in its place, with all that a shape and a group share."""
    shared = {f: getattr(node, f) for f in Group.__struct_fields__}
    group = Group(**{**shared, "children": children, "recipe": recipe})
    return replace(replace_nodes(document, {node.id: group}), next_id=next_id)


class _Taker:
    """Hands out new ids."""

    def __init__(self, next_id: int) -> None:
        self.next_id = next_id

    def take(self) -> int:
        self.next_id += 1
        return self.next_id - 1


def freeze(document: Document, node_id: int) -> Document:
    """Replace a node by plain shapes that look the same; one without live ingredients stays as it is.

    Bodies become gradient fills, slivers and shadows shapes of their own (soft ones with a blur), all in a
    group of the node's name, or in the shape itself where that suffices. A group freezes with all in it.
    """
    node = find(document, node_id)
    if isinstance(node, Group):
        return _freeze_group(document, node.id)
    if not isinstance(node, Shape):
        return document
    world = world_of(document, node_id)
    if pieces(node, world):
        return _freeze_group(split_pieces(document, node), node_id)
    maker = _Freezer(document, node)
    frozen = maker.shape(node, world)
    parent = parent_of(document, node_id)
    outer = world_of(document, parent.id) if parent else IDENTITY
    behind = maker.behind(soft_items(document, node_id), outer)
    result: Node = frozen
    if behind:
        result = Group(maker.take(), node.name, (*behind, replace(frozen, transform=node.transform)))
    document = replace_nodes(document, {node_id: result})
    return replace(document, next_id=maker.next_id)


def _freeze_group(document: Document, group_id: int) -> Document:
    group = find(document, group_id)
    assert isinstance(group, Group)
    softs = soft_items(document, group.id)
    if steps_of(group) is not None:
        document, group = _with_steps(document, group)
    for shape in [n for n in walk(group) if isinstance(n, Shape)]:
        document = freeze(document, shape.id)
    frozen = find(document, group.id)
    if frozen is None or not softs:
        return document
    maker = _Freezer(document, group)
    parent = parent_of(document, group.id)
    behind = maker.behind(softs, world_of(document, parent.id) if parent else IDENTITY)
    plain = replace(frozen, recipe=tuple(i for i in frozen.recipe if isinstance(i, Blur)))
    document = replace_nodes(document, {group.id: Group(maker.take(), group.name, (*behind, plain))})
    return replace(document, next_id=maker.next_id)


def _with_steps(document: Document, group: Group) -> tuple[Document, Group]:
    """A stepped blend with its steps as members of their own."""
    taker = _Taker(document.next_id)

    def numbered(node: Node) -> Node:
        if node.id >= 0:
            return node
        return replace(node, id=taker.take(), children=tuple(numbered(c) for c in node.children))

    children = tuple(numbered(c) for c in shown_children(group))
    plain = replace(group, children=children, recipe=tuple(i for i in group.recipe if not isinstance(i, Steps)))
    document = replace_nodes(document, {group.id: plain})
    return replace(document, next_id=taker.next_id), plain


class _Freezer(_Taker):
    def __init__(self, document: Document, node: Node) -> None:
        super().__init__(document.next_id)
        self.node = node
        self.light = light_of(document)

    def shape(self, node: Shape, world: Affine) -> Shape:
        """The shape itself: plain fills and lines, its slivers as shapes held inside it."""
        path = outline(node, world)
        recipe: list[Ingredient] = []
        slivers: list[Node] = []
        for i in node.recipe:
            if not i.on:
                continue
            if isinstance(i, Body):
                paint = body_of(i, node, path, self.light, world)
                if paint is not None:
                    recipe.append(Fill(paint, i.opacity, i.blend))
            elif isinstance(i, Sliver):
                slivers.extend(self._sliver(node, i, world))
            elif isinstance(i, InnerShadow):
                soft = inner_shadow(i, path, world, self.light.lamp, base_colour(node))
                slivers.extend(self.behind(tuple(soft), world))
            elif isinstance(i, InnerGlow):
                slivers.extend(self.behind(tuple(inner_glow(i, path, world)), world))
            elif not isinstance(i, (*FORM, CastShadow, OuterGlow, ContactShadow, GroundGlow)):
                recipe.append(i)
        if any(isinstance(i, Relief) for i in recipe):  # pixels stay pixels, but under the lamp of now
            node = replace(node, own_lamp=node.own_lamp or self.light.lamp)
        if form_changes(node.recipe) or isinstance(node.form, CombinedForm):
            node = plain_shape(node, world)
        return replace(node, recipe=tuple(recipe), children=(*node.children, *slivers))

    def _sliver(self, node: Shape, i: Sliver, world: Affine) -> list[Node]:
        cut = sliver_path(i, outline(node, world), world, self.light.lamp)
        if not cut:
            return []
        recipe: tuple[Ingredient, ...] = (Fill(sliver_paint(i)),)
        if i.feather > 0:
            recipe += (Blur(i.feather),)
        name = f"{node.name}, {i.kind}"
        return [Shape(self.take(), name, path_form(cut), recipe, opacity=i.opacity, blend=i.blend)]

    def behind(self, softs: tuple[Item, ...], parent: Affine) -> list[Node]:
        """Shadows and glows as blurred groups of plain shapes; ``parent`` maps their new parent to the sheet."""
        back = invert(parent)
        if back is None:
            return []
        out: list[Node] = []
        for soft in softs:
            if isinstance(soft, FillPath) and not isinstance(soft.paint, ReliefPaint):
                fill, place = Fill(soft.paint, soft.opacity, soft.blend), multiply(back, soft.transform)
                out.append(
                    Shape(self.take(), f"{self.node.name}, glow", path_form(soft.path), (fill,), transform=place)
                )
            if not isinstance(soft, Soft):
                continue
            paint = Solid(soft.colour)
            move = multiply(back, translation(*soft.offset))
            parts: list[Node] = []
            for item in soft.items:
                if isinstance(item, FillPath | StrokePath):
                    look: Ingredient = Fill(paint)
                    if isinstance(item, StrokePath):
                        look = Line(paint, item.width, item.cap, item.join, item.miter)
                    form, place = path_form(item.path), multiply(move, item.transform)
                    parts.append(Shape(self.take(), "outline", form, (look,), transform=place))
            blur = (Blur(soft.sigma / (mean_scale(parent) or 1.0)),) if soft.sigma > 0 else ()
            name = f"{self.node.name}, soft"
            node: Node = Group(self.take(), name, tuple(parts), blur, opacity=soft.opacity, blend=soft.blend)
            if soft.clip is not None:
                place = multiply(back, soft.clip.transform)
                inside = invert(place) or IDENTITY
                held = replace(node, transform=inside)
                node = Shape(self.take(), name, path_form(soft.clip.path), (), (held,), place)
            out.append(node)
        return out
