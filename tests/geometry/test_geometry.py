import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from volumen.geometry import affine
from volumen.geometry.engine import combine, contains, drop_specks, outline_of_line, to_engine
from volumen.geometry.path import Contour, Path, contour_from_lines, path_data, transform_box
from volumen.geometry.primitives import ellipse, rectangle
from volumen.geometry.winding import simplified

number = st.floats(-100, 100)
maps = st.tuples(*[number] * 6).filter(lambda m: abs(affine.determinant(m)) > 0.1)


@given(maps, maps, number, number)
def test_affine_algebra(m, n, x, y):
    once = affine.apply(m, affine.apply(n, (x, y)))
    assert np.allclose(affine.apply(affine.multiply(m, n), (x, y)), once, atol=1e-5)
    inverse = affine.invert(m)
    assert np.allclose(affine.apply(inverse, affine.apply(m, (x, y))), (x, y), atol=1e-4)


def test_turning_is_clockwise_on_the_sheet():
    assert np.allclose(affine.apply(affine.rotation(90), (1, 0)), (0, 1))
    assert affine.invert((1, 1, 1, 1, 0, 0)) is None


def test_ellipse_area_and_roundness():
    path = ellipse(10, 20, 30, 12)
    assert path.bounds() == pytest.approx((-20, 8, 40, 32))
    # four cubics miss a true ellipse by at most 2.7e-4 of the radius
    assert path.area() == pytest.approx(math.pi * 30 * 12, rel=3e-4)


@given(st.lists(st.tuples(number, number), min_size=4, max_size=4))
def test_tight_bounds_hold_every_point_and_touch(points):
    contour = Contour(np.array(points), False)
    box = Path((contour,)).bounds()
    t = np.linspace(0, 1, 2001)[:, None]
    p = contour.points
    curve = (1 - t) ** 3 * p[0] + 3 * (1 - t) ** 2 * t * p[1] + 3 * (1 - t) * t * t * p[2] + t**3 * p[3]
    lo, hi = curve.min(axis=0), curve.max(axis=0)
    # 2001 samples of a curve of this size miss an extremum by less than 1e-3
    assert np.allclose(box, [*lo, *hi], atol=1e-3)


@given(number, number, st.floats(1, 50), st.floats(1, 50), maps)
def test_transform_box_holds_the_mapped_corners(x, y, w, h, m):
    l, t, r, b = transform_box((x, y, x + w, y + h), m)
    corners = [affine.apply(m, (x + i * w, y + j * h)) for i in (0, 1) for j in (0, 1)]
    xs, ys = zip(*corners, strict=True)
    assert np.allclose((l, t, r, b), (min(xs), min(ys), max(xs), max(ys)), atol=1e-6)


def lens_area(r, d):
    """The area shared by two circles of radius r whose centres are d apart."""
    return 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)


@pytest.mark.parametrize("scale", [0.05, 1.0, 400.0], ids=["tiny", "normal", "huge"])
@pytest.mark.parametrize("shift", [0.0, 1e5], ids=["at zero", "far away"])
def test_booleans_of_circles_have_the_closed_form_areas(scale, shift):
    r, d = 50.0 * scale, 30.0 * scale
    a, b = ellipse(shift, shift, r, r), ellipse(shift + d, shift, r, r)
    circle, lens = math.pi * r * r, lens_area(r, d)
    expected = {
        "union": 2 * circle - lens,
        "intersect": lens,
        "subtract": circle - lens,
        "exclude": 2 * (circle - lens),
    }
    for operation, area in expected.items():
        result = combine(a, b, operation)
        measured = abs(sum(abs(Path((c,)).area()) for c in result.contours))
        assert measured == pytest.approx(area, rel=3e-3), operation


def test_moved_operand_is_the_same_as_a_moved_path():
    a, move = rectangle(0, 0, 100, 60, 8), affine.translation(13, 7)
    one = combine(a, a, "subtract", move)
    two = combine(a, a.transformed(move), "subtract")
    assert abs(one.area()) == pytest.approx(abs(two.area()), rel=1e-5)


def test_specks_are_dropped():
    path = Path((*rectangle(0, 0, 50, 50).contours, *rectangle(80, 0, 0.4, 0.4).contours))
    assert len(drop_specks(path, 0.5).contours) == 1
    assert len(drop_specks(path, 0.1).contours) == 2


def test_line_outline_has_the_area_of_a_band():
    line = Path((contour_from_lines([(0, 0), (100, 0)], closed=False),))
    assert abs(outline_of_line(line, 10, "butt", "miter", 4).area()) == pytest.approx(1000, rel=1e-3)
    assert abs(outline_of_line(line, 10, "round", "miter", 4).area()) == pytest.approx(1000 + math.pi * 25, rel=1e-3)
    assert not outline_of_line(line, 0, "butt", "miter", 4)


def test_rounded_rectangle_area_and_held_radius():
    assert rectangle(0, 0, 40, 20, 5).area() == pytest.approx(800 - (4 - math.pi) * 25, rel=3e-4)
    assert rectangle(0, 0, 40, 20, 500).bounds() == pytest.approx((0, 0, 40, 20))


def test_path_data_writes_lines_as_lines():
    data = path_data(rectangle(0, 0, 10, 10))
    assert data == "M0 0L10 0L10 10L0 10L0 0Z"
    assert path_data(ellipse(0, 0, 5, 5)).count("C") == 4


@pytest.mark.parametrize(
    "path",
    [
        Path(),
        Path((Contour(np.zeros((1, 2)), True),)),
        Path((Contour(np.zeros((4, 2)), False),)),
        ellipse(0, 0, 0, 0),
        rectangle(5, 5, 0, 20),
        ellipse(1e12, -1e12, 1e11, 3),
        Path((Contour(np.array([[0, 0], [100, 100], [-100, 100], [0, 0.0]]), True),)),
    ],
    ids=["empty", "one point", "all equal", "no size", "flat", "far away", "loop"],
)
def test_degenerate_paths_never_raise(path):
    path.bounds(), path.area(), to_engine(path), simplified(path), path_data(path)
    contains(path, 0, 0)
    outline_of_line(path, 4, "round", "round", 4)


def test_outlines_far_from_zero_are_simplified_as_near_it():
    """In float32 a hundred units at 2e8 are six steps wide, and the engine may never end."""
    from volumen.geometry.affine import translation
    from volumen.geometry.primitives import ellipse
    from volumen.geometry.winding import evenodd_simplified, simplified, united

    pair = [ellipse(0, 0, 50, 50), ellipse(60, 10, 50, 40)]
    far = [p.transformed(translation(2e8, -1.5e8)) for p in pair]
    for call in (lambda p: united(p), lambda p: simplified(p[0]), lambda p: evenodd_simplified(p[1])):
        assert abs(call(far).area()) == pytest.approx(abs(call(pair).area()), rel=1e-4)


def test_paths_go_through_the_engines_bytes_unchanged():
    """Against the engine's own account of its points: lines, quadratics, conics, cubics, ovals told by their sides."""
    import skia

    from volumen.geometry.engine import from_engine

    path = skia.Path()
    path.moveTo(1, 2).lineTo(30, 4).quadTo(50, 6, 40, 30).conicTo(30, 60, 11, 42, 0.7).cubicTo(3, 40, 5, 16, 1, 9)
    path.close()
    path.addOval(skia.Rect.MakeLTRB(5, 5, 15, 25))
    ours = from_engine(path)
    assert [len(c.points) // 3 for c in ours.contours] == [6, 8], "a conic gives two cubics, and the end is closed"
    ends = np.concatenate([c.points[::3] for c in ours.contours])
    for x, y in [(p.fX, p.fY) for k, p in enumerate(path.getPoints(path.countPoints())) if k in (0, 1, 3, 5, 8, 9)]:
        assert np.hypot(*(ends - (x, y)).T).min() == 0
    back = to_engine(ours)
    both = skia.Op(path, back, skia.PathOp.kXOR_PathOp)
    assert abs(from_engine(both).area()) < 0.05, "a conic as two cubics is not exact"
    alone = skia.Path()
    alone.addOval(skia.Rect.MakeLTRB(0, 0, 10, 10))
    assert from_engine(alone).area() == pytest.approx(math.pi * 25, rel=1e-4)


def test_specks_go_and_everything_else_stays():
    big, hole, speck = ellipse(0, 0, 50, 50), ellipse(0, 0, 20, 20), ellipse(90, 0, 0.3, 0.3)
    path = Path((*big.contours, *speck.contours, *hole.contours), True)
    kept = drop_specks(path, 1.0)
    assert len(kept.contours) == 2 and kept.evenodd
    assert [abs(c.area()) for c in kept.contours] == pytest.approx([c.area() for c in (*big.contours, *hole.contours)])
    assert drop_specks(path, 0.1) is path


def test_the_loose_box_does_not_hang_on_what_was_asked_before():
    """A shadow drawn in the tight box differed by some levels from one drawn in the loose one."""
    one, two = (ellipse(0, 0, 30, 20).transformed(affine.rotation(30)) for _ in range(2))
    tight = one.bounds()
    assert one.hull() == two.hull() != tight
