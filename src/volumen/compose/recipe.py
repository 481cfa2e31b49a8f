"""One shape's recipe under the lamp, as drawing instructions.

Order on the sheet, back to front: shadows and glows, fills and bodies, what is held inside, and over that lines,
slivers, inner shadows and glows, relief and grain. Within each of these the recipe's own order counts.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from msgspec.structs import replace

from volumen.caching import Cache
from volumen.compose import behind, blocks, inside, slivers
from volumen.compose.drawing import Others, Over, drawn_over, draws_over
from volumen.compose.face import base_colour
from volumen.compose.light import Light
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.catalogue.ingredients import acts_at, is_lit, references_of
from volumen.model.ingredients import Body, Fill, Ingredient, Line
from volumen.model.nodes import CombinedForm, Node, Shape
from volumen.outline.lines import line_item
from volumen.picture.instructions import FillPath, Item
from volumen.shading.bodies import body_paints, look_of
from volumen.shading.body_truth import Truth, truth_of
from volumen.shading.materials import material
from volumen.shading.paint import Paint, Solid
from volumen.shading.tones import Look

DRAWINGS = (behind, blocks, inside, slivers)  # loading them registers how their ingredients are drawn
_unlit: Cache[Sequence[Item]] = Cache("what no lamp changes", 5000)


def shows_lamps(node: Node) -> bool:
    """Whether what a node shows of its own depends on lamps and materials."""
    if isinstance(node, Shape) and isinstance(node.form, CombinedForm):
        return True  # its members may
    return any(i.on and is_lit(i) for i in node.recipe)


def body_of(i: Body, node: Node, path: Path, light: Light, world: Affine) -> tuple[Paint, ...]:
    """The paints that a body of ``node`` has under the lamps, back to front; ``path`` is its outline, ``world`` its
    place."""
    return body_paints(i.kind, path, _look(i, node, light), light.lights, world, i.turn)


def truth_of_body(i: Body, node: Node, path: Path, light: Light, world: Affine) -> Truth | None:
    """How true those paints are to the body's surface; None for what is not asked about (``truth_of``)."""
    look = _look(i, node, light)
    dull = replace(look, material=replace(look.material, grain=0.0))  # grain is no error
    return truth_of(i.kind, path, dull, light.lights, world, i.turn)


def _look(i: Body, node: Node, light: Light) -> Look:
    colour, made_of = i.colour or base_colour(node), material(i.material, light.materials)
    return look_of(colour, made_of, i.strength, i.roundness, i.bounce)


def paint_items(node: Node, world: Affine, light: Light, path: Path) -> tuple[Item, ...]:
    """Fills and bodies over an outline."""
    if path.bounds() is None:
        return ()
    items: list[Item] = []
    for i in node.recipe:
        if isinstance(i, Fill) and i.on and i.opacity > 0:
            items.extend(_same(i, path, world, partial(_filled, i, path, world)))
        elif isinstance(i, Body) and i.on and not light.flat:
            for paint in body_of(i, node, path, light, world):
                items.append(FillPath(path, world, paint, i.opacity, i.blend))
    if light.flat and not items:
        body = next((i for i in node.recipe if isinstance(i, Body) and i.on), None)
        if body:  # a shape that is all body shows its base colour when flat
            items.append(FillPath(path, world, Solid(body.colour or base_colour(node)), body.opacity, body.blend))
    return tuple(items)


def _filled(i: Fill, path: Path, world: Affine) -> list[Item]:
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
    for i in node.recipe:
        if not i.on or acts_at(i) != "over" or (light.flat and not isinstance(i, Line)):
            continue
        if is_lit(i) or references_of(i):
            items.extend(drawn_over(i, at))
        else:
            items.extend(_same(i, path, world, partial(drawn_over, i, at)))
    return tuple(items)
