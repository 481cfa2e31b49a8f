"""Line to outline: a line becomes a shape of its own, with its width, profile, ends and dashes; its paint the fill."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from volumen.compose.face import base_colour
from volumen.edit.frozen_items import Taker
from volumen.edit.plain_forms import group_like
from volumen.geometry.affine import IDENTITY, Affine
from volumen.geometry.boolean import fill_holes, union_all
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.model.catalogue.ingredients import acts_at, row_of
from volumen.model.ingredients import (
    FORM,
    Body,
    Fill,
    Ingredient,
    InnerShadow,
    Line,
    Recipe,
    Rim,
    Seams,
    without_form_changes,
)
from volumen.model.nodes import Document, Node, Shape
from volumen.model.tree import chain_to, find, replace_nodes, top_level, walk, world_of
from volumen.outline.forms import path_form
from volumen.outline.line_drawing import as_lines
from volumen.outline.lines import is_filled, line_of, line_outline
from volumen.outline.outlines import outline
from volumen.shading.lamp import shadow_factor
from volumen.shading.paint import Along, Linear, Paint

replace = msgspec.structs.replace


def line_to_outline(
    document: Document, ids: Iterable[int], holes_filled: bool = False
) -> tuple[Document, list[int], int]:
    """Every line in some branches as a shape of its own; the ids that stand for them, and how many lines there were.

    A shape that was only a line keeps its name and becomes its band; one that is filled too becomes a group of what
    is filled and its lines, in the order in which they were drawn, under the same shadows and finish.
    """
    taker = Taker(document.next_id)
    changes: dict[int, Node | None] = {}
    made: list[int] = []
    count = 0
    for node_id in top_level(document, ids):
        branch = find(document, node_id)
        assert branch is not None
        made.append(node_id)
        for node in walk(branch):
            lines = _lines_of(node.recipe)
            if not isinstance(node, Shape) or not lines or node.id in changes:
                continue
            drawn = as_lines(node) if node.lines_only else node
            assert isinstance(drawn, Shape)
            changed = _outlined(drawn, world_of(document, node.id), taker, holes_filled)
            changes[node.id] = changed
            count += len(lines)
            made = [changed.id if i == node.id else i for i in made]
    # From the innermost out: a shape that holds others is replaced with what they became.
    for k in reversed(list(changes)):
        outer = changes[k]
        assert outer is not None
        inner = {i: n for i, n in changes.items() if i != k and any(c.id == i for c in walk(outer))}
        changes[k] = _with(outer, inner) if inner else outer
    return replace(replace_nodes(document, changes), next_id=taker.next_id), made, count


def otherwise_on_bands(document: Document, ids: Iterable[int]) -> str:
    """What looks otherwise once lines are outlines, in words: what lay within a line's curve lies on its band then, and
    in a line drawing a band is drawn round, not filled."""
    titles: list[str] = []
    for node_id in top_level(document, ids):
        branch = find(document, node_id)
        for node in walk(branch) if branch is not None else ():
            if isinstance(node, Shape) and _is_only_line(node, outline(node, world_of(document, node.id))):
                titles += [row_of(i).title for i in node.recipe if i.on and _is_within(i)]
        if any(n.lines_only for n in chain_to(document, node_id)[:-1]):
            titles.append("what a line drawing shows of it")
    return ", ".join(dict.fromkeys(titles))


def _is_within(i: Ingredient) -> bool:
    """Whether an ingredient acts within the curve of an outline."""
    if isinstance(i, Rim):
        return i.inside
    return not isinstance(i, Line | Fill) and acts_at(i) in ("over", "paint")


def _is_only_line(node: Shape, path: Path) -> bool:
    return not is_filled(node, path) and len(_lines_of(node.recipe)) == 1 and not node.children


def _lines_of(recipe: Recipe) -> list[Line]:
    """The lines that are drawn."""
    return [i for i in recipe if isinstance(i, Line) and i.on and i.width > 0]


def _with(node: Node, changes: dict[int, Node | None]) -> Node:
    children = tuple(changes.get(c.id) or _with(c, changes) for c in node.children)
    return replace(node, children=children)


def on_band(i: Ingredient) -> Ingredient:
    """What lay on a line as it lies on its outline: a cushion rises from all edges, as a tube along the line does."""
    return replace(i, kind="cushion") if isinstance(i, Body) and i.kind == "tube" else i


def _outlined(node: Shape, world: Affine, taker: Taker, holes_filled: bool) -> Node:
    path = outline(node, world)
    form = tuple(i for i in node.recipe if isinstance(i, FORM))
    rest = without_form_changes(node.recipe)
    lines = _lines_of(rest)
    if _is_only_line(node, path):
        recipe = tuple(
            _filled(i, path) if i is lines[0] else on_band(i)
            for i in rest
            if not (isinstance(i, Line) and i is not lines[0])
        )
        return replace(node, form=path_form(_band(path, lines[0], world, holes_filled)), recipe=recipe)
    whole = tuple(i for i in rest if acts_at(i) in ("behind", "rim", "finish") and not isinstance(i, Seams))
    parts: list[Node] = []
    on_line = {id(i): line_of(node, path, i) for i in rest if isinstance(i, Body)}
    run: list[Ingredient] = [i for i in rest if isinstance(i, Fill | Body) and on_line.get(id(i)) is None]
    base = replace(node, transform=IDENTITY, opacity=1.0, blend="normal", lift=0.0, link=None)
    for i in rest:
        if i in whole or isinstance(i, Fill | Body):
            continue
        if i not in lines:
            run.append(_tinted(i, node))
            continue
        if run or not parts:
            parts, run = [*parts, _part(base, form, run, taker, first=not parts)], []
        band = _band(path, i, world, holes_filled)
        lit = (on_band(b) for b in rest if on_line.get(id(b)) is i)
        parts.append(Shape(taker.take(), f"{node.name}, line", path_form(band), (_filled(i, path), *lit)))
    if run:
        parts.append(_part(base, form, run, taker, first=not parts))
    return replace(group_like(node, tuple(parts), whole), id=taker.take(), link=None)


def _part(base: Shape, form: Recipe, run: list[Ingredient], taker: Taker, first: bool) -> Shape:
    """Some of a recipe on the shape's own outline; the first part keeps its id and what it holds."""
    recipe: Recipe = (*form, *run)
    if first:
        return replace(base, recipe=recipe)
    return replace(base, id=taker.take(), recipe=recipe, children=(), substance=False)


def _tinted(i: Ingredient, node: Shape) -> Ingredient:
    """An inner shadow keeps the colour that the fill gave it."""
    if isinstance(i, InnerShadow) and i.colour is None:
        return replace(i, colour=shadow_factor(base_colour(node), 1.0))
    return i


def _band(path: Path, line: Line, world: Affine, holes_filled: bool) -> Path:
    band = line_outline(path, line, world)
    try:
        band = union_all([band]) if band else band
        return fill_holes(band) if holes_filled else band
    except PathOpError:
        return band


def _filled(line: Line, path: Path) -> Fill:
    return Fill(_laid_down(line.paint, path), line.opacity, line.blend)


def _laid_down(paint: Paint, path: Path) -> Paint:
    """A paint of lines as one of areas: a gradient along or across a line runs from its start to its end."""
    if not isinstance(paint, Along) or not path.contours:
        return paint
    points = path.contours[0].points
    start, end = ((float(p[0]), float(p[1])) for p in (points[0], points[-1]))
    if start == end:
        box = path.bounds() or (0.0, 0.0, 1.0, 1.0)
        start, end = (box[0], box[1]), (box[2], box[3])
    return Linear(paint.stops, start, end, paint.oklab, grain=paint.grain)
