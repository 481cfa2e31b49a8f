"""The walls of objects with depth, in their own coordinates, and the outline of all that they cover."""

from __future__ import annotations

import math
from functools import partial

from volumen.caching import Cache
from volumen.geometry.affine import Affine, Point, apply_vector, invert, mean_scale
from volumen.geometry.block import Wall, walls
from volumen.geometry.depth import Along, Towards
from volumen.geometry.path import Path
from volumen.geometry.winding import simplified
from volumen.model.ingredients import Block, Recipe
from volumen.outline.derived import derived
from volumen.shading.lamp import bearing_vector

_SHALLOW = 1e-6  # a block less deep than this share of its size has no walls
_walls: Cache[tuple[Wall, ...]] = Cache("walls of blocks", 2000)
_swept: Cache[Path] = Cache("outlines of blocks", 2000)


def block_of(recipe: Recipe) -> Block | None:
    """The block of a recipe: its last one that is on."""
    return next((i for i in reversed(recipe) if isinstance(i, Block) and i.on), None)


def block_walls(path: Path, i: Block, world: Affine, away: Point) -> tuple[Wall, ...]:
    """The walls behind an outline at ``world``, in its coordinates. ``away`` leads from the lamp on the sheet.

    The same outline with the same depth gives the same walls.
    """
    shift = shift_of(i, world, away)
    key = (id(path), shift, i.point, i.share)
    hit = _walls.get(key)
    return hit if hit is not None else _walls.put(key, path, tuple(_made(path, i, shift)))


def shift_of(i: Block, world: Affine, away: Point) -> Point | None:
    """The way from the front to the back in an object's own coordinates: where it stands squashed or turned, the depth
    is what it is on the sheet. None for one towards a point."""
    inverse = invert(world)
    if inverse is None or i.point is not None:
        return None
    x, y = away if i.angle is None else bearing_vector(i.angle)
    far = i.depth * mean_scale(world)
    return apply_vector(inverse, (x * far, y * far))


def _made(path: Path, i: Block, shift: Point | None) -> list[Wall]:
    front = clean(path)
    box = front.bounds()
    if box is None:
        return []
    least = _SHALLOW * max(box[2] - box[0], box[3] - box[1])
    if i.point is not None:
        return walls(front, Towards(i.point, i.share, box)) if i.share > _SHALLOW else []
    return walls(front, Along(shift)) if shift is not None and math.hypot(*shift) > least else []


def clean(path: Path) -> Path:
    """An outline without crossings of its own, as walls need it."""
    return derived(path, ("clean",), partial(simplified, path))


def swept(path: Path, made: tuple[Wall, ...]) -> Path:
    """The outline of all that a front and its walls cover."""
    if not made:
        return path
    key = (id(path), id(made))
    hit = _swept.get(key)
    if hit is not None:
        return hit
    all_parts = Path((*clean(path).contours, *(c for w in made for c in w.path.contours)))
    return _swept.put(key, (path, made), simplified(all_parts))
