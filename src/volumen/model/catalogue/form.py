"""The rows of form changes."""

from __future__ import annotations

from volumen.model.catalogue.rows import (
    CAPS,
    JOINS,
    Choice,
    IngredientRow,
    Number,
    Offer,
    Special,
    Spot,
    Switch,
    share,
    short,
)
from volumen.model.ingredients import Bend, Offset, Rounding, Thickness

FORM_CHANGES: tuple[IngredientRow, ...] = (
    IngredientRow(
        Rounding,
        "Rounding",
        "squircle",
        "Form",
        "form",
        (Number("radius", "radius", 0, 80, "", 1, 0), Switch("everywhere", "every corner, not only chosen ones")),
        (Offer("Rounding", Rounding(), "rounding", words="corners"),),
        lambda i: short(i.radius) if i.everywhere else f"{len(i.own)} chosen",
        part="form",
        lengths=("radius",),
        holders=("shape",),
    ),
    IngredientRow(
        Offset,
        "Offset",
        "scaling",
        "Form",
        "form",
        (Number("distance", "distance", -60, 60), Switch("percent", "in % of the shorter side"), JOINS),
        (Offer("Offset", Offset(), "offset", words="inset parallel", short="Offset", spots=(Spot("CARVE", 60),)),),
        lambda i: f"{short(i.distance)}{' %' if i.percent else ''}",
        part="form",
        lengths=("distance",),
        holders=("shape",),
    ),
    IngredientRow(
        Bend,
        "Bend",
        "waves",
        "Form",
        "form",
        (
            Choice("kind", "kind", ("arc", "swell", "ripple", "pinch", "cage")),
            Number("amount", "amount", -1, 1, " %", 100),
            Number("turn", "turn", -180, 180, "°"),
            Number("count", "waves", 0.5, 12, "", 1, 0),
        ),
        (Offer("Bend", Bend(), "bend"),),
        lambda i: i.kind if i.kind == "cage" else f"{i.kind} {share(i.amount)}",
        part="form",
        holders=("shape",),
    ),
    IngredientRow(
        Thickness,
        "Thickness",
        "minus",
        "Form",
        "form",
        (Number("width", "width", 0, 80, "", 1, 0), CAPS, JOINS, Special("profile")),
        (
            Offer(
                "Thickness",
                Thickness(),
                "thickness",
                words="width",
                short="Thickness",
                icon="pen-line",
                spots=(Spot("CARVE", 70),),
            ),
        ),
        lambda i: short(i.width),
        part="form",
        lengths=("width",),
        holders=("shape",),
    ),
)
