"""The die line as an object of the drawing: a hair line in an ink of its own that prints on nothing."""

from __future__ import annotations

import shapely
from msgspec.structs import replace

from volumen.devices.cover import DIE_LINE as INK
from volumen.devices.cover import DeviceProblem
from volumen.devices.cutter import USUAL, Cutter, die_line
from volumen.edit.inks import set_ink
from volumen.edit.objects import insert
from volumen.edit.palette import add_swatches
from volumen.geometry.curve import flatten
from volumen.model.ingredients import Line
from volumen.model.inks import Ink
from volumen.model.nodes import Document, Node, PathForm, Shape
from volumen.model.sheet import PER_UNIT
from volumen.model.tree import find, world_of
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline
from volumen.shading.paint import Solid, colour

_LOOK = "#e0208c"  # seen at once, and like nothing that is printed
_WIDTH = 0.25 * PER_UNIT["pt"]
_CLOSE = 0.1 * PER_UNIT["mm"]  # nearer than any cutter cuts


def astray(document: Document, cutter: Cutter = USUAL) -> tuple[int, float] | None:
    """The die line where it does not follow the artwork any more, and how far it is off (user units); None where it
    does, or where there is none that was drawn round the artwork."""
    drawn = next((c for c in document.root.children if _is_drawn(c)), None)
    if drawn is None:
        return None
    try:
        now, line = with_die_line(document, cutter)
    except DeviceProblem:
        return None  # nothing is left to cut round
    made = find(now, line)
    assert isinstance(made, Shape) and isinstance(drawn, Shape)
    off = float(shapely.hausdorff_distance(_edge(document, drawn), _edge(now, made)))
    return (drawn.id, off) if off > _CLOSE else None


def _is_drawn(node: Node) -> bool:
    """Whether a line was drawn round the artwork; one that is a form of its own is the artist's."""
    return node.name == INK and isinstance(node, Shape) and isinstance(node.form, PathForm)


def _edge(document: Document, line: Shape) -> shapely.MultiLineString:
    path = outline(line).transformed(world_of(document, line.id))
    return shapely.MultiLineString([flatten(c, _CLOSE / 4)[0] for c in path.contours])


def with_die_line(document: Document, cutter: Cutter = USUAL) -> tuple[Document, int]:
    """A document with the line round its artwork in front of all, one that was there before replaced; the line's id.
    Raises DeviceProblem."""
    before = [c for c in document.root.children if c.name == INK]
    kept = tuple(c for c in document.root.children if c.name != INK)
    bare = replace(document, root=replace(document.root, children=kept))
    path = die_line(bare, cutter)
    swatch = next((s for s in bare.palette.swatches if s.ink is not None and s.ink.name == INK), None)
    if swatch is None:
        bare, made = add_swatches(bare, [(INK, colour(_LOOK))])
        bare = set_ink(bare, made[0], Ink(INK, overprints=True))
        swatch = bare.palette.swatches[-1]
    line = Line(Solid(swatch.colour, swatch.id), _WIDTH)
    node = Shape(before[0].id if before else bare.next_id, INK, path_form(path), (line,), substance=False)
    if before:
        return replace(bare, root=replace(bare.root, children=(*kept, node))), node.id
    return insert(bare, bare.root.id, (node,), len(kept)), node.id
