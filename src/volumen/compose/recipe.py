"""One shape's recipe under the lamp, as drawing instructions.

Order on the sheet, back to front: shadows and glows, fills and bodies, what is held inside, and over that lines,
slivers, inner shadows and glows, relief and grain. Within each of these the recipe's own order counts.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from volumen.caching import Cache
from volumen.compose import behind, blocks, inside, slivers
from volumen.compose.bodies_on import body_items
from volumen.compose.drawing import Others, Over, drawn_over, draws_over
from volumen.compose.face import base_colour
from volumen.compose.light import Light
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.catalogue.ingredients import acts_at, is_lit, references_of
from volumen.model.ingredients import Body, Fill, Ingredient, Line
from volumen.model.nodes import CombinedForm, Node, Shape, TextForm
from volumen.outline.lines import line_item, line_of
from volumen.outline.outlines import source
from volumen.picture.instructions import FillPath, FillText, Item
from volumen.shading.paint import Solid

DRAWINGS = (behind, blocks, inside, slivers)  # loading them registers how their ingredients are drawn
_unlit: Cache[Sequence[Item]] = Cache("what no lamp changes", 5000)


def shows_lamps(node: Node) -> bool:
    """Whether what a node shows of its own depends on lamps and materials."""
    if isinstance(node, Shape) and isinstance(node.form, CombinedForm):
        return True  # its members may
    return any(i.on and is_lit(i) for i in node.recipe)


def paint_items(node: Node, world: Affine, light: Light, path: Path) -> tuple[Item, ...]:
    """Fills and bodies over an outline."""
    if path.bounds() is None:
        return ()
    items: list[Item] = []
    for i in node.recipe:
        if isinstance(i, Fill) and i.on and i.opacity > 0:
            items.extend(_same(i, path, world, partial(_filled, i, node, path, world)))
        elif isinstance(i, Body) and i.on and not light.flat and line_of(node, path, i) is None:
            items.extend(body_items(i, node, path, light, world))
    if light.flat and not items:
        bodies = (i for i in node.recipe if isinstance(i, Body) and i.on)
        body = next((i for i in bodies if line_of(node, path, i) is None), None)
        if body:  # a shape that is all body shows its base colour when flat
            items.append(FillPath(path, world, Solid(body.colour or base_colour(node)), body.opacity, body.blend))
    return tuple(items)


def _filled(i: Fill, node: Node, path: Path, world: Affine) -> list[Item]:
    if isinstance(node, Shape) and isinstance(node.form, TextForm) and path is source(node.form):
        return [FillText(path, world, i.paint, i.opacity, i.blend, words=node.form)]
    return [FillPath(path, world, i.paint, i.opacity, i.blend)]


@draws_over(Line)
def line_items(i: Line, at: Over) -> list[Item]:
    """A line along the outline."""
    return [line_item(at.path, i, at.world)] if i.width > 0 else []


def _same(i: Ingredient, path: Path, world: Affine, make: Callable[[], Sequence[Item]]) -> Sequence[Item]:
    """What no lamp changes: the same objects while it stays the same, so that they need not be drawn anew."""
    key = (id(i), id(path), world)
    hit = _unlit.get(key)
    return hit if hit is not None else _unlit.put(key, (i, path), make())


def over_items(node: Node, world: Affine, light: Light, path: Path, others: Others) -> tuple[Item, ...]:
    """What lies over an outline's paints: lines, slivers, inner shadows and glows, relief, grain.

    ``others`` are the shapes, with their places, that slivers are cut by.
    """
    items: list[Item] = []
    at = Over(node, path, world, light, others)
    bodies = [i for i in node.recipe if isinstance(i, Body) and i.on and not light.flat]
    lines = [line_of(node, path, i) for i in bodies]
    for i in node.recipe:
        if not i.on or acts_at(i) != "over" or (light.flat and not isinstance(i, Line)):
            continue
        if is_lit(i) or references_of(i):
            items.extend(drawn_over(i, at))
        else:
            items.extend(_same(i, path, world, partial(drawn_over, i, at)))
        for body, line in zip(bodies, lines, strict=True):
            if line is i:
                items.extend(body_items(body, node, path, light, world))
    return tuple(items)
