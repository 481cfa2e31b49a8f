"""Soft light as stepped shapes, against the soft light."""

import pytest

from scenes import disc, document
from volumen.compose.scene import build
from volumen.formats.pure_vector import closeness, vectorised
from volumen.model.ingredients import (
    Blur,
    CastShadow,
    ContactShadow,
    Feather,
    Fill,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
)
from volumen.model.make import linear, solid
from volumen.model.nodes import Group
from volumen.shading.paint import Stop, colour

SEA = solid("#2b8577")
SIDE = 120


@pytest.mark.parametrize("recipe", [
    (CastShadow(),), (OuterGlow(colour("#c8402a"), 8.0, stops=(Stop(0.0, colour("#c8402a")), Stop(1.0, colour("#2040c0"))), blend="normal"),), (InnerShadow(9.0),),
    (InnerGlow(colour("#ffffff"), 7.0),), (Relief(width=12.0),), (Blur(5.0),), (ContactShadow(4.0),),
    (Feather(7.0),), (Blur(5.0, 30.0),),
], ids=lambda r: type(r[0]).__name__ + str(getattr(r[0], "angle", "") or ""))  # fmt: skip
def test_vector_forms_stay_within_what_they_say(recipe):
    from volumen.picture.purity import picture_purity

    picture = build(document(disc(1, 60, 60, 34, SEA, *recipe, lift=8.0), side=SIDE, ground=colour("#efe6d6")))
    if not isinstance(recipe[0], Blur) or recipe[0].angle:
        assert picture_purity(picture).pdf == "pixels"
    made = vectorised(picture)
    assert picture_purity(made) == picture_purity(vectorised(made)) and picture_purity(made).svg == "vector"
    found = closeness(picture, made)
    assert found.mean < 0.4 and found.p99 < 2.5, found
    assert vectorised(picture, ()).chunks[0].items == picture.chunks[0].items, "only what is asked for"


def test_what_is_blurred_in_several_colours_is_a_mesh_in_pdf():
    from volumen.picture.purity import picture_purity

    fill = Fill(linear((20, 0), (100, 0), (0, "#c8402a"), (1, "#2b8577")))
    inside = disc(2, 50, 50, 14, solid("#efe6d6"))
    blurred = Group(3, "two", (disc(1, 60, 60, 34, fill), inside), (Blur(5.0),))
    picture = build(document(blurred, side=SIDE, ground=colour("#203040")))
    made = vectorised(picture)
    assert picture_purity(picture).pdf == "pixels" and picture_purity(made).pdf == "vector"
    found = closeness(picture, made)
    assert found.mean < 0.4 and found.p99 < 2.5, found
