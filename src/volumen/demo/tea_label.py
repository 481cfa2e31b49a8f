"""The label of a tea tin: four colours and a copper ink of its own, with bleed and the line that it is cut along."""

from __future__ import annotations

import math

from msgspec.structs import replace

from volumen.geometry.affine import multiply, rotation, scaling, translation
from volumen.library import (
    CastShadow,
    Document,
    EllipseForm,
    Fill,
    Group,
    Ingredient,
    Ink,
    Lamp,
    Line,
    Linear,
    Node,
    Palette,
    Pile,
    Radial,
    RaysForm,
    RectangleForm,
    Rounding,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Stop,
    Swatch,
    TextForm,
    circle,
    colour,
    cusp,
    path_form,
    radial,
    smooth,
    solid,
    tinted,
)
from volumen.model.sheet import PER_UNIT

MM = PER_UNIT["mm"]
WIDE, HIGH, BLEED = 260 * MM, 90 * MM, 3 * MM
CREAM, NAVY, SEA, RED = "#f2e7cd", "#1f3c50", "#2f6b6d", "#c2462f"
MIDDLE = WIDE / 2
COPPER = Swatch(1, "copper", colour("#a9663f"), "label", Ink("Kelder copper"))
DIE = Swatch(2, "die line", colour("#e0208c"), "label", Ink("die line", overprints=True))


def copper(tint: float = 1.0) -> Ingredient:
    """A fill in a tint of the copper ink."""
    return Fill(Solid(tinted(COPPER.colour, tint), COPPER.id, tint=tint))


def tea_label() -> Document:
    p = Pile()
    left, right = -BLEED, WIDE + 2 * BLEED
    paper = p.shape("paper", RectangleForm(left, -BLEED, right, HIGH + 2 * BLEED), solid(CREAM), locked=True)
    bands = [
        p.shape(name, RectangleForm(left, y, right, high), fill)
        for name, y, high, fill in (
            ("band above", -BLEED, 9 * MM + BLEED, solid(SEA)), ("copper rule", 9.6 * MM, 0.9 * MM, copper()),
            ("copper rule", HIGH - 10.5 * MM, 0.9 * MM, copper()), ("band below", HIGH - 9 * MM, 9 * MM + BLEED, solid(SEA)),
        )
    ]  # fmt: skip
    waves = [_waves(p, 4.4 * MM), _waves(p, HIGH - 4.6 * MM)]
    art = (paper, *bands, *waves, *_sides(p), _cartouche(p), _die_line(p))
    sheet = Sheet(WIDE, HIGH, colour("#ffffff"), "mm", BLEED)
    document = p.document(sheet, Lamp(318, 44, 1.0, 0.4), *art)
    return replace(document, palette=Palette((COPPER, DIE), next_id=3))


def _waves(p: Pile, y: float) -> Shape:
    """A running wave in the paper's colour along a band."""
    step, high = 10 * MM, 1.4 * MM
    points = [smooth(-BLEED + k * step, y + (high if k % 2 else -high), 0.36 * step, 0) for k in range(28)]
    line = Line(Solid(colour(CREAM)), 0.35 * MM, "round", "round")
    return p.shape("wave", path_form(*points, closed=False), line)


def _cartouche(p: Pile) -> Group:
    """The middle: a navy disc in a copper ring, rays in tints of the ink, the name before them."""
    cy, r = HIGH / 2, 40 * MM
    disc = p.shape("disc", EllipseForm(MIDDLE - 1.34 * r, cy - r * 0.86, 2.68 * r, 1.72 * r), solid(NAVY),
                   Sliver("light", "shift", 0.9 * MM, opacity=0.25), Sliver("shade", "shift", 1.4 * MM, opacity=0.35),
                   CastShadow(0.5, softness=9.0), lift=9.0)  # fmt: skip
    rim = p.shape("copper rim", EllipseForm(MIDDLE - 1.3 * r, cy - r * 0.825, 2.6 * r, 1.65 * r),
                  Line(Solid(COPPER.colour, COPPER.id), 0.8 * MM))  # fmt: skip
    rays = p.shape(
        "rays", RaysForm(centre=_sun_at(cy), reach=17 * MM, inner=10 * MM, count=36, narrow=0.12, wide=0.4, end=0.35, seed=5),
        Fill(_glow(cy)),
    )  # fmt: skip
    sun = p.shape(
        "sun", circle(MIDDLE, cy - 7 * MM, 8.2 * MM), copper(), Sliver("light", "shift", 0.7 * MM, opacity=0.35)
    )
    leaves = [_leaf(p, side, k, cy) for side in (-1, 1) for k in range(5)]
    words = [
        _text(p, "KELDER SOUND", "Bebas Neue", "Regular", 58, cy + 13 * MM, 0.06, solid(CREAM)),
        _text(p, "Harbour Museum", "Pacifico", "Regular", 26, cy + 20.5 * MM, 0.0, copper(0.55)),
        _text(p, "SMOKED BLACK TEA", "Bebas Neue", "Regular", 21, cy + 27 * MM, 0.16, solid(CREAM)),
    ]
    return p.group("cartouche", disc, rays, sun, *leaves, rim, *words)


def _sun_at(cy: float) -> tuple[float, float]:
    """Where the sun stands."""
    return MIDDLE, cy - 7 * MM


def _glow(cy: float) -> Radial:
    """From full ink at the sun to nothing."""
    made = radial(_sun_at(cy), 17 * MM, (0, "#ffffff"), (1, "#ffffff"))
    stops = tuple(
        Stop(at, tinted(COPPER.colour, tint).with_alpha(alpha), swatch=COPPER.id, tint=tint)
        for at, tint, alpha in ((0.5, 1.0, 1.0), (1.0, 1.0, 0.25))
    )
    return replace(made, stops=stops)


def _leaf(p: Pile, side: int, k: int, cy: float) -> Shape:
    """A leaf of a sprig that climbs beside the name, from its tip in a tint to its stalk in full ink."""
    form = path_form(
        cusp(0, 0, (0, 0), (6, -10)), cusp(0, -34, (7, 12), (-7, 12)), closed=True
    )  # fmt: skip
    angle = math.radians(112 - 21 * k)  # round the sun, from beside it upwards
    x, y = _sun_at(cy)
    at = x + side * 22 * MM * math.sin(angle), y - 22 * MM * math.cos(angle)
    size = 1.12 - 0.1 * k
    place = multiply(translation(*at), multiply(rotation(side * (math.degrees(angle) - 62)), scaling(size, size)))
    stops = tuple(Stop(v, tinted(COPPER.colour, t), swatch=COPPER.id, tint=t) for v, t in ((0.0, 1.0), (1.0, 0.35)))
    return p.shape("leaf", form, Fill(Linear(stops, (0, 0), (0, -34))), transform=place)


def _sides(p: Pile) -> list[Node]:
    """What is read when the tin is turned."""
    left, right = 38 * MM, WIDE - 38 * MM
    rows = (
        ("KEEP DRY ABOARD", "Bebas Neue", "Regular", 26, left, 30, 0.08, solid(NAVY)),
        ("three minutes, then", "Vollkorn", "Italic", 17, left, 39, 0.0, solid(NAVY)),
        ("watch the tide go out", "Vollkorn", "Italic", 17, left, 45.5, 0.0, solid(NAVY)),
        ("100 g · loose leaf", "Figtree", "Medium", 12, left, 62, 0.03, solid(NAVY)),
        ("No. 7", "Bebas Neue", "Regular", 84, right, 45, 0.02, solid(RED)),
        ("blended on the quay", "Vollkorn", "Italic", 17, right, 54, 0.0, solid(NAVY)),
        ("best before: see foot", "Figtree", "Medium", 12, right, 62, 0.03, solid(NAVY)),
    )
    made: list[Node] = [_text(p, t, f, st, size, y * MM, sp, fill, x) for t, f, st, size, x, y, sp, fill in rows]
    for x in (left, right):
        for k in (-1, 1):
            made.append(p.shape("dot", circle(x + k * 9 * MM, 69 * MM, 0.7 * MM), copper()))
        made.append(p.shape("dot", circle(x, 69 * MM, 1.1 * MM), copper()))
    return made


def _text(
    p: Pile,
    words: str,
    family: str,
    style: str,
    size: float,
    y: float,
    spacing: float,
    fill: Ingredient,
    x: float = MIDDLE,
) -> Shape:
    return p.shape("words", TextForm(words, family, style, size, x, y, spacing, align="centre"), fill)


def _die_line(p: Pile) -> Shape:
    """The cut, with round corners: a hair line that prints on nothing."""
    return p.shape("die line", RectangleForm(0, 0, WIDE, HIGH), Rounding(3 * MM), Line(Solid(DIE.colour, DIE.id), 0.25 * PER_UNIT["pt"]),
                   substance=False, locked=True)  # fmt: skip
