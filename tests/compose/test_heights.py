"""Lifts that add up: where sheets stand, where their shadows fall, held to closed forms and to a traced lamp."""

import math
import random

import numpy as np
import pytest
from msgspec.structs import replace

from scenes import disc, document
from volumen.compose.heights import heights_of
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.edit.freeze import freeze
from volumen.formats import native
from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.model.ingredients import Adjust, Blur, CastShadow, Occlusion
from volumen.model.make import solid
from volumen.model.nodes import Document, Group, RectangleForm, Shape
from volumen.model.tree import find, replace_nodes
from volumen.picture.instructions import Layer, Soft
from volumen.render.raster import render_bytes
from volumen.render.worker.sync import Receiver, Sender
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour

BLACK = Colour(0, 0, 0)
INK = CastShadow(0.6, colour=BLACK)


def plate(node_id, x, y, w, h, lift=0.0, *recipe, colour="#ffffff", **more):
    return Shape(node_id, f"plate {node_id}", RectangleForm(x, y, w, h), (solid(colour), *recipe), lift=lift, **more)


def pile(*nodes, lamp=None, side=256.0):
    return replace(document(*nodes, side=side, lamp=lamp or Lamp(270, 45, 1.0, 0.0)), lifts_add_up=True)


def moved(doc, node_id, x, y):
    node = find(doc, node_id)
    return replace(doc, root=replace_nodes(doc, {node_id: replace(node, transform=translation(x, y))}).root)


def heights(doc):
    return {s.node.id: s.height for s in heights_of(doc).standing if s is not None}


def softs(items):
    for i in items:
        yield from softs(i.items) if isinstance(i, Layer) else [i] if isinstance(i, Soft) else []


def falls(doc):
    """Depth of each shadow by (caster, receiver), the ground being 0."""
    found = heights_of(doc)
    ids = [0 if s is None else s.node.id for s in found.standing]
    pairs = zip(found.falls.casters, found.falls.receivers, found.falls.depths, strict=True)
    return {(ids[c], ids[r]): round(float(d), 1) for c, r, d in pairs}


STACKS = {
    "one on another": ((plate(1, 20, 20, 200, 200, 10), plate(2, 60, 60, 80, 80, 6)), {1: 10, 2: 16}),
    "across an edge": ((plate(1, 20, 20, 100, 200, 10), plate(2, 80, 60, 80, 80, 6)), {1: 10, 2: 16}),
    "a sliver of it": ((plate(1, 20, 20, 68, 200, 20), plate(2, 80, 60, 80, 80, 6)), {1: 20, 2: 6 + 20 * 0.1 / 0.15}),
    "beside": ((plate(1, 20, 20, 60, 60, 20), plate(2, 100, 60, 80, 80, 6)), {1: 20, 2: 6}),
    "no lift": ((plate(1, 20, 20, 200, 200, 10), plate(2, 60, 60, 80, 80), plate(3, 70, 70, 20, 20, 4)), {1: 10, 2: 10, 3: 14}),
    "held": ((plate(1, 20, 20, 200, 200, 10, children=(plate(2, 60, 60, 80, 80, 6),)),), {1: 10, 2: 16}),
    "group lifted": ((Group(1, "g", (plate(2, 20, 20, 80, 80, 3), plate(3, 120, 20, 80, 80)), lift=10.0),), {1: 10, 2: 13, 3: 10}),
    "group at rest": ((Group(1, "g", (plate(2, 20, 20, 80, 80, 3), plate(3, 40, 40, 20, 20, 2))),), {2: 3, 3: 5}),
    "one sheet": ((Group(1, "g", (plate(2, 20, 20, 80, 80), plate(3, 120, 20, 80, 80)), lift=5.0),), {1: 5}),
    "scaled": ((Group(1, "g", (plate(2, 10, 10, 80, 80, 3),), transform=scaling(2, 2), lift=5.0),), {1: 10, 2: 16}),
    "through a hole": ((plate(1, 0, 0, 256, 256, 9), Shape(2, "frame", RectangleForm(20, 20, 200, 200), (solid("#fff"),), lift=6.0, children=(plate(3, 40, 40, 50, 50, 1),))), {1: 9, 2: 15, 3: 16}),
    "blended": ((replace(plate(1, 20, 20, 200, 200, 0), blend="multiply"), plate(2, 60, 60, 80, 80, 6)), {2: 6}),
    "clear": ((replace(plate(1, 20, 20, 200, 200, 10, INK), opacity=0.2), plate(2, 60, 60, 80, 80, 6)), {1: 10, 2: 6}),
}  # fmt: skip


@pytest.mark.parametrize("name", STACKS)
def test_sheets_stand_on_what_carries_them(name):
    nodes, expected = STACKS[name]
    found = heights(pile(*nodes))
    assert found.keys() == expected.keys()
    for k, height in expected.items():
        assert found[k] == pytest.approx(height, abs=0.35), k  # a cell of the map on a side of 80 units


@pytest.mark.parametrize("bearing", range(0, 360, 45))
def test_a_shadow_crosses_an_edge_and_lies_farther_and_softer_on_the_next_sheet_down(bearing):
    lamp = Lamp(bearing, 40, 1.0, 0.3)
    doc = pile(plate(1, 60, 60, 130, 130, 10), plate(2, 40, 100, 170, 50, 6, INK), lamp=lamp)
    assert falls(doc) == {(2, 0): 16.0, (2, 1): 6.0}
    x, y = -math.sin(math.radians(bearing)), math.cos(math.radians(bearing))  # away from the lamp, y down
    ground, on_plate = (next(softs(c.items)) for c in build(doc).chunks if any(softs(c.items)))
    for soft, depth in ((ground, 16.0), (on_plate, 6.0)):
        far = depth / math.tan(math.radians(40))
        assert soft.offset == pytest.approx((x * far, y * far), abs=0.01)
        assert soft.sigma == pytest.approx(0.3 * depth, abs=0.01)
    assert ground.clip is None and on_plate.clip.path.hull() == pytest.approx((60, 60, 190, 190))


def test_shadows_are_seen_in_at_least_four_steps():
    steps = [plate(k, 40 + 10 * k, 0, 230 - 10 * k, 256, 5) for k in range(1, 5)]
    doc = pile(*steps, plate(9, 5, 100, 35, 56, 60, INK))
    red = render_bytes(build(doc))[128, :, 0]
    assert {d for (c, _), d in falls(doc).items() if c == 9} == {60.0, 55.0, 50.0, 45.0, 40.0}
    at = np.arange(256) + 0.5
    high = 5 * np.clip(
        np.floor((at - 40) / 10), 0, 4
    )  # of the step at each place; light comes from the left at 45 degrees
    dark = (at > 5 + 60 - high) & (at < 40 + 60 - high)
    shown = at > 40
    assert np.array_equal(red[shown] < 200, dark[shown])


@pytest.mark.parametrize("own", [{"length": 6.0}, {"softness": 3.0}, {"angle": 90.0}])
def test_numbers_of_its_own_are_those_at_the_depth_of_its_lift(own):
    doc = pile(
        plate(1, 40, 40, 150, 150, 10), plate(2, 20, 90, 190, 60, 5, replace(INK, **own)), lamp=Lamp(270, 45, 1, 0.2)
    )
    ground, near = (next(softs(c.items)) for c in build(doc).chunks if any(softs(c.items)))
    assert ground.sigma == pytest.approx(3 * near.sigma) and ground.offset == pytest.approx(
        [3 * v for v in near.offset]
    )
    assert near.offset[0] == pytest.approx({"length": 6.0, "angle": 5.0}.get(next(iter(own)), 5.0), abs=1e-6)
    assert near.sigma == pytest.approx(own.get("softness", 1.0))


def test_one_light_is_taken_away_once():
    """Where shadows of several sheets lie on one another no more is gone than what the strongest takes."""
    over = [plate(k, x, 60, w, 120, high, CastShadow(strong, softness=0.0), colour="#c8402a")
            for k, x, w, high, strong in ((2, 20, 40, 40, 0.6), (3, 0, 16, 70, 0.3))]  # fmt: skip
    red = render_bytes(build(pile(plate(1, 0, 0, 256, 256, colour="#f0ae45"), *over)))[128, :, 0].astype(int)
    alone = render_bytes(build(pile(plate(1, 0, 0, 256, 256, colour="#f0ae45"), over[0])))[128, :, 0]
    assert red[65] == alone[65] and abs(red[78] - alone[78]) <= 1 < 240 - alone[78]


def test_held_shadows_stay_held_and_chosen_receivers_stay_chosen():
    held = plate(3, 60, 60, 40, 40, 6, INK)
    doc = pile(plate(1, 20, 20, 60, 200, 3), plate(2, 40, 40, 90, 90, 5, children=(plate(4, 50, 50, 60, 60), held)))
    assert {r for c, r in falls(doc) if c == 3} == {2, 4}
    chosen = plate(3, 60, 60, 40, 40, 6, CastShadow(receivers=(1,)))
    doc = pile(plate(1, 20, 20, 200, 200), plate(2, 40, 40, 30, 90, 5), chosen)
    assert [c.node for c in build(doc).chunks if any(softs(c.items))] == [1]


def test_what_lies_on_the_ground_or_has_no_lift_is_drawn_as_before():
    flat = [(CastShadow(softness=4.0), lift) for lift in (0.0, 1e-320)]  # by which own numbers cannot be divided
    for i, lift in ((CastShadow(fall="ground"), 9.0), (CastShadow(squash=0.5), 9.0), *flat):
        doc = pile(plate(1, 60, 60, 80, 80, lift, i))
        before = render_bytes(build(replace(doc, lifts_add_up=False)))
        assert np.array_equal(render_bytes(build(doc)), before)


def test_on_the_bare_ground_nothing_changes():
    lamp = Lamp(300, 40, 0.8, 0.3)
    nodes = [disc(1, 60, 70, 30, solid("#2b8577"), CastShadow(), Occlusion(), lift=8.0),
             disc(2, 170, 70, 30, solid("#2b8577"), CastShadow(0.4, angle=80.0), lift=5.0)]  # fmt: skip
    doc = pile(*nodes, lamp=lamp)
    old = render_bytes(build(replace(doc, lifts_add_up=False))).astype(int)
    assert np.abs(render_bytes(build(doc)) - old).max() <= 1


def test_nothing_jumps_while_a_sheet_is_dragged_over_others():
    """A sheet 80 wide that is moved by s sweeps 80 s of its 5027 square units, of which 15 % carry it: what is 40 high
    raises it by no more than 4.3 s. Carried by the highest that it touches it would jump by 40, however small s is."""
    rng = random.Random(5)
    under = [
        disc(k, rng.uniform(60, 200), rng.uniform(60, 200), rng.uniform(25, 60), lift=rng.uniform(3, 9))
        for k in range(1, 9)
    ]
    doc = pile(*under, disc(9, 0, 0, 40, solid("#c8402a"), INK, lift=5.0))
    for step in (3, 1):
        before, most = None, 0.0
        for x in range(20, 240, step):
            now = falls(moved(doc, 9, float(x), 128.0))
            if before is not None:
                most = max(most, *(abs(now[k] - before[k]) for k in now.keys() & before.keys()))
            before = now
        assert most <= 4.3 * step + 0.3  # and a cell of the map
    assert max(heights(doc).values()) > 25


def traced(doc, lamp, samples=120):
    """The share of the lamp's light that is hidden at each pixel: an independent way, sample by sample."""
    found = heights_of(doc)
    sheets = [s for s in found.standing if s is not None]
    side = round(doc.sheet.width)
    masks = [
        render_bytes(build(document(replace(s.node, recipe=(solid("#000"),)), side=side)))[..., 0] < 128 for s in sheets
    ]
    top, height = np.full((side, side), -1), np.zeros((side, side))
    for k, (mask, s) in enumerate(zip(masks, sheets, strict=True)):
        top[mask], height[mask] = k, s.height
    rng = np.random.default_rng(1)
    hidden = np.zeros((side, side))
    rows, columns = np.mgrid[0:side, 0:side]
    far = 1 / math.tan(lamp.elevation)
    for dx, dy in rng.normal(0, lamp.size, (samples, 2)):
        dark = np.zeros((side, side), bool)
        for k, (mask, s) in enumerate(zip(masks, sheets, strict=True)):
            z = s.height - height
            x = np.round(columns - z * (lamp.away[0] * far + dx)).astype(int)
            y = np.round(rows - z * (lamp.away[1] * far + dy)).astype(int)
            there = (x >= 0) & (y >= 0) & (x < side) & (y < side)
            dark |= (k > top) & (z > 0) & there & mask[y.clip(0, side - 1), x.clip(0, side - 1)]
        hidden += dark
    return hidden / samples


def test_shadows_agree_with_a_traced_lamp():
    """Mean .03 and 95th .12 of the shadow's strength where there is any: a Gaussian for a lamp of samples, and shadows
    of sheets that hang together united as if they did not; without lift that adds up it is over three times that."""
    rng = random.Random(11)
    lamp = Lamp(318, 48, 1.0, 0.3)
    nodes = [
        disc(
            k,
            rng.uniform(60, 200),
            rng.uniform(60, 200),
            rng.uniform(25, 55),
            solid("#ffffff"),
            INK,
            lift=rng.uniform(4, 8),
        )
        for k in range(1, 9)
    ]
    doc = pile(*nodes, lamp=lamp)
    hidden = traced(doc, lamp)
    errors = []
    for d in (doc, replace(doc, lifts_add_up=False)):
        drawn = 1 - render_bytes(build(d))[..., 0] / 255
        error = np.abs(drawn - 0.6 * hidden)[(hidden > 0) | (drawn > 0.01)]
        errors.append((error.mean(), np.percentile(error, 95)))
    assert errors[0][0] <= 0.03 and errors[0][1] <= 0.12
    assert errors[1][0] > 3 * errors[0][0]


def random_pile(rng, count=14):
    nodes = []
    for k in range(1, count):
        recipe = (
            solid("#c98f35"),
            *((CastShadow(),) if rng.random() < 0.6 else ()),
            *((Blur(2.0),) if rng.random() < 0.1 else ()),
        )
        made = disc(
            k,
            rng.uniform(20, 230),
            rng.uniform(20, 230),
            rng.uniform(8, 60),
            *recipe,
            lift=rng.choice((0, 0, 3.0, 8.0)),
        )
        if rng.random() < 0.3 and nodes:
            made = replace(made, children=(nodes.pop(),))
        nodes.append(Group(100 + k, "g", (nodes.pop(), made)) if rng.random() < 0.2 and nodes else made)
    return nodes


@pytest.mark.parametrize("recipe", [(), (Blur(3.0),), (Blur(3.0, each=True),), (Adjust(hue=20.0),)])
def test_a_group_catches_its_shade_whatever_acts_on_it_or_on_each_of_it(recipe):
    pair = Group(
        1, "pair", (plate(2, 40, 40, 80, 170, colour="#c98f35"), plate(3, 120, 40, 80, 170, colour="#c98f35")), recipe
    )
    bare, under = (
        render_bytes(build(pile(pair, *more))).astype(int) for more in ((), (plate(4, 60, 90, 20, 60, 60, INK),))
    )
    assert bare[120, 130, 0] - under[120, 130, 0] > 80


@pytest.mark.parametrize("seed", range(6))
def test_heights_and_pictures_kept_over_edits_are_those_of_a_fresh_build(seed):
    rng = random.Random(seed)
    memo, nodes = Memo(), random_pile(rng)
    for _ in range(12):
        what, k = rng.choice(("move", "lift", "delete", "order", "thin")), rng.randrange(len(nodes))
        if what == "move":
            nodes[k] = replace(
                nodes[k],
                transform=multiply(translation(rng.uniform(-30, 30), rng.uniform(-30, 30)), nodes[k].transform),
            )
        elif what == "lift":
            nodes[k] = replace(nodes[k], lift=rng.choice((0.0, 2.0, 12.0)))
        elif what == "thin":
            nodes[k] = replace(nodes[k], opacity=1.3 - nodes[k].opacity)
        elif what == "delete" and len(nodes) > 4:
            nodes.pop(k)
        else:
            nodes.append(nodes.pop(k))
        doc = pile(*nodes, lamp=Lamp(rng.uniform(0, 360), 45, 1.0, 0.2))
        kept, fresh = memo.heights_of(doc), heights_of(doc)
        assert [s and s.height for s in kept.standing] == [s and s.height for s in fresh.standing]
        assert np.array_equal(kept.falls.depths, fresh.falls.depths)
        assert np.array_equal(render_bytes(build(doc, memo=memo)), render_bytes(build(doc)))


def test_the_switch_reaches_the_worker_and_what_was_built_before():
    doc = pile(plate(1, 40, 40, 150, 150, 10), plate(2, 90, 90, 60, 60, 6, CastShadow()))
    sender, receiver, memo = Sender(), Receiver(), Memo()
    for on in (False, True, False):
        now = replace(doc, lifts_add_up=on)
        there = receiver.apply(sender.changes(now))
        assert np.array_equal(render_bytes(build(there, memo=memo)), render_bytes(build(now)))


def test_older_files_keep_their_meaning(tmp_path):
    doc = pile(plate(1, 40, 40, 150, 150, 10))
    for on in (True, False):
        native.save(replace(doc, lifts_add_up=on), tmp_path / "a.volumen")
        assert native.load(tmp_path / "a.volumen").lifts_add_up is on
    assert not Document().lifts_add_up


@pytest.mark.parametrize("whole", [True, False])
def test_frozen_the_pile_looks_the_same(whole):
    """Of all, and of one sheet among others, whose shadow is then multiplied where it was united: 3 of 255 levels."""
    nodes = (plate(1, 30, 30, 190, 190, 8, CastShadow(), colour="#2b8577"), plate(2, 60, 60, 90, 90, 6, CastShadow(), colour="#c98f35"),
             plate(3, 110, 20, 60, 60, 5, CastShadow(), colour="#c8402a"), plate(4, 150, 100, 80, 60, 4, CastShadow(), Occlusion(), colour="#d9dbd3"))  # fmt: skip
    doc = pile(*nodes, lamp=Lamp(318, 45, 1, 0.3))
    frozen = freeze(doc, [1, 2, 3, 4] if whole else [2]).document
    difference = np.abs(render_bytes(build(doc)).astype(int) - render_bytes(build(frozen)))
    assert difference.mean() <= 0.2 and np.percentile(difference, 99.5) <= 3


@pytest.mark.parametrize("turn", [0, 30, 90, 200])
def test_artwork_and_lamp_turned_together(turn):
    nodes = [plate(1, 70, 70, 110, 110, 9, INK, colour="#2b8577"), plate(2, 100, 100, 50, 50, 6, INK, colour="#c98f35")]
    lamp = Lamp(300, 45, 1.0, 0.3)
    about = multiply(translation(128, 128), multiply(rotation(turn), translation(-128, -128)))
    whole = pile(Group(9, "all", tuple(nodes), transform=about), lamp=replace(lamp, bearing=(300 + turn) % 360))
    upright = heights(pile(*nodes, lamp=lamp))
    found = falls(whole)
    assert {k: v for k, v in heights(whole).items() if k in upright} == pytest.approx(upright, abs=0.1)
    assert found == {(1, 0): 9.0, (2, 0): 15.0, (2, 1): 6.0}


def test_what_a_blend_mode_does_to_the_shadows_in_a_group_is_seen_at_once_and_taken_back():
    """A group that is blended in is no sheet, and what is in it throws its shadows itself: so it is in a picture whose
    parts were kept from before, which lost the shadows, and had them twice after undoing."""
    leaves = tuple(replace(disc(k, 60 * k, 100, 20, solid("#2b8577"), CastShadow()), lift=9.0) for k in (1, 2))
    tray = replace(disc(4, 100, 100, 90, solid("#e9dcc0"), CastShadow()), lift=4.0, children=leaves)
    pair = Group(5, "outer", (Group(3, "pair", (tray,)),))
    memo = Memo()
    for blend in ("normal", "multiply", "normal"):
        doc = pile(replace(pair, blend=blend))
        assert np.array_equal(render_bytes(build(doc, memo=memo)), render_bytes(build(doc))), blend
