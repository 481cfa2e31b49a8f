"""Files from elsewhere that ask too much: stock, PDFs and pictures are refused in words, within limits."""

import json

import pikepdf
import pytest
from pikepdf import Array, Dictionary, Name, Stream

from volumen.formats.apart import Apart
from volumen.formats.files import FileProblem
from volumen.formats.foreign import FileToRead, Findings, PrintedSheet, read_here

CORNERS = [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]]
DESK = ["#d9dde0", "#eef3f5", "#cfdfe6", "#ffffff", "#c9a67a"]
BODY = {"profile": [[0, 0], [0.4, 0], [0.4, 1], [0, 1]]}


def photograph(**more):
    return {"type": "photograph", "picture": "a.png", "points": CORNERS, **more}


STOCKS = {
    "nested deep": ('{"name": "x", "thing": ' + "[" * 100_000, "no stock"),
    "a zero in a name": (photograph(picture="a\0b.png"), "a character that no file name has"),
    "a folder above": (photograph(picture="../a.png"), "outside the folder"),
    "another folder": (photograph(picture="/etc/hostname"), "outside the folder"),
    "a point far out": (photograph(points=[[9999, 9999], *CORNERS[1:]]), "points lie on the photograph"),
    "no number": ('{"name": "x", "thing": {"type": "cloth", "thread": NaN}}', "no stock"),
    "900 desks": ({"type": "screens", "desks": [DESK] * 900}, "1 to 4 desks"),
    "a body far out": ({"type": "table", "bodies": [{**BODY, "x": 9000.0}]}, "from the middle of the table"),
}


@pytest.mark.parametrize("name", STOCKS)
def test_a_stock_that_cannot_be_is_refused_in_words(name, tmp_path):
    thing, words = STOCKS[name]
    path = tmp_path / "own.json"
    path.write_text(thing if isinstance(thing, str) else json.dumps({"name": "own", "thing": thing}))
    with pytest.raises(FileProblem, match=words):
        read_here(FileToRead("stock", str(path)))


def nested(path, levels=28):
    """A PDF whose form is drawn twice by another, and so on: 2^28 times."""
    pdf = pikepdf.new()
    page = pdf.add_blank_page(page_size=(200, 200))
    form = Stream(pdf, b"0 0 10 10 re f")
    for _ in range(levels + 1):
        form.Type, form.Subtype, form.BBox = Name.XObject, Name.Form, Array([0, 0, 200, 200])
        inner = pdf.make_indirect(form)
        form = Stream(pdf, b"/A Do /A Do")
        form.Resources = Dictionary(XObject=Dictionary(A=inner))
    page.obj.Contents, page.obj.Resources = Stream(pdf, b"/A Do"), Dictionary(XObject=Dictionary(A=inner))
    pdf.save(path)


def test_a_pdf_that_draws_itself_over_and_over_ends_within_limits(tmp_path):
    nested(tmp_path / "few.pdf", 3)
    options = {"profile": "coated", "gain": 0.04, "astray": 0.1, "dpi": 72.0}
    printed = read_here(FileToRead("printed", str(tmp_path / "few.pdf"), options=options))
    assert isinstance(printed, PrintedSheet) and printed.width == 200
    nested(tmp_path / "nested.pdf")
    found = Apart().read(FileToRead("findings", str(tmp_path / "nested.pdf")))
    assert isinstance(found, Findings) and found.wrong


def test_what_is_wrong_with_very_many_pages_is_told_up_to_a_thousand(tmp_path):
    pdf = pikepdf.new()
    pdf.add_blank_page(page_size=(200, 200))
    kids = pdf.Root.Pages.Kids
    pdf.Root.Pages.Kids, pdf.Root.Pages.Count = Array([kids[0]] * 2000), 2000
    pdf.save(tmp_path / "pages.pdf")
    found = read_here(FileToRead("findings", str(tmp_path / "pages.pdf")))
    assert isinstance(found, Findings) and len(found.wrong) == 1001 and "only the first" in found.wrong[-1]
