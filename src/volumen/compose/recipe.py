"""One shape's recipe under the lamp, as drawing instructions.

Order on the sheet, back to front: shadows and glows, fills and bodies, what is held inside, and over that lines,
slivers, inner shadows and glows, relief and grain. Within each of these the recipe's own order counts.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

from volumen.caching import Cache
from volumen.compose.inside import Others, inner_glow, inner_rim, inner_shadow, relief, speckle
from volumen.geometry.affine import Affine, invert, mean_scale, multiply, uneven
from volumen.geometry.engine import PathOpError, combine, drop_specks, in_cubics
from volumen.geometry.path import Path
from volumen.model.catalogue.ingredients import is_lit
from volumen.model.ingredients import Body, Fill, InnerGlow, InnerShadow, Line, Relief, Rim, Sliver, Speckle
from volumen.model.nodes import CombinedForm, Group, Node, Shape
from volumen.outline.derived import derived
from volumen.outline.lines import line_item
from volumen.outline.outlines import outline
from volumen.picture.instructions import Clip, FillPath, FillUncovered, Item, Layer
from volumen.shading.bodies import body_paint, look_of
from volumen.shading.lamp import Lamp, Lights, bearing_vector
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour, Paint, Solid, face_colour
from volumen.shading.slivers import Cut, sliver
from volumen.shading.tones import local_direction

_slivers: Cache[Cut] = Cache("slivers", 3000)  # a turning lamp makes all of them anew every frame
_unlit: Cache[list[Item]] = Cache("what no lamp changes", 5000)
I = TypeVar("I")
INK = Colour(0.05, 0.09, 0.12)
WHITE = Colour(1.0, 1.0, 1.0)


@dataclass(frozen=True, slots=True)
class Light:
    """What a recipe needs to know of its surroundings."""

    lights: Lights
    flat: bool = False
    materials: tuple[Material, ...] = ()

    @property
    def lamp(self) -> Lamp:
        return self.lights.key


def shows_lamps(node: Node) -> bool:
    """Whether what a node shows of its own depends on lamps and materials."""
    if isinstance(node, Shape) and isinstance(node.form, CombinedForm):
        return True  # its members may
    return any(i.on and is_lit(i) for i in node.recipe)


def base_colour(node: Node) -> Colour:
    """The colour a node shows on the whole: its body's, else its topmost fill's."""
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Body) and ingredient.on and ingredient.colour:
            return ingredient.colour
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Fill) and (ingredient.blend == "normal" or isinstance(node, Shape)):
            face = ingredient.face or face_colour(ingredient.paint)
            if face is not None:
                return face
    return base_colour(node.children[0]) if isinstance(node, Group) and node.children else Colour(0.6, 0.6, 0.6)


def body_of(i: Body, node: Node, path: Path, light: Light, world: Affine) -> Paint | None:
    """The paint that a body of ``node`` has under the lamps; ``path`` is its outline, ``world`` its place."""
    colour, made_of = i.colour or base_colour(node), material(i.material, light.materials)
    look = look_of(colour, made_of, i.strength, i.roundness, i.bounce)
    return body_paint(i.kind, path, look, light.lights, world, i.turn)


def sliver_paint(i: Sliver) -> Solid:
    """A sliver's own colour, else ink for shade and white for light."""
    return Solid(i.colour or (INK if i.kind == "shade" else WHITE))


def paint_items(node: Node, world: Affine, light: Light, path: Path) -> tuple[Item, ...]:
    """Fills and bodies over an outline."""
    if path.bounds() is None:
        return ()
    items: list[Item] = []
    for i in node.recipe:
        if isinstance(i, Fill) and i.on:
            items.extend(_same(i, path, world, _filled))
        elif isinstance(i, Body) and i.on and not light.flat:
            paint = body_of(i, node, path, light, world)
            if paint is not None:
                items.append(FillPath(path, world, paint, i.opacity, i.blend))
    if light.flat and not items:
        body = next((i for i in node.recipe if isinstance(i, Body) and i.on), None)
        if body:  # a shape that is all body shows its base colour when flat
            items.append(FillPath(path, world, Solid(body.colour or base_colour(node)), body.opacity, body.blend))
    return tuple(items)


def _lined(i: Line, path: Path, world: Affine) -> list[Item]:
    return [line_item(path, i, world)]


def _filled(i: Fill, path: Path, world: Affine) -> list[Item]:
    return [FillPath(path, world, i.paint, i.opacity, i.blend)]


def _same(i: I, path: Path, world: Affine, make: Callable[[I, Path, Affine], list[Item]]) -> list[Item]:
    """What no lamp changes: the same objects while it stays the same, so that they need not be drawn anew."""
    key = (id(i), id(path), world)
    hit = _unlit.get(key)
    return hit if hit is not None else _unlit.put(key, (i, path), make(i, path, world))


def over_items(node: Node, world: Affine, light: Light, path: Path, others: Others) -> tuple[Item, ...]:
    """What lies over an outline's paints: lines, slivers, inner shadows and glows, relief, grain.

    ``others`` are the shapes, with their places, that slivers are cut by.
    """
    items: list[Item] = []
    for i in node.recipe:
        if not i.on:
            continue
        if isinstance(i, Line) and i.width > 0:
            items.extend(_same(i, path, world, _lined))
        elif light.flat:
            continue
        elif isinstance(i, Sliver):
            items.extend(_sliver_items(i, path, world, light.lamp, others))
        elif isinstance(i, InnerShadow):
            items.extend(inner_shadow(i, path, world, light.lamp, base_colour(node)))
        elif isinstance(i, InnerGlow):
            items.extend(_same(i, path, world, inner_glow))
        elif isinstance(i, Relief):
            items.extend(relief(i, path, world, light.lights))
        elif isinstance(i, Rim) and i.inside:
            items.extend(_same(i, path, world, inner_rim))
        elif isinstance(i, Speckle):
            items.extend(_same(i, path, world, speckle))
    return tuple(items)


def _cut_by_other(i: Sliver, path: Path, world: Affine, others: Others) -> Path:
    """What the outline of another shape leaves of this one, in its own coordinates; empty if it cannot be cut."""
    inverse = invert(world)
    other = others.get(i.other) if i.other is not None else None
    if other is None or inverse is None:
        return Path()
    cutter = outline(*other).transformed(multiply(inverse, other[1]))
    try:
        return in_cubics(drop_specks(combine(path, cutter, "subtract"), i.min_area))
    except PathOpError:
        return Path()


def _cut(i: Sliver, path: Path, world: Affine, lamp: Lamp) -> tuple[Cut, Path, Affine]:
    """A sliver by a moved copy, the outline that it is cut from and their place: the outline's own or, where that
    stretches unevenly, one that keeps angles, so that the sliver is as deep on every side."""
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    depth, least, place = i.depth, i.min_area, world
    if squeeze is not None and back is not None:
        path = derived(path, ("squeezed", squeeze), partial(path.transformed, squeeze))
        scale = mean_scale(squeeze)
        depth, least, place = depth * scale, least * scale * scale, multiply(world, back)
    if i.angle is not None:
        side = bearing_vector(i.angle)
    else:
        side = lamp.toward if (i.kind == "light") != i.sunk else lamp.away
    local = local_direction(side, place)
    key = (id(path), i.by, depth, local, least)
    hit = _slivers.get(key)
    made = hit if hit is not None else _slivers.put(key, path, sliver(path, i.by, depth, local, least))  # fmt: skip
    return made, path, place


def _sliver_items(i: Sliver, path: Path, world: Affine, lamp: Lamp, others: Others) -> list[Item]:
    cut, source, place = Cut(path), path, world
    if i.by == "outline":
        cut = Cut(_cut_by_other(i, path, world, others))
    else:
        cut, source, place = _cut(i, path, world, lamp)
    if cut.path.hull() is None:
        return []
    paint, whole = sliver_paint(i), i.feather <= 0
    opacity, blend = (i.opacity, i.blend) if whole else (1.0, "normal")
    if cut.move is None:
        inside = FillPath(cut.path, place, paint, opacity, blend)
    else:
        inside = FillUncovered(cut.path, place, paint, opacity, blend, outline=source, move=cut.move)
    if whole:
        return [inside]
    return [Layer((inside,), i.opacity, i.blend, Clip(path, world), i.feather * mean_scale(world))]
