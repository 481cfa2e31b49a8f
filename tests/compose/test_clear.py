"""What lets light through: seams between thin shapes, and shadows in the colour of glass."""

import numpy as np
import pytest
from msgspec.structs import replace

from scenes import disc, document
from volumen.compose.scene import build
from volumen.model.ingredients import Body, CastShadow, Fill, Seams, Sliver
from volumen.model.make import corner, linear, path_form, solid
from volumen.model.nodes import Group, Shape
from volumen.render.raster import render_bytes
from volumen.shading.lamp import Lamp, shadow_factor
from volumen.shading.materials import MATERIALS
from volumen.shading.paint import Solid, colour

GLASS = colour("#2b8577")
HALVES = ((corner(40, 30), corner(120, 30), corner(87, 170), corner(40, 170)),
          (corner(120, 30), corner(165, 30), corner(165, 170), corner(87, 170)))  # fmt: skip


def facets(*recipe, **more):
    return tuple(Shape(k + 1, "facet", path_form(*points), recipe, **more) for k, points in enumerate(HALVES))


@pytest.mark.parametrize(
    "recipe",
    {
        "colour": (Fill(Solid(GLASS.with_alpha(0.5))),),
        "opacity": (Fill(Solid(GLASS), 0.5),),
        "gradient": (Fill(linear((0, 30), (0, 170), (0, "#2b8577", 0.4), (1, "#0f4a49", 0.4))),),
        "with slivers": (Fill(Solid(GLASS.with_alpha(0.5))), Sliver("light", depth=3.0, blend="screen")),
    }.values(),
)
def test_seams_between_thin_shapes_show_no_line(recipe):
    """Across the shared edge the tone is that on either side: within 2 of 255, where an open seam is off by 10 to 25."""

    def across(*seams):
        found = render_bytes(build(document(Group(9, "pane", facets(*recipe), seams))))[..., 0].astype(int)
        middle = found[90:110, 70:140]
        return max(np.abs(row - np.median(row)).max() for row in middle[:, 5:-5]) if "Sliver" not in str(recipe) else 0

    assert across(Seams()) <= 2
    if len(recipe) == 1:
        assert across() >= 8


@pytest.mark.parametrize("alphas", [(0.5, 0.55), (0.8, 0.75), (0.93, 1.0)])
@pytest.mark.parametrize("how", ["colour", "opacity", "child"])
def test_seams_between_pieces_of_several_alphas_show_no_line(alphas, how):
    """Across the shared edge the tone lies between those on either side, and each side is as thin as it was."""
    panes = []
    for k, (points, a) in enumerate(zip(HALVES, alphas, strict=True)):
        fill = Fill(Solid(GLASS.with_alpha(a if how == "colour" else 1.0)), a if how == "opacity" else 1.0)
        panes.append(Shape(k + 1, "pane", path_form(*points), (fill,), opacity=a if how == "child" else 1.0))

    def rows(*seams):
        found = render_bytes(build(document(Group(9, "pane", tuple(panes), seams))))[..., 0].astype(int)
        return found[90:110, 60:150]

    shown, open_ = rows(Seams()), rows()
    assert np.abs(shown[:, [0, -1]] - open_[:, [0, -1]]).max() <= 1
    low, high = shown[:, [0, -1]].min(axis=1) - 2, shown[:, [0, -1]].max(axis=1) + 2
    assert (shown >= low[:, None]).all() and (shown <= high[:, None]).all()
    assert (open_ > high[:, None] + 4).any(), "where they are open a line shows"


def test_a_thin_glint_over_closed_facets_stays_over_them():
    glint = Shape(7, "glint", path_form(corner(60, 60), corner(140, 60), corner(140, 140), corner(60, 140)),
                  (Fill(Solid(colour("#ffffff").with_alpha(0.5))),))  # fmt: skip
    found = render_bytes(build(document(Group(9, "pane", (*facets(solid("#2b8577")), glint), (Seams(),)))))
    assert abs(int(found[100, 70, 0]) - (43 + 255) / 2) <= 2


def test_thin_children_and_shadows_keep_their_strength():
    group = Group(9, "pane", facets(solid("#2b8577"), opacity=0.5), (Seams(),))
    found = render_bytes(build(document(group)))[100, :, 0].astype(int)
    assert abs(found[60] - (255 + 43) / 2) <= 1 and abs(found[150] - (255 + 43) / 2) <= 1
    assert np.abs(found[60:150] - found[60]).max() <= 2
    assert (found[170:] == 255).all() and (found[:39] == 255).all()


@pytest.mark.parametrize("adds_up", [False, True])
@pytest.mark.parametrize("name", ["glass", "sea glass", "clay"])
def test_a_shadow_through_glass_is_coloured_and_lighter(name, adds_up):
    """On white: darkness d and what goes through, t of the colour c, are d + (1 - d) t c of the light."""
    caster = disc(1, 60, 100, 40, solid("#c8402a"), Body("ball", name), CastShadow(1.0, softness=0.0), lift=70.0)
    doc = replace(document(caster, lamp=Lamp(270, 45)), lifts_add_up=adds_up)
    found = render_bytes(build(doc))[100, 155, :3] / 255
    dark, through = np.array(shadow_factor(colour("#ffffff"), 1.0).rgb), MATERIALS[name].clear
    expected = dark + (1 - dark) * through * np.array(colour("#c8402a").rgb)
    assert found == pytest.approx(expected, abs=2 / 255)
    assert (through > 0) == ("glass" in name)
    own = replace(caster, recipe=(*caster.recipe[:2], CastShadow(1.0, softness=0.0, colour=colour("#102030"))))
    chosen = render_bytes(build(replace(document(own, lamp=Lamp(270, 45)), lifts_add_up=adds_up)))[100, 155, :3]
    assert np.abs(chosen.astype(int) - (16, 32, 48)).max() <= 1, "a colour chosen by hand stays"
