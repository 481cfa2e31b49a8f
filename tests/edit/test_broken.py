"""Pieces of lines and edges left out, by hand and by lot; objects shown as their lines alone, linked with whole ones."""

import msgspec
import numpy as np
import pytest

from scenes import document as sheet_of
from volumen.compose.scene import build
from volumen.edit import links, objects, points
from volumen.edit.broken import piece_at, pieces_of, turned_over
from volumen.edit.freeze import freeze
from volumen.geometry.path import Path, contour_from_lines
from volumen.geometry.pieces import all_segments, drawn_by_lot, without
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import Block, Body, CastShadow, Line
from volumen.model.make import solid
from volumen.model.nodes import Group, RectangleForm, Shape, TextForm
from volumen.model.tree import find
from volumen.outline.forms import path_form
from volumen.render.raster import render_float
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
INK = Line(Solid(colour("#000000")), 4.0)
SQUARE = Path((contour_from_lines([(50, 50), (150, 50), (150, 150), (50, 150)]),))
SIDES = {"top": (100, 50), "right": (150, 100), "bottom": (100, 150), "left": (50, 100)}


def drawn(doc, places=SIDES):
    """Which places are dark."""
    rgba = render_float(build(doc))
    return {name for name, (x, y) in places.items() if rgba[round(y), round(x), :3].mean() < 0.5}


def square(*recipe, **fields):
    return sheet_of(Shape(1, "square", path_form(SQUARE), recipe, **fields), side=200)


def test_segments_left_out_leave_open_runs_that_go_on_over_the_start():
    left = without(SQUARE, {1})
    (run,) = left.contours
    assert not run.closed and len(run.segments) == 3
    assert np.array_equal(run.points[[0, 3, 6, 9]], [(150, 150), (50, 150), (50, 50), (150, 50)])
    assert [len(c.segments) for c in without(SQUARE, {0, 2}).contours] == [1, 1]
    assert without(SQUARE, {0, 1, 2, 3}).contours == () and without(SQUARE, set()) is SQUARE
    ring = Path((*ellipse(0, 0, 9, 9).contours, *SQUARE.contours))
    assert len(all_segments(without(ring, {5}))) == len(all_segments(ring)) - 1


def test_the_lot_takes_its_share_and_more_takes_those_too():
    few, many = drawn_by_lot(range(4000), 0.2, 7), drawn_by_lot(range(4000), 0.5, 7)
    assert few < many and len(few) / 4000 == pytest.approx(0.2, abs=0.03)
    assert {k for k in drawn_by_lot(range(9000), 0.2, 7) if k < 4000} == few, "more pieces leave it as it was"
    assert drawn_by_lot(range(4000), 0.2, 8) != few
    assert drawn_by_lot(range(50), 0.0, 1) == set() and len(drawn_by_lot(range(50), 1.0, 1)) == 50


@pytest.mark.parametrize("side", SIDES)
def test_a_side_is_clicked_away_and_back(side):
    doc = square(INK)
    piece = piece_at(pieces_of(doc, 1), SIDES[side], 3)
    gone = turned_over(doc, 1, piece)
    assert drawn(gone) == set(SIDES) - {side}
    again = piece_at(pieces_of(gone, 1), SIDES[side], 3)
    assert not again.drawn and turned_over(gone, 1, again) == doc


def test_what_is_left_out_stays_where_it_is():
    """Through new points elsewhere, a place that squeezes, another width, freezing."""
    doc = square(INK)
    gone = turned_over(doc, 1, piece_at(pieces_of(doc, 1), SIDES["bottom"], 3))
    more = objects.set_fields(gone, [1], form=points.add_point(find(gone, 1).form, 0, 0.3)[0])
    assert len(find(more, 1).form.runs[0].points) == 5 and drawn(more) == set(SIDES) - {"bottom"}
    squeezed = objects.set_fields(gone, [1], transform=(1.0, 0.0, 0.0, 0.5, 0.0, 0.0))
    places = {name: (x, y / 2) for name, (x, y) in SIDES.items()}
    assert drawn(squeezed, places) == set(SIDES) - {"bottom"}
    frozen = freeze(gone, [1]).document
    assert np.abs(render_float(build(frozen)) - render_float(build(gone))).max() < 2 / 255
    assert not any(i.omitted for n in frozen.root.children for i in n.recipe if isinstance(i, Line))


def test_dashes_are_left_out_by_lot_and_the_others_stay_where_they_were():
    dashes = replace(INK, dashes=(10.0, 10.0))
    whole, broken = (render_float(build(square(i))) for i in (dashes, replace(dashes, broken=0.4, seed=3)))
    assert (broken[..., :3] >= whole[..., :3] - 1e-6).all(), "nothing is drawn that was not"
    dark = [(1 - p[..., :3]).sum() for p in (whole, broken)]
    assert 0.4 < dark[1] / dark[0] < 0.9  # of 20 dashes


# -- edges of blocks


def lettered(block, text="KE", **fields):
    return sheet_of(
        Shape(1, "word", TextForm(text, x=30, y=140, size=100), (solid("#c9a24a"), block), **fields), side=300
    )


@pytest.mark.parametrize("block", [Block(30, angle=135.0), Block(30, angle=20.0), Block(point=(90.0, -400.0))])
def test_each_edge_of_a_block_is_one_piece(block):
    pieces = pieces_of(lettered(replace(block, edge=2.0)), 1)
    middles = [tuple(np.round(all_segments(p.path)[0].mean(axis=0), 4)) for p in pieces]
    assert len(set(middles)) == len(middles), "none is drawn twice"
    numbers = [p.number % 3 for p in pieces]
    assert numbers.count(0) == len(
        all_segments(Path(tuple(c for p in pieces if not p.number % 3 for c in p.path.contours)))
    )
    assert numbers.count(1) > 4 and numbers.count(2) > 4


def test_an_edge_that_is_left_out_stays_out_as_the_depth_changes():
    doc = lettered(Block(30, angle=135.0, edge=2.0))
    side = next(p for p in pieces_of(doc, 1) if p.number % 3 == 1)
    gone = turned_over(doc, 1, side)
    for depth, angle in ((30, 135.0), (50, 135.0), (20, 150.0)):
        block = replace(find(gone, 1).recipe[1], depth=depth, angle=angle)
        other = objects.set_fields(gone, [1], recipe=(solid("#c9a24a"), block))
        (same,) = (p for p in pieces_of(other, 1) if p.number == side.number)
        assert not same.drawn
        start = all_segments(side.path)[0][[0, -1]]
        assert np.abs(all_segments(same.path)[0][[0, -1]][:, None] - start[None]).sum(axis=2).min() < 1e-6, (
            "from the same corner"
        )
    assert turned_over(gone, 1, next(p for p in pieces_of(gone, 1) if p.number == side.number)) == doc


def test_a_line_drawing_has_the_edges_of_the_whole_one_and_nothing_else():
    doc = lettered(Block(30, angle=135.0, edge=2.0, edge_colour=colour("#000000")))
    lines = objects.set_fields(doc, [1], lines_only=True)
    whole, bare = render_float(build(doc))[..., :3], render_float(build(lines))[..., :3]
    dark = bare.max(axis=2) < 0.2
    assert dark.sum() > 800 and (whole[dark] < 0.2).all(), "each line is one of the whole's"
    assert ((bare > 0.95) | (np.ptp(bare, axis=2, keepdims=True) < 0.02)).all(), "nothing but black on white"
    assert np.array_equal(
        bare,
        render_float(
            build(objects.set_fields(doc, [1], recipe=(replace(doc.root.children[0].recipe[1], faces=False),)))
        )[..., :3],
    )


def test_lines_alone_of_a_group_and_of_what_has_no_line():
    parts = (
        Shape(1, "disc", RectangleForm(40, 40, 60, 60), (Body(), CastShadow()), lift=9.0),
        Shape(2, "bar", RectangleForm(120, 40, 40, 60), (solid("#204060"), INK)),
    )
    doc = sheet_of(Group(3, "two", parts, lines_only=True), side=200)
    rgba = render_float(build(doc))[..., :3]
    assert rgba[70, 70].min() > 0.99 and rgba[70, 140].min() > 0.99 and rgba[105, 105].min() > 0.99
    assert rgba[70, 40].max() < 0.99 and rgba[70, 120].max() < 0.1
    frozen = freeze(doc, [3]).document
    assert np.abs(render_float(build(frozen))[..., :3] - rgba).max() < 2 / 255 and not find(frozen, 3).lines_only


def test_a_line_drawing_follows_the_block_that_it_is_linked_with():
    doc = lettered(Block(30, angle=135.0, edge=2.0))
    doc, (copy,) = links.linked_copies(doc, [1])
    doc = objects.set_fields(doc, [copy], lines_only=True)
    changed = objects.set_fields(
        doc, [1], form=replace(find(doc, 1).form, text="SO"), recipe=(solid("#333333"), Block(10, edge=1.0))
    )
    changed = links.followed(doc, changed)
    followed = find(changed, copy)
    assert followed.form.text == "SO" and followed.recipe[1].depth == 10
    assert followed.lines_only and not find(changed, 1).lines_only
