"""Sheets: another size keeps the picture, sizes in mm are exact in every output, bleed and marks lie where they belong."""

import io
from datetime import datetime

import numpy as np
import pikepdf
import pytest
import resvg_py
from lxml import etree
from msgspec.structs import replace
from pikepdf.models.metadata import decode_pdf_date
from PIL import Image as Pillow

from scenes import lit_trio
from volumen.compose.scene import build
from volumen.formats.export import export
from volumen.formats.options import ExportOptions
from volumen.model.make import solid
from volumen.model.nodes import Document, Group, GuideCircle, GuideLine, RectangleForm, Shape
from volumen.model.on_sheet import on_sheet
from volumen.model.sheet import FORMATS, PER_UNIT, Sheet, format_of
from volumen.render.raster import render_float
from volumen.shading.paint import colour

MM = PER_UNIT["mm"]
A4 = Sheet(210 * MM, 297 * MM, unit="mm", bleed=3 * MM)


def exported(document, suffix, tmp_path, **options):
    path = tmp_path / f"sheet.{suffix}"
    export(document, path, ExportOptions(**options))
    return path.read_bytes()


@pytest.mark.parametrize("place", [(x / 2, y / 2) for x in range(3) for y in range(3)])
def test_the_place_that_stays_shows_the_same_picture(place):
    doc = lit_trio()
    w, h = 260, 320
    made = on_sheet(doc, replace(doc.sheet, width=w, height=h), place)
    x, y = round(place[0] * (w - 200)), round(place[1] * (h - 200))
    before, after = (render_float(build(d), 1.0) for d in (doc, made))
    assert np.abs(after[y : y + 200, x : x + 200] - before).max() < 1.5 / 255, "whole pixels further: only rounding"


def test_the_artwork_scales_with_its_sheet_light_and_guides_too():
    doc = replace(lit_trio(), guides=(GuideLine((50, 60), 30), GuideCircle((100, 100), 40)))
    made = on_sheet(doc, replace(doc.sheet, width=400.0, height=500.0), scale=True)
    before, after = render_float(build(doc), 2.0), render_float(build(made), 1.0)
    assert np.abs(after[50:450] - before).mean() < 0.3 / 255
    assert made.guides == (GuideLine((100, 170), 30), GuideCircle((200, 250), 80))


def test_a4_is_a4_in_every_output(tmp_path):
    doc = Document(A4)
    svg = etree.fromstring(exported(doc, "svg", tmp_path))
    assert (svg.get("width"), svg.get("height")) == ("210mm", "297mm")
    with pikepdf.open(io.BytesIO(exported(doc, "pdf", tmp_path))) as file:
        assert [round(float(v), 2) for v in file.pages[0].MediaBox] == [0, 0, 595.28, 841.89]
    png = Pillow.open(io.BytesIO(exported(doc, "png", tmp_path, scale=300 / 96)))
    assert png.size == (2480, 3508) and png.info["dpi"][0] == pytest.approx(300, abs=0.1)


def test_bleed_is_painted_and_cut_off_where_the_sheet_ends(tmp_path):
    """A shape beyond the edge is seen in the bleed; the trim box is the sheet."""
    over = Shape(1, "over", RectangleForm(-20, -20, 100, 100), (solid("#c8402a"),))
    doc = Document(Sheet(200, 100, colour("#ffffff"), "mm", 12.0), root=Group(0, "pile", (over,)), next_id=2)
    png = np.asarray(Pillow.open(io.BytesIO(exported(doc, "png", tmp_path, bleed=True))).convert("RGB"))
    assert png.shape[:2] == (124, 224) and tuple(png[2, 2]) == tuple(png[50, 50]) != tuple(png[120, 220])
    with pikepdf.open(io.BytesIO(exported(doc, "pdf", tmp_path, bleed=True, marks=True))) as file:
        boxes = {n: [float(v) for v in file.pages[0][f"/{n}"]] for n in ("MediaBox", "BleedBox", "TrimBox")}
    (l, b, r, t), outer, media = boxes["TrimBox"], boxes["BleedBox"], boxes["MediaBox"]
    assert (r - l, t - b) == pytest.approx((150, 75))
    assert outer == pytest.approx([l - 9, b - 9, r + 9, t + 9]) and media[0] == 0 and outer[0] > 20


def test_a_pdf_says_what_it_is_twice_alike(tmp_path):
    """In the information dictionary and in XMP; dated now, in version 1.7, and whole for another reader."""
    data = exported(Document(A4), "pdf", tmp_path, title="Kelder Sound ferry")
    assert data.startswith(b"%PDF-1.7")
    with pikepdf.open(io.BytesIO(data)) as file:
        assert file.check_pdf_syntax() == []
        info, xmp = file.docinfo, file.open_metadata()
        assert str(info["/Title"]) == xmp["dc:title"] == "Kelder Sound ferry"
        assert str(info["/Producer"]) == xmp["pdf:Producer"] == "Volumen"
        made = datetime.fromisoformat(xmp["xmp:CreateDate"])
        assert decode_pdf_date(str(info["/CreationDate"])) == made
        assert abs((datetime.now().astimezone() - made).total_seconds()) < 600


def test_marks_lie_outside_the_cut_sheet(tmp_path):
    """On a picture too: the line of each corner meets the edge that it continues, and nothing lies on the sheet."""
    doc = Document(Sheet(200, 100, colour("#ffffff"), "mm", 0.0))
    png = np.asarray(Pillow.open(io.BytesIO(exported(doc, "png", tmp_path, marks=True, scale=4.0))).convert("L"))
    edge = (png.shape[1] - 800) // 2
    dark_rows, dark_columns = (np.flatnonzero((png < 128)[:, edge // 2]), np.flatnonzero((png < 128)[edge // 2]))
    assert {edge, edge + 400} <= set(dark_rows.tolist()) and {edge, edge + 800} <= set(dark_columns.tolist())
    assert (png[edge : edge + 400, edge : edge + 800] == 255).all()
    over = Shape(1, "over", RectangleForm(-90, -90, 400, 400), (solid("#c8402a"),))
    bled = Document(Sheet(200, 100, None, "mm", 12.0), root=Group(0, "pile", (over,)), next_id=2)
    svg = exported(bled, "svg", tmp_path, marks=True, bleed=True)
    wide = float(etree.fromstring(svg).get("width")[:-2])
    assert wide == pytest.approx((200 + 2 * 12) * 25.4 / 96 + 16, abs=0.01), "8 mm of margin beyond the bleed"
    seen = np.asarray(
        Pillow.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg.decode(), dpi=96)))).convert("RGBA")
    )
    m = round(8 * 96 / 25.4)
    assert tuple(seen[m + 4, m + 4][:3]) == (200, 64, 42) and seen[m - 6, m + 60, 3] == 0, (
        "the artwork ends at its bleed"
    )
    assert (seen[: m - 4, m + 12 - 2 : m + 12 + 2, 3] > 40).any(), "over the left edge of the cut sheet stands a mark"


def test_usual_sizes_are_known_upright_and_across():
    for row in FORMATS:
        w, h = row.width * PER_UNIT[row.unit], row.height * PER_UNIT[row.unit]
        assert format_of(Sheet(w, h)) == format_of(Sheet(h, w)) == row
    assert format_of(Sheet(801, 700)) is None and A4.size_in_unit == "210 × 297 mm"
