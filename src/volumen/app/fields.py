"""What each ingredient's card shows, as data: title, icon, rows, and its one-line summary."""

from __future__ import annotations

from volumen.app.card_light import FINISH_CARDS, LIGHT_CARDS, light_defaults, light_summary, short
from volumen.app.card_rows import BLEND, JOINS, OPACITY, CardSpec, Choice, Easing, Number, Special, Switch
from volumen.app.widgets.colours import HARBOUR
from volumen.colour.srgb import to_hex
from volumen.model.ingredients import Bend, Fill, Ingredient, Line, Offset, Rounding, Steps, Thickness
from volumen.shading.paint import MeshPaint, Solid, colour

CAPS = Choice("cap", "ends", ("butt", "round", "square"))
CARDS: dict[type, CardSpec] = {
    Rounding: CardSpec(
        "Rounding",
        "squircle",
        "Form",
        (Number("radius", "radius", 0, 80, "", 1, 0), Switch("everywhere", "every corner, not only chosen ones")),
    ),
    Steps: CardSpec(
        "Stepped blend",
        "layers-2",
        "Form",
        (
            Choice("mode", "steps by", ("count", "distance", "smooth")),
            Number("count", "count", 0, 60, "", 1, 0, 500),
            Number("distance", "distance", 1, 100, "", 1, 0.1),
            Easing("spacing", "spacing"),
            Easing("colour_spacing", "colours"),
            Number("shift", "match", -0.5, 0.5, " %", 100, -1, 1),
            Switch("turn", "turn along the spine"),
        ),
    ),
    Offset: CardSpec(
        "Offset",
        "scaling",
        "Form",
        (Number("distance", "distance", -60, 60), Switch("percent", "in % of the shorter side"), JOINS),
    ),
    Bend: CardSpec(
        "Bend",
        "waves",
        "Form",
        (
            Choice("kind", "kind", ("arc", "swell", "ripple", "pinch", "cage")),
            Number("amount", "amount", -1, 1, " %", 100),
            Number("turn", "turn", -180, 180, "°"),
            Number("count", "waves", 0.5, 12, "", 1, 0),
        ),
    ),
    Thickness: CardSpec(
        "Thickness", "minus", "Form", (Number("width", "width", 0, 80, "", 1, 0), CAPS, JOINS, Special("profile"))
    ),
    Fill: CardSpec("Fill", "paint-bucket", "Surface", (Special("paint"), OPACITY, BLEND)),
    Line: CardSpec(
        "Line",
        "slash",
        "Surface",
        (
            Number("width", "width", 0, 40, "", 1, 0),
            Special("paint"),
            CAPS,
            JOINS,
            Choice("side", "lies", ("inside", "centre", "outside")),
            Special("profile"),
            Special("dashes"),
            OPACITY,
            BLEND,
        ),
    ),
    **LIGHT_CARDS,
    **FINISH_CARDS,
}


def defaults() -> dict[str, Ingredient]:
    """What the add menu offers, by title."""
    return {
        "Rounding": Rounding(),
        "Offset": Offset(),
        "Bend": Bend(),
        "Thickness": Thickness(),
        "Fill": Fill(Solid(colour(HARBOUR[1]))),
        "Line": Line(Solid(colour(HARBOUR[-2])), 3.0),
        **light_defaults(),
    }


def summary(i: Ingredient) -> str:
    """The card's one line when closed."""
    if isinstance(i, Fill | Line):
        kind = (
            to_hex(i.paint.colour.rgb)
            if isinstance(i.paint, Solid)
            else f"mesh, {i.paint.columns} x {i.paint.rows}"
            if isinstance(i.paint, MeshPaint)
            else f"{type(i.paint).__name__.lower()}, {len(i.paint.stops)} stops"
        )
        return kind if isinstance(i, Fill) else f"{short(i.width)} · {kind}"
    if isinstance(i, Offset):
        return f"{short(i.distance)}{' %' if i.percent else ''}"
    if isinstance(i, Bend):
        return i.kind if i.kind == "cage" else f"{i.kind} {i.amount * 100:.0f} %"
    if isinstance(i, Rounding):
        return short(i.radius) if i.everywhere else f"{len(i.own)} chosen"
    if isinstance(i, Thickness):
        return short(i.width)
    if isinstance(i, Steps):
        return f"{i.count} steps" if i.mode == "count" else i.mode
    return light_summary(i)
