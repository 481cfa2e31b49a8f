"""Light ingredients against closed forms, under turned and doubled artwork, and what disagrees with the lamp."""

import math

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import erf

from agreement import by_pdfium, by_resvg
from scenes import disc, document
from volumen.compose.behind import cast_shadow
from volumen.compose.drawing import Behind
from volumen.compose.glows import glow_ramp
from volumen.compose.inside import lit_from
from volumen.compose.scene import build
from volumen.edit import lights
from volumen.edit.objects import transform
from volumen.formats.check import check
from volumen.geometry.affine import IDENTITY, rotation
from volumen.geometry.distance import distance_field
from volumen.geometry.ease import EVEN, eased
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import (
    Adjust,
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
    Rim,
    Seams,
    Sliver,
    Speckle,
)
from volumen.model.lengths import scaled_recipe
from volumen.model.make import circle, corner, linear, path_form, solid
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import find
from volumen.render.exact.soften import feathered, line_blur
from volumen.render.raster import render_float
from volumen.shading.bodies import body_paints, look_of
from volumen.shading.lamp import Ambient, Lamp, Lights
from volumen.shading.materials import MATERIALS, Material
from volumen.shading.mesh_make import four_sided
from volumen.shading.mesh_paints import to_paint
from volumen.shading.paint import Conic, LaidMesh, Linear, LitFrom, Radial, ReliefPaint, Stop, colour
from volumen.shading.plain_bodies import BodyKind
from volumen.shading.relief import relief_alpha

replace = msgspec.structs.replace
SEA = solid("#2b8577")
SIDE = 120
PLAIN = (1.0, 0.0, 0.0, 1.0)  # a grid of units


def disc_distances(radius, step=1.0):
    y, x = np.mgrid[-80:80:step, -80:80:step]
    return (radius - np.hypot(x, y)).astype(np.float32), x, y


# -- relief


def test_relief_of_a_cone_and_of_a_sphere_has_analytic_light():
    signed, x, y = disc_distances(60.0)
    r = np.maximum(np.hypot(x, y), 1e-9)
    lamp = LitFrom(-0.5, -0.6, math.sqrt(1 - 0.61))
    common = {"lights": (lamp,), "width": 60.0, "height": 1.0, "gloss": 0.0}
    cone = ReliefPaint("shade", **common, profile="flat")
    sphere = ReliefPaint("shade", **common, profile="round")
    inside = (r > 3) & (r < 58)
    for paint, flat in ((cone, np.full_like(r, 1 / math.sqrt(2))), (sphere, r / 60)):
        across = flat if paint is sphere else np.full_like(r, 1 / math.sqrt(2))
        up = np.sqrt(np.maximum(1 - across**2, 0))
        light = np.maximum((lamp.x * x + lamp.y * y) / r * across + lamp.z * up, 0)
        wanted = np.clip((lamp.z - light) / lamp.z, 0, 1)
        made = relief_alpha(paint, signed, PLAIN, 60.0)[..., 3]
        # the normal comes from differences of exact distances one pixel apart: within half a level of light
        assert np.abs(made - wanted)[inside].max() < 0.02


def test_distances_are_signed_and_exact():
    field = distance_field(ellipse(0, 0, 50, 50), 1.0, 20.0)
    points = np.stack(np.meshgrid(np.linspace(-60, 60, 41), np.linspace(-60, 60, 41)), axis=-1)
    found = field.sample(field.signed, points)
    true = 50 - np.hypot(points[..., 0], points[..., 1])
    # nearer than 2 the sign may change within a step of the grid; in the very middle all places are equally near
    far = (np.abs(true) > 2) & (true < 30)
    assert np.abs(found - true)[far].max() < 0.05


def test_sunk_relief_is_raised_relief_lit_from_the_other_side():
    signed, _, _ = disc_distances(60.0)
    up = ReliefPaint("shade", (LitFrom(-0.6, 0.0, 0.8),), width=12.0)
    down = ReliefPaint("shade", (LitFrom(0.6, 0.0, 0.8),), width=12.0, sunk=True)
    assert np.allclose(relief_alpha(up, signed, PLAIN, 12.0), relief_alpha(down, signed, PLAIN, 12.0), atol=1e-9)


@pytest.mark.parametrize("make", [
    lambda d: Rim(colour("#c8402a"), d, inside=True), lambda d: Rim(colour("#c8402a"), d),
    lambda d: InnerGlow(colour("#ffffff"), d, source="middle", blend="normal"), lambda d: Relief(width=d),
], ids=["inner rim", "rim", "glow from the middle", "relief"])  # fmt: skip
def test_lengths_on_a_shape_scaled_unevenly_are_scaled_by_the_mean(make):
    """A circle drawn out to an ellipse looks like that ellipse with lengths times the root of the area's growth."""
    drawn_out = Shape(1, "a", circle(0, 0, 16), (SEA, make(4.0)), transform=(3, 0, 0, 1, 60, 60))
    plain = Shape(1, "b", circle(60, 60, 48, 16), (SEA, make(4.0 * 3**0.5)))
    one, two = (render_float(build(document(s, side=SIDE))) for s in (drawn_out, plain))
    # edges that are not round are smoothed in steps of a sixteenth
    assert np.abs(one - two).max() < 0.07 and np.abs(one - two).mean() < 1e-3


# -- softening


def test_line_blur_of_an_edge_is_the_gaussian_integral_and_leaves_the_other_direction():
    image = np.zeros((120, 160, 4), np.float32)
    image[:, 80:] = 1
    made = line_blur(image, 9.0, 0.0)[60, 30:130, 3]
    x = np.arange(30, 130) + 0.5 - 80
    assert np.abs(made - 0.5 * (1 + erf(x / 9 / math.sqrt(2)))).max() < 2 / 255
    along = line_blur(image, 9.0, 90.0)
    assert np.abs(along[40:80] - image[40:80]).max() < 1e-4


@pytest.mark.parametrize("angle", [0, 20, 90, 140, -75])
@pytest.mark.parametrize("sigma", [9.0, 40.0])
def test_line_blur_of_an_edge_lying_anyhow(sigma, angle):
    """Across the line's direction an edge becomes the Gaussian integral; along it, it stays where it is."""
    y, x = np.mgrid[0:480, 0:480] - 239.5
    turn = math.radians(angle)
    along, across = x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)
    near = np.maximum(abs(along), abs(across)) < 100  # further out the picture's own end shows
    for edge, truth in ((along, 0.5 * (1 + erf(along / sigma / math.sqrt(2)))), (across, np.clip(across + 0.5, 0, 1))):
        image = np.repeat(np.clip(edge + 0.5, 0, 1).astype(np.float32)[..., None], 4, axis=2)
        error = np.abs(line_blur(image, sigma, angle)[..., 3] - truth)[near]
        assert error.mean() < 0.5 / 255  # half the step of 8 bits
        # where it is turned, two linear interpolations of half a pixel take a good quarter off the edge's last pixel
        assert error.max() < (2 if edge is along or angle % 90 == 0 else 72) / 255


def test_feathering_is_nothing_at_the_edge_and_all_inside():
    image = np.zeros((160, 160, 4), np.float32)
    image[:, 60:] = 1
    row = feathered(image, 8.0)[80, :, 3]
    x = np.arange(160) + 0.5 - 60
    wanted = np.clip(erf(x / 8 / math.sqrt(2)), 0, 1)  # 2 Φ - 1
    assert np.abs(row - wanted)[:130].max() < 3 / 255


def test_easing_is_monotone_and_even_at_rest():
    assert all(eased(t, EVEN) == t for t in (0.0, 0.3, 1.0))
    curve = [eased(t / 50, (0.6, 0.0, 0.4, 1.0)) for t in range(51)]
    assert curve == sorted(curve) and curve[10] < 0.1 and curve[25] == pytest.approx(0.5)


# -- invariances


def lit(*recipe, lamp=None, form=None, lift=8.0):
    shape = Shape(1, "s", form or RectangleForm(35, 40, 50, 34, 9), (SEA, *recipe), lift=lift)
    return document(shape, side=SIDE, lamp=lamp or Lamp(322, 41))


KINDS = {
    "relief": (Relief(width=9.0),),
    "sunk relief outside": (Relief("outside", "hollow", sunk=True, width=8.0),),
    "inner shadow": (InnerShadow(6.0),),
    "contact shadow": (ContactShadow(4.0),),
    "inner glow": (InnerGlow(colour("#ffe9b8"), 5.0),),
    "cast shadow": (CastShadow(),),
    "cushion": (Body("cushion", "enamel"),),
    "slab": (Body("slab", "brass", roundness=0.4),),
    "slivers": (Sliver(depth=5.0), Sliver("light", depth=3.0, blend="screen", sunk=True)),
}  # fmt: skip


@pytest.mark.parametrize("name", KINDS)
def test_turning_artwork_and_lamp_together_turns_the_picture(name):
    doc = lit(*KINDS[name])
    turned = transform(doc, [1], rotation(90, (SIDE / 2, SIDE / 2)))
    turned = replace(turned, lamp=replace(doc.lamp, bearing=doc.lamp.bearing + 90))
    one, two = render_float(build(doc)), render_float(build(turned))
    # single edge pixels are smoothed a little differently each way round by the paint library
    error = np.abs(np.rot90(one, -1) - two).max(axis=-1)
    assert error.mean() < 0.002 and np.quantile(error, 0.99) < 0.03
    still = render_float(build(replace(doc, lamp=turned.lamp)))
    if name != "inner glow":
        assert np.abs(still - one).max() > 0.05, "the lamp alone changes it"


@pytest.mark.parametrize("name", KINDS)
def test_twice_the_size_and_distances_is_twice_the_picture(name):
    small = lit(*KINDS[name])
    shape = small.root.children[0]
    big = Shape(1, "s", RectangleForm(70, 80, 100, 68, 18), scaled_recipe(shape.recipe, 2.0), lift=16.0)
    one = render_float(build(small), 2.0)
    two = render_float(build(document(big, side=2 * SIDE, lamp=small.lamp)))
    assert np.abs(one - two).mean() < 0.002 and np.abs(one - two).max() < 0.06


@settings(max_examples=12, deadline=None)
@given(st.permutations(["behind", "behind", "paint", "paint", "over", "over", "finish"]))
def test_order_counts_within_a_layer_of_the_recipe_and_nowhere_else(layers):
    """Shadows and glows lie behind, paints over them, slivers and relief over those, however the recipe mixes them."""
    kinds = {
        "behind": (CastShadow(), OuterGlow(colour("#c8402a"), 5.0, blend="normal")),
        "paint": (SEA, solid("#f0ae45", 0.4)),
        "over": (Sliver("shade", depth=8), Relief(width=6.0)),
        "finish": (Blur(1.5),),
    }
    left = {k: iter(v) for k, v in kinds.items()}
    mixed = tuple(next(left[k]) for k in layers)
    sorted_ = tuple(i for v in kinds.values() for i in v)

    def shown(*recipe):
        return render_float(build(document(disc(1, 60, 60, 34, *recipe, lift=9.0), side=SIDE)))

    assert np.array_equal(shown(*mixed), shown(*sorted_))
    turned = (*kinds["behind"], *kinds["paint"][::-1], *kinds["over"], *kinds["finish"])
    assert np.abs(shown(*turned) - shown(*sorted_)).max() > 0.1, "but of two paints the later one covers"


@pytest.mark.parametrize("bearing", [0, 77, 200, 322])
@pytest.mark.parametrize("height", [20, 45, 80])
def test_shadows_of_all_kinds_agree_with_the_lamp(bearing, height):
    lamp = Lamp(bearing, height, size=0.4)
    node = replace(disc(1, 60, 60, 20), lift=10.0)
    cast = cast_shadow(CastShadow(), Behind(node, IDENTITY, Lights(lamp), colour("#ffffff"), ()))[0]
    far = 10 / math.tan(math.radians(height))
    assert cast.offset == pytest.approx((lamp.away[0] * far, lamp.away[1] * far)) and cast.sigma == pytest.approx(4.0)
    ground = cast_shadow(
        CastShadow(fall="ground"), Behind(replace(node, lift=0.0), IDENTITY, Lights(lamp), colour("#ffffff"), ())
    )[0]
    a, b, c, d, e, f = ground.items[0].transform
    foot, top = (60 * a + 80 * c + e, 60 * b + 80 * d + f), (60 * a + 40 * c + e, 60 * b + 40 * d + f)
    assert foot == pytest.approx((60, 80)), "a standing thing keeps its foot"
    reach = 40 / math.tan(math.radians(height))
    assert top == pytest.approx((60 + lamp.away[0] * reach, 80 + lamp.away[1] * reach))
    inner = build(document(disc(1, 60, 60, 30, SEA, InnerShadow(10.0)), lamp=lamp)).items[-1]
    assert inner.offset == pytest.approx(cast.offset), "what is sunk is shaded from the same side, as far"


# -- bodies, materials and lamps


@pytest.mark.parametrize("kind", BodyKind.__args__)
def test_every_body_is_lighter_towards_the_lamp_or_away_if_hollow(kind):
    form = circle(60, 60, 40) if kind not in ("tube", "fold") else RectangleForm(20, 30, 80, 60)
    doc = document(Shape(1, "b", form, (SEA, Body(kind, "clay", bounce=0.0))), side=SIDE, lamp=Lamp(0, 40))
    made = render_float(build(doc))
    far = 12 if kind == "slab" else 0  # its top is flat
    top, bottom = made[38 - far : 44 - far, 56:64, :3].mean(), made[76 + far : 82 + far, 56:64, :3].mean()
    assert (top < bottom - 0.02) if kind in ("dish", "drop") else (top > bottom + 0.02)
    path = ellipse(60, 60, 40, 40)
    paint = body_paints(kind, path, look_of(colour("#2b8577"), MATERIALS["clay"], 1, 1, 0), doc.lights, IDENTITY)[
        0
    ].paint
    expected = {"cone": Conic, "cushion": LaidMesh, "slab": LaidMesh, "tube": Linear, "fold": Linear}
    assert isinstance(paint, expected.get(kind, Radial)), "a plain paint, not pixels"


@pytest.mark.parametrize("name", MATERIALS)
def test_materials_keep_their_light_side_and_hold_grain_as_paint(name):
    doc = document(disc(1, 60, 60, 44, SEA, Body("ball", name)), side=SIDE, lamp=Lamp(0, 45))
    made = render_float(build(doc))
    assert made[30:40, 54:66, :3].mean() > made[84:94, 54:66, :3].mean()
    grains = [i.paint.grain is not None for i in build(doc).items[1:]]
    assert grains[0] == (MATERIALS[name].grain > 0) and not any(grains[1:]), "a highlight over it has none of its own"


def test_own_materials_lamps_and_what_ignores_them():
    own = Material("kelder enamel", 0.2, 0.1, 0, 0.0, 0.0, 0.5, 0.0, 0.0)
    ball = disc(1, 60, 60, 40, SEA, Body("ball", "kelder enamel"))
    plain = render_float(build(document(ball, side=SIDE)))
    made = render_float(build(replace(document(ball, side=SIDE), materials=(own,))))
    assert np.abs(plain - made).max() > 0.1
    ball = disc(1, 60, 60, 40, SEA, Body("ball", "clay"))
    doc = document(Group(2, "g", (ball,)), side=SIDE, lamp=Lamp(0, 40))
    kept = lights.with_own_lamp(doc, [2], doc.lamp)
    unlit = lights.with_own_lamp(doc, [2], None, unlit=True)
    below = Lamp(180, 40)
    assert np.array_equal(render_float(build(doc)), render_float(build(replace(kept, lamp=below))))
    assert np.abs(render_float(build(replace(doc, lamp=below))) - render_float(build(doc))).max() > 0.1
    flat = render_float(build(unlit))
    assert np.abs(flat[60, 60, :3] - colour("#2b8577").rgb).max() < 0.01
    assert lights.with_own_lamp(kept, [2], None) == doc


def test_fill_edge_and_sky_lights_brighten_and_colour_what_they_reach():
    ball = disc(1, 60, 60, 44, solid("#888888"), Body("ball", "clay", bounce=0.0), Relief(width=8.0))
    doc = document(ball, side=SIDE, lamp=Lamp(0, 35))
    dark = render_float(build(doc))
    filled = render_float(build(doc.with_lights(Lights(doc.lamp, Lamp(180, 40, 0.6, colour=colour("#4060ff"))))))
    low = (slice(80, 96), slice(54, 66))
    assert filled[low][..., :3].mean() > dark[low][..., :3].mean() + 0.05
    assert filled[low][..., 2].mean() > filled[low][..., 0].mean() + 0.03, "in the colour of the fill lamp"
    sky = Lights(doc.lamp, ambient=Ambient(0.5, colour("#ffffff"), colour("#000000")))
    assert render_float(build(doc.with_lights(sky)))[..., :3].mean() > dark[..., :3].mean()
    assert lit_from(Lamp(90, 0.001), rotation(90)).y == pytest.approx(-math.cos(math.radians(5)), abs=1e-6)


# -- groups, seams, finish


def test_effects_act_on_a_group_as_one_or_on_each_child():
    pair = (disc(1, 45, 60, 26), disc(2, 75, 60, 26, solid("#c8402a")))
    as_one = document(Group(3, "g", pair, (Relief(width=8.0),)), side=SIDE)
    each = document(Group(3, "g", pair, (Relief(width=8.0, each=True),)), side=SIDE)
    plain = render_float(build(document(Group(3, "g", pair), side=SIDE)))
    one, both = render_float(build(as_one)), render_float(build(each))
    inner = (slice(50, 70), slice(68, 74))  # the left disc's edge lies here, under the right one's face
    middle = (slice(56, 64), slice(50, 54))  # the right disc's edge
    assert np.abs(one - plain)[middle].max() < 0.01 < np.abs(both - plain)[middle].max()
    assert np.abs(one - plain).max() > 0.1 and np.abs(both - plain)[inner].max() >= 0
    assert [type(i) for i in find(each, 3).recipe] == [Relief]


def facets():
    """Sixteen opaque facets round a point, edge to edge."""
    rim = [(100 + 80 * math.cos(k * math.pi / 8 + 0.1), 100 + 80 * math.sin(k * math.pi / 8 + 0.1)) for k in range(16)]
    paint = lambda k: linear((20, 20), (180, 180), (0, "#ffffff"), (1, "#dddddd" if k % 2 else "#eeeeee"))  # noqa: E731
    return tuple(
        Shape(
            k + 1,
            f"f{k}",
            path_form(corner(100.3, 99.6), corner(*rim[k]), corner(*rim[(k + 1) % 16])),
            (Fill(paint(k)),),
        )
        for k in range(16)
    )


def test_no_hairline_where_paints_are_worked_out_point_by_point():
    light, dim = colour("#ffffff"), colour("#dddddd")
    conic = Fill(Conic((Stop(0, light), Stop(0.5, dim), Stop(1, light)), (100, 100)))
    mesh = Fill(
        to_paint(four_sided(rectangle(0, 0, 200, 200), 2, 2, lambda p: np.full((len(p), 4), (0.9, 0.9, 0.9, 1))))
    )
    for fill in (conic, mesh):
        shapes = tuple(replace(s, recipe=(fill,)) for s in facets())
        dark = []
        for recipe in ((), (Seams(),)):
            doc = document(Group(90, "g", shapes, recipe), ground=colour("#000000"))
            y, x = np.mgrid[0:200, 0:200] + 0.5
            dark.append(
                221 / 255 - render_float(build(doc))[..., :3].min(axis=-1)[np.hypot(x - 100, y - 100) < 74].min()
            )
        assert dark[0] > 4 / 255 and dark[1] <= 1 / 255


@pytest.mark.parametrize("scale", [0.37, 1.0, 2.6])
def test_no_hairline_between_facets(scale):
    black = colour("#000000")
    open_, closed = (document(Group(90, "g", facets(), r), ground=black) for r in ((), (Seams(),)))
    y, x = np.mgrid[0 : round(200 * scale), 0 : round(200 * scale)]
    inside = np.hypot(x + 0.5 - 100 * scale, y + 0.5 - 100 * scale) < 74 * scale
    dark = lambda d: 220 / 255 - render_float(build(d), scale)[..., :3].min(axis=-1)[inside].min()  # noqa: E731
    assert dark(open_) > 4 / 255, "without it the ground shines through"
    assert dark(closed) <= 1 / 255
    if scale == 1.0:
        y, x = np.mgrid[0:200, 0:200]
        inside = np.hypot(x + 0.5 - 100, y + 0.5 - 100) < 74
        for other in (by_resvg, by_pdfium):
            assert 220 / 255 - other(closed).min(axis=-1)[inside].min() <= 2 / 255, "one level more: their own rounding"
    assert [f.message for f in check(open_) if f.level == "warning"] and not [
        f for f in check(closed) if f.level == "warning"
    ]


def test_a_glow_runs_through_its_stops_from_the_edge_outwards():
    stops = tuple(Stop(k / 2, colour(c)) for k, c in enumerate(("#ff0000", "#00ff00", "#0000ff")))
    rows = np.array(glow_ramp(OuterGlow(colour("#ffffff"), stops=stops)))
    # A blurred silhouette has strength one half at its edge and none where the light ends.
    for strength, expected in ((0.5, (1, 0, 0)), (0.25, (0, 1, 0)), (0.0, (0, 0, 1)), (1.0, (1, 0, 0))):
        assert rows[round(strength * (len(rows) - 1)), :3] == pytest.approx(expected, abs=1e-6)
    assert rows[:, 3] == pytest.approx(np.linspace(0, 1, len(rows)))


def test_colour_shift_keeps_vector_and_grain_its_mean():
    doc = document(
        disc(1, 60, 60, 40, Fill(linear((20, 0), (100, 0), (0, "#c8402a"), (1, "#2b8577"))), Adjust(90.0)), side=SIDE
    )
    paint = build(doc).items[-1].paint
    assert isinstance(paint, Linear) and paint.stops[0].colour != colour("#c8402a")
    grained = render_float(build(document(disc(1, 60, 60, 40, solid("#808080"), Speckle(0.1, 1.0)), side=SIDE)))[
        40:80, 40:80, :3
    ]
    assert grained.std() > 0.03 and grained.mean() == pytest.approx(0.502, abs=0.03)
