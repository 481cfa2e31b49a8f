"""What lies under a point of the sheet."""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import takewhile

import numpy as np

from volumen.geometry.affine import Affine, Floats, Point, apply, invert, mean_scale, multiply
from volumen.geometry.boolean import fill_holes
from volumen.geometry.curve import flatten
from volumen.geometry.engine import contains, outline_of_line
from volumen.geometry.path import Box, boxes_meet, grow_box, in_box, transform_box, union_box
from volumen.geometry.pieces import all_segments, nearest_segment
from volumen.model.ingredients import Line
from volumen.model.nodes import CombinedForm, Document, Group, Image, Node, Shape
from volumen.model.tree import chain_to, members, painted_children, place_of
from volumen.outline.blocks import block_of, block_walls, drawn_edges, shift_of, swept
from volumen.outline.lines import is_filled
from volumen.outline.making import shown_children
from volumen.outline.outlines import member_path, outline, pieces
from volumen.outline.silhouettes import whole_outline


def hit(document: Document, at: Point, slack: float = 2.0) -> list[int]:
    """The ids from outermost to innermost of the front-most visible, unlocked shape at ``at``; empty if none.

    ``slack`` widens lines and thin outlines, in sheet units.
    """
    return _hit(document.root, document.root.transform, at, slack, document.lamp.away)


def hit_member(document: Document, node_id: int, at: Point) -> int | None:
    """The front-most member of a combination at a point, whether its area shows or was taken away."""
    chain = chain_to(document, node_id)
    world = place_of(chain)
    inverse = invert(world)
    if not chain or inverse is None:
        return None
    local = apply(inverse, at)
    found = (m.id for m in reversed(members(chain[-1])) if contains(member_path(m, world), *local))
    return next(found, None)


def hit_guide(document: Document, chosen: Iterable[int], at: Point) -> int | None:
    """What guides one of some objects and has a place in its inside, or is one of them itself: a bound of rays, the
    area of a scatter, the closed path that something runs along. It is not painted, so ``hit`` never finds it."""
    for node_id in chosen:
        chain = chain_to(document, node_id)
        if not chain:
            continue
        if chain[-1].member:
            if len(chain) > 1 and _holds(chain[-1], place_of(chain[:-1]), at):
                return node_id
            continue
        world = place_of(chain)
        guides = [c for c in chain[-1].children if c.member]
        found = next((m.id for m in reversed(guides) if _holds(m, world, at)), None)
        if found is not None and not is_combined(chain[-1]):
            return found
    return None


def is_combined(node: Node) -> bool:
    """Whether a node's members make its outline, so that their areas show."""
    return isinstance(node, Shape) and isinstance(node.form, CombinedForm)


def _holds(member: Node, parent: Affine, at: Point) -> bool:
    inverse = invert(parent)
    return inverse is not None and contains(member_path(member, parent), *apply(inverse, at))


def hit_within(document: Document, at: Point, slack: float = 2.0) -> list[int]:
    """Like ``hit``, where nothing is hit also what lies round a place: in the hole of a ring or the counter of a
    letter."""
    found = hit(document, at, slack)
    return found or _hit(document.root, document.root.transform, at, slack, document.lamp.away, holes=True)


def shape_at(parent: Node, world: Affine, at: Point, slack: float = 2.0) -> tuple[Shape, Affine] | None:
    """The front-most shape that shows at a place, a copy that a repeat makes too, and its place on the sheet."""
    for node in reversed(shown_children(parent)):
        if not node.visible or node.locked or isinstance(node, Image):
            continue
        m = multiply(world, node.transform)
        if isinstance(node, Shape):
            hit_here = _hit_shape(node, m, at, slack, None, False)
            if not hit_here:
                continue
            return (shape_at(node, m, at, slack) if len(hit_here) > 1 else None) or (node, m)
        found = shape_at(node, m, at, slack)
        if found is not None:
            return found
    return None


def _hit(
    parent: Node, world: Affine, at: Point, slack: float, away: Point | None, only: tuple[Node, ...] | None = None,
    holes: bool = False,
) -> list[int]:  # fmt: skip
    """``away`` leads from the lamp; None where no lamp shines. ``holes`` counts those of outlines as their inside."""
    for node in reversed(shown_children(parent) if only is None else only):
        if not node.visible or node.locked:
            continue
        m = multiply(world, node.transform)
        lit = None if node.unlit else node.own_lamp.away if node.own_lamp is not None else away
        if isinstance(node, Group):
            inner = _hit(node, m, at, slack, lit, holes=holes)
            if inner:
                return [node.id, *takewhile(lambda i: i >= 0, inner)]  # of what is made, what makes it is hit
            if lit is not None and _on_walls(node, m, at, slack, lit):
                return [node.id]
        elif isinstance(node, Image):
            inverse = invert(m)
            if inverse is not None and in_box((0.0, 0.0, node.width, node.height), *apply(inverse, at)):
                return [node.id]
        else:
            inner = _hit_shape(node, m, at, slack, lit, holes)
            if inner:
                return inner
            if lit is not None and _on_walls(node, m, at, slack, lit):
                return [node.id]
    return []


def _on_walls(node: Shape | Group, world: Affine, at: Point, slack: float, away: Point) -> bool:
    """Whether a place is on a wall of a node's block, or on an edge of it."""
    block = block_of(node.recipe)
    inverse = invert(world)
    if block is None or inverse is None:
        return False
    path, local = whole_outline(node, world), apply(inverse, at)
    near = slack / (mean_scale(world) or 1.0) + block.edge / 2
    box, far = path.bounds(), math.hypot(*(shift_of(block, world, away) or (0.0, 0.0)))
    around = union_box([box, (*block.point, *block.point) if block.point is not None else None])
    if around is None or not (block.own or in_box(grow_box(around, far + near), *local)):
        return False  # walls of intricate outlines take seconds to find
    made = block_walls(node, path, block, world, away)
    if block.faces and contains(swept(path, made), *local):
        return True
    return block.edge > 0 and nearest_segment(all_segments(drawn_edges(path, made, block)), local)[1] <= near


def _hit_shape(node: Shape, world: Affine, at: Point, slack: float, away: Point | None, holes: bool) -> list[int]:
    inverse = invert(world)
    path = outline(node, world)
    box = path.bounds()
    if inverse is None or box is None:
        return []
    local, near = apply(inverse, at), slack / (mean_scale(world) or 1.0)
    lines = [i for i in node.recipe if isinstance(i, Line) and i.on]
    widest = max((_reach(i) for i in lines), default=0.0)
    if not in_box(grow_box(box, widest + near), *local):
        return []
    inside = contains(fill_holes(path) if holes else path, *local)
    if inside and node.children:
        inner = _hit(node, world, at, slack, away, only=painted_children(node))
        if inner:
            return [node.id, *inner]
    filled = node.knockout or is_filled(node, path)
    filled = filled or bool(pieces(node, world))
    if filled and inside:
        return [node.id]
    if lines or not filled:
        band = outline_of_line(path, 2 * (widest + near), "round", "round", 4)
        if contains(band, *local):
            return [node.id]
    return []


def _reach(line: Line) -> float:
    """How far a line stands out from its outline."""
    widest = max((max(p[1], p[2]) for p in line.profile), default=1.0) if line.profile else 1.0
    return line.width * (1.0 if line.side == "outside" else 0.5) * widest


# -- what a frame touches


def touches(node: Node, parent: Affine, frame: Box) -> bool:
    """Whether anything that a node shows lies in a frame on the sheet: lines by their course, areas by their inside."""
    if not node.visible:
        return False
    world = multiply(parent, node.transform)
    if isinstance(node, Image):
        return boxes_meet(transform_box((0.0, 0.0, node.width, node.height), world), frame)
    if isinstance(node, Shape):
        return _shape_touches(node, world, frame)
    return any(touches(c, world, frame) for c in shown_children(node))


def _shape_touches(node: Shape, world: Affine, frame: Box) -> bool:
    path = outline(node, world).transformed(world)
    box = path.bounds()
    lines = [i for i in node.recipe if isinstance(i, Line) and i.on]
    reach = max((_reach(i) for i in lines), default=0.0) * mean_scale(world)
    wide = grow_box(frame, reach)
    if box is None or not boxes_meet(box, wide):
        return False
    if any(_crosses(flatten(c, 0.25)[0], wide) for c in path.contours):
        return True
    unfilled = bool(lines) and not node.knockout and not is_filled(node, path)
    return not unfilled and contains(path, (frame[0] + frame[2]) / 2, (frame[1] + frame[3]) / 2)


def _crosses(points: Floats, frame: Box) -> bool:
    """Whether a row of points (n, 2), joined by straight lines, comes into a frame (clipped as Liang and Barsky do)."""
    l, t, r, b = frame
    a, d = points[:-1], np.diff(points, axis=0)
    start, end = np.zeros(len(a)), np.ones(len(a))
    inside = np.ones(len(a), dtype=bool)
    for k, low, high in ((0, l, r), (1, t, b)):
        still = np.abs(d[:, k]) < 1e-12
        inside &= ~still | ((a[:, k] >= low) & (a[:, k] <= high))
        step = np.where(still, 1.0, d[:, k])
        first, last = (low - a[:, k]) / step, (high - a[:, k]) / step
        start = np.where(still, start, np.maximum(start, np.minimum(first, last)))
        end = np.where(still, end, np.minimum(end, np.maximum(first, last)))
    return bool((inside & (start <= end)).any())
