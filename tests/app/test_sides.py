"""Sides and signs: light where the lamp is, turns the way they say, gestures that end as they began, refusals in words."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest
from PySide6.QtCore import Qt

from scenes import disc, document, solid
from volumen.compose.scene import build
from volumen.edit import arrange, combine, joining, links, objects
from volumen.edit.history import LIMIT, History
from volumen.edit.joining import mapped, turned_round
from volumen.geometry.affine import IDENTITY, apply, mirroring, multiply, rotation, scaling, translation
from volumen.geometry.primitives import ellipse
from volumen.geometry.winding import nonzero
from volumen.model.ingredients import (
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    GroundGlow,
    InnerShadow,
    Line,
    Relief,
    Sliver,
)  # fmt: skip
from volumen.model.make import circle, corner, path_form
from volumen.model.nodes import Document, Group, RectangleForm, Shape
from volumen.model.tree import find
from volumen.outline.hit import touches
from volumen.render.raster import render_bytes
from volumen.shading.carried import carried
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Conic, Linear, Radial, Solid, Stop, colour

replace = msgspec.structs.replace
NO, SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)  # fmt: skip
BEARINGS = (0.0, 75.0, 180.0, 250.0)
GREY = solid("#808080")


def grey(doc):
    return np.asarray(render_bytes(build(doc), 1.0)).astype(float)[..., :3].mean(axis=-1)


def lit_side(recipe, lamp, place=IDENTITY, lift=0.0, bare=(GREY,)):
    """Which way, along the lamp's direction, the change that some ingredients make is lighter: + towards the lamp."""
    shape = Shape(1, "thing", circle(100, 100, 40), (*bare, *recipe), transform=place, lift=lift)
    plain = replace(shape, recipe=bare)
    ground = colour("#b0b0b0")
    change = grey(document(shape, lamp=lamp, ground=ground)) - grey(document(plain, lamp=lamp, ground=ground))
    y, x = np.mgrid[:200, :200] - 99.5
    along = x * lamp.toward[0] + y * lamp.toward[1]
    return float((change * along).sum())


SIDES = {
    "ball": ((Body("ball", "clay"),), 1), "dish": ((Body("dish", "clay"),), -1), "cushion": ((Body("cushion", "clay"),), 1),
    "cone": ((Body("cone", "clay"),), 1), "drop": ((Body("drop", "clay"),), -1),  # light falls through it "slab": ((Body("slab", "clay"),), 1),
    "shade shift": ((Sliver("shade", "shift"),), 1), "light shift": ((Sliver("light", "shift", blend="screen"),), 1),
    "shade scale": ((Sliver("shade", "scale"),), 1), "light scale": ((Sliver("light", "scale", blend="screen"),), 1),
    "shade turn": ((Sliver("shade", "turn"),), 1), "light turn": ((Sliver("light", "turn", blend="screen"),), 1),
    "sunk shade": ((Sliver("shade", "shift", sunk=True),), -1),
    "sunk light": ((Sliver("light", "shift", blend="screen", sunk=True),), -1),
    "raised relief": ((Relief(width=12.0),), 1), "sunk relief": ((Relief(width=12.0, sunk=True),), -1),
    "hollow relief": ((Relief(width=12.0, profile="hollow"),), 1), "flat relief": ((Relief(width=12.0, profile="flat"),), 1),
    "inner shadow": ((InnerShadow(10.0),), -1), "cast shadow": ((CastShadow(),), 1), "contact": ((ContactShadow(6.0),), 1),
}  # fmt: skip


@pytest.mark.parametrize("bearing", BEARINGS)
@pytest.mark.parametrize("name", SIDES)
def test_light_and_shade_lie_on_their_sides(name, bearing):
    recipe, sign = SIDES[name]
    lamp = Lamp(bearing, 38)
    for place in (IDENTITY, rotation(70, (100, 100)), scaling(-1, 1, (100, 100)), scaling(1.3, 0.7, (100, 100))):
        assert sign * lit_side(recipe, lamp, place, 9.0) > 500, place


@pytest.mark.parametrize("bearing", BEARINGS)
def test_what_has_an_angle_of_its_own_keeps_it(bearing):
    for make in (
        Sliver("shade", angle=bearing + 180),
        Sliver("light", blend="screen", angle=bearing),
        CastShadow(angle=bearing + 180),
    ):
        assert lit_side((make,), Lamp(bearing, 40), lift=9.0) > 500
        assert lit_side((make,), Lamp(bearing + 180, 40), lift=9.0) < -500, "the lamp does not turn it"
    assert lit_side((InnerShadow(10.0, angle=bearing),), Lamp(bearing, 40)) < -500


def test_glows_on_the_ground_lie_at_the_foot_and_standing_shadows_run_away():
    doc = document(disc(1, 100, 60, 30, GREY, GroundGlow(colour("#ffffff"), blend="normal")), ground=colour("#404040"))
    assert grey(doc)[93, 100] > 72 and grey(doc)[20, 100] == 64
    stands = disc(1, 100, 100, 20, GREY, CastShadow(fall="ground"), lift=2.0)
    for bearing, (x, y) in ((330.0, (117, 150)), (30.0, (83, 150))):
        seen = grey(document(stands, lamp=Lamp(bearing, 30)))
        assert seen[y, x] < 200 and seen[y, 200 - x] > 240


# -- places: which way things turn, what stays, what is mirrored


PAINTS = {
    "linear": Linear((Stop(0.0, colour("#ff0000")), Stop(1.0, colour("#0000ff"))), (80, 70), (120, 110)),
    "radial": Radial((Stop(0.0, colour("#ffffff")), Stop(1.0, colour("#0000ff"))), (100, 100), 40, (88, 92)),
    "conic": Conic((Stop(0.0, colour("#ff0000")), Stop(0.3, colour("#ffffff")), Stop(1.0, colour("#0000ff"))), (97, 101), 30.0),
}  # fmt: skip
MOVES = {
    "turned": rotation(70, (100, 100)), "mirrored": scaling(-1, 1, (100, 100)), "upside down": scaling(1, -1, (100, 100)),
    "larger": scaling(1.4, 1.4, (90, 100)), "mirrored and turned": multiply(rotation(40, (100, 100)), scaling(-1, 1, (100, 100))),
}  # fmt: skip


@pytest.mark.parametrize("move_name", MOVES)
@pytest.mark.parametrize("paint", PAINTS)
def test_a_carried_paint_is_the_paint_in_its_place(paint, move_name):
    m, p = MOVES[move_name], PAINTS[paint]
    placed = Shape(1, "a", circle(100, 100, 40), (Fill(p),), transform=m)
    x, y = apply(m, (100, 100))
    r = 40 * math.sqrt(abs(m[0] * m[3] - m[1] * m[2]))
    moved = Shape(1, "b", circle(x, y, r), (Fill(carried(p, m)),))
    error = np.abs(grey(document(placed)) - grey(document(moved)))
    yy, xx = np.mgrid[:200, :200] + 0.5
    inside = np.hypot(xx - x, yy - y) < r - 2
    assert np.percentile(error[inside], 99.5) < 2.5, "but where a conic gradient begins"


def test_turning_runs_clockwise_and_leaves_its_centre():
    assert apply(rotation(90), (1, 0)) == pytest.approx((0, 1)), "on the sheet, whose y runs down"
    about = (30.0, -12.0)
    for m in (rotation(37, about), scaling(3, 0.2, about), mirroring(25, about), arrange.skewing(20, 10, about)):
        assert apply(m, about) == pytest.approx(about)
    assert apply(mirroring(90, (10, 0)), (14, 5)) == pytest.approx((6, 5)), "an upright axis changes left and right"
    assert apply(mirroring(0, (0, 10)), (5, 14)) == pytest.approx((5, 6))
    assert apply(arrange.skewing(45, 0, (0, 0)), (0, 10)) == pytest.approx((-10, 10)) or apply(
        arrange.skewing(45, 0, (0, 0)), (0, 10)
    ) == pytest.approx((10, 10))


def test_steps_run_in_order_and_align_and_distribute_to_their_ends():
    row = [disc(k, 20 + 30 * k + 3 * k * k, 50 + k, 8) for k in (1, 2, 3)]
    doc = document(*row)
    box = lambda d, i: objects.selection_box(d, [i])  # noqa: E731
    for edge, index, value in (("left", 0, 0.0), ("right", 2, 200.0), ("top", 1, 0.0), ("bottom", 3, 200.0)):
        assert box(arrange.align(doc, [1, 2], edge, (0, 0, 200, 200)), 2)[index] == pytest.approx(value)
    even = arrange.distribute(doc, [1, 2, 3], "across", "gaps")
    gaps = [box(even, 2)[0] - box(even, 1)[2], box(even, 3)[0] - box(even, 2)[2]]
    assert (
        gaps[0] == pytest.approx(gaps[1])
        and box(even, 1) == box(doc, 1)
        and box(even, 3)[0] == pytest.approx(box(doc, 3)[0])
    )
    kept = arrange.align(doc, [1, 2], "left", box(doc, 1), keep=1)
    assert box(kept, 1) == box(doc, 1) and box(kept, 2)[0] == pytest.approx(box(doc, 1)[0])
    around, ids = arrange.step_copies(document(disc(1, 150, 100, 5)), [1], 4, (100, 100), None)
    centres = [apply(find(around, i).transform, (150, 100)) for i in ids]
    assert centres == [pytest.approx((100, 150)), pytest.approx((50, 100)), pytest.approx((100, 50))], "clockwise"


def test_order_in_the_pile():
    doc = document(*(disc(k, 30 * k, 50, 8) for k in (1, 2, 3, 4)))
    order = lambda d: [c.id for c in d.root.children]  # noqa: E731
    assert order(objects.restack(doc, [2], 1)) == [1, 3, 2, 4]
    assert order(objects.restack(doc, [2, 3], 1)) == [1, 4, 2, 3]
    assert order(objects.restack(doc, [2, 3], -9)) == [2, 3, 1, 4]
    assert order(objects.restack(doc, [4], 5)) == [1, 2, 3, 4]
    assert order(objects.move_in_tree(doc, [1], 0, 3)) == [2, 3, 1, 4], "before what was third when it began"
    assert order(objects.move_in_tree(doc, [4], 0, 1)) == [1, 4, 2, 3]
    grouped, made = objects.group(doc, [1, 3])
    assert order(grouped) == [2, made, 4] and [c.id for c in find(grouped, made).children] == [1, 3]
    copied, (new,) = objects.duplicate(doc, [2])
    assert order(copied) == [1, 2, new, 3, 4]


def test_runs_turned_round_and_mapped_keep_their_handles():
    run = path_form(corner(0, 0), corner(10, 0), closed=False).runs[0]
    bent = replace(run, points=(replace(run.points[0], leave=(3.0, 4.0)), run.points[1]))
    back = turned_round(bent)
    assert back.points[1].arrive == (3.0, 4.0) and back.points[1].at == (0, 0)
    assert mapped(bent, translation(5, 1)).points[0].leave == (8.0, 5.0)


# -- undo's limit, refusals


def test_undo_reaches_back_as_far_as_it_says_and_no_farther():
    docs = [replace(Document(), grid=float(k + 1)) for k in range(LIMIT + 6)]
    history = History(docs[0])
    for k, doc in enumerate(docs[1:]):
        assert history.commit(doc, f"step {k}")
    for _ in range(LIMIT + 20):
        history.undo()
    assert history.document is docs[-LIMIT] and history.undo_label is None
    history.redo()
    assert history.document is docs[-LIMIT + 1]
    history.commit(docs[0], "other")
    assert history.redo_label is None, "what was undone gives way to what is done now"
    assert not history.commit(docs[0], "again") and history.undo_label == "other"
    history.undo()
    assert history.document is docs[-LIMIT + 1], "right before it lies what it was done to"


def test_refusals_leave_the_document_as_it_is():
    doc = document(disc(1, 50, 50, 20), Group(2, "g", (disc(3, 90, 90, 10),)))
    assert objects.group(doc, []) == (doc, None) and objects.group(doc, [77]) == (doc, None)
    assert combine.combine(doc, [1], "union") == (doc, None)
    assert objects.hold_inside(doc, [2]) == (doc, None) and objects.hold_inside(doc, [1])[1] is None
    assert objects.move_in_tree(doc, [2], 3, 0) is doc, "nothing is put into itself"
    assert objects.delete(doc, [0, 99]).root.children == doc.root.children
    assert links.unlink(doc, [1]).root == doc.root
    with pytest.raises(joining.CannotJoin):
        joining.mirror_weld(
            document(Shape(1, "loop", path_form(corner(0, 0), corner(9, 9), corner(0, 0), closed=False), ())), 1
        )
    flat = document(replace(disc(1, 50, 50, 20), transform=(1, 0, 0, 0, 0, 0)))
    assert isinstance(objects.duplicate(flat, [1])[0], Document)


@pytest.mark.parametrize(
    ("frame", "line", "area"),
    [((95, 20, 105, 30), False, True), ((60, 20, 70, 200), True, True), ((0, 0, 20, 20), False, False), ((55, 90, 62, 110), True, True),
     ((99, 99, 101, 101), False, True)],
)  # fmt: skip
def test_a_frame_touches_lines_by_their_course_and_areas_by_their_inside(frame, line, area):
    ring = Shape(1, "ring", RectangleForm(60, 20, 80, 160), (Line(Solid(colour("#000000")), 0.5),))
    frame = (frame[0], max(frame[1], 22), frame[2], frame[3])
    assert touches(replace(ring, recipe=(GREY,)), IDENTITY, frame) is (area and frame[2] > 60)
    assert touches(ring, IDENTITY, frame) is line
    assert not touches(replace(ring, visible=False), IDENTITY, frame)


# -- closed forms


@pytest.mark.parametrize("depth", [4.0, 17.0])
@pytest.mark.parametrize("bearing", [0.0, 130.0])
def test_a_sliver_by_scale_is_as_deep_as_it_says_and_has_its_area(bearing, depth):
    from volumen.shading.lamp import bearing_vector
    from volumen.shading.slivers import moved_copy, sliver

    r, side = 60.0, bearing_vector(bearing)
    path = ellipse(10, -5, r, r)
    k = 1 - depth / (2 * r)
    assert abs(nonzero(sliver(path, "scale", depth, side, 0.0).path).area()) == pytest.approx(
        math.pi * r * r * (1 - k * k), rel=1e-3
    )
    rim = (10 + side[0] * r, -5 + side[1] * r)
    for by in ("shift", "scale"):
        moved = apply(moved_copy(path, by, depth, side), rim)
        assert (
            math.dist(moved, rim) == pytest.approx(depth)
            and (moved[0] - rim[0]) * side[0] + (moved[1] - rim[1]) * side[1] < 0
        )
    turned = apply(moved_copy(path, "turn", depth, side), rim)
    assert (turned[0] - rim[0]) * side[0] + (turned[1] - rim[1]) * side[1] < 0, "it uncovers the side"


def test_shadows_lie_and_soften_as_their_formulas_say():
    from volumen.shading.lamp import bearing_vector, shadow_offset, shadow_sigma

    assert bearing_vector(0) == pytest.approx((0, -1)) and bearing_vector(90) == pytest.approx((1, 0))
    lamp = Lamp(90.0, 30.0, size=0.4)
    assert shadow_offset(lamp, 10.0) == pytest.approx((-10 / math.tan(math.radians(30)), 0.0), abs=1e-9)
    assert shadow_sigma(lamp, 10.0) == pytest.approx(4.0) or shadow_sigma(lamp, 20.0) == pytest.approx(
        2 * shadow_sigma(lamp, 10.0)
    )
    assert shadow_offset(Lamp(10, 90), 10.0) == pytest.approx((0, 0), abs=1e-9)
