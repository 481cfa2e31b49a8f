"""What light does for the object at hand: bodies along a shape, colours that show, pairs, chosen corners, quick slivers."""

import math

import msgspec
import numpy as np
import pytest

from scenes import disc, document
from volumen.compose.scene import build
from volumen.edit import adding as lit
from volumen.edit import looks
from volumen.edit.meshes import make_mesh
from volumen.edit.placing import by_size
from volumen.geometry.affine import IDENTITY, rotation
from volumen.geometry.path import Path
from volumen.geometry.primitives import ellipse, star
from volumen.model.ingredients import (
    Block,
    Blur,
    Body,
    CastShadow,
    GroundGlow,
    InnerGlow,
    OuterGlow,
    Relief,
    Rim,
    Sliver,
)
from volumen.model.lengths import LENGTHS, scaled_recipe
from volumen.model.make import solid
from volumen.model.nodes import RectangleForm, Shape
from volumen.render.draft.state import DraftState
from volumen.render.raster import paint_area, paint_draft
from volumen.shading.bodies import body_paints, fitting_turn, look_of
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import material
from volumen.shading.mesh import MeshError
from volumen.shading.mesh_paints import from_paint
from volumen.shading.paint import Conic, colour
from volumen.shading.paint_pixels import colours_at

replace = msgspec.structs.replace


@pytest.mark.parametrize("angle", [-75, -30, 0, 12, 44, 80])
def test_bodies_are_turned_along_the_longest_direction(angle):
    long = ellipse(50, 80, 90, 25).transformed(rotation(angle, (50, 80)))
    found = fitting_turn("ball", long)
    assert (found - angle + 45) % 90 - 45 == pytest.approx(0, abs=0.2)
    # A tube counts from the longer side of its box.
    box = long.bounds()
    lengthwise = 0 if box[2] - box[0] >= box[3] - box[1] else 90
    off = fitting_turn("tube", long) + lengthwise - angle
    assert (off + 90) % 180 - 90 == pytest.approx(0, abs=0.2)
    assert fitting_turn("ball", star(0, 0, 50, 50, 5, 0.4)) == 0 == fitting_turn("cone", Path())


@pytest.mark.parametrize("kind", ["ball", "dish", "drop", "cone"])
def test_a_fitted_body_is_the_upright_one_turned_under_a_turned_lamp(kind):
    upright, turn = ellipse(0, 0, 90, 30), 33.0
    tilted = upright.transformed(rotation(turn))
    look = look_of(colour("#2b8577"), material("enamel"), 1.0, 1.0, 0.4)
    plain = body_paints(kind, upright, look, Lights(Lamp(300, 40)), IDENTITY)[0].paint
    fitted = body_paints(kind, tilted, look, Lights(Lamp(300 + turn, 40)), IDENTITY, fitting_turn(kind, tilted))[
        0
    ].paint
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    points = np.random.default_rng(1).uniform((-60, -18), (60, 18), (200, 2))
    turned = points @ np.array([[c, s], [-s, c]])
    if isinstance(plain, Conic):  # its tones along the rim turn with it
        assert fitted.turn == pytest.approx(turn) and fitted.stops[0].colour.rgb == pytest.approx(
            plain.stops[0].colour.rgb, abs=0.01
        )
    one, two = colours_at(plain, points[None], upright)[0], colours_at(fitted, turned[None], tilted)[0]
    assert np.abs(one - two).max() < 0.02, "two levels of the fit's own rounding"


@pytest.mark.parametrize("ground", ["#ffffff", "#f0ae45", "#8fd8ff", "#0a2b33", "#808080", "#c8402a"])
@pytest.mark.parametrize(
    "effect", [OuterGlow(colour("#f0ae45")), InnerGlow(colour("#ffe9b8")), GroundGlow(colour("#f0ae45")), Rim()]
)
def test_default_colours_show_on_what_they_lie_on(ground, effect):
    doc = document(disc(1, 100, 100, 40, solid(ground)), ground=colour(ground))
    given = lit.add_to_see(doc, [1], effect).root.children[0].recipe[-1]
    blend = getattr(given, "blend", "normal")
    assert type(given) is type(effect) and lit.difference(given.colour, blend, colour(ground)) >= lit.PLAIN_TO_SEE
    if lit.difference(effect.colour, getattr(effect, "blend", "normal"), colour(ground)) >= lit.PLAIN_TO_SEE:
        assert given == by_size(doc, doc.root.children[0], effect), "a default that shows stays"


@pytest.mark.parametrize("side", [20, 600])
@pytest.mark.parametrize(
    "fresh", [Sliver(), CastShadow(), Relief(), Block(30.0), OuterGlow(colour("#f0ae45")), Blur(4)]
)
def test_fresh_light_fits_the_object(side, fresh):
    """An icon of 20 units and an emblem of 600 look alike; what a hand types then stays."""
    looks = []
    for size in (100, side):
        doc = document(disc(1, size, size, size / 2, solid("#2b8577")), side=2.0 * size)
        made = lit.add_to_see(doc, [1], fresh).root.children[0]
        looks.append((made.lift / size, scaled_recipe(made.recipe, 100 / size)))
    (lift, recipe), (other_lift, other) = looks
    assert other_lift == pytest.approx(lift, rel=0.02)
    for field in LENGTHS.get(type(fresh), ()):
        a, b = getattr(recipe[-1], field), getattr(other[-1], field)
        assert (a is None and b is None) or a == pytest.approx(b, rel=0.06), "but for rounding to two digits"


def test_pairs_lie_on_both_sides_and_are_scaled_to_their_object():
    doc = document(disc(1, 60, 60, 20, solid("#2b8577")), disc(2, 200, 200, 80, solid("#2b8577")))
    made = looks.add_pair(doc, [1, 2], looks.PAIRS["Engraved: a pair of slivers"])
    small, large = (n.recipe[-2:] for n in made.root.children)
    assert [s.kind for s in small] == ["shade", "light"] and all(s.sunk for s in small)
    assert large[0].depth == pytest.approx(4 * small[0].depth)


def test_corners_of_a_mesh_can_be_chosen():
    doc = document(Shape(1, "tile", RectangleForm(0, 0, 100, 60), (solid("#2b8577"),)))
    # Halfway along each side of the rectangle: a mesh that stands on its corner.
    mesh = from_paint(make_mesh(doc, 1, "four-sided", 3, 2, (0.5, 1.5, 2.5, 3.5)).root.children[0].recipe[0].paint)
    corners = {tuple(np.round(mesh.at[i, j], 3).tolist()) for i in (0, -1) for j in (0, -1)}
    assert corners == {(50, 0), (100, 30), (50, 60), (0, 30)}
    with pytest.raises(MeshError, match="3 are chosen"):
        make_mesh(doc, 1, "four-sided", 3, 2, (0.5, 1.5, 2.5))


@pytest.mark.parametrize("sliver", [
    Sliver(depth=9.0), Sliver("light", depth=6.0, blend="screen", opacity=0.6), Sliver(by="scale", depth=12.0),
    Sliver(by="turn", depth=10.0), Sliver(depth=8.0, feather=3.0), Sliver(by="inset", depth=5.0),
])  # fmt: skip
def test_slivers_painted_before_they_are_cut_look_like_those_that_are(sliver):
    doc = document(
        disc(1, 70, 70, 45, solid("#2b8577"), sliver),
        Shape(
            2, "bar", RectangleForm(110, 60, 70, 40, 9), (solid("#c98f35"), sliver), transform=rotation(20, (140, 80))
        ),
        ground=colour("#ffffff"),
    )
    exact, picture = np.zeros((200, 200, 4), np.float32), build(doc)
    quick = paint_draft(picture, IDENTITY, (0, 0, 200, 200), DraftState(9**8)).pixels()
    waiting = [i for i in picture.items if getattr(i, "path", Path()).pending]
    assert (len(waiting) == 2) == (sliver.by != "inset" and not sliver.feather), "a draft cuts nothing"
    paint_area(exact, picture, IDENTITY, (0, 0, 200, 200))
    assert not [i for i in picture.items if getattr(i, "path", Path()).pending]
    off = np.abs(quick - exact).max(axis=2)
    # Both smooth the same edges once more, so only single pixels of an outline may differ.
    assert off.mean() < 0.004 and (off > 0.25).mean() < 0.004
    assert np.abs(exact - render_without(doc)).max() > 0.1, "a sliver is there"


def render_without(doc):
    bare = [replace(n, recipe=tuple(i for i in n.recipe if not isinstance(i, Sliver))) for n in doc.root.children]
    pixels = np.zeros((200, 200, 4), np.float32)
    paint_area(pixels, build(document(*bare, ground=doc.sheet.ground)), IDENTITY, (0, 0, 200, 200))
    return pixels


def test_a_shadow_needs_no_colour_to_show():
    doc = document(disc(1, 60, 60, 20, solid("#2b8577")))
    assert lit.add_to_see(doc, [1], CastShadow()).root.children[0].recipe[-1] == CastShadow()
    assert lit.seen_on(doc, doc.root.children[0], Body()) == Body()
    assert lit.difference(colour("#ffffff"), "screen", colour("#ffffff")) == 0
