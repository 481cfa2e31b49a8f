"""Bounds of rays: outlines that they stay inside or keep away from, which stay shapes to edit."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from volumen.edit.objects import move_in_tree, set_fields
from volumen.model.nodes import Document, Image, Node, RaysForm, Shape
from volumen.model.tree import find, members, parent_of, update_nodes

replace = msgspec.structs.replace


def rays_and_bound(nodes: Sequence[Node]) -> tuple[int, int] | None:
    """Of two objects the rays and the other one."""
    rays = [n for n in nodes if isinstance(n, Shape) and isinstance(n.form, RaysForm)]
    if len(nodes) != 2 or len(rays) != 1:
        return None
    other = next(n for n in nodes if n is not rays[0])
    return None if isinstance(other, Image) else (rays[0].id, other.id)


def bound(document: Document, rays_id: int, other_id: int, inside: bool) -> Document:
    """Rays that stay ``inside`` an object, or keep out of it; the object becomes a member of the rays.

    A new outline takes the place of the one that they stayed inside before, which comes free.
    """
    rays = find(document, rays_id)
    if not isinstance(rays, Shape) or not isinstance(rays.form, RaysForm):
        return document
    inner, outer = _bounds(rays)
    if inside and outer is not None:
        document = _freed(document, rays_id, (outer,))
    document = move_in_tree(document, [other_id], rays_id, 0 if inside else len(rays.children))
    has_outer, has_inner = inside or outer is not None, not inside or bool(inner)
    held = "both" if has_outer and has_inner else "outer" if has_outer else "inner"
    return _with_held(document, rays_id, held)


def released(document: Document, rays_id: int) -> tuple[Document, list[int]]:
    """Rays without bounds; the ids of what bounded them, which stands beside them again. What is no rays stays as it
    is, and so do the members that another form is made of."""
    rays = find(document, rays_id)
    if not isinstance(rays, Shape) or not isinstance(rays.form, RaysForm):
        return document, []
    free = [m.id for m in members(rays)]
    document = _freed(document, rays_id, tuple(free))
    return _with_held(document, rays_id, "outer"), free


def _bounds(rays: Shape) -> tuple[list[int], int | None]:
    """The ids of what rays keep out of, and of what they stay inside."""
    ids = [m.id for m in members(rays)]
    assert isinstance(rays.form, RaysForm)
    if rays.form.held == "inner" or not ids:
        return ids, None
    return (ids[1:] if rays.form.held == "both" else []), ids[0]


def _with_held(document: Document, rays_id: int, held: str) -> Document:
    return update_nodes(
        document, [rays_id], lambda n: replace(n, form=replace(n.form, held=held)) if isinstance(n, Shape) else n
    )


def _freed(document: Document, rays_id: int, ids: Sequence[int]) -> Document:
    rays, parent = find(document, rays_id), parent_of(document, rays_id)
    if rays is None or parent is None or not ids:
        return document
    document = move_in_tree(document, ids, parent.id, parent.children.index(rays))
    return set_fields(document, ids, member=False)
