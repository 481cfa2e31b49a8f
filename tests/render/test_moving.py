"""What a moving hand is shown, and all that is kept from one moment to the next, against the same made anew."""

import cv2
import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from scenes import disc, document, feature_card, lit_trio
from volumen.bench.shapes import blob
from volumen.caching import Cache
from volumen.colour import oklab
from volumen.colour.values import show_values, values_of
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.demo import DEMOS
from volumen.edit import objects
from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.geometry.distance import distance_field
from volumen.geometry.path import Path
from volumen.model.ingredients import (
    Blur,
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
    Rim,
    Sliver,
)
from volumen.model.make import solid
from volumen.model.nodes import Document, Group, Node, RectangleForm, Shape
from volumen.model.sequences import same_ends
from volumen.model.tree import chain_to, find, replace_nodes, top_level, walk, ways_to
from volumen.render.draft.pace import Pace
from volumen.render.draft.state import DraftState
from volumen.render.frame import Frame
from volumen.render.raster import paint_area, paint_draft, render_float
from volumen.render.worker.sync import Receiver, Sender
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Conic, Stop, colour

replace = msgspec.structs.replace
SEA = solid("#2b8577")


def rich() -> Document:
    """A group with every kind of light inside, over two grounds, beside a knockout and a held shadow."""
    conic = Fill(Conic((Stop(0, colour("#c8402a")), Stop(1, colour("#f0ae45"))), (40, 40)))
    parts: tuple[Node, ...] = (
        disc(10, 30, 30, 18, SEA, Body("ball"), Sliver("shade", depth=4), Sliver("light", depth=3), CastShadow(), lift=6.0),
        disc(11, 70, 34, 16, conic, Relief(width=5.0), InnerShadow(4.0), ContactShadow(3.0)),
        Shape(12, "bar", RectangleForm(20, 60, 60, 18, 4), (solid("#d9dbd3"), Body("tube", "brass"), Rim(distance=3.0)),
              transform=rotation(12, (50, 69))),
        disc(13, 90, 70, 12, solid("#c8402a"), OuterGlow(colour("#f0ae45"), 6.0), InnerGlow(colour("#ffffff"), 4.0),
             children=(disc(14, 95, 75, 6, solid("#20242a")),)),
    )  # fmt: skip
    group = Group(9, "group", parts, (CastShadow(), Rim(colour("#ffffff"), 2.0)), lift=9.0)
    ground = Shape(1, "left", RectangleForm(0, 0, 100, 200), (solid("#c98f35"),))
    held = disc(3, 150, 150, 20, solid("#efe6d6"), CastShadow(receivers=(1,), softness=2.0), lift=8.0)
    hole = disc(4, 160, 40, 15, knockout=True)
    return document(ground, group, held, hole, Shape(5, "top", RectangleForm(120, 90, 30, 30), (SEA, Blur(2.0))))


def dragged(node_id: int):
    return lambda d, k: objects.transform(d, [node_id], translation(3.7 * k, 2.3 * k))


def lamp_turned(d: Document, k: int) -> Document:
    return replace(d, lamp=Lamp(30 + 25 * k, 45 - 2 * k))


MOVES = {
    "a group": (rich, dragged(9)), "a leaf": (rich, dragged(10)), "a knockout": (rich, dragged(4)),
    "what is held": (rich, dragged(3)), "the ground": (rich, dragged(1)), "the lamp": (rich, lamp_turned),
    "turned": (rich, lambda d, k: objects.transform(d, [9], rotation(7 * k, (50, 50)))),
    "scaled": (rich, lambda d, k: objects.transform(d, [9], scaling(1 + 0.1 * k, 1 + 0.1 * k))),
    "opacity": (rich, lambda d, k: objects.set_fields(d, [9], opacity=1 - 0.1 * k)),
    "features": (feature_card, dragged(10)), "trio": (lit_trio, dragged(3)),
}  # fmt: skip


@pytest.mark.parametrize("name", MOVES)
def test_what_is_kept_while_moving_is_what_would_be_built_anew(name):
    make, change = MOVES[name]
    base, memo = make(), Memo()
    build(base, memo=memo)
    for k in (1, 2, 5, 3, 0):
        moved = change(base, k)
        kept, fresh = build(moved, memo=memo), build(moved)
        assert [c.node for c in kept.chunks] == [c.node for c in fresh.chunks]
        for a, b in zip(kept.chunks, fresh.chunks, strict=True):
            assert a.box == pytest.approx(b.box, abs=1e-6)
        assert np.abs(render_float(kept) - render_float(fresh)).max() < 2e-3, k


@pytest.mark.parametrize("name", MOVES)
def test_the_worker_builds_what_the_window_holds(name):
    """Through the wire: what equals the old is shared there, and nothing stale is."""
    make, change = MOVES[name]
    sender, receiver, memo = Sender(), Receiver(), Memo()
    base = make()
    build(receiver.apply(sender.changes(base)), memo=memo)
    for k in (1, 4, 2):
        moved = change(base, k)
        there = receiver.apply(sender.changes(moved))
        assert there.root == moved.root
        assert np.abs(render_float(build(there, memo=memo)) - render_float(build(moved))).max() < 2e-3


def test_a_moved_object_keeps_its_form_in_the_worker():
    sender, receiver, base = Sender(), Receiver(), rich()
    before = receiver.apply(sender.changes(base))
    after = receiver.apply(sender.changes(dragged(10)(base, 1)))
    assert find(after, 10).form is find(before, 10).form
    assert all(a is b for a, b in zip(find(after, 10).recipe, find(before, 10).recipe, strict=True))


# -- drafts


def halved(document_: Document, view) -> np.ndarray:
    """The exact picture at half the size, as a draft should look."""
    pixels = np.zeros((200, 200, 4), np.float32)
    paint_area(pixels, build(document_), multiply(scaling(0.5, 0.5), view), (0, 0, 200, 200))
    return pixels


@pytest.mark.parametrize("name", MOVES)
def test_drafts_show_every_moment_of_a_drag(name):
    """A draft that kept something stale would be off where it was or where it is by far more than its coarseness."""
    make, change = MOVES[name]
    base, kept, memo = make(), DraftState(60_000_000), Memo()
    for k, view in (
        (0, (2, 0, 0, 2, 0, 0)),
        (1, (2, 0, 0, 2, 0, 0)),
        (2, (2, 0, 0, 2, 0, 0)),
        (3, (2, 0, 0, 2, 0, 0)),
        (4, (2, 0, 0, 2, 0, 0)),
        (4, (2, 0, 0, 2, -37, 11)),
        (5, (2, 0, 0, 2, -37, 11)),
    ):
        moved = change(base, k)
        picture = build(moved, memo=memo)
        pixels = paint_draft(picture, multiply(scaling(0.5, 0.5), view), (0, 0, 200, 200), kept).pixels()
        exact = halved(moved, view)
        off = cv2.blur(np.abs(pixels - exact).max(axis=-1), (5, 5))  # half a pixel beside counts little
        assert off.max() < 0.16 and off.mean() < 0.01, (k, view)
    assert kept.kept.bytes <= kept.kept.most_bytes


@pytest.mark.parametrize("name", ["jelly", "whale", "porthole"])
def test_drafts_of_demo_artwork_look_like_it(name):
    made = DEMOS[name][1]()
    scale = 300 / made.sheet.width
    view = (scale, 0, 0, scale, 0, 0)
    exact, picture = np.zeros((300, 300, 4), np.float32), build(made)
    paint_area(exact, picture, view, (0, 0, 300, 300))
    draft = paint_draft(picture, view, (0, 0, 300, 300), DraftState(60_000_000)).pixels()
    assert np.abs(exact - draft).mean() < 0.012, "an eye that follows a hand sees no difference"


def test_drafts_get_smaller_when_they_are_late_and_larger_again():
    pace, many = Pace(), 200_000
    pace.expect(200.0)
    assert pace.shrink == 3, "a heavy sheet begins smaller"
    pace.expect(900.0)
    assert pace.shrink == 3
    pace = Pace()
    pace.took(90.0, many)
    assert pace.shrink == 2, "the first at a size finds nothing kept"
    pace.took(90.0, many)
    assert pace.shrink == 3
    for _ in range(9):
        pace.took(90.0, many)
    assert pace.shrink == 4, "smaller would be a blur"
    pace.took(1.0, many)
    assert pace.shrink == 3
    for _ in range(3):
        pace.took(7.0, many)
    assert pace.shrink == 3, "in time, but only just"
    for _ in range(3):
        pace.took(90.0, 20_000)
    assert pace.shrink == 3, "it is not the pixels that take long"
    pace.built(9.0)
    for _ in range(2):
        pace.took(7.0, many)
    assert pace.shrink == 4, "what takes long to build leaves less room for drawing"


def test_kept_things_are_bounded_and_the_oldest_goes():
    kept = Cache("test", most_bytes=100)
    for k in range(5):
        kept.put(k, None, str(k), 30)
    assert kept.bytes <= 100 and kept.get(0) is None and kept.get(4) == "4"
    kept.put(4, None, "again", 30)
    assert kept.get(4) == "again" and kept.bytes == 30 * len(kept)


def test_frames_in_values_are_grey_everywhere_and_come_back():
    frame, out = Frame(), np.zeros((200, 200, 4), np.uint8)
    view, whole = (1, 0, 0, 1, 0, 0), build(rich())
    frame.update(whole, view, out, False, lambda: False, values=True)
    assert (out[..., 0] == out[..., 1]).all() and (out[..., 1] == out[..., 2]).all() and out[..., 0].std() > 10
    moved = build(dragged(9)(rich(), 2))
    frame.update(moved, view, out, True, lambda: False, values=True)
    assert (out[..., 0] == out[..., 2]).all(), "drafts as well"
    frame.update(moved, view, out, False, lambda: False)
    assert (out[..., 0] != out[..., 2]).any()


@given(st.lists(st.tuples(*[st.integers(0, 255)] * 3), min_size=1, max_size=40))
def test_values_are_greys_of_the_same_lightness(colours):
    rgb = np.array([colours], np.uint8)
    grey = values_of(rgb)
    wanted = oklab.from_srgb(rgb / 255)[..., 0]
    found = oklab.from_srgb(np.repeat(grey[..., None], 3, axis=-1) / 255)[..., 0]
    assert np.abs(found - wanted).max() < 0.02, "within the step of one level, which is 0.012 near black"


def test_values_keep_what_is_clear():
    bgra = np.zeros((1, 3, 4), np.uint8)
    bgra[0, 1] = (0, 0, 100, 100)  # premultiplied red, 100 of 255
    bgra[0, 2] = (0, 0, 255, 255)
    show_values(bgra)
    assert (bgra[0, 0] == 0).all() and bgra[0, 1, 3] == 100 and (bgra[0, 1, :3] <= 100).all()
    assert bgra[0, 1, 0] == pytest.approx(int(bgra[0, 2, 0]) * 100 / 255, abs=1.5)


# -- finding and comparing


@given(st.integers(0, 300), st.integers(0, 300), st.lists(st.integers(0, 299), max_size=4), st.booleans())
def test_ends_that_are_the_same_are_counted_as_one_by_one(n, m, changed, cut):
    things = [object() for _ in range(max(n, m))]
    old, new = things[:n], list(things[-m:] if cut and m else things[:m])
    for i in changed:
        if i < len(new):
            new[i] = object()
    low = next((k for k in range(min(n, len(new))) if old[k] is not new[k]), min(n, len(new)))
    room = min(n, len(new)) - low
    end = next((k for k in range(room) if old[-1 - k] is not new[-1 - k]), room)
    assert same_ends(tuple(old), tuple(new)) in ((low, end), (len(new), 0) if old == new else (low, end))


def tree(rng: np.random.Generator, count: int) -> Document:
    """A random tree of some objects."""
    groups: dict[int, list[int]] = {0: []}
    for i in range(1, count + 1):
        groups[int(rng.choice(list(groups)))].append(i)
        if rng.random() < 0.4:
            groups[i] = []

    def node(i: int) -> Node:
        if i in groups:
            return Group(i, f"g{i}", tuple(node(c) for c in groups[i]))
        return disc(i, i, i, 3)

    return Document(root=node(0), next_id=count + 1)


@settings(max_examples=40)
@given(st.integers(0, 10_000))
def test_objects_are_found_wherever_edits_put_them(seed):
    rng = np.random.default_rng(seed)
    doc = tree(rng, 40)
    for _ in range(6):
        ids = [n.id for n in walk(doc.root)]
        for i in ids:
            chain = chain_to(doc, i)
            assert chain[0] is doc.root and chain[-1].id == i
            assert all(b in a.children for a, b in zip(chain, chain[1:], strict=False))
        assert chain_to(doc, 999) == []
        many = [int(i) for i in rng.choice(ids[1:], size=min(20, len(ids) - 1), replace=False)] if len(ids) > 1 else []
        for few in (many[:5], many[:16], many):
            inside = {c.id for i in few for c in walk(find(doc, i)) if c.id != i}
            order = [i for i in ids if i in few and i not in inside]
            assert top_level(doc, few) == order
            assert {(k, i) for k, row in ways_to(doc, few).items() for i in row} == {
                (a.id, a.children.index(b))
                for i in few
                for a, b in zip(chain_to(doc, i), chain_to(doc, i)[1:], strict=False)
            }
        if len(many) > 2:
            gone, moved = many[0], many[1]
            doc = objects.transform(doc, [moved], translation(1, 0))
            doc = replace_nodes(doc, {gone: None})


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10_000), st.sampled_from([0.7, 1.3]))
def test_distances_are_those_to_the_nearest_chord_of_all(seed, step):
    rng = np.random.default_rng(seed)
    shape = blob(rng, 60, 60, 40, 14)
    inner = blob(rng, 60, 60, 12, 8)
    field = distance_field(Path((*shape.contours, *inner.contours), True), step, 15.0)
    h, w = field.distance.shape
    i, j = rng.integers(0, h, 300), rng.integers(0, w, 300)
    at = np.stack([j * field.step + field.origin[0], i * field.step + field.origin[1]], axis=-1)
    a, d = field.chords[:, 0], field.chords[:, 1] - field.chords[:, 0]
    t = np.clip(((at[:, None] - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300), 0, 1)
    true = np.hypot(*np.moveaxis(at[:, None] - a - t[..., None] * d, -1, 0)).min(axis=1)
    off = np.abs(field.distance[i, j] - true)
    assert off.max() < 0.5 * field.step and (off > 0.01 * field.step).mean() < 0.01
    near = distance_field(Path((*shape.contours, *inner.contours), True), step, 15.0, most=8.0)
    within = true < 7
    assert np.abs(near.distance[i, j] - true)[within].max(initial=0) < 0.5 * field.step
    assert np.abs(near.distance[i, j][true > 9] - 8.0).max(initial=0) < 1e-9


def test_drafts_of_blurs_wider_than_anything_stay_small():
    """A glow a million units wide, seen from near and from far: an even veil, at no cost in memory."""
    glow = disc(1, 100, 100, 40, SEA, OuterGlow(colour("#f0ae45"), 1e6), Blur(0.0), InnerShadow(3e4), lift=2.0)
    for scale in (0.1, 1.0, 400.0):
        view = (scale, 0, 0, scale, 60 - 100 * scale, 60 - 100 * scale)
        pixels = paint_draft(build(document(glow)), view, (0, 0, 120, 120), DraftState(60_000_000)).pixels()
        assert np.isfinite(pixels).all() and pixels[60, 60, 3] == pytest.approx(1.0, abs=0.01)
