"""The die line that follows the artwork: where it ought to run, whenever it does not."""

from __future__ import annotations

import shapely
from msgspec.structs import replace

from volumen.devices.cover import DeviceProblem
from volumen.devices.cutter import Cutter, die_line
from volumen.geometry.affine import IDENTITY
from volumen.geometry.path import Path
from volumen.geometry.polygons import lines_of
from volumen.model.nodes import DieForm, Document, PathRun, Shape
from volumen.model.sheet import PER_UNIT
from volumen.outline.forms import path_form
from volumen.outline.outlines import outline

CLOSE = 0.1 * PER_UNIT["mm"]  # nearer than any cutter cuts


def following_line(document: Document) -> tuple[Shape, DieForm] | None:
    """The die line that follows the artwork, and its form; None if there is none. One that a hand has moved stays
    there."""
    for node in document.root.children:
        if isinstance(node, Shape) and isinstance(node.form, DieForm) and node.transform == IDENTITY:
            return node, node.form
    return None


def cutter_of(form: DieForm) -> Cutter:
    """The cutter that a die line is drawn for."""
    return Cutter(gap=form.gap, radius=form.radius)


def runs_now(document: Document) -> tuple[PathRun, ...] | None:
    """The course that the die line ought to have; None where it has it, where there is none that follows, or nothing
    to cut round."""
    found = following_line(document)
    if found is None:
        return None
    line, form = found
    others = tuple(c for c in document.root.children if c is not line)
    bare = replace(document, root=replace(document.root, children=others))
    try:
        wanted = die_line(bare, cutter_of(form))
    except DeviceProblem:
        return None
    return path_form(wanted).runs if far_off(outline(line), wanted) > CLOSE else None


def far_off(a: Path, b: Path) -> float:
    """How far two courses are from one another at most, in user units."""
    return float(shapely.hausdorff_distance(lines_of(a, CLOSE / 4), lines_of(b, CLOSE / 4)))
