"""The palette: swatches, gradients and looks, and everything in the artwork that follows them."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import msgspec

from volumen.edit.placing import own_box, sheet_recipe
from volumen.model.ingredients import Fill, Ingredient, Line, Recipe, without_form_changes
from volumen.model.nodes import Document, Look, Node, Palette, SavedGradient, Swatch
from volumen.model.tree import find, update_nodes, walk, world_of
from volumen.shading.paint import GRADIENTS, Colour, Gradient, Paint, Solid, Stop, tinted

replace = msgspec.structs.replace


def map_paints(document: Document, change: Callable[[Paint], Paint], ids: Iterable[int] | None = None) -> Document:
    """Change paints everywhere, or in some branches only; what does not change stays the same object."""
    roots = [document.root] if ids is None else [n for i in ids if (n := find(document, i)) is not None]
    touched: dict[int, Recipe] = {}
    for root in roots:
        for node in walk(root):
            recipe = tuple(_with_paint(i, change) for i in node.recipe)
            if any(a is not b for a, b in zip(recipe, node.recipe, strict=True)):
                touched[node.id] = recipe
    return update_nodes(document, touched, lambda n: replace(n, recipe=touched[n.id])) if touched else document


def _with_paint(i: Ingredient, change: Callable[[Paint], Paint]) -> Ingredient:
    if not isinstance(i, Fill | Line):
        return i
    made = change(i.paint)
    return i if made is i.paint else replace(i, paint=made)


def with_palette(document: Document, **fields: object) -> Document:
    """A document with some rows of its palette replaced."""
    return replace(document, palette=replace(document.palette, **fields))


# -- swatches


def add_swatches(
    document: Document, colours: Sequence[tuple[str, Colour]], group: str = ""
) -> tuple[Document, list[int]]:
    """New swatches at the end; their ids."""
    palette = document.palette
    made = tuple(Swatch(palette.next_id + k, name, c, group) for k, (name, c) in enumerate(colours))
    changed = replace(palette, swatches=(*palette.swatches, *made), next_id=palette.next_id + len(made))
    return replace(document, palette=changed), [s.id for s in made]


def swatch(document: Document, swatch_id: int | None) -> Swatch | None:
    """The swatch with an id; None if there is none."""
    return next((s for s in document.palette.swatches if s.id == swatch_id), None)


def set_swatch(document: Document, swatch_id: int, **fields: object) -> Document:
    """Change a swatch; a new colour goes to everything that refers to it."""
    swatches = tuple(replace(s, **fields) if s.id == swatch_id else s for s in document.palette.swatches)
    document = with_palette(document, swatches=swatches)
    found = swatch(document, swatch_id)
    if found is None or "colour" not in fields:
        return document

    def follow(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
        return tuple(replace(s, colour=tinted(found.colour, s.tint)) if s.swatch == swatch_id else s for s in stops)

    gradients = tuple(replace(g, stops=follow(g.stops)) for g in document.palette.gradients)
    document = with_palette(document, gradients=gradients)
    return map_paints(document, lambda p: _followed(p, swatch_id, found.colour, follow))


def _followed(
    paint: Paint, swatch_id: int, colour: Colour, follow: Callable[[tuple[Stop, ...]], tuple[Stop, ...]]
) -> Paint:
    if isinstance(paint, Solid):
        made = tinted(colour, paint.tint)
        return replace(paint, colour=made) if paint.swatch == swatch_id and paint.colour != made else paint
    if isinstance(paint, GRADIENTS) and any(s.swatch == swatch_id for s in paint.stops):
        return replace(paint, stops=follow(paint.stops))
    return paint


def remove_swatch(document: Document, swatch_id: int) -> Document:
    """Take a swatch away; colours that referred to it stay as they are."""
    rest = tuple(s for s in document.palette.swatches if s.id != swatch_id)
    document = with_palette(document, swatches=rest)

    def let_go(paint: Paint) -> Paint:
        if isinstance(paint, Solid):
            return replace(paint, swatch=None) if paint.swatch == swatch_id else paint
        if isinstance(paint, GRADIENTS) and any(s.swatch == swatch_id for s in paint.stops):
            stops = tuple(replace(s, swatch=None) if s.swatch == swatch_id else s for s in paint.stops)
            return replace(paint, stops=stops)
        return paint

    return map_paints(document, let_go)


def move_swatch(document: Document, swatch_id: int, before: int | None, group: str | None = None) -> Document:
    """Put a swatch before another (None: at the end), maybe into another group."""
    moved = swatch(document, swatch_id)
    if moved is None or swatch_id == before:
        return document
    if group is not None:
        moved = replace(moved, group=group)
    rest = [s for s in document.palette.swatches if s.id != swatch_id]
    at = next((k for k, s in enumerate(rest) if s.id == before), len(rest))
    return with_palette(document, swatches=(*rest[:at], moved, *rest[at:]))


def groups(palette: Palette) -> list[str]:
    """The names of the groups in the order in which they first appear."""
    return list(dict.fromkeys(s.group for s in palette.swatches))


def colours_in(document: Document, ids: Iterable[int]) -> list[Colour]:
    """The different colours in the paints of some branches, in the order of the pile."""
    seen: dict[Colour, None] = {}
    for i in ids:
        node = find(document, i)
        for inner in walk(node) if node is not None else ():
            for ingredient in inner.recipe:
                if isinstance(ingredient, Fill | Line):
                    paint = ingredient.paint
                    if isinstance(paint, Solid):
                        seen.setdefault(paint.colour)
                    elif isinstance(paint, GRADIENTS):
                        for stop in paint.stops:
                            seen.setdefault(stop.colour)
    return list(seen)


# -- gradients


def save_gradient(document: Document, gradient: Gradient, name: str) -> tuple[Document, int]:
    """Keep a gradient under a name; the document and the gradient's id."""
    palette = document.palette
    saved = SavedGradient(palette.next_id, name, gradient.stops, gradient.oklab)
    changed = replace(palette, gradients=(*palette.gradients, saved), next_id=palette.next_id + 1)
    return replace(document, palette=changed), saved.id


def saved_gradient(document: Document, link: int | None) -> SavedGradient | None:
    """The saved gradient that a paint is linked to; None if there is none."""
    return next((g for g in document.palette.gradients if g.id == link), None)


def follow_link(document: Document, paint: object) -> Document:
    """After an edit of a gradient: if it is linked, the palette's and all others linked to it take its stops."""
    if not isinstance(paint, GRADIENTS) or saved_gradient(document, paint.link) is None:
        return document
    link, stops, oklab = paint.link, paint.stops, paint.oklab
    gradients = tuple(replace(g, stops=stops, oklab=oklab) if g.id == link else g for g in document.palette.gradients)
    document = with_palette(document, gradients=gradients)

    def same(p: Paint) -> Paint:
        if isinstance(p, GRADIENTS) and p.link == link and (p.stops != stops or p.oklab != oklab):
            return replace(p, stops=stops, oklab=oklab)
        return p

    return map_paints(document, same)


def remove_gradient(document: Document, link: int) -> Document:
    """Take a saved gradient out; paints linked to it keep their stops and are linked no more."""
    rest = tuple(g for g in document.palette.gradients if g.id != link)
    return map_paints(
        with_palette(document, gradients=rest),
        lambda p: replace(p, link=None) if isinstance(p, GRADIENTS) and p.link == link else p,
    )


# -- looks


def save_look(document: Document, node: Node, name: str) -> Document:
    """Keep a node's recipe, without its form changes, under a name."""
    palette = document.palette
    recipe = sheet_recipe(without_form_changes(node.recipe), world_of(document, node.id))
    look = Look(palette.next_id, name, recipe, own_box(node))
    return replace(document, palette=replace(palette, looks=(*palette.looks, look), next_id=palette.next_id + 1))


def remove_look(document: Document, look_id: int) -> Document:
    """Take a look out of the palette; objects that have it keep it."""
    return with_palette(document, looks=tuple(k for k in document.palette.looks if k.id != look_id))
