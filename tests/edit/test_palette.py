"""Palettes, recolouring, looks, and palette files."""

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from scenes import disc, document
from volumen.colour import oklab
from volumen.colour.cluster import main_colours
from volumen.colour.difference import cielab, from_cielab, srgb_difference
from volumen.colour.relatives import contrast, from_hsl, from_lab, harmony, hsl, lab, most_chroma, tints_and_shades
from volumen.colour.srgb import to_linear
from volumen.edit import gradients, palette
from volumen.edit.looks import transfer_look
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.formats.palettes import read_palette, write_palette
from volumen.model.ingredients import Body, CastShadow, Fill, Line, Rounding
from volumen.model.make import linear, radial, solid
from volumen.model.nodes import Palette, RectangleForm, Shape, Swatch
from volumen.model.recolour import recolour, shifted
from volumen.model.tree import find
from volumen.model.validate import DocumentError, validate
from volumen.shading.paint import Colour, Linear, Solid, Stop, colour

RED, TEAL = colour("#c8402a"), colour("#2b8577")
rgb = st.tuples(*[st.floats(0, 1)] * 3)


def with_swatches():
    """A disc in a swatch, one with a stop of it, one beside both."""
    doc = document(disc(1, 60, 60, 30), disc(2, 120, 60, 30), disc(3, 60, 140, 30, solid("#000000")))
    doc, (red, teal) = palette.add_swatches(doc, [("brick", RED), ("kelp", TEAL)], "pier")
    stops = (Stop(0, RED, swatch=red), Stop(1, TEAL, swatch=teal))
    paints = {1: Solid(RED, red), 2: Linear(stops, (90, 60), (150, 60))}
    for i, paint in paints.items():
        doc = palette.map_paints(doc, lambda p, new=paint: new, [i])
    return doc, red, teal


def paint(doc, i):
    return find(doc, i).recipe[0].paint


def test_a_swatch_recolours_everything_that_uses_it_and_nothing_else():
    doc, red, _ = with_swatches()
    blue = colour("#2040c0")
    after = palette.set_swatch(doc, red, colour=blue)
    assert paint(after, 1).colour == blue
    assert [s.colour for s in paint(after, 2).stops] == [blue, TEAL]
    assert find(after, 3) is find(doc, 3)
    assert native.decode(native.encode(after), "p") == after
    gone = palette.remove_swatch(after, red)
    assert paint(gone, 1).colour == blue and paint(gone, 1).swatch is None
    assert paint(gone, 2).stops[0].swatch is None


def test_swatches_are_ordered_grouped_and_collected():
    doc, red, teal = with_swatches()
    assert [s.id for s in palette.move_swatch(doc, teal, red).palette.swatches] == [teal, red]
    moved = palette.move_swatch(doc, red, None, "deck")
    assert palette.groups(moved.palette) == ["pier", "deck"]
    assert palette.colours_in(doc, [1, 2, 3]) == [RED, TEAL, Colour(0, 0, 0)]
    with pytest.raises(DocumentError, match="palette"):
        validate(msgspec.structs.replace(doc, palette=Palette(doc.palette.swatches, next_id=1)))


def test_saved_gradients_are_linked_until_detached():
    doc, _, _ = with_swatches()
    doc, link = palette.save_gradient(doc, paint(doc, 2), "dusk")
    linked = msgspec.structs.replace(paint(doc, 2), link=link)
    doc = palette.map_paints(doc, lambda p: linked, [2])
    doc = palette.map_paints(doc, lambda p: msgspec.structs.replace(linked, start=(0, 0)), [3])
    changed = msgspec.structs.replace(linked, stops=(Stop(0, TEAL), Stop(1, RED)))
    after = palette.follow_link(palette.map_paints(doc, lambda p: changed, [2]), changed)
    assert paint(after, 3).stops == changed.stops and paint(after, 3).start == (0, 0)
    assert palette.saved_gradient(after, link).stops == changed.stops
    free = palette.remove_gradient(after, link)
    assert paint(free, 3).link is None and paint(free, 3).stops == changed.stops


def test_looks_are_taken_in_parts():
    source = Shape(
        1,
        "a",
        RectangleForm(0, 0, 50, 50),
        (solid("#c8402a"), Line(Solid(TEAL), 4.0), Body("ball"), CastShadow()),
        opacity=0.5,
    )
    target = Shape(2, "b", RectangleForm(60, 0, 50, 50), (Rounding(5.0), solid("#000000"), Line(Solid(RED), 1.0)))
    doc = document(source, target)
    whole = find(transfer_look(doc, source, [2]), 2)
    assert [type(i) for i in whole.recipe] == [Rounding, Fill, Line, Body, CastShadow] and whole.opacity == 0.5
    lines = find(transfer_look(doc, source, [2], ["line"]), 2)
    assert lines.recipe[1] == target.recipe[1] and lines.recipe[2].paint == Solid(TEAL) and lines.opacity == 1


@given(rgb)
def test_recolouring_by_nothing_changes_nothing(c):
    assert np.abs(np.array(shifted(Colour(*c), 0, 0, 0).rgb) - c).max() < 2e-3
    grey = shifted(Colour(*c), 90, 0, -1)
    assert np.ptp(grey.rgb) < 2e-3


def test_recolouring_a_selection_turns_every_hue():
    doc, _, _ = with_swatches()
    after = recolour(doc, [1, 2], hue=120)
    before, now = (oklab.to_lch(oklab.from_srgb(paint(d, 1).colour.rgb)) for d in (doc, after))
    assert abs((now[2] - before[2]) % 360 - 120) < 3
    assert paint(after, 1).swatch is None and doc.palette == after.palette
    assert find(after, 3) is find(doc, 3) or paint(after, 3) == paint(doc, 3)


def test_one_gradient_runs_across_several_shapes():
    shapes = [Shape(k, f"s{k}", RectangleForm(0, 0, 40, 40), (Fill(linear((0, 0), (40, 0), (0, "#000000"), (1, "#ffffff"))),), transform=(1, 0, 0, 1, 50 * k, 0)) for k in (1, 2, 3)]  # fmt: skip
    doc = gradients.across(document(*shapes), [1, 2, 3])
    from volumen.geometry.affine import apply
    from volumen.model.tree import world_of

    ends = {
        (apply(world_of(doc, k), paint(doc, k).start), apply(world_of(doc, k), paint(doc, k).end)) for k in (1, 2, 3)
    }
    assert np.ptp(np.array(list(ends)), axis=0).max() < 1e-9
    assert np.array(list(ends))[0] == pytest.approx(np.array([(50, 0), (190, 0)]))


def test_stops_spaced_evened_and_sampled():
    stops = (Stop(0, colour("#000000")), Stop(0.1, colour("#808080")), Stop(1, colour("#ffffff")))
    assert [s.at for s in gradients.distributed(stops)] == [0, 0.5, 1]
    assert gradients.evened_out(stops)[1].at == pytest.approx(0.5, abs=0.06)
    row = np.column_stack([np.linspace(0, 1, 50), np.abs(np.linspace(-1, 1, 50)), np.full(50, 0.2), np.ones(50)])
    made = gradients.sampled_stops(row)
    from volumen.shading.ramp import ramp

    assert 3 <= len(made) <= 9
    assert srgb_difference(ramp(made, np.linspace(0, 1, 50))[:, :3], row[:, :3]).max() < 4


def test_main_colours_of_a_picture():
    pixels = np.concatenate(
        [np.tile(c, (n, 1)) for c, n in (((0.8, 0.2, 0.1), 300), ((0.1, 0.5, 0.5), 200), ((1, 1, 1), 100))]
    )
    assert main_colours(pixels, 3) == pytest.approx(np.array([[0.8, 0.2, 0.1], [0.1, 0.5, 0.5], [1, 1, 1]]), abs=0.01)
    assert len(main_colours(pixels, 9)) == 3
    with pytest.raises(ValueError, match="no pixels"):
        main_colours(np.zeros((0, 3)), 3)


# -- colours that belong together


@given(rgb)
def test_notations_lead_back(c):
    assert from_hsl(*hsl(c)) == pytest.approx(c, abs=1e-9)
    assert from_lab(*lab(c)) == pytest.approx(c, abs=1e-4)
    assert from_cielab(cielab(c)) == pytest.approx(to_linear(c), abs=1e-4)


def test_contrast_is_that_of_the_guideline():
    assert contrast((0, 0, 0), (1, 1, 1)) == pytest.approx(21)
    assert contrast((0.5, 0.5, 0.5), (0.5, 0.5, 0.5)) == 1


@given(rgb)
def test_tones_rise_and_harmonies_keep_lightness(c):
    tones = np.array(tints_and_shades(c))
    light = oklab.from_srgb(tones)[:, 0]
    assert (np.diff(light) > -1e-3).all()
    assert tones[4] == pytest.approx(c, abs=2e-3)
    assert len(harmony(c, "triad")) == 3


def test_gamut_marks():
    assert most_chroma(0.7, 30) < most_chroma(0.7, 140)
    l, c, h = oklab.to_lch(oklab.from_srgb([1.0, 0, 0]))
    assert most_chroma(float(l), float(h)) == pytest.approx(float(c), abs=2e-3)


# -- the press


# -- files


SWATCHES = (
    Swatch(1, "brick red", RED, "pier"),
    Swatch(2, "kelp", TEAL, "pier"),
    Swatch(3, "7 fog", Colour(0.8, 0.8, 0.8, 0.5)),
)


@pytest.mark.parametrize("suffix", [".css", ".json", ".svg"])
def test_palettes_go_out_and_come_back(suffix, tmp_path):
    path = tmp_path / f"harbour{suffix}"
    write_palette(Palette(SWATCHES), path)
    found = read_palette(path)
    assert len(found) == 3
    for mine, back in zip(
        SWATCHES,
        sorted(
            found,
            key=lambda s: [x.colour.rgb[0] for x in SWATCHES].index(
                min((x.colour.rgb[0] for x in SWATCHES), key=lambda r: abs(r - s.colour.rgb[0]))
            ),
        ),
        strict=True,
    ):
        assert np.abs(np.array(back.colour.rgb) - mine.colour.rgb).max() < 1 / 255
        assert back.group == mine.group
        assert suffix == ".css" or back.name == mine.name


@pytest.mark.parametrize(
    ("name", "data", "message"),
    [
        ("a.json", b"{", "no palette"), ("a.json", b'{"swatches":[{"name":"x","colour":"nope"}]}', "not a colour"),
        ("a.css", b"p { margin: 0 }", "no colours"), ("a.svg", b"<svg", "not readable"),
        ("a.svg", b'<!DOCTYPE s [<!ENTITY a SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg"><title>&a;</title></svg>', "no colours"),
        ("a.txt", b"", "can be read"),
    ],
)  # fmt: skip
def test_wrong_palette_files_say_what_is_wrong(name, data, message, tmp_path):
    (tmp_path / name).write_bytes(data)
    with pytest.raises(FileProblem, match=message):
        read_palette(tmp_path / name)


def test_radial_gradients_across_shapes_keep_their_ellipse():
    shapes = [Shape(k, "s", RectangleForm(0, 0, 40, 40), (Fill(radial((20, 20), 20, (0, "#000000"), (1, "#ffffff"))),), transform=(1, 0, 0, 1, 60 * k, 0)) for k in (0, 1)]  # fmt: skip
    doc = gradients.across(
        document(*[msgspec.structs.replace(s, id=s.id + i) for i, s in enumerate(shapes, 1)]), [1, 3]
    )
    assert paint(doc, 1).transform[0] == pytest.approx(2.5)
