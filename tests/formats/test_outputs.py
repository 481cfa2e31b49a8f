"""Pictures in every depth and in inks, outputs by the dozen: each file what it says, all of them or none."""

import os

import cv2
import numpy as np
import pikepdf
import pytest
import tifffile
from click.testing import CliRunner
from msgspec.structs import replace
from PIL import Image as Pillow

from scenes import disc, document, lit_trio
from volumen.cli import main
from volumen.colour.press import printed, profile_bytes, separated
from volumen.colour.press_settings import Press
from volumen.compose.scene import build
from volumen.formats import native
from volumen.formats.export import export
from volumen.formats.files import FileProblem
from volumen.formats.options import ExportOptions
from volumen.formats.outputs import read_kept, tasks_for, write_all, write_kept
from volumen.model.make import linear, solid
from volumen.model.nodes import RectangleForm, Shape
from volumen.model.outputs import Output
from volumen.render.raster import render_bytes, render_words

PNG = Output("screen", "png", width=120)
INKS = Output("press", "tif", width=0, dpi=144, inks=True)
EACH = Output("pieces", "png", "each object", width=50)
RAMP = Shape(1, "ramp", RectangleForm(0, 0, 200, 200), (solid("#000000"),))


def written(tmp_path, suffix, **options):
    path = tmp_path / f"out.{suffix}"
    export(lit_trio(), path, ExportOptions(**options))
    return path


@pytest.mark.parametrize("suffix", ["png", "tif"])
def test_sixteen_bits_hold_what_eight_cannot(suffix, tmp_path):
    """A fall of light over one 8-bit level has hundreds of steps; the rest agrees with the eight-bit picture."""
    fall = replace(
        RAMP, recipe=(replace(solid("#000000"), paint=linear((0, 0), (200, 0), (0, "#404040"), (1, "#424242"))),)
    )
    path = tmp_path / f"fall.{suffix}"
    export(document(fall), path, ExportOptions(depth=16))
    words = tifffile.imread(path) if suffix == "tif" else cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert words.dtype == np.uint16 and len(np.unique(words[100, :, 1])) > 150
    words = render_words(build(lit_trio()))
    assert np.abs(words / 257.0 - render_bytes(build(lit_trio()))).max() <= 1.01, "dither moves half a level"
    with Pillow.open(path) as image:
        assert image.info["icc_profile"] and image.info["dpi"][0] == pytest.approx(96, abs=0.1)


def seen(path):
    """The pixels of a file as RGBA."""
    with Pillow.open(path) as image:
        return np.asarray(image.convert("RGBA"))


def test_a_tiff_in_inks_holds_the_inks_of_the_proof(tmp_path):
    """Two other readers see four inks with the profile; printed, they are the proof."""
    path = written(tmp_path, "tif", press=Press("uncoated"))
    rgb = render_bytes(build(lit_trio()))[..., :3]
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        assert page.photometric.name == "SEPARATED" and page.iccprofile == profile_bytes("uncoated")
        inks = page.asarray()
    with Pillow.open(path) as image:
        assert image.mode == "CMYK" and (np.asarray(image) == inks).all()
    assert (inks == separated(rgb, Press("uncoated"))).all()
    assert np.abs(printed(inks, Press("uncoated")).astype(int) - rgb).mean() < 12, (
        "the same picture, as near as inks come"
    )


def test_lossy_pictures_have_their_quality(tmp_path):
    best, low = (written(tmp_path, "jpg", quality=q).stat().st_size for q in (95, 30))
    thin = written(tmp_path, "jpg", quality=95, fine_colour=False).stat().st_size
    assert low < thin < best
    exact = seen(written(tmp_path, "webp"))
    assert (exact == render_bytes(build(lit_trio()))).all() and written(
        tmp_path, "webp", quality=40
    ).stat().st_size < 4000


@pytest.mark.parametrize(("suffix", "most"), [("jpg", "65,500"), ("webp", "16,383")])
def test_what_a_format_cannot_hold_is_said_before_it_is_drawn(suffix, most, tmp_path):
    wide = document(disc(1, 2, 2, 2), side=4.0)
    wide = replace(wide, sheet=replace(wide.sheet, width=4000.0))
    with pytest.raises(FileProblem, match=f"at most {most} pixels along a side, not 68,000"):
        export(wide, tmp_path / f"a.{suffix}", ExportOptions(scale=17.0))


def test_branches_alone_are_cropped_to_themselves(tmp_path):
    doc = document(disc(1, 60, 60, 20), disc(2, 150, 150, 30))
    export(doc, tmp_path / "one.png", ExportOptions(nodes=(2,), scale=2.0))
    image = seen(tmp_path / "one.png")
    ys, xs = np.nonzero(image[..., 3] > 128)
    assert np.ptp(xs) + 1 == pytest.approx(120, abs=2) and np.ptp(ys) + 1 == pytest.approx(120, abs=2)
    assert image[0, 0, 3] == 0 and 120 < image.shape[1] < 140
    doc = replace(doc, sheet=replace(doc.sheet, bleed=9.0))
    export(doc, tmp_path / "one.pdf", ExportOptions(nodes=(2,), bleed=True, marks=True))
    with pikepdf.open(tmp_path / "one.pdf") as file:
        assert "/TrimBox" not in file.pages[0] and float(file.pages[0].MediaBox[2]) == pytest.approx(48, abs=3)
    with pytest.raises(FileProblem, match="nothing to see"):
        export(doc, tmp_path / "none.png", ExportOptions(nodes=(77,)))


def test_each_output_has_a_name_of_its_own(tmp_path):
    discs = disc(1, 60, 60, 20), disc(2, 150, 150, 30), disc(3, 90, 90, 9)
    doc = document(*(replace(d, name=n) for d, n in zip(discs, ("buoy", "buoy", "a/b: c"), strict=True)))
    names = [t.path.name for t in tasks_for(doc, [PNG, EACH], (), tmp_path, "ferry", Press())]
    assert names == ["ferry screen.png", "ferry pieces buoy.png", "ferry pieces buoy 2.png", "ferry pieces a-b- c.png"]
    with pytest.raises(FileProblem, match="nothing is selected"):
        tasks_for(doc, [replace(PNG, of="selection")], (), tmp_path, "ferry", Press())
    write_all(doc, tasks_for(doc, [EACH], (), tmp_path, "ferry", Press()), lambda _: None)
    assert [seen(p).shape[1] for p in sorted(tmp_path.glob("*.png"))] == [50, 50, 50]


def test_all_or_none(tmp_path, monkeypatch):
    """The third of three outputs cannot be made: nothing new is there, what was there stays."""
    doc = lit_trio()
    tasks = tasks_for(doc, [PNG, INKS, replace(PNG, name="huge", width=0, dpi=2400.0)], (), tmp_path, "trio", Press())
    tasks[2] = tasks[2]._replace(options=replace(tasks[2].options, scale=1e4))
    tasks[0].path.write_bytes(b"old")
    told = []
    with pytest.raises(FileProblem, match="smaller size"):
        write_all(doc, tasks, told.append)
    assert [p.name for p in tmp_path.iterdir()] == ["trio screen.png"] and tasks[0].path.read_bytes() == b"old"
    write_all(doc, tasks[:2], told.append)
    assert sorted(p.name for p in tmp_path.iterdir()) == ["trio press.tif", "trio screen.png"] and told[-1] == 1.0
    link = tmp_path / "trio screen.png"
    os.replace(link, tmp_path / "real.png")
    link.symlink_to(tmp_path / "real.png")
    write_all(doc, tasks[:1], told.append)
    assert link.is_symlink() and seen(link).shape[1] == 120


def test_kept_outputs_stay_with_the_document_and_the_program(tmp_path):
    doc = replace(lit_trio(), outputs=(PNG, INKS))
    assert native.decode(native.encode(doc), "kept").outputs == (PNG, INKS)
    write_kept(tmp_path / "outputs.json", (PNG, EACH))
    assert read_kept(tmp_path / "outputs.json") == (PNG, EACH) and read_kept(tmp_path / "none.json") == ()
    for text, words in (
        ('{"version": 9, "outputs": []}', "newer Volumen"),
        ("{", "no kept outputs"),
        ("[]", "no kept"),
    ):
        (tmp_path / "outputs.json").write_text(text)
        with pytest.raises(FileProblem, match=words):
            read_kept(tmp_path / "outputs.json")


def test_the_command_line_writes_all_of_it(tmp_path):
    native.save(replace(lit_trio(), outputs=(PNG, INKS)), tmp_path / "trio.volumen")
    folder = tmp_path / "out"
    run = CliRunner().invoke
    assert "folder does not exist" in run(main, ["outputs", str(tmp_path / "trio.volumen"), str(folder)]).output
    folder.mkdir()
    assert run(main, ["outputs", str(tmp_path / "trio.volumen"), str(folder)]).exit_code == 0
    assert sorted(p.name for p in folder.iterdir()) == ["trio press.tif", "trio screen.png"]
    assert run(main, ["outputs", str(tmp_path / "trio.volumen"), str(folder), "--only", "nets"]).exit_code == 2
    tif = str(folder / "a.tif")
    assert run(main, ["render", "demo:net-float", "-o", tif, "--width", "90", "--press", "coated"]).exit_code == 0
    assert tifffile.imread(tif).shape == (90, 90, 4)
    made = run(main, ["render", "demo:net-float", "-o", tif, "--width", "90", "--press", "/etc/hosts"])
    assert made.exit_code == 1 and "no ICC profile" in made.output
