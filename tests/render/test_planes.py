"""The canvas of drafts: blending as W3C defines it, gradients in closed form, covers wherever they lie."""

import msgspec
import numpy as np
import pytest
from scipy import ndimage

from blending import w3c_blend
from scenes import document
from volumen.caching import Cache
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.geometry.affine import IDENTITY, apply_points, invert, multiply, rotation, scaling, translation
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import Sliver
from volumen.model.make import circle, solid
from volumen.model.nodes import Shape
from volumen.picture.instructions import Clip, FillPath, Layer, Soft
from volumen.render.draft.covers import Cover, Covers
from volumen.render.draft.covers_kernel import uncovered, unite
from volumen.render.draft.planes import Planes, by_strength, grade_of
from volumen.render.draft.planes_kernel import MODES
from volumen.render.draft.state import DraftState
from volumen.render.frame import Frame
from volumen.render.raster import paint_draft, render_float
from volumen.shading.paint import Colour, Linear, Radial, Solid, Stop
from volumen.shading.paint_pixels import colours_at

BOX = (0, 0, 24, 16)
ALL = Cover(np.full((16, 24), 255, np.uint8), BOX)
STOPS = (Stop(0.1, Colour(0.9, 0.2, 0.1, 0.3)), Stop(0.5, Colour(0.2, 0.7, 0.3)), Stop(1.0, Colour(0.1, 0.2, 0.9, 0.6)))
rng = np.random.default_rng(5)


@pytest.mark.parametrize("mode", MODES)
def test_blend_modes_follow_w3c_for_flat_colours_and_for_pictures(mode):
    below, cover = rng.random((16, 24, 4)), rng.integers(0, 256, (16, 24)).astype(np.uint8)
    s, sa = np.array([0.7, 0.15, 0.4]), 0.8
    weight = sa * cover[..., None] / 255
    b, ba = below[..., :3], below[..., 3:]
    mixed = np.array([[w3c_blend(mode, b[i, j], s) for j in range(24)] for i in range(16)])
    expected = (1 - weight) * ba * b + weight * ((1 - ba) * s + ba * mixed)
    flat, pictured = Planes(BOX), Planes(BOX)
    for planes in (flat, pictured):
        planes.data[:] = np.moveaxis(np.concatenate([b * ba, ba], axis=-1), 2, 0)
    flat.fill(Cover(cover, BOX), Colour(*s), sa, mode)
    one = np.broadcast_to(np.append(s, 1.0)[:, None, None], (4, 16, 24)).astype(np.float32)
    pictured.put(np.ascontiguousarray(one), 0, 0, sa, mode, Cover(cover, BOX))
    for planes in (flat, pictured):
        # The float32 of the loops, divided by alphas near 0.
        assert np.abs(planes.pixels()[..., :3] - expected).max() < 2e-5
        assert np.abs(planes.pixels()[..., 3:] - (ba + weight - ba * weight)).max() < 1e-6


@pytest.mark.parametrize("spread", ["pad", "reflect", "repeat"])
@pytest.mark.parametrize("paint", [
    Linear(STOPS, (3.0, 2.0), (15.0, 9.0), oklab=False),
    Radial(STOPS, (12.0, 8.0), 9.0, (15.0, 7.0), multiply(rotation(20, (12, 8)), scaling(1.2, 0.7)), oklab=False),
])  # fmt: skip
def test_gradients_are_those_of_the_closed_form(paint, spread):
    paint, place, planes = msgspec.structs.replace(paint, spread=spread), translation(0.5, -0.25), Planes(BOX)
    planes.grade(ALL, grade_of(paint, place, Cache("test", most_bytes=10**6)), 1.0, "normal")
    centres = np.stack(np.meshgrid(np.arange(24) + 0.5, np.arange(16) + 0.5), axis=-1)
    points = apply_points(invert(place), centres.reshape(-1, 2)).reshape(16, 24, 2)
    exact = colours_at(paint, points, rectangle(0, 0, 24, 16))
    exact[..., :3] *= exact[..., 3:]
    off = np.abs(planes.pixels() - exact).max(axis=-1)
    jump = off > 0.02  # where a repeat starts anew, the nearest of the table's 512 colours may be the other end's
    assert jump.mean() <= (0.05 if spread == "repeat" else 0)
    assert off[~jump].max() < 0.006, "a level and a half: the plain stops, and the nearest of 512 colours"


@pytest.mark.parametrize("paint", [
    Linear(STOPS, (3.0, 2.0), (3.0 + 1e-13, 2.0)), Linear(STOPS, (1e200, 0.0), (-1e200, 1e170), spread="repeat"),
    Radial(STOPS, (12.0, 8.0), 1e-30, (12.0, 8.0)), Radial(STOPS, (1e12, 0.0), 1e13, (-1e300, 4.0)),
])  # fmt: skip
def test_no_gradient_is_too_wild_for_the_loops(paint):
    planes = Planes(BOX)
    grade = grade_of(paint, scaling(1e-5, 1e5), Cache("test", most_bytes=10**6))
    planes.grade(ALL, grade, 1.0, "normal")
    assert np.isfinite(planes.data).all() and planes.data.min() >= 0 and planes.data.max() <= 1
    assert grade_of(paint, scaling(0, 0), Cache("test", most_bytes=10**6)) is None


def test_strengths_pick_their_colours():
    alpha, rows = np.array([[0, 64, 128, 255]], np.uint8), np.array([[1, 0, 0, 0], [0, 1, 0, 0.5], [0, 0, 1, 1.0]])
    made = by_strength(alpha, rows)
    u = 2 * 64 / 255
    assert np.allclose(made[:, 0, 1], [0, 0.5 * u, 0, 0.5 * u], atol=1e-6), "premultiplied, evenly between rows"
    assert np.allclose(made[:, 0, 0], 0) and np.allclose(made[:, 0, 3], [0, 0, 1, 1])


def test_nothing_is_painted_outside_room_and_clip():
    planes = Planes((10, 20, 34, 36))
    before = planes.hold(Cover(np.full((4, 6), 128, np.uint8), (12, 22, 18, 26)))
    planes.fill(Cover(np.full((40, 60), 255, np.uint8), (0, 0, 60, 40)), Colour(1, 1, 1), 1.0, "normal")
    planes.release(before)
    alpha = planes.data[3]
    assert np.allclose(alpha[2:6, 2:8], 128 / 255, atol=1e-6) and np.count_nonzero(alpha) == 24


@pytest.mark.parametrize("move", [(0.0, 0.0), (3.25, -2.5), (0.6, 0.4), (-7.3, 30.9)])
def test_covers_lie_where_their_outlines_do(move):
    covers, path = Covers(Cache("test", most_bytes=10**7), (-100, -100, 200, 200)), ellipse(20, 20, 11, 7)
    covers.of_path(path, IDENTITY)
    made = covers.of_path(path, translation(*move))
    y, x = np.mgrid[made.box[1] : made.box[3], made.box[0] : made.box[2]] + 0.5
    weight = made.alpha / 255
    # The middle of what is covered, to the eighth of a pixel that covers are moved by.
    assert (x * weight).sum() / weight.sum() == pytest.approx(20 + move[0], abs=0.13)
    assert (y * weight).sum() / weight.sum() == pytest.approx(20 + move[1], abs=0.13)
    assert weight.sum() == pytest.approx(np.pi * 77, rel=1e-2)  # as the paint library smooths edges


@pytest.mark.parametrize("name", ["porthole", "seaglass", "net-float"])
def test_a_draft_with_all_that_is_kept_is_the_one_without(name):
    """Under a lamp that turns: whatever stays ready from frame to frame, the picture is that of a new painter."""
    made, kept, memo = DEMOS[name][1](), DraftState(60_000_000), Memo()
    scale = 240 / made.sheet.width
    view, box = (scale, 0, 0, scale, 7, 3), (0, 0, 254, 200)
    for k in range(5):
        lamp = msgspec.structs.replace(made.lamp, bearing=(made.lamp.bearing + 31 * k) % 360)
        picture = build(msgspec.structs.replace(made, lamp=lamp), memo=memo)
        warm = paint_draft(picture, view, box, kept).pixels()
        cold = paint_draft(picture, view, box, DraftState(60_000_000)).pixels()
        # Things composed by themselves and held together meet a clip's edge once, not one after another.
        off = np.abs(warm - cold).max(axis=-1)
        assert off.mean() < 5e-4 and (off > 0.02).mean() < 5e-3
    part = paint_draft(picture, view, (60, 40, 180, 150), kept, canvas=box).pixels()
    off = np.abs(part - warm[40:150, 60:180]).max(axis=-1)
    assert off.mean() < 5e-4 and (off > 0.02).mean() < 5e-3, "a part is the same as in the whole"


def test_layers_keep_their_opacity_mode_and_clip_when_they_are_ready():
    square, disc = rectangle(4, 4, 30, 30), ellipse(20, 20, 12, 12)
    items = (
        FillPath(square, IDENTITY, Solid(Colour(1, 0.5, 0))),
        FillPath(disc, IDENTITY, Solid(Colour(0, 0.5, 1, 0.5))),
    )
    layer = Layer(items, 0.5, "multiply", Clip(disc, IDENTITY))
    glow = Soft((items[1],), Colour(1, 1, 1), 2.0, ramp=((1, 1, 1, 0), (1, 0.5, 0, 1)))
    base = build(document(Shape(1, "base", circle(20, 20, 19), (solid("#b0c0d0"),))))
    kept = DraftState(10**7)
    frames = []
    for _ in range(3):
        fresh = msgspec.structs.replace(layer)  # another layer with the same items
        chunk = msgspec.structs.replace(base.chunks[0], items=(*base.chunks[0].items, fresh, glow))
        frames.append(
            paint_draft(msgspec.structs.replace(base, chunks=(chunk,)), IDENTITY, (0, 0, 40, 40), kept).pixels()
        )
    assert np.abs(frames[1] - frames[0]).max() < 1e-6 and np.abs(frames[2] - frames[0]).max() < 1e-6
    alone = paint_draft(base, IDENTITY, (0, 0, 40, 40), kept).pixels()
    assert np.abs(frames[0] - alone).max() > 0.1


def test_what_a_moved_copy_leaves_is_all_that_lies_beside_it():
    """Within two levels of an independent shift between pixels: weights are whole parts of 256."""
    rng = np.random.default_rng(4)
    for _ in range(200):
        alpha = rng.integers(0, 256, rng.integers(1, 20, 2)).astype(np.uint8)
        dx, dy = rng.uniform(-24, 24, 2)
        there = ndimage.shift(np.pad(alpha.astype(float), 1), (dy, dx), order=1, mode="constant")[1:-1, 1:-1]
        assert np.abs(uncovered(alpha, dx, dy) - np.maximum(alpha - there, 0)).max() <= 2


@pytest.mark.parametrize("one_light", [True, False])
def test_alphas_are_united(one_light):
    """t (1 - h a) + o a, with h = o, or 1 of those that take one light away; each of three roundings is half a level."""
    rng = np.random.default_rng(5)
    for _ in range(100):
        taken, own = (rng.integers(0, 256, (9, 14)).astype(np.uint8) for _ in range(2))
        x, y, opacity = rng.integers(-13, 13), rng.integers(-8, 8), rng.uniform(0, 1)
        here = np.zeros((9 + 16, 14 + 26))
        here[8 + y : 17 + y, 13 + x : 27 + x] = own
        there = here[8:17, 13:27] / 255
        expected = taken * (1 - (1.0 if one_light else opacity) * there) + 255 * opacity * there
        unite(taken, own, x, y, opacity, 1.0 if one_light else opacity)
        assert np.abs(taken - expected).max() <= 1.6


@pytest.mark.parametrize("place", [(2.0, 0.0, 0.0, 2.0), (0.0, 1.5, 1.5, 0.0), (-1.0, 0.6, 0.6, 1.0)])
def test_slivers_lie_in_drafts_where_they_lie_at_rest(place):
    sliver = Sliver("shade", depth=9, angle=40.0, opacity=1.0, blend="normal", colour=Colour(0, 0, 0))
    picture = build(
        document(Shape(1, "a", circle(0, 0, 30), (solid("#fff"), sliver), transform=(*place, 100.0, 100.0)))
    )
    draft = paint_draft(picture, IDENTITY, (0, 0, 200, 200), DraftState()).pixels()
    assert np.abs(draft - render_float(picture)).mean() < 0.002 < 0.01 < 1 - render_float(picture)[..., 0].mean()


@pytest.mark.parametrize("area", [(0, 0, 200, 200), (51, 62, 200, 200), (0, 0, 90, 77), (33, 40, 121, 95)])
def test_a_part_of_a_draft_is_shown_as_in_the_whole(area):
    picture = build(document(Shape(1, "a", circle(100, 100, 70), (solid("#c8402a"),))))
    parts, whole = (np.zeros((200, 200, 4), np.uint8) for _ in range(2))
    Frame().draw_draft(picture, IDENTITY, area, parts)
    Frame().draw_draft(picture, IDENTITY, (0, 0, 200, 200), whole)
    l, t, r, b = area
    assert whole[t:b, l:r].any() and np.array_equal(parts[t:b, l:r], whole[t:b, l:r])
    parts[t:b, l:r] = 0
    assert not parts.any()
