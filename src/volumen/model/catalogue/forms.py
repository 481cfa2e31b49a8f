"""The rows of forms."""

from __future__ import annotations

from volumen.model.catalogue.rows import Choice, FormRow, Number, Switch
from volumen.model.nodes import (
    COMBININGS,
    ArcForm,
    CloudForm,
    CombinedForm,
    DieForm,
    DropForm,
    EllipseForm,
    PathForm,
    PolygonForm,
    RaysForm,
    RectangleForm,
    SegmentForm,
    SpiralForm,
    StarForm,
    TextForm,
)

FORMS: tuple[FormRow, ...] = (
    FormRow(
        EllipseForm,
        "Ellipse",
        (
            Number("start", "start", -180, 180, "°"),
            Number("sweep", "sweep", 0, 360, "°", 1, -360, 360),
            Choice("part", "part", ("sector", "chord", "open")),
        ),
    ),
    FormRow(RectangleForm, "Rectangle", (Number("radius", "radius", 0, 80, "", 1, 0),), lengths=("radius",)),
    FormRow(
        PolygonForm,
        "Polygon",
        (Number("sides", "sides", 3, 24, "", 1, 3, 1000), Number("turn", "turn", -180, 180, "°")),
    ),
    FormRow(
        StarForm,
        "Star",
        (
            Number("points", "points", 3, 40, "", 1, 2, 1000),
            Number("inner", "inner", 0, 1, " %", 100, 0),
            Number("turn", "turn", -180, 180, "°"),
        ),
    ),
    FormRow(
        DropForm,
        "Drop",
        (Number("bulge", "bulge", 0, 1, " %", 100, 0, 1), Number("point", "point", 0, 1, " %", 100, 0, 1)),
    ),
    FormRow(
        CloudForm,
        "Cloud",
        (Number("count", "lobes", 3, 60, "", 1, 3, 1000), Number("depth", "depth", 0, 1.5, " %", 100, 0, 1.5)),
    ),
    FormRow(SegmentForm, "Segment"),
    FormRow(ArcForm, "Arc"),
    FormRow(
        SpiralForm,
        "Spiral",
        (
            Number("outer", "outer", 0, 400, "", 1, 0),
            Number("inner", "inner", 0, 200, "", 1, 0),
            Number("turns", "turns", -12, 12, "", 1, -1000, 1000),
            Number("start", "start", -180, 180, "°"),
        ),
        lengths=("outer", "inner"),
    ),
    FormRow(PathForm, "Path"),
    FormRow(
        DieForm,
        "Die line",
        (Number("gap", "gap", 0, 10, " mm", 1, -50, 200), Number("radius", "blade", 0, 5, " mm", 1, 0, 50)),
    ),
    FormRow(
        TextForm,
        "Text",
        (
            Number("size", "size", 6, 300, "", 1, 0.1),
            Number("spacing", "spacing", -0.1, 0.5, " %", 100, -10),
            Number("leading", "leading", 0.7, 2, " %", 100),
            Choice("align", "lies", ("left", "centre", "right")),
            Switch("kerning", "kerning"),
            Switch("ligatures", "ligatures"),
        ),
        lengths=("size",),
        made="texts",
    ),
    FormRow(
        RaysForm,
        "Rays",
        (
            Choice("kind", "run", ("radial", "parallel")),
            Number("count", "count", 1, 200, "", 1, 1, 5000),
            Number("angle", "angle", -180, 180, "°"),
            Number("sweep", "sweep", 0, 360, "°", 1, -360, 360),
            Number("inner", "start at", 0, 200, "", 1, 0),
            Number("reach", "reach", 1, 800, "", 1, 0.1),
            Number("narrow", "least width", 0, 1, " %", 100, 0, 1),
            Number("wide", "greatest width", 0, 1, " %", 100, 0, 1),
            Number("widest", "widest at", 0, 1, " %", 100, 0, 1),
            Number("start", "starts differ", 0, 1, " %", 100, 0, 1),
            Number("end", "ends differ", 0, 1, " %", 100, 0, 1),
            Number("seed", "seed", 1, 99, "", 1, 0),
            Choice("held", "held", ("outer", "inner", "both")),
            Number("gap", "gap", 0, 60, "", 1, 0),
        ),
        lengths=("inner", "reach", "gap"),
        made="rays",
    ),
    FormRow(
        CombinedForm,
        "Combination",
        (
            Choice("operation", "made by", COMBININGS),
            Number("min_area", "drop specks", 0, 50, "", 1, 0),
            Switch("fill_holes", "fill the holes"),
        ),
        made="combinations",
    ),
)
FORM_ROWS: dict[type, FormRow] = {row.kind: row for row in FORMS}
# What a text that runs on a path has besides.
ON_PATH = (Number("start", "along", 0, 1, " %", 100), Switch("flip", "on the other side"))
