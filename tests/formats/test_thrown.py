"""Where lifts add up, shadows are charged to what throws them: in what is told, in the checks, in keep vector."""

from __future__ import annotations

import msgspec
import pytest

from scenes import disc, document, solid
from volumen.compose.scene import build
from volumen.formats.check import check
from volumen.formats.pure_vector import vectorised
from volumen.model.ingredients import CastShadow
from volumen.model.nodes import Group, RectangleForm, Shape
from volumen.picture.purity import node_purity, picture_purity
from volumen.shading.lamp import Lamp

replace = msgspec.structs.replace
PAPER = Shape(1, "paper", RectangleForm(20, 20, 160, 160), (solid("#d9c7a3"),))
FADED = replace(PAPER, opacity=0.8)


def scene(*under, lamp=None, **more):
    boat = disc(5, 100, 100, 30, solid("#c8402a"), CastShadow(), lift=9.0, **more)
    return replace(document(*under, boat), lamp=lamp or Lamp(), lifts_add_up=True)


@pytest.mark.parametrize(
    "under", [(PAPER,), (FADED,), (Group(2, "g", (PAPER,), opacity=0.9),), (), (PAPER, disc(3, 130, 130, 30))]
)
def test_the_one_that_throws_it_is_charged(under):
    doc = scene(*under)
    told = node_purity(build(doc))
    assert (told[5].svg, told[5].pdf, told[5].reasons) == ("filter", "pixels", ("soft shadow or glow",))
    assert all(p.svg == p.pdf == "vector" for n, p in told.items() if n != 5)
    found = [f for f in check(doc) if f.level == "export"]
    assert [f.node for f in found] == [5] and "soft shadow" in found[0].message


def test_a_hard_shadow_is_vector_and_so_is_the_object():
    doc = scene(PAPER, lamp=replace(Lamp(), size=0.0))
    assert not [f for f in check(doc) if f.level == "export"]


@pytest.mark.parametrize("under", [(PAPER,), (FADED,), (PAPER, disc(3, 130, 130, 30))])
def test_keep_vector_reaches_the_shadows_that_an_object_throws(under):
    doc = scene(*under, keep_vector=True)
    picture = build(doc)
    assert picture_purity(picture).svg == "filter"
    assert picture_purity(vectorised(picture, {5})).svg == "vector"
    assert picture_purity(vectorised(picture, {77})).svg == "filter"
