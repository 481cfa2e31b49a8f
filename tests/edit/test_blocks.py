"""Blocks: where their walls lie and which way they are lit, own colours, edges, shadows, and what freezing makes."""

from __future__ import annotations

import math

import msgspec
import numpy as np
import pytest

from scenes import document, off, shown, solid
from volumen.compose.blocks import block_faces
from volumen.compose.light import light_of
from volumen.edit import freeze
from volumen.edit.planes import plane_of
from volumen.geometry.affine import IDENTITY, multiply, rotation, scaling
from volumen.geometry.engine import contains
from volumen.model.ingredients import Block, CastShadow
from volumen.model.nodes import EllipseForm, Group, RectangleForm, Shape, TextForm
from volumen.model.tree import walk
from volumen.outline.outlines import outline
from volumen.outline.silhouettes import silhouette_path
from volumen.shading.paint import colour

replace = msgspec.structs.replace
RED, BLUE, GOLD, INK = (colour(c) for c in ("#c8402a", "#345a8a", "#e2a33b", "#20242a"))


def brick(i, transform=IDENTITY, form=None):
    return Shape(1, "brick", form or RectangleForm(40, 40, 40, 20), (solid("#c9b48a"), i), transform=transform)


def pixel(doc, x, y):
    return shown(doc)[int(y), int(x)].astype(int)


def faces(doc):
    (node,) = doc.root.children
    return block_faces(node, node.transform, light_of(doc), outline(node))


@pytest.mark.parametrize(
    ("angle", "seen"),
    [(135.0, ("right", "down")), (225.0, ("left", "down")), (45.0, ("up", "right")), (180.0, ("down",))],
)
def test_walls_are_seen_on_the_sides_that_the_depth_goes_to(angle, seen):
    doc = document(brick(Block(20.0, angle)))
    assert sorted(f.words for f in faces(doc)) == sorted(f"facing {s}" for s in seen)


def test_the_walls_that_face_the_lamp_are_lighter_and_follow_it():
    doc = document(brick(Block(20.0, 135.0)))
    tones = {}
    for bearing in (90.0, 180.0):  # from the right, from below
        lit = replace(doc, lamp=replace(doc.lamp, bearing=bearing, height=30.0))
        tones[bearing] = {f.words: sum(f.item.paint.colour.rgb) for f in faces(lit)}
    assert tones[90.0]["facing right"] > tones[90.0]["facing down"] + 0.3
    assert tones[180.0]["facing down"] > tones[180.0]["facing right"] + 0.3
    away = replace(doc.root.children[0], recipe=(solid("#c9b48a"), Block(20.0, None)))
    lit = replace(doc, root=replace(doc.root, children=(away,)), lamp=replace(doc.lamp, bearing=0.0))
    assert [f.words for f in faces(lit)] == ["facing down"], "away from a lamp above"


def test_own_colours_go_by_the_way_walls_face_where_they_stand():
    i = Block(20.0, 135.0, above=GOLD, right=RED, below=BLUE, left=INK)
    found = {f.words: f.item.paint for f in faces(document(brick(i)))}
    assert {w: p.colour.rgb for w, p in found.items()} == {
        "facing right": pytest.approx(RED.rgb), "facing down": pytest.approx(BLUE.rgb)
    }  # fmt: skip
    turned = brick(i, rotation(90, (60, 50)))
    found = {f.words: f.item.paint.colour.rgb for f in faces(document(turned))}
    assert found["facing right"] == pytest.approx(RED.rgb) and found["facing down"] == pytest.approx(BLUE.rgb)
    mirrored = brick(i, multiply(scaling(-1, 1, (60, 50)), IDENTITY))
    assert {f.words for f in faces(document(mirrored))} == {"facing right", "facing down"}
    (round_,) = faces(document(brick(Block(20.0, 180.0, below=BLUE), form=EllipseForm(40, 40, 40, 20))))
    middle = round_.item.paint.stops[len(round_.item.paint.stops) // 2]
    assert middle.colour.rgb == pytest.approx(BLUE.rgb, abs=0.1)


def test_the_depth_is_what_it_is_on_the_sheet_in_squashed_and_turned_places():
    for transform in (scaling(2.0, 0.5, (60, 50)), multiply(rotation(30, (60, 50)), scaling(1.5, 0.8, (60, 50)))):
        node = brick(Block(20.0, 135.0), transform)
        size = abs(transform[0] * transform[3] - transform[1] * transform[2]) ** 0.5
        front = outline(node).transformed(transform).bounds()
        whole = silhouette_path(node, transform).bounds()
        assert np.subtract(whole, front)[2:] == pytest.approx((20 * size / 2**0.5, 20 * size / 2**0.5), abs=0.01)


def test_no_ground_shows_between_faces_and_the_front():
    doc = document(brick(Block(30.0, 150.0), form=EllipseForm(30, 30, 50, 50)))
    dark = replace(doc, sheet=replace(doc.sheet, ground=colour("#000000")))
    light = replace(doc, sheet=replace(doc.sheet, ground=colour("#ffffff")))
    inner = silhouette_path(doc.root.children[0], IDENTITY)
    a, b = shown(dark), shown(light)
    inside = [
        (x, y)
        for x in range(120)
        for y in range(120)
        if all(contains(inner, x + 0.5 + dx, y + 0.5 + dy) for dx in (-1.5, 1.5) for dy in (-1.5, 1.5))
    ]
    assert len(inside) > 1500
    assert max(abs(a[y, x].astype(int) - b[y, x]).max() for x, y in inside) <= 1, "a hairline would show the ground"


def test_edges_have_one_weight_and_the_hidden_ones_are_left_out():
    bare, edged = document(brick(Block(20.0, 135.0))), document(brick(Block(20.0, 135.0, edge=2.0, edge_colour=INK)))
    changed = off(bare, edged) > 20
    assert changed[40, 60] and changed[60, 60] and changed[50, 80], "all round the front"
    assert changed[54, 94] and changed[74, 74], "at the back where it shows"
    assert not changed[44:56, 46:76].any(), "no edge of the back through the front"


def test_the_shadow_of_a_block_is_that_of_all_of_it():
    thick = Shape(1, "a", RectangleForm(30, 30, 30, 20), (solid("#c9b48a"), CastShadow(), Block(30.0, 90.0)), lift=4.0)
    flat = replace(thick, recipe=thick.recipe[:2])
    x = 30 + 30 + 30 - 4
    ground = document(replace(flat, recipe=flat.recipe[:1]))
    dark = [int(shown(d)[56:62, x - 2 : x + 2, :3].sum()) for d in (document(thick), document(flat), ground)]
    assert dark[0] < dark[1] == dark[2]


def test_frozen_it_is_a_group_of_named_shapes_with_the_same_picture():
    word = Shape(
        1,
        "fog",
        TextForm("Fg", size=60),
        (solid("#f0ae45"), Block(18.0, 135.0, edge=1.0)),
        transform=(1, 0, 0, 1, 20, 70),
    )
    held = Shape(3, "in it", EllipseForm(50, 20, 20, 20), (solid("#c8402a"),))
    for node in (word, Group(2, "pair", (held, replace(word, recipe=word.recipe[:1])), (Block(12.0, 200.0),))):
        doc = document(node)
        frozen = freeze.freeze(doc, [node.id])
        assert "faces" in frozen.told
        assert off(doc, frozen.document).max() <= 4, "edges of shapes drawn one by one"
        names = {n.name for n in walk(frozen.document.root)}
        assert any("facing down" in n for n in names)
        assert not any(isinstance(i, Block) for n in walk(frozen.document.root) for i in n.recipe)


def test_text_stays_text_and_a_letter_replaced_keeps_its_depth():
    word = Shape(
        1, "fog", TextForm("FOG", size=40), (solid("#f0ae45"), Block(12.0, 135.0)), transform=(1, 0, 0, 1, 10, 60)
    )
    other = replace(word, form=replace(word.form, text="FOL"))
    a, b = document(word), document(other)
    # What holds the seams is cleaned in the box of all letters: single pixels of edges are off by up to nine levels.
    assert (off(a, b)[:, :40] > 2).sum() <= 5 < (off(a, b) > 99).sum(), "the letters before it stay"
    assert len(block_faces(other, other.transform, light_of(b), outline(other))) > 5


@pytest.mark.parametrize(("left", "right"), [(30.0, 30.0), (7.2, 41.4), (20.0, 55.0)])
def test_planes_are_those_of_a_cube_seen_along_a_direction(left, right):
    """The projected edges are those of a turned cube: as rows of a 2 x 3 matrix they are orthogonal and equally long."""
    (ax, ay, _, rise), _ = plane_of("left", left, right)
    (bx, by, _, _), _ = plane_of("right", left, right)
    edges = np.array([[ax, bx, 0.0], [ay, by, rise]])
    assert edges[0] @ edges[1] == pytest.approx(0, abs=1e-12)
    assert edges[0] @ edges[0] == pytest.approx(edges[1] @ edges[1])
    upper, straight_down = plane_of("upper", left, right)
    assert upper == pytest.approx((ax, ay, -bx, -by)) and straight_down == 180.0
    assert math.degrees(math.atan2(ay, ax)) == pytest.approx(left) and math.degrees(
        math.atan2(-by, bx)
    ) == pytest.approx(right)
    for wrong in ((0.0, right), (left, 90.0 - left), (left, -1.0)):
        with pytest.raises(ValueError, match="no cube"):
            plane_of("left", *wrong)


def test_a_bevelled_front_edge_is_lit_and_frozen_as_it_is_shown():
    brick = Shape(1, "brick", RectangleForm(60, 60, 100, 80), (solid("#808080"), Block(30, angle=135.0, bevel=14.0)))
    doc = document(brick, side=240)
    rgb = shown(doc)[..., :3]
    lit, shade, top = rgb[100, 66].mean(), rgb[100, 154].mean(), rgb[100, 110].mean()
    assert lit > top > shade, "the lamp stands at the upper left"
    assert np.abs(shown(freeze.freeze(doc, [1]).document)[..., :3] - rgb).max() <= 4 / 255


@pytest.mark.parametrize(
    "block",
    [
        *(Block(26, angle=a) for a in (135.0, 20.0, 250.0)),
        Block(26, angle=90.0, own=((1, 180.0), (2, 30.0))),
        Block(0, point=(120.0, 220.0), share=0.35),
        Block(0, point=(20.0, 100.0), share=0.2),
    ],
)
def test_a_frozen_word_is_one_group_a_letter_and_looks_the_same(block):
    word = Shape(1, "word", TextForm("KÖLN", "Bebas Neue", "Regular", 90, 30, 150, 0.02), (solid("#c98f35"), block))
    doc = document(word, side=240)
    made = freeze.freeze(doc, [1])
    (whole,) = made.document.root.children
    assert sorted(g.name for g in whole.children) == sorted("KÖLN") and whole.id == 1
    for letter in whole.children:
        *faces, front = letter.children
        assert front.name.endswith("front") and faces and all("facing" in f.name for f in faces)
        l, _, r, _ = outline(front).bounds()
        for face in faces:
            box = outline(face).bounds()
            assert box[0] > l - 34 and box[2] < r + 34, "each face stands on its own letter"
    off = np.abs(shown(made.document).astype(int) - shown(doc)).max(axis=2)
    assert (off > 4).mean() < 6e-4, "edges of different letters meet in another order along a line of 30 pixels"
