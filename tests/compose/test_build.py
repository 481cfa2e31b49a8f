"""From documents to pictures: what falls where, what is left out, what is kept."""

import msgspec
import numpy as np
import pytest
from msgspec.structs import replace

from scenes import disc, document, lit_trio, shown, single
from volumen.compose.face import base_colour
from volumen.compose.memo import Memo
from volumen.compose.scene import around_all, build
from volumen.edit import objects
from volumen.geometry.affine import rotation, scaling, translation
from volumen.model.ingredients import Blur, Body, CastShadow, Fill, Line, Occlusion, OuterGlow, Sliver
from volumen.model.make import linear, solid
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import renumbered, walk
from volumen.model.validate import DocumentError, validate
from volumen.picture.bounds import item_box
from volumen.picture.instructions import FillPath, FillUncovered, Layer, Soft, StrokePath
from volumen.render.raster import render_float
from volumen.shading.lamp import Lamp, shadow_factor
from volumen.shading.paint import Colour, Solid, colour

SEA, BONE = colour("#2b8577"), colour("#efe6d6")


def items_of(doc, flat=False):
    return list(build(doc, flat).items)


def only(items, kind):
    found = [i for i in items if isinstance(i, kind)]
    assert len(found) == 1
    return found[0]


def test_flat_leaves_light_and_finish_out_but_keeps_surface():
    recipe = (solid("#2b8577"), Body(), Sliver(), CastShadow(), OuterGlow(SEA), Blur(3), Line(Solid(SEA), 2.0))
    doc = document(disc(1, 50, 50, 20, *recipe, lift=5.0))
    assert [type(i) for i in items_of(doc, flat=True)] == [FillPath, StrokePath]
    lit = items_of(doc)
    assert [type(i) for i in lit] == [Soft, Soft, Layer]
    assert [type(i) for i in lit[2].items] == [FillPath, FillPath, FillPath, FillUncovered, StrokePath]


def test_a_body_without_a_fill_shows_its_colour_when_flat():
    doc = document(disc(1, 50, 50, 20, Body(colour=SEA)))
    assert only(items_of(doc, flat=True), FillPath).paint == Solid(SEA)


def test_ingredients_that_are_off_draw_nothing():
    recipe = [solid("#2b8577"), Body(), Sliver(), CastShadow(), OuterGlow(SEA), Blur(3), Line(Solid(SEA), 2.0)]
    off = [msgspec.structs.replace(i, on=False) for i in recipe]
    assert items_of(document(disc(1, 50, 50, 20, *off, lift=5.0))) == []
    assert items_of(document(disc(1, 50, 50, 20, visible=False))) == []
    assert items_of(document(Group(2, "g", (disc(1, 50, 50, 20),), visible=False))) == []


def test_held_things_lie_over_fills_and_under_slivers():
    held = disc(2, 60, 60, 10, solid("#c8402a"))
    items = items_of(document(disc(1, 50, 50, 30, solid("#2b8577"), Sliver(), children=(held,))))
    assert [type(i) for i in items] == [FillPath, Layer, FillUncovered]
    assert items[1].at_rest
    assert items[1].clip is not None


def test_groups_are_isolated_only_when_they_must_be():
    inner = (disc(1, 50, 50, 20, Fill(Solid(SEA), 1.0, "multiply")), disc(2, 60, 60, 20))
    plain = build(document(Group(3, "g", inner)))
    assert len(plain.chunks) == 2
    faded = items_of(document(Group(3, "g", inner, opacity=0.5)))
    assert only(faded, Layer).opacity == 0.5


def test_multiply_inside_a_plain_group_reaches_what_lies_beneath():
    over = disc(2, 100, 100, 60, Fill(Solid(Colour(0.5, 1, 1)), 1.0, "multiply"))
    for node in (
        over,
        Group(3, "g", (over,)),
        disc(4, 100, 100, 90, Fill(Solid(Colour(1, 1, 1, 0))), children=(over,)),
    ):
        doc = document(disc(1, 100, 100, 80, solid("#808080")), node)
        assert render_float(build(doc))[100, 100, 0] == pytest.approx(128 / 255 / 2, abs=2e-3)


def test_shadow_colour_comes_from_the_front_most_thing_beneath():
    caster = disc(3, 100, 100, 10, solid("#ffffff"), CastShadow(), lift=4.0)
    back, front = disc(1, 100, 100, 80, solid("#c8402a")), disc(2, 100, 100, 50)

    def tint(*nodes):
        return only(items_of(document(*nodes, caster, ground=BONE)), Soft).colour

    assert tint(back, front) == shadow_factor(SEA, 1.0)
    assert tint(front, back) == shadow_factor(colour("#c8402a"), 1.0)
    assert tint() == shadow_factor(BONE, 1.0)
    beside = disc(2, 30, 30, 20)
    assert tint(beside) == shadow_factor(BONE, 1.0)
    own = disc(3, 100, 100, 10, solid("#ffffff"), CastShadow(colour=SEA), lift=4.0)
    assert only(items_of(document(own)), Soft).colour == SEA


def test_a_shadow_held_to_two_receivers_falls_on_each_once():
    """Where the two overlap it is the foremost's, in the shade of its own colour; elsewhere that of the other."""
    left, right = disc(1, 70, 90, 40, solid("#c98f35")), disc(2, 110, 90, 40, solid("#2b8577"))

    def shown(*held: int) -> np.ndarray:
        shadow = CastShadow(1.0, receivers=held, softness=0.0, length=30.0)
        return render_float(build(document(left, right, disc(3, 90, 90, 30, solid("#ffffff"), shadow), lamp=Lamp(0))))

    on_left, on_right = shown(1), shown(2)
    y, x = np.mgrid[: on_left.shape[0], : on_left.shape[1]] + 0.5
    # clips of round and of other outlines are smoothed in different ways
    off_edge = np.minimum(np.abs(np.hypot(x - 110, y - 90) - 40), np.abs(np.hypot(x - 70, y - 90) - 40)) > 1
    wanted = np.where((np.hypot(x - 110, y - 90) < 40)[..., None], on_right, on_left)
    assert np.abs(on_left - on_right).max() > 0.3
    for both in (shown(1, 2), shown(2, 1)):
        assert np.abs(both - wanted)[off_edge].max() < 1e-3


def test_held_shadow_never_leaves_its_receiver():
    receiver = disc(1, 90, 90, 40)
    caster = disc(2, 125, 90, 20, solid("#ffffff"), CastShadow(receivers=(1,), softness=0.0), lift=10.0)
    lamp = Lamp(270, 45)
    with_shadow = render_float(build(document(receiver, caster, lamp=lamp)))
    without = render_float(build(document(receiver, disc(2, 125, 90, 20, solid("#ffffff")), lamp=lamp)))
    y, x = np.mgrid[0:200, 0:200]
    outside = np.hypot(x - 89.5, y - 89.5) > 42
    assert np.abs(with_shadow - without)[outside].max() < 2e-3
    free = document(receiver, disc(2, 125, 90, 20, solid("#ffffff"), CastShadow(softness=0.0), lift=10.0), lamp=lamp)
    assert np.abs(render_float(build(free)) - without)[outside].max() > 0.2


def test_all_shadows_agree_with_one_lamp():
    lamp = Lamp(300, 35, size=0.4)
    nodes = [disc(i, 40.0 * i, 60, 12, solid("#2b8577"), CastShadow(), lift=3.0 * i) for i in (1, 2, 3, 4)]
    softs = [i for i in items_of(document(*nodes, lamp=lamp)) if isinstance(i, Soft)]
    for k, soft in enumerate(softs, start=1):
        assert np.allclose(soft.offset, np.array(softs[0].offset) * k)
        assert soft.sigma == pytest.approx(softs[0].sigma * k)


def soft_items_of(doc, node_id):
    return tuple(item for _, item in around_all(doc)[node_id].soft)


def test_group_shadow_is_one_silhouette():
    group = Group(3, "g", (disc(1, 80, 80, 30), disc(2, 100, 80, 30)), (CastShadow(0.5, softness=0.0),), lift=20.0)
    shadow = soft_items_of(document(group), 3)[0]
    alpha = render_float(single(shadow, 200))[..., 3]
    # where both discs overlap their shadows do not add up
    assert alpha.max() == pytest.approx(0.5, abs=1e-3)
    assert len(soft_items_of(document(group), 3)) == 1
    assert soft_items_of(document(group), 1) == ()


def test_squashed_shadow_keeps_its_foot():
    shadow = CastShadow(softness=0.0, squash=0.25)
    soft = only(items_of(document(disc(1, 100, 100, 40, solid("#2b8577"), shadow))), Soft)
    box = item_box(soft)
    assert box[3] == pytest.approx(140)
    assert box[3] - box[1] == pytest.approx(20)


@pytest.mark.parametrize("kind", ["ball", "tube", "dish"])
def test_turning_everything_with_the_lamp_turns_the_picture(kind):
    recipe = (
        solid("#c98f35"),
        Body(kind, "brass"),
        Sliver(depth=6.0),
        Sliver("light", "inset", 3.0, blend="screen"),
        CastShadow(),
    )
    doc = document(disc(1, 90, 110, 40, *recipe, lift=8.0), lamp=Lamp(40, 45))
    turned = objects.transform(doc, [1], rotation(90, (100, 100)))
    turned = msgspec.structs.replace(turned, lamp=Lamp(130, 45))
    a, b = render_float(build(doc)), render_float(build(turned))
    error = np.abs(np.rot90(a, -1) - b).max(axis=-1)
    # only edges, which are smoothed by rows
    assert (error > 4 / 255).mean() < 0.02


def test_twice_the_size_is_twice_the_picture():
    recipe = (solid("#2b8577"), Body(), Sliver(depth=6.0, feather=2.0), OuterGlow(colour("#c8402a"), 5.0), Blur(1.5))
    doc = document(disc(1, 50, 50, 25, *recipe))
    doubled = objects.transform(doc, [1], scaling(2, 2))
    a = render_float(build(doc), 2.0, (0, 0, 100, 100))
    b = render_float(build(doubled), 1.0, (0, 0, 200, 200))
    assert np.abs(a - b).max() < 2 / 255


def test_boxes_hold_what_is_painted():
    doc = lit_trio()
    for chunk in build(msgspec.structs.replace(doc, sheet=msgspec.structs.replace(doc.sheet, ground=None))).chunks:
        alone = build(document(next(n for n in doc.root.children if n.id == chunk.node), ground=None, lamp=doc.lamp))
        alpha = render_float(alone, 1.0, (-60, -60, 260, 260))[..., 3]
        ys, xs = np.nonzero(alpha > 1.5 / 255)
        l, t, r, b = chunk.box
        assert l - 1 <= xs.min() - 60
        assert xs.max() - 60 <= r + 1
        assert t - 1 <= ys.min() - 60
        assert ys.max() - 60 <= b + 1


def test_memo_rebuilds_only_what_a_change_reaches():
    doc, memo = lit_trio(), Memo()
    first = build(doc, memo=memo)
    assert all(a is b for a, b in zip(first.chunks, build(doc, memo=memo).chunks, strict=True))
    lamp = msgspec.structs.replace(doc, lamp=Lamp(10, 50))
    assert not any(a is b for a, b in zip(first.chunks, build(lamp, memo=memo).chunks, strict=True))
    held = objects.transform(doc, [4], translation(2, 0))
    build(doc, memo=memo)
    chunks = build(held, memo=memo).chunks
    assert [c.node for c in chunks] == [c.node for c in first.chunks]


def test_remembered_shadow_colours_follow_what_lies_beneath():
    caster = disc(9, 100, 100, 10, solid("#ffffff"), CastShadow(), lift=4.0)
    doc, memo = document(disc(1, 100, 100, 80), disc(2, 30, 30, 20), caster), Memo()
    build(doc, memo=memo)
    steps = [
        lambda d: objects.transform(d, [2], translation(70, 70)),
        lambda d: objects.set_fields(d, [2], recipe=(solid("#c8402a"),)),
        lambda d: objects.restack(d, [2], -1),
        lambda d: objects.delete(d, [1]),
        lambda d: objects.set_fields(d, [2], visible=False),
        lambda d: msgspec.structs.replace(d, sheet=msgspec.structs.replace(d.sheet, ground=SEA)),
    ]
    tints = set()
    for step in steps:
        doc = step(doc)
        remembered, fresh = build(doc, memo=memo), build(doc)
        tint = [i.colour for i in remembered.items if isinstance(i, Soft)]
        assert tint == [i.colour for i in fresh.items if isinstance(i, Soft)]
        tints.add(tint[0])
    assert len(tints) >= 3


def test_base_colour_is_what_the_eye_sees():
    assert base_colour(disc(1, 0, 0, 5, solid("#c8402a"), solid("#2b8577"))) == SEA
    assert base_colour(disc(1, 0, 0, 5, solid("#c8402a"), Body(colour=BONE))) == BONE
    ramp = Fill(linear((0, 0), (9, 0), (0, "#000000"), (0.5, "#2b8577"), (1, "#ffffff")))
    assert base_colour(disc(1, 0, 0, 5, ramp)) == SEA
    assert isinstance(base_colour(Group(1, "g")), Colour)


def test_validation_finds_what_types_cannot():
    good = lit_trio()
    validate(good)
    deep = disc(1, 0, 0, 1)
    for i in range(2, 130):
        deep = Group(i, "g", (deep,))
    replace = msgspec.structs.replace
    cases = {
        "sheet": replace(good, sheet=replace(good.sheet, width=0.0)),
        "lamp": replace(good, lamp=Lamp(float("nan"))),
        "share the id": replace(good, root=Group(0, "pile", (disc(1, 0, 0, 1), disc(1, 0, 0, 1)))),
        "next free id": replace(good, next_id=2),
        "deeper than": replace(good, root=Group(0, "pile", (deep,)), next_id=999),
        "disc 1.*not a number": replace(good, root=Group(0, "pile", (disc(1, float("inf"), 0, 1),))),
        "disc 1.*out of range": replace(good, root=Group(0, "pile", (disc(1, 2e9, 0, 1),))),
    }
    for message, doc in cases.items():
        with pytest.raises(DocumentError, match=message):
            validate(doc)


def test_renumbering_gives_new_ids_throughout():
    dish = lit_trio().root.children[2]
    copy, following = renumbered(dish, 50)
    assert [n.id for n in walk(copy)] == [50, 51]
    assert following == 52
    assert isinstance(copy, Shape)


def test_occlusion_is_the_sky_that_a_straight_edge_takes_away():
    """Beside a half-plane at height z the missing share is (1 - d / √(d² + z²)) / 2. Within 2 z the 33 colours of the ramp
    and 8 bits of the blurred silhouette leave less than 0.015; the blur ends at 3 z, where 0.026 is still missing."""
    z = 20.0
    sheet = Shape(
        1,
        "sheet",
        RectangleForm(-400, -400, 500, 1000),
        (solid("#ffffff"), Occlusion(opacity=1.0, colour=colour("#000000"))),
        lift=z,
    )
    pixels = shown(document(sheet, side=200, ground=colour("#ffffff")))
    missing = 1 - pixels[100, :, 0] / 255
    d = np.arange(102, 190) + 0.5 - 100
    expected = (1 - d / np.hypot(d, z)) / 2
    assert np.abs(missing[102:138] - expected[:36]).max() < 0.015 and np.abs(missing[102:190] - expected).max() < 0.027
    flat = shown(document(replace(sheet, lift=0.0), side=200, ground=colour("#ffffff")))
    assert flat[100, 102:, 0].min() == 255, "what lies flat hides no sky"
