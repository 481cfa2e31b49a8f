"""Which shadows are left out as nothing of them is seen, and how dark those are that lie on one another."""

import random

import numpy as np
import pytest
from msgspec.structs import replace

from agreement import by_all, compare, ours
from scenes import document
from volumen import caching
from volumen.compose.memo import Memo
from volumen.compose.scene import build
from volumen.compose.sight import Sight
from volumen.edit.freeze import freeze
from volumen.formats.pure_vector import vectorised
from volumen.geometry.affine import IDENTITY, rotation, scaling, translation
from volumen.geometry.mask import windows_of
from volumen.model.ingredients import Blur, CastShadow, Feather, Fill, Line, Rim
from volumen.model.make import solid
from volumen.model.nodes import Group, RectangleForm, Shape, StarForm
from volumen.picture.instructions import Layer, Soft
from volumen.render.draft.state import DraftState
from volumen.render.raster import paint_draft, render_bytes, render_float
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour, Linear, Radial, Solid, Stop

INK = CastShadow(0.6, colour=Colour(0, 0, 0))


def plate(node_id, x, y, w, h, lift=0.0, *recipe, **more):
    return Shape(node_id, f"plate {node_id}", RectangleForm(x, y, w, h), recipe or (solid("#fff"),), lift=lift, **more)


def pile(*nodes, lamp=None):
    return replace(document(*nodes, side=256.0, lamp=lamp or Lamp(270, 45, 1.0, 0.0)), lifts_add_up=True)


def softs(items):
    return [s for i in items for s in (softs(i.items) if isinstance(i, Layer) else [i] if isinstance(i, Soft) else [])]


FULL = (Stop(0, Colour(1, 1, 1)), Stop(1, Colour(1, 1, 1)))
CLEAR = (Stop(0, Colour(1, 1, 1)), Stop(1, Colour(1, 1, 1, 0.98)))
# What covers the place of a shadow, on a plate at (40, 40) of 60 by 60, and whether it hides all of it.
COVERS = {
    "a plate": (plate(3, 20, 20, 120, 120), True),
    "a large star": (Shape(3, "star", StarForm(-150, -150, 480, 480, 12, 0.9), (solid("#fff"),)), True),
    "a group of plates": (Group(3, "g", (plate(4, 20, 20, 50, 120), plate(5, 60, 20, 90, 120))), True),
    "two plates that overlap": (Group(3, "g", (plate(4, 20, 20, 50, 120, 1), plate(5, 60, 20, 90, 120, 1))), True),
    "a line of it": (plate(3, 40, 40, 60, 60, 0.0, solid("#fff"), Line(Solid(Colour(1, 1, 1)), 60.0)), True),
    "held": (plate(3, 10, 10, 200, 200, children=(plate(4, 20, 20, 120, 120, 1),)), True),
    "two plates with a slit between": (Group(3, "g", (plate(4, 20, 20, 50, 120, 1), plate(5, 70.6, 20, 70, 120, 1))), False),
    "faint": (plate(3, 20, 20, 120, 120, opacity=0.99), False),
    "in a faint group": (Group(3, "g", (plate(4, 20, 20, 120, 120, 1),), opacity=0.99), False),
    "in a feathered group": (Group(3, "g", (plate(4, 20, 20, 120, 120, 1),), (Feather(20.0),)), False),
    "softened": (plate(3, 20, 20, 120, 120, 0.0, solid("#fff"), Blur(4.0)), False),
    "a faint fill": (plate(3, 20, 20, 120, 120, 0.0, Fill(Solid(Colour(1, 1, 1)), 0.98)), False),
    "an end of a gradient": (plate(3, 20, 20, 120, 120, 0.0, Fill(Linear(CLEAR, (20, 0), (140, 0)))), False),
    "a gradient of no height": (plate(3, 20, 20, 120, 120, 0.0, Fill(Radial(FULL, (80, 80), 90.0, (80, 80), scaling(1, 0)))), False),
    "a faint rim of it": (plate(3, 60, 60, 20, 20, 0.0, solid("#fff"), Rim(distance=50.0, opacity=0.98)), False),
    "blended": (plate(3, 20, 20, 120, 120, blend="multiply"), False),
    "in what hides half": (plate(3, 10, 10, 70, 200, children=(plate(4, 20, 20, 120, 120, 1),)), False),
    "under a knockout": (Group(3, "g", (plate(4, 20, 20, 120, 120, 1), plate(5, 60, 60, 9, 9, knockout=True))), False),
}  # fmt: skip


@pytest.mark.parametrize("name", COVERS)
def test_only_what_is_solid_and_has_no_hole_hides_a_shadow(name):
    cover, hides = COVERS[name]
    thrower = plate(2, 40, 40, 60, 60, 4.0, solid("#fff"), INK)
    chunks = build(pile(plate(1, 0, 0, 256, 256), thrower, cover)).chunks
    mine = [
        s for c in chunks if c.node in (0, 1) for s in softs(c.items) if s.offset == pytest.approx((4, 0), abs=1e-6)
    ]
    assert len(mine) == (0 if hides else 1)


def test_a_hair_that_fills_no_cell_throws_its_shadow():
    hair = plate(2, 40, 40, 0.004, 60, 4.0, solid("#fff"), INK)
    assert [len(softs(c.items)) for c in build(pile(plate(1, 0, 0, 256, 256), hair)).chunks] == [0, 1, 0]


def test_what_lies_far_off_the_sheet_throws_its_shadow_onto_it():
    far = plate(2, -700, 40, 470, 60, 4.0, solid("#fff"), replace(INK, length=720.0))
    doc = pile(plate(1, 0, 0, 256, 256), far)
    assert render_bytes(build(doc))[70, 40, 0] == pytest.approx(255 * 0.4, abs=1)


def any_pile(rng):
    """Plates and stars in all places, some faint, soft, turned, squashed, held or grouped."""
    nodes = []
    for k in range(1, 26):
        form = rng.choice(
            (RectangleForm(-30, -20, 60, 40, 5), StarForm(-40, -40, 80, 80, rng.randint(3, 30), rng.uniform(0.1, 0.9)))
        )
        recipe = [Fill(Solid(Colour(rng.random(), rng.random(), 0.5, rng.choice((1, 1, 1, 0.5)))))]
        recipe += [
            i for i in (INK, Line(Solid(Colour(0, 0, 0)), 4.0), Blur(2.0)) if rng.random() < (0.8 if i is INK else 0.15)
        ]
        place = rng.choice((scaling(1, 0.4), rotation(rng.uniform(0, 360)), scaling(-2, 1)))
        made = Shape(
            k,
            "a",
            form,
            tuple(recipe),
            transform=(*place[:4], rng.uniform(-20, 276), rng.uniform(-20, 276)),
            lift=rng.choice((1, 3, 12)),
        )
        if rng.random() < 0.2 and nodes:
            made = replace(made, children=(replace(nodes.pop(), transform=translation(10, 5)),))
        nodes.append(Group(99 + k, "g", (made,), opacity=rng.choice((1, 0.8))) if rng.random() < 0.2 else made)
    return pile(*nodes, lamp=Lamp(rng.uniform(0, 360), rng.choice((4, 40, 85)), 1.0, rng.choice((0.0, 0.4))))


@pytest.mark.parametrize("seed", range(4))
def test_what_is_left_out_changes_no_pixel(seed, monkeypatch):
    rng, seen, gone = random.Random(seed), Sight.seen, 0
    for doc in [any_pile(rng) for _ in range(8)]:
        monkeypatch.setattr(Sight, "seen", seen)
        some = build(doc)
        monkeypatch.setattr(Sight, "seen", lambda self, casters, *_: np.ones(len(casters), bool))
        everything = build(doc)
        assert np.abs(render_float(some) - render_float(everything)).max() < 1e-4
        gone += len(softs(everything.items)) - len(softs(some.items))
    assert gone > 10


def test_while_all_of_it_moves_nothing_is_left_out_and_at_rest_it_is():
    covered = (
        *(plate(k, 20 * k, 40, 15, 60, 3.0, solid("#fff"), INK) for k in range(1, 11)),
        plate(30, 0, 0, 256, 256),
    )
    memo, there = Memo(), [pile(Group(40, "g", covered, transform=translation(x, 0))) for x in (0, 3)]
    pictures = [build(doc, memo=memo) for doc in (there[0], there[1], there[1])]
    first, moving, rest = (len(softs(p.items)) for p in pictures)
    assert first == rest < moving
    assert np.array_equal(*(render_bytes(p) for p in pictures[1:]))


def shadows(*strengths, far=(), colour=INK.colour):
    """Plates, the lamp to the left, whose shadows fall on the same columns of the ground from 100 on."""
    over = [
        plate(
            k, 40 * k - 40, 30 + 30 * k, 30, 60, 140.0 - 40 * k, solid("#fff"), replace(INK, opacity=o, colour=colour)
        )
        for k, o in enumerate(strengths, 1)
    ]
    return pile(*over, *far)


def test_where_shadows_overlap_the_strongest_counts_whatever_else_falls_there():
    """0.2 where it is alone, 0.5 where the stronger lies on it: not 1 - 0.5 0.8; and no less or more for a third."""
    others = [replace(INK, opacity=o) for o in (0.6, 0.21)]
    for far in ((), *[(plate(9, 190, 5, 40, 30, 5.0, solid("#fff"), i),) for i in others]):
        picture = build(shadows(0.5, 0.2, far=far))
        draft = paint_draft(picture, IDENTITY, (0, 0, 256, 256), DraftState()).pixels() * 255
        for red in (render_bytes(picture)[:, 115, 0], draft[:, 115, 0]):
            assert red[[75, 105, 135]] == pytest.approx([255 * 0.5, 255 * 0.5, 255 * 0.8], abs=1.5)


@pytest.mark.parametrize(("softness", "alpha"), [(0.0, 1.0), (3.0, 0.8)])
def test_shadows_of_unequal_strength_are_the_same_in_files_and_frozen(softness, alpha, tmp_path):
    doc = shadows(0.5, 0.2, 0.7, colour=Colour(0, 0, 0, alpha))
    doc = replace(doc, lamp=replace(doc.lamp, size=softness / 40))
    mine = ours(doc)
    for found in by_all(doc, tmp_path).values():
        assert compare(found, mine).mean < 0.3
        assert found[60:140:15, 115, 0] == pytest.approx(mine[60:140:15, 115, 0], abs=2 / 255)
    vectors = render_bytes(vectorised(build(doc)))[60:140:15, 115, 0] / 255
    assert vectors == pytest.approx(mine[60:140:15, 115, 0], abs=4 / 255)  # in steps
    frozen = freeze(doc, [1, 2, 3]).document
    before, after = (render_bytes(build(d)).astype(int) for d in (doc, frozen))
    assert np.abs(before - after).max() <= 1


def test_windows_are_those_of_each_number_on_the_map():
    rng = np.random.default_rng(3)
    for _ in range(40):
        ids = np.sort(rng.integers(0, 6, (7, 9)), axis=rng.integers(0, 2))
        for k, window in enumerate(windows_of(ids.ravel(), 9, 7)):
            rows, columns = np.nonzero(ids == k)
            told = (columns.min(), rows.min(), columns.max() + 1, rows.max() + 1) if len(rows) else (np.nan,) * 4
            assert np.array_equal(window, told, equal_nan=True)


def test_what_is_known_of_large_sheets_is_counted_and_given_back():
    """A plate over a whole map of 65,536 cells is known by their numbers, in eight bytes each."""
    caching.forget_all()
    for x in range(4):
        build(pile(plate(1, -x, -x, 260, 260, 2.0, solid("#fff"), INK)))
    kept = {f.name: f for f in caching.figures()}["sheets on the map of heights"]
    assert 4 * 65_536 * 8 < kept.bytes < 60_000_000
    caching.forget_all()
    assert {f.name: f for f in caching.figures()}["sheets on the map of heights"].bytes == 0
