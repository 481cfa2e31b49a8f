"""Text, snapping, pictures, points, arranging, combining and finding: the editing core of Draw and Carve."""

import math
import warnings

import numpy as np
import pytest
import uharfbuzz as hb
from PIL import Image as Pillow

from scenes import disc, solid
from volumen.compose.scene import build
from volumen.edit import arrange, combine, objects, plain_forms, recipes, search
from volumen.formats import images, native
from volumen.formats.check import check
from volumen.formats.files import FileProblem
from volumen.geometry import fonts, text
from volumen.geometry import path as path_module
from volumen.geometry.affine import IDENTITY, mirroring, multiply, rotation, scaling, translation
from volumen.geometry.primitives import ellipse, line_between
from volumen.geometry.text import Style, along, layout, words
from volumen.geometry.winding import simplified
from volumen.model.ingredients import (
    Bend,
    Blur,
    CastShadow,
    Fill,
    Line,
    Offset,
    OuterGlow,
    Rim,
    Rounding,
    Sliver,
    Thickness,
)
from volumen.model.make import circle, corner, path_form, smooth
from volumen.model.nodes import (
    CombinedForm,
    Document,
    EllipseForm,
    Group,
    Image,
    PathForm,
    PathPoint,
    PathRun,
    RectangleForm,
    Shape,
    TextForm,
)
from volumen.model.tree import find, walk
from volumen.outline.boxes import node_box
from volumen.outline.hit import hit
from volumen.outline.outlines import member_path, outline
from volumen.render.raster import render_bytes
from volumen.shading.paint import Solid, colour

INK = Line(Solid(colour("#0d1c2a")), 4.0)


def doc_of(*nodes, **more):
    return Document(root=Group(0, "pile", nodes), next_id=max(n.id for b in nodes for n in walk(b)) + 1, **more)


def area_of(shape):
    """The filled area, whatever the fill rule."""
    return abs(simplified(outline(shape)).area())


def box_of(document, *ids):
    return pytest.approx(objects.selection_box(document, ids), abs=0.02)


# -- text


def test_shaping_gives_harfbuzz_its_own_advances_and_ligatures():
    style = Style("Vollkorn", "SemiBold", 100.0)
    font = hb.Font(hb.Face(hb.Blob.from_file_path(str(fonts.match("Vollkorn", "SemiBold").file.path))))
    for line in ("Kelder Sound", "AVATAR To", "office", "1912–2026"):
        buffer = hb.Buffer()
        buffer.add_str(line)
        buffer.guess_segment_properties()
        hb.shape(font, buffer)
        scale = 100 / font.face.upem
        advances = [p.x_advance * scale for p in buffer.glyph_positions]
        glyphs = layout(line, style)
        assert [g.advance for g in glyphs] == pytest.approx(advances)
        assert [g.place[4] for g in glyphs] == pytest.approx(np.cumsum([0, *advances[:-1]]))
    kerned, loose = (
        layout("AVATAR", Style("Vollkorn", "SemiBold", 100, kerning=k))[-1].place[4] for k in (True, False)
    )
    assert kerned < loose - 2
    assert (
        len(layout("office", style)) < 6 == len(layout("office", Style("Vollkorn", "SemiBold", 100, ligatures=False)))
    )


def test_lines_words_alignment_and_text_on_a_path():
    style = Style("Figtree", "Bold", 50, align="centre")
    glyphs = layout("Kelder\nSound", style)
    assert [w for w, _ in words("Kelder\nSound", glyphs)] == ["Kelder", "Sound"]
    box = text.outlines([g for g in glyphs if g.cluster < 6]).bounds()
    assert (box[0] + box[2]) / 2 == pytest.approx(0, abs=3)
    round_path = ellipse(0, 0, 100, 100)
    turned = along("round", Style("Figtree", "Bold", 20), round_path, 0.0, False)
    feet = [math.hypot(*g.place[4:]) for g in turned]
    assert np.allclose(feet, 100, atol=1.5), "every glyph stands on the circle"
    inner = along("round", Style("Figtree", "Bold", 20), round_path, 0.0, True)
    assert text.outlines(inner).bounds()[2] < text.outlines(turned).bounds()[2]
    short = Style("Figtree", "Bold", 20)
    assert len(along("much too long for it", short, line_between((0, 0), (60, 0)), 0, False)) < 10


def test_missing_fonts_are_named_and_substituted():
    found = fonts.match("No Such Face", "Bold")
    assert found.substitute and found.file.family == fonts.DEFAULT_FAMILY
    doc = doc_of(Shape(1, "t", TextForm("Quay", "No Such Face"), (solid("#000000"),)))
    assert any("No Such Face" in f.message and "Vollkorn" in f.message for f in check(doc))
    assert outline(doc.root.children[0]).bounds() is not None


def test_freezing_text_gives_a_group_for_each_word_and_a_shape_for_each_glyph():
    doc = doc_of(Shape(1, "t", TextForm("Net float", "Vollkorn", "SemiBold", 60, 40, 100), (solid("#203040"),)))
    frozen = plain_forms.to_path(doc, 1)
    group = find(frozen, 1)
    assert [g.name for g in group.children] == ["Net", "float"]
    assert [s.name for s in group.children[0].children] == ["N", "e", "t"]
    assert len({n.id for n in walk(frozen.root)}) == len(list(walk(frozen.root))) and frozen.next_id > 8
    off = abs(render_bytes(build(doc)).astype(int) - render_bytes(build(frozen))) > 2
    assert off.mean() < 3e-4, "only where two glyphs' smoothed edges meet"


# -- live forms


def test_lengths_stay_even_when_the_part_is_squashed():
    squash = scaling(1.0, 0.4)
    ring = Shape(1, "r", circle(100, 100, 80), (Offset(-10.0), solid("#000000")), transform=squash)
    inset = outline(ring, squash).transformed(squash).bounds()
    whole = outline(Shape(2, "w", circle(100, 100, 80)), squash).transformed(squash).bounds()
    k = math.sqrt(0.4)  # lengths follow the mean scale
    assert whole[1] - inset[1] == pytest.approx(-10 * k, abs=0.1) or inset[1] - whole[1] == pytest.approx(
        10 * k, abs=0.1
    )
    assert inset[0] - whole[0] == pytest.approx(10 * k, abs=0.1), "as thick at the sides as at the top"
    lined = doc_of(Shape(1, "l", circle(200, 200, 100), (INK,), transform=squash))
    alpha = render_bytes(build(lined, ground=False), 2)[..., 3] / 255 / 2
    middle_row, middle_column = alpha[160].sum() / 2, alpha[:, 400].sum() / 2
    assert middle_row == pytest.approx(middle_column, abs=0.1)


def test_form_changes_act_in_their_order_and_freeze_to_points():
    square = RectangleForm(0, 0, 100, 100)
    first = Shape(1, "a", square, (Rounding(20), Offset(10.0, join="miter"), solid("#000000")))
    second = Shape(1, "b", square, (Offset(10.0, join="miter"), Rounding(20), solid("#000000")))
    assert abs(outline(first).area()) != pytest.approx(abs(outline(second).area()), abs=50)
    assert outline(first).bounds() == pytest.approx((-10, -10, 110, 110), abs=0.05)
    tenth = Shape(1, "p", square, (Offset(-10.0, percent=True),))
    assert outline(tenth).bounds() == pytest.approx((10, 10, 90, 90), abs=0.05)
    bar = Shape(
        1, "t", path_form(corner(0, 0), corner(100, 0), closed=False), (Thickness(20, "butt"), Bend("swell", 0.5))
    )
    assert outline(bar).bounds()[3] == pytest.approx(15, abs=0.1)
    frozen = plain_forms.to_path(doc_of(second), 1)
    assert isinstance(find(frozen, 1).form, PathForm)
    assert not any(isinstance(i, Offset | Rounding) for i in find(frozen, 1).recipe)
    assert area_of(find(frozen, 1)) == pytest.approx(area_of(second), rel=1e-6)


@pytest.mark.parametrize(
    ("operation", "area"),
    [
        ("union", 15000),
        ("subtract", 5000),
        ("intersect", 5000),
        ("exclude", 10000),
        ("divide", 15000),
        ("cut hidden", 15000),
    ],
)
def test_live_combinations_of_a_text_a_primitive_and_a_path(operation, area):
    doc = doc_of(
        Shape(1, "back", RectangleForm(0, 0, 100, 100), (solid("#203040"),)),
        Shape(
            2, "front", path_form(corner(50, 0), corner(150, 0), corner(150, 100), corner(50, 100)), (solid("#c8402a"),)
        ),
    )
    doc, made = combine.combine(doc, [1, 2], operation)
    whole = find(doc, made)
    assert area_of(whole) == pytest.approx(area)
    moved = objects.transform(doc, [2], translation(50, 0))
    assert area_of(find(moved, made)) != pytest.approx(area, abs=1)
    assert hit(doc, (75, 50) if operation == "intersect" else (25, 50)) == [made]
    plain, ids = combine.combine_once(doc_of(*(find(doc, i) for i in (1, 2))), [1, 2], operation)
    assert all(isinstance(find(plain, i).form, PathForm) for i in ids)
    free, back = combine.release(doc, [made])
    assert [n.id for n in free.root.children] == back == [1, 2]
    assert not any(n.member for n in walk(free.root))
    cut = Shape(9, "t", TextForm("O", "Bebas Neue", "Regular", 120, 20, 95), (solid("#ffffff"),))
    three, again = combine.combine(objects.insert(doc, 0, (cut,)), [made, 9], "subtract")
    assert 0 < area_of(find(three, again)) < area


def test_divided_pieces_keep_the_looks_of_their_members():
    doc = doc_of(disc(1, 80, 100, 50), disc(2, 120, 100, 50, solid("#c8402a")))
    doc, _ = combine.combine(doc, [1, 2], "cut hidden")
    pixels = render_bytes(build(doc))
    assert tuple(pixels[100, 100, :3]) == tuple(pixels[100, 150, :3]) != tuple(pixels[100, 50, :3])
    split, ids = combine.combine_once(doc_of(disc(1, 80, 100, 50), disc(2, 120, 100, 50)), [1, 2], "divide")
    assert len(ids) == 3 and len(split.root.children) == 3


def test_areas_are_merged_and_removed_in_shapes():
    from volumen.geometry.enclosed_areas import arrange as net_of

    doc = doc_of(disc(1, 80, 100, 50), disc(2, 120, 100, 50, solid("#c8402a")))
    sources = combine.area_sources(doc, [1, 2])
    net = net_of([p for _, p in sources])
    lens = net.at((100, 100))
    taken, made = combine.merge_areas(doc, net.outline([lens]), [1, 2], "lens", (solid("#000000"),))
    assert taken.root.children[-1].id == made
    gone = combine.cut_areas(doc, net.outline([lens]), [1, 2])
    assert hit(gone, (100, 100)) == [] and hit(gone, (50, 100)) == [1] and hit(gone, (150, 100)) == [2]
    all_gone = combine.cut_areas(doc, net.outline(range(3)), [1, 2])
    assert all_gone.root.children == ()


def test_a_knockout_lets_the_stock_show_and_stays_live():
    doc = doc_of(disc(1, 100, 100, 80), Group(2, "g", (disc(3, 100, 100, 60, solid("#c8402a")), disc(4, 100, 100, 20))))
    knocked = objects.set_fields(doc, [4], knockout=True)
    pixels = render_bytes(build(knocked))
    assert tuple(pixels[100, 100, :3]) == tuple(render_bytes(build(doc_of(disc(1, 100, 100, 80))))[100, 100, :3])
    at_root = objects.set_fields(objects.move_in_tree(knocked, [4], 0, 2), [4], knockout=True)
    assert tuple(render_bytes(build(at_root))[100, 100, :3]) == (255, 255, 255)
    assert tuple(render_bytes(build(objects.set_fields(at_root, [4], visible=False)))[100, 100, :3]) != (255, 255, 255)


def test_a_rim_goes_round_the_whole_group_and_follows_it():
    group = Group(1, "g", (disc(2, 80, 100, 30), disc(3, 130, 100, 30)), (Rim(colour("#ffffff"), 12.0),))
    chunk = build(doc_of(group)).chunks[0]
    assert chunk.box == pytest.approx((38, 58, 172, 142), abs=0.2)
    ring = (
        plain_forms.path_form(ellipse(100, 100, 60, 60)).runs
        + plain_forms.path_form(ellipse(100, 100, 30, 30)).runs[::-1]
    )
    hole = Shape(1, "ring", PathForm(ring), (solid("#000000"), Rim(colour("#c8402a"), 5.0)))
    assert hole.recipe[1].fill_holes
    wider = objects.transform(doc_of(group), [3], translation(40, 0))
    assert build(wider).chunks[0].box[2] == pytest.approx(212, abs=0.2)


def test_line_sides_and_dashes():
    def covered(**fields):
        shape = Shape(1, "s", RectangleForm(50, 50, 100, 100), (Line(Solid(colour("#000000")), 10.0, **fields),))
        return render_bytes(build(doc_of(shape), ground=False))[..., 3].sum() / 255

    assert covered() == pytest.approx(110**2 - 90**2, rel=0.01)
    assert covered(side="inside") == pytest.approx(100**2 - 80**2, rel=0.01)
    assert covered(side="outside") == pytest.approx(120**2 - 100**2, rel=0.01)
    assert covered(dashes=(10.0, 10.0)) == pytest.approx(covered() / 2, rel=0.03)


# -- arranging, finding


def test_align_distribute_and_gaps():
    doc = doc_of(disc(1, 20, 20, 10), disc(2, 60, 50, 20), disc(3, 200, 90, 10))
    whole = objects.selection_box(doc, [1, 2, 3])
    left = arrange.align(doc, [1, 2, 3], "left", whole)
    assert {round(objects.selection_box(left, [i])[0], 6) for i in (1, 2, 3)} == {10}
    middle = arrange.align(doc, [1, 2, 3], "middle", objects.selection_box(doc, [2]), keep=2)
    assert objects.selection_box(middle, [2]) == box_of(doc, 2)
    even = arrange.distribute(doc, [1, 2, 3], "across", "gaps")
    boxes = [objects.selection_box(even, [i]) for i in (1, 2, 3)]
    assert boxes[1][0] - boxes[0][2] == pytest.approx(boxes[2][0] - boxes[1][2])
    given = arrange.distribute(doc, [1, 2, 3], "across", "gaps", 5.0)
    assert objects.selection_box(given, [2])[0] == pytest.approx(35)
    centred = arrange.distribute(doc, [1, 2, 3], "across", "centres")
    assert sum(objects.selection_box(centred, [2])[::2]) / 2 == pytest.approx(110)


def test_step_copies_close_exactly_and_mirrors_mirror():
    doc = doc_of(disc(1, 100, 40, 10))
    around, made = arrange.step_copies(doc, [1], 7, (100, 100), None)
    assert len(made) == 6
    last = find(around, made[-1]).transform
    assert multiply(rotation(360 / 7, (100, 100)), last) == pytest.approx(IDENTITY, abs=1e-9)
    row, made = arrange.step_copies(doc, [1], 4, (0, 0), 0.0, (30.0, 0.0))
    assert objects.selection_box(row, [made[-1]])[0] == pytest.approx(180)
    assert mirroring(90, (50, 0)) == pytest.approx((-1, 0, 0, 1, 100, 0), abs=1e-9)
    slant = arrange.skewing(45, 0, (0, 10))
    assert (slant[0] * 0 + slant[2] * 20 + slant[4]) == pytest.approx(10)
    copied, made = arrange.mirror_copy(doc, [1], 90, (150, 0))
    assert objects.selection_box(copied, made)[0] == pytest.approx(190)


def test_lengths_keep_their_size_when_wished():
    doc = doc_of(Shape(1, "s", circle(50, 50, 40), (Rounding(6.0), INK, Sliver(depth=8.0)), lift=12.0))
    doubled = arrange.keep_lengths(objects.transform(doc, [1], scaling(2, 2)), [1], 2.0)
    rounding, line, sliver = find(doubled, 1).recipe
    assert (rounding.radius, line.width, sliver.depth, find(doubled, 1).lift) == (3, 2, 4, 6)


def test_alike_duplicates_and_strays():
    doc = doc_of(
        disc(1, 50, 50, 20), disc(2, 90, 50, 20), disc(3, 50, 50, 20),
        Shape(4, "dot", PathForm((PathRun((PathPoint((5, 5), (5, 5), (5, 5)),)),)), (INK,)),
        Shape(5, "empty text", TextForm(" "), (solid("#000000"),)),
    )  # fmt: skip
    assert search.alike(doc, 1, "paint") == [1, 2, 3]
    assert search.alike(doc, 4, "kind") == [4]
    assert search.duplicates(doc) == [3]
    assert search.strays(doc) == [4, 5]


# -- pictures


@pytest.mark.parametrize("mode", ["1", "L", "LA", "P", "RGB", "RGBA", "CMYK", "I;16", "F", "YCbCr"])
def test_pictures_of_any_mode_are_placed(tmp_path, mode):
    suffix = ".tif" if mode in ("CMYK", "F", "I;16") else (".jpg" if mode == "YCbCr" else ".png")
    if mode in ("I;16", "F"):
        values = np.tile(np.linspace(0, 65535 if mode == "I;16" else 1, 40), (30, 1))
        picture = Pillow.fromarray(values.astype(np.uint16 if mode == "I;16" else np.float32))
    else:
        picture = Pillow.linear_gradient("L").resize((40, 30)).convert("RGB").convert(mode)
    picture.save(tmp_path / f"p{suffix}")
    asset, width, height = images.place(tmp_path / f"p{suffix}")
    assert (width, height) == (40, 30)
    doc = doc_of(Image(1, "ref", asset.key, 80, 60), assets=(asset,))
    assert len(build(doc, references=True).chunks) == 1
    assert build(doc).chunks == (), "no export holds it"
    shown = render_bytes(build(doc, references=True))
    assert shown[5, 5, :3].astype(int).sum() != shown[55, 75, :3].astype(int).sum()


def test_orientation_size_and_broken_pictures(tmp_path):
    picture = Pillow.new("RGB", (40, 20), "red")
    exif = picture.getexif()
    exif[0x0112] = 6
    picture.save(tmp_path / "turned.jpg", exif=exif)
    assert images.place(tmp_path / "turned.jpg")[1:] == (20, 40)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        Pillow.new("L", (9000, 30)).save(tmp_path / "wide.png")
    assert images.place(tmp_path / "wide.png")[1] == 6000
    (tmp_path / "no.png").write_bytes(b"nothing")
    (tmp_path / "cut.png").write_bytes((tmp_path / "wide.png").read_bytes()[:60])
    for name in ("no.png", "cut.png", "absent.png"):
        with pytest.raises(FileProblem, match=name):
            images.place(tmp_path / name)


def test_a_reference_takes_shadows_tints_and_blurs_on_the_canvas_only(tmp_path):
    Pillow.new("RGB", (8, 8), "teal").save(tmp_path / "r.png")
    asset, _, _ = images.place(tmp_path / "r.png")
    doc = doc_of(Image(1, "ref", asset.key, 60, 60, transform=(1, 0, 0, 1, 20, 20)), assets=(asset,))
    plain = render_bytes(build(doc, references=True))
    for ingredient in (
        CastShadow(),
        Fill(Solid(colour("#c8402a")), 0.5, "multiply"),
        OuterGlow(colour("#c8402a"), blend="normal"),
        Blur(3.0),
    ):
        more = recipes.add(doc, [1], ingredient)
        assert np.abs(render_bytes(build(more, references=True)).astype(int) - plain).max() > 20, ingredient
        assert build(more).chunks == ()
    assert find(recipes.add(doc, [1], Rounding(5.0)), 1).recipe == (), "it has no corners to round"


def test_references_travel_in_the_file(tmp_path):
    Pillow.new("RGB", (8, 8), "teal").save(tmp_path / "r.png")
    asset, w, h = images.place(tmp_path / "r.png")
    doc = doc_of(Image(1, "ref", asset.key, w, h, opacity=0.4, locked=True), assets=(asset,))
    native.save(doc, tmp_path / "f.volumen")
    assert native.load(tmp_path / "f.volumen") == doc
    assert node_box(doc.root.children[0]) == (0, 0, 8, 8)


def test_members_hold_lines_as_bands_and_hidden_ones_not_at_all():
    line = Shape(1, "l", path_form(corner(0, 0), corner(100, 0), closed=False), (INK,))
    assert abs(member_path(line, IDENTITY).area()) == pytest.approx(400, rel=1e-3)
    assert not member_path(objects.replace(line, visible=False), IDENTITY)
    group = Group(2, "g", (disc(3, 0, 0, 10), disc(4, 100, 0, 10)))
    assert abs(member_path(group, IDENTITY).area()) == pytest.approx(2 * math.pi * 100, rel=1e-3)
    pie = EllipseForm(0, 0, 100, 100, 0, 90)
    assert abs(outline(Shape(5, "p", pie)).area()) == pytest.approx(math.pi * 2500 / 4, rel=1e-3)
    assert CombinedForm().operation == "union" and isinstance(Fill(Solid(colour("#000000"))), Fill)


def test_the_boxes_of_a_ring_of_copies_are_worked_out_once(monkeypatch):
    """The panels ask for them after each edit: three hundred turned copies took a quarter of a second each time."""
    form = path_form(smooth(50, 0, 0, 30), smooth(0, 40, -20, 9), smooth(-50, 0, 0, -30))
    ring = Group(0, "ring", tuple(Shape(k + 1, "leaf", form, (), transform=rotation(k * 1.1)) for k in range(300)))
    made = []
    monkeypatch.setattr(path_module, "_tight_bounds", lambda c, f=path_module._tight_bounds: made.append(1) or f(c))
    first = node_box(ring)
    assert len(made) == 300
    assert node_box(ring) == first and len(made) == 300
