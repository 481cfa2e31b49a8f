"""The die line that follows the artwork: where it ought to run, whenever it does not."""

from __future__ import annotations

import shapely
from msgspec.structs import replace

from volumen.devices.cover import DeviceProblem
from volumen.devices.cutter import Cutter, die_line
from volumen.geometry.affine import IDENTITY
from volumen.geometry.curve import flatten
from volumen.geometry.path import Path
from volumen.model.nodes import DieForm, Document, PathRun, Shape
from volumen.model.sheet import PER_UNIT
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline

CLOSE = 0.1 * PER_UNIT["mm"]  # nearer than any cutter cuts


def following_line(document: Document) -> Shape | None:
    """The die line that follows the artwork; None if there is none. One that a hand has moved stays there."""
    for node in document.root.children:
        if isinstance(node, Shape) and isinstance(node.form, DieForm) and node.transform == IDENTITY:
            return node
    return None


def cutter_of(form: DieForm) -> Cutter:
    """The cutter that a die line is drawn for."""
    return Cutter(gap=form.gap, radius=form.radius)


def runs_now(document: Document) -> tuple[PathRun, ...] | None:
    """The course that the die line ought to have; None where it has it, where there is none that follows, or nothing
    to cut round."""
    line = following_line(document)
    if line is None or not isinstance(line.form, DieForm):
        return None
    others = tuple(c for c in document.root.children if c is not line)
    bare = replace(document, root=replace(document.root, children=others))
    try:
        wanted = die_line(bare, cutter_of(line.form))
    except DeviceProblem:
        return None
    return path_form(wanted).runs if far_off(outline(line), wanted) > CLOSE else None


def far_off(a: Path, b: Path) -> float:
    """How far two courses are from one another at most, in user units."""
    return float(shapely.hausdorff_distance(_edges(a), _edges(b)))


def _edges(path: Path) -> shapely.MultiLineString:
    return shapely.MultiLineString([flatten(c, CLOSE / 4)[0] for c in path.contours])
