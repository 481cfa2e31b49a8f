import os
import signal

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from blending import w3c_blend
from scenes import disc, document, feature_card, lit_trio, single, two_fills
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.edit import objects
from volumen.geometry.affine import IDENTITY, multiply, scaling, translation
from volumen.geometry.engine import to_engine
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import BLEND_MODES, Blur, Sliver
from volumen.model.make import linear, radial, solid
from volumen.model.nodes import PathForm, PathPoint, PathRun, Shape
from volumen.picture.bounds import item_box
from volumen.picture.instructions import Clip, FillPath, FillUncovered, Layer, Soft
from volumen.render.exact.soften import gaussian_blur
from volumen.render.frame import Frame
from volumen.render.raster import render_bytes, render_float, straight_bytes
from volumen.render.worker.client import RenderClient
from volumen.render.worker.messages import FrameAnswer, ImageAnswer
from volumen.render.worker.sync import Receiver, Sender
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour, Solid, Stop
from volumen.shading.ramp import ramp

channel = st.floats(0.02, 0.98)


@pytest.mark.parametrize("mode", BLEND_MODES)
@given(*[channel] * 8)
def test_blend_modes_follow_the_formulas(mode, br, bg, bb, ba, sr, sg, sb, sa):
    b, s = np.array([br, bg, bb]), np.array([sr, sg, sb])
    drawn = render_float(two_fills(Colour(br, bg, bb, ba), Colour(sr, sg, sb, sa), mode))[1, 1]
    expected = (1 - sa) * ba * b + sa * ((1 - ba) * s + ba * w3c_blend(mode, b, s))
    # float compositing: only the approximations inside the paint library remain (soft light's square root)
    assert np.abs(drawn[:3] - expected).max() < 2e-3
    assert drawn[3] == pytest.approx(sa + ba - sa * ba, abs=1e-4)


@pytest.mark.parametrize("sigma", [0.5, 2, 7, 9, 20, 55])
def test_blur_is_a_gaussian(sigma):
    image = np.zeros((300, 340), np.float32)
    cv2.circle(image, (150, 140), 60, 1.0, -1)
    size = 2 * int(4 * sigma + 2) + 1
    true = cv2.GaussianBlur(image.astype(np.float64), (size, size), sigma, borderType=cv2.BORDER_CONSTANT)
    # half a level of 255: nothing that could be seen
    assert np.abs(gaussian_blur(image, sigma) - true).max() < 0.5 / 255 + (sigma < 8) * 1e-3


def test_soft_shadow_is_the_blurred_moved_silhouette():
    shape = FillPath(rectangle(30, 30, 40, 30), IDENTITY, Solid(Colour(1, 1, 1)))
    soft = Soft((shape,), Colour(0, 0, 0), 5.0, (10.25, 6.5), 0.5)
    alpha = render_float(single(soft, 120))[..., 3]
    hard = render_float(single(FillPath(rectangle(40.25, 36.5, 40, 30), IDENTITY, Solid(Colour(0, 0, 0))), 120))[..., 3]
    true = 0.5 * cv2.GaussianBlur(hard.astype(np.float64), (41, 41), 5.0)
    # coverage of the silhouette is held in 8 bits before the blur
    assert np.abs(alpha - true).max() < 1.5 / 255


def test_clip_cuts_after_the_blur():
    inside = FillPath(rectangle(0, 0, 32, 32), IDENTITY, Solid(Colour(0, 0, 0)))
    layer = Layer((inside,), clip=Clip(rectangle(8, 8, 16, 16), IDENTITY), blur=3.0)
    alpha = render_float(single(layer))[..., 3]
    assert alpha[16, 16] > 0.99
    assert alpha[4, 4] == 0


@pytest.mark.parametrize("turned", [IDENTITY, scaling(-2.0, 1.5)])
def test_upright_rectangles_cover_what_they_cover(turned):
    """Level edges as exact as upright ones, where the paint library alone moves them by an eighth of a
    pixel (32 levels). Two levels: it counts coverage in 256ths, twice at a corner."""
    rng = np.random.default_rng(1)
    for _ in range(20):
        (x, y), (w, h) = rng.uniform(-4, 4, 2), rng.uniform(0.3, 6, 2)
        path, place = rectangle(x, y, w, h), multiply(translation(16, 16), turned)
        alpha = render_float(single(FillPath(path, place, Solid(Colour(0, 0, 0)))))[..., 3] * 255
        across, down = (
            np.clip(np.minimum(np.arange(32) + 1, 16 + max(a, b)) - np.maximum(np.arange(32), 16 + min(a, b)), 0, 1)
            for a, b in ((x * turned[0], (x + w) * turned[0]), (y * turned[3], (y + h) * turned[3]))
        )
        assert np.abs(alpha - 255 * np.outer(down, across)).max() < 2.0


def test_gradient_has_no_bands():
    stops = (Stop(0, Colour(0.02, 0.02, 0.03)), Stop(1, Colour(0.06, 0.05, 0.08)))
    paint = linear((0, 0), (2000, 0))
    paint = msgspec.structs.replace(paint, stops=stops)
    picture = single(FillPath(rectangle(0, 0, 2000, 16), IDENTITY, paint), 2000)
    drawn = straight_bytes(render_float(picture, 1.0, (0, 0, 2000, 16)))
    true = np.broadcast_to(ramp(stops, (np.arange(2000) + 0.5) / 2000), (16, 2000, 4)).astype(np.float32)
    # stops reach the paint library in 8 bits (half a level), so the same dither may fall one level off, not two
    assert np.abs(drawn.astype(int) - straight_bytes(true)).max() <= 1
    # and no run of one level is half as long as an undithered band would be (200 pixels)
    changes = np.flatnonzero(np.diff(drawn[3, :, 0].astype(int)))
    assert np.diff(changes).max() < 100


@pytest.mark.parametrize("at", [
    (0, 1), (0.5, 1), (0, 0.5), (0.4, 1), (0.25, 0.5), (1 / 3, 2 / 3), (1 / 3, 2 / 3, 1), (0, 1 / 3, 2 / 3),
    (0.25, 0.5, 0.75), (0.25, 0.5, 0.75, 1), (0.5, 0.5), (0.2, 0.6, 0.6, 1),
])  # fmt: skip
@pytest.mark.parametrize("kind", [linear, radial])
@pytest.mark.parametrize("oklab", [True, False])
def test_gradients_are_the_ramp_wherever_their_stops_lie(at, kind, oklab):
    """Evenly spaced stops that end short, too: the paint library draws those from end to end, left to itself. That needs
    few plain stops: one colour that fades, or colours mixed as they are."""
    for turn, fade in ((0.0, 0.75), (0.0, -0.75), (0.5, 0.0), (0.5, 0.75)):
        stops = tuple(
            Stop(a, Colour(0.8 - turn * u, 0.3, 0.2 + turn * u, (1 if fade >= 0 else 0.25) - fade * u))
            for a, u in zip(at, np.linspace(0, 1, len(at)), strict=True)
        )
        paint = linear((0, 0), (300, 0)) if kind is linear else radial((0, 8), 300)
        paint = msgspec.structs.replace(paint, stops=stops, oklab=oklab)
        drawn = render_float(single(FillPath(rectangle(0, 0, 300, 16), IDENTITY, paint), 300), 1.0, (0, 0, 300, 16))[7]
        true = ramp(stops, (np.arange(300) + 0.5) / 300, oklab)
        seen = true * np.concatenate([true[:, 3:]] * 3 + [np.ones((300, 1))], axis=1)
        error = np.abs(drawn - seen).max(axis=1)
        breaks = np.abs(np.arange(300)[:, None] + 0.5 - 300 * np.array(at)).min(axis=1) < 1.6
        # Plain stops keep within a quarter of a just seen difference, which is two levels and a half of a premultiplied
        # colour, in 8 bits; where colours break off, they do so over a pixel.
        assert error[~breaks].max() < 3 / 255, (turn, fade, int(error.argmax()))


def test_flat_colours_survive_the_dither():
    rgba = render_bytes(build(document(disc(1, 100, 100, 150, solid("#2b8577")))))
    assert {tuple(p) for p in rgba[60:140, 60:140].reshape(-1, 4)} == {(0x2B, 0x85, 0x77, 255)}


def test_strips_make_the_same_picture_as_one_piece():
    doc = document(*lit_trio().root.children, side=700)
    doc = objects.transform(doc, [1, 2, 3], scaling(3.4, 3.4))
    whole = straight_bytes(np.clip(render_float(build(doc)), 0, 1))
    strips = render_bytes(build(doc))
    error = np.abs(whole.astype(int) - strips).max(axis=-1)
    # The paint library chooses another edge smoothing for paths that a strip cuts: some edge pixels differ.
    assert (error > 2).mean() < 2e-3
    # But nothing shows where strips meet: the rows there are no worse than the others.
    assert (error[508:516] > 2).mean() < 5e-3


def dragged(frame, out, doc, view, memo, draft=False):
    return frame.update(build(doc, memo=memo), view, out, draft, lambda: False)


def test_partial_updates_make_the_same_picture_as_a_new_frame():
    doc, view = lit_trio(), multiply(scaling(1.7, 1.7), translation(3, 5))
    frame, memo = Frame(), Memo()
    out = np.zeros((360, 400, 4), np.uint8)
    frame.draft.ready = False  # so that a moving hand sees patches drawn in full
    dragged(frame, out, doc, view, memo)
    for step in range(4):
        doc = objects.transform(doc, [1], translation(9, 4)) if step != 2 else objects.delete(doc, [2])
        rects, _ = dragged(frame, out, doc, view, memo, draft=True)
        assert rects
        area = sum((r - l) * (b - t) for l, t, r, b in rects)
        assert area < 0.8 * out.shape[0] * out.shape[1], "only what changed is drawn again"
    fresh = np.zeros_like(out)
    dragged(Frame(), fresh, doc, view, Memo())
    # As with strips: edges that the dirty area cuts are smoothed in another way, in a few pixels. At rest all is drawn.
    assert (np.abs(fresh.astype(int) - out).max(axis=-1) > 2).mean() < 2e-3
    assert dragged(frame, out, doc, view, memo) == ([(0, 0, 400, 360)], False)
    assert np.array_equal(fresh, out)
    assert dragged(frame, out, doc, view, memo) == ([], False)


def test_draft_is_refined_later():
    frame, memo, doc, view = Frame(), Memo(), lit_trio(), (1.5, 0, 0, 1.5, 0, 0)
    out, fresh = np.zeros((300, 300, 4), np.uint8), np.zeros((300, 300, 4), np.uint8)
    dragged(frame, out, doc, view, memo)
    doc = msgspec.structs.replace(doc, lamp=Lamp(120, 50))
    assert dragged(frame, out, doc, view, memo, draft=True)[1] is True
    rects, rough = dragged(frame, out, doc, view, memo)
    assert rects
    assert not rough
    dragged(Frame(), fresh, doc, view, Memo())
    assert np.abs(fresh.astype(int) - out).max() <= 2


def test_unchanged_nodes_keep_their_chunks():
    doc, memo = lit_trio(), Memo()
    one = build(doc, memo=memo)
    two = build(objects.transform(doc, [2], translation(4, 0)), memo=memo)
    same = {c.node for c in two.chunks if any(c is o for o in one.chunks)}
    assert same == {1, 3}


def test_sync_sends_only_what_changed():
    sender, receiver, doc = Sender(), Receiver(), feature_card()
    first = sender.changes(doc)
    assert receiver.apply(first).root == doc.root
    moved = objects.transform(doc, [5], translation(3, 3))
    small = sender.changes(moved)
    before = receiver.apply(small)
    assert before.root == moved.root
    assert len(small) < len(first) / 4
    again = receiver.apply(sender.changes(doc))
    shared = [a is b for a, b in zip(again.root.children, before.root.children, strict=True)]
    assert shared.count(False) == 1


def wait_for(client, kind, tries=200):
    for _ in range(tries):
        answer = client.receive(0.1)
        if isinstance(answer, kind):
            return answer
    raise AssertionError("no answer")


def test_worker_draws_dies_and_comes_back():
    client, doc = RenderClient(), lit_trio()
    try:
        client.request_frame(doc, (200, 200), (1, 0, 0, 1, 0, 0), False, False)
        assert wait_for(client, FrameAnswer).rects == [(0, 0, 200, 200)]
        picture = client.buffer().copy()
        own = render_bytes(build(doc))
        assert np.abs(picture[..., [2, 1, 0]].astype(int) - own[..., :3]).max() <= 2
        os.kill(client.process.pid, signal.SIGKILL)
        client.process.join(5)
        assert client.revive()
        client.request_frame(doc, (200, 200), (1, 0, 0, 1, 0, 0), False, False)
        wait_for(client, FrameAnswer)
        assert np.array_equal(client.buffer(), picture)
        client.request_image(doc, (1,), (40, 40), False)
        answer = wait_for(client, ImageAnswer)
        assert max(answer.width, answer.height) == 40
        assert len(answer.pixels) == answer.width * answer.height * 4
    finally:
        client.close()


def points(*xy):
    return PathForm((PathRun(tuple(PathPoint(p, p, p) for p in xy), True),))


@pytest.mark.parametrize(
    "form",
    [points(), points((5, 5)), points((5, 5), (5, 5)), points((0, 0), (50, 0)),
     points((0, 0), (50, 50), (50, 0), (0, 50)), points((1e8, 1e8), (-1e8, 3), (7, -1e8))],
    ids=["empty", "point", "collapsed", "flat", "crossing", "huge"],
)  # fmt: skip
@pytest.mark.parametrize("transform", [IDENTITY, (0, 0, 0, 0, 9, 9), (1e-9, 0, 0, 1e6, 0, 0)], ids=["", "zero", "thin"])
def test_degenerate_shapes_are_drawn_without_a_fault(form, transform):
    recipe = (*lit_trio().root.children[0].recipe, Sliver("light", "inset"), Sliver("shade", "turn"), Blur(3))
    doc = document(Shape(1, "odd", form, recipe, transform=transform, lift=1e6, children=(disc(2, 5, 5, 3),)))
    pixels = render_float(build(doc), 0.5)
    assert np.isfinite(pixels).all()


def test_boxes_of_slivers_are_the_same_whether_someone_asked_for_them_or_not():
    """Soft things are drawn in boxes: if these shrank when a path is made, a worker's picture would depend on its past."""
    sliver = Sliver("light", "turn", depth=6, feather=2.0)
    picture = build(
        document(disc(1, 70, 70, 50, solid("#2b8577"), sliver), disc(2, 140, 140, 30, solid("#c8402a"), sliver))
    )
    cut = [j for i in picture.items for j in getattr(i, "items", ()) if isinstance(j, FillUncovered)]
    before, first = [(j.path.hull(), item_box(j)) for j in cut], render_float(picture)
    assert len(cut) == 2 and all(to_engine(j.path) is not None and not j.path.pending for j in cut)
    assert [(j.path.hull(), item_box(j)) for j in cut] == before
    assert np.abs(render_float(picture) - first).max() == 0
