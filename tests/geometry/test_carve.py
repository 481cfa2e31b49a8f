"""Booleans, areas, offsets, rounding, bends, width profiles and fitting against independent references."""

import math
import resource

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from polygons import as_polygon
from volumen.bench.shapes import blob, hard_pair, smooth_closed
from volumen.geometry.bend import REST, bend
from volumen.geometry.boolean import boolean, combine_all, cut_hidden, divide, fill_holes, union_all
from volumen.geometry.bridges import bridges
from volumen.geometry.crossings import cross_too_often
from volumen.geometry.curve import evaluate, flatten, length, nearest, part, points_at, ruler, span, split
from volumen.geometry.dashes import dashed
from volumen.geometry.enclosed_areas import arrange
from volumen.geometry.engine import PathOpError, combine
from volumen.geometry.fit import fit_points
from volumen.geometry.offset import offset
from volumen.geometry.path import Contour, Path, contour_from_lines
from volumen.geometry.primitives import (
    arc_through,
    cloud,
    drop,
    ellipse,
    ellipse_part,
    line_between,
    polygon,
    rectangle,
    rounded_rectangle,
    spiral,
    star,
)
from volumen.geometry.tidy import merge, point_count, remove_point, simplify, without_needless_points
from volumen.geometry.widths import EVEN, profiled_outline, widths_at
from volumen.shading.slivers import sliver

pytestmark = pytest.mark.slow

OPERATIONS = ("union", "subtract", "intersect", "exclude")


@settings(max_examples=60)
@given(st.integers(0, 10**9))
def test_booleans_of_hard_pairs_agree_with_another_clipper(seed):
    rng = np.random.default_rng(seed)
    kind, a, b = hard_pair(rng)
    made = {op: boolean(a, b, op) for op in OPERATIONS}
    area = {op: as_polygon(p).area for op, p in made.items()}
    # The areas obey inclusion and exclusion whatever the shapes; seams of chords are below 0.05 units x 2000.
    assert area["union"] == pytest.approx(area["exclude"] + area["intersect"], abs=100), kind
    if kind == "tangled":
        return
    pa, pb = as_polygon(a), as_polygon(b)
    reference = {"union": pa | pb, "subtract": pa - pb, "intersect": pa & pb, "exclude": pa ^ pb}
    for op in OPERATIONS:
        wrong = (as_polygon(made[op]) ^ reference[op]).buffer(-0.08)  # seams thinner than 0.16 units do not count
        assert wrong.area < 0.5, (kind, op)


def test_boolean_results_are_true_curves_without_needless_points():
    a, b = ellipse(100, 100, 60, 60), ellipse(160, 100, 60, 60)
    made = boolean(a, b, "union")
    assert point_count(made) <= 10, "two circles give two cut points and their old ones"
    again = boolean(made, ellipse(130, 100, 20, 20), "union")
    assert point_count(again) <= point_count(made), "a cut that adds nothing leaves nothing behind"
    for p in made.contours[0].points[::3]:
        assert min(math.dist(p, (100, 100)), math.dist(p, (160, 100))) == pytest.approx(60, abs=0.03)


def test_outlines_that_meet_tens_of_thousands_of_times_are_refused_and_others_not():
    """The engine takes four minutes over this star and its copy; over a plain one of as many points half a second."""
    wild, plain = star(193, 313, 630, 420, 1000, 40.0), star(193, 313, 630, 420, 1000, 0.5)
    assert cross_too_often(wild, wild, (1, 0, 0, 1, 330, 20)) and not cross_too_often(plain, plain, (1, 0, 0, 1, 5, 5))
    with pytest.raises(PathOpError, match="thousands of times"):
        combine(wild, wild, "subtract", (1, 0, 0, 1, 330, 20))
    assert not sliver(wild, "shift", 330.0, (0.7, 0.7), 0.0).path


def test_areas_of_thousands_of_spikes_are_refused_before_they_fill_the_memory():
    """Eight thousand lines across one another are 20 million pairs: gigabytes, were all of them kept."""
    across = Path((contour_from_lines(np.random.default_rng(1).normal(0, 100, (8000, 2)), True),))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    with pytest.raises(PathOpError, match="fewer of them at a time"):
        arrange([across])
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 1_000_000, "kilobytes"


def test_holes_specks_hidden_parts_and_refusals():
    ring = boolean(ellipse(0, 0, 50, 50), ellipse(0, 0, 30, 30), "subtract")
    assert len(ring.contours) == 2
    assert as_polygon(fill_holes(ring)).area == pytest.approx(math.pi * 2500, rel=1e-3)
    under, over = cut_hidden([rectangle(0, 0, 100, 100), rectangle(50, 0, 100, 100)])
    assert as_polygon(under).area == pytest.approx(5000)
    assert as_polygon(over).area == pytest.approx(10000)
    parts = combine_all([rectangle(0, 0, 100, 10), rectangle(10, -5, 5, 20), rectangle(40, -5, 5, 20)], "subtract")
    assert len(parts.contours) == 3
    assert as_polygon(union_all([rectangle(i * 9, 0, 10, 10) for i in range(12)])).area == pytest.approx(1090)
    with pytest.raises(PathOpError, match="too large"):
        boolean(rectangle(0, 0, 1e10, 10), rectangle(5, 5, 10, 10), "union")


# -- areas


def flower(count, around, radius, turn=0.0):
    return [
        ellipse(200 + around * math.cos(a), 200 + around * math.sin(a), radius, radius)
        for a in (math.radians(turn + 360 * k / count) for k in range(count))
    ]


@pytest.mark.parametrize(
    ("name", "paths", "count"),
    [
        ("three circles", flower(3, 40, 70), 7),
        ("six circles through one point", flower(6, 90, 90), 18),
        ("two crossing squares", [rectangle(0, 0, 100, 100), rectangle(50, 50, 100, 100)], 3),
        ("a grid of touching squares", [rectangle(50 * i, 50 * j, 50, 50) for i in range(6) for j in range(5)], 30),
        ("a ring and its hole", [ellipse(0, 0, 50, 50), ellipse(0, 0, 20, 20)], 2),
        ("a square cut by two open lines",
         [rectangle(0, 0, 100, 100), line_between((-5, 30), (105, 30)), line_between((40, -5), (40, 105))], 4),
        ("a self-crossing eight", [smooth_closed(np.array([[0, 0], [100, 100], [100, 0], [0, 100.0]]))], 2),
    ],
)  # fmt: skip
def test_areas_of_known_figures(name, paths, count):
    net = arrange(paths)
    assert len(net.areas) == count, name
    whole = shapely.unary_union([as_polygon(p) for p in paths if all(c.closed for c in p.contours)])
    if name != "a self-crossing eight":
        # Chords of 0.04 units lie inside the curves: the sum misses a little of each border.
        assert sum(a.size for a in net.areas) == pytest.approx(whole.area, rel=2e-3)
        merged = net.outline(range(len(net.areas)))
        assert as_polygon(merged).area == pytest.approx(whole.area, rel=2e-4), (
            "merging all gives the union's true curve"
        )
    for k, area in enumerate(net.areas):
        assert net.at(area.inside) == k


def test_a_gap_tolerance_closes_nearly_meeting_lines():
    points = [(0, 0), (100, 0), (100, 100), (0, 100), (0, 4)]  # a box whose last side ends 4 short
    box = Path((contour_from_lines(points, closed=False),))
    assert len(arrange([box]).areas) == 0
    assert [round(a.size) for a in arrange([box], gap=5).areas] == [10000]


@pytest.mark.parametrize("together", [True, False])
def test_open_ends_are_bridged_to_what_is_nearest_within_the_gap(together):
    """Four rails 3 apart from a post, of one path or each its own: the ends near the post reach it straight across, the
    far ends nothing; what lies on the post already needs no bridge, and what is 6 away gets none."""
    post = contour_from_lines([(0, 0), (0, 100)], closed=False)
    rails = [contour_from_lines([(x, y), (80, y)], closed=False) for x, y in ((3, 10), (3, 35), (0, 60), (6, 85))]
    paths = [Path((post, *rails))] if together else [Path((c,)) for c in (post, *rails)]
    made = bridges([c for p in paths for c in p.contours], 5.0)
    assert [np.round(b.points[[0, -1]], 6).tolist() for b in made] == [[[3, y], [0, y]] for y in (10, 35)]


def test_sweeps_and_division_follow_the_areas():
    net = arrange([rectangle(0, 0, 50, 50), rectangle(50, 0, 50, 50), rectangle(100, 0, 50, 50)])
    assert sorted(net.along((10, 25), (90, 25))) == sorted({net.at((25, 25)), net.at((75, 25))})
    assert net.at((500, 500)) is None
    pieces = divide(flower(3, 40, 70))
    assert sorted(len(covers) for _, covers in pieces) == [1, 1, 1, 2, 2, 2, 3]


# -- offset, rounding, bend


@settings(max_examples=30)
@given(st.integers(0, 10**6), st.floats(-35, 40).filter(lambda d: abs(d) > 1))
def test_offset_lies_at_its_distance(seed, distance):
    shape = blob(np.random.default_rng(seed), n=12)
    made = offset(shape, distance)
    true = as_polygon(shape).buffer(distance, quad_segs=64)
    wrong = (as_polygon(made) ^ true).buffer(-0.1)  # a wrong band of more than 0.2 units would survive this
    assert wrong.area < 0.5


def test_a_tangle_squashed_flat_is_offset_as_its_length():
    """Its thousands of crossings in no room at all kept the engine for good."""
    rng = np.random.default_rng(3)
    tangle = Path((contour_from_lines(map(tuple, rng.random((2000, 2)) * (700.0, 700.0))),))
    flat = offset(tangle.transformed((1, 0, 0, 1e-6, 0, 0)), 9.5)
    l, _, r, _ = tangle.bounds()
    assert flat.bounds() == pytest.approx((l - 9.5, -9.5, r + 9.5, 9.5), abs=0.1)


def test_offset_cases():
    square = rectangle(0, 0, 100, 100)
    assert as_polygon(offset(square, 10, "miter")).area == pytest.approx(120**2)
    assert as_polygon(offset(square, 10, "round")).area == pytest.approx(100**2 + 4 * 1000 + math.pi * 100, rel=1e-4)
    assert not offset(square, -50)
    assert not offset(square, -80)
    dumbbell = union_all([ellipse(0, 0, 40, 40), ellipse(200, 0, 40, 40), rectangle(0, -10, 200, 20)])
    assert [len(offset(dumbbell, d).contours) for d in (-9, -11)] == [1, 2], "the waist breaks at its half width"
    lobes = cloud(0, 0, 300, 200, 24, 1)
    inset = offset(lobes, -12)
    assert (as_polygon(inset) ^ as_polygon(lobes).buffer(-12, quad_segs=64)).buffer(-0.15).area < 0.5


def test_bends_follow_their_maps():
    bar = rectangle(-100, -10, 200, 20)
    ring = bend(bar, "arc", 1.0)
    radii = np.hypot(*(flatten(ring.contours[0], 0.01)[0] - [0, 200 / math.pi]).T)
    middle = 200 / math.pi
    assert radii.min() == pytest.approx(middle - 10, abs=0.05)
    assert radii.max() == pytest.approx(middle + 10, abs=0.05)
    assert bend(bar, "swell", 0.5).bounds()[3] == pytest.approx(15, abs=0.05)
    assert bend(bar, "arc", 0.0) is bar
    assert bend(bar, "cage", 0, cage=REST) is bar
    moved = tuple((x + 0.5, y) for x, y in REST)
    assert bend(bar, "cage", 0, cage=moved).bounds()[0] == pytest.approx(-50, abs=0.05)
    waves = flatten(bend(bar, "ripple", 1.0, count=2).contours[0], 0.01)[0]
    top = waves[np.abs(waves[:, 1] - (-10 + 10 * np.sin(-waves[:, 0] / 100 * 2 * np.pi))) < 0.05]
    assert len(top) > 20, "the top side runs along the sine"
    pinched = bend(ellipse(0, 0, 50, 50), "pinch", 0.5)
    assert as_polygon(pinched).area < as_polygon(ellipse(0, 0, 50, 50)).area
    turned = bend(rectangle(0, 0, 20, 200), "arc", 0.5, turn=90).bounds()
    assert turned[2] - turned[0] > 40


# -- curves, fitting, tidying, lines


def test_curve_basics_against_closed_forms():
    circle = ellipse(0, 0, 100, 100).contours[0]
    assert length(circle) == pytest.approx(2 * math.pi * 100, rel=3e-4)
    points, tangents = ruler(circle).at(np.linspace(0, 600, 30))
    assert np.abs((points * tangents).sum(axis=1)).max() < 0.2, "a circle's tangent is square to its radius"
    first, second = split(circle.segments[0], 0.3)
    assert np.allclose(first[3], second[0])
    assert np.allclose(part(circle.segments[0], 0.3, 1), second)
    assert np.allclose(span(circle, 3.2, 0.4), span(circle, 0.4, 3.2)[::-1])
    near = nearest(Path((circle,)), (300, 10))
    assert near.distance == pytest.approx(math.hypot(300, 10) - 100, abs=0.03)
    at, _ = points_at(circle, np.array([near.place]))
    assert np.allclose(at[0], near.at)
    assert nearest(Path(), (0, 0)) is None


@settings(max_examples=25)
@given(st.integers(0, 10**6), st.sampled_from([0.1, 0.5, 2.0]))
def test_fitting_stays_within_its_tolerance(seed, tolerance):
    shape = blob(np.random.default_rng(seed), n=10)
    points = flatten(shape.contours[0], 0.02)[0][:-1]
    made = fit_points(points, tolerance, closed=True)
    d = shapely.distance(shapely.LineString(flatten(made, 0.01)[0]), shapely.points(points))
    assert d.max() <= tolerance * 1.5, "parameters are only nearly the nearest ones"
    assert len(made.segments) <= 40


def test_simplify_and_needless_points():
    rng = np.random.default_rng(3)
    t = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    rough = np.stack([100 * np.cos(t), 60 * np.sin(t)], axis=1) + rng.normal(0, 0.15, (400, 2))
    traced = Path((contour_from_lines(rough.tolist()),))
    made = simplify(traced, 1.0)
    assert point_count(made) < 20
    assert (as_polygon(made) ^ as_polygon(ellipse(0, 0, 100, 60))).area < 0.02 * math.pi * 6000
    boxed = simplify(rectangle(0, 0, 100, 50), 1.0)
    assert point_count(boxed) == 4, "corners stay corners"
    a, b = split(ellipse(0, 0, 50, 50).contours[0].segments[0], 0.37)
    whole = merge(a, b, 1e-6)
    assert np.allclose(whole, ellipse(0, 0, 50, 50).contours[0].segments[0], atol=1e-6)
    assert np.allclose(remove_point(a, b), whole, atol=1e-6)
    doubled = Path(
        (Contour(np.concatenate([a, b[1:], *(s[1:] for s in ellipse(0, 0, 50, 50).contours[0].segments[1:])]), True),)
    )
    assert point_count(without_needless_points(doubled)) == 4


def test_primitives_have_their_exact_sizes():
    assert as_polygon(polygon(0, 0, 50, 50, 6)).area == pytest.approx(3 * math.sqrt(3) / 2 * 2500)
    assert as_polygon(star(0, 0, 50, 50, 5, 0.5)).area == pytest.approx(10 * 0.5 * 50 * 25 * math.sin(math.pi / 5))
    assert as_polygon(ellipse_part(0, 0, 50, 50, 0, 90, "sector")).area == pytest.approx(math.pi * 625, rel=1e-3)
    assert as_polygon(ellipse_part(0, 0, 50, 50, 0, 180, "chord")).area == pytest.approx(math.pi * 1250, rel=1e-3)
    assert as_polygon(rounded_rectangle(0, 0, 100, 50, (10, 0, 20, 0))).area == pytest.approx(
        5000 - (1 - math.pi / 4) * 500, rel=1e-4
    )
    arc = arc_through((0, 0), (50, 50), (100, 0)).contours[0]
    assert np.allclose(np.hypot(*(flatten(arc, 0.01)[0] - [50, 0]).T), 50, atol=0.03)
    assert length(arc_through((0, 0), (5, 0), (10, 0)).contours[0]) == pytest.approx(10)
    wound = flatten(spiral(0, 0, 100, 20, 3).contours[0], 0.05)[0]
    angle = np.unwrap(np.arctan2(wound[:, 1], wound[:, 0]))
    assert np.allclose(np.hypot(*wound.T), 100 - 80 * angle / (6 * np.pi), atol=0.2), (
        "radius falls evenly with the turn"
    )
    for made in (drop(0, 0, 60, 100, 0.5, 1), cloud(0, 0, 120, 80, 9, 0.8)):
        box = made.bounds()
        assert box[0] >= -1.5 and box[1] >= -1.5 and as_polygon(made).is_valid


def test_width_profiles_make_lines_of_changing_width():
    line = line_between((0, 0), (200, 0))
    even = profiled_outline(line, 20, EVEN, "butt")
    assert as_polygon(even).area == pytest.approx(4000, rel=1e-3)
    wedge = profiled_outline(line, 20, ((0, 0, 0), (1, 1, 1)), "butt")
    assert as_polygon(wedge).area == pytest.approx(2000, rel=5e-3)
    one_sided = profiled_outline(line, 20, ((0, 2, 0), (1, 2, 0)), "butt").bounds()
    assert (one_sided[1], one_sided[3]) == pytest.approx((-20, 0), abs=0.1)
    left, right = widths_at(((0, 0, 1), (0.5, 1, 1), (1, 0, 1)), np.linspace(0, 1, 101))
    assert left.max() <= 1 and left[50] == pytest.approx(1) and np.allclose(right, 1)
    tight = profiled_outline(smooth_closed(np.array([[0, 0], [40, 5], [80, 0], [40, 60.0]])), 30, EVEN)
    reference = shapely.LineString(
        flatten(smooth_closed(np.array([[0, 0], [40, 5], [80, 0], [40, 60.0]])).contours[0], 0.02)[0]
    )
    assert (as_polygon(tight) ^ reference.buffer(15, quad_segs=64)).buffer(-0.4).area < 2


@pytest.mark.parametrize("width", [1e-13, 1e-12, 1e-11])
def test_lines_thinner_than_numbers_can_tell_have_an_outline(width):
    """Far from zero a grid of a hundred-thousandth of their width is none."""
    rng = np.random.default_rng(5)
    for _ in range(3):
        tangle = Contour(rng.normal(0, 300, (13, 2)) + (1343, 20), False)
        made = profiled_outline(Path((tangle,)), width, ((0, 1, 1), (0.5, 0.4, 0), (1, 0.2, 0.7)), "round")
        assert not made or np.isfinite(made.bounds()).all()


@pytest.mark.parametrize("corners_at", [[(0, 0), (90, 5), (30, 70)], [(0, 0), (80, 0), (80, 50), (0, 50)]])
def test_a_line_of_changing_width_holds_together_at_corners(corners_at):
    closed = contour_from_lines(corners_at)
    body = shapely.Polygon(corners_at)
    for profile, area in (
        (EVEN, body.exterior.buffer(5, quad_segs=64)),
        (((0, 2, 0), (1, 2, 0)), body.buffer(10, quad_segs=64) - body),
        (((0, 0, 2), (1, 0, 2)), body - body.buffer(-10)),
    ):
        made = as_polygon(profiled_outline(Path((closed,)), 10, profile))
        assert (made ^ area).buffer(-0.1).area < 0.5 and (made ^ area).area < 0.01 * area.area
        # From anywhere along the outline: corners are corners wherever the line begins.
        turned = contour_from_lines(corners_at[1:] + corners_at[:1])
        again = as_polygon(profiled_outline(Path((turned,)), 10, profile))
        assert (made ^ again).area < 0.01 * area.area
    hook = as_polygon(
        profiled_outline(Path((contour_from_lines([(0, 0), (60, 0), (60, 40)], False),)), 10, EVEN, "square")
    )
    assert hook.bounds == pytest.approx((-5, -5, 65, 45), abs=0.05) and hook.area == pytest.approx(
        1075 + 25 * math.pi / 4, rel=1e-3
    )


def test_dashes_have_the_lengths_of_the_pattern():
    made = dashed(line_between((0, 0), (100, 0)), (10, 5))
    assert [round(length(c)) for c in made.contours] == [10] * 7
    assert dashed(line_between((0, 0), (9, 0)), (0, 0)).contours[0].points[0].tolist() == [0, 0]
    circle = ellipse(0, 0, 50, 50)
    pieces = dashed(circle, (2 * math.pi * 50 / 20, 2 * math.pi * 50 / 20), 3.0)
    assert len(pieces.contours) == 10, "the dash over the seam is one piece"
    total = sum(length(c) for c in pieces.contours)
    assert total == pytest.approx(math.pi * 50, rel=1e-2)
    segment = circle.contours[0].segments[:1]
    assert np.allclose(evaluate(segment, np.array([0.0]))[0], (50, 0))
