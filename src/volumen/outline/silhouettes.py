"""Silhouettes: all that a node shows as plain areas, for shadows, glows, rims and what covers a group."""

from __future__ import annotations

from functools import partial

import msgspec

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply, uneven
from volumen.geometry.boolean import fill_holes
from volumen.geometry.engine import PathOpError, outline_of_line
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.geometry.winding import united
from volumen.model.ingredients import REPEATING, Line, Rim
from volumen.model.nodes import Image, Node, Shape
from volumen.outline.blocks import block_of, block_walls, swept
from volumen.outline.derived import derived
from volumen.outline.lines import is_filled, line_item
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline, pieces
from volumen.picture.instructions import FillPath, Item, StrokePath
from volumen.shading.paint import Colour, Solid

WHITE = Colour(1.0, 1.0, 1.0)
SILHOUETTE = Solid(WHITE)
_silhouettes: Cache[tuple[Item, ...]] = Cache("silhouettes", 5000)  # what is dragged has a new place every frame
_wholes: Cache[Path] = Cache("outlines of groups")


def silhouette(node: Node, world: Affine, grow: float = 0.0) -> tuple[Item, ...]:
    """The outlines that throw a node's shadow: its filled area and its lines, all its parts together, ``grow`` sheet
    units wider.

    The same node in the same place gives the same items.
    """
    if not node.visible or node.knockout or not node.substance or isinstance(node, Image):
        return ()
    key = (id(node), world, grow)
    hit = _silhouettes.get(key)
    if hit is not None:
        return hit
    return _silhouettes.put(key, node, _silhouette(node, world, grow))


def _silhouette(node: Node, world: Affine, grow: float) -> tuple[Item, ...]:
    rims = rim_items(node, world, SILHOUETTE, grow)
    if not isinstance(node, Shape):
        inner = (silhouette(c, multiply(world, c.transform), grow) for c in shown_children(node))
        return (*rims, *_depth_behind(node, world, grow), *(item for items in inner for item in items))
    path = outline(node, world)
    items: list[Item] = [*rims, *_depth_behind(node, world, grow)]
    if is_filled(node, path):
        items += _grown_area(path, world, grow)
    wider = grow / (mean_scale(world) or 1.0)
    for i in node.recipe:
        if isinstance(i, Line) and i.on and i.width > 0:
            line = line_item(path, i, world, SILHOUETTE, wider)
            items.append(msgspec.structs.replace(line, opacity=1.0, blend="normal"))
    for piece in pieces(node, world):
        items += _silhouette(piece.shape, multiply(world, piece.shape.transform), grow)
    return tuple(items)


def _depth_behind(node: Node, world: Affine, grow: float) -> list[Item]:
    """What the block of a node covers, where it does not follow the lamp: then its shadow falls the same way."""
    i = block_of(node.recipe)
    if i is None or (i.angle is None and i.point is None):
        return []
    path = whole_outline(node, world)
    made = block_walls(node, path, i, world, (0.0, 0.0))
    return _grown_area(swept(path, made), world, grow) if made else []


def _grown_area(path: Path, world: Affine, grow: float) -> list[Item]:
    """An area, and the round line that makes it ``grow`` sheet units wider on every side."""
    area = FillPath(path, world, SILHOUETTE)
    if grow <= 0:
        return [area]
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    if squeeze is not None and back is not None:
        path, world = derived(path, ("squeezed", squeeze), partial(path.transformed, squeeze)), multiply(world, back)
    width = 2 * grow / (mean_scale(world) or 1.0)
    return [area, StrokePath(path, world, SILHOUETTE, width, "round", "round")]


def silhouette_path(node: Node, world: Affine, grow: float = 0.0) -> Path:
    """The united outline of all that a node shows, on the sheet. Raises PathOpError if it cannot be had."""
    parts = []
    for item in silhouette(node, world, grow):
        if isinstance(item, FillPath):
            parts.append(item.path.transformed(item.transform))
        elif isinstance(item, StrokePath):
            scale = mean_scale(item.transform)
            along = item.path.transformed(item.transform)
            parts.append(outline_of_line(along, item.width * scale, item.cap, item.join, item.miter))
    return united([p for p in parts if p])


_rims: Cache[Path] = Cache("rims")


def rim_items(node: Node, world: Affine, paint: Solid | None = None, grow: float = 0.0) -> tuple[Item, ...]:
    """The rims of a node, widest behind; ``paint`` replaces their colour."""
    rims = [i for i in node.recipe if isinstance(i, Rim) and i.on and not i.inside]
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
        return hit
    alone = msgspec.structs.replace(node, recipe=bare, transform=IDENTITY, visible=True, substance=True)
    try:
        path = silhouette_path(alone, squeeze)
        path = offset(path, i.distance * mean_scale(squeeze) + grow, i.join)
        path = fill_holes(path) if i.fill_holes else path
    except PathOpError:
        path = Path()
    return _rims.put(key, (node.children, form), path)


def whole_outline(node: Node, world: Affine) -> Path:
    """A node's outline in its own coordinates: a shape's own, a group's united from all it shows; even-odd then."""
    if isinstance(node, Shape):
        return outline(node, world)
    children = shown_children(node)
    key = tuple(id(c) for c in children)
    hit = _wholes.get(key)
    if hit is not None:
        return hit
    kept = tuple(i for i in node.recipe if isinstance(i, REPEATING))
    alone = msgspec.structs.replace(node, transform=IDENTITY, recipe=kept, visible=True)
    try:
        path = silhouette_path(alone, IDENTITY)
    except PathOpError:
        path = Path()
    return _wholes.put(key, children, path)
