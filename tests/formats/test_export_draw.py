"""What Draw and Carve add, in SVG and PDF: each case must look the same in two independent renderers."""

import pytest

from agreement import by_pdfium, by_resvg, compare, ours
from scenes import disc, document
from volumen.compose.scene import build
from volumen.geometry.affine import scaling
from volumen.model.ingredients import Bend, Line, Offset, Rim, Rounding, Sliver, Thickness
from volumen.model.make import circle, corner, path_form, smooth, solid
from volumen.model.nodes import (
    CloudForm,
    CombinedForm,
    DropForm,
    EllipseForm,
    Group,
    PathForm,
    PathRun,
    PolygonForm,
    RectangleForm,
    SegmentForm,
    Shape,
    SpiralForm,
    StarForm,
    TextForm,
)
from volumen.picture.purity import node_purity
from volumen.shading.paint import Solid, colour

pytestmark = pytest.mark.slow

INK = Solid(colour("#20242a"))
TEAL, RED, SAND = solid("#2b8577"), solid("#c8402a"), solid("#d8a040")
LEAF = ((0.0, 0.0, 0.0), (0.4, 1.0, 1.0), (1.0, 0.0, 0.0))
BOW = PathForm((PathRun((smooth(20, 130, 30, -60), smooth(100, 60, 40, 0), smooth(180, 130, 30, 60)), False),))


def combined(operation, *parts, recipe=(TEAL,), **more):
    members = tuple(Shape(10 + k, "m", form, (paint,), member=True) for k, (form, paint) in enumerate(parts))
    return Shape(1, "c", CombinedForm(operation), recipe, members, **more)


TWO = ((circle(80, 100, 50), TEAL), (circle(120, 100, 50), RED))
CASES = {
    "pie": [Shape(1, "p", EllipseForm(30, 30, 140, 140, -60, 250), (TEAL,))],
    "segment of an ellipse": [Shape(1, "p", EllipseForm(30, 50, 140, 100, 20, 200, "chord"), (RED,))],
    "unlike corners": [Shape(1, "r", RectangleForm(30, 40, 140, 110, 0, (40, 5, 60, 0)), (TEAL,))],
    "polygon": [Shape(1, "p", PolygonForm(30, 30, 140, 140, 7, 12), (SAND, Line(INK, 5.0, join="round")))],
    "star with round tips": [Shape(1, "s", StarForm(25, 25, 150, 150, 6, 0.5), (Rounding(9.0), RED))],
    "drop": [Shape(1, "d", DropForm(60, 20, 80, 150, 0.6, 1.0), (TEAL,))],
    "cloud": [Shape(1, "c", CloudForm(20, 50, 160, 100, 11, 0.9), (TEAL, Line(INK, 3.0)))],
    "spiral": [Shape(1, "s", SpiralForm((100, 100), 80.0, 8.0, 3.0), (Line(INK, 5.0, "round", "round"),))],
    "text": [Shape(1, "t", TextForm("Kelder fi", "Vollkorn", "SemiBold", 44, 10, 110), (RED,))],
    "text on a path": [Shape(1, "t", TextForm("foghorn", "Zilla Slab", "Bold", 40, path=BOW, start=0.5, align="centre"), (TEAL,))],
    "outlined text": [Shape(1, "t", TextForm("Q4", "Bebas Neue", "Regular", 120, 40, 150), (SAND, Line(INK, 4.0, side="outside")))],
    "dashes": [Shape(1, "l", circle(100, 100, 70), (Line(INK, 8.0, "round", dashes=(20.0, 14.0)),))],
    "line inside": [Shape(1, "l", circle(100, 100, 70), (TEAL, Line(INK, 14.0, side="inside")))],
    "line outside": [Shape(1, "l", StarForm(40, 40, 120, 120), (TEAL, Line(INK, 8.0, side="outside")))],
    "width profile": [Shape(1, "l", BOW, (Line(INK, 24.0, profile=LEAF),))],
    "one-sided profile": [Shape(1, "l", BOW, (Line(INK, 20.0, "butt", profile=((0, 2, 0), (1, 0, 2))),))],
    "thickness": [Shape(1, "l", path_form(corner(40, 150), corner(100, 40), corner(160, 150), closed=False), (Thickness(26.0), TEAL, Line(INK, 3.0)))],
    "inset in percent": [Shape(1, "o", CloudForm(20, 40, 160, 120), (SAND,)), Shape(2, "i", CloudForm(20, 40, 160, 120), (Offset(-12.0, percent=True), RED))],
    "bent": [Shape(1, "b", TextForm("HARBOUR", "Bebas Neue", "Regular", 46, 20, 110), (Bend("arc", 0.4), RED))],
    "rippled": [Shape(1, "b", RectangleForm(20, 70, 160, 60), (Bend("ripple", 0.4, count=3), TEAL))],
    "in a cage": [Shape(1, "b", RectangleForm(50, 50, 100, 100), (Bend("cage", 0, cage=tuple((x * (1 + 0.4 * y), y) for x, y in Bend().cage)), SAND))],
    "squashed inset": [Shape(1, "q", circle(100, 200, 80), (Offset(-14.0), TEAL, Line(INK, 6.0)), transform=scaling(1, 0.5))],
    "union": [combined("union", *TWO, recipe=(TEAL, Line(INK, 4.0)))],
    "subtract": [combined("subtract", *TWO)],
    "intersect": [combined("intersect", *TWO, recipe=(RED, Sliver("shade", depth=8.0)))],
    "exclude": [combined("exclude", *TWO, recipe=(SAND, Line(INK, 3.0)))],
    "divide": [combined("divide", *TWO, recipe=())],
    "cut hidden": [combined("cut hidden", *TWO, recipe=())],
    "text cut from a cloud": [combined("subtract", (CloudForm(15, 40, 170, 120), TEAL), (TextForm("7", "Bebas Neue", "Regular", 110, 78, 138), RED))],
    "combination in a combination": [Shape(1, "c", CombinedForm("subtract"), (SAND,), (
        Shape(2, "u", CombinedForm("union"), (TEAL,), tuple(Shape(5 + k, "m", f, (p,), member=True) for k, (f, p) in enumerate(TWO)), member=True),
        Shape(3, "h", circle(100, 100, 22), (RED,), member=True)))],
    "held in a combination": [Shape(1, "c", CombinedForm("union"), (SAND,), (
        Shape(2, "a", circle(80, 100, 50), (TEAL,), member=True), Shape(3, "b", circle(120, 100, 50), (TEAL,), member=True),
        disc(4, 130, 130, 45, RED)))],
    "knockout": [Group(1, "g", (disc(2, 90, 100, 60), disc(3, 120, 110, 40, RED), Shape(4, "k", StarForm(70, 70, 70, 70), (RED,), knockout=True)))],
    "knockout of text": [Group(1, "g", (Shape(2, "r", RectangleForm(20, 60, 160, 80), (TEAL,)), Shape(3, "k", TextForm("PIER", "Bebas Neue", "Regular", 72, 40, 126), (RED,), knockout=True)))],
    "knockout of a line": [Group(1, "g", (Shape(2, "r", RectangleForm(20, 40, 160, 120), (TEAL,)), Shape(3, "k", SegmentForm((10, 30), (190, 170)), (Line(INK, 16.0),), knockout=True)))],
    "rim round a group": [Group(1, "g", (disc(2, 70, 90, 30), disc(3, 130, 110, 34, RED)), (Rim(colour("#20242a"), 10.0),))],
    "two rims": [Shape(1, "s", StarForm(50, 50, 100, 100), (TEAL, Rim(colour("#ffffff"), 8.0), Rim(colour("#20242a"), 14.0)))],
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_looks_the_same_everywhere_and_stays_vector(name):
    doc = document(*CASES[name])
    mine = ours(doc)
    for other in (by_resvg, by_pdfium):
        found = compare(mine, other(doc))
        # These cards are all edge: 99 of 100 pixels within 4, and fewer than 6 in 1000 off by more than 5.
        assert found.mean <= 0.5, (other.__name__, found)
        assert found.p99 <= 4.0, (other.__name__, found)
        assert found.share_off <= 6e-3, (other.__name__, found)
    for purity in node_purity(build(doc)).values():
        assert (purity.svg, purity.pdf) == ("vector", "vector"), name


@pytest.mark.parametrize("name", [n for n in CASES if "rim" not in n])
def test_freezing_keeps_the_picture(name):
    from volumen.edit.freeze import freeze

    doc = document(*CASES[name])
    frozen = freeze(doc, [1]).document
    found = compare(ours(doc), ours(frozen))
    # Only the smoothed edges of pieces that were drawn in another order differ.
    assert found.mean < 0.1 and found.share_off < 4e-3, found
