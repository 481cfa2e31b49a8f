"""Points of paths, and what they snap to."""

import math

import numpy as np
import pytest

from volumen.edit import points
from volumen.edit.strokes import pressure_profile, smoothed
from volumen.geometry.curve import length
from volumen.geometry.primitives import ellipse, rectangle
from volumen.geometry.snap import SnapField, circle_tangents
from volumen.model.make import corner, path_form, smooth
from volumen.model.nodes import PathForm, PathRun, Shape
from volumen.outline.outlines import outline

# -- points


def wave():
    return path_form(smooth(0, 0, 20, 0), smooth(50, 40, 20, 0), smooth(100, 0, 20, 0), closed=False)


def test_points_are_added_removed_and_dragged_close_to_the_curve():
    before = length(outline(Shape(1, "", wave())).contours[0])
    form, place = points.add_point(wave(), 0, 0.4)
    assert place == (0, 1) and points.count(form) == 4
    assert length(outline(Shape(1, "", form)).contours[0]) == pytest.approx(before, rel=1e-6)
    back = points.delete_points(form, [place])
    assert length(outline(Shape(1, "", back)).contours[0]) == pytest.approx(before, rel=1e-6), (
        "an added point goes without trace"
    )
    assert points.delete_points(wave(), [(0, 0), (0, 1), (0, 2)]) is None
    bent = points.drag_segment(wave(), 0, 0.5, 0, 25)
    from volumen.geometry.curve import points_at

    old, new = (points_at(outline(Shape(1, "", f)).contours[0], np.array([0.5]))[0][0] for f in (wave(), bent))
    assert new - old == pytest.approx((0, 25), abs=1e-9)
    assert bent.runs[0].points[0].at == (0, 0)


def test_points_change_kind_break_join_and_line_up():
    kinds = points.set_kind(wave(), [(0, 1)], "corner").runs[0].points[1]
    assert kinds.arrive == kinds.at == kinds.leave
    again = points.set_kind(PathForm((PathRun((corner(0, 0), corner(50, 40), corner(100, 0))),)), [(0, 1)], "symmetric")
    p = again.runs[0].points[1]
    assert p.smooth and math.dist(p.at, p.arrive) == pytest.approx(math.dist(p.at, p.leave))
    square = path_form(corner(0, 0), corner(10, 0), corner(10, 10), corner(0, 10))
    opened = points.break_at(square, [(0, 2)])
    assert not opened.runs[0].closed and opened.runs[0].points[0].at == (10, 10) == opened.runs[0].points[-1].at
    halves = points.break_at(opened, [(0, 2)])
    assert [len(r.points) for r in halves.runs] == [3, 3]
    joined = points.join(halves, [(0, 2), (1, 0)])
    assert len(joined.runs) == 1 and len(joined.runs[0].points) == 5
    assert points.join(joined, points.open_ends(joined)).runs[0].closed
    assert points.start_at(square, (0, 2)).runs[0].points[0].at == (10, 10)
    assert points.reverse(square).runs[0].points[0].at == (0, 10)
    level = points.align_points(wave(), [(0, 0), (0, 1)], 1)
    assert level.runs[0].points[0].at[1] == level.runs[0].points[1].at[1] == 20
    spaced = points.distribute_points(points.move(wave(), [(0, 1)], 30, 0), [(0, 0), (0, 1), (0, 2)], 0)
    assert spaced.runs[0].points[1].at[0] == pytest.approx(50)
    line = points.average_onto_line(wave(), [(0, 0), (0, 1), (0, 2)])
    (ax, ay), (bx, by), (cx, cy) = (q.at for q in line.runs[0].points)
    assert (bx - ax) * (cy - ay) == pytest.approx((by - ay) * (cx - ax), abs=1e-9)
    moved = points.drag_handle(smooth(0, 0, 10, 0), "leave", (0, 20), broken=False)
    assert moved.arrive == pytest.approx((0, -10))


def test_strokes_are_smoothed_and_read_as_widths():
    t = np.linspace(0, 1, 80)
    rows = np.stack([200 * t, 3 * np.sin(60 * t), t], axis=1)
    calm = smoothed(rows[:, :2], 12.0, closed=False)
    assert np.abs(calm[5:-5, 1]).max() < 1.5 and calm[0] == pytest.approx(rows[0, :2])
    by_pen = pressure_profile(np.stack([200 * t, 0 * t, t], axis=1), True, 0.1, 1.0)
    assert by_pen[0][1] < 0.25 < 0.8 < by_pen[-1][1]
    slow = pressure_profile(np.stack([100 * t, 0 * t, 2.0 * t], axis=1), False, 0.1, 1.0)
    quick = pressure_profile(np.stack([2000 * t, 0 * t, 0.5 * t], axis=1), False, 0.1, 1.0)
    assert max(p[1] for p in quick) < max(p[1] for p in slow)


# -- snapping


def test_snapping_names_what_it_finds():
    field = SnapField(
        [ellipse(100, 100, 50, 50), ellipse(160, 100, 50, 50), rectangle(300, 300, 40, 40)],
        boxes=[(300, 300, 340, 340)], sheet=(0, 0, 400, 400), grid=10, guides=[((0, 250), 0.0), ((220, 0), 90.0)],
        circles=[((300, 100), 40.0)],
    )  # fmt: skip
    every = {"points", "crossings", "midpoints", "centres", "guides", "outlines", "edges", "sheet", "tangents"}

    def snap(x, y, kinds=every, origin=None):
        return field.snap((x, y), 5, kinds, origin)

    assert snap(151, 101).note == "point"
    cross = snap(131, 59)
    assert cross.note == "crossing" and cross.at == pytest.approx((130, 100 - 40), abs=0.03)
    assert snap(319, 301).note == "midpoint" and snap(321, 319).note == "centre"
    on = snap(100 + 51 * math.cos(2), 100 + 51 * math.sin(2))
    assert on.note == "outline" and math.dist(on.at, (100, 100)) == pytest.approx(50, abs=0.02)
    assert snap(30, 251).note == "guide" and snap(221, 251).note == "crossing of guides"
    assert snap(398, 200).note == "sheet" and snap(90, 198, {"grid"}).at == (90, 200)
    assert snap(30, 30) is None
    p = (0.0, 100.0)
    tangent = next(t for t in circle_tangents(p, (100, 100), 50) if t[1] < 100)
    found = snap(tangent[0] + 2, tangent[1] - 1, {"tangents"}, p)
    assert found.note == "tangent" and found.at == pytest.approx(tangent, abs=0.1)
    assert snap(300 - 39, 100, {"guides"}).note == "construction circle"
    assert circle_tangents((100, 100), (100, 100), 50) == []


def test_a_moving_box_finds_edges_and_equal_gaps():
    field = SnapField([], [(0, 0, 20, 20), (100, 0, 120, 20)], (0, 0, 400, 400))
    (dx, _), why = field.snap_box((48, 0, 68, 20), 5, {"gaps"})
    assert (dx, why) == (2, "equal gap")
    (dx, dy), why = field.snap_box((99, 51, 110, 60), 4, {"edges"})
    assert dx == 1 and dy == 0 and why == "edge of box"
    assert field.snap_box((148, 0, 168, 20), 60, {"gaps"})[0][0] == 52, "the gap between two is repeated beyond them"
