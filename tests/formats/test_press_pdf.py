"""PDF for the press: written so that our own checker and qpdf find nothing, and the checker finds what is planted."""

import io
import re
from datetime import UTC, datetime

import numpy as np
import pikepdf
import pytest
import tifffile
from pikepdf import Array, Dictionary, Name

from scenes import feature_card
from volumen.colour.press import Press, finely_separated, separated
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.formats.export import export
from volumen.formats.marks import mark_lines
from volumen.formats.options import ExportOptions
from volumen.formats.pdf.checker import PdfProblem, press_findings
from volumen.formats.pdf.page import Page
from volumen.formats.pdf.write import pdf_bytes

MADE = datetime(2026, 1, 2, 3, 4, 5, tzinfo=UTC)


def written(document, press=True, marks=True, dpi=72.0):
    page = Page(0.0, tuple(mark_lines(document.sheet)) if marks else ())
    return pdf_bytes(build(document), "Label é", dpi, page, MADE, Press() if press else None)


@pytest.fixture(scope="module")
def label():
    return written(DEMOS["tea-label"][1]())


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
