"""PDF for the press: written so that our own checker and qpdf find nothing, and the checker finds what is planted."""

import io
import re
from datetime import UTC, datetime

import numpy as np
import pikepdf
import pypdfium2
import pytest
import tifffile
from fontTools.ttLib import TTFont
from pikepdf import Array, Dictionary, Name

from agreement import page_by_pdfium
from scenes import document, feature_card, solid
from volumen.colour.difference import srgb_difference
from volumen.colour.press import finely_separated, separated
from volumen.colour.press_settings import Press
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.formats.export import export
from volumen.formats.marks import mark_lines
from volumen.formats.options import ExportOptions
from volumen.formats.pdf.checker import PdfProblem, press_findings
from volumen.formats.pdf.page import Page
from volumen.formats.pdf.text import embeddable
from volumen.formats.pdf.write import pdf_bytes
from volumen.geometry.fonts import BUNDLED, FontFile
from volumen.model.ingredients import Bend, Fill
from volumen.model.make import linear
from volumen.model.nodes import Shape, TextForm

MADE = datetime(2026, 1, 2, 3, 4, 5, tzinfo=UTC)


def written(document, press=True, marks=True, dpi=72.0):
    page = Page(0.0, tuple(mark_lines(document.sheet)) if marks else ())
    return pdf_bytes(build(document), "Label é", dpi, page, MADE, Press() if press else None)


@pytest.fixture(scope="module")
def label():
    return written(DEMOS["tea-label"][1]())


def text_of(data):
    page = pypdfium2.PdfDocument(data)[0]
    return page.get_textpage().get_text_bounded().replace("\r\n", "\n")


def words(text, y, *recipe, k=1, **more):
    form = TextForm(text, size=40, x=20, y=y, **more)
    return Shape(k, text[:6], form, recipe or (solid("#20242a"),), transform=(1, 0.1, 0, 1, 0, 0))


@pytest.mark.parametrize("press", [False, True])
def test_words_stay_text_where_that_is_wished(press):
    """Found and copied as they were typed, ligatures and lines too, and drawn as their outlines are; words in a
    gradient, with changed forms or in a font without TrueType outlines are outlines."""
    plain = (words("fish & office\nlåst ½", 60), words("Quay", 200, k=2, family="Pacifico", style="Regular"))
    faded = words("faded", 260, Fill(linear((0, 240), (90, 260), (0, "#c8402a"), (1, "#2b8577"))), k=3)
    bent = words("bent", 330, solid("#2b8577"), Bend(), k=4)
    doc = document(*plain, faded, bent, side=400.0)

    def made(text):
        return pdf_bytes(build(doc), "t", 72.0, None, MADE, Press() if press else None, text)

    kept, outlined = made(True), made(False)
    said = text_of(kept)
    assert "fish & office" in said and "låst ½" in said and "Quay" in said
    assert "faded" not in said and "bent" not in said and text_of(outlined).strip() == ""
    with pikepdf.open(io.BytesIO(kept)) as pdf:
        fonts = pdf.pages[0].Resources.Font
        assert sorted(str(f.BaseFont)[8:] for f in fonts.values()) == ["Pacifico-Regular", "Vollkorn-SemiBold"]
        assert max(len(f.DescendantFonts[0].FontDescriptor.FontFile2.read_bytes()) for f in fonts.values()) < 90_000
    assert press_findings(kept) == [] or not press
    one, two = (page_by_pdfium(data, 2.0) for data in (kept, outlined))
    off = srgb_difference(one.reshape(-1, 3), two.reshape(-1, 3))
    assert off.mean() < 0.02 and np.percentile(off, 99) < 1.0, "antialiased by another part of the reader"


def test_what_cannot_be_embedded_is_told_apart(tmp_path):
    font = TTFont(next(BUNDLED.glob("Vollkorn-SemiBold.ttf")))
    for name, rights in (("free", 0), ("restricted", 2), ("whole", 0x100)):
        font["OS/2"].fsType = rights
        font.save(tmp_path / f"{name}.ttf")
    (tmp_path / "broken.ttf").write_bytes(b"no font at all")
    found = {
        n: embeddable(FontFile("V", n, tmp_path / f"{n}.ttf"))
        for n in ("free", "restricted", "whole", "broken", "gone")
    }
    assert found == {"free": 1000.0, "restricted": None, "whole": None, "broken": None, "gone": None}


def test_a_file_for_the_press_says_what_it_is(label):
    assert press_findings(label) == []
    with pikepdf.open(io.BytesIO(label)) as pdf:
        assert (
            pdf.pdf_version == "1.6" and pdf.check_pdf_syntax() == []
            if hasattr(pdf, "check_pdf_syntax")
            else pdf.check() == []
        )
        page = pdf.pages[0].obj
        trim = [float(v) for v in page.TrimBox]
        assert trim[2] - trim[0] == pytest.approx(260 / 25.4 * 72, abs=0.01)
        spaces = [s for s in pdf.objects if isinstance(s, Array) and len(s) == 4 and s[0] == "/Separation"]
        assert {str(s[1]) for s in spaces} == {"/Kelder copper", "/die line", "/All"}
        states = [s for _, s in page.Resources.ExtGState.items() if s.get("/OP") is True]
        assert len(states) == 1, "only the die line overprints"
        assert pdf.docinfo["/Title"] == "Label é" and pdf.docinfo["/Trapped"] == "/False"
        assert pdf.Root.OutputIntents[0].DestOutputProfile.read_bytes()[16:20] == b"CMYK"


@pytest.mark.slow
@pytest.mark.parametrize("name", ["kraken", "mussel", "seaglass"])
def test_demos_of_all_kinds_are_fit_for_the_press(name):
    """Glows that fade, meshes, blend modes that are baked."""
    assert press_findings(written(DEMOS[name][1](), dpi=48.0)) == []


def test_features_of_all_kinds_are_fit_and_a_file_for_the_screen_is_not():
    assert press_findings(written(feature_card())) == []
    found = press_findings(written(feature_card(), press=False, marks=False))
    assert (
        any("1.7" in f for f in found)
        and any("output intents" in f for f in found)
        and any("trim box" in f for f in found)
    )


def _js(pdf):
    pdf.Root.OpenAction = Dictionary(S=Name.JavaScript, JS="1")


def _font(pdf):
    pdf.Root.Stray = pdf.make_indirect(Dictionary(Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Courier))


def _rgb(pdf):
    page = pdf.pages[0]
    page.contents_add(b"1 0 0 rg 0 0 9 9 re f", prepend=False)


def _rgb_in_a_form(pdf):
    form = pikepdf.Stream(pdf, b"0 1 0 RG 0 0 m 9 9 l S")
    form.stream_dict = Dictionary(Type=Name.XObject, Subtype=Name.Form, BBox=[0, 0, 9, 9])
    pdf.pages[0].Resources.XObject["/Bad"] = pdf.make_indirect(form)


def _rgb_image(pdf):
    image = pikepdf.Stream(pdf, bytes(3))
    image.stream_dict = Dictionary(
        Type=Name.XObject, Subtype=Name.Image, Width=1, Height=1, BitsPerComponent=8, ColorSpace=Name.DeviceRGB
    )
    pdf.pages[0].Resources.XObject["/Bad"] = pdf.make_indirect(image)


def _two_meanings(pdf):
    spot = next(
        s for s in pdf.objects if isinstance(s, Array) and len(s) == 4 and s[0] == "/Separation" and s[1] != "/All"
    )
    other = Dictionary(FunctionType=2, Domain=[0, 1], C0=[1, 1, 1], C1=[0, 0, 0], N=1)
    pdf.pages[0].Resources.ColorSpace["/Again"] = pdf.make_indirect(Array([spot[0], spot[1], spot[2], other]))


def _transfer(pdf):
    pdf.pages[0].Resources.ExtGState["/Bad"] = pdf.make_indirect(Dictionary(Type=Name.ExtGState, TR=Name.Identity))


def _trim_beyond(pdf):
    pdf.pages[0].obj.TrimBox = Array([-9, 0, 100, 100])


def _annotation(pdf):
    pdf.pages[0].obj.Annots = Array([Dictionary(Type=Name.Annot, Subtype=Name.Square, Rect=[40, 40, 90, 90])])


def _no_profile(pdf):
    del pdf.Root.OutputIntents[0]["/DestOutputProfile"]


def _screen_profile(pdf):
    rgb = next(s for s in pdf.objects if isinstance(s, Array) and len(s) == 2 and s[0] == "/ICCBased")[1]
    pdf.Root.OutputIntents[0].DestOutputProfile = rgb


def _transfer_within(pdf):
    pdf.pages[0].Resources.ExtGState["/Bad"] = Dictionary(Type=Name.ExtGState, TR2=Name.Identity)


def _alternates(pdf):
    _rgb_image(pdf)
    pdf.pages[0].Resources.XObject.Bad.Alternates = Array([])


PLANTED = [
    (_js, "action"), (_font, "not embedded"), (_rgb, "page 1 draws in RGB"), (_rgb_in_a_form, "form .* draws in RGB"),
    (_rgb_image, "image .* RGB"), (_two_meanings, "two ways"), (_transfer, "transfer function"), (_transfer_within, "transfer function"), (_trim_beyond, "sticks out"),
    (_annotation, "annotation"), (_no_profile, "no profile"), (_screen_profile, "not that of a CMYK press"), (_alternates, "alternates"),
    (lambda pdf: pdf.Root.__delitem__("/OutputIntents"), "0 output intents"), (lambda pdf: pdf.Root.__delitem__("/Metadata"), "XMP"),
    (lambda pdf: pdf.docinfo.__delitem__("/Trapped"), "trapped"), (lambda pdf: pdf.pages[0].obj.__delitem__("/TrimBox"), "trim box"),
    (lambda pdf: pdf.pages[0].obj.__setitem__("/UserUnit", 2), "user unit"),
]  # fmt: skip


@pytest.mark.parametrize(("spoil", "words"), PLANTED)
def test_a_planted_fault_is_found_and_nothing_else(label, spoil, words):
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(label)) as pdf:
        spoil(pdf)
        pdf.save(out, force_version="1.6", deterministic_id=True)
    found = press_findings(out.getvalue())
    hits = [f for f in found if re.search(words, f)]
    assert hits, found
    assert len(found) <= 2, found


def test_files_that_are_no_pdf_or_are_locked_are_said(label):
    for data in (b"", b"%PDF-1.4\n%%EOF", b"hello", label[: len(label) // 3]):
        with pytest.raises(PdfProblem, match="cannot be read"):
            press_findings(data)
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(label)) as pdf:
        pdf.save(out, encryption=pikepdf.Encryption(owner="a", user="b"))
    assert press_findings(out.getvalue()) == ["it is encrypted"]


@pytest.mark.parametrize("depth", [8, 16])
def test_tiff_holds_the_plates_by_name_and_marks_on_all_of_them(tmp_path, depth):
    document = DEMOS["tea-label"][1]()
    export(
        document, tmp_path / "label.tif", ExportOptions(scale=0.5, press=Press(), depth=depth, marks=True, bleed=True)
    )
    with tifffile.TiffFile(tmp_path / "label.tif") as file:
        page = file.pages[0]
        inks, names = page.asarray(), page.tags[333].value
    assert names.split("\x00") == ["cyan", "magenta", "yellow", "black", "Kelder copper", "die line"]
    full = np.iinfo(inks.dtype).max
    assert inks.dtype == (np.uint8 if depth == 8 else np.uint16) and inks.shape[-1] == 6
    edge = inks[:, : round(8 / 25.4 * 48)]
    assert (edge.reshape(-1, 6)[:, 4:].max(0) == full).all(), "marks lie on the plates of spot inks, too"
    middle = inks[inks.shape[0] // 2 - 20, inks.shape[1] // 2 - 2]  # the copper sun
    assert middle[4] == full and (middle[:4] == 0).all()


def test_sixteen_bit_inks_run_between_those_of_eight():
    rng = np.random.default_rng(3)
    rgb = rng.integers(0, 256, (400, 3)).astype(np.uint8)
    fine = finely_separated(rgb.astype(np.uint16) * 257, Press())
    apart = np.abs(fine / 257 - separated(rgb, Press()))
    assert apart.mean() < 0.6 and apart.max() < 8, "levels of 8 bits: nodes are 4 apart, and each is rounded"
    ramp = finely_separated(np.repeat(np.linspace(20000, 40000, 200)[:, None], 3, 1).astype(np.uint16), Press())
    assert len(np.unique(ramp[:, 3])) > 150, "steps finer than 8 bits"
