"""The light check on planted errors: 200 wrong things and 200 right ones, in any place, and what mends them."""

import math
import random

import pytest
from msgspec.structs import replace

from scenes import disc, document
from volumen.demo import DEMOS
from volumen.edit import light_check
from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.model.ingredients import CastShadow, Fill, InnerShadow, Line, Sliver
from volumen.model.make import path_form, smooth, solid
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.model.tree import find
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Conic, Linear, Radial, Solid, Stop, colour

DARK, PALE = colour("#20424b"), colour("#e8dcc0")
PLACES = {
    "plain": lambda r: translation(r.uniform(-9, 9), 0),
    "turned": lambda r: rotation(r.uniform(0, 360)),
    "mirrored": lambda r: multiply(scaling(-1, 1), rotation(r.uniform(0, 360))),
    "squashed": lambda r: multiply(rotation(r.uniform(0, 360)), scaling(1, r.uniform(0.5, 0.8))),
    "skewed": lambda r: (1.0, 0.0, r.uniform(-0.4, 0.4), 1.0, 0.0, 0.0),
}


def local(place, toward):
    """Where light from a side of the sheet comes from in a place: what makes a linear paint grow lighter that way."""
    a, b, c, d, _, _ = place
    x, y = a * toward[0] + b * toward[1], c * toward[0] + d * toward[1]
    size = math.hypot(x, y)
    return x / size, y / size


def across(x, y, *stops):
    return Linear(tuple(stops), (-40 * x, -40 * y), (40 * x, 40 * y))


def shine(x, y, far=22):
    return Radial((Stop(0, PALE), Stop(1, PALE.with_alpha(0.0))), (x * far, y * far), 26, (x * far, y * far))


def ball(x, y):
    return Radial((Stop(0, PALE), Stop(1, DARK)), (0, 0), 44, (24 * x, 24 * y))


def cone(x, y):
    stops = (Stop(0, DARK), Stop(0.5, PALE), Stop(1, DARK))
    return Conic(stops, (0, 0), math.degrees(math.atan2(-y, -x)))


PAINTS = {
    "linear": lambda x, y: Fill(across(x, y, Stop(0, DARK), Stop(1, PALE))),
    "line": lambda x, y: Line(across(x, y, Stop(0, DARK), Stop(1, PALE)), 6.0),
    "fading shade": lambda x, y: Fill(across(x, y, Stop(0, DARK), Stop(1, DARK.with_alpha(0.0)))),
    "shine": lambda x, y: Fill(shine(x, y)),
    "focus": lambda x, y: Fill(ball(x, y)),
    "no focus": lambda x, y: Fill(Radial((Stop(0, PALE), Stop(1, DARK)), (20 * x, 20 * y), 60, (20 * x, 20 * y))),
    "conic": lambda x, y: Fill(cone(x, y)),
}
NUMBERS = {
    "shadow": lambda lamp, off: CastShadow(angle=(lamp.bearing + 180 + off) % 360),
    "shadow on the ground": lambda lamp, off: CastShadow(fall="ground", angle=(lamp.bearing + 180 + off) % 360),
    "length": lambda lamp, off: CastShadow(length=6 / math.tan(lamp.elevation) * (3.0 if off else 1.2)),
    "length on the ground": lambda lamp, off: CastShadow(fall="ground", length=6 / math.tan(lamp.elevation) * (4.0 if off else 1.0)),
    "softness": lambda lamp, off: CastShadow(softness=6 * lamp.size * (4.0 if off else 1.4)),
    "inner shadow": lambda lamp, off: InnerShadow(6.0, angle=(lamp.bearing + off) % 360),
    "inner softness": lambda lamp, off: InnerShadow(6.0, softness=6 * lamp.size * (4.0 if off else 1.0)),
    "sliver of shade": lambda lamp, off: Sliver("shade", angle=(lamp.bearing + 180 + off) % 360),
    "sliver of light": lambda lamp, off: Sliver("light", angle=(lamp.bearing + off) % 360),
    "sunk sliver": lambda lamp, off: Sliver("shade", angle=(lamp.bearing + off) % 360, sunk=True),
}  # fmt: skip
FORMS = (RectangleForm(-38, -30, 76, 60), RectangleForm(-40, -40, 80, 80, 40), RectangleForm(-34, -38, 68, 76, 10))


def planted(seed, wrong):
    """A document with one thing that is right or wrong, and what it is."""
    r = random.Random(seed)
    lamp = Lamp(r.uniform(0, 360), r.uniform(25, 65), 1.0, r.uniform(0.3, 0.5))
    place = multiply(translation(100, 100), PLACES[where := r.choice(list(PLACES))](r))
    if r.random() < 0.5:
        what = r.choice(list(PAINTS))
        turn = r.choice((-1, 1)) * (r.uniform(130, 180) if wrong else r.uniform(0, 40))
        t = math.radians(lamp.bearing + turn)
        made = PAINTS[what](*local(place, (math.sin(t), -math.cos(t))))
    else:
        what = r.choice(list(NUMBERS))
        off = r.choice((-1, 1)) * r.uniform(65, 180) if wrong else 0
        made = NUMBERS[what](lamp, off)
    shape = Shape(1, "thing", r.choice(FORMS), (solid("#5c9aa0"), made), transform=place, lift=6.0)
    node = Group(2, "group", (shape,)) if r.random() < 0.3 else shape
    return document(node, lamp=lamp), (what, where)


def test_planted_errors_are_found_what_is_right_is_left_alone_and_mending_leaves_none():
    missed, alarms, left = [], [], []
    for seed in range(200):
        doc, what = planted(seed, wrong=True)
        found = light_check.disagreements(doc)
        missed += [] if found else [what]
        left += [what] if light_check.disagreements(light_check.put_right(doc, found)) else []
        doc, what = planted(seed, wrong=False)
        alarms += [(what, d.message) for d in light_check.disagreements(doc)]
    assert len(missed) <= 10, missed
    assert alarms == [] and left == []


@pytest.mark.parametrize("name", DEMOS)
def test_finished_demos_have_no_finding(name):
    assert light_check.disagreements(DEMOS[name][1]()) == []


def test_the_paint_of_a_group_is_read():
    lamp = Lamp(0, 45)
    below = Fill(Linear((Stop(0, DARK), Stop(1, PALE)), (100, 20), (100, 180)))
    pair = (disc(1, 60, 100, 30, solid("#5c9aa0")), disc(2, 140, 100, 30, solid("#5c9aa0")))
    doc = document(Group(3, "both", pair, (below,)), lamp=lamp)
    assert [d.node for d in light_check.disagreements(doc)] == [3]


def test_facets_may_face_away_and_grounds_have_a_fall_of_their_own():
    lamp, away = Lamp(0, 45), Fill(Linear((Stop(0, DARK), Stop(1, PALE)), (100, 20), (100, 180)))
    left, right = (Shape(k, "facet", RectangleForm(x, 40, 50, 90), (away,)) for k, x in ((1, 50), (2, 100)))
    assert light_check.disagreements(document(left, right, lamp=lamp)) == []
    assert [d.node for d in light_check.disagreements(document(left, lamp=lamp))] == [1]
    assert light_check.disagreements(document(Shape(1, "sky", RectangleForm(0, 0, 200, 120), (away,)), lamp=lamp)) == []


def test_meant_so_is_kept_and_only_for_that():
    doc = document(disc(1, 60, 60, 40, solid("#5c9aa0"), CastShadow(angle=20.0, softness=30.0), Sliver("light", angle=180.0), lift=6.0),
                   disc(2, 150, 60, 30, solid("#5c9aa0"), CastShadow(angle=20.0), lift=6.0), lamp=Lamp(0, 45))  # fmt: skip
    found = light_check.disagreements(doc)
    assert [(d.node, d.what) for d in found] == [(1, "shadow"), (1, "sliver of light"), (2, "shadow")]
    kept = light_check.meant(doc, found[:1])
    assert [(d.node, d.what) for d in light_check.disagreements(kept)] == [(1, "sliver of light"), (2, "shadow")]
    assert len(light_check.meant(kept, found[:1]).meant_so) == 1 and find(kept, 1) is find(doc, 1)
    assert [d.node for d in light_check.alike(found, found[:1])] == [1, 2]
    assert replace(kept, meant_so=()) == doc


def test_a_stroke_alone_is_read_along_its_line():
    path = path_form(smooth(30, 100, 20, -20), smooth(170, 100, 20, 20), closed=False)
    line = Line(Linear((Stop(0, DARK), Stop(1, PALE)), (30, 0), (170, 0)), 10.0)
    found = light_check.disagreements(document(Shape(1, "line", path, (line,)), lamp=Lamp(270, 45)))
    assert [d.what for d in found] == ["gradient"]
    assert (
        light_check.disagreements(
            document(Shape(1, "line", path, (replace(line, paint=Solid(PALE)),)), lamp=Lamp(270, 45))
        )
        == []
    )
