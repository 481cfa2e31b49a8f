import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.geometry.affine import IDENTITY, apply, multiply, rotation
from volumen.geometry.engine import contains
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.nodes import TextForm
from volumen.outline.outlines import source
from volumen.shading.bodies import body_gradient
from volumen.shading.lamp import Lamp, bearing_of, shadow_factor, shadow_offset, shadow_sigma
from volumen.shading.materials import MATERIALS
from volumen.shading.paint import Colour, Stop, colour
from volumen.shading.ramp import PLAIN_TOLERANCE, plain_stops, ramp
from volumen.shading.slivers import sliver

UNIT_BOX = (-1.0, -1.0, 1.0, 1.0)
SEA = colour("#2b8577")
bearings = st.floats(0, 359.9)
colours = st.builds(Colour, *[st.floats(0, 1)] * 4)
stop_lists = st.lists(
    st.builds(Stop, st.floats(0, 1), colours, st.floats(0.15, 0.85)), min_size=1, max_size=5
).map(tuple)  # fmt: skip


def at(stops, t, oklab_mix=True):
    return ramp(tuple(stops), np.array([t]), oklab_mix)[0]


def test_midpoint_is_where_the_mix_is_half():
    stops = (Stop(0, Colour(0, 0, 0), 0.25), Stop(1, Colour(1, 1, 1)))
    assert at(stops, 0.25, False)[:3] == pytest.approx([0.5] * 3)
    lab = oklab.from_srgb(at(stops, 0.25)[:3])
    assert lab == pytest.approx([0.5, 0, 0], abs=1e-6)


def test_clear_stop_brings_no_colour_of_its_own():
    stops = (Stop(0, Colour(1, 0, 0, 1)), Stop(1, Colour(0, 0, 1, 0)))
    middle = at(stops, 0.5)
    assert middle[3] == pytest.approx(0.5)
    assert middle[:3] == pytest.approx([1, 0, 0], abs=1e-6)


def test_hard_edge_and_ends():
    stops = (Stop(0.2, Colour(1, 0, 0)), Stop(0.5, Colour(1, 0, 0)), Stop(0.5, Colour(0, 0, 1)))
    assert at(stops, 0.1)[0] == pytest.approx(1)
    assert at(stops, 0.4999)[0] == pytest.approx(1)
    assert at(stops, 0.5001)[2] == pytest.approx(1)
    assert at((), 0.3)[3] == 0


@settings(max_examples=15)
@given(stop_lists)
def test_plain_stops_stay_close_to_the_true_ramp(stops):
    plain = np.array(plain_stops(stops))
    t = np.linspace(0, 1, 1501)
    # hard edges may fall between samples of either: keep a little away from them
    edges = np.array([s.at for s in stops])
    t = t[np.abs(t[:, None] - edges).min(axis=1) > 2e-3]
    true = ramp(stops, t)
    drawn = np.stack([np.interp(t, plain[:, 0], plain[:, i + 1]) for i in range(4)], axis=1)
    error = srgb_difference(drawn[:, :3], true[:, :3]) * true[:, 3]
    assert error.max(initial=0) < 3 * PLAIN_TOLERANCE  # between samples of the table that chose the stops
    assert np.abs(drawn[:, 3] - true[:, 3]).max(initial=0) < 0.02


def light_at(gradient, x, y):
    """The colour a radial gradient gives at a point of the shape: solve its circle family there."""
    from volumen.geometry.affine import invert

    px, py = apply(invert(gradient.transform), (x, y))
    (fx, fy), (cx, cy), r = gradient.focus, gradient.centre, gradient.radius
    # |p - (f + t (c - f))| = t r, the larger root
    dx, dy, ex, ey = px - fx, py - fy, cx - fx, cy - fy
    a, b, c = ex * ex + ey * ey - r * r, -(dx * ex + dy * ey), dx * dx + dy * dy
    root = math.sqrt(max(b * b - a * c, 0))
    t = max((-b + root) / a, (-b - root) / a)
    return ramp(gradient.stops, np.array([min(t, 1.0)]), gradient.oklab)[0][:3]


def brightness_side(gradient, direction):
    """OKLab lightness towards ``direction`` minus away from it, half way to the rim."""
    bright, dark = (
        oklab.from_srgb(light_at(gradient, direction[0] * k, direction[1] * k))[0] for k in (0.5, -0.5)
    )  # fmt: skip
    return bright - dark


@given(bearings, st.floats(15, 75), bearings)
def test_balls_are_lit_from_the_lamp_however_the_shape_is_turned(bearing, height, turn):
    lamp = Lamp(bearing, height)
    world = rotation(turn)
    ball = body_gradient("ball", UNIT_BOX, SEA, lamp, world, "enamel")
    dish = body_gradient("dish", UNIT_BOX, SEA, lamp, world, "enamel")
    to_lamp = apply(rotation(-turn), lamp.toward)
    assert brightness_side(ball, to_lamp) > 0.02
    assert brightness_side(dish, to_lamp) < -0.02


def test_overhead_ball_is_symmetric_and_turning_all_turns_all():
    overhead = body_gradient("ball", UNIT_BOX, SEA, Lamp(0, 90), IDENTITY, "clay")
    assert overhead.focus == pytest.approx((0, 0), abs=1e-9)
    assert overhead.centre == pytest.approx((0, 0), abs=1e-9)
    one = body_gradient("ball", UNIT_BOX, SEA, Lamp(30, 40), IDENTITY, "clay")
    two = body_gradient("ball", UNIT_BOX, SEA, Lamp(30 + 55, 40), rotation(55), "clay")
    assert one.stops == two.stops, "what is turned with its lamp is made once"
    assert apply(multiply(one.transform, IDENTITY), one.focus) == pytest.approx(apply(two.transform, two.focus))


def test_tube_runs_across_its_axis_and_starts_at_the_lamp():
    gradient = body_gradient("tube", (0, 0, 200, 40), SEA, Lamp(0, 45), IDENTITY, "clay")
    assert gradient.start == pytest.approx((100, 0))
    assert gradient.end == pytest.approx((100, 40))
    from_below = body_gradient("tube", (0, 0, 200, 40), SEA, Lamp(180, 45), IDENTITY, "clay")
    assert from_below.start == pytest.approx((100, 40))


@pytest.mark.parametrize("name", MATERIALS)
def test_materials_give_colours_inside_the_gamut_and_keep_the_five_tones(name):
    stops = body_gradient("ball", UNIT_BOX, SEA, Lamp(), IDENTITY, name, bounce=0.8).stops
    values = np.array([[s.colour.r, s.colour.g, s.colour.b] for s in stops])
    assert values.min() >= 0
    assert values.max() <= 1
    light = oklab.from_srgb(values)[:, 0]
    core = int(light.argmin())
    assert 0 < core < len(light) - 1, "the core shadow lies before the rim: reflected light follows it"
    assert light[0] > light[core] + 0.1


def test_no_strength_is_flat():
    stops = body_gradient("ball", UNIT_BOX, SEA, Lamp(), IDENTITY, "brass", strength=0.0).stops
    for s in stops:
        assert (s.colour.r, s.colour.g, s.colour.b) == pytest.approx(SEA.rgb, abs=1e-6)


@given(bearings, st.sampled_from(["shift", "scale"]), st.floats(2, 20))
def test_slivers_lie_on_their_side_under_any_lamp(bearing, by, depth):
    side = Lamp(bearing, 40).toward
    cut = sliver(ellipse(0, 0, 60, 60), by, depth, side, 0.5).path
    inside = 60 - depth / 2
    assert contains(cut, side[0] * inside, side[1] * inside)
    assert not contains(cut, -side[0] * inside, -side[1] * inside)


def test_sliver_area_by_shift_has_the_closed_form():
    r, d = 50.0, 8.0
    lens = 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)
    cut = sliver(ellipse(0, 0, r, r), "shift", d, (1, 0), 0.5).path
    assert abs(cut.area()) == pytest.approx(math.pi * r * r - lens, rel=2e-3)
    # a rectangle leaves a plain strip, and nothing at all for no depth
    assert abs(sliver(rectangle(0, 0, 80, 40), "shift", 5, (1, 0), 0).path.area()) == pytest.approx(200, rel=1e-4)
    assert not sliver(rectangle(0, 0, 80, 40), "shift", 0, (1, 0), 0).path


@pytest.mark.parametrize("by", ["shift", "scale", "turn", "inset"])
def test_slivers_too_thin_for_the_engine_s_numbers_are_empty(by):
    """It never had done with a word squashed to a hair, cut by a copy of itself a billionth of its height away."""
    word = source(TextForm("KELDER SOUND", size=300))
    squashed = word.transformed((1e-5, 0.0, 0.0, 8.0, 0.0, 2000.0))
    for path, depth in ((squashed, 6e-7), (squashed, 0.5), (word, 1e-4)):
        assert not sliver(path, by, depth, (0.6, -0.8), 0.0).path
    assert abs(sliver(word, by, 2.0, (0.6, -0.8), 0.0).path.area()) > 100


def test_inset_sliver_is_an_even_band():
    band = sliver(rectangle(0, 0, 100, 60), "inset", 5, (1, 0), 0).path
    assert contains(band, 2.5, 30)
    assert not contains(band, 50, 30)


@given(bearings, st.floats(6, 89), st.floats(0.1, 80))
def test_shadow_geometry(bearing, height, lift):
    lamp = Lamp(bearing, height, size=0.25)
    dx, dy = shadow_offset(lamp, lift)
    assert math.hypot(dx, dy) == pytest.approx(lift / math.tan(math.radians(height)))
    assert dx * lamp.toward[0] + dy * lamp.toward[1] < 0
    assert bearing_of(-dx, -dy) == pytest.approx(bearing, abs=1e-6)
    assert shadow_sigma(lamp, lift) == pytest.approx(lift * 0.25)


def test_overhead_lamp_throws_no_shadow_to_the_side():
    assert shadow_offset(Lamp(100, 90), 50) == (0, 0) or math.hypot(*shadow_offset(Lamp(100, 90), 50)) < 1e-9


@given(st.builds(Colour, *[st.floats(0.1, 1)] * 3))
def test_shadow_factor_darkens_every_receiver(receiver):
    f = shadow_factor(receiver, 1.0)
    shaded = [a * b for a, b in zip(receiver.rgb, f.rgb, strict=True)]
    assert max(f.rgb) <= 1
    before, after = (oklab.from_srgb(c)[0] for c in (receiver.rgb, shaded))
    # lightness falls to 28 % unless a channel is held at the receiver's own value
    assert after < before * 0.6
