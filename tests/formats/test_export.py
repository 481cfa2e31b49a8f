import io
import os
import re

import numpy as np
import pikepdf
import pytest
from lxml import etree
from msgspec.structs import replace
from PIL import Image

from agreement import OVERSAMPLE, by_all, by_resvg, compare, ours, unpacked
from scenes import blend_card, disc, document, feature_card, lit_trio
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.formats.check import check
from volumen.formats.export import export
from volumen.formats.files import FileProblem
from volumen.formats.marks import mark_lines
from volumen.formats.options import FIELD_DPI, ExportOptions
from volumen.formats.pdf.page import Page
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.svg.write import svg_bytes
from volumen.model.ingredients import Blur, Body, CastShadow, Fill, Sliver, Speckle
from volumen.model.make import solid
from volumen.picture.purity import node_purity, picture_purity
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour, Solid

pytestmark = pytest.mark.slow

SCENES = {
    "features": feature_card,
    "all blend modes": blend_card,
    "lit trio": lit_trio,
    **{n: make for n, (_, make) in DEMOS.items()},
}
# Mean and 99th percentile of CIEDE2000, and the share of pixels off by more than 5: that one catches a lost or
# misplaced shape, which a mean would hide (1 in 1000 is a square of 6 pixels on the small scenes).
DESIGN = (0.5, 2.0, 1e-3)
# The small scenes have ten times the edge per area of real artwork, and edge pixels are where renderers differ.
DENSE = (0.5, 3.0, 1e-3)
# A picture that lies on the pixels of the page is not resampled: all of the card of blend modes is one.
SAME_PIXELS = (0.01, 0.5, 0.0)


# Beads, lettering, rays, block letters, ropes, knocked-out figures and icons at three sizes: three times the edge of
# the other demos. The goal of 2 for the 99th percentile is missed on some of them, as pdfium takes the colours of
# gradients at the corners of pixels, half a pixel off at any size.
EDGED = (0.5, 2.5, 4e-3)
# A hundred suckers whose gradients turn within a pixel: half a pixel off they are 2.5 to 2.6 in the 99th percentile.
SUCKERS = (0.5, 2.6, 5e-3)
# A hundred strands with a sliver each: 0.14 % of the pixels lie on an edge of them that pdfium draws otherwise.
ROPE_IN_PDFIUM = (0.5, 3.0, 2e-3)
# poppler's coverage has a gamma: it draws the edges of letters, beads and thin lines a little stronger, and neither
# smooths the edge of closed seams nor that of patches (bodies with mesh and conic paints).
LIT_IN_POPPLER = {
    "kraken": (0.5, 3.6, 6e-3), "map": (0.5, 2.5, 2e-3), "porthole": (0.5, 2.6, 3e-3), "foghorn": (0.5, 3.2, 3e-3),
    "letters": (0.5, 3.4, 5e-3), "rope": (0.5, 3.2, 4e-3), "urchin": (0.5, 3.4, 4e-3), "tote": (0.5, 2.6, 4e-3),
    "tea-label": (0.5, 3.8, 6e-3), "mussel": (0.5, 2.0, 2e-3), "rosette": (0.5, 2.0, 4e-3), "anchor": (0.5, 2.0, 2e-3),
}  # fmt: skip
# A picture of a shadow lies in a group of its own, as MuPDF needs it: 0.15 % of these few pixels are on its edge.
LIT_IN_POPPLER["lit trio"] = (0.5, 2.3, 2e-3)
# Two dear ones are drawn one and a half times as large, a half of the work; their edges then weigh a third more.
SOFT = ("seaglass", "jelly")
LIT_IN_POPPLER["whale"], LIT_IN_POPPLER["seaglass"] = (0.5, 2.0, 1.5e-3), (0.5, 2.0, 1e-3)
# The SVG of these takes a renderer 8 to 20 seconds each: read with ``VOLUMEN_ALL_EXPORTS`` set, as before a release. All
# that they are made of is read from SVG in the other demos and in the cases of one thing each.
LONG_IN_SVG = (
    *SOFT,
    "whale",
    "porthole",
    "kraken",
    "ferry",
    "map",
    "urchin",
    "rosette",
    "rope",
    "foghorn",
    "net-float",
)
# And the PDF of these takes poppler 8 to 30 seconds, where pdfium takes 1 to 5: they, too, are read by it on request.
LONG_IN_POPPLER = ("urchin", "rope", "foghorn", "map")
# These take 5 to 20 seconds to be written and read, and hold nothing that others do not: all of them on request.
ON_REQUEST = ("map", "urchin", "porthole", "whale", "kraken", "rope", "foghorn", "letters", "rosette", "tote", "knot", "jelly", "wave", "tea-label", "mussel", "anchor")  # fmt: skip
ALL_EXPORTS = bool(os.environ.get("VOLUMEN_ALL_EXPORTS"))
# resvg takes the "color" blend mode a little lighter on the darkest facets.
TINTED_IN_RESVG = (0.5, 4.0, 5e-3)


def limits(scene, renderer):
    if scene in LIT_IN_POPPLER and renderer == "poppler":
        return LIT_IN_POPPLER[scene]
    if scene == "seaglass" and renderer == "resvg":
        return TINTED_IN_RESVG
    if scene == "rope" and renderer == "pdfium":
        return ROPE_IN_PDFIUM
    if scene == "kraken":
        return SUCKERS
    if scene in ("urchin", "tote", "wave", "foghorn", "letters", "rope", "tea-label"):
        return EDGED
    if scene in DEMOS:
        return DESIGN
    if scene == "all blend modes" and renderer in ("poppler", "pdfium"):
        return SAME_PIXELS
    return DENSE


@pytest.mark.parametrize("name", [n for n in SCENES if ALL_EXPORTS or n not in ON_REQUEST])
def test_exports_agree_with_the_canvas(name, tmp_path):
    doc = SCENES[name]()
    # The cutter's line is thinner than a pixel, which pdfium makes a pixel wide: only what is printed is looked at.
    printed = tuple(n for n in doc.root.children if n.name != "die line")
    doc = replace(doc, root=replace(doc.root, children=printed))
    # A sheet in mm is no whole number of pixels, and renderers round it each its own way: that is not looked at here.
    doc = replace(doc, sheet=replace(doc.sheet, width=round(doc.sheet.width), height=round(doc.sheet.height)))
    times = 1.5 if name in SOFT else OVERSAMPLE
    by_others = tuple(
        r for r, long in (("resvg", LONG_IN_SVG), ("poppler", LONG_IN_POPPLER)) if ALL_EXPORTS or name not in long
    )
    mine = ours(doc, times)
    for renderer, picture in by_all(doc, tmp_path, times, by_others).items():
        result, limit = compare(mine, picture), limits(name, renderer)
        assert result.mean <= limit[0], (renderer, result)
        assert result.p99 <= limit[1], (renderer, result)
        assert result.share_off <= limit[2], (renderer, result)


def test_agreement_can_fail(tmp_path):
    """The comparison sees a lamp turned by a few degrees, and one lost sliver."""
    doc = lit_trio()
    turned = document(*doc.root.children, ground=doc.sheet.ground, lamp=Lamp(doc.lamp.bearing + 12, doc.lamp.height))
    assert compare(ours(doc), by_resvg(turned)).p99 > DENSE[1]


def test_svg_holds_real_shapes_gradients_and_filters():
    root = etree.fromstring(svg_bytes(build(feature_card()), "card"))
    tags = [etree.QName(e).localname for e in root.iter()]
    assert "image" not in tags
    assert tags.count("linearGradient") >= 1
    assert "radialGradient" in tags
    assert "clipPath" in tags
    assert "feDropShadow" not in tags
    text = svg_bytes(build(feature_card())).decode()
    assert all(f"mix-blend-mode:{m}" in text for m in ("multiply", "overlay", "color-dodge"))
    assert 'color-interpolation-filters="sRGB"' in text


def test_pdf_stays_vector_where_it_can():
    plain = document(disc(1, 100, 100, 40, solid("#2b8577"), Body(), Sliver("shade")))
    pdf = pikepdf.open(io.BytesIO(pdf_bytes(build(plain))))
    resources = pdf.pages[0].Resources
    assert all(x.Subtype == "/Form" for x in resources.XObject.values()), "the highlight's alpha is a gradient too"
    assert any(s.ShadingType == 3 for s in resources.Shading.values())
    assert resources.ColorSpace.S[0] == "/ICCBased"
    assert pdf.pages[0].Group.CS[0] == "/ICCBased"
    soft = document(disc(1, 100, 100, 40, solid("#2b8577"), CastShadow(), lift=8.0))
    with pikepdf.open(io.BytesIO(pdf_bytes(build(soft)))) as file:
        kinds = [str(o.Subtype) for o in file.pages[0].Resources.XObject.values()]
        assert sorted(kinds) == ["/Form", "/Image"], "one image, in the group that holds its opacity and blend mode"


@pytest.mark.parametrize("dpi", [96.0, 192.0, 300.0])
@pytest.mark.parametrize("marks", [False, True])
def test_pictures_in_a_pdf_lie_on_the_pixels_of_the_page(dpi, marks):
    """Each begins and ends a hair inside a pixel of the page, counted from its corner, at any resolution and with marks
    round the sheet; what needs fewer pixels has one for a whole number of them. Grain is worked out at 192 to the inch
    at most, and has pixels of its own beyond."""
    coarse = (disc(3, 30, 120, 15.5, solid("#667788"), Speckle()),) if dpi <= FIELD_DPI else ()
    doc = document(
        disc(1, 71.3, 40.7, 30.1, solid("#2b8577"), CastShadow(), lift=8.0),
        disc(2, 120.3, 99.9, 20.1, solid("#aa8577"), Blur(1.7)), *coarse,
    )  # fmt: skip
    page = Page(0.0, tuple(mark_lines(doc.sheet)) if marks else ())
    written = unpacked(pdf_bytes(build(doc), dpi=dpi, page=page))
    found = re.findall(rb"([-\d.]+) 0 0 ([-\d.]+) ([-\d.]+) ([-\d.]+) cm\n/I\d+ Do", written)
    assert len(found) == 2 + len(coarse)
    for wide, tall, left, bottom in (map(float, numbers) for numbers in found):
        edges = np.array([left, left + wide, bottom, bottom + tall]) + page.margin
        pixels = edges * dpi / 96
        inside = (np.array([1, -1, -1, 1]) * (pixels - np.rint(pixels))).min(), np.abs(pixels - np.rint(pixels)).max()
        assert inside[0] > 0 and inside[1] < 0.02, pixels


def test_purity_says_beforehand_what_exports_will_hold():
    cases = {
        "vector": ((solid("#2b8577"), Body(), Sliver("shade")), ("vector", "vector")),
        "soft": ((solid("#2b8577"), CastShadow()), ("filter", "pixels")),
        "hard shadow": ((solid("#2b8577"), CastShadow(softness=0.0)), ("vector", "vector")),
        "blur": ((solid("#2b8577"), Blur(3)), ("filter", "pixels")),
        "hue": ((solid("#2b8577"), Fill(Solid(Colour(1, 0, 0)), 1, "hue")), ("vector", "pixels")),
    }
    for recipe, (svg, pdf) in cases.values():
        doc = document(disc(1, 100, 100, 40, *recipe, lift=8.0))
        purity = node_purity(build(doc))[1]
        assert (purity.svg, purity.pdf) == (svg, pdf)
        assert ("image" in svg_bytes(build(doc)).decode()) is False
        with pikepdf.open(io.BytesIO(pdf_bytes(build(doc)))) as file:
            has_pixels = any(o.Subtype == "/Image" for o in file.pages[0].Resources.XObject.values())
        assert has_pixels == (pdf == "pixels")
    flat = build(lit_trio(), flat=True)
    assert picture_purity(flat).pdf == "vector"


def test_check_names_objects_and_reasons():
    doc = document(
        disc(1, 50, 50, 20, solid("#2b8577"), CastShadow(receivers=(77,))), disc(2, 90, 90, 0, Blur(2)),
        disc(3, 120, 120, 20, Body(material="moss")),
    )  # fmt: skip
    text = "\n".join(f"{f.node}: {f.message}" for f in check(doc))
    assert "1: casts a shadow but has no lift" in text
    assert "1: its shadow is held to an object that no longer exists" in text
    assert "2: has no paint" in text
    assert "3: material 'moss'" in text
    assert check(document(disc(1, 50, 50, 20))) == []


@pytest.mark.parametrize("suffix", [".png", ".jpg", ".webp", ".tif"])
def test_bitmaps_have_size_profile_and_resolution(suffix, tmp_path):
    path = tmp_path / f"out{suffix}"
    seen = []
    export(lit_trio(), path, ExportOptions(scale=2.0, ground="none"), seen.append)
    with Image.open(path) as image:
        assert image.size == (400, 400)
        assert image.info.get("icc_profile")
        if suffix in (".png", ".tif", ".webp"):
            assert image.convert("RGBA").getpixel((1, 1))[3] == 0
        if suffix == ".png":
            assert image.info["dpi"][0] == pytest.approx(192, abs=0.1)
    assert seen == sorted(seen)
    assert seen[-1] == 1.0


def test_export_problems_are_said_and_leave_the_old_file(tmp_path):
    path = tmp_path / "out.png"
    path.write_bytes(b"old")
    with pytest.raises(FileProblem, match="smaller size"):
        export(lit_trio(), path, ExportOptions(scale=1000))
    with pytest.raises(FileProblem, match=r"\.svg"):
        export(lit_trio(), tmp_path / "out.bmp", ExportOptions())
    with pytest.raises(FileProblem, match="folder does not exist"):
        export(lit_trio(), tmp_path / "missing" / "out.svg", ExportOptions())
    assert path.read_bytes() == b"old"
    assert [p.name for p in tmp_path.iterdir()] == ["out.png"]


def test_flat_and_lamp_options_change_the_picture(tmp_path):
    pictures = []
    for options in (ExportOptions(), ExportOptions(flat=True), ExportOptions(lamp=Lamp(120, 30))):
        export(lit_trio(), tmp_path / "a.png", options)
        with Image.open(tmp_path / "a.png") as image:
            pictures.append(np.asarray(image.convert("RGB")).astype(int))
    for i, j in ((0, 1), (0, 2), (1, 2)):
        assert np.abs(pictures[i] - pictures[j]).max() > 40
