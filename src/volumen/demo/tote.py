"""The tote bag print: two inks on cloth, with figures that let the cloth show through."""

from __future__ import annotations

import math

from volumen.geometry.affine import Affine, multiply, rotation, scaling, translation
from volumen.library import (
    Blur,
    CastShadow,
    Document,
    Fill,
    Group,
    Lamp,
    Line,
    PathForm,
    Pile,
    RectangleForm,
    Rounding,
    Shape,
    Sheet,
    Sliver,
    Solid,
    TextForm,
    circle,
    colour,
    corner,
    cusp,
    linear,
    path_form,
    smooth,
    solid,
)

WIDE, HIGH = 800.0, 900.0
CLOTH, CREAM, RED, INK = "#1d3a55", "#f3e6c8", "#d9482b", "#12293d"
LEFT, TOP, W, H = 210.0, 318.0, 380.0, 470.0  # the printed frame


def tote() -> Document:
    p = Pile()
    wall = p.shape("wall", RectangleForm(0, 0, WIDE, HIGH),
                   Fill(linear((0, 0), (0, HIGH), (0, "#e9e4da"), (1, "#cfc7b8"))), locked=True, stock=True)  # fmt: skip
    return p.document(
        Sheet(WIDE, HIGH, colour("#e9e4da")), Lamp(318, 44, 1.0, 0.4), wall, *_bag(p), _print(p)
    )  # fmt: skip


def _bag(p: Pile) -> list[Shape]:
    """The cloth: a body with soft folds, and two handles."""
    body = path_form(
        cusp(136, 236, (0, 0), (40, 6)), cusp(664, 236, (-40, 6), (0, 0)), cusp(690, 842, (-6, -60), (-6, 18)),
        cusp(400, 862, (160, 4), (-160, 4)), cusp(110, 842, (6, 18), (6, -60)),
    )  # fmt: skip

    def handle(y: float, name: str, tone: str) -> Shape:
        form = path_form(
            cusp(262, 262, (0, 0), (6, -90)), smooth(400, y, 92, 0), cusp(538, 262, (-6, -90), (0, 0)), closed=False
        )
        return p.shape(name, form, Line(Solid(colour(tone)), 30.0, "butt", "round"),
                       Line(Solid(colour("#ffffff", 0.16)), 1.6, dashes=(7.0, 5.0)), CastShadow(0.5), lift=7.0, stock=True)  # fmt: skip

    fold = [
        p.shape("fold", path_form(smooth(x, 236, 0, 60), smooth(x + d, 560, 0, 120), smooth(x + 1.6 * d, 860, 0, 60), closed=False),
                Line(Solid(colour(tone, 0.5)), wide, "round"), Blur(soft), blend=mode)
        for x, d, wide, soft, tone, mode in (
            (170, 14, 26, 16, "#04121f", "multiply"), (206, 10, 14, 11, "#9dc3dd", "soft-light"),
            (640, -12, 30, 17, "#04121f", "multiply"), (604, -8, 12, 10, "#9dc3dd", "soft-light"),
            (420, -18, 18, 20, "#04121f", "multiply"),
        )
    ]  # fmt: skip
    hem = p.shape("hem", path_form(cusp(134, 272, (0, 0), (60, 8)), cusp(666, 272, (-60, 8), (0, 0)), closed=False),
                  Line(Solid(colour("#ffffff", 0.22)), 1.6, dashes=(7.0, 5.0)))  # fmt: skip
    cloth = p.shape(
        "cloth", body, Rounding(10.0), solid(CLOTH),
        Fill(linear((110, 0), (690, 0), (0, "#000000", 0.34), (0.16, "#000000", 0.0), (0.8, "#000000", 0.02), (1, "#000000", 0.4))),
        Sliver("light", "shift", 3, opacity=0.22, blend="screen"), CastShadow(0.5, softness=16.0), held=(*fold, hem), lift=20.0, stock=True,
    )  # fmt: skip
    return [handle(30, "handle behind", "#14293e"), cloth, handle(70, "handle", CLOTH)]


def _print(p: Pile) -> Group:
    """All that is printed; knockouts in it take away every ink below them."""
    frame = p.shape("frame", RectangleForm(LEFT, TOP, W, H), Rounding(26.0), solid(CREAM), held=tuple(_scene(p)))
    words = TextForm("KELDER SOUND", "Bebas Neue", "Regular", 72, LEFT + W / 2, TOP + H - 42, 0.045, align="centre")
    title = p.shape("title", words, solid(CREAM), knockout=True)
    small = TextForm("harbour museum", "Zilla Slab", "Bold", 21, LEFT + W / 2, TOP + H - 16, 0.12, align="centre")
    below = p.shape("small title", small, solid(CREAM), knockout=True)
    return p.group("print", frame, *_gulls(p), title, below)


def _scene(p: Pile) -> list[Shape | Group]:
    sun = p.shape("sun", circle(LEFT + 262, TOP + 132, 84), solid(RED))
    bars = [  # from one drawn bar to the other in even steps, thinner towards the horizon
        p.shape("bar", RectangleForm(LEFT - 10, TOP + 216 + 24.5 * k, W + 20, 3.5 + 1.55 * k), solid(RED if k % 3 == 1 else INK))
        for k in range(7)
    ]  # fmt: skip
    glow = [
        p.shape("sun on the water", RectangleForm(LEFT + 262 - wide / 2, TOP + 205 + 24.5 * k, wide, 7.0), Rounding(3.5), solid(RED))
        for k, wide in enumerate((150, 122, 96, 70, 44))
    ]  # fmt: skip
    return [sun, *_hills(p), *bars, *glow, _lighthouse(p), *_boats(p), _foot(p)]


def _hills(p: Pile) -> list[Shape]:
    y = TOP + 206
    far = path_form(
        corner(LEFT - 20, y), cusp(LEFT - 20, y - 40, (0, 0), (60, -30)), smooth(LEFT + 90, y - 62, 40, 0),
        smooth(LEFT + 200, y - 26, 40, 6), smooth(LEFT + 320, y - 44, 40, 0), corner(LEFT + W + 20, y - 18), corner(LEFT + W + 20, y),
    )  # fmt: skip
    return [p.shape("far hills", far, solid(INK))]


def _lighthouse(p: Pile) -> Group:
    x, y = LEFT + 74, TOP + 226
    rock = path_form(
        corner(x - 84, y + 14), cusp(x - 62, y - 22, (-16, 20), (20, -18)), smooth(x, y - 34, 30, 0),
        cusp(x + 54, y - 10, (-20, -20), (14, 14)), corner(x + 78, y + 14),
    )  # fmt: skip
    tower = path_form(corner(x - 21, y - 30), corner(x - 14, y - 148), corner(x + 14, y - 148), corner(x + 21, y - 30))
    stripes = tuple(p.shape("stripe", RectangleForm(x - 30, y - 148 + 40 * k, 60, 20), solid(RED)) for k in range(3))
    parts = [
        p.shape("rock", rock, solid(INK)),
        p.shape("tower", tower, solid(CREAM), Line(Solid(colour(INK)), 3.5, "butt", "round"), held=stripes),
        p.shape("gallery", RectangleForm(x - 21, y - 156, 42, 9), Rounding(2.0), solid(INK)),
        p.shape("lamp house", RectangleForm(x - 11, y - 178, 22, 23), solid(CREAM), Line(Solid(colour(INK)), 3.5)),
        p.shape(
            "roof", path_form(corner(x - 16, y - 178), smooth(x, y - 200, 9, 0), corner(x + 16, y - 178)), solid(INK)
        ),
    ]
    return p.group("lighthouse", *parts)


def _boats(p: Pile) -> list[Group]:
    """One boat, repeated from small and far to large and near, every second one turned about."""
    out = []
    for x, y, size, flip in ((190, 232, 0.36, 1), (322, 244, 0.48, -1), (238, 272, 0.72, 1), (146, 326, 1.12, -1)):
        place = multiply(translation(LEFT + x, TOP + y), scaling(size * flip, size))
        hull = path_form(
            corner(-52, -6), corner(52, -6), cusp(34, 20, (10, -8), (-4, 4)), cusp(-36, 20, (4, 4), (-10, -8))
        )
        sail = path_form(corner(4, -12), corner(4, -100), cusp(46, -16, (-8, -44), (0, 0)))
        jib = path_form(corner(-3, -12), corner(-3, -84), cusp(-36, -14, (6, -30), (0, 0)))
        out.append(
            p.group("boat", p.shape("hull", hull, solid(INK)), p.shape("sail", sail, solid(RED)),
                    p.shape("jib", jib, solid(CREAM), Line(Solid(colour(INK)), 3.0, join="round")), transform=place)
        )  # fmt: skip
    return out


def _foot(p: Pile) -> Shape:
    return p.shape("foot", RectangleForm(LEFT - 10, TOP + H - 112, W + 20, 130), solid(RED))


def _gulls(p: Pile) -> list[Shape]:
    """Birds cut out of the print: the cloth shows in them."""
    out = []
    for x, y, size, angle in (
        (60, 62, 0.7, -8),
        (128, 40, 1.0, 6),
        (196, 84, 0.55, -12),
        (330, 42, 0.8, 12),
        (300, 300, 1.35, -10),
    ):
        place: Affine = multiply(translation(LEFT + x, TOP + y), multiply(rotation(angle), scaling(size, size)))
        out.append(p.shape("gull", _gull(), solid("#ffffff"), transform=place, knockout=True))
    return out


def _gull() -> PathForm:
    dip = math.sin(0.6) * 10
    return path_form(
        cusp(-44, -6, (0, 0), (14, -16)), cusp(0, 2, (-12, -14 + dip), (12, -14 + dip)), cusp(44, -6, (-14, -16), (0, 0)),
        cusp(6, 14, (20, -16), (-2, 4)), cusp(-6, 14, (2, 4), (-20, -16)),
    )  # fmt: skip
