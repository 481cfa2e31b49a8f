"""Stepped blends: the shapes between the members of a group that carries ``Steps``."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import msgspec
import numpy as np

from volumen.caching import Cache
from volumen.colour.difference import srgb_difference
from volumen.geometry.affine import IDENTITY, Affine, Point, multiply, rotation, translation
from volumen.geometry.correspondence import Match, match
from volumen.geometry.curve import Ruler, ruler
from volumen.geometry.ease import eased
from volumen.geometry.path import Path
from volumen.model.fitting import is_whole
from volumen.model.ingredients import REPEATING, Fill, Ingredient, Line, Recipe, Steps, without_form_changes
from volumen.model.lengths import carried_recipe, lift_on_sheet
from volumen.model.nodes import Group, Image, Node, Shape
from volumen.model.points import PathRun
from volumen.outline.forms import path_form, run_contour
from volumen.outline.making import made_id, makes
from volumen.outline.outlines import outline, remember_source
from volumen.shading.between import between, mixed, mixed_colour
from volumen.shading.paint import Colour, face_colour

replace = msgspec.structs.replace
MOST = 500
STEP_DIFFERENCE = 0.5  # CIEDE2000 between neighbours that no eye tells apart
OUTPUT_DPI = 300.0
_matches: Cache[Match] = Cache("matched outlines")


def steps_of(node: Node) -> Steps | None:
    """The steps that a group makes between its members, if it does."""
    if not isinstance(node, Group):
        return None
    return next((i for i in node.recipe if isinstance(i, Steps) and i.on), None)


@makes(Steps)
def with_steps(nodes: tuple[Node, ...], steps: Steps, group: Group, rank: int) -> tuple[Node, ...]:
    """Some nodes with the steps between them."""
    members = [c for c in nodes if c.visible and not isinstance(c, Image)]
    if len(members) < 2:
        return nodes
    out: list[Node] = []
    for k, (a, b) in enumerate(zip(members, members[1:], strict=False)):
        out.append(a)
        count = count_between(a, b, steps)
        course = _course(a, b, steps.spine, k / (len(members) - 1), (k + 1) / (len(members) - 1))
        for n in range(1, count + 1):
            step = _step(a, b, n / (count + 1), steps, course)
            if step is not None:
                out.append(_numbered(step, made_id(group.id, rank, k, n)))
    return (*out, *members[-1:])


def _numbered(node: Node, own: int) -> Node:
    """Ids below zero, so that no step is taken for a node of the document."""
    children = tuple(_numbered(c, made_id(own, k)) for k, c in enumerate(node.children))
    return replace(node, id=own, children=children)


def count_between(a: Node, b: Node, steps: Steps) -> int:
    """How many steps lie between two members."""
    if steps.mode == "count":
        return min(max(steps.count, 0), MOST)
    reach = _reach(a, b)
    if steps.mode == "distance":
        return min(max(math.ceil(reach / max(steps.distance, 1e-3)) - 1, 0), MOST)
    # Smooth: neighbours may differ in colour if they do not move, or move if they do not differ.
    pixels = reach * OUTPUT_DPI / 96
    return min(max(math.ceil(min(_colour_reach(a, b) / STEP_DIFFERENCE, pixels)) - 1, 1), MOST)


def _reach(a: Node, b: Node) -> float:
    """The longest way that any corner of a member's box goes."""
    boxes = [_path_of(n).bounds() for n in (a, b)]
    if boxes[0] is None or boxes[1] is None:
        return 0.0
    return max(math.hypot(boxes[0][i] - boxes[1][i], boxes[0][j] - boxes[1][j]) for i in (0, 2) for j in (1, 3))


def _colour_reach(a: Node, b: Node) -> float:
    faces = [_face(n) for n in (a, b)]
    difference = float(srgb_difference([faces[0].rgb], [faces[1].rgb])[0])
    return difference + 100 * abs(faces[0].a * a.opacity - faces[1].a * b.opacity)


def _face(node: Node) -> Colour:
    for i in reversed(node.recipe):
        if isinstance(i, Fill | Line):
            face = face_colour(i.paint)
            if face is not None:
                return face
    return _face(node.children[-1]) if node.children else Colour(0.5, 0.5, 0.5)


def _path_of(node: Node) -> Path:
    """A member's outline in the group's coordinates."""
    if isinstance(node, Shape):
        return outline(node, node.transform).transformed(node.transform)
    parts = [_path_of(c).transformed(node.transform) for c in node.children]
    return Path(tuple(c for p in parts for c in p.contours))


def _step(a: Node, b: Node, t: float, steps: Steps, course: _Course | None) -> Node | None:
    """The node a share ``t`` of the way from one member to the next."""
    place, tint = eased(t, steps.spacing), eased(t, steps.colour_spacing)
    made = _between(a, b, place, tint, steps.shift)
    return made if made is None or course is None else _on_spine(made, course, place, steps.turn)


@dataclass(frozen=True, slots=True)
class _Course:
    """The part of a spine, in shares of its length, that leads from the middle of one member to the next."""

    along: Ruler
    start: float
    end: float
    first: Point
    last: Point


def _course(a: Node, b: Node, spine: PathRun | None, start: float, end: float) -> _Course | None:
    boxes = [_path_of(n).bounds() for n in (a, b)] if spine is not None else []
    middles = [((o[0] + o[2]) / 2, (o[1] + o[3]) / 2) for o in boxes if o is not None]
    contour = run_contour(spine) if spine is not None else None
    if contour is None or len(contour.points) < 4 or len(middles) < 2:
        return None
    return _Course(ruler(contour), start, end, middles[0], middles[1])


def _on_spine(node: Node, course: _Course, t: float, turn: bool) -> Node:
    along = course.along
    (x, y), (dx, dy) = (v[0].tolist() for v in along.at(np.array([between(course.start, course.end, t) * along.total])))
    centre = (between(course.first[0], course.last[0], t), between(course.first[1], course.last[1], t))
    m = translation(x - centre[0], y - centre[1])
    if turn:
        sx, sy = along.at(np.array([0.0]))[1][0].tolist()
        m = multiply(m, rotation(math.degrees(math.atan2(dy, dx) - math.atan2(sy, sx)), centre))
    return replace(node, transform=multiply(m, node.transform))


def _between(a: Node, b: Node, t: float, tint: float, shift: float) -> Node | None:
    if isinstance(a, Group) and isinstance(b, Group):
        pairs = zip(a.children, b.children, strict=False)
        children = tuple(c for p, q in pairs if (c := _between(p, q, t, tint, shift)) is not None)
        place: Affine = tuple(between(x, y, t) for x, y in zip(a.transform, b.transform, strict=True))  # type: ignore[assignment]
        return replace(
            a, children=children, recipe=_mixed_recipe(a.recipe, b.recipe, tint), transform=place,
            opacity=between(a.opacity, b.opacity, tint), lift=between(a.lift, b.lift, t), name="step",
        )  # fmt: skip
    if not isinstance(a, Shape) or not isinstance(b, Shape):
        return None
    path = _matched(a, b, shift).at(t)
    form = path_form(path)
    if not path.evenodd:
        remember_source(form, path)
    recipes = [carried_recipe(without_form_changes(n.recipe), n.transform) for n in (a, b)]
    return Shape(
        0, "step", form, _mixed_recipe(recipes[0], recipes[1], tint), transform=IDENTITY,
        lift=between(lift_on_sheet(a, a.transform), lift_on_sheet(b, b.transform), t),
        opacity=between(a.opacity, b.opacity, tint), blend=a.blend,
    )  # fmt: skip


def _matched(a: Shape, b: Shape, shift: float) -> Match:
    paths = [outline(n, n.transform) for n in (a, b)]
    key = (id(paths[0]), a.transform, id(paths[1]), b.transform, shift)
    hit = _matches.get(key)
    if hit is not None:
        return hit
    made = match(paths[0].transformed(a.transform), paths[1].transformed(b.transform), shift)
    return _matches.put(key, paths, made)


def _mixed_recipe(a: Recipe, b: Recipe, t: float) -> Recipe:
    """Ingredients of both, those of one kind and rank mixed; what only one has fades."""
    out: list[Ingredient] = []
    rest = list(b)
    for i in a:
        partner = next((j for j in rest if type(j) is type(i)), None)
        if partner is not None:
            rest.remove(partner)
            out.append(_mixed_ingredient(i, partner, t))
        elif (faded := _faded(i, 1 - t)) is not None:
            out.append(faded)
    return (*out, *(f for j in rest if (f := _faded(j, t)) is not None))


def _faded(i: Ingredient, share: float) -> Ingredient | None:
    if isinstance(i, REPEATING):
        return None
    if hasattr(i, "opacity"):
        return replace(i, opacity=i.opacity * share)
    return i if share >= 0.5 else None


def _mixed_ingredient(a: Ingredient, b: Ingredient, t: float) -> Ingredient:
    fields: dict[str, Any] = {}
    for name in a.__struct_fields__:
        p, q = getattr(a, name), getattr(b, name)
        if name == "paint":
            fields[name] = mixed(p, q, t)
        elif isinstance(p, Colour) and isinstance(q, Colour):
            fields[name] = mixed_colour(p, q, t)
        elif isinstance(p, float | int) and isinstance(q, float | int) and not isinstance(p, bool):
            fields[name] = round(between(p, q, t)) if is_whole(type(a), name) else between(p, q, t)
        else:
            fields[name] = q if t >= 0.5 else p
    return replace(a, **fields)
