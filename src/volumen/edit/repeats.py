"""Repeats made of a selection, with numbers that fit it, and copies that are let go."""

from __future__ import annotations

import math
from collections.abc import Iterable

import msgspec

from volumen.edit.objects import delete, free_name, group, insert, next_name, selection_box, shown_as_one
from volumen.edit.recipes import with_ingredient
from volumen.geometry.affine import IDENTITY, Point, apply, invert, multiply
from volumen.geometry.curve import length, nearest
from volumen.geometry.path import Box, Path, in_box
from volumen.geometry.primitives import arc_through
from volumen.geometry.spine import Spine
from volumen.model.ingredients import REPEATING
from volumen.model.nodes import Document, EllipseForm, Form, Group, Image, Node, Shape
from volumen.model.repeats import REPEATS, Course, Grid, Mirror, Repeat, Ring, Scatter, ring_with_angle
from volumen.model.tree import find, guides, parent_of, renumbered, top_level, update_nodes, walk, world_of
from volumen.outline.forms import path_form
from volumen.outline.making import repeats_of, shown_before
from volumen.outline.outlines import outline
from volumen.outline.repeats import Standing, box_of, standing

replace = msgspec.structs.replace


def repeat(document: Document, ids: Iterable[int], i: Repeat) -> tuple[Document, int | None]:
    """Let a repeat show objects several times; the id of the group that has it, None where there is nothing.

    A single group gets it after the repeats that it has; anything else is grouped first. For scattering several
    objects the largest shape is the area; along a path, the path is the longest open one, or else the largest shape.
    Where there is none a round one is made. Places and gaps fit what is repeated.
    """
    order = top_level(document, ids)
    single = find(document, order[0]) if len(order) == 1 else None
    holder = order[0] if isinstance(single, Group) else None
    area = None
    if len(order) > 1 and isinstance(i, Scatter | Course):
        area = (_longest_line(document, order) if isinstance(i, Course) else None) or _largest_shape(document, order)
    if holder is None:
        document, holder = group(document, order)
    found = find(document, holder) if holder is not None else None
    if holder is None or not isinstance(found, Group) or not found.children:
        return document, None
    if area is not None:
        document = update_nodes(document, [area], lambda n: replace(n, member=True))
    elif isinstance(i, Scatter | Course) and not guides(found):
        document = _with_guide(document, found, i)
    found = find(document, holder)
    assert isinstance(found, Group)
    box = box_of(shown_before(found, len(found.recipe)))
    made = i if box is None else _fitted(i, box)
    at = 1 + max((k for k, r in enumerate(found.recipe) if isinstance(r, REPEATING)), default=-1)
    name = found.name if isinstance(single, Group) else free_name(document, _called(i))

    def change(n: Node) -> Node:
        return replace(n, name=name, recipe=(*n.recipe[:at], made, *n.recipe[at:]))

    return update_nodes(document, [holder], change), holder


def _called(i: Repeat) -> str:
    if isinstance(i, Course):
        return "garland"
    return ("grid" if i.down > 1 else "row") if isinstance(i, Grid) else type(i).__name__.lower()


def _fitted(i: Repeat, box: Box) -> Repeat:
    """A repeat whose places and gaps suit the size of what is repeated."""
    l, t, r, b = box
    w, h = r - l, b - t
    x, y = (l + r) / 2, (t + b) / 2
    if isinstance(i, Ring):
        return replace(i, centre=(x, y + max(1.5 * max(w, h), 10.0)))
    if isinstance(i, Grid):
        gap = max(0.25 * min(w, h), 1.0)
        return replace(i, x=gap, y=gap)
    if isinstance(i, Mirror):
        return replace(i, centre=(r, y))
    return replace(i, distance=round(1.1 * max(w, h), 1)) if isinstance(i, Scatter) else i


def _largest_shape(document: Document, ids: list[int]) -> int | None:
    sizes = []
    for k in ids:
        node, box = find(document, k), selection_box(document, [k])
        if isinstance(node, Shape) and box is not None:
            sizes.append(((box[2] - box[0]) * (box[3] - box[1]), k))
    return max(sizes)[1] if sizes else None


def _longest_line(document: Document, ids: list[int]) -> int | None:
    sizes = []
    for k in ids:
        node = find(document, k)
        if isinstance(node, Shape):
            lines = [c for c in outline(node).transformed(world_of(document, k)).contours if not c.closed]
            sizes += [(length(c), k) for c in lines]
    return max(sizes)[1] if sizes else None


def _with_guide(document: Document, holder: Group, i: Scatter | Course) -> Document:
    """A group with a guide of its own: a round area round what is strewn, half a circle over a motif."""
    l, t, r, b = box_of(shown_before(holder, len(holder.recipe))) or (0.0, 0.0, 0.0, 0.0)
    x, y = (l + r) / 2, (t + b) / 2
    reach = 4 * max(r - l, b - t, 1.0)
    form: Form = EllipseForm(x - reach, y - reach, 2 * reach, 2 * reach)
    if isinstance(i, Course):
        y = b + 1.25 * reach
        form = path_form(arc_through((x - reach, y), (x, y - reach), (x + reach, y)))
    area = Shape(document.next_id, "path" if isinstance(i, Course) else "area", form, (), member=True)
    return insert(document, holder.id, (area,), 0)


# -- by hand


def turned_to(i: Ring, turn: float) -> Ring:
    """A ring whose second copy stands about ``turn`` degrees (0..360) on."""
    return ring_with_angle(i, min(360 - turn if i.sweep < 0 else turn, abs(i.sweep) or 360.0))


def spread_to(i: Grid, box: Box, down: bool, at: Point, stepped: bool = False) -> Grid:
    """A grid whose second copy in a row, or second row, has its middle at a place (the last one where it fits into a
    length). ``box`` is round what is repeated; ``stepped`` turns by 15 degrees."""
    x, y = at[0] - (box[0] + box[2]) / 2, at[1] - (box[1] + box[3]) / 2
    angle, reach = math.degrees(math.atan2(y, x)), math.hypot(x, y)
    angle = round(angle / 15) * 15.0 if stepped else angle
    t = math.radians(angle)
    size = abs((box[2] - box[0]) * math.cos(t)) + abs((box[3] - box[1]) * math.sin(t))
    last = i.scale ** ((i.down if down else i.across) - 1)
    given = {"steps": reach, "gaps": reach - size * (1 + i.scale) / 2, "fit": reach + size * (1 + last) / 2}[i.by]
    return replace(i, slant=angle - i.angle, y=given) if down else replace(i, angle=angle, x=given)


def begun_at(i: Course, spine: Spine, at: Point) -> Course:
    """A course that begins at the place of its spine nearest to a point."""
    near = nearest(Path((spine.contour,)), at)
    return i if near is None else replace(i, start=spine.distance(near.place) / spine.total)


def with_caps(document: Document, ids: Iterable[int]) -> tuple[Document, int | None]:
    """Let one or two parts of a motif along a path stand at its ends instead, the rest goes on as the motif; the id of
    its group, None where that cannot be."""
    order = top_level(document, ids)
    group = parent_of(document, order[0]) if order else None
    rows = [(k, i) for k, i in enumerate(group.recipe) if isinstance(i, Course)] if isinstance(group, Group) else []
    if not rows or group is None or len(order) > 2 or any(parent_of(document, k) is not group for k in order):
        return document, None
    parts = [c.id for c in group.children if not c.member and c.visible]
    if not set(order) <= set(parts) or set(order) == set(parts):
        return document, None
    rank, i = rows[-1]
    return with_ingredient(document, group.id, rank, replace(i, caps=tuple(order))), group.id


def with_place(document: Document, group_id: int, at: Point) -> Document:
    """One more place of a scatter, put by hand on the sheet, unless one is as near as the least distance."""
    found = _scatter_of(document, group_id)
    if found is None:
        return document
    group, rank, i, (x, y) = *found, apply(invert(world_of(document, group_id)) or IDENTITY, at)
    middles = [_middle(s) for s in standing(group)]
    if any(m is not None and math.hypot(m[0] - x, m[1] - y) < i.distance for m in middles):
        return document
    return with_ingredient(document, group_id, rank, replace(i, added=(*i.added, (x, y))))


def without_place(document: Document, group_id: int, at: Point) -> Document:
    """A scatter without the front-most copy at a place on the sheet."""
    found, there = _scatter_of(document, group_id), copy_at(document, group_id, at)
    if found is None or there is None:
        return document
    return update_nodes(document, [group_id], lambda n: _without(n, found[1], there.copy.number))


def _scatter_of(document: Document, group_id: int) -> tuple[Group, int, Scatter] | None:
    node = find(document, group_id)
    rows = [(k, i) for k, i in repeats_of(node) if isinstance(i, REPEATS)] if node is not None else []
    if not rows or not isinstance(node, Group):
        return None
    rank, i = rows[-1]
    return (node, rank, i) if isinstance(i, Scatter) else None


def _middle(s: Standing) -> Point | None:
    box = box_of(s.nodes)
    return None if box is None else ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)


# -- single copies


def copy_at(document: Document, group_id: int, at: Point) -> Standing | None:
    """The front-most copy of a group's last repeat whose box holds a point of the sheet."""
    node, back = find(document, group_id), invert(world_of(document, group_id))
    if not isinstance(node, Group) or back is None:
        return None
    local = apply(back, at)
    for found in reversed(standing(node)):
        box = box_of(found.nodes)
        if box is not None and in_box(box, *local):
            return found
    return None


def let_go(document: Document, group_id: int, number: int | None = None) -> tuple[Document, list[int]]:
    """One copy of a group's last repeat (all of them without a ``number``) as objects of their own in front of it; the
    rest stay live. The ids of what came free."""
    node, parent = find(document, group_id), parent_of(document, group_id)
    if not isinstance(node, Group) or parent is None:
        return document, []
    gone = [s for s in standing(node) if number is None or s.copy.number == number]
    if not gone:
        return document, []
    rank = max(k for k, i in repeats_of(node) if isinstance(i, REPEATS))
    following = document.next_id
    taken = {n.name for n in walk(document.root)}
    made = []
    for s in gone:
        free, following = renumbered(_alone(node, s), following)
        name = next_name(node.name, taken)
        taken.add(name)
        made.append(replace(free, name=name))
    if number is None:
        document = delete(document, [group_id])
        position = parent.children.index(node)
    else:
        document = update_nodes(document, [group_id], lambda n: _without(n, rank, number))
        position = parent.children.index(node) + 1
    document = insert(document, parent.id, tuple(made), position)
    return replace(document, next_id=max(document.next_id, following)), [n.id for n in made]


def each_its_own(group: Group | Shape) -> str:
    """What a repeated group shows of all its copies as one, in words: a copy let go has its own."""
    repeats = [type(i).__struct_config__.tag for i in group.recipe if isinstance(i, REPEATING)]
    return ", ".join(word for word in dict.fromkeys(shown_as_one(group)) if word not in repeats)


def _alone(group: Group, found: Standing) -> Node:
    """A copy as it stands beside its group, with all that the group does to what it shows."""
    rest = tuple(i for i in group.recipe if not isinstance(i, REPEATING))
    whole = replace(group, children=found.nodes, recipe=rest, link=None, member=False)
    only = found.nodes[0] if len(found.nodes) == 1 else None
    plain = replace(whole, id=0, name="", children=(), transform=IDENTITY)
    if only is None or isinstance(only, Image) or plain != Group(0, ""):
        return whole
    return replace(only, transform=multiply(group.transform, only.transform))


def _without(node: Node, rank: int, number: int) -> Node:
    i = node.recipe[rank]
    assert isinstance(i, REPEATS)
    if isinstance(i, Scatter) and number < 0:  # one put by hand
        k = -number - 1
        i = replace(i, added=(*i.added[:k], *i.added[k + 1 :]))
    else:
        i = replace(i, gone=(*i.gone, number))
    return replace(node, recipe=(*node.recipe[:rank], i, *node.recipe[rank + 1 :]))
