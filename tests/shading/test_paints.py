"""Paints worked out point by point, against closed forms and against the drawing library's own gradients."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from scenes import disc, document
from volumen.colour import oklab
from volumen.compose.scene import build
from volumen.geometry.affine import rotation, scaling
from volumen.geometry.distance import distance_field
from volumen.geometry.path import Contour, Path
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import Fill, Line
from volumen.model.make import circle, linear, radial
from volumen.model.nodes import SegmentForm, Shape
from volumen.render.raster import render_float
from volumen.shading.between import mixed
from volumen.shading.carried import carried
from volumen.shading.paint import Along, Colour, Conic, Grain, Inward, Linear, Radial, Solid, Stop, colour, face_colour
from volumen.shading.paint_pixels import colours_at, parameter, spread_parameter
from volumen.shading.ramp import held_focus, plain_stops, ramp, reversed_stops, rounds

STOPS = (Stop(0, colour("#c8402a")), Stop(0.4, colour("#e6c793"), 0.3), Stop(1, colour("#0f4a49", 0.5)))
BLACK_TO_WHITE = (Stop(0, colour("#000000")), Stop(1, colour("#ffffff")))
DISC = ellipse(100, 100, 80, 80)


def grid(x0, y0, x1, y1, n=40):
    return np.stack(np.meshgrid(np.linspace(x0, x1, n), np.linspace(y0, y1, n)), axis=-1)


def test_conic_follows_the_angle():
    p = np.array([[(150.0, 100.0), (100.0, 150.0), (50.0, 100.0), (100.0, 50.0)]])
    t = parameter(Conic(STOPS, (100, 100), turn=90), p, DISC)
    assert t[0] == pytest.approx([0.75, 0.0, 0.25, 0.5])


def test_inward_follows_the_distance_to_a_circle():
    """On a disc the distance is known: radius less distance from the centre. A cell of 0.25 is far finer than asked."""
    p = grid(40, 40, 160, 160)
    r = np.hypot(p[..., 0] - 100, p[..., 1] - 100)
    inside = r < 78
    t = parameter(Inward(STOPS, 80), p, DISC)
    assert np.abs(t - (80 - r) / 80)[inside].max() < 0.003
    assert np.abs(parameter(Inward(STOPS), p, DISC) - t)[inside].max() < 0.004, (
        "the deepest point of a disc is its centre"
    )


def test_distance_field_is_exact_for_straight_edges():
    field = distance_field(rectangle(10, 20, 100, 60), 0.5, 6)
    h, w = field.distance.shape
    x, y = np.meshgrid(field.origin[0] + np.arange(w) * 0.5, field.origin[1] + np.arange(h) * 0.5)
    dx, dy = np.maximum(10 - x, x - 110), np.maximum(20 - y, y - 80)
    true = np.where((dx <= 0) & (dy <= 0), -np.maximum(dx, dy), np.hypot(np.maximum(dx, 0), np.maximum(dy, 0)))
    assert np.abs(field.distance - true).max() < 1e-6


def test_along_and_across_a_straight_line():
    line = Path((Contour(np.array([[20, 50], [60, 50], [100, 50], [140, 50.0]]), False),))
    p = np.array([[(20.0, 50.0), (80.0, 52.0), (140.0, 45.0)]])
    assert parameter(Along(STOPS), p, line, 20)[0] == pytest.approx([0, 0.5, 1], abs=0.004)
    assert parameter(Along(STOPS, True), p, line, 20)[0] == pytest.approx([0.5, 0.6, 0.25], abs=0.004)


@given(st.floats(-3, 3), st.sampled_from(["pad", "repeat", "reflect"]))
def test_spread_stays_between_the_ends(t, spread):
    s = float(spread_parameter(np.array([t]), spread)[0])
    assert 0 <= s <= 1
    if 0 <= t < 1:
        assert s == pytest.approx(t)
    if spread == "reflect":
        assert float(spread_parameter(np.array([-t]), spread)[0]) == pytest.approx(s, abs=1e-9)


@pytest.mark.parametrize("spread", ["pad", "repeat", "reflect"])
@pytest.mark.parametrize(
    "paint",
    [Linear(STOPS, (60, 80), (120, 120)), Radial(STOPS, (100, 100), 60, (85, 80)), Radial(STOPS, (0, 0), 1, (0.2, 0.3), (50, 10, -5, 30, 100, 100))],
    ids=["linear", "radial with focus", "ellipse"],
)  # fmt: skip
def test_closed_form_agrees_with_the_drawing_library(paint, spread):
    """The library's 8-bit stops allow a level; hard edges of a repeat may fall on another pixel (0.5 % of them)."""
    import msgspec

    paint = msgspec.structs.replace(paint, spread=spread)
    drawn = render_float(build(document(disc(1, 100, 100, 80, Fill(paint)), side=200)))
    centres = np.stack(np.meshgrid(np.arange(200) + 0.5, np.arange(200) + 0.5), axis=-1)
    true = colours_at(paint, centres, DISC)
    inside = np.hypot(centres[..., 0] - 100, centres[..., 1] - 100) < 78
    over_white = true[..., :3] * true[..., 3:] + 1 - true[..., 3:]
    difference = np.abs(over_white - drawn[..., :3])[inside].max(axis=-1) * 255
    assert np.quantile(difference, 0.99 if spread == "pad" else 0.97) < 2.0


@pytest.mark.parametrize("spread", ["repeat", "reflect"])
@pytest.mark.parametrize("paint", [Linear(STOPS, (60, 80), (90, 90)), Radial(STOPS, (100, 100), 30, (95, 90))])
def test_single_rounds_painted_over_one_another_show_the_same(paint, spread):
    import msgspec

    paint = msgspec.structs.replace(paint, spread=spread)
    p = grid(30, 30, 170, 170, 61)
    shown = np.zeros((*p.shape[:2], 4))
    parts = rounds(paint, (20, 20, 180, 180))
    assert len(parts) > 2
    for part, inner in parts:
        t = parameter(part, p, DISC)
        if isinstance(part, Linear):
            covered, t = t >= 0, t
        else:  # a round of its own starts at its inner circle: read where that lies on the whole of it
            whole = msgspec.structs.replace(part, focus=held_focus(paint.centre, paint.radius, paint.focus))
            t = parameter(whole, p, DISC) * part.radius
            covered, t = t <= part.radius, (t - inner) / (part.radius - inner)
        first = part is parts[0][0]
        mask = np.ones_like(covered) if first else covered
        shown[mask] = ramp(part.stops, np.clip(t[mask], 0, 1), part.oklab)
    difference = np.abs(colours_at(paint, p, DISC) - shown).max(axis=-1)
    assert np.quantile(difference, 0.98) < 0.01


def test_plain_stops_keep_both_colours_beside_a_clear_stop():
    stops = (Stop(0, colour("#c8402a")), Stop(0.5, colour("#c8402a", 0.0)), Stop(1, colour("#0f4a49")))
    plain = np.array(plain_stops(stops))
    t = np.linspace(0, 1, 301)
    shown = np.stack([np.interp(t, plain[:, 0], plain[:, k]) for k in range(1, 5)], axis=1)
    true = ramp(stops, t)
    seen = true[:, 3] > 0.02
    assert np.abs(shown - true)[seen].max() < 0.01


@given(st.floats(-180, 180), st.floats(0.3, 3), st.floats(0.3, 3), st.floats(-1, 1))
def test_carried_gradients_look_the_same_in_their_new_place(turn, sx, sy, skew):
    from volumen.geometry.affine import apply_points, multiply

    m = multiply(multiply(rotation(turn), scaling(sx, sy)), (1, 0, skew, 1, 30, -20))
    p = grid(30, 30, 170, 170, 9)
    moved = apply_points(m, p.reshape(-1, 2)).reshape(p.shape)
    for paint in (Linear(STOPS, (60, 80), (120, 120)), Radial(STOPS, (100, 100), 60, (90, 90))):
        assert np.abs(parameter(carried(paint, m), moved, DISC) - parameter(paint, p, DISC)).max() < 1e-6


def test_grain_is_fixed_to_the_object_and_of_the_amount_asked_for():
    grey = Solid(Colour(0.5, 0.5, 0.5), grain=Grain(0.05, 2.0, True, 7))
    p = grid(0, 0, 400, 400, 400)
    once, again = colours_at(grey, p, DISC), colours_at(grey, p, DISC)
    assert np.array_equal(once, again)
    light = oklab.from_srgb(once[..., :3])[..., 0]
    # Reading between grains evens the noise out: at most a third is lost.
    assert 0.03 < light.std() < 0.055
    assert light.mean() == pytest.approx(float(oklab.from_srgb([0.5, 0.5, 0.5])[0]), abs=0.003)
    assert np.ptp(once[..., 0] - once[..., 2]) < 1e-6, "one that varies lightness only stays grey"
    assert colours_at(grey, np.zeros((1, 0, 2)), DISC).shape == (1, 0, 4), "seen nowhere"


def test_stops_turned_round_run_backwards():
    t = np.linspace(0, 1, 101)
    assert np.abs(ramp(reversed_stops(STOPS), t) - ramp(STOPS, t[::-1])).max() < 1e-9


@given(st.floats(0, 1))
def test_mixing_goes_from_one_paint_to_the_other(t):
    a, b = (
        linear((0, 0), (10, 0), (0, "#c8402a"), (1, "#ffffff")),
        linear((0, 0), (30, 10), (0, "#0f4a49"), (0.5, "#2b8577"), (1, "#000000")),
    )
    m = mixed(a, b, t)
    assert m.end == pytest.approx((10 + 20 * t, 10 * t))
    ends = (mixed(a, b, 0.0), mixed(a, b, 1.0))
    x = np.linspace(0, 1, 21)
    assert np.abs(ramp(ends[0].stops, x) - ramp(a.stops, x)).max() < 0.02
    assert np.abs(ramp(ends[1].stops, x) - ramp(b.stops, x)).max() < 1e-6
    assert isinstance(mixed(Solid(colour("#000000")), radial((0, 0), 5, (0, "#ffffff"), (1, "#000000")), t), Radial)
    assert face_colour(mixed(Solid(Colour(0, 0, 0, 0)), Solid(Colour(1, 0, 0, 1)), t)).a == pytest.approx(t)


def test_a_line_across_itself_is_symmetric_on_the_canvas():
    across = Along((Stop(0, colour("#000000")), Stop(0.5, colour("#ffffff")), Stop(1, colour("#000000"))), True)
    shape = Shape(1, "l", SegmentForm((20, 60), (180, 60)), (Line(across, 40),))
    pixels = render_float(build(document(shape, side=200)))[..., 0]
    column = pixels[41:79, 100]
    assert np.abs(column - column[::-1]).max() < 0.01
    assert column.max() > 0.95 and column[0] < 0.2


def test_a_field_survives_turning_and_scaling():
    """Conic paint on a turned disc: the picture turns with it."""
    conic = Conic(BLACK_TO_WHITE, (0, 0))
    shape = Shape(1, "c", circle(0, 0, 60), (Fill(conic),), transform=(0, 1, -1, 0, 100, 100))
    pixels = render_float(build(document(shape, side=200)))[..., 0]
    assert pixels[150, 101] > pixels[150, 96] or pixels[150, 96] > 0.9, "the seam points downwards now"
    assert pixels[100, 150] == pytest.approx(float(ramp(BLACK_TO_WHITE, np.array([0.75]))[0, 0]), abs=0.02)
