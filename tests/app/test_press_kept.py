"""The press, its intent and its limit belong to the artwork: saved, loaded, undone, and used by what is written."""

from __future__ import annotations

import io
from datetime import datetime

import msgspec
import numpy as np
import pikepdf
import pytest
from click.testing import CliRunner
from PIL import Image

from gestures import show
from scenes import disc, document, shown, solid
from volumen.cli import main
from volumen.colour.press import profile_bytes, separated, total_ink
from volumen.colour.press_settings import Press
from volumen.colour.press_views import on_white
from volumen.compose.scene import build
from volumen.edit.print_check import ink_that_meets
from volumen.formats import native
from volumen.formats.pdf.checker import press_findings
from volumen.formats.pdf.objects import of_version, srgb_profile
from volumen.formats.pdf.write import pdf_bytes
from volumen.library import check
from volumen.model.ingredients import CastShadow, Fill
from volumen.model.outputs import Output
from volumen.shading.paint import Solid, colour

pytestmark = pytest.mark.one_window
replace = msgspec.structs.replace
UNCOATED = Press("uncoated", "perceptual", limit=240.0)


def test_the_press_is_saved_loaded_and_undone(window, tmp_path):
    s = window.session
    show(window, document(disc(1, 70, 70, 30), side=200), 1)
    assert s.document.press == Press() == s.proofing.press
    choices = window.proof_choices
    choices._change_press(profile="uncoated", limit=None)
    window.proof_choices._change_press(limit=240.0)
    window.proof_choices._change_press(paper=True)
    assert s.document.press == Press("uncoated", limit=240.0) and s.proofing.press.paper and s.unsaved
    assert window.files.save_to(tmp_path / "a.volumen")
    show(window, document(disc(1, 70, 70, 30), side=200), 1)
    assert s.proofing.press.profile == "coated", "another artwork has its own"
    assert window.files.load(str(tmp_path / "a.volumen"))
    assert s.proofing.press.profile == "uncoated" and s.proofing.press.ink_limit == 240
    window.proof_choices._change_press(limit=200.0)
    window.registry.run("edit.undo")
    assert s.proofing.press.ink_limit == 240


def test_kept_outputs_are_for_the_press_of_the_artwork(tmp_path):
    kept = (Output("plates", "tif", width=80, inks=True),)
    doc = replace(document(disc(1, 70, 70, 40, solid("#c8402a"))), press=UNCOATED, outputs=kept)
    native.save(doc, tmp_path / "d.volumen")
    for press, name in ((None, "uncoated"), ("coated", "coated")):
        args = ["outputs", str(tmp_path / "d.volumen"), str(tmp_path / name)]
        (tmp_path / name).mkdir()
        done = CliRunner().invoke(main, args + (["--press", press] if press else []))
        assert done.exit_code == 0, done.output
        (made,) = (tmp_path / name).glob("*.tif")
        with Image.open(made) as picture:
            assert picture.info["icc_profile"] == profile_bytes(name)


@pytest.mark.parametrize(
    ("intent", "word"), [("relative", b"/RelativeColorimetric ri"), ("perceptual", b"/Perceptual ri")]
)
def test_the_intent_reaches_the_pdf(intent, word):
    picture = build(document(disc(1, 70, 70, 40)))
    data = pdf_bytes(picture, "t", 96, made=datetime.now().astimezone(), press=replace(UNCOATED, intent=intent))
    with pikepdf.open(io.BytesIO(data)) as pdf:
        assert word in pdf.pages[0].Contents.read_bytes()
    assert not press_findings(data)


def test_profiles_are_of_a_version_that_the_format_allows():
    data = srgb_profile()
    assert (data[8], data[9] >> 4) <= (4, 2)
    assert of_version(data) == data
    newer = data[:8] + bytes((4, 0x40, 0, 0)) + data[12:]
    assert of_version(newer)[8:12] == bytes((4, 0x20, 0, 0)) and len(of_version(newer)) == len(newer)
    Image.new("RGB", (2, 2)).save(io.BytesIO(), "JPEG", icc_profile=of_version(newer))
    pdf = pdf_bytes(build(document(disc(1, 70, 70, 40))), "t", 96, press=UNCOATED)
    with pikepdf.open(io.BytesIO(pdf)) as opened:
        stream = opened.pages[0].Resources.ColorSpace.S[1]
        stream.write(bytes(stream.read_bytes()[:8]) + bytes((4, 0x40, 0, 0)) + bytes(stream.read_bytes()[12:]))
        out = io.BytesIO()
        opened.save(out, force_version="1.6", deterministic_id=True)
    assert any("ICC version 4.4" in f for f in press_findings(out.getvalue()))


def test_a_click_on_a_check_shows_the_place_and_stays_in_proof(window, qtbot):
    s = window.session
    small = disc(5, 180, 40, 6, solid("#c8402a"), CastShadow(), lift=4.0)
    show(window, document(disc(1, 70, 120, 50), small, side=200))
    s.set_stage(4)
    s.set_proofing(shown=("small sizes",), large=None)
    qtbot.waitUntil(lambda: window.proof.list.count() > 0, timeout=20000)
    window.proof.list.itemClicked.emit(window.proof.list.item(0))
    assert s.stage == 4 and s.selection == (5,)
    wall = window.wall
    assert "as drawn" in wall.places, "a proof of the sheet is hung where there was none"
    box, _ = wall.view.shown(wall.places["as drawn"], wall.size_of_sheet)
    l, t, r, b = wall.marked
    assert box[0] <= l < r <= box[2] + 1e-6 and box[1] <= t < b <= box[3] + 1e-6 and wall.view.zoom > 4
    qtbot.waitUntil(lambda: "as drawn" in wall.images, timeout=20000)
    shot = wall.grab().toImage()
    at = wall.view.lies(wall.marked, wall.places["as drawn"], wall.size_of_sheet).adjusted(-4, -4, 4, 4)
    edge = shot.pixelColor(round(at.center().x()), round(at.top()))
    assert edge.red() > 150 and edge.green() < 110
    s.select((1,))
    assert wall.marked is None


def dark_over_dark():
    ink = Fill(Solid(colour("#3a2a22")), 1.0, "multiply")
    return document(disc(1, 80, 100, 50, solid("#4a4038")), disc(2, 120, 100, 50, ink), side=200)


@pytest.mark.parametrize(("limit", "found"), [(None, True), (395.0, False)])
def test_ink_is_measured_where_colours_meet(limit, found):
    doc = replace(dark_over_dark(), press=Press(limit=limit))
    inks = separated(on_white(shown(doc).astype(np.uint8)), doc.press)
    most = float(total_ink(inks).max())
    assert (most > doc.press.ink_limit) == found
    (fault,) = ink_that_meets(doc, inks, doc.press) or [None]
    assert (fault is not None) == found
    if fault is not None:
        assert fault.node == 2 and f"{most:.0f} %" in fault.message
        assert any("where colours meet" in f.message for f in check(doc, "coated"))


def test_the_window_says_where_too_much_ink_meets(window, qtbot):
    show(window, dark_over_dark())
    window.session.set_stage(4)
    window.proof.device.setCurrentIndex(1)
    window.proof.refresh()
    qtbot.waitUntil(lambda: any("where colours meet" in f.message for f in window.proof.faults), timeout=20000)
    texts = [window.proof.list.item(k).text() for k in range(window.proof.list.count())]
    assert any("where colours meet" in t for t in texts)
    window.proof.device.setCurrentIndex(0)
