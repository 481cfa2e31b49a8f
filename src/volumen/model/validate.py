"""What a document must fulfil beyond its types: finite numbers, sane sizes, unique ids, bounded depth."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

import msgspec

from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import (
    CloudForm,
    Document,
    Form,
    Image,
    Node,
    PolygonForm,
    Shape,
    SpiralForm,
    StarForm,
    TextForm,
)  # fmt: skip
from volumen.shading.mesh import MeshError, from_paint
from volumen.shading.paint import MeshPaint

MAX_DEPTH = 100
MAX_NODES = 200_000
MAX_POINTS = 2_000_000
MAX_NUMBER = 1e9


class DocumentError(ValueError):
    """A document that cannot be used; the message says what and where."""


def validate(document: Document) -> None:
    """Raise DocumentError at the first thing that is wrong."""
    sheet = document.sheet
    if not (1 <= sheet.width <= 1e6 and 1 <= sheet.height <= 1e6):
        raise DocumentError("the sheet must be between 1 and 1 000 000 units wide and high")
    _check_numbers(document.sheet, "the sheet")
    _check_numbers(document.lamp, "the lamp")
    _check_numbers((document.guides, document.grid, document.profiles), "the guides")
    _check_numbers(document.palette, "the palette")
    palette = document.palette
    taken = [e.id for row in (palette.swatches, palette.gradients, palette.looks) for e in row]
    if palette.next_id <= max(taken, default=0):
        raise DocumentError("the palette's next free id is already taken")
    seen: set[int] = set()
    points = 0
    for node, depth in _walk_with_depth(document.root):
        if depth > MAX_DEPTH:
            raise DocumentError(f"objects are nested deeper than {MAX_DEPTH} levels at '{node.name[:40]}'")
        if node.id in seen:
            raise DocumentError(f"two objects share the id {node.id}; the second is '{node.name[:40]}'")
        seen.add(node.id)
        if len(seen) > MAX_NODES:
            raise DocumentError(f"there are more than {MAX_NODES} objects")
        where = f"'{node.name[:40]}' (id {node.id})"
        if isinstance(node, Shape):
            points += _check_numbers(node.form, where)
            _check_sizes(node.form, where)
        elif isinstance(node, Image):
            points += _check_numbers((node.width, node.height), where)
        for value in (node.recipe, node.transform, node.lift, node.opacity):
            points += _check_numbers(value, where)
        for ingredient in node.recipe:
            if isinstance(ingredient, Fill | Line) and isinstance(ingredient.paint, MeshPaint):
                try:
                    from_paint(ingredient.paint)
                except MeshError as error:
                    raise DocumentError(f"{where}: {error}") from error
        if points > MAX_POINTS * 6:
            raise DocumentError(f"the paths hold more than {MAX_POINTS} points")
    if document.next_id <= max(seen):
        raise DocumentError("the next free id is already taken")


def _check_sizes(form: Form, where: str) -> None:
    """Counts that would make an outline without end."""
    counts = {
        PolygonForm: ("sides", 3, 1000), StarForm: ("points", 2, 1000), CloudForm: ("count", 3, 1000),
    }  # fmt: skip
    if type(form) in counts:
        name, low, high = counts[type(form)]
        if not low <= getattr(form, name) <= high:
            raise DocumentError(f"{where} has {getattr(form, name)} {name}; between {low} and {high} are possible")
    if isinstance(form, SpiralForm) and abs(form.turns) > 1000:
        raise DocumentError(f"{where} is a spiral of more than 1000 turns")
    if isinstance(form, TextForm) and len(form.text) > 20_000:
        raise DocumentError(f"{where} holds more than 20 000 characters")


def _walk_with_depth(root: Node) -> Iterator[tuple[Node, int]]:
    stack = [(root, 0)]
    while stack:
        node, depth = stack.pop()
        yield node, depth
        stack.extend((c, depth + 1) for c in node.children)


def _check_numbers(value: Any, where: str) -> int:
    """Count the numbers in a value; raise on one that is not finite or far too large."""
    if isinstance(value, float):
        if not math.isfinite(value) or abs(value) > MAX_NUMBER:
            raise DocumentError(f"{where} holds the number {value}, which is out of range")
        return 1
    if isinstance(value, tuple):
        return sum(_check_numbers(v, where) for v in value)
    if isinstance(value, msgspec.Struct):
        return sum(_check_numbers(getattr(value, f), where) for f in value.__struct_fields__)
    return 0
