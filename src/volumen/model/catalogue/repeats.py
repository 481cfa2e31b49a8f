"""The rows of repeats: stepped blends, rings, grids, mirrors and scattered copies."""

from __future__ import annotations

from volumen.model.catalogue.rows import Choice, Easing, IngredientRow, Number, Offer, Special, Switch, short
from volumen.model.ingredients import Steps
from volumen.model.repeats import Grid, Mirror, Ring, Scatter, ring_steps

_SCALE = Number("scale", "size a step", 0.5, 1.5, " %", 100, 0.01, 10)
_SPIN = Number("spin", "turn a step", -90, 90, "°")
_FADE = Number("fade", "opacity a step", 0, 1, " %", 100, 0, 1)

REPEATING: tuple[IngredientRow, ...] = (
    IngredientRow(
        Ring,
        "Ring",
        "circle-dashed",
        "Repeat",
        "repeat",
        (
            Number("count", "count", 1, 60, "", 1, 1, 2000),
            Special("step angle"),
            Number("sweep", "sweep", 0, 360, "°", 1, -360, 360),
            Special("centre"),
            Special("radius"),
            Switch("upright", "copies stay upright"),
            Number("outward", "outward", -20, 20),
            _SCALE,
            _SPIN,
            _FADE,
        ),
        (Offer("Ring", Ring(), "ring", words="repeat round circle copies", short="Ring"),),
        lambda i: f"{i.count} every {short(ring_steps(i)[1])}°",
        part="form",
        lengths=("outward",),
        holders=("group",),
    ),
    IngredientRow(
        Grid,
        "Row or grid",
        "grid-3x3",
        "Repeat",
        "repeat",
        (
            Number("across", "across", 1, 30, "", 1, 1, 2000),
            Number("down", "rows", 1, 30, "", 1, 1, 2000),
            Choice("by", "even", ("gaps", "steps", "fit")),
            Number("x", "across by", -50, 200),
            Number("y", "down by", -50, 200),
            Number("angle", "direction", -180, 180, "°"),
            Number("slant", "rows at", 0, 180, "°", 1, -360, 360),
            Number("stagger", "stagger", 0, 1, " %", 100, -1, 1),
            _SCALE,
            _SPIN,
            _FADE,
        ),
        (
            Offer("Row", Grid(), "row", words="repeat copies line even", short="Row"),
            Offer("Grid", Grid(down=4), "grid-of-copies", words="repeat copies rows lattice"),
        ),
        lambda i: f"{i.across} × {i.down}" if i.down > 1 else f"{i.across}",
        part="form",
        lengths=("x", "y"),
        holders=("group",),
    ),
    IngredientRow(
        Mirror,
        "Mirror",
        "flip-horizontal-2",
        "Repeat",
        "repeat",
        (Number("angle", "axis", 0, 180, "°", 1), Special("centre")),
        (Offer("Mirror", Mirror(), "mirror", words="repeat copy axis symmetry", short="Mirror"),),
        lambda i: f"at {short(i.angle)}°",
        part="form",
        holders=("group",),
    ),
    IngredientRow(
        Scatter,
        "Scatter",
        "sparkles",
        "Repeat",
        "repeat",
        (
            Choice("where", "where", ("inside", "outline")),
            Number("count", "count", 0, 400, "", 1, 0, 5000),
            Number("distance", "least distance", 0, 100, "", 1, 0),
            Number("smallest", "smallest", 0.1, 2, " %", 100, 0.01),
            Number("largest", "largest", 0.1, 2, " %", 100, 0.01),
            Number("turn", "turn ±", 0, 180, "°"),
            Number("tint", "hue ±", 0, 90, "°", 1, 0, 180),
            Number("light", "lightness ±", 0, 0.5, " %", 100, 0, 1),
            Number("seed", "seed", 1, 99, "", 1, 0),
        ),
        (Offer("Scatter", Scatter(), "scatter", words="repeat strew copies random", short="Scatter"),),
        lambda i: f"{i.count}{f' + {len(i.added)}' if i.added else ''}",
        part="form",
        lengths=("distance",),
        holders=("group",),
    ),
    IngredientRow(
        Steps,
        "Stepped blend",
        "layers-2",
        "Repeat",
        "repeat",
        (
            Choice("mode", "steps by", ("count", "distance", "smooth")),
            Number("count", "count", 0, 60, "", 1, 0, 500),
            Number("distance", "distance", 1, 100, "", 1, 0.1),
            Easing("spacing", "spacing"),
            Easing("colour_spacing", "colours"),
            Number("shift", "match", -0.5, 0.5, " %", 100, -1, 1),
            Switch("turn", "turn along the spine"),
        ),
        (),
        lambda i: f"{i.count} steps" if i.mode == "count" else i.mode,
        part="form",
        lengths=("distance",),
        holders=("group",),
    ),
)
