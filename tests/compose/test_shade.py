"""How dark shadows are, what colour they have, where they fall: by the light that they take away."""

import msgspec
import pytest

from scenes import disc, document
from volumen.compose.scene import build
from volumen.geometry.path import grow_box
from volumen.model.ingredients import CastShadow, Fill, InnerShadow, Sliver
from volumen.model.make import solid
from volumen.model.nodes import RectangleForm, Shape
from volumen.picture.bounds import items_box
from volumen.shading.lamp import Ambient, Lamp, Lights
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
SEA = solid("#2b8577")
OVERHEAD = Lamp(0, 90, 1.0)


@pytest.mark.parametrize(
    ("lights", "share"),
    [
        (Lights(Lamp()), 1.0),
        (Lights(Lamp(strength=0.5)), 0.5),
        (Lights(Lamp(strength=3.0)), 1.0),
        (Lights(Lamp(height=30), fill=replace(OVERHEAD, strength=0.5)), 0.5),  # both give sin 30 = 0.5
        (Lights(Lamp(height=30), fill=replace(OVERHEAD, strength=0.5), edge=OVERHEAD), 0.25),
        (Lights(OVERHEAD, ambient=Ambient(2.0, colour("#ffffff"), colour("#ffffff"))), 0.5),  # 2 times half of it
        (Lights(Lamp(colour=colour("#ff2020"))), 1.0),
    ],
)  # fmt: skip
@pytest.mark.parametrize("recipe", [CastShadow(), InnerShadow(4.0)])
def test_a_shadow_is_as_dark_as_the_light_that_it_takes_away(lights, share, recipe):
    made = build(document(replace(disc(1, 60, 60, 20, SEA, recipe), lift=5.0)).with_lights(lights)).items
    (soft,) = [i for i in made if type(i).__name__ == "Soft"]
    assert soft.opacity == pytest.approx(recipe.opacity * share, rel=1e-6)


def test_without_its_lamp_there_is_no_shadow_and_of_a_red_lamp_only_red_is_missing():
    node = replace(disc(1, 60, 60, 20, SEA, CastShadow(), InnerShadow(4.0)), lift=5.0)
    assert len(build(document(node).with_lights(Lights(Lamp(strength=0)))).items) == 1
    red = Lights(Lamp(colour=colour("#ff0000"), height=90), fill=OVERHEAD)
    r, g, b = build(document(node).with_lights(red)).items[0].colour.rgb
    assert r < 0.5 and min(g, b) > 0.99


def test_a_second_lamp_throws_its_own_weaker_shadow_when_it_is_told_to():
    fill = Lamp(90, 45, 0.4, colour=colour("#ffc07a"))
    node = replace(disc(1, 60, 60, 20, SEA, CastShadow()), lift=5.0)
    first = build(document(node).with_lights(Lights(Lamp(322, 45), fill=fill))).items
    both = build(document(node).with_lights(Lights(Lamp(322, 45), fill=replace(fill, throws=True)))).items
    assert (len(first), len(both)) == (2, 3) and both[0].offset == first[0].offset
    assert both[1].offset == pytest.approx((-5, 0), abs=1e-9) and both[1].opacity < both[0].opacity / 2
    assert both[1].colour.b > both[1].colour.r, "it takes little blue away, for it has little"


def test_light_slivers_have_the_colour_and_strength_of_the_lamp():
    warm = Lamp(colour=colour("#ffc07a"), strength=0.5)
    for sliver, rgb, share in ((Sliver("light"), warm.colour.rgb, 0.5), (Sliver("shade"), (0.05, 0.09, 0.12), 1.0)):
        made = build(document(disc(1, 60, 60, 20, SEA, sliver), lamp=warm)).items[-1]
        assert made.paint.colour.rgb == rgb and made.opacity == pytest.approx(sliver.opacity * share)


@pytest.mark.parametrize("bearing", range(0, 360, 30))
@pytest.mark.parametrize("squash", [1.0, 0.4])
def test_a_standing_thing_has_a_shadow_on_the_ground_at_every_bearing(bearing, squash):
    node = Shape(1, "post", RectangleForm(50, 20, 20, 60), (SEA, CastShadow(fall="ground", squash=squash)))
    lamp = Lamp(bearing, 45)
    parts = build(document(node, lamp=lamp)).items[0].items
    thick = parts[1].width if len(parts) > 1 else 0.0
    assert thick == pytest.approx(0.2 * 20 * squash * abs(lamp.away[0]), abs=1e-9)
    l, t, r, b = grow_box(items_box(parts[:1]), thick / 2)
    assert b - t == pytest.approx(60 * squash * abs(lamp.away[1]) + thick, abs=1e-6)
    assert r - l == pytest.approx(20 + 60 * abs(lamp.away[0]) + thick, abs=1e-6)


def test_a_shadow_takes_its_colour_from_what_is_seen():
    red, clear = colour("#c8402a"), Fill(Solid(colour("#00ff00")), 0.0)
    node = replace(disc(9, 60, 60, 10, SEA, CastShadow()), lift=2.0)

    def tint(*below):
        return build(document(*below, node)).items[-2].colour

    plain = tint(disc(1, 60, 60, 50, Fill(Solid(red))))
    assert tint(disc(1, 60, 60, 50, Fill(Solid(red)), clear)) == plain
    assert tint(disc(1, 60, 60, 50, Fill(Solid(red))), disc(2, 60, 60, 50, clear)) == plain
