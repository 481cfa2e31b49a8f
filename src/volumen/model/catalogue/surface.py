"""The rows of paints and lines."""

from __future__ import annotations

from volumen.colour.srgb import to_hex
from volumen.model.catalogue.rows import (
    BLEND,
    BROKEN,
    CAPS,
    JOINS,
    OPACITY,
    Choice,
    IngredientRow,
    Number,
    Offer,
    Special,
    Spot,
    always,
    short,
)
from volumen.model.ingredients import Fill, Line
from volumen.shading.paint import Colour, MeshPaint, Paint, Solid, colour, face_colour

SEA, INK = "#2b8577", "#1b2226"  # colours of new fills and lines
CLEAR = Colour(1.0, 1.0, 1.0, 0.0)


def paint_summary(paint: Paint) -> str:
    """A paint in a few words."""
    if isinstance(paint, Solid):
        return to_hex(paint.colour.rgb)
    if isinstance(paint, MeshPaint):
        return f"mesh, {paint.columns} x {paint.rows}"
    return f"{type(paint).__name__.lower()}, {len(paint.stops)} stops"


SURFACE: tuple[IngredientRow, ...] = (
    IngredientRow(
        Fill,
        "Fill",
        "paint-bucket",
        "Surface",
        "paint",
        (Special("paint"), OPACITY, BLEND),
        (
            Offer(
                "Fill",
                Fill(Solid(colour(SEA))),
                "fill",
                keys="F",
                words="paint colour",
                short="Fill",
                spots=(Spot("COLOUR", 60),),
            ),
        ),
        lambda i: paint_summary(i.paint),
        part="paint",
        face=lambda i: face_colour(i.paint) or CLEAR,
        plain=always,
    ),
    IngredientRow(
        Line,
        "Line",
        "slash",
        "Surface",
        "over",
        (
            Number("width", "width", 0, 40, "", 1, 0),
            Special("paint"),
            CAPS,
            JOINS,
            Choice("side", "lies", ("inside", "centre", "outside")),
            Special("profile"),
            Special("dashes"),
            *BROKEN,
            OPACITY,
            BLEND,
        ),
        (
            Offer(
                "Line",
                Line(Solid(colour(INK)), 3.0),
                "line",
                keys="K",
                words="stroke outline",
                short="Line",
                spots=(Spot("COLOUR", 70),),
            ),
        ),
        lambda i: f"{short(i.width)} · {paint_summary(i.paint)}",
        part="line",
        face=lambda i: face_colour(i.paint) or CLEAR,
        lengths=("width", "dash_start"),
        made="pieces of lines",
        stays="lines",
        plain=lambda i: not i.broken and not i.omitted,
    ),
)
