"""The simulated devices against closed forms: areas, lengths, tones, places."""

import numpy as np
import pytest
import shapely
from msgspec.structs import replace
from PIL import Image
from shapely.affinity import rotate

from scenes import disc, document
from volumen.colour.difference import srgb_difference
from volumen.colour.press import ProfileProblem, printed
from volumen.colour.press_settings import Press
from volumen.devices.cover import DeviceProblem, artwork_box, cover, die_lines, stock_hidden, without_stock
from volumen.devices.cutter import Cutter, die_line, plan
from volumen.devices.garment import GarmentPrinter, underbase
from volumen.devices.press import Plates, PressRun, grown, print_sheet, read_plates
from volumen.devices.scanner import Scan, scanned, straightened
from volumen.edit.die_lines import with_die_line
from volumen.geometry.affine import rotation, translation
from volumen.geometry.curve import flatten
from volumen.geometry.path import Path
from volumen.model.make import corner, path_form, solid
from volumen.model.nodes import Group, RectangleForm, Shape, TextForm
from volumen.model.sheet import PER_UNIT
from volumen.outline.forms import source_outline

MM = PER_UNIT["mm"]


def box(node_id, x, y, w, h, **more):
    """A rectangle in mm."""
    return Shape(node_id, f"box {node_id}", RectangleForm(x * MM, y * MM, w * MM, h * MM), (solid("#1d3a55"),), **more)


def polygon(path):
    """Even-odd, in mm."""
    made = shapely.Polygon()
    for contour in path.contours:
        points, _ = flatten(contour, 0.01)
        made = made.symmetric_difference(shapely.make_valid(shapely.Polygon(points / MM)))
    return made


def group(node_id, *children, **more):
    return Group(node_id, f"group {node_id}", children, **more)


def test_the_cover_holds_what_is_seen_and_knockouts_take_from_what_lies_beneath():
    """As shapely has it: a hole only takes from its own group and from what lies before it in the pile."""
    below, above = box(1, 0, 0, 40, 30), box(3, 20, 20, 30, 20)
    hole = box(2, 5, 5, 10, 10, knockout=True)
    rect = shapely.box
    cases = [
        ((below, hole, above), rect(0, 0, 40, 30) - rect(5, 5, 15, 15) | rect(20, 20, 50, 40)),
        ((below, group(9, hole), above), rect(0, 0, 40, 30) | rect(20, 20, 50, 40)),
        ((group(9, below, hole), above), rect(0, 0, 40, 30) - rect(5, 5, 15, 15) | rect(20, 20, 50, 40)),
        ((above, replace(below, visible=False)), rect(20, 20, 50, 40)),
        ((replace(below, stock=True), above), rect(20, 20, 50, 40)),
        ((replace(below, substance=False), above), rect(20, 20, 50, 40)),
        ((replace(below, children=(hole,)), above), rect(0, 0, 40, 30) - rect(5, 5, 15, 15) | rect(20, 20, 50, 40)),
        ((replace(below, transform=translation(10 * MM, 0)),), rect(10, 0, 50, 30)),
    ]  # fmt: skip
    for nodes, wanted in cases:
        made = polygon(cover(document(*nodes)))
        assert made.symmetric_difference(wanted).area < 0.05, "mm2"


def test_the_underbase_is_choked_and_what_is_too_thin_gets_none():
    doc = document(box(1, 10, 10, 40, 40), box(2, 20, 20, 10, 10, knockout=True), box(3, 55, 10, 0.5, 20))
    made = underbase(doc, GarmentPrinter(choke=0.3, finest=0.3))
    assert made.ink_mm2 == pytest.approx(40 * 40 - 100 + 10, abs=0.05)
    hole = shapely.box(20, 20, 30, 30).buffer(0.3)
    wanted = shapely.box(10.3, 10.3, 49.7, 49.7) - hole
    assert made.white_mm2 == pytest.approx(wanted.area, rel=2e-4)
    assert polygon(made.white).symmetric_difference(wanted).area < 0.2
    assert polygon(made.white).difference(polygon(made.ink)).area < 1e-3, "white never looks out"
    assert made.bare_mm2 == pytest.approx(10.0, abs=0.1), "a bar of half a millimetre has none"
    assert underbase(doc, GarmentPrinter(0.0, 0.0)).white_mm2 == pytest.approx(made.ink_mm2, rel=1e-4)
    with pytest.raises(DeviceProblem, match="nothing to print"):
        underbase(document(box(1, 0, 0, 9, 9, visible=False)))


@pytest.mark.parametrize("turn", [0, 33])
def test_the_die_line_keeps_its_gap_fills_holes_and_is_no_tighter_than_the_blade(turn):
    """A square with a hole and a narrow bay: exact against buffers."""
    place = rotation(turn, (40 * MM, 40 * MM))
    nodes = (box(1, 20, 20, 40, 40), box(2, 30, 30, 5, 5, knockout=True), box(3, 20, 62, 40, 10))
    doc = document(Group(9, "all", nodes, transform=place), side=400)
    cutter = Cutter(gap=2.0, radius=1.5)
    made = polygon(die_line(doc, cutter))
    art = rotate(shapely.box(20, 20, 60, 60) | shapely.box(20, 62, 60, 72), turn, origin=(40, 40))
    wanted = art.buffer(3.5).buffer(-3.0).buffer(1.5)
    assert made.symmetric_difference(wanted).area / wanted.area < 2e-3
    assert art.distance(made.exterior) == pytest.approx(2.0, abs=0.03) and not made.interiors
    assert plan(die_line(doc, cutter), cutter).tight == ()
    with pytest.raises(DeviceProblem, match="nothing to cut"):
        die_line(document(), cutter)


def test_a_plan_cuts_inner_lines_first_and_tells_time_and_tight_corners():
    ring = polygon_path([(0, 0), (60, 0), (60, 60), (0, 60)]), polygon_path([(20, 20), (30, 20), (30, 30), (20, 30)])
    path = Path(tuple(c for p in ring for c in p.contours))
    cutter = Cutter(radius=1.0, cutting=50.0, moving=100.0, halt=0.5)
    made = plan(path, cutter)
    assert [c.points[0].tolist() for c in made.lines] == [[20 * MM, 20 * MM], [0, 0]], "the hole before the border"
    assert made.cut_mm == pytest.approx(280)
    travel = np.hypot(20, 20) * 2
    assert made.travel_mm == pytest.approx(travel) and made.seconds == pytest.approx(280 / 50 + travel / 100 + 8 * 0.5)
    assert len(made.tight) == 8 and max(t.radius for t in made.tight) < 0.5, "each corner once"
    assert all(not plan(path, Cutter(radius=r)).tight for r in (0.0, 1e-320, 1e-9)), "no blade is too fine"
    assert plan(Path()).lines == ()


def polygon_path(points):
    return source_outline(path_form(*(corner(x * MM, y * MM) for x, y in points)))


def test_the_die_line_becomes_an_object_that_prints_on_nothing_and_is_renewed():
    doc = document(disc(1, 100, 100, 40), Shape(2, "word", TextForm("KS", size=30, x=80, y=60), (solid("#1d3a55"),)))
    made, line = with_die_line(doc)
    node = made.root.children[-1]
    assert (node.id, node.name) == (line, "die line") and not node.substance and made.next_id > line
    inks = [s.ink for s in made.palette.swatches]
    assert inks[0].overprints and die_lines(made) == [line]
    again, same = with_die_line(made, Cutter(gap=5.0))
    assert same == line and len(again.root.children) == len(made.root.children) and len(again.palette.swatches) == 1
    assert polygon(cover(again)).symmetric_difference(polygon(cover(doc))).area < 1e-6
    assert [n.visible for n in stock_hidden(made).root.children] == [True, True, False]


def test_stock_in_the_drawing_is_left_out_of_what_is_printed():
    doc = document(box(1, 0, 0, 50, 50, stock=True), box(2, 10, 20, 20, 10))
    left, top, right, foot = artwork_box(doc)
    assert (left / MM, top / MM, right / MM, foot / MM) == pytest.approx((10, 20, 30, 30))
    alone = without_stock(doc)
    assert [c.children[0].id for c in alone.root.children] == [2] and alone.sheet.width < doc.sheet.width
    plain = document(box(2, 10, 20, 20, 10))
    assert without_stock(plain) is plain and artwork_box(plain) == (0, 0, 200, 200)


def test_a_press_grows_tones_and_lays_plates_astray():
    tones = np.arange(256, dtype=np.uint8)
    made = grown(tones, 0.1).astype(int)
    assert (
        (made[0], made[255]) == (0, 255)
        and made[128] == pytest.approx(128 + 25.5, abs=1)
        and (np.diff(made) >= 0).all()
    )
    inks = np.zeros((60, 60, 5), np.uint8)
    inks[20:40, 20:40] = 255
    plates = Plates(inks, ((0.7, 0.4, 0.2),), 254.0)
    true = print_sheet(plates, Press(), PressRun(0.0, 0.0)).pixels
    paper = printed(np.zeros((1, 4), np.uint8), Press(paper=True))[0]
    assert (true[5, 5] == paper).all(), "the white of the paper"
    off = print_sheet(plates, Press(), PressRun(0.0, 0.2)).pixels  # 2 pixels
    assert (off[30, 30] == true[30, 30]).all() and (off[5, 5] == paper).all()
    assert (off[19:41, 19:41] != true[19:41, 19:41]).any() and (off[18:42, 17:19] != true[18:42, 17:19]).any(), (
        "fringes beside it"
    )


def test_a_press_takes_files_in_inks_and_says_what_it_cannot_print(tmp_path):
    Image.fromarray(np.full((9, 9, 3), 200, np.uint8)).save(tmp_path / "rgb.tif")
    (tmp_path / "text.pdf").write_bytes(b"%PDF-1.4 nothing")
    (tmp_path / "empty.tif").write_bytes(b"")
    for name, words in (
        ("rgb.tif", "not in the inks"),
        ("text.pdf", "cannot be read as a PDF"),
        ("empty.tif", "neither"),
        ("none.tif", "cannot be read"),
    ):
        with pytest.raises(DeviceProblem, match=words):
            read_plates(tmp_path / name, Press())
    with pytest.raises(ProfileProblem):
        print_sheet(Plates(np.zeros((2, 2, 4), np.uint8), (), 72.0), Press("nowhere.icc"))
    Image.fromarray(np.full((322, 478, 4), 90, np.uint8), "CMYK").save(tmp_path / "inks.tif", dpi=(150, 150))
    for wide in (0, 7, 100, 313, 477, 478):
        read = read_plates(tmp_path / "inks.tif", Press(), wide=wide)
        assert read.size == pytest.approx((478 / 150 * 25.4, 322 / 150 * 25.4)), "its own, not that of the pixels read"


@pytest.mark.parametrize(("skew", "cast"), [(0.0, 0.0), (2.5, 1.0), (-4.0, 0.5)])
def test_a_scan_is_put_straight_and_loses_its_cast(skew, cast):
    """Mean CIEDE2000 below 1.5 (resampling at edges, dust); the cast alone is 4 and more."""
    rng = np.random.default_rng(1)
    tones = rng.integers(40, 240, (6, 8, 3)).astype(np.uint8)
    drawing = np.asarray(Image.fromarray(tones).resize((480, 360), Image.Resampling.BICUBIC))
    scan = scanned(drawing, Scan(skew=skew, cast=cast, dust=20.0))
    made, found = straightened(scan)
    assert found == pytest.approx(skew, abs=0.1)
    assert abs(made.shape[0] - 360) <= 2 and abs(made.shape[1] - 480) <= 2
    same = np.asarray(Image.fromarray(made).resize((480, 360)))
    assert srgb_difference(same / 255, drawing / 255).mean() < 1.5
    again = scanned(drawing, Scan(skew=skew, cast=cast, dust=20.0))
    assert (again == scan).all(), "the same chance each time"


def test_what_has_no_chart_is_told_and_left():
    for picture in (np.full((200, 300, 3), 250, np.uint8), np.zeros((40, 30, 3), np.uint8)):
        with pytest.raises(DeviceProblem, match="no chart"):
            straightened(picture)
