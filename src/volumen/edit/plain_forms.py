"""Form to path: forms, form changes and combinations as editable points, while the rest of the recipe stays live."""

from __future__ import annotations

from collections.abc import Mapping

import msgspec

from volumen.edit.frozen_items import Taker
from volumen.edit.plainness import is_plain_path
from volumen.geometry.affine import Affine
from volumen.geometry.text import Glyph, words
from volumen.model.ingredients import (
    LOOK,
    REPEATING,
    Block,
    Body,
    CastShadow,
    Fill,
    Ingredient,
    Line,
    Recipe,
    Seams,
    Steps,
    without_form_changes,
)
from volumen.model.nodes import Document, Group, Node, Shape, TextForm
from volumen.model.tree import chain_to, find, painted_children, replace_nodes, update_nodes, walk, world_of
from volumen.outline.forms import path_form, text_glyphs
from volumen.outline.letters import parts_by_glyph
from volumen.outline.outlines import form_changes, outline, pieces

replace = msgspec.structs.replace


def to_path(document: Document, node_id: int) -> Document:
    """A shape's form with all its form changes as editable points; the rest of its recipe stays live.

    Text becomes a group of letters (in a group for each word where there are several); a text whose light needs its
    whole outline, or that holds something, becomes one path instead. Members of a combination go; pieces with looks of
    their own become shapes.
    """
    node = find(document, node_id)
    if not isinstance(node, Shape) or _is_plain(node):
        return document
    world = world_of(document, node_id)
    if isinstance(node.form, TextForm) and not stays_whole(document, node):
        return _letters(document, node, node.form, world)
    if pieces(node, world):
        return _split(document, node, world)
    return replace_nodes(document, {node_id: plain_shape(node, world)})


def _is_plain(node: Shape) -> bool:
    """Whether nothing is live in a shape's form: a path that follows nothing, and no changes of it."""
    return is_plain_path(node.form) and not form_changes(node.recipe)


def plain_shape(node: Shape, world: Affine) -> Shape:
    """The shape with its final outline as a path, and nothing live left in its form."""
    if _is_plain(node):
        return node
    form, recipe = path_form(outline(node, world)), without_form_changes(node.recipe)
    return replace(node, form=form, recipe=recipe, children=painted_children(node))


def stays_whole(document: Document, node: Shape) -> bool:
    """Whether a text becomes one path instead of letters: where it would look another way in letters, or is an end of
    steps, which run between outlines."""
    if not isinstance(node.form, TextForm):
        return False
    above = chain_to(document, node.id)[:-1]
    return _needs_whole(node) or bool(above and any(isinstance(i, Steps) and i.on for i in above[-1].recipe))


def _needs_whole(node: Shape) -> bool:
    """Whether an outline's light would be another on each letter by itself, pieces of its lines are left out, or it
    holds something between its fills and its lines. Bodies are laid on each letter anyway, and what is laid over them
    goes with them."""
    return not _has_body(node.recipe) and (
        bool(painted_children(node))
        or any(i.on and isinstance(i, LOOK) and not isinstance(i, Fill | Line) for i in node.recipe)
        or any(i.on and isinstance(i, Line | Block) and (i.broken > 0 or i.omitted) for i in node.recipe)
    )


def _has_body(recipe: Recipe) -> bool:
    return any(i.on and isinstance(i, Body) for i in recipe)


def _letters(document: Document, node: Shape, form: TextForm, world: Affine) -> Document:
    taker = Taker(document.next_id)
    own = tuple(i for i in node.recipe if isinstance(i, LOOK if _has_body(node.recipe) else Fill | Line))
    rest = tuple(i for i in without_form_changes(node.recipe) if i not in own)
    glyphs = text_glyphs(form)
    paths = parts_by_glyph(outline(node, world), glyphs) if form_changes(node.recipe) else [g.path() for g in glyphs]
    drawn = {id(g): p for g, p in zip(glyphs, paths, strict=True)}
    groups: list[Node] = []
    for word, members in words(form.text, glyphs):
        letters = [
            Shape(taker.take(), letter_name(form, g), path_form(path), own)
            for g in members if (path := drawn[id(g)])
        ]  # fmt: skip
        groups.append(Group(taker.take(), word, tuple(letters)))
    children = groups[0].children if len(groups) == 1 else tuple(groups)
    return _as_group(document, node, (*children, *_holder(node, world, taker)), rest, taker.next_id)


def _holder(node: Shape, world: Affine, taker: Taker) -> tuple[Shape, ...]:
    """What a shape holds, in its outline alone; nothing where it holds nothing."""
    held = painted_children(node)
    return (Shape(taker.take(), node.name, path_form(outline(node, world)), (), held),) if held else ()


def letter_name(form: TextForm, glyph: Glyph) -> str:
    """What an object made of a glyph is called: its letter."""
    return form.text[glyph.cluster] if glyph.cluster < len(form.text) else "glyph"


def _split(document: Document, node: Shape, world: Affine) -> Document:
    """A divided or cut combination as a group of plain shapes, each with the look of the shape it comes from."""
    taker = Taker(document.next_id)
    split = pieces(node, world)
    shapes: list[Node] = [taker.numbered(p.shape) for p in split]
    became: dict[int, tuple[int, ...]] = {node.id: tuple(s.id for s in shapes)}
    for p, made in zip(split, shapes, strict=True):
        became[p.member] = (*became.get(p.member, ()), made.id)
    document, shapes = _fallen_on_pieces(document, shapes, became)
    shapes += _holder(node, world, taker)
    return _as_group(document, node, tuple(shapes), without_form_changes(node.recipe), taker.next_id)


def _fallen_on_pieces(
    document: Document, shapes: list[Node], became: Mapping[int, tuple[int, ...]]
) -> tuple[Document, list[Node]]:
    """The document, and the pieces, with shadows that were held to a combination or to a member of it held to the
    pieces that it ``became``."""

    def held(i: Ingredient) -> Ingredient:
        if not isinstance(i, CastShadow) or not any(r in became for r in i.receivers):
            return i
        return replace(i, receivers=tuple(k for r in i.receivers for k in became.get(r, (r,))))

    def change(n: Node) -> Node:
        return replace(n, recipe=tuple(held(i) for i in n.recipe))

    users = [n.id for n in walk(document.root) if any(held(i) is not i for i in n.recipe)]
    return update_nodes(document, users, change), [change(s) for s in shapes]


def _as_group(
    document: Document, node: Shape, children: tuple[Node, ...], recipe: Recipe, next_id: int
) -> Document:  # fmt: skip
    """The document with a shape replaced by a group in its place, with all that a shape and a group share."""
    recipe = tuple(i for i in recipe if not isinstance(i, (*REPEATING, Seams)))  # these are idle on a shape
    group = group_like(node, children, recipe)
    return replace(replace_nodes(document, {node.id: group}), next_id=next_id)


def group_like(node: Shape, children: tuple[Node, ...], recipe: Recipe) -> Group:
    """A group in place of a shape, with all that a shape and a group share."""
    shared = {f: getattr(node, f) for f in Group.__struct_fields__}
    return Group(**{**shared, "children": children, "recipe": recipe})
