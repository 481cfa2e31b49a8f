"""The library: what ``import volumen`` offers, and what the command line and the demos are written with.

Documents are immutable: every function gives a new one. Lengths are user units (1/96 inch), y runs down, angles are
degrees; colours are ``"#rrggbb"``. What goes wrong is told by ``FileProblem`` (files) and ``DocumentError`` (limits).
``docs/library.md`` has examples.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from volumen.colour.press_settings import Press
from volumen.colour.press_views import ProofView, Spot, proof_of
from volumen.compose.scene import build
from volumen.edit.print_check import INK_SIDE, Fault, faults, ink_that_meets
from volumen.formats import native
from volumen.formats.check import Finding
from volumen.formats.check import check as findings
from volumen.formats.export import export
from volumen.formats.options import ExportOptions
from volumen.formats.plates import plates
from volumen.model.ingredients import (
    Adjust,
    Bend,
    Block,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Feather,
    Fill,
    GroundGlow,
    Halves,
    Ingredient,
    InnerGlow,
    InnerShadow,
    Line,
    Occlusion,
    Offset,
    OuterGlow,
    Relief,
    Rim,
    Rounding,
    Seams,
    Sliver,
    Speckle,
    Steps,
)
from volumen.model.inks import Ink
from volumen.model.make import (
    Pile,
    circle,
    corner,
    cusp,
    empty_document,
    linear,
    meant_so,
    path_form,
    radial,
    smooth,
    solid,
)
from volumen.model.nodes import (
    Asset,
    CloudForm,
    CombinedForm,
    Document,
    DropForm,
    EllipseForm,
    Form,
    Group,
    Image,
    Node,
    Palette,
    PathForm,
    PathPoint,
    RaysForm,
    RectangleForm,
    SavedGradient,
    Shape,
    Sheet,
    SpiralForm,
    Swatch,
    TextForm,
)
from volumen.model.repeats import Course, Grid, Mirror, Ring, Scatter
from volumen.model.sizes import Sizes
from volumen.model.tree import renumbered, walk, with_children
from volumen.picture.spots import spot_inks
from volumen.render.raster import render_bytes
from volumen.shading.lamp import Ambient, Lamp, Lights
from volumen.shading.paint import Along, Colour, Conic, Grain, Linear, Radial, Solid, Stop, colour, tinted

__all__ = [
    "Adjust", "Along", "Ambient", "Asset", "Bend", "Block", "Blur", "Body", "CastShadow", "CloudForm", "Colour",
    "CombinedForm", "Conic", "ContactShadow", "Course", "Document", "DropForm", "EllipseForm", "Feather", "Fill",
    "Grain", "Grid", "GroundGlow", "Group", "Halves", "Image", "Ingredient", "Ink", "InnerGlow", "InnerShadow", "Lamp",
    "Lights", "Line", "Linear", "Mirror", "Node", "Occlusion", "Offset", "OuterGlow", "Palette", "PathForm",
    "PathPoint", "Pile", "Radial", "RaysForm", "RectangleForm", "Relief", "Rim", "Ring", "Rounding", "SavedGradient",
    "Scatter", "Seams", "Shape", "Sheet", "Sliver", "Solid", "Speckle", "SpiralForm", "Steps", "Stop", "Swatch",
    "TextForm", "add", "check", "circle", "colour", "corner", "cusp", "ellipse", "fill", "group", "light",
    "line", "linear", "meant_so", "new", "path_form", "radial", "rectangle", "render_file", "render_pixels", "save",
    "shape", "smooth", "solid", "text", "tinted",
]  # fmt: skip
replace = msgspec.structs.replace


def new(width: float = 800.0, height: float = 600.0, ground: str | None = "#ffffff") -> Document:
    """An empty sheet of ``width`` x ``height`` units; ``ground`` None leaves it clear."""
    sheet = Sheet(width, height, None if ground is None else colour(ground))
    return replace(empty_document(), sheet=sheet)


def save(document: Document, path: str | Path) -> None:
    """Write a document, atomically. Raises FileProblem where it cannot be written."""
    native.save(document, Path(path))


def shape(form: Form, *recipe: Ingredient, name: str = "shape", lift: float = 0.0) -> Shape:
    """A shape of a form and a recipe, ``lift`` units above what lies under it. ``add`` gives it its number."""
    return Shape(0, name, form, recipe, lift=lift)


def ellipse(x: float, y: float, width: float, height: float, *recipe: Ingredient, **more: Any) -> Shape:
    """An ellipse in a box; ``more`` as for ``shape``."""
    return shape(EllipseForm(x, y, width, height), *recipe, **{"name": "ellipse", **more})


def rectangle(
    x: float, y: float, width: float, height: float, *recipe: Ingredient, radius: float = 0.0, **more: Any
) -> Shape:
    """A rectangle with corners of ``radius``; ``more`` as for ``shape``."""
    return shape(RectangleForm(x, y, width, height, radius), *recipe, **{"name": "rectangle", **more})


def text(x: float, y: float, words: str, size: float, *recipe: Ingredient, **more: Any) -> Shape:
    """Words whose first baseline begins at (x, y); ``more`` as for ``shape``."""
    return shape(TextForm(words, x=x, y=y, size=size), *recipe, **{"name": words[:40], **more})


def fill(hex_colour: str, opacity: float = 1.0) -> Fill:
    """A plain fill."""
    return Fill(Solid(colour(hex_colour)), opacity)


def line(hex_colour: str, width: float = 1.0) -> Line:
    """A line along the outline."""
    return Line(Solid(colour(hex_colour)), width)


def group(*children: Node, name: str = "group", recipe: tuple[Ingredient, ...] = ()) -> Group:
    """A group with a recipe of its own."""
    return Group(0, name, children, recipe)


def add(document: Document, *nodes: Node) -> Document:
    """Put nodes in front of all others; they and what they hold get numbers of their own.

    Raises DocumentError where the document would go beyond its limits (``docs/file-format.md``).
    """
    for node in nodes:
        numbered, after = renumbered(node, document.next_id)
        root = with_children(document.root, (*document.root.children, numbered))
        document = replace(document, root=root, next_id=after)
    Sizes().check(document)
    return document


def light(document: Document, bearing: float | None = None, height: float | None = None) -> Document:
    """Turn the lamp: ``bearing`` is where its light comes from, clockwise from the top edge, ``height`` 0 (grazing) to
    90 (overhead). None leaves either as it is. Raises ValueError for another height."""
    old = document.lamp
    high = old.height if height is None else height
    if not 0 <= high <= 90:
        raise ValueError("the lamp's height lies between 0 and 90 degrees")
    return replace(document, lamp=replace(old, bearing=old.bearing if bearing is None else bearing % 360, height=high))


def render_file(document: Document, path: str | Path, width: int | None = None, **options: Any) -> None:
    """Write a picture in the format of its suffix; ``width`` in pixels, ``options`` as in ``ExportOptions``.

    Raises FileProblem for an unknown suffix, an impossible size, or a place that cannot be written.
    """
    if width is not None:
        options["scale"] = width / document.sheet.width
    export(document, Path(path), ExportOptions(**options))


def render_pixels(document: Document, scale: float = 1.0, flat: bool = False) -> NDArray[np.uint8]:
    """The artwork as straight RGBA bytes (height, width, 4), ``scale`` pixels a unit."""
    return render_bytes(build(document, flat), scale)


def check(document: Document, press: str | None = None, cutter: bool = False) -> list[Finding]:
    """What is wrong with a document, or will change on export, object by object.

    With a ``press`` ('coated', 'uncoated' or the path of a profile), or for a ``cutter``, also what these would get
    wrong: level 'print', node 0 for the sheet. Raises ProfileProblem.
    """
    names = {n.id: n.name for n in walk(document.root)} | {0: "the sheet"}
    found = [*faults(document, Press(press), "press"), *_met(document, Press(press))] if press else []
    found += faults(document, Press(), "cutter") if cutter else []
    printed = [Finding("print", f.node, names.get(f.node, ""), f"{f.what}: {f.message}") for f in dict.fromkeys(found)]
    return [*printed, *findings(document)]


def _met(document: Document, press: Press) -> list[Fault]:
    """Too much ink where colours meet, found in the plates of the whole sheet."""
    size = max(document.sheet.width, document.sheet.height)
    pixels, spots = plates(build(document), INK_SIDE / size, fine=False, tell=lambda _: None)
    looks = {ink.name: ink.rgb for ink in spot_inks(document).values()}
    over = [Spot(looks[name], np.asarray(cover, np.uint8)) for name, cover in spots]
    inks = proof_of(np.asarray(pixels, np.uint8), ProofView("ink", press), over).inks
    return ink_that_meets(document, inks, press) if inks is not None else []
