"""The walls of objects with depth, in their own coordinates, and the outline of all that they cover."""

from __future__ import annotations

import math
from functools import partial
from typing import NamedTuple

import msgspec

from volumen.caching import Cache
from volumen.geometry.affine import Affine, Floats, Point, apply, apply_vector, invert, mean_scale
from volumen.geometry.block import walls
from volumen.geometry.boolean import merged
from volumen.geometry.depth import Along, Towards
from volumen.geometry.engine import contains
from volumen.geometry.path import Path, in_box
from volumen.geometry.pieces import all_segments, drawn_by_lot, open_path, without
from volumen.geometry.text import outlines
from volumen.geometry.wall import Wall
from volumen.geometry.winding import simplified
from volumen.model.ingredients import Block, Recipe
from volumen.model.nodes import Node, Shape, TextForm
from volumen.outline.derived import derived
from volumen.outline.forms import text_glyphs
from volumen.outline.outlines import form_changes
from volumen.shading.lamp import bearing_vector

replace = msgspec.structs.replace
_LETTER = 1_000_000  # from one letter with a way of its own to the next in the numbers of edges
_SHALLOW = 1e-6  # a block less deep than this share of its size has no walls
_walls: Cache[tuple[Wall, ...]] = Cache("walls of blocks", 2000)
_swept: Cache[Path] = Cache("outlines of blocks", 2000)
_edges: Cache[tuple[Edge, ...]] = Cache("edges of blocks", 2000)


def block_of(recipe: Recipe) -> Block | None:
    """The block of a recipe: its last one that is on."""
    return next((i for i in reversed(recipe) if isinstance(i, Block) and i.on), None)


def block_walls(node: Node, path: Path, i: Block, world: Affine, away: Point) -> tuple[Wall, ...]:
    """The walls behind the outline ``path`` of a node at ``world``, in its coordinates. ``away`` leads from the lamp on
    the sheet.

    The same outline with the same depth gives the same walls.
    """
    shift = shift_of(i, world, away)
    own = _own_shifts(node, i, world, away)
    key = (id(path), shift, i.point, i.share, own)
    hit = _walls.get(key)
    if hit is not None:
        return hit
    if not own:
        return _walls.put(key, path, tuple(_made(path, i, shift)))
    assert isinstance(node, Shape) and isinstance(node.form, TextForm)
    glyphs = text_glyphs(node.form)
    alone = {c for c, _ in own}
    made = _made(outlines([g for g in glyphs if g.cluster not in alone]), i, shift)
    for cluster, way in own:
        first = _LETTER * (cluster + 1)
        for w in _made(outlines([g for g in glyphs if g.cluster == cluster]), i, way):
            made.append(w._replace(behind=tuple([b._replace(of=b.of + first) for b in w.behind]), way=way))
    return _walls.put(key, path, tuple(made))


def _own_shifts(node: Node, i: Block, world: Affine, away: Point) -> tuple[tuple[int, Point | None], ...]:
    """The ways to the back of letters that go one of their own, by the numbers of their characters."""
    if not i.own or i.point is not None or not isinstance(node, Shape) or not isinstance(node.form, TextForm):
        return ()
    if form_changes(node.recipe):  # its letters may have grown together
        return ()
    return tuple((c, shift_of(replace(i, angle=a), world, away)) for c, a in i.own)


def letter_at(node: Node, world: Affine, at: Point) -> int | None:
    """The number of the character of a text whose letter lies at a place on the sheet; None for none."""
    back = invert(world)
    if back is None or not isinstance(node, Shape) or not isinstance(node.form, TextForm):
        return None
    place = apply(back, at)
    boxes = ((g.cluster, g.path().bounds()) for g in text_glyphs(node.form))
    return next((c for c, box in boxes if box is not None and in_box(box, *place)), None)


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


class Edge(NamedTuple):
    """An edge of a block that is seen. Its ``number`` is three times that of the front's segment that it belongs to,
    plus one for the edge along the depth that begins where the segment does, plus two for the segment's back: it stays
    while the outline does, however deep the block is and wherever it goes."""

    number: int
    path: Path


def block_edges(path: Path, made: tuple[Wall, ...]) -> tuple[Edge, ...]:
    """All edges of a block that are seen, each once. The same front and walls give the same edges."""
    key = (id(path), id(made))
    hit = _edges.get(key)
    if hit is not None:
        return hit
    found = [Edge(3 * k, open_path(s)) for k, s in enumerate(all_segments(clean(path)))]
    sides: dict[tuple[float, float], tuple[int, Floats]] = {}
    for b in (b for w in made for b in w.behind):
        if b.at_back:
            found.append(Edge(3 * b.of + 2, open_path(b.points)))
            continue
        start = round(float(b.points[0, 0]), 5), round(float(b.points[0, 1]), 5)
        known = sides.get(start)
        if known is None or _length(b.points) > _length(known[1]):  # walls that meet have it both
            sides[start] = (b.of if known is None else min(b.of, known[0]), b.points)
    found += [Edge(3 * k + 1, open_path(points)) for k, points in sides.values()]
    return _edges.put(key, (path, made), tuple(found))


def drawn_edges(path: Path, made: tuple[Wall, ...], i: Block) -> Path:
    """The edges that a block draws, as one path."""
    edges = block_edges(path, made)
    gone = edges_left_out(edges, i)
    front = without(clean(path), {n // 3 for n in gone if n % 3 == 0})
    return Path(
        (*front.contours, *(c for e in edges if e.number % 3 and e.number not in gone for c in e.path.contours))
    )


def edges_left_out(edges: tuple[Edge, ...], i: Block) -> set[int]:
    """The numbers of the edges that a block leaves out, by hand and by lot."""
    return set(i.omitted) | drawn_by_lot(sorted({e.number for e in edges}), i.broken, i.seed)


def _length(points: Floats) -> float:
    return math.dist(points[0], points[-1])


def swept(path: Path, made: tuple[Wall, ...]) -> Path:
    """The outline of all that a front and its walls cover."""
    if not made:
        return path
    key = (id(path), id(made))
    hit = _swept.get(key)
    if hit is not None:
        return hit
    all_parts = Path((*clean(path).contours, *(c for w in made for c in w.path.contours)))
    whole = simplified(all_parts)
    # Walls share edges with one another and with the front: the engine may then lose most of them.
    return _swept.put(key, (path, made), merged(all_parts) if any(not _holds(whole, w) for w in made) else whole)


def _holds(whole: Path, wall: Wall) -> bool:
    """Whether an outline covers a wall just behind the middle of its edge."""
    k = len(wall.edge) // 2
    (ax, ay), (bx, by), (u, v) = wall.edge[k - 1 : k + 1].tolist() + [wall.normals[k].tolist()]
    step = math.hypot(bx - ax, by - ay) / 4
    x, y = (ax + bx) / 2 + u * step, (ay + by) / 2 + v * step
    return contains(whole, x, y) or not contains(wall.path, x, y)
