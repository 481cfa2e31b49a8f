"""The kraken: a mascot with dark sockets and a shine, in front of a swirling cloud of ink."""

from __future__ import annotations

import math

from volumen.geometry.affine import multiply, rotation, translation
from volumen.library import (
    Along,
    Blur,
    CastShadow,
    CloudForm,
    ContactShadow,
    Document,
    EllipseForm,
    Fill,
    Group,
    Halves,
    InnerGlow,
    InnerShadow,
    Lamp,
    Lights,
    Line,
    Mirror,
    Node,
    OuterGlow,
    PathPoint,
    Pile,
    Radial,
    RectangleForm,
    Relief,
    Rim,
    Sheet,
    Sliver,
    Solid,
    SpiralForm,
    Stop,
    TextForm,
    circle,
    colour,
    corner,
    linear,
    meant_so,
    path_form,
    radial,
    smooth,
    solid,
)

SIDE = 800.0
MIDDLE = SIDE / 2
SKIN = (
    Stop(0.0, colour("#ffb08a")),
    Stop(0.35, colour("#f2653f")),
    Stop(0.75, colour("#b5282f")),
    Stop(1.0, colour("#6b1030")),
)


def kraken() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("sea", RectangleForm(0, 0, SIDE, SIDE), Fill(radial((400, 360), 620, (0, "#7fd8cf"), (0.5, "#2f9aa6"), (1, "#0e4a63"))), locked=True),
        _ink(p),
        _mascot(p),
        p.shape("name", TextForm("THE KRAKEN OF KELDER SOUND", "Bebas Neue", "Regular", 34, 400, 773, 0.14, align="centre"), solid("#fff1d8"),
                Rim(colour("#3a0b28"), 7.0), CastShadow(0.5, softness=4.0), lift=6.0),
    )  # fmt: skip
    document = p.document(Sheet(SIDE, SIDE, colour("#0e4a63")), Lamp(320, 46, 1.0, 0.35), *parts)
    document = meant_so(document, ("arm", "gradient"), ("mouth", "gradient"))  # paler towards the tips; a hollow
    return document.with_lights(Lights(document.lamp, None, Lamp(140, 14, 0.5, 0.2, colour("#8fe9ff"))))


def _ink(p: Pile) -> Node:
    """A cloud whose colour fades to nothing, swirls in it, a little out of focus."""
    puffs = tuple(
        p.shape(f"puff {k + 1}", CloudForm(x - r, y - r * 0.8, 2 * r, 1.6 * r, 9, 0.9), Fill(radial((x, y), r * 1.08, (0, "#2a1145", 0.95), (0.6, "#3b1a63", 0.8), (1, "#5a2d8c", 0.0))), Blur(3.0))
        for k, (x, y, r) in enumerate(((400, 330, 300), (190, 430, 170), (610, 430, 170), (270, 230, 170), (540, 230, 170)))
    )  # fmt: skip
    swirls = tuple(
        p.shape(f"swirl {k + 1}", SpiralForm((x, y), r, r * 0.1, 2.1, turn), Line(Along((Stop(0, colour("#8a5fd0", 0.0)), Stop(0.5, colour("#a986e6", 0.7)), Stop(1, colour("#8a5fd0", 0.0)))), 9.0, "round", "round"),
                Blur(1.6))
        for k, (x, y, r, turn) in enumerate(((170, 300, 84, 20), (640, 306, 84, 160), (230, 150, 52, 80), (572, 150, 52, 100), (400, 110, 60, 0)))
    )  # fmt: skip
    return Group(p.take(), "ink", (*puffs, *swirls), opacity=0.95)


def _mascot(p: Pile) -> Node:
    arms = p.group("arms", *(_arm(p, k) for k in range(4)), recipe=(Mirror((MIDDLE, 480.0)),))
    return p.group("kraken", arms, _head(p), lift=16.0, recipe=(OuterGlow(colour("#ffb38a"), 26.0, 0.0, 0.35),))


_ARMS = (
    ((330, 470), (180, 470), (96, 560), (92, 640), (150, 676), (186, 640)),
    ((346, 500), (250, 556), (196, 636), (214, 706), (272, 712), (282, 676)),
    ((372, 516), (330, 600), (312, 660), (330, 716), (376, 716), (378, 684)),
    ((320, 440), (190, 400), (96, 420), (60, 340), (110, 296), (146, 330)),
)


def _arm(p: Pile, k: int) -> Node:
    """A thick line that thins towards its curled tip; cups sit along it."""
    at = _ARMS[k]
    points = []
    for i, (x, y) in enumerate(at):
        before, after = at[max(i - 1, 0)], at[min(i + 1, len(at) - 1)]
        points.append(smooth(x, y, (after[0] - before[0]) / 5, (after[1] - before[1]) / 5))
    taper = ((0.0, 1.0, 1.0), (0.6, 0.62, 0.62), (1.0, 0.12, 0.12))
    line = path_form(*points, closed=False)
    paint = linear(at[0], at[-1], (0, "#c9363a"), (0.5, "#f0653f"), (1, "#ff9a70"))
    arm = p.shape(
        "arm", line, Line(paint, 58.0, "round", "round", profile=taper), CastShadow(0.5, softness=7.0), lift=10.0
    )
    cups = tuple(_cup(p, points, t) for t in (1.15, 1.55, 1.95, 2.35, 2.75, 3.1, 3.45, 3.75, 4.05, 4.3, 4.55))
    return p.group("tentacle", arm, *cups)


def _cup(p: Pile, points: list[PathPoint], t: float) -> Node:
    """A sucker: a pale rim round a hollow, on the inner side of an arm and smaller towards its tip."""
    k, u = int(t), t - int(t)
    a, b = points[k], points[k + 1]
    w = ((1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u * u * (1 - u), u**3)
    way = (a.at, a.leave, b.arrive, b.at)
    x, y = (sum(f * q[n] for f, q in zip(w, way, strict=True)) for n in (0, 1))
    dx, dy = b.at[0] - a.at[0], b.at[1] - a.at[1]
    size = math.hypot(dx, dy)
    wide = 58 * max(1 - 0.63 * t / 3, 0.37 - 0.25 * (t - 3) / 2)  # as wide as the arm is there
    r, aside = 0.2 * wide + 1.2, 0.14 * wide
    x, y = x - dy / size * aside, y + dx / size * aside
    rim = radial(
        (x, y),
        r,
        (0, "#8f2a35"),
        (0.4, "#b4453f"),
        (0.52, "#ffe6d6"),
        (0.78, "#ffc9ad"),
        (0.93, "#c9604f"),
        (1, "#a5433c"),
    )
    return p.shape("cup", circle(x, y, r, r * 0.86), Fill(rim))


def _head(p: Pile) -> Node:
    head = path_form(
        smooth(400, 130, 110, 0), smooth(560, 300, 4, 80), smooth(520, 430, -10, 40), smooth(470, 520, -30, 14), smooth(400, 530, -30, 0),
    )  # fmt: skip
    skin = Radial(SKIN, (400, 330), 260, (340, 232))
    lines = tuple(
        p.shape(f"furrow {k + 1}", path_form(smooth(340 + 20 * k, 196 + 4 * abs(k - 3), 0, -14), smooth(340 + 20 * k, 168 + 6 * abs(k - 3), 0, -10), closed=False),
                Line(Solid(colour("#8f1d30", 0.55)), 5.0, "round", profile=((0, 0, 0), (0.5, 1, 1), (1, 0, 0))))
        for k in range(7)
    )  # fmt: skip
    shine = p.shape("shine", EllipseForm(-84, -36, 168, 72), Fill(linear((-84, -36), (84, 36), (0, "#ffffff", 0.85), (0.55, "#ffffff", 0.0))),
                    transform=multiply(translation(332, 220), rotation(-34)), blend="screen")  # fmt: skip
    strokes = tuple(
        p.shape(f"soft light {k + 1}", path_form(smooth(x, y, dx, dy), smooth(x + 3 * dx, y + 2.4 * dy, dx, dy * 1.4), closed=False),
                Line(Solid(colour("#ffe0cc", 0.55)), 12.0, "round", profile=((0, 0, 0), (0.4, 1, 1), (1, 0, 0))), Blur(2.4), blend="screen")
        for k, (x, y, dx, dy) in enumerate(((276, 330, -4, 26), (300, 420, 8, 22), (506, 250, 12, 22)))
    )  # fmt: skip
    grin = path_form(
        corner(350, 450), smooth(404, 466, 26, -1), corner(458, 446), smooth(408, 490, -26, 2),
    )  # fmt: skip
    lip = path_form(smooth(372, 488, 14, 10), smooth(408, 499, 14, 0), smooth(440, 484, 10, -8), closed=False)
    return p.group(
        "head",
        p.shape("mantle", head, Halves((MIDDLE, 330.0)), Fill(skin), Sliver("shade", depth=22.0, opacity=0.3, feather=8.0), InnerGlow(colour("#ffd0a8"), 10.0, "edge", 0.35),
                Relief("inside", "round", width=26.0, height=0.5, soften=3.0, gloss=0.5, light_opacity=0.4, shade_opacity=0.3),
                CastShadow(0.55, softness=9.0), lift=14.0, held=(*lines, shine, *strokes)),
        _eye(p, 340, 360, 1), _eye(p, 460, 360, -1),
        p.shape("mouth", grin, Fill(linear((0, 448), (0, 492), (0, "#2a0616"), (1, "#6d1330"))), InnerShadow(4.0, opacity=0.6),
                held=(p.shape("tongue", EllipseForm(382, 474, 56, 30), Fill(radial((404, 478), 30, (0, "#ff8f8a"), (1, "#c23a4b")))),)),
        p.shape("lip", lip, Line(Solid(colour("#ffb59a", 0.75)), 4.0, "round", "round", profile=((0, 0.1, 0.1), (0.5, 1, 1), (1, 0.1, 0.1)))),
        *(p.shape("dimple", path_form(smooth(x, 440, 3 * side, 9), smooth(x - side, 462, -5 * side, 8), closed=False),
                  Line(Solid(colour("#7a1530", 0.8)), 4.5, "round", profile=((0, 0, 0), (0.5, 1, 1), (1, 0, 0))))
          for x, side in ((347, -1), (459, 1))),
    )  # fmt: skip


def _eye(p: Pile, x: float, y: float, side: int) -> Node:
    """A dark socket that fades into the skin, and in it an eye with a shine."""
    socket = radial((x, y), 62, (0, "#2a0616"), (0.62, "#4a0b24", 0.92), (1, "#7a1530", 0.0))
    iris = p.shape("iris", circle(x + 5 * side, y + 4, 25), Fill(radial((x, y), 27, (0, "#fff7c2"), (0.55, "#ffc23d"), (1, "#c9701a"))),
                   InnerShadow(4.0, opacity=0.6), ContactShadow(2.0))  # fmt: skip
    pupil = p.shape("pupil", EllipseForm(x + 5 * side - 7, y - 13, 14, 34), solid("#1a0410"))
    glint = p.shape("glint", circle(x - 5, y - 7, 6), solid("#ffffff"))

    def at(dx: float, dy: float, u: float, v: float) -> PathPoint:  # dx towards the other eye
        return smooth(x + side * dx, y + dy, side * u, v)

    lid = path_form(
        at(-58, -22, 4, -18), at(-14, -62, 22, 0), at(34, -44, 14, 10), at(52, -4, 0, 10), at(8, -22, -22, -5),
    )  # fmt: skip
    fold = path_form(at(-50, -34, 14, -18), at(-10, -53, 18, 0), at(38, -28, 10, 12), closed=False)
    return p.group(
        "eye", p.shape("socket", circle(x, y, 60), Fill(socket)), iris, pupil, glint,
        p.shape("lid", lid, Fill(linear((x, y - 62), (x, y - 6), (0, "#ef5a41"), (0.55, "#cf3c38"), (1, "#8f1d30"))), CastShadow(0.55), lift=4.0),
        p.shape("fold", fold, Line(Solid(colour("#ffb59a", 0.55)), 5.0, "round", profile=((0, 0, 0), (0.45, 1, 1), (1, 0, 0)))),
    )  # fmt: skip
