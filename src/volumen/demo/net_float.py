"""The glass net float: a cut-open glass ball with a brass ball inside, from ellipses and a few lines."""

from __future__ import annotations

from volumen.geometry.affine import rotation
from volumen.library import (
    Blur,
    Body,
    CastShadow,
    Document,
    Fill,
    Lamp,
    Line,
    OuterGlow,
    PathForm,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Solid,
    circle,
    colour,
    linear,
    meant_so,
    path_form,
    radial,
    smooth,
    solid,
)

SIDE = 794.0  # 210 mm
SEA, DEEP, BRASS, BONE, FOG, ROPE = "#2b8577", "#0f4a49", "#c98f35", "#efe6d6", "#d9dbd3", "#b98a54"
CENTRE = (397.0, 392.0)
RADIUS = 226.0


def net_float() -> Document:
    p = Pile()
    cx, cy = CENTRE
    wall = p.shape(
        "wall", RectangleForm(0, 0, SIDE, SIDE),
        Fill(radial((300, 250), 720, (0, "#f7f1e4"), (0.55, BONE), (1, "#d8ccb8"))),
        locked=True,
    )  # fmt: skip
    ground = p.shape(
        "ground shadow", circle(cx + 44, cy + RADIUS + 4, 236, 40),
        Fill(radial((cx + 34, cy + RADIUS + 4), 236, (0, "#4d3a2a", 0.95), (0.5, "#5f4a38", 0.7), (1, "#7a6450", 0))),
        Blur(11), blend="multiply",
    )  # fmt: skip
    contact = p.shape(
        "contact shadow", circle(cx + 10, cy + RADIUS - 2, 118, 13), solid("#33271c", 0.75), Blur(8), blend="multiply"
    )
    shell = _shell(p)
    opening = _opening(p)
    becket = _becket(p)
    document = p.document(Sheet(SIDE, SIDE, colour(BONE)), Lamp(322, 44, 1.0, 0.35), wall, ground, contact, becket, shell,
                      opening, *_shine(p))  # fmt: skip
    # light that comes back from the wall and from the glass
    return meant_so(document, ("shell", "sliver of light"), ("brass ball", "sliver of light"))


def _cord(p: Pile, name: str, form: PathForm, receiver: int, width: float = 9.0) -> Shape:
    """A piece of rope: dark edge, body, and a lit strand, with its shadow held on the glass."""
    return p.shape(
        name, form,
        CastShadow(0.72, softness=3.2, receivers=(receiver,)),
        Line(Solid(colour("#5f4024")), width, "round", "round"),
        Line(Solid(colour(ROPE)), width - 3, "round", "round"),
        Line(Solid(colour("#e0bd86")), width * 0.22, "round", "round", opacity=0.85),
        lift=9.0,
    )  # fmt: skip


def _shell(p: Pile) -> Shape:
    cx, cy = CENTRE
    shell_id = p.next_id + 6
    cords = (
        _cord(p, "cord, left", path_form(smooth(cx - 60, cy - 228, -90, 100), smooth(cx - 168, cy + 30, 0, 90),
              smooth(cx - 60, cy + 232, 60, 60), closed=False), shell_id),
        _cord(p, "cord, right", path_form(smooth(cx + 60, cy - 228, 90, 100), smooth(cx + 168, cy + 30, 0, 90),
              smooth(cx + 60, cy + 232, -60, 60), closed=False), shell_id),
        _cord(p, "cord, middle", path_form(smooth(cx + 2, cy - 230, 6, 150), smooth(cx + 2, cy + 240, -4, 40),
              closed=False), shell_id),
        _cord(p, "belt", path_form(smooth(cx - 232, cy + 92, 70, 68), smooth(cx, cy + 152, 110, 0),
              smooth(cx + 232, cy + 92, 70, -68), closed=False), shell_id, 10),
        _cord(p, "knot, left", circle_path(cx - 156, cy + 120, 5), shell_id, 9),
        _cord(p, "knot, right", circle_path(cx + 156, cy + 120, 5), shell_id, 9),
    )  # fmt: skip
    assert p.next_id == shell_id
    return p.shape(
        "shell", circle(cx, cy, RADIUS), solid(SEA),
        Body("ball", "glass", strength=1.0, roundness=0.97, bounce=0.75),
        Sliver("shade", "shift", 40, feather=18, opacity=0.22, colour=colour("#04262b")),
        Sliver("light", "scale", 10, feather=2.4, opacity=0.34, blend="screen", colour=colour("#bff3e2"), angle=140),
        Sliver("light", "shift", 3.5, feather=0.8, opacity=0.55, blend="screen", colour=colour("#e9fff6")),
        held=cords,
    )  # fmt: skip


def circle_path(cx: float, cy: float, r: float) -> PathForm:
    k = r * 0.5523
    return path_form(
        smooth(cx + r, cy, 0, k), smooth(cx, cy + r, -k, 0), smooth(cx - r, cy, 0, -k), smooth(cx, cy - r, k, 0)
    )


def _opening(p: Pile) -> Shape:
    """The cut edge of the glass, the hollow in it, and the brass ball held inside the hollow."""
    cx, cy = CENTRE[0] + 6, CENTRE[1] - 52
    tilt = rotation(-12, (cx, cy))
    hollow_id = p.next_id + 1
    ball = p.shape(
        "brass ball", circle(cx + 4, cy + 44, 92), solid(BRASS),
        CastShadow(0.9, softness=15, receivers=(hollow_id,), colour=colour("#0b2a2c")),
        Body("ball", "brass", strength=1.0, roundness=0.96, bounce=0.8),
        Sliver("shade", "shift", 16, feather=9, opacity=0.38, colour=colour("#3a1603")),
        Sliver("light", "scale", 5, feather=2.2, opacity=0.55, blend="screen", colour=colour("#57c9b2"), angle=150),
        lift=46.0, transform=rotation(12, (cx, cy)),
    )  # fmt: skip
    hollow = p.shape(
        "hollow", circle(cx, cy - 4, 178, 104), solid("#175f5a"),
        Body("dish", "glass", strength=1.0, roundness=0.9, bounce=0.35),
        Sliver("shade", "shift", 46, sunk=True, feather=22, opacity=0.75, colour=colour("#03181c")),
        Sliver("light", "shift", 16, sunk=True, feather=12, opacity=0.34, blend="screen", colour=colour("#6fe0c4")),
        held=(ball,),
    )  # fmt: skip
    assert hollow.id == hollow_id
    return p.shape(
        "cut edge", circle(cx, cy, 190, 116),
        Fill(linear((cx - 190, cy - 80), (cx + 190, cy + 90), (0, "#2d8f80"), (0.32, "#7fd0bd"), (0.52, "#e6fbf0"),
                    (0.7, "#86d3c1"), (1, "#1f7a70"))),
        Sliver("shade", "shift", 5, sunk=True, feather=2, opacity=0.4),
        CastShadow(0.5),
        held=(hollow,), transform=tilt, lift=6.0,
    )  # fmt: skip


def _becket(p: Pile) -> Shape:
    """The rope eye on top, by which the float hangs."""
    cx, cy = CENTRE[0] + 4, CENTRE[1] - RADIUS - 14
    form = path_form(
        smooth(cx - 16, cy + 34, -20, -22), smooth(cx - 22, cy - 22, 12, -22), smooth(cx + 22, cy - 22, 12, 20),
        smooth(cx + 16, cy + 34, -14, 18), closed=False,
    )  # fmt: skip
    return p.shape(
        "becket", form,
        CastShadow(0.5, softness=6),
        Line(Solid(colour("#5f4024")), 13, "round", "round"),
        Line(Solid(colour(ROPE)), 9, "round", "round"),
        Line(Solid(colour("#e6c793")), 2.6, "round", "round", opacity=0.85),
        lift=26.0,
    )  # fmt: skip


def _shine(p: Pile) -> tuple[Shape, ...]:
    """Reflections on the outside of the glass, over everything."""
    cx, cy = CENTRE
    window = path_form(
        smooth(cx - 196, cy + 44, 6, 62), smooth(cx - 98, cy + 178, 44, 26),
        smooth(cx - 112, cy + 154, -44, -24), smooth(cx - 180, cy + 42, -6, -12),
    )  # fmt: skip
    glint = circle(cx - 128, cy - 150, 34, 16)
    return (
        p.shape(
            "long reflection", window,
            Fill(linear((cx - 190, cy + 20), (cx - 100, cy + 190), (0, "#ffffff", 0.0), (0.35, "#f1fff9", 0.7), (1, "#ffffff", 0))),
            Blur(1.4), blend="screen",
        ),
        p.shape(
            "glint", glint,
            Fill(radial((cx - 128, cy - 150), 34, (0, "#ffffff", 0.95), (0.45, "#f3fffa", 0.5), (1, "#ffffff", 0))),
            OuterGlow(colour("#dffbf0"), 16, 0, 0.45),
            transform=rotation(-42, (cx - 128, cy - 150)), blend="screen",
        ),
    )  # fmt: skip
