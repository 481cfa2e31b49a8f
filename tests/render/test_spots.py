"""Spot inks: plates take pictures apart as PDF does, and laid on one another give the picture back."""

import numpy as np
import pytest
from msgspec.structs import replace

from agreement import page_by_pdfium
from scenes import WHITE, disc, document
from volumen.colour.press_views import Spot, overprinted
from volumen.compose.scene import build
from volumen.edit.inks import InkProblem, set_ink, with_named_inks, with_tint
from volumen.edit.palette import add_swatches, set_swatch
from volumen.formats.pdf.write import pdf_bytes
from volumen.model.ingredients import Body, CastShadow, Fill, Line
from volumen.model.inks import Ink
from volumen.model.make import linear, solid
from volumen.model.nodes import RectangleForm, Shape
from volumen.picture.spots import plate_picture, process_picture, used_inks
from volumen.render.raster import render_bytes
from volumen.shading.between import mixed
from volumen.shading.paint import Colour, Grain, Linear, Solid, Stop, colour, tinted

COPPER = colour("#b8683c")


def inked(*nodes, overprints=False):
    doc = document(*nodes, ground=WHITE)
    doc, ids = add_swatches(doc, [("copper", COPPER), ("night", colour("#26304f"))])
    doc = set_ink(doc, ids[0], Ink("Copper", overprints=overprints))
    return set_ink(doc, ids[1], Ink("Night"))


def ink(tint=1.0, swatch=1, of=COPPER):
    return Fill(Solid(tinted(of, tint), swatch, tint=tint))


def bar(node_id, x, y, w, h, *recipe, **more):
    return Shape(node_id, f"bar {node_id}", RectangleForm(x, y, w, h), recipe, **more)


def plate(doc, swatch=1):
    return 255 - render_bytes(plate_picture(build(doc), swatch))[..., 0].astype(int)


def process(doc):
    return render_bytes(process_picture(build(doc)))[..., :3].astype(int)


def test_tints_are_the_plate_and_what_lies_beneath_is_knocked_out():
    doc = inked(
        bar(1, 0, 0, 200, 200, solid("#3c6e71")), bar(2, 20, 20, 80, 80, ink()), bar(3, 110, 20, 60, 80, ink(0.4))
    )
    cover = plate(doc)
    assert cover[60, 60] == 255 and abs(cover[60, 140] - 102) <= 1 and cover[150, 60] == 0
    assert (process(doc)[60, 60] == 255).all(), "nothing else is printed where the ink lies"
    assert not plate(doc, 2).any() and set(used_inks(build(doc))) == {1}
    over = inked(bar(1, 0, 0, 200, 200, solid("#3c6e71")), bar(2, 20, 20, 80, 80, ink()), overprints=True)
    assert (process(over)[60, 60] == process(over)[150, 60]).all(), "the ink lies on what is beneath"
    assert plate(over)[60, 60] == 255


@pytest.mark.parametrize(("above", "left"), [
    (bar(2, 50, 0, 40, 200, solid("#3c6e71")), 0.0), (bar(2, 50, 0, 40, 200, solid("#3c6e71"), opacity=0.5), 0.5),
    (bar(2, 50, 0, 40, 200, solid("#3c6e71"), blend="multiply"), 1.0), (bar(2, 50, 0, 40, 200, ink(0.5)), 0.5),
    (bar(2, 50, 0, 40, 200, solid("#3c6e71"), blend="screen"), 0.0), (bar(2, 50, 0, 40, 200, solid("#fff"), visible=False), 1.0),
])  # fmt: skip
def test_process_colours_over_an_ink_do_what_transparency_in_pdf_does(above, left):
    """Normal knocks out by its alpha, multiply leaves the ink, screen takes it (process colours are white on its plate)."""
    cover = plate(inked(bar(1, 0, 50, 200, 100, ink()), above))
    assert cover[100, 70] == pytest.approx(255 * left, abs=1.5) and cover[100, 150] == 255


def test_shadows_over_an_ink_are_process_black_and_leave_its_plate():
    doc = inked(bar(1, 0, 0, 200, 200, ink()), disc(2, 80, 80, 30, solid("#f2e9d8"), CastShadow(0.6), lift=12.0))
    cover = plate(doc)
    assert cover[80, 80] == 0 and cover[150, 150] == 255
    assert cover[95:125, 95:125].min() >= 0 and cover[118, 118] == 255, "multiplied shadows leave the ink"
    assert process(doc)[112, 108].max() < 250, "and are printed in black over it"


def test_light_grain_and_mixed_gradients_are_printed_with_the_process_colours():
    stops = (Stop(0, COPPER, swatch=1), Stop(1, tinted(COPPER, 0.2), swatch=1, tint=0.2))
    ramp = Linear(stops, (0, 0), (200, 0))
    mixed = replace(ramp, stops=(stops[0], Stop(1, colour("#3c6e71"))))
    rows = (
        (Fill(ramp), True), (Fill(replace(ramp, oklab=False)), True), (Fill(mixed), False), (Fill(replace(ramp, grain=Grain())), False),
        (Fill(Solid(COPPER, 1, Grain())), False), (Fill(Solid(colour("#b8683d"), 1)), False),
        (Line(Solid(COPPER, 1), 8.0), True),
    )  # fmt: skip
    for paint, spot in rows:
        assert bool(used_inks(build(inked(bar(1, 20, 20, 160, 160, paint))))) == spot
    lit = plate(inked(disc(1, 100, 100, 60, ink(), Body())))
    assert lit[60:140, 60:140].max() == 0, "what light makes of it covers the ink"
    cover = plate(inked(bar(1, 0, 0, 200, 200, Fill(ramp))))[100]
    assert cover[2] > 250 and abs(cover[197] - 54) < 5 and (np.diff(cover) <= 1).all(), "from full ink to a fifth"


def test_plates_laid_on_one_another_are_the_picture_and_pdf_readers_see_it():
    ramp = Linear(
        (Stop(0, COPPER, swatch=1), Stop(1, Colour(1, 1, 1), swatch=1, tint=0.0)), (20, 0), (180, 0), oklab=False
    )
    doc = inked(
        bar(1, 0, 0, 200, 120, solid("#3c6e71")), bar(2, 20, 20, 160, 40, Fill(ramp)), bar(3, 20, 80, 60, 60, ink(0.6)),
        bar(4, 100, 80, 60, 60, ink(1.0, 2, colour("#26304f"))), bar(5, 60, 100, 60, 20, solid("#f2e9d8")),
    )  # fmt: skip
    picture = build(doc)
    ours = render_bytes(picture)[..., :3].astype(int)
    spots = [Spot(i.rgb, plate(doc, k).astype(np.uint8)) for k, i in picture.inks.items()]
    laid = overprinted(process(doc).astype(np.uint8), spots).astype(int)
    assert np.abs(laid - ours).max() <= 2, "on white a tint looks as its swatch; dithering and rounding are the rest"
    seen = np.round(page_by_pdfium(pdf_bytes(picture), 1.0) * 255).astype(int)
    assert np.percentile(np.abs(seen - ours).max(-1), 98) <= 2, "separations by their alternate"


def test_steps_of_a_blend_between_tints_of_one_ink_stay_on_its_plate():
    a, b = (Solid(tinted(COPPER, t), 1, tint=t) for t in (1.0, 0.2))
    steps = [mixed(a, b, t) for t in (0.0, 0.25, 0.5, 1.0)]
    assert [s.tint for s in steps] == pytest.approx([1.0, 0.8, 0.6, 0.2])
    assert all(used_inks(build(inked(bar(1, 0, 0, 9, 9, Fill(s))))) for s in steps)
    assert mixed(a, a, 0.5) == a and mixed(a, Solid(COPPER), 0.5).swatch is None
    assert mixed(a, Solid(colour("#26304f"), 2), 0.5).swatch is None


def test_inks_have_names_of_their_own_and_looks_that_were_measured():
    doc = inked(bar(1, 0, 0, 9, 9, ink(0.5)))
    for name, words in (
        ("", "needs a name"),
        ("  ", "needs a name"),
        ("Night", "already"),
        ("nIGHT ", "already"),
        ("Cyan", "every press"),
        ("All", "every press"),
        ("x" * 101, "100 letters"),
    ):
        with pytest.raises(InkProblem, match=words):
            set_ink(doc, 1, Ink(name))
    same = set_ink(doc, 1, Ink(" Copper "))
    assert same.palette.swatches[0].ink.name == "Copper"
    grey = set_ink(doc, 1, Ink("Copper", (50.0, 0.0, 0.0)))
    assert grey.palette.swatches[0].colour.rgb == pytest.approx((0.4663,) * 3, abs=0.002), "L* 50 is sRGB 119"
    paint = grey.root.children[0].recipe[0].paint
    assert paint.colour == tinted(grey.palette.swatches[0].colour, 0.5), "what follows it keeps its tint"
    half = with_tint(doc, Solid(COPPER, 1), 0.25)
    assert (half.tint, half.colour) == (0.25, tinted(COPPER, 0.25)) and with_tint(doc, Solid(COPPER), 0.3).tint == 1.0
    assert set_swatch(doc, 1, colour=colour("#204060")).root.children[0].recipe[0].paint.colour == tinted(
        colour("#204060"), 0.5
    )
    twice = replace(
        doc, palette=replace(doc.palette, swatches=tuple(replace(s, ink=Ink("Same")) for s in doc.palette.swatches))
    )
    assert [s.ink.name for s in with_named_inks(twice).palette.swatches] == ["Same", "Same 2"]
    assert with_named_inks(doc) is doc
    assert linear((0, 0), (1, 0), (0, "#fff"), (1, "#000")).stops[0].tint == 1.0
