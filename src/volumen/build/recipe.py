"""One shape's recipe under the lamp, as drawing instructions.

Order on the sheet, back to front: shadows and glows, fills and bodies, what is held inside, slivers and
lines. Within each of these the recipe's own order counts.
"""

from __future__ import annotations

import math
from collections import OrderedDict
from dataclasses import dataclass, replace

import msgspec

from volumen.build.bounds import items_box
from volumen.build.lines import line_item
from volumen.build.outline import outline, pieces, remember, uneven
from volumen.build.picture import Clip, FillPath, Item, Layer, Soft, StrokePath
from volumen.build.steps import shown_children
from volumen.geometry.affine import IDENTITY, Affine, Point, apply_vector, invert, mean_scale, multiply, scaling, unit
from volumen.geometry.boolean import fill_holes
from volumen.geometry.engine import PathOpError, outline_of_line, united
from volumen.geometry.offset import offset
from volumen.geometry.path import Box, Path
from volumen.model.ingredients import Blur, Body, CastShadow, Fill, Line, OuterGlow, Rim, Sliver
from volumen.model.nodes import Image, Node, Shape
from volumen.shading.bodies import body_gradient
from volumen.shading.lamp import Lamp, shadow_factor, shadow_offset, shadow_sigma
from volumen.shading.paint import Colour, Gradient, Solid, face_colour
from volumen.shading.slivers import sliver

replace_struct = msgspec.structs.replace
INK = Colour(0.05, 0.09, 0.12)
WHITE = Colour(1.0, 1.0, 1.0)
_SILHOUETTE = Solid(WHITE)


@dataclass(frozen=True, slots=True)
class Light:
    """What a recipe needs to know of its surroundings."""

    lamp: Lamp
    flat: bool = False


def base_colour(node: Node) -> Colour:
    """The colour a node shows on the whole: its body's, else its topmost fill's."""
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Body) and ingredient.on and ingredient.colour:
            return ingredient.colour
    for ingredient in reversed(node.recipe):
        if isinstance(ingredient, Fill):
            face = face_colour(ingredient.paint)
            if face is not None:
                return face
    return Colour(0.6, 0.6, 0.6)


def gradient_of(i: Body, node: Node, box: Box, lamp: Lamp, world: Affine) -> Gradient:
    """The gradient that a body of ``node`` has under the lamp; ``box`` is its outline's box, ``world`` its place."""
    return body_gradient(
        i.kind, box, i.colour or base_colour(node), lamp, world, i.material, i.strength, i.roundness, i.bounce, i.turn
    )  # fmt: skip


def sliver_paint(i: Sliver) -> Solid:
    """A sliver's own colour, else ink for shade and white for light."""
    return Solid(i.colour or (INK if i.kind == "shade" else WHITE))


def paint_items(shape: Shape, world: Affine, light: Light, path: Path | None = None) -> tuple[Item, ...]:
    """Fills and bodies; ``path`` stands in for the shape's own outline."""
    path = outline(shape, world) if path is None else path
    box = path.bounds()
    if box is None:
        return ()
    items: list[Item] = []
    for i in shape.recipe:
        if isinstance(i, Fill) and i.on:
            items.append(FillPath(path, world, i.paint, i.opacity, i.blend))
        elif isinstance(i, Body) and i.on and not light.flat:
            gradient = gradient_of(i, shape, box, light.lamp, world)
            items.append(FillPath(path, world, gradient, i.opacity, i.blend))
    if light.flat and not items:
        body = next((i for i in shape.recipe if isinstance(i, Body) and i.on), None)
        if body:  # a shape that is all body shows its base colour when flat
            items.append(FillPath(path, world, Solid(body.colour or base_colour(shape)), body.opacity, body.blend))
    return tuple(items)


def over_items(shape: Shape, world: Affine, light: Light, path: Path | None = None) -> tuple[Item, ...]:
    """Slivers and lines; ``path`` stands in for the shape's own outline."""
    path = outline(shape, world) if path is None else path
    items: list[Item] = []
    for i in shape.recipe:
        if isinstance(i, Line) and i.on and i.width > 0:
            items.append(line_item(path, i, world))
        elif isinstance(i, Sliver) and i.on and not light.flat:
            items.extend(_sliver_items(i, path, world, light.lamp))
    return tuple(items)


def sliver_path(i: Sliver, path: Path, world: Affine, lamp: Lamp) -> Path:
    """The sliver's outline in the shape's own coordinates; empty if the outlines cannot be cut."""
    if i.angle is not None:
        t = math.radians(i.angle)
        side: Point = (math.sin(t), -math.cos(t))
    else:
        side = lamp.toward if i.kind == "light" else lamp.away
    inverse = invert(world)
    local = unit(apply_vector(inverse, side)) if inverse else None
    try:
        return sliver(path, i.by, i.depth, local or side, i.min_area)
    except PathOpError:
        return Path()


def _sliver_items(i: Sliver, path: Path, world: Affine, lamp: Lamp) -> list[Item]:
    cut = sliver_path(i, path, world, lamp)
    if not cut:
        return []
    paint = sliver_paint(i)
    if i.feather <= 0:
        return [FillPath(cut, world, paint, i.opacity, i.blend)]
    inside = FillPath(cut, world, paint)
    return [Layer((inside,), i.opacity, i.blend, Clip(path, world), i.feather * mean_scale(world))]


def silhouette(node: Node, world: Affine, grow: float = 0.0) -> tuple[Item, ...]:
    """The outlines that throw a node's shadow: its filled area and its lines, all its parts together."""
    if not node.visible or node.knockout or isinstance(node, Image):
        return ()
    rims = rim_items(node, world, _SILHOUETTE, grow)
    if not isinstance(node, Shape):
        inner = (silhouette(c, multiply(world, c.transform), grow) for c in shown_children(node))
        return rims + tuple(item for items in inner for item in items)
    path = outline(node, world)
    items: list[Item] = list(rims)
    filled = any(isinstance(i, Fill | Body) and i.on for i in node.recipe)
    if filled:
        items.append(FillPath(path, world, _SILHOUETTE))
        if grow > 0:
            items.append(StrokePath(path, world, _SILHOUETTE, 2 * grow, "round", "round"))
    for i in node.recipe:
        if isinstance(i, Line) and i.on and i.width > 0:
            items.append(replace(line_item(path, i, world, _SILHOUETTE, grow), opacity=1.0, blend="normal"))
    for _, piece in pieces(node, world):
        items.append(FillPath(piece, world, _SILHOUETTE))
        if grow > 0:
            items.append(StrokePath(piece, world, _SILHOUETTE, 2 * grow, "round", "round"))
    return tuple(items)


def silhouette_path(node: Node, world: Affine) -> Path:
    """The united outline of all that a node shows, on the sheet. Raises PathOpError if it cannot be had."""
    parts = []
    for item in silhouette(node, world):
        if isinstance(item, FillPath):
            parts.append(item.path.transformed(item.transform))
        elif isinstance(item, StrokePath):
            scale = mean_scale(item.transform)
            along = item.path.transformed(item.transform)
            parts.append(outline_of_line(along, item.width * scale, item.cap, item.join, item.miter))
    return united([p for p in parts if p])


_rims: OrderedDict[object, tuple[object, Path]] = OrderedDict()


def rim_items(node: Node, world: Affine, paint: Solid | None = None, grow: float = 0.0) -> tuple[Item, ...]:
    """The rims of a node, widest behind; ``paint`` replaces their colour."""
    rims = [i for i in node.recipe if isinstance(i, Rim) and i.on]
    if not rims:
        return ()
    out: list[Item] = []
    squeeze = uneven(world) or IDENTITY  # outlines are taken where the node's place keeps angles
    back = invert(squeeze)
    if back is None:
        return ()
    for i in sorted(rims, key=lambda r: -r.distance):
        path = _rim_path(node, i, squeeze, grow / (mean_scale(world) or 1.0))
        if path:
            place = multiply(world, back)
            out.append(FillPath(path, place, paint or Solid(i.colour), 1.0 if paint else i.opacity))
    return tuple(out)


def _rim_path(node: Node, i: Rim, squeeze: Affine, grow: float) -> Path:
    """A rim in the node's own coordinates after ``squeeze``; kept while nothing inside the node changes."""
    bare = tuple(r for r in node.recipe if not isinstance(r, Rim))
    form = node.form if isinstance(node, Shape) else None
    key = (bare, id(form), tuple(id(c) for c in node.children), i.distance, i.fill_holes, i.join, squeeze, grow)
    hit = _rims.get(key)
    if hit is not None:
        return hit[1]
    alone = replace_struct(node, recipe=bare, transform=IDENTITY, visible=True)
    try:
        path = silhouette_path(alone, squeeze)
        path = offset(path, i.distance * mean_scale(squeeze) + grow, i.join)
        path = fill_holes(path) if i.fill_holes else path
    except PathOpError:
        path = Path()
    return remember(_rims, key, (node.children, form), path)


def shadow_item(
    node: Node, i: CastShadow, world: Affine, lamp: Lamp, beneath: Colour, clip: Clip | None
) -> Soft | None:
    """The cast shadow of a node, in the place and softness that its lift and the lamp give."""
    items = silhouette(node, world)
    if not items:
        return None
    offset, sigma = shadow_offset(lamp, node.lift), shadow_sigma(lamp, node.lift)
    if i.softness is not None:
        sigma = max(i.softness, 0.0)
    if i.squash != 1:
        items = _squashed(items, i.squash)
    tint = i.colour or shadow_factor(beneath, 1.0)
    return Soft(items, tint, sigma, offset, i.opacity * node.opacity, i.blend, clip)


def _squashed(items: tuple[Item, ...], squash: float) -> tuple[Item, ...]:
    box = items_box(items)
    if box is None:
        return items
    flat = scaling(1, squash, ((box[0] + box[2]) / 2, box[3]))
    out: list[Item] = []
    for item in items:
        if isinstance(item, FillPath):
            out.append(FillPath(item.path, multiply(flat, item.transform), item.paint))
        elif isinstance(item, StrokePath):
            out.append(replace(item, transform=multiply(flat, item.transform)))
    return tuple(out)


def glow_item(node: Node, i: OuterGlow, world: Affine) -> Soft | None:
    items = silhouette(node, world, max(i.spread, 0.0))
    if not items:
        return None
    return Soft(items, i.colour, max(i.size, 0.0) * mean_scale(world), (0.0, 0.0), i.opacity * node.opacity, i.blend)


def blur_of(node: Node, world: Affine) -> float:
    """The standard deviation of all blurs of a node together (variances add)."""
    total = sum(i.size**2 for i in node.recipe if isinstance(i, Blur) and i.on and i.size > 0)
    return math.sqrt(total) * mean_scale(world)
