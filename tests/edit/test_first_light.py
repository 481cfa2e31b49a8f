"""First light: on drawings by the dozen nothing fails, nothing is lost, the light agrees; roles are told rightly."""

import os
import random
from itertools import combinations

import msgspec
import numpy as np
import pytest
import shapely
from scipy.ndimage import binary_dilation

from drawings import drawing
from scenes import disc, document
from volumen.colour import srgb
from volumen.compose.scene import build
from volumen.edit.first_light.light import first_light, lit, prepared, without_first_light
from volumen.edit.first_light.pieces import pieces_of
from volumen.edit.first_light.roles import tell_roles
from volumen.edit.first_light.styles import STYLES
from volumen.edit.light_check import disagreements
from volumen.edit.objects import set_fields
from volumen.formats import native
from volumen.model.ingredients import Blur, Body, CastShadow, Fill, Line, Sliver
from volumen.model.make import circle, corner, linear, path_form, radial, solid
from volumen.model.mending import mended
from volumen.model.nodes import RectangleForm, Shape, SpiralForm, TextForm
from volumen.model.tree import find, update_nodes, walk
from volumen.picture.purity import picture_purity
from volumen.picture.stopping import Stopped
from volumen.render.raster import render_float
from volumen.shading.lamp import Lamp

replace = msgspec.structs.replace
NAMES = [s.name for s in STYLES]
GROUND = Shape(90, "ground", RectangleForm(0, 0, 400, 400), (solid("#efe3cb"),))


def role_of(*nodes):
    """The role of the last of some shapes on a ground."""
    doc = document(GROUND, *nodes, side=400.0)
    pieces = pieces_of(doc)
    tell_roles(pieces, doc.sheet)
    return pieces[-1].role


def shape(form, *recipe, k=1, **more):
    return Shape(k, "s", form, recipe or (solid("#2b8577"),), **more)


PLATE = shape(RectangleForm(100, 100, 160, 120), solid("#c8402a"), k=8)
FRAME = path_form(*(corner(x, y) for x, y in ((50, 50), (350, 50), (350, 350), (50, 350))))


@pytest.mark.parametrize(
    ("role", "nodes"),
    [
        ("ground", []),
        ("round", [disc(1, 200, 200, 50, solid("#2b8577"))]),
        ("long", [shape(circle(200, 200, 120, 25))]),
        ("plate", [PLATE]),
        ("text", [shape(TextForm("KELDER", size=60, x=60, y=200))]),
        ("hair", [shape(RectangleForm(20, 200, 300, 2))]),
        ("tone", [PLATE, shape(circle(180, 160, 30), solid("#d4503a"))]),
        ("tone", [shape(circle(180, 160, 30), solid("#ffffff", 0.4))]),
        ("tone", [shape(circle(180, 160, 30), Fill(linear((150, 0), (210, 0), (0, "#ffffff"), (1, "#ffffff", 0.0))))]),
        ("tone", [shape(circle(180, 160, 30), solid("#2b8577"), Blur(4.0))]),
        ("feature", [disc(8, 200, 200, 90, solid("#f2c14e")), shape(circle(180, 180, 12), solid("#14212b"))]),
        ("lit", [disc(1, 200, 200, 50, solid("#2b8577"), Body("ball"))]),
    ],
)
def test_roles_are_told_by_shape_place_and_colour(role, nodes):
    assert role_of(*nodes) == role


def test_tangles_are_lit_in_a_moment():
    """A thousand turns with a line, and places by lot: untying them takes the geometry library minutes."""
    line = Line(solid("#112233").paint, 2.0)
    spiral = shape(SpiralForm((200, 200), outer=150, turns=1000), line, k=1)
    lot = np.random.default_rng(1).random((400, 2)) * 400
    tangle = shape(path_form(*(corner(x, y) for x, y in lot.tolist())), k=2)
    areas = [p.area.area for p in pieces_of(document(spiral, tangle, side=400.0))]
    assert areas[0] == pytest.approx(np.pi * 151**2, rel=0.03) and 100_000 < areas[1] < 160_000


def test_what_is_alike_is_treated_alike():
    """One bead of seven cut a little flat is a bead as well."""
    beads = [disc(k, 40.0 * k, 200, 12, solid("#2b8577")) for k in range(1, 7)]
    odd = shape(RectangleForm(269, 189, 22, 22), solid("#2b8577"), k=7)
    assert role_of(odd) != "round" and role_of(*beads, odd) == "round"


@pytest.mark.parametrize("seed", range(200 if "VOLUMEN_ALL_DRAWINGS" in os.environ else 40))
def test_on_any_drawing_light_agrees_and_nothing_is_lost(seed):
    flat = drawing(seed)
    made = first_light(flat, (), NAMES[seed % len(NAMES)], depth=(0.3, 1.0, 2.0)[seed % 3])
    assert disagreements(made) == []
    before, after = list(walk(flat.root)), list(walk(made.root))
    assert [(n.id, n.name, n.transform) for n in before] == [(n.id, n.name, n.transform) for n in after]
    assert all(b.recipe[: len(a.recipe)] == a.recipe for a, b in zip(before, after, strict=True)), "only more of it"
    assert mended(made) == (made, []), "within all limits as it is"
    assert without_first_light(made)[0] == flat
    if seed % 20 == 0:
        assert native.decode(native.encode(made), "made") == made


@pytest.mark.parametrize("name", NAMES)
def test_every_style_shows_keeps_hues_and_stays_legible(name):
    """The contrast of a sign and of a buoy with their grounds does not fall below two thirds of what it was."""
    sign = shape(RectangleForm(60, 60, 280, 90), solid("#1f3b57"), k=1)
    word = shape(TextForm("KELDER", size=60, x=90, y=125), solid("#f2c14e"), k=2)
    buoy = disc(3, 200, 270, 70, solid("#c8402a"))
    band = shape(RectangleForm(140, 255, 120, 26), solid("#efe3cb"), k=4)
    flat = document(replace(GROUND, recipe=(solid("#8fb8c4"),)), sign, word, buoy, band, side=400.0)
    one, two = (render_float(build(d), 0.5)[..., :3] for d in (flat, first_light(flat, (), name)))
    assert np.abs(one - two).mean() > 0.004
    y, x = np.mgrid[0:200, 0:200] * 2.0 + 1
    masks = {p.node.id: shapely.contains_xy(p.area, x, y) for p in pieces_of(flat)}
    for front, back in ((2, 1), (3, 90), (4, 3)):
        seen = masks[back] & ~np.any([m for k, m in masks.items() if k not in (back, 90)], axis=0)
        before, after = (contrast(luminance(v)[masks[front]], luminance(v)[seen]) for v in (one, two))
        assert after > before * 2 / 3


def test_neighbours_stay_legible():
    """Of all that lie side by side on drawings one in forty at most loses more than a third of its contrast and has
    less than 4.5 (WCAG for text) left; what is mostly seen keeps over half. The others are strips in a shadow."""
    pairs = [p for seed in range(200 if "VOLUMEN_ALL_DRAWINGS" in os.environ else 16) for p in side_by_side(seed)]
    fell = [p for p in pairs if p[1] < min(p[0] * 2 / 3, 4.5)]
    assert len(pairs) > 200 and len(fell) <= len(pairs) / 40
    assert all(after > before / 2 for before, after, seen in fell if seen)


def side_by_side(seed, side=200):
    """The contrast of neighbours before and after, and whether more than 60 % of both is seen."""
    flat = drawing(seed)
    k, found = side / flat.sheet.width, pieces_of(flat)
    y, x = (np.mgrid[0:side, 0:side] + 0.5) / k
    top = np.zeros((side, side), int)
    for number, p in enumerate(found, 1):
        top[shapely.contains_xy(p.area, x, y)] = number
    lit = first_light(flat, (), NAMES[seed % len(NAMES)])
    one, two = (luminance(render_float(build(d), k)[:side, :side, :3]) for d in (flat, lit))
    for m, n in combinations(np.unique(top[top > 0]), 2):
        if beside(top == m, top == n):
            seen = min(found[m - 1].shown, found[n - 1].shown) > 0.6
            yield *(contrast(v[top == m], v[top == n]) for v in (one, two)), seen


def beside(m, n):
    """Whether two pieces are large enough to be read and have a good part of an edge in common."""
    return m.sum() > 40 < n.sum() and (binary_dilation(m, iterations=3) & n).sum() > 30


def luminance(rgb):
    return srgb.to_linear(rgb) @ np.array([0.2126, 0.7152, 0.0722])


def contrast(one, two):
    """WCAG contrast of the means of two areas."""
    a, b = sorted((float(one.mean()), float(two.mean())))
    return (b + 0.05) / (a + 0.05)


def relit(document, style, depth, softness):
    """As the dials do it: on the objects that were asked for."""
    return first_light(document, document.first_light.of, style, depth, softness)


def test_dials_work_as_long_as_nothing_was_changed_by_hand():
    flat = drawing(4)
    made = first_light(flat, (), "enamel")
    assert relit(relit(made, "wax", 2.0, 1.0), "enamel", 1.0, 0.4) == made
    asleep = relit(made, "enamel", 0.0, 0.4)
    assert asleep.root == flat.root and relit(asleep, "enamel", 1.0, 0.4) == made
    soft = relit(made, "enamel", 1.0, 0.8)
    assert soft.lamp.size == pytest.approx(2 * flat.lamp.size) and without_first_light(soft)[0] == flat
    mine = made.first_light.given[0].id
    hand = find(made, mine).recipe[:-1]
    changed = set_fields(made, [mine], recipe=hand)
    other = relit(changed, "glass", 1.0, 0.4)
    assert find(other, mine).recipe[: len(hand)] == hand, "what a hand changed stays"
    assert mine not in {g.id for g in other.first_light.given} or find(other, mine).recipe != find(made, mine).recipe
    rest = [g.id for g in made.first_light.given[1:]]
    assert any(find(other, i).recipe != find(made, i).recipe for i in rest)


CHANGES = {
    "without its last": lambda n: replace(n, recipe=n.recipe[:-1]),
    "without light": lambda n: replace(n, recipe=tuple(i for i in n.recipe if isinstance(i, Fill | Line))),
    "off": lambda n: replace(n, recipe=(*n.recipe[:-1], replace(n.recipe[-1], on=False))),
    "lifted": lambda n: replace(n, lift=n.lift + 3.0),
    "more": lambda n: replace(n, recipe=(*n.recipe, CastShadow(0.3, angle=40.0))),
}


@pytest.mark.parametrize("change", CHANGES.values(), ids=CHANGES)
@pytest.mark.parametrize("seed", range(4))
def test_what_a_hand_changed_is_the_same_to_the_byte_after_any_dial(seed, change):
    document = first_light(drawing(seed))
    given = document.first_light.given
    if not given:
        return
    hand = random.Random(seed)
    chosen = hand.choice(given).id
    document = update_nodes(document, [chosen], change)
    kept = msgspec.json.encode(replace(find(document, chosen), children=()))
    for _ in range(6):
        style, depth, softness = hand.choice(STYLES).name, hand.choice((0.0, 0.4, 1.0, 2.0)), hand.random()
        of = document.first_light.of if document.first_light is not None else ()
        document = lit(prepared(document, of), style, depth, softness)
        assert msgspec.json.encode(replace(find(document, chosen), children=())) == kept
    again = first_light(document, [chosen], "enamel", 1.0)
    assert chosen not in again.first_light.left, "asked for by itself it is lit anew"


def test_only_the_selection_is_lit_and_gradients_stay_to_be_seen():
    painted = Fill(radial((100, 100), 40, (0, "#ffffff"), (1, "#7a2f57")))
    flat = document(GROUND, disc(1, 100, 100, 40, painted), disc(2, 300, 100, 40, solid("#c8402a")), side=400.0)
    made = first_light(flat, [1], "enamel")
    assert find(made, 2) == find(flat, 2)
    (body,) = [i for i in find(made, 1).recipe if isinstance(i, Body)]
    assert (body.blend, find(made, 1).recipe[0]) == ("overlay", painted)


def test_locked_and_unlit_things_stay_and_linked_ones_have_one_recipe():
    shapes = (disc(1, 100, 100, 40, solid("#c8402a"), locked=True), disc(2, 300, 100, 40, solid("#c8402a"), unlit=True),
              disc(3, 100, 300, 40, solid("#2b8577"), link=5),
              disc(4, 100, 100, 20, solid("#2b8577"), link=5, transform=(2.0, 0.0, 0.0, 2.0, 100.0, 100.0)))  # fmt: skip
    flat = document(GROUND, *shapes, side=400.0)
    made = first_light(flat, (), "enamel")
    assert [g.id for g in made.first_light.given] == [3, 4]
    three, four = find(made, 3), find(made, 4)
    assert three.recipe == four.recipe and three.lift == four.lift > 0


def test_cut_paper_under_a_sharp_lamp_stays_vector():
    flat = replace(drawing(7), lamp=Lamp(size=0.0))
    made = first_light(flat, (), "cut paper", softness=0.0)
    kinds = {type(i) for n in walk(made.root) for i in n.recipe}
    assert {Sliver, CastShadow} <= kinds
    assert picture_purity(build(made)) == picture_purity(build(flat))


def test_stopped_in_the_middle_it_gives_nothing():
    asked = iter([False] * 20)
    with pytest.raises(Stopped):
        first_light(drawing(3), (), "enamel", stop=lambda: next(asked, True))
