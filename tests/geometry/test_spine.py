"""Paths that things run along: arc lengths, places that stay when points are added, outlines that follow."""

from __future__ import annotations

import numpy as np
import pytest

from volumen.geometry.curve import evaluate, split
from volumen.geometry.path import Contour
from volumen.geometry.primitives import ellipse, line_between
from volumen.geometry.spine import Spine

# Speed along it varies a hundredfold, and it nearly has a cusp.
WILD = Contour(np.array([(0, 0), (300, 10), (-180, 60), (120, 90), (121, 91), (260, -140), (300, 100)], float), False)


def dense_length(segments):
    t = np.linspace(0, 1, 200_001)
    return sum(float(np.hypot(*np.diff(evaluate(np.tile(s, (len(t), 1, 1)), t), axis=0).T).sum()) for s in segments)


def with_points(contour, ts):
    rows = [contour.segments[0]]
    for s in contour.segments[1:]:
        rows.append(s)
    out = []
    for s in rows:
        rest, last = s, 0.0
        for t in ts:
            a, rest = split(rest, (t - last) / (1 - last))
            out.append(a)
            last = t
        out.append(rest)
    points = np.concatenate([np.concatenate([s[:3] for s in out]), out[-1][3:]])
    return Contour(points, contour.closed)


def test_lengths_are_those_of_a_dense_sum_and_places_are_found_again():
    spine = Spine(WILD)
    assert spine.total == pytest.approx(dense_length(WILD.segments), abs=1e-4)  # of the chords of the dense sum
    for s in np.linspace(1, spine.total - 1, 23):
        i, t = spine.place(np.array([s]))
        assert spine.distance(float(i[0] + t[0])) == pytest.approx(s, abs=1e-9)


def test_adding_fifteen_points_moves_nothing():
    before, after = Spine(WILD), Spine(with_points(WILD, np.linspace(0, 1, 10)[1:-1]))
    assert len(after.segments) == len(before.segments) + 16
    at = np.linspace(0, before.total, 301)[:-1]
    assert after.total == pytest.approx(before.total, abs=1e-8)
    assert np.abs(before.frames(at).at - after.frames(at).at).max() < 1e-8
    assert np.abs(before.frames(at).along - after.frames(at).along).max() < 1e-7


def test_an_open_spine_goes_straight_on_and_a_closed_one_round_again():
    line = Spine(line_between((10, 20), (110, 20)).contours[0])
    f = line.frames(np.array([-5.0, 50.0, 130.0]))
    assert f.at.tolist() == [[5, 20], [60, 20], [140, 20]]
    assert np.allclose(f.across, (0, 1)), "to the right of the way, which is down on the sheet"
    round_ = Spine(ellipse(0, 0, 50, 50).contours[0])
    at = round_.frames(np.array([-10.0, round_.total - 10.0, 2 * round_.total - 10.0])).at
    assert np.allclose(at, at[0], atol=1e-9)


@pytest.mark.parametrize("offset", [-12.0, 0.0, 9.0])
def test_bent_lines_keep_their_distance_from_the_spine(offset):
    spine = Spine(WILD if offset == 0 else ellipse(0, 0, 50, 30).contours[0])
    long = np.array([[(x, offset) for x in np.linspace(3, spine.total - 3, 4)]])
    cubics, which = spine.bent(long, 0.02)
    assert set(which) == {0} and np.abs(cubics[1:, 0] - cubics[:-1, 3]).max() < 1e-6
    t = np.linspace(0, 1, 40)
    made = np.concatenate([evaluate(np.tile(c, (40, 1, 1)), t) for c in cubics])
    truth = spine.moved(np.stack([np.linspace(3, spine.total - 3, 20_001), np.full(20_001, offset)], axis=1))
    apart = [np.hypot(*(truth - p).T).min() for p in made]
    # The nearest of dense places of the true image: 0.02 are promised, checked at quarters while it is cut.
    assert max(apart) < 0.02 * 1.2


def test_along_a_straight_spine_nothing_bends():
    spine = Spine(line_between((0, 0), (100, 0)).contours[0])
    drawn = np.random.default_rng(1).uniform(5, 95, (9, 4, 2))
    cubics, which = spine.bent(drawn, 0.02)
    assert which.tolist() == list(range(9))
    assert np.abs(cubics - drawn).max() < 1e-6


def test_pieces_meet_at_corners_of_the_spine():
    corner = Contour(np.array([(0, 0), (20, 0), (40, 0), (60, 0), (60, 20), (60, 40), (60, 60)], float), False)
    drawn = np.array([[(40, 5), (50, 5), (70, 5), (80, 5)]], float)
    cubics, _ = Spine(corner).bent(drawn, 0.02)
    assert len(cubics) == 2
    assert cubics[0, 3] == pytest.approx((60, 5), abs=1e-6) and cubics[1, 0] == pytest.approx((55, 0), abs=1e-6)
