"""The die line as an object of the drawing, in an ink of its own that prints on nothing; it follows the artwork."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.devices.cover import DIE_LINE as INK
from volumen.devices.cover import DeviceProblem
from volumen.devices.cutter import USUAL, Cutter, die_line
from volumen.devices.die_following import CLOSE, cutter_of, far_off, following_line
from volumen.edit.inks import set_ink
from volumen.edit.objects import insert, set_form
from volumen.edit.palette import add_swatches
from volumen.model.ingredients import Line
from volumen.model.inks import Ink
from volumen.model.nodes import DieForm, Document, Node, PathForm, PathRun, Shape
from volumen.model.sheet import PER_UNIT
from volumen.model.tree import world_of
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline
from volumen.shading.paint import Solid, colour

_LOOK = "#e0208c"  # seen at once, and like nothing that is printed
_WIDTH = 0.25 * PER_UNIT["pt"]


def astray(document: Document, cutter: Cutter = USUAL) -> tuple[int, float] | None:
    """The die line where it does not follow the artwork, and how far it is off (user units); None where it does, or
    where there is none that was drawn round the artwork. One moved by hand is held against ``cutter``."""
    drawn = next((c for c in document.root.children if _is_drawn(c)), None)
    if not isinstance(drawn, Shape):
        return None
    form = drawn.form
    try:
        now = die_line(_without(document), cutter_of(form) if isinstance(form, DieForm) else cutter)
    except DeviceProblem:
        return None  # nothing is left to cut round
    off = far_off(outline(drawn).transformed(world_of(document, drawn.id)), now)
    return (drawn.id, off) if off > CLOSE else None


def _is_drawn(node: Node) -> bool:
    """Whether a line was drawn round the artwork; one that is a form of its own is the artist's."""
    return node.name == INK and isinstance(node, Shape) and isinstance(node.form, PathForm)


def _without(document: Document) -> Document:
    kept = tuple(c for c in document.root.children if c.name != INK)
    return replace(document, root=replace(document.root, children=kept))


def following(document: Document, runs: tuple[PathRun, ...]) -> Document:
    """The document whose die line has the course that it ought to have (``devices.die_following``)."""
    found = following_line(document)
    if found is None:
        return document
    line, form = found
    return set_form(document, line.id, replace(form, runs=runs))


def with_die_line(document: Document, cutter: Cutter = USUAL) -> tuple[Document, int]:
    """A document with the line round its artwork in front of all, one that was there before replaced; the line's id.
    Raises DeviceProblem."""
    before = [c for c in document.root.children if c.name == INK]
    bare = _without(document)
    kept = bare.root.children
    form = DieForm(path_form(die_line(bare, cutter)).runs, cutter.gap, cutter.radius)
    swatch = next((s for s in bare.palette.swatches if s.ink is not None and s.ink.name == INK), None)
    if swatch is None:
        bare, made = add_swatches(bare, [(INK, colour(_LOOK))])
        bare = set_ink(bare, made[0], Ink(INK, overprints=True))
        swatch = bare.palette.swatches[-1]
    line = Line(Solid(swatch.colour, swatch.id), _WIDTH)
    node = Shape(before[0].id if before else bare.next_id, INK, form, (line,), substance=False)
    if before:
        return replace(bare, root=replace(bare.root, children=(*kept, node))), node.id
    return insert(bare, bare.root.id, (node,), len(kept)), node.id
