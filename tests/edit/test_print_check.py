"""Print checks: planted faults are found, each mended by the least that is enough; right artwork has none."""

import numpy as np
import pytest
from click.testing import CliRunner
from msgspec.structs import replace

from scenes import disc, document
from volumen.cli import main
from volumen.colour.difference import srgb_difference
from volumen.colour.press import press_difference, separated, total_ink
from volumen.colour.press_settings import Press
from volumen.demo import DEMOS
from volumen.devices.cutter import Cutter
from volumen.edit import objects
from volumen.edit.die_lines import with_die_line
from volumen.edit.print_check import MM, PT, faults, mended_print
from volumen.formats import native
from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.model.ingredients import Body, Fill, Line, Relief, Sliver
from volumen.model.inks import Ink
from volumen.model.make import corner, linear, path_form, solid
from volumen.model.nodes import Group, Palette, PathForm, RectangleForm, Shape, Sheet, Swatch, TextForm
from volumen.model.tree import find
from volumen.shading.paint import Solid, colour, tinted

COATED = Press()
INK, GREEN, PAPER = "#14212b", "#00ff28", "#f2e9d8"


def text(size, own=INK, k=1, recipe=(), **more):
    return Shape(k, "word", TextForm("KELDER", size=size, x=40, y=100), (solid(own), *recipe), **more)


def with_line(width, k=1, **more):
    return disc(k, 100, 100, 40, solid(PAPER), Line(Solid(colour(INK)), width), **more)


RIGHT = [
    text(5 * PT), with_line(0.2 * MM), with_line(0.05 * MM, visible=False), disc(1, 100, 100, 40, Sliver(depth=0.2 * MM)),
    text(7 * PT, PAPER, k=2), disc(1, 100, 100, 40, solid("#3c6e71")), text(40, "#e9dfcf", recipe=(Relief(),)),
    with_line(0.1 * MM, transform=scaling(2.0, 2.0, (100, 100))),
    disc(1, 100, 100, 40, replace(solid(GREEN), on=False)), disc(1, 100, 100, 40, solid("#ffffff")),
    disc(1, 100, 100, 40, replace(solid(INK), paint=linear((0, 0), (300, 0), (0, "#304048"), (1, "#f2e9d8")))),
    disc(1, 100, 100, 40, replace(solid(INK), paint=linear((0, 0), (300, 0), (0, "#707070"), (1, "#707070")))),
]  # fmt: skip
DARK = Shape(9, "night", RectangleForm(30, 30, 140, 140), (solid("#101820"),))
WRONG = [
    ("line", with_line(0.15 * MM), COATED), ("line", with_line(0.3 * MM, transform=scaling(0.5, 0.5)), COATED),
    ("sliver", disc(1, 100, 100, 40, solid(PAPER), Sliver(depth=-0.1 * MM)), COATED),
    ("type", text(4.5 * PT), COATED), ("contrast", text(40, "#e8e4da"), COATED),
    ("gamut", disc(1, 100, 100, 40, solid(GREEN)), COATED),
    ("gamut", disc(1, 100, 100, 40, replace(solid(INK), paint=linear((0, 0), (9, 9), (0, INK), (1, GREEN)))), COATED),
    ("ink", disc(1, 100, 100, 40, solid("#0a0a0a")), Press(limit=240.0)),
    ("white", disc(1, 100, 100, 40, solid("#fefdfb")), COATED),
    ("bands", disc(1, 100, 100, 40, replace(solid(INK), paint=linear((0, 0), (300, 0), (0, "#707070"), (1, "#727272")))), COATED),
]  # fmt: skip


@pytest.mark.parametrize("node", RIGHT)
def test_what_is_right_is_left_alone(node):
    ground = (DARK,) if node.id == 2 else ()
    doc = document(*ground, node)
    assert faults(doc, COATED) == []


@pytest.mark.parametrize(("what", "node", "press"), WRONG)
def test_a_planted_fault_is_found_alone_and_mended_where_it_can_be(what, node, press):
    doc = document(disc(5, 150, 150, 20, solid("#3c6e71")), node)
    found = faults(doc, press)
    assert [(f.what, f.node) for f in found] == [(what, 1)]
    made = mended_print(doc, found, press)
    assert (faults(made, press) == []) == bool(found[0].mend)
    assert made.root.children[0] == doc.root.children[0]
    if not found[0].mend:
        assert made == doc and what in ("type", "contrast")


@pytest.mark.parametrize("turn", [0, 90, 180, 30])
def test_edges_without_bleed_are_told_and_stretched(turn):
    """A ground exactly as large as the sheet, in turned places too: first bleed, then the ground reaches over it."""
    place = multiply(rotation(turn, (100, 100)), translation(0, 0))
    ground = Shape(1, "ground", RectangleForm(0, 0, 200, 200), (solid(PAPER),), transform=place)
    doc = replace(document(ground), sheet=Sheet(200, 200, None))
    first = faults(doc, COATED)
    assert [f.what for f in first] == ["bleed"] and "no bleed" in first[0].message
    doc = mended_print(doc, first, COATED)
    assert doc.sheet.bleed == 3 * MM
    second = faults(doc, COATED)
    if turn == 30:
        assert second == [], "its corners reach far beyond, and its sides do not meet the edges"
        return
    assert [(f.what, f.node) for f in second] == [("short of bleed", 1)] and "3.0 mm short" in second[0].message
    assert faults(mended_print(doc, second, COATED), COATED) == []


def test_mending_is_the_least_that_is_enough():
    """A line gets just the least width, on the sheet; a colour comes into gamut, or below the limit, near what it was."""
    doc = document(with_line(0.01 * MM, transform=scaling(0.25, 0.25)))
    line = mended_print(doc, faults(doc, COATED), COATED).root.children[0].recipe[1]
    assert line.width * 0.25 == pytest.approx(0.2 * MM)
    doc = document(disc(1, 100, 100, 40, solid(GREEN)))
    c = mended_print(doc, faults(doc, COATED), COATED).root.children[0].recipe[0].paint.colour
    rgb = np.round(np.array([c.rgb]) * 255).astype(np.uint8)
    assert press_difference(rgb, COATED)[0] < 2
    tight, axis = Press(limit=250.0), np.arange(0, 90, 3, dtype=np.uint8)
    all_dark = np.stack(np.meshgrid(axis, axis, axis), axis=-1).reshape(-1, 3)
    dry = all_dark[total_ink(separated(all_dark, tight)) <= 250] / 255
    for dark in ("#0a0a0a", "#101c30", "#301010"):
        doc = document(disc(1, 100, 100, 40, solid(dark)))
        c = mended_print(doc, faults(doc, tight), tight).root.children[0].recipe[0].paint.colour
        rgb = np.round(np.array([c.rgb]) * 255).astype(np.uint8)
        assert total_ink(separated(rgb, tight))[0] <= 250
        nearest = srgb_difference(dry, np.broadcast_to(colour(dark).rgb, dry.shape)).min()
        assert srgb_difference([c.rgb], [colour(dark).rgb])[0] < nearest + 0.3, "no dark colour with less ink is nearer"


def test_the_cutter_needs_more_than_the_press():
    doc = document(with_line(0.3 * MM))
    assert faults(doc, COATED) == []
    (found,) = faults(doc, COATED, "cutter")
    assert (
        found.what == "line"
        and mended_print(doc, [found], COATED, "cutter").root.children[0].recipe[1].width == 0.5 * MM
    )


def test_the_command_line_gives_the_same(tmp_path):
    held = Group(7, "group", (with_line(0.1 * MM), text(3 * PT, k=2)))
    native.save(document(held), tmp_path / "a.volumen")
    made = CliRunner().invoke(main, ["check", str(tmp_path / "a.volumen"), "--press", "coated", "--json"])
    assert made.exit_code == 0 and '"level":"print"' in made.output
    assert "line: a line of 0.10 mm" in made.output and "type: letters of 3.0 pt" in made.output
    made = CliRunner().invoke(main, ["check", str(tmp_path / "a.volumen"), "--press", "/etc/hosts"])
    assert made.exit_code == 1 and "no ICC profile" in made.output


def test_inks_without_names_and_coarse_pixels_are_faults_of_the_sheet():
    """Names come from the swatches, each its own; what light makes of an ink is told at its object."""
    swatches = (
        Swatch(1, "Copper", colour("#b8683c"), ink=Ink(" ")),
        Swatch(2, "copper", colour("#a06030"), ink=Ink("Copper")),
    )
    lit = disc(3, 100, 100, 40, Fill(Solid(swatches[1].colour, 2)), Body())
    plain = disc(4, 160, 100, 20, Fill(Solid(tinted(swatches[1].colour, 0.4), 2, tint=0.4)))
    doc = replace(document(lit, plain), palette=Palette(swatches, next_id=3))
    doc = replace(doc, sheet=replace(doc.sheet, dpi=120.0))
    found = faults(doc, COATED)
    assert [(f.what, f.node) for f in found] == [("ink names", 0), ("dpi", 0), ("spot ink", 3)]
    made = mended_print(doc, found, COATED)
    assert [s.ink.name for s in made.palette.swatches] == ["Copper", "Copper 2"] and made.sheet.dpi == 300
    assert [f.what for f in faults(made, COATED)] == ["spot ink"]


@pytest.mark.parametrize(("name", "press", "device"), [
    ("tote", COATED, "press"), ("tea-label", COATED, "press"), ("tea-label", Press("uncoated"), "press"), ("tea-label", COATED, "cutter"),
])  # fmt: skip
def test_demos_made_for_print_have_no_findings(name, press, device):
    assert faults(DEMOS[name][1](), press, device) == []


def test_only_lines_that_run_along_one_another_are_cut_twice():
    """Shapes that share a side, or lie on one another in turned places; not those that cross or only touch."""
    left = Shape(1, "left", RectangleForm(20, 20, 60, 60), (solid(PAPER),))
    right = Shape(2, "right", RectangleForm(80, 40, 60, 60), (solid(PAPER),))
    crossing = Shape(3, "crossing", RectangleForm(50, 10, 10, 180), (solid(PAPER),))
    turned = disc(4, 150, 150, 20, solid(PAPER), transform=rotation(40, (150, 150)))
    same = disc(5, 150, 150, 20, solid(PAPER))
    found = faults(document(left, right, crossing, turned, same), COATED, "cutter")
    assert [(f.what, f.node) for f in found] == [("cut", 2), ("cut", 5)]
    told = [float(f.message.split()[0]) for f in found]
    assert told == pytest.approx([40 / MM, 40 * np.pi / MM], abs=0.25), (
        "each end may lie a tenth of a millimetre further"
    )


def test_the_check_says_when_the_die_line_does_not_follow(tmp_path):
    doc, line = with_die_line(document(disc(1, 100, 100, 40), side=300))
    assert not [f for f in faults(doc, Press(), "cutter") if f.what == "die line"]
    moved = objects.transform(doc, [1], translation(12, 0))
    (found,) = [f for f in faults(moved, Press(), "cutter") if f.what == "die line"]
    assert found.node == line and "3.2 mm off" in found.message
    mended = mended_print(moved, [found], Press(), "cutter")
    assert not [f for f in faults(mended, Press(), "cutter") if f.what == "die line"]
    wider = with_die_line(doc, Cutter(gap=6.0))[0]
    assert not [f for f in faults(wider, Press(), "cutter") if f.what == "die line"], "it has a gap of its own"
    by_hand = objects.set_form(wider, line, PathForm(find(wider, line).form.runs))
    assert [f for f in faults(by_hand, Press(), "cutter") if f.what == "die line"]
    assert not [f for f in faults(by_hand, Press(), "cutter", Cutter(gap=6.0)) if f.what == "die line"]


@pytest.mark.parametrize(("wide", "press", "cutter"), [(0.15, True, True), (0.4, False, True), (4.0, False, False)])
def test_thin_filled_shapes_and_tapering_lines_are_found(wide, press, cutter):
    line = Line(Solid(colour("#222222")), 2 * wide * MM, profile=((0.0, 1.0, 1.0), (1.0, 0.4, 0.4)))
    stroke = Shape(1, "stroke", path_form(corner(20, 20), corner(200, 60), closed=False), (line,))
    bar = Shape(2, "bar", RectangleForm(30, 30, wide * MM, 40 * MM), (solid("#2b8577"),))
    for node, what in ((bar, "part"), (stroke, "tapering line")):
        for device, expected in (("press", press), ("cutter", cutter)):
            found = [f for f in faults(document(node, side=300.0), Press(), device) if f.what == what]
            assert bool(found) == expected, (what, device)


def test_corners_and_tips_are_no_thin_parts():
    square = Shape(1, "square", RectangleForm(20, 20, 60, 60), (solid("#2b8577"),))
    spike = Shape(2, "spike", path_form(corner(100, 20), corner(120, 100), corner(80, 100)), (solid("#2b8577"),))
    doc = document(square, spike, side=300.0)
    assert not [f for f in faults(doc, Press(), "cutter") if f.what == "part"]
