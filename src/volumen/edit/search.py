"""Finding objects: those alike, accidental duplicates, stray points."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

from volumen.edit.placing import sheet_recipe
from volumen.geometry.affine import Affine, determinant, multiply
from volumen.geometry.curve import length
from volumen.geometry.path import Box, Path
from volumen.geometry.winding import nonzero
from volumen.model.ingredients import Body, Fill, Line
from volumen.model.nodes import Document, Group, Image, Node, Shape, TextForm
from volumen.model.tree import find, painted_children, parent_of, walk, world_of
from volumen.outline.boxes import node_box
from volumen.outline.outlines import outline

Likeness = Literal["paint", "line", "look", "name", "kind"]


def alike(document: Document, node_id: int, by: Likeness) -> list[int]:
    """All visible, unlocked objects that share something with one."""
    node = find(document, node_id)
    if node is None:
        return []
    wanted = _trait(node, by)
    return [n.id for n in walk(document.root) if n.id and n.visible and not n.locked and _trait(n, by) == wanted]


def _trait(node: Node, by: Likeness) -> object:
    if by == "name":
        return node.name.rstrip("0123456789 ")
    if by == "kind":
        return type(node.form) if isinstance(node, Shape) else type(node)
    if by == "look":
        return node.recipe
    if by == "line":
        return tuple(i for i in node.recipe if isinstance(i, Line))
    return tuple(i.paint if isinstance(i, Fill) else i for i in node.recipe if isinstance(i, Fill | Body))


def duplicates(document: Document) -> list[int]:
    """Objects that lie exactly on an earlier one and look the same, in whatever groups: of groups that lie on groups
    the whole, not each thing in it."""
    seen: set[object] = set()
    out: list[int] = []

    def visit(node: Node, parent: Affine) -> None:
        for child in painted_children(node):
            world = multiply(parent, child.transform)
            mark = _mark_of(child, world)
            if mark is not None and mark in seen:
                out.append(child.id)
                continue  # what is in it lies on the same in the other
            seen.add(mark)
            visit(child, world)

    visit(document.root, document.root.transform)
    return out


def _mark_of(node: Node, world: Affine) -> object:
    """What tells an object's look and place on the sheet; None for a picture and for what is hidden."""
    if not node.visible or isinstance(node, Image):
        return None
    own = (sheet_recipe(node.recipe, world), node.opacity, node.blend, node.knockout)
    inside = tuple(_mark_of(c, multiply(world, c.transform)) for c in painted_children(node))
    return (own, inside if isinstance(node, Group) else (_print_of(node, world), inside))


def lying_on(document: Document, ids: Iterable[int]) -> list[tuple[int, int]]:
    """Those of some shapes that lie exactly on another one beside them with the same recipe, each with that one."""
    out = []
    for i in ids:
        node, parent = find(document, i), parent_of(document, i)
        if not isinstance(node, Shape) or parent is None or node.member:
            continue
        place = world_of(document, parent.id)
        world, box = multiply(place, node.transform), node_box(node, place)
        own = None
        for other in painted_children(parent):
            if not isinstance(other, Shape) or other.id == i or other.recipe != node.recipe:
                continue
            if not _near(node_box(other, place), box):
                continue
            own = _print_of(node, world) if own is None else own
            if _print_of(other, multiply(place, other.transform)) == own:
                out.append((i, other.id))
                break
    return out


def _near(a: Box | None, b: Box | None) -> bool:
    return a is not None and b is not None and max(abs(p - q) for p, q in zip(a, b, strict=True)) < 1e-2


def _print_of(shape: Shape, world: Affine) -> object:
    """The place of an outline on the sheet, rounded to a thousandth, whatever its starting point."""
    path = outline(shape, world).transformed(world)
    rows = []
    for contour in path.contours:
        points = [tuple(round(float(v), 3) + 0.0 for v in p) for p in contour.points[:-1]]
        rows.append((contour.closed, tuple(sorted(points))))
    return tuple(sorted(rows))


SPECK = 0.5  # square units on the sheet below which a shape is a leftover of cuts


def strays(document: Document, speck: float = SPECK) -> list[int]:
    """Shapes that show nothing, or as good as nothing: no outline, a single point, no length, text without letters,
    or filled areas of less than ``speck`` square units on the sheet."""
    out = []
    for node in walk(document.root):
        if not isinstance(node, Shape) or node.member:
            continue
        if isinstance(node.form, TextForm):
            if not node.form.text.strip():
                out.append(node.id)
            continue
        path = outline(node)
        empty = node_box(node) is None or sum(length(c) for c in path.contours) < 1e-3
        if empty or (_is_plain_area(node, path) and areas_of(document, [node.id])[0] < speck):
            out.append(node.id)
    return out


def _is_plain_area(node: Shape, path: Path) -> bool:
    lined = any(isinstance(i, Line) and i.on for i in node.recipe)
    return not node.children and not lined and all(c.closed for c in path.contours)


def areas_of(document: Document, ids: Iterable[int]) -> list[float]:
    """The areas of shapes on the sheet, in square units; 0 for what has none."""
    out = []
    for i in ids:
        node = find(document, i)
        path = outline(node) if isinstance(node, Shape) else None
        out.append(abs(nonzero(path).area() * determinant(world_of(document, i))) if path else 0.0)
    return out
