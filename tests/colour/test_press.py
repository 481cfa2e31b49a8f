"""Press proofs against the measured patches of their print condition, against independent separations, and in words."""

import io
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace
from PIL import Image as Pillow
from PIL import ImageCms

from volumen.colour.difference import ciede2000, cielab, srgb_difference
from volumen.colour.press import (
    ProfileProblem,
    inks_of,
    look_of,
    press_difference,
    printed,
    profile_bytes,
    separated,
    total_ink,
)
from volumen.colour.press_settings import Press
from volumen.colour.press_views import ProofView, plates_of, proof_of

DATA = Path(__file__).parent.parent / "press_data"
PATCHES = {"coated": "FOGRA39L.ti3", "uncoated": "FOGRA29L.ti3"}
LOT = np.random.default_rng(7).integers(0, 256, (60, 70, 3), dtype=np.uint8)


def measured(name):
    """The patches of a condition: inks in percent (n, 4), CIELAB of the print (n, 3)."""
    rows = (DATA / PATCHES[name]).read_text().split("BEGIN_DATA\n")[1].split("END_DATA")[0].splitlines()
    values = np.array([[float(v) for v in row.split()[1:]] for row in rows])
    return values[:, :4], values[:, 7:10]


@pytest.mark.parametrize("name", PATCHES)
def test_prints_are_those_that_were_measured(name):
    """The shipped profile through the library in CIELAB: mean 1 and worst 3 over all patches, as the design asks."""
    inks, lab = measured(name)
    profile, to = ImageCms.ImageCmsProfile(io.BytesIO(profile_bytes(name))), ImageCms.createProfile("LAB")
    flags = ImageCms.Flags.NOOPTIMIZE
    transform = ImageCms.buildTransform(profile, to, "CMYK", "LAB", ImageCms.Intent.ABSOLUTE_COLORIMETRIC, flags)
    image = Pillow.frombytes("CMYK", (len(inks), 1), np.round(inks * 2.55).astype(np.uint8).tobytes())
    found = np.frombuffer(transform.apply(image).tobytes(), np.uint8).reshape(-1, 3).astype(float)
    found = np.stack([found[:, 0] / 2.55, *(v.astype(np.uint8).view(np.int8) for v in found.T[1:])], axis=-1)
    miss = ciede2000(found, lab)
    assert miss.mean() < 1 and miss.max() < 3


@pytest.mark.parametrize("name", PATCHES)
def test_the_shown_print_is_the_measured_one_where_a_screen_can_show_it(name):
    """Our own way to the screen, paper white on: patches well inside sRGB come out as measured (D50 told as D65)."""
    inks, lab = measured(name)
    shown = printed(np.round(inks * 2.55), Press(name, paper=True)) / 255
    inside = (shown.min(axis=1) > 0.03) & (shown.max(axis=1) < 0.97)
    white = printed([[0, 0, 0, 0]], Press(name, paper=True))[0]
    assert inside.sum() > 400 and abs(float(white.mean()) - 243) < 8
    assert np.abs(cielab(shown)[inside, 0] - lab[inside, 0]).mean() < 1, "lightness does not depend on the white"


def test_tables_are_as_good_as_working_out_each_colour():
    """Many pixels go through tables; the same colours few at a time are exact. Half a level on average, 20 at worst in
    the darkest, where inks trade places (CIEDE2000 of the prints stays below 3)."""
    press = Press()
    many = np.repeat(LOT.reshape(1, -1, 3), 6, axis=0)
    table, exact = separated(many, press)[0], separated(LOT.reshape(-1, 3), press)
    assert np.abs(table.astype(int) - exact).mean() < 0.5
    assert srgb_difference(printed(table, press) / 255, printed(exact, press) / 255).max() < 3


def test_white_is_paper_and_black_is_held_by_the_limit():
    press = Press()
    assert separated([[255, 255, 255]], press).tolist() == [[0, 0, 0, 0]]
    assert printed([[0, 0, 0, 0]], press).tolist() == [[255, 255, 255]]
    assert printed([[0, 0, 0, 0]], replace(press, paper=True)).max() < 255
    assert float(total_ink(separated(LOT, press)).max()) < 310 and press.ink_limit == 300
    assert Press("uncoated").ink_limit == 260 and Press("uncoated", limit=240.0).ink_limit == 240


def test_colours_beyond_the_inks_are_told():
    far, near = press_difference([[0, 255, 40], [150, 130, 115]], Press())
    assert far > 8 and near < 1
    grey = press_difference(np.repeat(np.arange(256, dtype=np.uint8)[:, None], 3, axis=1), Press())
    assert grey.max() < 3, "black becomes the deepest black, and is not out of gamut"


def test_inks_of_a_colour_give_that_colour():
    for rgb in ((0.6, 0.5, 0.45), (0.2, 0.4, 0.5)):
        assert np.abs(np.subtract(look_of(inks_of(rgb, Press()), Press()), rgb)).max() < 0.02


def test_plates_add_up_to_the_print():
    """Each plate alone, as grey, is its ink; all four in colour are the print."""
    inks = separated(LOT, Press())
    for k in range(4):
        grey = plates_of(inks, ProofView("plates", plates=(k,), coloured=False))
        assert (255 - grey[..., 0] == inks[..., k]).all()
    assert (plates_of(inks, ProofView("plates")) == printed(inks, Press())).all()
    assert (plates_of(inks, ProofView("plates", plates=())) == 255).all()


def test_a_proof_stripes_what_is_out_of_gamut_and_counts_it():
    """Half green beyond the inks, half grey; the clear part counts for nothing."""
    pixels = np.full((40, 90, 4), 255, np.uint8)
    pixels[:, :30, :3], pixels[:, 30:60, :3], pixels[:, 60:, 3] = (0, 255, 40), (150, 130, 115), 0
    proof = proof_of(pixels, ProofView("press"))
    plain = proof_of(pixels, ProofView("press", veil=False))
    assert proof.figures["out"] == pytest.approx(50) and proof.figures["worst"] > 8
    striped = (proof.pixels != plain.pixels).any(axis=-1)
    assert 0.4 < striped[:, :30].mean() < 0.6 and not striped[:, 30:].any()
    assert (plain.pixels[:, 60:] == 255).all(), "paper"


def test_total_ink_warns_beyond_the_limit():
    pixels = np.zeros((8, 8, 4), np.uint8)
    pixels[..., 3] = 255
    low, high = (proof_of(pixels, ProofView("ink", Press(limit=v))) for v in (200.0, 400.0))
    assert low.figures["over"] == 100 and high.figures["over"] == 0
    assert low.pixels[0, 0, 0] > 200 and high.pixels[0, 0].max() < 256 and high.pixels[0, 0, 0] < 100


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"no profile", "damaged, or no ICC profile"),
        (ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes(), "a screen in RGB"),
        (profile_bytes("coated")[:500], "damaged|table|profile"),
        (None, "No such file"),
    ],
)
def test_what_is_no_profile_of_a_press_is_said(tmp_path, content, words):
    path = tmp_path / "own.icc"
    if content is not None:
        path.write_bytes(content)
    with pytest.raises(ProfileProblem, match=words):
        separated(LOT, Press(str(path)))


def test_an_own_profile_is_used(tmp_path):
    path = tmp_path / "harbour press.icc"
    path.write_bytes(profile_bytes("uncoated"))
    assert (separated(LOT, Press(str(path))) == separated(LOT, Press("uncoated"))).all()
    assert Press(str(path)).name == "harbour press" and Press(str(path)).ink_limit == 300
