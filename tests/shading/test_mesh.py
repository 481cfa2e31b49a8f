"""Gradient meshes: surface, colour, editing, fitting, pixels, and true meshes in PDF."""

import numpy as np
import pytest

from agreement import by_all, by_resvg, compare, ours, unpacked
from scenes import ball, disc, document
from volumen.compose.scene import build
from volumen.edit.meshes import make_mesh, reference_for
from volumen.formats import native
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import Fill, Offset, Rounding
from volumen.model.make import circle, linear, radial
from volumen.model.nodes import DropForm, Shape
from volumen.model.tree import find
from volumen.model.validate import DocumentError, validate
from volumen.picture.purity import node_purity
from volumen.shading import mesh_edit as edit
from volumen.shading.mesh import (
    MeshError,
    bernstein,
    folded,
    mixing_of,
    places,
    straight_of,
    surface,
    surface_slopes,
    tones,
)
from volumen.shading.mesh_fit import Cancelled, coloured, error_map, fit, refined
from volumen.shading.mesh_make import found_corners, four_sided, ring
from volumen.shading.mesh_paints import from_paint, to_paint
from volumen.shading.mesh_raster import FINE, mesh_pixels
from volumen.shading.paint import MeshPaint

SIZE = 200


def waves(p):
    """Colours that no small mesh can show exactly, well inside the gamut."""
    x, y = p[:, 0] / SIZE, p[:, 1] / SIZE
    return np.stack(
        [
            0.5 + 0.25 * np.sin(3 * x),
            0.45 + 0.2 * np.cos(2 * y + x),
            0.5 + 0.15 * np.sin(2 * x + 3 * y),
            np.ones_like(x),
        ],
        -1,
    )


def a_mesh(columns=5, rows=4):
    return four_sided(ellipse(100, 100, 90, 80), columns, rows, waves)


def picture(mesh, cell=1.0):
    return mesh_pixels(mesh, (0, 0, SIZE, SIZE), cell, extend=False)


def difference(a, b):
    """The largest difference of two pictures in 255ths, where both have something."""
    pa, pb = picture(a), picture(b)
    both = (pa[..., 3] > 0) & (pb[..., 3] > 0)
    assert both.mean() > 0.3
    return float(np.abs(pa - pb)[both].max()) * 255


# -- making


@pytest.mark.parametrize("path", [ellipse(100, 100, 90, 60), rectangle(20, 30, 150, 110)], ids=["ellipse", "rectangle"])
def test_border_follows_the_outline(path):
    mesh = four_sided(path, 5, 4, waves)
    assert not folded(mesh).any()
    from volumen.geometry.curve import nearest

    g, b = places(mesh), bernstein(np.linspace(0, 1, 9))
    edges = (
        [g[0, j, 0] for j in range(5)]
        + [g[-1, j, 3] for j in range(5)]
        + [g[i, 0, :, 0] for i in range(4)]
        + [g[i, -1, :, 3] for i in range(4)]
    )
    far = max(nearest(path, tuple(p)).distance for e in edges for p in b @ e)
    assert far < 0.15, "a cubic a patch stays that close to the outline"


def test_corners_are_those_of_the_outline():
    assert found_corners(rectangle(20, 30, 150, 110).contours[0]) == [0.0, 1.0, 2.0, 3.0]


def test_ring_closes_on_itself_and_follows_a_hole():
    from volumen.geometry.path import Path

    mesh = ring(ellipse(100, 100, 90, 80), 8, 3, waves)
    assert mesh.ring and mesh.columns == 8 and not folded(mesh).any()
    hole = Path((*ellipse(100, 100, 90, 80).contours, *ellipse(110, 95, 30, 30).contours), True)
    inner = ring(hole, 8, 3, waves).at[-1]
    assert np.abs(np.hypot(*(inner - (110, 95)).T) - 30).max() < 0.1


@pytest.mark.parametrize("paint", [linear((20, 60), (180, 140), (0, "#c8402a"), (0.4, "#e6c793"), (1, "#0f4a49")), radial((100, 100), 85, (0, "#ffffff"), (0.5, "#2b8577"), (1, "#0f4a49"), focus=(80, 75))], ids=["linear", "radial"])  # fmt: skip
def test_mesh_from_a_gradient_shows_the_gradient(paint):
    """A cubic between two stops is not the gradient's straight run: CIEDE2000 2 on average is the eye's "the same"."""
    shape = disc(1, 100, 100, 80, Fill(paint))
    before = document(shape, side=SIZE)
    after = make_mesh(before, 1, "gradient", 12, 3)
    assert compare(ours(after), ours(before)).mean < 1.0


# -- surface and colour


def test_value_and_slope_run_on_across_patch_edges():
    """Where handles on both sides match, colour as a function of place has one slope on either side of an edge."""
    mesh = four_sided(rectangle(10, 10, 180, 180), 4, 4, waves)
    g, c = places(mesh), tones(mesh)
    t = np.linspace(0.05, 0.95, 7)
    for i in range(4):
        for j in range(3):
            one, zero = np.ones(7), np.zeros(7)
            left = surface(c[i, j], one, t), surface_slopes(c[i, j], one, t)[0], surface_slopes(g[i, j], one, t)[0]
            right = (
                surface(c[i, j + 1], zero, t),
                surface_slopes(c[i, j + 1], zero, t)[0],
                surface_slopes(g[i, j + 1], zero, t)[0],
            )
            assert np.abs(left[0] - right[0]).max() < 1e-12
            slope = [s[1] / np.hypot(*s[2].T)[:, None] for s in (left, right)]
            assert np.abs(slope[0] - slope[1]).max() < 1e-9


def test_no_band_at_patch_edges_in_pixels():
    """The second difference along a row of pixels is no larger at patch edges than between them."""
    mesh = four_sided(rectangle(0, 0, 200, 200), 4, 4, waves)
    row = mesh_pixels(mesh, (0, 0, SIZE, SIZE), 0.5)[90, 4:-4, :3].astype(np.float64)
    bend = np.abs(np.diff(row, 2, axis=0)).max(axis=1)
    at_edges = max(bend[e - 4 - 3 : e - 4 + 3].max() for e in (50, 100, 150))
    assert at_edges < 3 * np.median(bend) + 2e-3


def test_pixels_against_a_dense_reference():
    """Cells of 4.5 pixels against cells of a quarter of one: far below a level in the mean, below two at worst."""
    fine, dense = picture(a_mesh(), FINE), picture(a_mesh(), 0.25)
    both = (fine[..., 3] > 0) & (dense[..., 3] > 0)
    error = np.abs(fine - dense)[both] * 255
    assert error.max() < 2.0 and error.mean() < 0.05


def test_alpha_is_kept_and_clear_points_lend_no_colour():
    mesh = four_sided(
        rectangle(0, 0, 200, 200),
        2,
        2,
        lambda p: np.column_stack([np.tile([1.0, 0, 0], (len(p), 1)), (p[:, 0] > 50) * 1.0]),
    )
    pixels = picture(mesh)
    assert pixels[100, 2, 3] < 0.05 and pixels[100, 198, 3] > 0.95
    seen = pixels[..., 3] > 0.1
    straight = pixels[seen][:, :3] / pixels[seen][:, 3:]
    assert straight[:, 0].min() > 0.97 and straight[:, 1].max() < 0.06


def test_crease_bends_the_colour():
    mesh = four_sided(
        rectangle(0, 0, 200, 200),
        2,
        1,
        lambda p: np.column_stack([np.abs(p[:, :1] - 100) / 100 * [0.6, 0.6, 0.6] + 0.2, np.ones(len(p))]),
    )
    sharp = mesh.copy()
    sharp.crease[:] = True
    bend = [np.abs(np.diff(picture(m, 0.5)[100, 80:120, 0], 2)).max() for m in (mesh, sharp)]
    assert bend[1] > 3 * bend[0]


# -- editing


@pytest.mark.parametrize(
    ("call", "args"), [("insert_column", (1, 0.3)), ("insert_row", (2, 0.7)), ("insert_column", (4, 0.5))]
)
@pytest.mark.parametrize(
    "make", [a_mesh, lambda: ring(ellipse(100, 100, 90, 80), 8, 4, waves)], ids=["four-sided", "ring"]
)
def test_lines_go_in_without_changing_the_picture(make, call, args):
    mesh = make()
    more = getattr(edit, call)(mesh, *args)
    assert more.columns * more.rows > mesh.columns * mesh.rows
    assert difference(mesh, more) < 0.1
    large = more.transformed((3.0, 1.0, -1.0, 3.0, 10.0, 0.0))
    assert np.abs(tones(large) - tones(more)).max() < 1e-9, "what is held is held at any size"


def test_a_line_put_in_beside_a_crease_changes_nothing_either():
    mesh = a_mesh()
    mesh.crease[1, 2] = mesh.crease[2, 1] = True
    assert difference(mesh, edit.insert_row(edit.insert_column(mesh, 2, 0.4), 1, 0.6)) < 0.1


def test_lines_put_in_come_out_without_a_trace():
    mesh = a_mesh()
    assert difference(mesh, edit.remove_column(edit.insert_column(mesh, 2, 0.4), 3)) < 0.1
    assert difference(mesh, edit.remove_row(edit.insert_row(mesh, 1, 0.4), 2)) < 0.1
    with pytest.raises(MeshError, match="border"):
        edit.remove_column(mesh, 0)


def test_colour_of_a_point_stays_local_and_slopes_follow_again():
    mesh = edit.insert_column(a_mesh(), 2, 0.5)
    white = mixing_of(np.array([1.0, 1, 1, 1]))
    changed = edit.with_colour(mesh, [(2, 3)], white)
    assert np.isnan(changed.slopes[2, 3]).all()
    a, b = picture(mesh), picture(changed)
    moved = np.abs(a - b).max(axis=-1) > 1 / 255
    x, y = mesh.at[2, 3]
    ys, xs = np.nonzero(moved)
    assert len(xs) and np.hypot(xs - x, ys - y).max() < 110


def test_folds_are_found_and_mended():
    mesh = a_mesh()
    assert not folded(mesh).any()
    bad = edit.moved(mesh, [(2, 2)], 75, 10)
    assert folded(bad).any()
    assert not folded(edit.mended(bad)).any()


def test_mirroring_makes_both_halves_alike():
    mesh = edit.moved(four_sided(ellipse(100, 100, 90, 80), 4, 3, waves), [(1, 1)], 8, 5)
    made = edit.mirrored(mesh)
    pixels = picture(made)
    seen = (pixels[..., 3] > 0) & (pixels[:, ::-1][..., 3] > 0)
    assert np.abs(pixels - pixels[:, ::-1])[seen].max() < 0.02
    with pytest.raises(MeshError):
        edit.mirrored(a_mesh(5))


def test_straight_smooth_and_relaxed_lines():
    mesh = edit.moved(a_mesh(4, 4), [(2, 2)], 10, -6)
    every = list(np.ndindex(*mesh.at.shape[:2]))
    flat = edit.straightened(mesh, every)
    net = places(flat)[1, 1]
    a, b = net[0, 0], net[0, 3]
    assert np.abs(net[0, 1] - (a + (b - a) / 3)).max() < 1e-9
    smooth = edit.smooth_handles(flat, every)
    arms = smooth.handles[2, 2] - smooth.at[2, 2]
    assert abs(arms[0, 0] * arms[1, 1] - arms[0, 1] * arms[1, 0]) < 1e-6
    middle = mesh.at[[1, 3, 2, 2], [2, 2, 1, 3]].mean(axis=0)
    still = edit.relaxed(mesh, [(2, 2)], 1.0).at[2, 2]
    assert still == pytest.approx(middle)


# -- fitting


def test_fit_recovers_a_known_mesh():
    mesh = four_sided(rectangle(10, 10, 180, 180), 5, 4, waves)
    image = mesh_pixels(mesh, (0, 0, SIZE, SIZE), 0.5).astype(np.float64)
    blank = mesh.copy()
    blank.mixing[:] = mixing_of(np.array([0.5, 0.5, 0.5, 1.0]))
    found = fit(blank, image, smoothness=1e-9)
    assert np.abs(straight_of(found.mesh.mixing) - straight_of(mesh.mixing)).max() * 255 < 1.5
    assert found.mean < 0.1


def test_six_by_six_patches_reach_38_dB_on_a_traced_ball():
    image = ball()
    n = image.shape[0]
    mesh = four_sided(
        ellipse(n / 2, n / 2, n * 0.46 - 1.5, n * 0.46 - 1.5),
        6,
        6,
        lambda p: np.tile([0.5, 0.5, 0.5, 1.0], (len(p), 1)),
    )
    found = fit(mesh, image, positions=6)
    pixels = mesh_pixels(found.mesh, (0, 0, n, n), extend=False)
    seen = (pixels[..., 3] > 0.99) & (image[..., 3] > 0)
    error = pixels[seen][:, :3] - image[seen][:, :3]
    assert 10 * np.log10(1 / np.mean(error**2)) >= 38
    assert not folded(found.mesh).any()


def test_refining_where_it_is_worst_lowers_the_error_and_fits_can_be_stopped():
    image = ball()
    n = image.shape[0]
    mesh = four_sided(
        ellipse(n / 2, n / 2, n * 0.45, n * 0.45), 2, 2, lambda p: np.tile([0.5, 0.5, 0.5, 1.0], (len(p), 1))
    )
    coarse = fit(mesh, image)
    fine = fit(refined(coarse.mesh, image), image)
    assert fine.mesh.columns * fine.mesh.rows > 4 and fine.mean < coarse.mean
    assert np.nanmean(error_map(coarse.mesh, image)) == pytest.approx(coarse.mean)

    def stop(done):
        raise Cancelled

    with pytest.raises(Cancelled):
        fit(mesh, image, progress=stop)


def test_smoothness_fills_what_the_picture_leaves_open():
    image = ball()
    image[:, 120:, 3] = 0
    mesh = four_sided(ellipse(120, 120, 100, 100), 5, 5, lambda p: np.tile([0.5, 0.5, 0.5, 1.0], (len(p), 1)))
    found = coloured(mesh, image)
    assert np.isfinite(found.mixing).all() and np.abs(found.mixing).max() < 3


# -- in documents and exports


def shell(*changes, alpha=1.0):
    def colours(p):
        rgba = waves(p)
        rgba[:, 3] = np.where(p[:, 1] > 120, alpha, 1.0)
        return rgba

    paint = to_paint(four_sided(ellipse(100, 100, 80, 70), 4, 3, colours))
    return Shape(1, "shell", circle(100, 100, 80, 70), (*changes, Fill(paint)))


def test_paint_and_arrays_say_the_same():
    paint = shell().recipe[0].paint
    assert to_paint(from_paint(paint), paint) == paint
    more = edit.insert_column(from_paint(paint), 1, 0.5)
    assert np.abs(from_paint(to_paint(more)).mixing - more.mixing).max() < 1e-9


def test_meshes_live_in_files_and_wrong_ones_are_refused(tmp_path):
    native.save(document(shell(), side=SIZE), tmp_path / "a.volumen")
    assert find(native.load(tmp_path / "a.volumen"), 1) == shell()
    broken = MeshPaint(shell().recipe[0].paint.points[:-1], 4, 3)
    with pytest.raises(DocumentError, match="points"):
        validate(document(disc(1, 100, 100, 60, Fill(broken)), side=SIZE))


def test_the_mesh_survives_rounding_and_offsetting_of_its_shape():
    for change in (Offset(9.0), Offset(-12.0), Rounding(10.0)):
        pixels = ours(document(shell(change), side=SIZE))
        assert pixels[100, 100].max() < 0.95
        grown = isinstance(change, Offset) and change.distance > 0
        assert (pixels[100, 16].max() < 0.95) == grown, "beyond its border the nearest colours go on"


@pytest.mark.parametrize("alpha", [1.0, 0.3], ids=["opaque", "half clear"])
def test_pdf_holds_a_true_mesh_that_two_renderers_show(alpha, tmp_path):
    """The mean over two renderers stays below 0.6, that is patches below 0.5 and the rounding of their pixels."""
    from volumen.formats.pdf.write import pdf_bytes

    doc = document(shell(alpha=alpha), side=SIZE)
    assert b"/ShadingType 7" in pdf_bytes(build(doc)) or b"ShadingType" in unpacked(pdf_bytes(build(doc)))
    assert node_purity(build(doc))[1].pdf == "vector"
    for drawn in (v for k, v in by_all(doc, tmp_path).items() if k != "resvg"):
        found = compare(drawn, ours(doc))
        assert found.mean < 0.6 and found.p99 < 3.0, found


def test_svg_holds_the_mesh_as_clipped_pixels():
    doc = document(shell(), side=SIZE)
    assert node_purity(build(doc))[1].svg == "pixels"
    found = compare(by_resvg(doc), ours(doc))
    assert found.mean < 0.3 and found.p99 < 2.5


def test_making_a_mesh_needs_a_closed_shape():
    from volumen.model.nodes import SegmentForm

    doc = document(Shape(1, "l", SegmentForm((0, 0), (50, 50))), side=SIZE)
    with pytest.raises(MeshError, match="closed"):
        make_mesh(doc, 1, "four-sided", 3, 3)
    with pytest.raises(MeshError, match="gradient"):
        make_mesh(document(disc(1, 100, 100, 60), side=SIZE), 1, "gradient", 3, 3)
    assert reference_for(doc) is None
    made = make_mesh(
        document(
            Shape(1, "d", DropForm(60, 20, 90, 150), (Fill(radial((100, 100), 80, (0, "#ffffff"), (1, "#0f4a49"))),)),
            side=SIZE,
        ),
        1,
        "ring",
        8,
        3,
    )
    assert isinstance(find(made, 1).recipe[0].paint, MeshPaint)
