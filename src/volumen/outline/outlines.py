"""From a node's form to its outline, in the node's own coordinates; combinations and their pieces."""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, invert, multiply, uneven
from volumen.geometry.boolean import closed, combine_all, cut_hidden, divide, fill_holes, union_all
from volumen.geometry.engine import PathOpError, drop_specks
from volumen.geometry.offset import offset
from volumen.geometry.path import Path
from volumen.geometry.rays import rays_within
from volumen.geometry.winding import simplified
from volumen.model.ingredients import FORM, Body, Fill, FormChange, Line, Recipe, without_form_changes
from volumen.model.nodes import IN_PIECES, CombinedForm, Form, Group, Image, Node, RaysForm, Shape
from volumen.model.tree import members, painted_children
from volumen.outline.changes import changed
from volumen.outline.forms import burst, path_form, source_outline
from volumen.outline.lines import is_filled, line_outline
from volumen.outline.making import made_id, shown_children

replace = msgspec.structs.replace
# Values keep what their keys name by identity, so an id cannot be reused while it is listed.
_MOST_UNITED = 200  # uniting more takes many seconds, and a combination is worked out anew with each edit of a member
_sources: Cache[Path] = Cache("outlines of forms")
_changed: Cache[Path] = Cache("changed outlines")
_kept: Cache[Path] = Cache("what rays keep off")
_pieces: Cache[tuple[Piece, ...]] = Cache("pieces of combinations")


def source(form: Form) -> Path:
    """The outline of a form by itself. The same form object gives the same path object."""
    hit = _sources.get(id(form))
    return hit if hit is not None else _sources.put(id(form), form, source_outline(form))


def remember_source(form: Form, path: Path) -> None:
    """Tell the outline of a form that was just made from it."""
    _sources.put(id(form), form, path)


def form_changes(recipe: Recipe) -> tuple[FormChange, ...]:
    """The form changes of a recipe that are on, in their order."""
    return tuple(i for i in recipe if isinstance(i, FORM) and i.on)


def outline(shape: Shape, world: Affine = IDENTITY) -> Path:
    """A shape's outline with all its form changes, in its own coordinates. ``world`` is its place on the sheet.

    The same shape in the same place gives the same path object.
    """
    changes = form_changes(shape.recipe)
    parts = members(shape)
    if not changes and not isinstance(shape.form, CombinedForm) and not parts:
        return source(shape.form)
    squeeze = uneven(world)
    key = (id(shape.form), changes, tuple(id(m) for m in parts), squeeze)
    hit = _changed.get(key)
    if hit is not None:
        return hit
    if isinstance(shape.form, CombinedForm):
        base = _combined(shape.form, parts, world)
    elif isinstance(shape.form, RaysForm) and parts:
        base = _held_rays(shape.form, parts, world)
    else:
        base = source(shape.form)
    return _changed.put(key, (shape.form, parts), changed(base, changes, squeeze))


def outline_before(shape: Shape, at: int | None, world: Affine = IDENTITY) -> Path:
    """A shape's outline with only the form changes before position ``at`` of its recipe (None: all)."""
    earlier = form_changes(shape.recipe if at is None else shape.recipe[:at])
    return outline(replace(shape, recipe=earlier), world)


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


def _held_rays(form: RaysForm, parts: tuple[Node, ...], world: Affine) -> Path:
    """Rays between the outlines of members, in their parent's coordinates."""
    shown = [(m, p) for m in parts if (p := member_path(m, world))]
    outer = shown[0][1] if shown and form.held != "inner" else None
    rest = tuple(m for m, _ in (shown if form.held == "inner" else shown[1:] if form.held == "both" else []))
    try:
        return rays_within(burst(form), outer, _kept_off(rest, form.gap, world) if rest else None)
    except PathOpError:
        return source(form)


def _kept_off(parts: tuple[Node, ...], gap: float, world: Affine) -> Path:
    """What rays keep off: members and ``gap`` round them; made once for the same members."""
    key = (*(id(m) for m in parts), gap, uneven(world))
    hit = _kept.get(key)
    if hit is not None:
        return hit
    area = _one_area([member_path(m, world) for m in parts])
    return _kept.put(key, parts, offset(area, gap) if gap > 0 else area)


def member_path(node: Node, parent: Affine) -> Path:
    """The area of a node in its parent's coordinates: of what is filled its inside, open or closed; of what is only
    drawn as a line its band. A line round something filled stays a line of the combination's look."""
    if not node.visible or isinstance(node, Image):
        return Path()
    world = multiply(parent, node.transform)
    if isinstance(node, Group):
        return _one_area([p for c in shown_children(node) if (p := member_path(c, world))]).transformed(node.transform)
    path = outline(node, world)
    lines = [i for i in node.recipe if isinstance(i, Line) and i.on and i.width > 0]
    if lines and not is_filled(node, path):
        bands = [b for i in lines if (b := line_outline(path, i, world))]
        return _one_area(bands).transformed(node.transform)
    return closed(path).transformed(node.transform)


def _one_area(paths: list[Path]) -> Path:
    """The union of areas; where there is none, or they are very many, as they lie over each other."""
    if len(paths) > _MOST_UNITED:
        return Path(tuple(c for p in paths for c in simplified(p).contours))
    try:
        return union_all(paths)
    except PathOpError:
        return Path(tuple(c for p in paths for c in p.contours))


class Piece(NamedTuple):
    """A piece of a combination as a shape in its coordinates, and the id of the member that it was cut from."""

    member: int
    shape: Shape


def pieces(shape: Shape, world: Affine) -> tuple[Piece, ...]:
    """For a divided or cut combination without paints of its own: its pieces, back to front, in its coordinates. Each
    is a shape with all that the member it was cut from has but its form. Empty for anything else.

    A group among the members gives each of its shapes as a part of its own. The same combination gives the same nodes.
    """
    form = shape.form
    if not isinstance(form, CombinedForm) or form.operation not in IN_PIECES:
        return ()
    if any(isinstance(i, Fill | Line | Body) and i.on for i in shape.recipe):
        return ()
    parts = members(shape)
    changes = form_changes(shape.recipe)
    key = (id(form), shape.id, changes, tuple(id(m) for m in parts), uneven(world))
    hit = _pieces.get(key)
    if hit is not None:
        return hit
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
    for number, (k, path) in enumerate(found):
        member, place, _ = shown[k]
        back = invert(place)
        path = changed(drop_specks(path, form.min_area), changes, squeeze)
        if path and back is not None:
            made.append(Piece(member.id, _piece(member, path.transformed(back), place, (shape.id, number))))
    return _pieces.put(key, (form, parts), tuple(made))


def _piece(member: Shape, path: Path, place: Affine, of: tuple[int, int]) -> Shape:
    """What one piece of a combination shows: a member with another outline, in the combination's coordinates."""
    form = path_form(path)
    remember_source(form, path)
    return replace(
        member, id=made_id(*of, member.id), form=form, recipe=without_form_changes(member.recipe), transform=place,
        children=tuple(_own(c, of) for c in painted_children(member)), member=False, link=None,
    )  # fmt: skip


def _own(node: Node, of: tuple[int, int]) -> Node:
    """What a member holds, once more for each of its pieces."""
    return replace(node, id=made_id(*of, node.id), children=tuple(_own(c, of) for c in node.children), link=None)


def _leaves(node: Node, outer: Affine, opacity: float = 1.0) -> list[tuple[Shape, Affine]]:
    """The shapes of a member, back to front, each with its place in the combination, as faint as its groups are."""
    if not node.visible:
        return []
    place, seen = multiply(outer, node.transform), opacity * node.opacity
    if isinstance(node, Shape):
        return [(node if seen == node.opacity else replace(node, opacity=seen), place)]
    return [leaf for c in painted_children(node) for leaf in _leaves(c, place, seen)]


def _before(place: Affine, node: Node) -> Affine:
    """The place of a node's parent, from the node's own."""
    return multiply(place, invert(node.transform) or IDENTITY)


def _split(form: CombinedForm, paths: list[Path]) -> list[tuple[int, Path]]:
    """The pieces of a combination, each with the number of the part that it shows."""
    if form.operation == "divide":
        return [(max(covers), path) for path, covers in divide(paths)]
    return list(enumerate(cut_hidden(paths)))
