"""What disagrees with the lamp, looks and variants."""

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from scenes import disc, document
from volumen.compose.scene import build
from volumen.edit import light_check, lights, looks, variants
from volumen.edit.objects import transform
from volumen.geometry.affine import IDENTITY, rotation, scaling, translation
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import (
    Body,
    CastShadow,
    ContactShadow,
    Feather,
    Fill,
    InnerGlow,
    InnerShadow,
    Line,
    Relief,
    Sliver,
)
from volumen.model.make import corner, path_form, smooth, solid
from volumen.model.nodes import RectangleForm, Shape
from volumen.model.tree import find
from volumen.render.raster import render_float
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Linear, Radial, Solid, Stop, colour

replace = msgspec.structs.replace


SEA = solid("#2b8577")


SIDE = 120


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


# -- the light check, looks and variants


def test_light_check_finds_planted_errors_and_puts_them_right():
    lamp = Lamp(0, 45)
    wrong = Linear((Stop(0, colour("#111111")), Stop(1, colour("#eeeeee"))), (0, 20), (0, 100))  # light below
    right = Linear(wrong.stops[::1], (0, 100), (0, 20))
    round_wrong = Radial((Stop(0, colour("#ffffff")), Stop(1, colour("#222222"))), (60, 60), 40, (60, 80))
    doc = document(
        disc(1, 60, 60, 40, Fill(wrong)), disc(2, 60, 60, 40, Fill(right), Sliver(), CastShadow(), lift=5.0),
        disc(3, 60, 60, 40, Fill(round_wrong)), disc(4, 60, 60, 40, SEA, Sliver("light", angle=180.0)),
        disc(5, 60, 60, 40, SEA, CastShadow(angle=20.0), lift=5.0), disc(6, 60, 60, 40, SEA, InnerShadow(angle=150.0)),
        replace(disc(7, 60, 60, 40, Fill(wrong)), own_lamp=Lamp(180, 40)), replace(disc(8, 60, 60, 40, Fill(wrong)), unlit=True),
        disc(9, 60, 60, 40, Fill(wrong), transform=rotation(180, (60, 60))), side=SIDE, lamp=lamp,
    )  # fmt: skip
    found = light_check.disagreements(doc)
    assert [d.node for d in found] == [1, 3, 4, 5, 6]
    assert "wrong side" in found[0].message and "direction" in found[3].message
    mended = light_check.put_right(doc, found)
    assert light_check.disagreements(mended) == []
    assert find(mended, 2) == find(doc, 2) and find(mended, 7) == find(doc, 7)


@settings(max_examples=20, deadline=None)
@given(st.floats(0, 359), st.floats(-180, 180), st.booleans())
def test_light_check_knows_turned_and_mirrored_shapes(bearing, turn, mirrored):
    fill = Fill(Linear((Stop(0, colour("#eeeeee")), Stop(1, colour("#111111"))), (60, 20), (60, 100)))
    doc = document(disc(1, 60, 60, 40, fill), side=SIDE, lamp=Lamp(bearing, 45))
    doc = transform(doc, [1], rotation(turn, (60, 60)))
    doc = transform(doc, [1], scaling(-1, 1, (60, 60))) if mirrored else doc
    mended = light_check.put_right(doc, light_check.disagreements(doc))
    assert light_check.disagreements(mended) == []


BALL = solid("#2b8577")


def _crescent(node, paint, bearing, **more):
    """A shape along the rim of a disc about (60, 60), on one side of it."""
    return replace(
        Shape(node, "crescent", path_form(corner(68, 21), smooth(99.5, 60, 0, 24), corner(68, 99), smooth(82, 60, 0, -18)), (paint,)),
        transform=rotation(bearing - 90, (60, 60)), **more,
    )  # fmt: skip


@pytest.mark.parametrize("held", [True, False], ids=["held", "above"])
@pytest.mark.parametrize(
    ("paint", "kind"),
    [
        (solid("#0c3f3a"), "shade"),
        (Fill(Solid(colour("#203040")), blend="multiply", opacity=0.5), "shade"),
        (Fill(Solid(colour("#000000")), blend="overlay"), "shade"),
        (Fill(Solid(colour("#ffffff")), blend="soft-light"), "light"),
        (Fill(Solid(colour("#fff0c0")), blend="screen", opacity=0.4), "light"),
    ],
)
@pytest.mark.parametrize("bearing", [0.0, 70.0, 200.0])
def test_slivers_drawn_as_shapes_are_told_on_the_wrong_side_only(held, paint, kind, bearing):
    for turn, wrong in ((0.0, kind == "shade"), (180.0, kind == "light")):
        crescent = _crescent(2, paint, bearing + turn)
        things = (disc(1, 60, 60, 40, BALL, children=(crescent,)),) if held else (disc(1, 60, 60, 40, BALL), crescent)
        doc = document(*things, side=300.0, lamp=Lamp(bearing, 45))
        found = light_check.disagreements(doc)
        expected = [(2, f"drawn {kind}")] if wrong else []
        assert [(d.node, d.what) for d in found] == expected
        assert light_check.disagreements(light_check.put_right(doc, found)) == []


def test_stripes_and_other_colours_are_no_slivers():
    stripe = solid("#0c3f3a")
    pair = (_crescent(2, stripe, 0.0), _crescent(3, stripe, 180.0))
    red = _crescent(4, solid("#c8402a"), 0.0)
    for inside in (pair, (red,)):
        doc = document(disc(1, 60, 60, 40, BALL, children=inside), side=300.0, lamp=Lamp(0, 45))
        assert light_check.disagreements(doc) == []


@pytest.mark.parametrize("blend", ["overlay", "soft-light", "hard-light", "screen", "multiply"])
def test_gradients_are_read_as_they_are_laid_on(blend):
    for wrong, ends in ((True, (20, 100)), (False, (100, 20))):
        paint = Linear((Stop(0, colour("#111111")), Stop(1, colour("#eeeeee"))), (60, ends[0]), (60, ends[1]))
        doc = document(disc(1, 60, 60, 40, BALL, Fill(paint, blend=blend)), side=300.0, lamp=Lamp(0, 45))
        assert [d.what for d in light_check.disagreements(doc)] == (["gradient"] if wrong else [])


@pytest.mark.parametrize(("blend", "face"), [("multiply", "#080a0c"), ("screen", "#f8f8f4"), ("overlay", "#000000")])
def test_gradients_of_which_nothing_is_seen_are_left_alone(blend, face):
    paint = Linear((Stop(0, colour("#555555")), Stop(1, colour("#aaaaaa"))), (60, 20), (60, 100))
    doc = document(disc(1, 60, 60, 40, solid(face), Fill(paint, blend=blend)), side=300.0, lamp=Lamp(0, 45))
    assert light_check.disagreements(doc) == []


@pytest.mark.parametrize("length", [None, 14.0])
def test_a_shadow_without_lift_is_told_and_lifted(length):
    doc = document(disc(1, 60, 60, 40, BALL, CastShadow(length=length)), side=300.0, lamp=Lamp(0, 45))
    found = light_check.disagreements(doc)
    assert [d.what for d in found] == ["lift"]
    mended = light_check.put_right(doc, found)
    assert light_check.disagreements(mended) == []
    assert find(mended, 1).lift == pytest.approx(14.0 if length else 9.6, abs=0.5)


def test_saved_lights_switch_all_of_it():
    doc = document(disc(1, 60, 60, 40, SEA, Body()), side=SIDE)
    stage = next(s for s in lights.READY if s.name == "stage")
    doc = lights.save_lights(doc.with_lights(stage.lights), "opening night")
    assert doc.lamp_sets[0].lights == stage.lights and doc.lights == stage.lights
    assert lights.lamp_sets(doc)[0].name == "opening night"
    assert len(lights.save_lights(doc, "opening night").lamp_sets) == 1


def test_looks_scale_to_each_object_and_keep_form_and_paint():
    small, large = disc(1, 20, 20, 10, SEA), disc(2, 80, 80, 40, solid("#c8402a"), Line(Solid(colour("#000000")), 2.0))
    doc = looks.give_look(document(small, large, side=160), [1, 2], looks.READY[2])
    a, b = find(doc, 1), find(doc, 2)
    depth = [next(i.depth for i in n.recipe if isinstance(i, InnerShadow)) for n in (a, b)]
    assert depth[1] / depth[0] == pytest.approx(4, rel=0.05)
    assert a.recipe[0] == SEA and isinstance(b.recipe[1], Line)
    moved = disc(1, 20, 20, 10, SEA, transform=(2.0, 0.0, 0.0, 2.0, 30.0, 0.0))
    assert looks.size_of(document(moved, side=160), moved) == pytest.approx(40), "as large as it stands on the sheet"
    for look in looks.READY:
        assert np.isfinite(render_float(build(looks.give_look(doc, [1, 2], look)))).all()


@pytest.mark.parametrize("kind", variants.KINDS)
def test_variants_differ_from_one_another(kind):
    doc = document(
        disc(1, 60, 60, 40, solid("#c98f35"), Body("ball", "clay"), opacity=0.9), side=SIDE, ground=colour("#7fd0bd")
    )
    made = variants.KINDS[kind](doc, [1], None)
    assert len({name for name, _ in made}) == len(made) >= 6
    pictures = {render_float(build(d), 0.3).tobytes() for _, d in made}
    assert len(pictures) >= len(made) - 1


def test_rectangles_and_feathers_meet():
    """A feathered square fades to nothing at its edge and is itself in its middle."""
    doc = document(Shape(1, "s", RectangleForm(20, 20, 80, 80), (SEA, Feather(6.0))), side=SIDE, ground=None)
    alpha = render_float(build(doc))[..., 3]
    assert alpha[60, 60] > 0.99 and alpha[60, 20] < 0.12 and rectangle(0, 0, 1, 1).area() == pytest.approx(1)
    assert translation(0, 0) == IDENTITY
