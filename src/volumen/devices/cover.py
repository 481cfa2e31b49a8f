"""What of a sheet is covered by artwork: the area that a garment printer prints and a cutter cuts round."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.geometry.affine import Affine, multiply
from volumen.geometry.boolean import boolean, union_all
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Box, Path, union_box
from volumen.model.ingredients import Line
from volumen.model.nodes import Document, Group, Node
from volumen.model.tree import update_nodes, walk
from volumen.outline.alone import sheet_of_branches
from volumen.outline.boxes import node_box
from volumen.outline.silhouettes import silhouette_path
from volumen.shading.paint import Solid

DIE_LINE = "die line"  # the ink of lines that are cut along, and printed on nothing


class DeviceProblem(ValueError):
    """What a device cannot make; the message says why."""


def die_lines(document: Document) -> list[int]:
    """The objects on the sheet whose lines are in the ink of die lines."""
    inks = {s.id for s in document.palette.swatches if s.ink is not None and s.ink.name == DIE_LINE}

    def is_cut(i: object) -> bool:
        return isinstance(i, Line) and isinstance(i.paint, Solid) and i.paint.swatch in inks

    return [n.id for n in walk(document.root) if inks and any(is_cut(i) for i in n.recipe)]


def without_stock(document: Document) -> Document:
    """Only what is printed: where a drawing holds the stock that it is judged on, the rest on a sheet of its size."""
    hidden = die_lines(document)
    if hidden:
        document = update_nodes(document, hidden, lambda n: replace(n, visible=False))
    if not any(n.stock for n in document.root.children):
        return document
    shown = tuple(n.id for n in document.root.children if not n.stock and n.visible)
    return sheet_of_branches(document, shown) or document


def stock_hidden(document: Document) -> Document:
    """The same document with the stock that it is judged on, and its die line, out of sight."""
    hidden = [*die_lines(document), *(n.id for n in document.root.children if n.stock)]
    return update_nodes(document, hidden, lambda n: replace(n, visible=False)) if hidden else document


def artwork_box(document: Document) -> Box:
    """The sheet; where a drawing holds its stock, the box round the rest."""
    sheet = (0.0, 0.0, document.sheet.width, document.sheet.height)
    if not any(n.stock for n in document.root.children):
        return sheet
    root = document.root.transform
    return union_box([node_box(n, root) for n in document.root.children if not n.stock and n.visible]) or sheet


def cover(document: Document) -> Path:
    """The area of all that is seen, with knockouts taken out of what lies beneath them. Raises DeviceProblem."""
    try:
        return _covered(document.root.children, document.root.transform)
    except PathOpError as error:
        raise DeviceProblem(f"the outline of the artwork cannot be worked out: {error}") from error


def _covered(nodes: tuple[Node, ...], parent: Affine) -> Path:
    area = Path()
    waiting: list[Path] = []
    for node in nodes:
        if not node.visible or node.stock or not node.substance:
            continue
        world = multiply(parent, node.transform)
        if node.knockout:
            area, waiting = _with(area, waiting), []
            hole = _hole(node, world)
            area = boolean(area, hole, "subtract") if area and hole else area
        elif isinstance(node, Group) and not node.recipe and any(_holds_knockout(c) for c in node.children):
            waiting.append(_covered(node.children, world))
        else:
            part = silhouette_path(node, world)
            for child in node.children:
                hole = _hole(child, multiply(world, child.transform)) if child.knockout and child.visible else Path()
                part = boolean(part, hole, "subtract") if part and hole else part
            waiting.append(part)
    return _with(area, waiting)


def _hole(node: Node, world: Affine) -> Path:
    """The area that a knockout takes away."""
    return silhouette_path(replace(node, knockout=False), world)


def _holds_knockout(node: Node) -> bool:
    return node.visible and (node.knockout or any(_holds_knockout(c) for c in node.children))


def _with(area: Path, more: list[Path]) -> Path:
    parts = [p for p in (area, *more) if p]
    return union_all(parts) if len(parts) > 1 else parts[0] if parts else Path()
