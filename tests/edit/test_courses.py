"""Motifs along a path: how often they stand there, which way and on which side, their ends, and what keeps them so."""

from __future__ import annotations

import msgspec
import numpy as np
import pytest

from scenes import disc, document, shown, solid
from volumen.edit import points, repeats
from volumen.edit.freeze import freeze
from volumen.geometry.affine import apply
from volumen.geometry.primitives import arc_through, ellipse, line_between, rectangle
from volumen.model.ingredients import CastShadow, Rounding, Steps
from volumen.model.nodes import EllipseForm, Group, PathForm, PathPoint, PathRun, RectangleForm, Shape
from volumen.model.repeats import Course
from volumen.model.tree import find, guides
from volumen.outline.courses import FIRST_CAP, LAST_CAP, laid, spine_of, stands
from volumen.outline.forms import path_form
from volumen.outline.making import shown_children
from volumen.outline.outlines import outline
from volumen.outline.repeats import standing

replace = msgspec.structs.replace
LINE = line_between((0, 100), (400, 100))
# Its dot lies up and to the left in the motif's box, 20 x 20.
BAR, DOT = RectangleForm(0, 0, 20, 20), EllipseForm(1, 1, 4, 4)


def garland(i, path=LINE, *more):
    guide = Shape(9, "path", path_form(path), (), member=True)
    bar, dot = (Shape(k, "part", f, (solid("#2b8577"),)) for k, f in ((1, BAR), (2, DOT)))
    return Group(5, "garland", (guide, bar, dot, *more), (i,))


def boxes(group, part=0):
    """The boxes of one part of each motif, on the sheet."""
    return [outline(s.nodes[part]).transformed(s.nodes[part].transform).bounds() for s in standing(group)]


@pytest.mark.parametrize("closed", [False, True])
@pytest.mark.parametrize(("first", "last", "gap"), [(1.0, 1.0, 0.0), (1.0, 0.3, 3.0), (0.4, 1.6, -2.0), (1, 1, 500)])
def test_fitted_motifs_fill_the_path_exactly(closed, first, last, gap):
    i = Course(first=first, last=last, gap=gap)
    rows = stands(i, 331.7, closed, 20.0)
    factor = rows[0].along / first
    assert [r.number for r in rows] == list(range(len(rows)))
    ends = [r.at + 20 * r.along for r in rows]
    starts = [r.at for r in rows][1:]
    assert np.allclose(np.subtract(starts, ends[:-1]), gap * factor, atol=1e-9), "gaps grow with what they part"
    assert ends[-1] + (gap * factor if closed else 0) == pytest.approx(331.7, abs=1e-9)
    if gap != 500:
        assert 0.75 < factor < 1.35, "the whole number that changes sizes least"


def test_repeated_motifs_keep_their_size_and_stay_on_the_path_and_a_stretched_one_covers_it():
    rows = stands(Course("repeat", gap=5.0), 101.0, False, 20.0)
    assert [r.at for r in rows] == [0, 25, 50, 75] and {r.along for r in rows} == {1.0}
    assert len(stands(Course("repeat", gap=5.0), 99.0, True, 20.0)) == 3, "the last gap counts on a closed path"
    assert len(stands(Course("repeat", most=2), 101.0, False, 20.0)) == 2
    assert len(stands(Course("repeat", gap=-20.0), 101.0, False, 20.0)) == 0, "which do not get on"
    assert stands(Course("stretch"), 100.0, False, 20.0)[0][1:] == (0.0, 5.0, 1.0)
    assert len(stands(Course(), 7.0, False, 20.0)) == 1, "one at least is fitted"


@pytest.mark.parametrize("bends", [True, False])
@pytest.mark.parametrize(
    ("i", "first", "dot"),
    [
        (Course(), (0, 20), "above ahead"),
        (Course(flip=True), (380, 400), "below"),
        (Course(other_side=True), (0, 20), "below"),
        (Course(flip=True, other_side=True), (380, 400), "above"),
        (Course("repeat", start=0.5), (200, 220), "above"),
        (Course("repeat", across=30.0), (0, 20), "right of it"),
    ],
)
def test_it_runs_the_way_it_says_and_on_the_side_it_says(bends, i, first, dot):
    group = garland(replace(i, bends=bends))
    box, spot = boxes(group)[0], boxes(group, 1)[0]
    assert (box[0], box[2]) == pytest.approx(first, abs=1e-6)
    middle = (box[1] + box[3]) / 2
    assert middle == pytest.approx(130 if i.across else 100)
    assert (spot[3] < middle) == (not dot.startswith("below"))
    assert (spot[0] < (box[0] + box[2]) / 2) == (not i.flip), "what was drawn at the left comes first on its way"


def test_adding_deleting_and_rounding_points_of_the_path_never_turns_it_round():
    path = arc_through((40, 300), (200, 140), (360, 300))
    group = garland(Course(), path)
    before = boxes(group)
    doc = document(group)
    guide = find(doc, 9)
    for _ in range(4):
        runs = guide.form.runs
        for k in range(len(runs[0].points) - 1):
            guide = replace(guide, form=points.add_point(guide.form, 0, 2 * k + 0.5)[0])
    assert len(guide.form.runs[0].points) > len(runs[0].points)
    after = boxes(replace(group, children=(guide, *group.children[1:])))
    assert np.abs(np.subtract(before, after)).max() < 1e-6
    fewer = replace(guide, form=points.delete_points(guide.form, [(0, 1), (0, 3)]))
    shorter = replace(guide, form=points.delete_points(guide.form, [(0, 0)]))
    rounded = replace(guide, recipe=(Rounding(30.0),))
    for changed in (fewer, shorter, rounded):
        first = boxes(replace(group, children=(changed, *group.children[1:])))[0]
        assert first[0] < 80 and first[3] > 250, "it begins at the left"


def test_own_artwork_stands_at_the_ends_once_or_mirrored():
    cap = Shape(3, "cap", RectangleForm(100, 0, 30, 10), (solid("#c8402a"),))
    other = Shape(4, "cap", EllipseForm(140, 0, 40, 10), (solid("#c8402a"),))
    one = garland(Course(caps=(3,)), LINE, cap)
    found = standing(one)
    assert (found[0].copy.number, found[-1].copy.number) == (FIRST_CAP, LAST_CAP)
    assert len(found) == 2 + 17, "17 of 20 in the 340 between them"
    ends = [outline(s.nodes[0]).bounds() for s in (found[0], found[-1])]
    assert ends[0][::2] == pytest.approx((0, 30)) and ends[1][::2] == pytest.approx((370, 400))
    two = standing(garland(Course(caps=(3, 4)), LINE, cap, other))
    assert outline(two[-1].nodes[0]).bounds()[::2] == pytest.approx((360, 400))
    assert not standing(garland(Course(caps=(3, 4)), line_between((0, 0), (60, 0)), cap, other)), "no room for them"


def test_corners_are_followed_or_rounded():
    corner = rectangle(0, 0, 200, 100)
    box = (0.0, -10.0, 20.0, 10.0)
    sharp, round_ = (spine_of(corner, Course(corners=c), box) for c in ("sharp", "round"))
    assert sharp.total == pytest.approx(600)
    assert round_.total == pytest.approx(600 - 4 * (2 - np.pi / 2) * 12.5, abs=0.02)  # arcs are cubics
    assert len(laid(Course(), sharp, box)) == 30


def test_without_a_path_it_is_as_it_was_drawn():
    lone = replace(garland(Course()), children=garland(Course()).children[1:])
    assert shown_children(lone) == lone.children


def test_bent_parts_refer_to_the_parts_beside_them_and_steps_are_bent_too():
    held = Shape(3, "held", EllipseForm(10, 6, 6, 6), (solid("#c8402a"), CastShadow(receivers=(1,))))
    pair = (disc(11, 5, 10, 3, solid("#20242a")), disc(12, 15, 10, 1, solid("#20242a")))
    steps = Group(4, "steps", pair, (Steps(count=3),))
    for s in standing(garland(Course(), LINE, held, steps)):
        assert s.nodes[2].recipe[-1].receivers == (s.nodes[0].id,)
        assert len(s.nodes[3].children) == 5 and not s.nodes[3].recipe


def test_the_longest_open_line_of_a_selection_becomes_the_path_or_half_a_circle_is_made():
    long = Shape(2, "long", path_form(LINE), ())
    short = Shape(3, "short", path_form(line_between((0, 50), (40, 50))), ())
    doc, holder = repeats.repeat(document(disc(1, 20, 20, 9), long, short), [1, 2, 3], Course())
    assert [g.id for g in guides(find(doc, holder))] == [2]
    doc, holder = repeats.repeat(
        document(disc(1, 20, 20, 9), Shape(2, "round", path_form(ellipse(200, 200, 90, 90)), ())), [1, 2], Course()
    )
    assert [g.id for g in guides(find(doc, holder))] == [2], "a closed one where there is no open one"
    doc, holder = repeats.repeat(document(disc(1, 200, 20, 9)), [1], Course())
    (made,) = guides(find(doc, holder))
    frame = outline(made).bounds()
    assert frame[2] - frame[0] == pytest.approx(2 * (frame[3] - frame[1]), rel=1e-3), "half a circle, over its middle"
    assert len(standing(find(doc, holder))) == 13


def test_a_motif_is_let_go_as_it_stands():
    doc = document(garland(Course()))
    before = boxes(find(doc, 5))
    doc, (free,) = repeats.let_go(doc, 5, 3)
    node = find(doc, free)
    where = outline(node.children[0]).transformed(node.transform).bounds()
    assert where == pytest.approx(before[3])
    assert boxes(find(doc, 5)) == [b for k, b in enumerate(before) if k != 3]


def test_places_turned_by_the_path_are_rigid():
    group = garland(Course(bends=False), arc_through((40, 300), (200, 140), (360, 300)))
    for s in standing(group):
        m = s.nodes[0].transform
        assert np.allclose((m[0] ** 2 + m[1] ** 2, m[0] * m[2] + m[1] * m[3]), (m[0] ** 2 + m[1] ** 2, 0), atol=1e-9)
        assert s.nodes[0].form is group.children[1].form, "they share what was drawn"
        assert np.hypot(*np.subtract(apply(m, (10, 10)), (200, 300))) == pytest.approx(160, abs=0.5)


@pytest.mark.parametrize(("points", "closed"), [
    ([(60, 60), (240, 60), (240, 240), (60, 240)], True), ([(60, 60), (240, 60), (240, 240)], False),
    ([(60, 60), (240, 90), (150, 240)], True), ([(60, 150), (150, 60), (240, 150)], False),
])  # fmt: skip
@pytest.mark.parametrize(("handles", "way"), [(0.0, "stretch"), (20.0, "stretch"), (20.0, "fit")])
def test_mitred_corners_are_those_of_a_frame(points, closed, handles, way):
    """A band bent along straight legs covers what lies within its half height of them, as another library has it."""
    from shapely.geometry import LinearRing, LineString

    brick = Shape(1, "brick", RectangleForm(0, 0, 30, 20), (solid("#000000"),))
    run = [_straight(points, k, closed, handles) for k in range(len(points))]
    guide = Shape(2, "way", PathForm((PathRun(tuple(run), closed),)), (), member=True)
    doc = document(Group(3, "frame", (brick, guide), (Course(way, bends=True, corners="mitre"),)), side=300)
    covered = float((1 - shown(doc)[..., :3].mean(axis=2) / 255).sum())
    line = LinearRing(points) if closed else LineString(points)
    tall = 1.0 if way == "stretch" else line.length / 30 / round(line.length / 30)  # fitted motifs grow or shrink whole
    band = line.buffer(10 * tall, join_style="mitre", cap_style="flat", mitre_limit=9)
    # Laps of a tenth of a unit at corners count twice; where bricks meet aslant, a little ground shows between them.
    assert covered == pytest.approx(band.area, rel=4e-3 if way == "stretch" else 8e-3)
    frozen = freeze(doc, [3]).document
    assert np.abs(shown(frozen).astype(int) - shown(doc)).max() <= 4


def _straight(points, k, closed, handle):
    """A corner point with handles along its straight sides."""
    at, n = np.array(points[k], dtype=float), len(points)
    rows = [at, at]
    for row, j in ((0, k - 1), (1, (k + 1) % n)):
        way = np.array(points[j]) - at
        rows[row] = at + way / np.hypot(*way) * handle
    return PathPoint(tuple(at.tolist()), tuple(rows[0].tolist()), tuple(rows[1].tolist()), False)


CORNERS = PathForm((PathRun(tuple(PathPoint(p, p, p) for p in ((40, 40), (160, 50), (150, 160), (40, 150))), True),))
WAYS = [
    Course(gap=3.0), Course(gap=3.0, corners="round"), Course("repeat", gap=3.0, bends=False), Course("stretch"),
    Course(gap=3.0, flip=True), Course(gap=3.0, start=0.3),
]  # fmt: skip


@pytest.mark.parametrize("i", WAYS, ids=["fit", "round", "repeat", "stretch", "flip", "start"])
@pytest.mark.parametrize("place", [0.5, 1.99, 2.4, 3.5])
def test_a_new_point_that_leaves_the_curve_changes_nothing_along_it(i, place):
    def shown_along(form):
        guide = Shape(9, "path", form, (), member=True)
        return shown(document(Group(5, "g", (guide, disc(3, 20, 20, 6, solid("#2b8577"))), (i,))))

    more, _ = points.add_point(CORNERS, 0, place)
    assert np.abs(shown_along(CORNERS) - shown_along(more)).max() <= 2
