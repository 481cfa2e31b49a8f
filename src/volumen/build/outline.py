"""From a node's form to its outline, in the node's own coordinates; and where nodes lie on the sheet.

Lengths stay even on the sheet: when a node's place squeezes or skews it, its form changes act on the squeezed
outline, and the result is mapped back. So an inset keeps its thickness however its part is squashed.
"""

from __future__ import annotations

from collections import OrderedDict
from typing import NamedTuple

import msgspec

from volumen.build.forms import source_outline
from volumen.build.keeping import identity_cache
from volumen.build.keeping import kept as kept
from volumen.build.keeping import remember as remember
from volumen.build.keeping import uneven as uneven
from volumen.build.lines import line_outline
from volumen.geometry.affine import IDENTITY, Affine, invert, mean_scale, multiply
from volumen.geometry.bend import bend
from volumen.geometry.boolean import closed, combine_all, cut_hidden, divide, fill_holes, union_all
from volumen.geometry.engine import PathOpError, outline_of_line, wound
from volumen.geometry.engine_form import drop_specks, in_cubics
from volumen.geometry.offset import offset
from volumen.geometry.path import Box, Path, transform_box, union_box
from volumen.geometry.rounding import round_corners
from volumen.geometry.widths import profiled_outline
from volumen.model.ingredients import FORM, Bend, Body, Fill, FormChange, Line, Offset, Recipe, Rounding, Thickness
from volumen.model.nodes import CombinedForm, Form, Group, Image, Node, Shape
from volumen.model.tree import members

replace = msgspec.structs.replace
_MOST_OF_A_BAND = 6000
# Values keep what their keys name by identity, so an id cannot be reused while it is listed.
_sources: OrderedDict[object, tuple[object, Path]] = identity_cache()
_changed: OrderedDict[object, tuple[object, Path]] = identity_cache()
_pieces: OrderedDict[object, tuple[object, tuple[Piece, ...]]] = identity_cache()


def source(form: Form) -> Path:
    """The outline of a form by itself. The same form object gives the same path object."""
    hit = _sources.get(id(form))
    return hit[1] if hit is not None else remember(_sources, id(form), form, source_outline(form))


def remember_source(form: Form, path: Path) -> None:
    """Tell the outline of a form that was just made from it."""
    remember(_sources, id(form), form, path)


def form_changes(recipe: Recipe) -> tuple[FormChange, ...]:
    """The form changes of a recipe that are on, in their order."""
    return tuple(i for i in recipe if isinstance(i, FORM) and i.on)


def outline(shape: Shape, world: Affine = IDENTITY) -> Path:
    """A shape's outline with all its form changes, in its own coordinates. ``world`` is its place on the sheet.

    The same shape in the same place gives the same path object.
    """
    changes = form_changes(shape.recipe)
    parts = members(shape)
    if not changes and not isinstance(shape.form, CombinedForm):
        return source(shape.form)
    squeeze = uneven(world)
    key = (id(shape.form), changes, tuple(id(m) for m in parts), squeeze)
    hit = _changed.get(key)
    if hit is not None:
        return hit[1]
    base = _combined(shape.form, parts, world) if isinstance(shape.form, CombinedForm) else source(shape.form)
    return remember(_changed, key, (shape.form, parts), changed(base, changes, squeeze))


def outline_before(shape: Shape, at: int | None, world: Affine = IDENTITY) -> Path:
    """A shape's outline with only the form changes before position ``at`` of its recipe (None: all)."""
    earlier = form_changes(shape.recipe if at is None else shape.recipe[:at])
    return outline(replace(shape, recipe=earlier), world)


def changed(path: Path, changes: tuple[FormChange, ...], squeeze: Affine | None = None) -> Path:
    """An outline after form changes; ``squeeze`` is the uneven part of its place."""
    if not changes:
        return path
    inverse = invert(squeeze) if squeeze is not None else None
    if squeeze is None or inverse is None:
        for change in changes:
            path = _change(path, change, 1.0)
        return path
    path = path.transformed(squeeze)
    for change in changes:
        path = _change(path, change, mean_scale(squeeze))
    return path.transformed(inverse)


def _change(path: Path, change: FormChange, scale: float) -> Path:
    try:
        if isinstance(change, Rounding):
            own = {index: radius * scale for index, radius in change.own}
            return round_corners(path, change.radius * scale, own, change.everywhere)
        if isinstance(change, Offset):
            return offset(path, _distance(path, change, scale), change.join)
        if isinstance(change, Bend):
            return bend(path, change.kind, change.amount, change.turn, change.count, change.cage)
        return thick_line(path, change, scale)
    except PathOpError:
        return path


def _distance(path: Path, change: Offset, scale: float) -> float:
    box = path.bounds()
    if not change.percent or box is None:
        return change.distance * scale
    return change.distance / 100 * min(box[2] - box[0], box[3] - box[1])


def thick_line(path: Path, change: Thickness, scale: float) -> Path:
    """The outline of a line along a path, as the thickness says."""
    if change.profile is not None:
        return profiled_outline(path, change.width * scale, change.profile, change.cap)
    band = outline_of_line(path, change.width * scale, change.cap, change.join, 4.0)
    if sum(len(c.points) for c in band.contours) > _MOST_OF_A_BAND:
        return in_cubics(band)  # it shows the same; only its overlaps are not cleared
    try:
        return wound(union_all([band])) if band else band
    except PathOpError:
        return in_cubics(band)


# -- combinations


def _combined(form: CombinedForm, parts: tuple[Node, ...], world: Affine) -> Path:
    """The outline that members make together, in their parent's coordinates."""
    paths = [p for m in parts if (p := member_path(m, world))]
    if not paths:
        return Path()
    try:
        if form.operation == "divide":
            pieces = [c for p, _ in divide(paths) for c in drop_specks(p, form.min_area).contours]
            return Path(tuple(pieces))
        if form.operation == "cut hidden":
            pieces = [c for p in cut_hidden(paths) for c in drop_specks(p, form.min_area).contours]
            return Path(tuple(pieces), True)
        made = combine_all(paths, form.operation)
    except PathOpError:
        return paths[0]
    if form.fill_holes:
        made = fill_holes(made)
    return drop_specks(made, form.min_area)


def member_path(node: Node, parent: Affine) -> Path:
    """The area of a node in its parent's coordinates: of what is filled its inside, open or closed; of what is only
    drawn as a line its band. A line round something filled stays a line of the combination's look."""
    if not node.visible or isinstance(node, Image):
        return Path()
    world = multiply(parent, node.transform)
    if isinstance(node, Group):
        return _one_area([p for c in node.children if (p := member_path(c, world))]).transformed(node.transform)
    path = outline(node, world)
    lines = [i for i in node.recipe if isinstance(i, Line) and i.on and i.width > 0]
    filled = any(isinstance(i, Fill | Body) and i.on for i in node.recipe)
    if lines and not filled:
        bands = [b for i in lines if (b := line_outline(path, i, world))]
        return _one_area(bands).transformed(node.transform)
    return closed(path).transformed(node.transform)


def _one_area(paths: list[Path]) -> Path:
    """The union of areas; where there is none, as they lie over each other."""
    try:
        return union_all(paths)
    except PathOpError:
        return Path(tuple(c for p in paths for c in p.contours))


class Piece(NamedTuple):
    """A piece of a combination: the shape whose look it has, its outline in that shape's own coordinates, and the
    place of that shape in the combination."""

    shape: Shape
    path: Path
    place: Affine


def pieces(shape: Shape, world: Affine) -> tuple[Piece, ...]:
    """For a divided or cut combination without paints of its own: its pieces. Empty for anything else.

    A group among the members gives each of its shapes as a part of its own.
    """
    form = shape.form
    if not isinstance(form, CombinedForm) or form.operation not in ("divide", "cut hidden"):
        return ()
    if any(isinstance(i, Fill | Line | Body) and i.on for i in shape.recipe):
        return ()
    parts = members(shape)
    changes = form_changes(shape.recipe)
    key = (id(form), changes, tuple(id(m) for m in parts), uneven(world))
    hit = _pieces.get(key)
    if hit is not None:
        return hit[1]
    shown = [
        (m, place, p) for part in parts for m, place in _leaves(part, IDENTITY)
        if (p := member_path(m, multiply(world, _before(place, m))).transformed(_before(place, m)))
    ]  # fmt: skip
    try:
        found = _split(form, [p for _, _, p in shown])
    except PathOpError:
        found = [(k, p) for k, (_, _, p) in enumerate(shown)]
    squeeze = uneven(world)
    made = []
    for k, path in found:
        back = invert(shown[k][1])
        path = changed(drop_specks(path, form.min_area), changes, squeeze)
        if path and back is not None:
            made.append(Piece(shown[k][0], path.transformed(back), shown[k][1]))
    return remember(_pieces, key, (form, parts), tuple(made))


def _leaves(node: Node, outer: Affine) -> list[tuple[Shape, Affine]]:
    """The shapes of a member, back to front, each with its place in the combination."""
    place = multiply(outer, node.transform)
    if isinstance(node, Shape):
        return [(node, place)] if node.visible else []
    return [leaf for c in node.children for leaf in _leaves(c, place)] if node.visible else []


def _before(place: Affine, node: Node) -> Affine:
    """The place of a node's parent, from the node's own."""
    return multiply(place, invert(node.transform) or IDENTITY)


def _split(form: CombinedForm, paths: list[Path]) -> list[tuple[int, Path]]:
    """The pieces of a combination, each with the number of the part that it shows."""
    if form.operation == "divide":
        return [(max(covers), path) for path, covers in divide(paths)]
    return list(enumerate(cut_hidden(paths)))


# -- places


def _placed_box(path: Path, world: Affine) -> Box | None:
    """The tight box of an outline in its place; the box of its turned form is kept with it."""
    if abs(world[1]) < 1e-12 and abs(world[2]) < 1e-12:
        box = path.bounds()
        return transform_box(box, world) if box is not None else None
    boxes = path.memo.setdefault("turned boxes", {})
    if world[:4] not in boxes:
        if len(boxes) > 8:
            boxes.clear()
        boxes[world[:4]] = path.transformed((*world[:4], 0.0, 0.0)).bounds()
    l, t, r, b = boxes[world[:4]] or (0.0, 0.0, 0.0, 0.0)
    x, y = world[4:]
    return (l + x, t + y, r + x, b + y) if boxes[world[:4]] is not None else None


def node_box(node: Node, parent: Affine = IDENTITY) -> Box | None:
    """The box of a node's outlines (without effects) on the sheet; ``parent`` maps its parent to the sheet.

    Tight for shapes that are not turned, a little generous for others.
    """
    world = multiply(parent, node.transform)
    if isinstance(node, Image):
        return transform_box((0.0, 0.0, node.width, node.height), world)
    if isinstance(node, Shape):
        path = outline(node, world)
        return _placed_box(path, world)
    from volumen.build.steps import shown_children  # here, as steps are made of outlines

    children = shown_children(node)
    things = [
        c for c in children if c.substance
    ]  # light and shade laid over things do not count, but where all is such
    return union_box(node_box(c, world) for c in things or children)
