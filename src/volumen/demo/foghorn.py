"""The foghorn poster: a burst of rays out of a brass horn over a striped sea, all of it live."""

from __future__ import annotations

from volumen.library import (
    Body,
    CastShadow,
    Document,
    Fill,
    Halves,
    InnerShadow,
    Lamp,
    Mirror,
    Node,
    OuterGlow,
    Pile,
    RaysForm,
    RectangleForm,
    Ring,
    Shape,
    Sheet,
    Sliver,
    TextForm,
    circle,
    colour,
    corner,
    cusp,
    linear,
    path_form,
    radial,
    smooth,
    solid,
)

WIDE, HIGH = 640.0, 900.0
LEFT, TOP, RIGHT, SHORE = 34.0, 34.0, 606.0, 560.0
X, Y = 320.0, 318.0  # the mouth of the horn
CREAM, INK = "#f3e7cb", "#10262f"


def foghorn() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("paper", RectangleForm(0, 0, WIDE, HIGH), solid(CREAM), locked=True),
        p.shape("evening", RectangleForm(LEFT, TOP, RIGHT - LEFT, SHORE - TOP),
                Fill(radial((X, Y), 470, (0, "#f5b04c"), (0.38, "#d9573a"), (0.72, "#7b2f48"), (1, "#2a2546")))),
        _burst(p),
        _sea(p),
        _rock(p),
        _horn(p),
        *_letters(p),
    )  # fmt: skip
    return p.document(Sheet(WIDE, HIGH, colour(CREAM)), Lamp(322, 46, 1.0, 0.32), *parts)


def _burst(p: Pile) -> Shape:
    """Rays that stay inside the evening and keep clear of the horn."""
    frame = p.shape("edge of the evening", RectangleForm(LEFT, TOP, RIGHT - LEFT, SHORE - TOP), member=True)
    clear = p.shape("clear of the horn", circle(X, Y, 118), member=True)
    form = RaysForm("radial", (X, Y), -90.0, 360.0, 44, 20.0, 470.0, 0.04, 0.62, 1.0, 0.0, 0.16, 7, "both", 16.0)
    return p.shape(
        "rays", form, Fill(radial((X, Y), 460, (0, "#fff0bf", 0.95), (0.5, "#ffd27a", 0.8), (1, "#f2a25c", 0.25))),
        held=(frame, clear),
    )  # fmt: skip


def _sea(p: Pile) -> Node:
    """Parallel rays as light on the water, in the outline of the sea."""

    def shore() -> Shape:
        return p.shape("edge of the sea", path_form(
            corner(LEFT, 544), smooth(130, 538, 46, 0), smooth(240, 548, 40, 2), smooth(420, 538, 60, 0), corner(RIGHT, 548),
            corner(RIGHT, 690), corner(LEFT, 690)), member=True)  # fmt: skip

    water = p.shape(
        "water",
        shore().form,
        Fill(linear((0, 540), (0, 690), (0, "#2b6f7a"), (1, "#0d3040"))),
        InnerShadow(3.0, opacity=0.35),
    )
    far = RaysForm("parallel", (X, 632), 0.0, 360.0, 64, 0.0, 300.0, 0.0, 0.42, 0.5, 0.75, 0.75, 11)
    near = RaysForm("parallel", (X, 632), 0.0, 360.0, 26, 0.0, 300.0, 0.0, 0.22, 0.4, 0.6, 0.3, 5)
    glints = p.shape("light on the water", far, solid("#ffcf7a", 0.9), held=(shore(),), blend="screen", opacity=0.75)
    shade = p.shape("dark on the water", near, solid("#082430"), held=(shore(),), opacity=0.45)
    return p.group("sea", water, shade, glints)


def _rock(p: Pile) -> Node:
    """The signal station on its rock, and the foam round it."""
    rock = p.shape("rock", path_form(
        corner(150, 606), corner(176, 578), corner(206, 570), smooth(232, 540, 10, -14), corner(252, 516), corner(300, 510),
        corner(388, 516), smooth(404, 540, 8, 16), corner(440, 556), corner(452, 582), smooth(492, 604, 16, 6), smooth(320, 628, -90, 0)),
        Fill(linear((300, 505), (340, 625), (0, "#5b6a70"), (0.5, "#33454d"), (1, "#101d24"))),
        Sliver("light", "shift", 4.0, opacity=0.5, blend="screen"), Sliver("shade", "shift", 14.0, opacity=0.4), CastShadow(0.45), lift=6.0)  # fmt: skip
    face = p.shape("face of the rock", path_form(
        corner(300, 510), corner(388, 516), smooth(404, 540, 8, 16), corner(440, 556), corner(452, 582), smooth(492, 604, 16, 6),
        smooth(360, 627, -40, 0), corner(372, 580), corner(344, 552)), solid("#0b171d", 0.45))  # fmt: skip
    foam = p.shape("foam", path_form(
        smooth(132, 612, 20, -12), smooth(220, 618, 40, 6), smooth(330, 626, 50, 0), smooth(440, 616, 40, -8), smooth(512, 606, 14, 4),
        smooth(420, 630, -40, 8), smooth(300, 640, -60, 0), smooth(190, 630, -40, -4)), solid("#e6efe6", 0.7), opacity=0.8)  # fmt: skip
    house = p.shape(
        "house",
        RectangleForm(270, 436, 100, 88, 2),
        solid("#efe6d2"),
        Body("tube", "clay", turn=90.0),
        CastShadow(0.5),
        lift=8.0,
    )
    bands = tuple(
        p.shape("band", RectangleForm(270, y, 100, 15), solid("#b23a2e"), Body("tube", "clay", turn=90.0))
        for y in (456, 492)
    )
    door = p.shape("door", RectangleForm(309, 484, 22, 40, 10), solid("#22343c"), InnerShadow(3.0, opacity=0.7))
    ledge = p.shape(
        "ledge", RectangleForm(256, 428, 128, 13, 3), solid("#33454d"), Body("tube", "brass"), CastShadow(0.5), lift=5.0
    )
    return p.group("signal station", rock, face, foam, house, *bands, door, ledge)


def _horn(p: Pile) -> Node:
    """The horn seen from the front: a yoke drawn as its half, a flared lip in rings, the dark throat, and a ring of rivets."""
    yoke = p.shape("yoke", path_form(
        cusp(322, 446, (0, 0), (-74, 0)), cusp(188, 318, (0, 72), (0, 0)), cusp(203, 318, (0, 0), (0, 60)), cusp(322, 430, (-62, 0), (0, 0))),
        Halves((X, 0.0)), solid("#44565e"), Sliver("light", "shift", 2.5, opacity=0.6, blend="screen"), Sliver("shade", "shift", 3.0, opacity=0.5), CastShadow(0.5), lift=5.0)  # fmt: skip
    pin = p.shape("pin", circle(196, 316, 13), solid("#c9963f"), Body("ball", "brass"), CastShadow(0.6), lift=4.0)
    rivet = p.shape("rivet", circle(X, Y - 92, 5.2), solid("#c9963f"), Body("ball", "brass"), CastShadow(0.5), lift=2.0)
    return p.group(
        "horn",
        yoke,
        p.group("pins", pin, recipe=(Mirror((X, 0.0)),)),
        p.shape("lip", circle(X, Y, 108), solid("#c08a3a"), Body("ball", "brass"), CastShadow(0.6), lift=14.0),
        p.shape("bell", circle(X, Y, 98), solid("#c48d3c"), Body("dish", "brass"), InnerShadow(6.0, opacity=0.4)),
        p.group("rivets", rivet, recipe=(Ring((X, Y), 24),)),
        p.shape("flare", circle(X, Y, 80), solid("#b77f30"), Body("dish", "brass"), InnerShadow(12.0, opacity=0.55)),
        p.shape("inner flare", circle(X, Y, 54), solid("#8a5a1f"), Body("dish", "brass"), InnerShadow(10.0, opacity=0.6)),
        p.shape("throat", circle(X, Y, 30), Fill(radial((X + 5, Y + 7), 30, (0, "#3a2209"), (1, "#0d0703"))), InnerShadow(7.0, opacity=0.8)),
        recipe=(OuterGlow(colour("#fff0bf"), 18.0, 0.0, 0.5, "screen"),),
    )  # fmt: skip


def _letters(p: Pile) -> tuple[Node, ...]:
    return (
        p.shape("title", TextForm("FOGHORN", "Bebas Neue", "Regular", 176, X, 828, 0.045, align="centre"), solid("#b23a2e"),
                Sliver("light", "shift", 2.0, opacity=0.5, blend="screen"), Sliver("shade", "shift", 3.0, opacity=0.35), CastShadow(0.35), lift=4.0),
        p.shape("line", TextForm("EVERY DUSK FROM THE OUTER MOLE", "Bebas Neue", "Regular", 29, X, 866, 0.2, align="centre"), solid(INK)),
        p.shape("museum", TextForm("HARBOUR MUSEUM OF KELDER SOUND", "Bebas Neue", "Regular", 17, X, 76, 0.34, align="centre"), solid("#fff0bf")),
    )  # fmt: skip
