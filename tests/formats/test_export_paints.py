"""What Colour adds, in SVG and PDF: each paint must look the same in two independent renderers."""

import io

import numpy as np
import pikepdf
import pytest

from agreement import by_pdfium, by_resvg, compare, ours, page_by_pdfium
from scenes import disc, document
from volumen.compose.scene import build
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.svg.write import svg_bytes
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import Fill, Line, Steps
from volumen.model.make import corner, path_form, solid
from volumen.model.nodes import Group, RectangleForm, SegmentForm, Shape
from volumen.picture.purity import node_purity
from volumen.shading.mesh_make import ring
from volumen.shading.mesh_paints import to_paint
from volumen.shading.paint import Along, Conic, Grain, Inward, Linear, Radial, Solid, Stop, colour

pytestmark = pytest.mark.slow

STOPS = (Stop(0, colour("#c8402a")), Stop(0.4, colour("#f0ae45"), 0.3), Stop(1, colour("#0f4a49")))
CLEAR = (Stop(0, colour("#c8402a")), Stop(0.5, colour("#c8402a", 0.0)), Stop(1, colour("#0f4a49")))
ROUND = (*STOPS, Stop(1, colour("#c8402a")))
# Beyond its ends such a gradient shows other colours than anywhere within.
BROKEN = (
    Stop(0, colour("#0f4a49")),
    Stop(0, colour("#c8402a")),
    Stop(1, colour("#f0ae45")),
    Stop(1, colour("#2a6fc8", 0.0)),
)
ZIGZAG = path_form(corner(30, 150), corner(100, 50), corner(170, 150), closed=False)
FINE = Grain(0.05, 2.0)


def rainbow(points):
    """Colours (n, 4) that change smoothly with the place."""
    x, y = points[:, 0] / 200, points[:, 1] / 200
    return np.stack([x, y, 1 - x, 0.4 + 0.6 * y], axis=1)


def tile(paint):
    return [Shape(1, "tile", RectangleForm(30, 30, 140, 140, 20), (Fill(paint),))]


CASES = {
    "conic": (tile(Conic(ROUND, (90, 110), 40)), "vector"),
    "conic with a clear part": (tile(Conic(CLEAR, (100, 100), -90)), "vector"),
    "conic from outside": (tile(Conic(STOPS, (-40, 20))), "vector"),
    "inwards": (tile(Inward(STOPS)), "pixels"),
    "inwards, repeated": (tile(Inward(STOPS, 25.0, spread="reflect")), "pixels"),
    "along a line": ([Shape(1, "l", ZIGZAG, (Line(Along(STOPS), 18.0, "round", "round"),))], "pixels"),
    "across a line": ([Shape(1, "l", ZIGZAG, (Line(Along(STOPS, across=True), 24.0, "butt", "round"),))], "pixels"),
    "repeated": (tile(Linear(STOPS, (80, 60), (110, 90), spread="repeat")), "vector"),
    "reflected": (tile(Radial(STOPS, (90, 90), 30, (80, 86), spread="reflect")), "vector"),
    "broken off at both ends": (tile(Linear(BROKEN, (80, 60), (110, 130))), "vector"),
    "broken off at the rim": (tile(Radial(BROKEN, (100, 100), 50, (80, 86), (1.2, 0.3, 0, 0.8, -10, 0))), "vector"),
    "mixed in sRGB": (tile(Linear(CLEAR, (30, 30), (170, 170), oklab=False)), "vector"),
    "grain": (tile(Solid(colour("#2b8577"), grain=FINE)), "pixels"),
    "grain on a stop": (tile(Linear((STOPS[0], Stop(1, colour("#0f4a49"), grain=0.1)), (30, 0), (170, 0))), "pixels"),
    "mesh round a middle": ([disc(1, 100, 100, 70, Fill(to_paint(ring(ellipse(100, 100, 70, 70), 8, 3, rainbow))))], "vector"),
    "steps": ([Group(3, "g", (Shape(1, "a", SegmentForm((30, 40), (60, 160)), (Line(Solid(colour("#c8402a")), 8.0),)),
                              disc(2, 150, 100, 30, solid("#0f4a49"))), (Steps(count=5),))], "vector"),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_paint_agrees_and_says_what_it_becomes(name):
    nodes, in_pdf = CASES[name]
    doc = document(*nodes)
    mine = ours(doc)
    for other in (by_resvg, by_pdfium):
        found = compare(mine, other(doc))
        # A hard edge in a paint may fall half a pixel beside ours: one of 140 in a conic paint is 2 in 1000, the five of
        # the repeated one are 1 in 100, the two longer ones of what breaks off as many, of which pdfium reads the ramp
        # at 256 places over a longer way. A wrong turn, centre or order of stops is tens of percent.
        broken = name.startswith("broken off")
        hard = broken or name == "repeated"
        assert found.mean <= (0.85 if hard else 0.5), (other.__name__, found)
        assert found.share_off <= (1.2e-2 if broken else 1e-2 if hard else 3e-3), (other.__name__, found)
    for purity in node_purity(build(doc)).values():
        assert purity.pdf == in_pdf
        assert ("image" in svg_bytes(build(doc)).decode()) == (purity.svg == "pixels")
    with pikepdf.open(io.BytesIO(pdf_bytes(build(doc)))) as file:
        pixels = [o for o in file.pages[0].Resources.XObject.values() if o.Subtype == "/Image"]
    assert bool(pixels) == (in_pdf == "pixels")


def test_plain_colours_keep_their_levels_in_readers():
    """Every level of every channel, plain and as a gradient of one colour: readers that cut off where others round showed
    them one lower, which is CIEDE2000 0.3 to 0.6 over all of a plain artwork."""
    level = np.arange(256)
    rgb = np.stack([level, (level * 91 + 17) % 256, (level * 53 + 101) % 256], axis=1)
    plain = [solid("#{:02x}{:02x}{:02x}".format(*c)) for c in rgb]
    even = [Fill(Linear((Stop(0, p.paint.colour), Stop(1, p.paint.colour)), (0.0, 0.0), (9.0, 0.0))) for p in plain]
    for fills in (plain, even):
        squares = [
            Shape(k + 1, f"{k}", RectangleForm(k % 16 * 12.0, k // 16 * 12.0, 12.0, 12.0), (fill,))
            for k, fill in enumerate(fills)
        ]
        page = page_by_pdfium(pdf_bytes(build(document(*squares, side=192.0))), 1.0)
        seen = np.round(page[6::12, 6::12].reshape(256, 3) * 255).astype(int)
        assert (seen == rgb).all(), np.abs(seen - rgb).max()
