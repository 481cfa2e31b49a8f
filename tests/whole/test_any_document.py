"""Whatever a valid file may hold: it builds, draws, exports, freezes and checks without a fault."""

import io
import math

import msgspec
import numpy as np
import pikepdf
import pytest
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from lxml import etree

from volumen.compose.scene import build
from volumen.edit import objects
from volumen.edit.freeze import freeze
from volumen.edit.plain_forms import to_path
from volumen.formats import native
from volumen.formats.check import check
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.svg.write import svg_bytes
from volumen.model.ingredients import FORM, Ingredient, Rim
from volumen.model.mending import mended
from volumen.model.nodes import (
    COMBININGS,
    ArcForm,
    CloudForm,
    CombinedForm,
    Document,
    DropForm,
    EllipseForm,
    Group,
    PathForm,
    PathPoint,
    PathRun,
    PolygonForm,
    RaysForm,
    RectangleForm,
    SegmentForm,
    Shape,
    Sheet,
    SpiralForm,
    StarForm,
    TextForm,
)
from volumen.model.tree import walk
from volumen.outline.hit import hit
from volumen.picture.purity import picture_purity
from volumen.render.raster import render_float
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Along, Colour, Conic, Grain, Inward, Linear, MeshPaint, MeshPoint, Radial, Solid, Stop

# Sizes as artists use them, with some that only a broken script would write.
size = st.one_of(st.floats(-60, 260), st.sampled_from([0.0, 1e-9, 1e6, -1e6, 1e9]))
unit = st.one_of(st.floats(0, 1), st.sampled_from([-0.5, 1.7]))
point = st.tuples(size, size)
affine = st.one_of(
    st.just((1.0, 0.0, 0.0, 1.0, 0.0, 0.0)),
    st.tuples(*[st.floats(-2, 2)] * 4, st.floats(-50, 150), st.floats(-50, 150)),
    st.just((0.0, 0.0, 0.0, 0.0, 5.0, 5.0)),
)  # fmt: skip
colours = st.builds(Colour, st.floats(0, 1), st.floats(0, 1), st.floats(0, 1), st.sampled_from([1.0, 0.5, 0.0]))
stops = st.lists(st.builds(Stop, unit, colours, unit), max_size=4).map(tuple)
grains = st.one_of(st.none(), st.builds(Grain, unit, size, st.booleans(), st.integers(-5, 5)))
handles = st.tuples(point, point, point, point)
mesh_points = st.builds(MeshPoint, point, handles, colours, st.booleans())
paints = st.one_of(
    st.builds(Solid, colours),
    st.builds(Linear, stops, point, point, st.booleans()),
    st.builds(Radial, stops, point, size, point, affine, st.booleans(), st.sampled_from(["pad", "repeat", "reflect"])),
    st.builds(Linear, stops, point, point, st.booleans(), st.sampled_from(["repeat", "reflect"]), grains),
    st.builds(Conic, stops, point, st.floats(-720, 720), st.booleans(), grains),
    st.builds(Inward, stops, size, st.booleans(), grain=grains),
    st.builds(Along, stops, st.booleans(), st.booleans(), grains),
    st.builds(
        lambda points, grain: MeshPaint(tuple(points), 2, 1, grain=grain),
        st.lists(mesh_points, min_size=6, max_size=6),
        grains,
    ),
    st.builds(lambda points: MeshPaint(tuple(points), 3, 1, True), st.lists(mesh_points, min_size=6, max_size=6)),
)
near_number = st.floats(-40, 120)
number = st.one_of(st.floats(-40, 120), st.sampled_from([0.0, 1e6]))
for_types = {float: number, Colour: colours, Solid: paints}
ingredients = st.one_of(
    *(
        st.builds(kind, **{f.name: paints for f in msgspec.structs.fields(kind) if f.name == "paint"},
                  **{f.name: st.one_of(st.none(), colours) if f.default is None else colours
                     for f in msgspec.structs.fields(kind) if f.name == "colour"},
                  **{f.name: near_number if kind in (*FORM, Rim) else number
                     for f in msgspec.structs.fields(kind) if f.type is float and f.name != "opacity"},
                  **{f.name: unit for f in msgspec.structs.fields(kind) if f.name == "opacity"})
        for kind in Ingredient.__args__
    )
)  # fmt: skip
runs = st.builds(PathRun, st.lists(st.builds(PathPoint, point, point, point), max_size=5).map(tuple), st.booleans())
paths = st.builds(PathForm, st.lists(runs, max_size=2).map(tuple))
turns = st.floats(-720, 720)
near = st.floats(-60, 260)
spot = st.tuples(near, near)
forms = st.one_of(
    st.builds(EllipseForm, size, size, size, size, turns, turns, st.sampled_from(["sector", "chord", "open"])),
    st.builds(RectangleForm, size, size, size, size, size, st.one_of(st.none(), st.tuples(size, size, size, size))),
    st.builds(PolygonForm, near, near, near, near, st.integers(3, 40), turns),
    st.builds(StarForm, near, near, near, near, st.integers(2, 40), unit, turns),
    st.builds(DropForm, near, near, near, near, unit, unit),
    st.builds(CloudForm, near, near, near, near, st.integers(3, 80), unit),
    st.builds(SegmentForm, spot, spot),
    st.builds(ArcForm, spot, spot, spot),
    st.builds(RaysForm, st.sampled_from(["radial", "parallel"]), spot, turns, turns, st.integers(1, 40), near, size, *[unit] * 5),
    st.builds(SpiralForm, spot, near, near, st.floats(-20, 20), turns),
    st.builds(
        TextForm, st.text("Kelder fi\nAV", max_size=8), st.sampled_from(["Vollkorn", "Bebas Neue", "No Such"]), size=st.floats(0.5, 90),
        x=near, y=near, spacing=unit, path=st.one_of(st.none(), paths), start=unit, flip=st.booleans(),
    ),
    paths,
)  # fmt: skip
recipes = st.lists(ingredients, max_size=4).map(tuple)


@st.composite
def documents(draw):
    """Three shapes: held, grouped or combined, some of them knockouts."""
    shapes = [
        Shape(
            i, f"s{i}", draw(forms), draw(recipes), (), draw(affine), lift=draw(st.floats(-20, 60)), opacity=draw(unit)
        )
        for i in (1, 2, 3)
    ]
    knocks = draw(st.integers(0, 5))
    if knocks in (1, 2):
        shapes[knocks] = msgspec.structs.replace(shapes[knocks], knockout=True)
    way = draw(st.sampled_from(["held", "grouped", "combined"]))
    if way == "held":
        nodes = (msgspec.structs.replace(shapes[0], children=(shapes[1],)), shapes[2])
    elif way == "grouped":
        nodes = (shapes[0], Group(4, "g", tuple(shapes[1:]), draw(recipes), opacity=draw(unit)))
    else:
        members = tuple(msgspec.structs.replace(s, member=True) for s in shapes[:2])
        form = CombinedForm(draw(st.sampled_from(COMBININGS)), draw(unit), draw(st.booleans()))
        if draw(st.booleans()):
            form = RaysForm(
                centre=draw(spot), count=9, held=draw(st.sampled_from(["outer", "inner", "both"])), gap=draw(near)
            )
        nodes = (Shape(4, "c", form, draw(recipes), (*members, shapes[2]), draw(affine)),)
    lamp = Lamp(draw(st.floats(-720, 720)), draw(st.floats(-10, 120)), draw(st.floats(0, 3)), draw(st.floats(-1, 2)))
    ground = draw(st.one_of(st.none(), colours))
    return Document(Sheet(90, 70, ground), lamp, Group(0, "pile", nodes), 5)


@settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large])
@given(documents())
def test_any_document_builds_draws_and_exports(doc):
    doc, _ = mended(doc)
    picture = build(doc)
    pixels = render_float(picture)
    assert np.isfinite(pixels).all()
    assert pixels.shape == (70, 90, 4)
    assert float(pixels[..., 3].max()) <= 1 + 1e-4
    root = etree.fromstring(svg_bytes(picture))
    for value in root.xpath("//@*[not(starts-with(., 'data:'))]"):
        assert "nan" not in value.lower()
        assert "inf" not in value.lower()
    with pikepdf.open(io.BytesIO(pdf_bytes(picture, dpi=72))) as pdf:
        assert len(pdf.pages) == 1
        assert b"nan" not in pdf.pages[0].Contents.read_bytes()
    assert picture_purity(picture).svg in ("vector", "filter", "pixels")
    assert native.decode(native.encode(doc), "any") == doc


@settings(
    max_examples=25, phases=(Phase.generate,), suppress_health_check=[HealthCheck.too_slow, HealthCheck.data_too_large]
)
@given(documents(), point)
def test_any_document_can_be_edited(doc, at):
    doc, _ = mended(doc)
    hit(doc, at)
    check(doc)
    ids = [n.id for n in walk(doc.root)][1:]
    for node_id in ids:
        box = objects.selection_box(doc, [node_id])
        assert box is None or all(map(math.isfinite, box))
        for changed in (freeze(doc, [node_id]).document, to_path(doc, node_id), objects.duplicate(doc, [node_id])[0]):
            ids_now = [n.id for n in walk(changed.root)]
            assert len(ids_now) == len(set(ids_now))
            assert changed.next_id > max(ids_now)
            build(changed)
    grouped, made = objects.group(doc, ids[:2])
    assert made is not None
    build(objects.ungroup(grouped, [made])[0], flat=True)


@pytest.mark.parametrize("height", [-10.0, 0.0, 90.0, 200.0])
def test_lamps_beyond_the_dome_are_held(height):
    lamp = Lamp(45, height)
    assert 0 < lamp.elevation <= math.pi / 2
