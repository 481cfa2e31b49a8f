"""What a document must fulfil beyond its types: sane numbers and rows, unique ids, bounded size."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from volumen.model import limits
from volumen.model.fitting import NotTaken, fitted
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Document, Node, Palette
from volumen.model.sizes import DocumentError, Sizes
from volumen.model.tree import walk, with_children
from volumen.shading.mesh import MeshError
from volumen.shading.mesh_paints import from_paint
from volumen.shading.paint import MeshPaint

__all__ = ["DocumentError", "validate"]


def validate(document: Document) -> None:
    """Raise DocumentError at the first thing that is wrong."""
    check_depth(document)
    try:
        made = fitted(document)
    except NotTaken as problem:
        raise DocumentError(f"{_holder(document)}: {problem}") from problem
    if made != document:
        raise DocumentError(f"{_difference(document, made)} holds a value that is out of range")
    check_whole(document)


def check_whole(document: Document) -> None:
    """Raise DocumentError for what is wrong with a document whose values are all within their ranges."""
    Sizes().check(document)
    _check_ids(document)
    for node in walk(document.root):
        for ingredient in node.recipe:
            if isinstance(ingredient, Fill | Line) and isinstance(ingredient.paint, MeshPaint):
                try:
                    from_paint(ingredient.paint)
                except MeshError as error:
                    raise DocumentError(f"{where(node)}: {error}") from error


def where(node: Node) -> str:
    """A node in a message."""
    return f"'{node.name[:40]}' (id {node.id})"


def check_depth(document: Document) -> None:
    """Raise DocumentError for a tree that is too deep to be walked by recursion."""
    check_branch_depth(document.root)
    for motif in document.palette.motifs:
        check_branch_depth(motif.node)


def check_branch_depth(branch: Node) -> None:
    """Raise DocumentError for a branch that is too deep to be walked by recursion."""
    for node, depth in walk_with_depth(branch):
        if depth > limits.MAX_DEPTH:
            raise DocumentError(f"objects are nested deeper than {limits.MAX_DEPTH} levels at {where(node)}")


def walk_with_depth(root: Node) -> Iterator[tuple[Node, int]]:
    """The nodes with how many levels they lie below the root; needs no recursion."""
    stack = [(root, 0)]
    while stack:
        node, depth = stack.pop()
        yield node, depth
        stack.extend((c, depth + 1) for c in reversed(node.children))


def last_id(palette: Palette) -> int:
    """The highest id in a palette; 0 for an empty one."""
    rows = (palette.swatches, palette.gradients, palette.looks, palette.motifs)
    return max((e.id for row in rows for e in row), default=0)


def _check_ids(document: Document) -> None:
    if document.palette.next_id <= last_id(document.palette):
        raise DocumentError("the palette's next free id is already taken")
    seen: set[int] = set()
    for node in walk(document.root):
        if node.id in seen:
            raise DocumentError(f"two objects share the id {node.id}; the second is '{node.name[:40]}'")
        seen.add(node.id)
    if document.next_id <= max(seen):
        raise DocumentError("the next free id is already taken")


def _holder(document: Document) -> str:
    """Whose value no field can hold."""
    for node in walk(document.root):
        try:
            fitted(with_children(node, ()))
        except NotTaken:
            return where(node)
    for field in ("sheet", "lamp", "fill", "edge", "ambient", "palette", "guides"):
        try:
            fitted(msgspec.structs.replace(Document(), **{field: getattr(document, field)}))
        except NotTaken:
            return f"the {field}"
    return "the document"


def _difference(document: Document, made: Document) -> str:
    for a, b in zip(walk(document.root), walk(made.root), strict=True):
        if with_children(a, ()) != with_children(b, ()):
            return where(a)
    field = next(f for f in document.__struct_fields__ if getattr(document, f) != getattr(made, f))
    return f"the {field.replace('_', ' ')}"
