"""The sea-urchin sticker for a tea tin: live intersections, insets, step copies, text and one contour round it all."""

from __future__ import annotations

import math

from volumen.geometry.affine import Affine, multiply, rotation, scaling, translation
from volumen.library import (
    Bend,
    Blur,
    Body,
    CastShadow,
    CombinedForm,
    Document,
    DropForm,
    EllipseForm,
    Fill,
    Group,
    Lamp,
    Mirror,
    Node,
    Offset,
    Pile,
    RectangleForm,
    Rim,
    Ring,
    Rounding,
    Shape,
    Sheet,
    Sliver,
    TextForm,
    circle,
    colour,
    linear,
    meant_so,
    path_form,
    radial,
    smooth,
    solid,
)

SIDE = 800.0
CX, CY, R = 400.0, 348.0, 226.0
PLUM, ROSE, BONE, SEA = "#4b1f46", "#b4567f", "#fbf1df", "#1f7f86"
SHADE = colour("#22091f")
PLATES = 10


def urchin() -> Document:
    p = Pile()
    ground = p.shape(
        "tin", RectangleForm(0, 0, SIDE, SIDE),
        Fill(radial((300, 220), 780, (0, "#3f9a98"), (0.55, SEA), (1, "#0f4a54"))), locked=True, stock=True,
    )  # fmt: skip
    art: tuple[Node, ...] = (_spines(p), _shell(p), _plates(p), _crown(p), _gloss(p), *_name(p), *_drops(p))
    sticker = p.group(
        "sticker", *art, recipe=(Rim(colour("#ffffff"), 20.0), CastShadow(0.55, softness=12.0)), lift=16.0
    )
    document = p.document(Sheet(SIDE, SIDE, colour(SEA)), Lamp(320, 46, 1.0, 0.35), ground, sticker)
    # spines are paler towards their tips, and a drop is brightest where the light leaves it
    return meant_so(document, ("spine", "gradient"), ("drop", "gradient"))


def _turned(angle: float) -> Affine:
    return rotation(angle, (CX, CY))


def _spines(p: Pile) -> Group:
    """Drops stretched to spines round the shell, long and short in turn: eight of them, five times."""
    out = []
    for k in range(8):
        long = 92 - 26 * (k % 2) + 8 * math.sin(k * 2.4)
        form = DropForm(CX - 8.5, CY - R - long + 26, 17, long, 0.9, 0.92)
        paint = Fill(linear((CX, CY - R - long), (CX, CY - R + 20), (0, "#e58aa6"), (0.45, "#94406f"), (1, PLUM)))
        out.append(p.shape("spine", form, paint, transform=_turned(360 / 40 * k)))
    return p.group("spines", *out, recipe=(Ring((CX, CY), 5),))


def _shell(p: Pile) -> Shape:
    return p.shape(
        "shell", circle(CX, CY, R), solid("#7c3564"), Body("ball", "enamel", strength=0.9, bounce=0.5),
        Sliver("shade", "scale", 12, opacity=0.4, colour=SHADE, feather=5), CastShadow(0.5), lift=6.0,
    )  # fmt: skip


def _lens(p: Pile, inset: float, fill: str, *more: Sliver) -> Shape:
    """A plate: the overlap of two circles, from the crown to the rim, with an inset."""
    half, width = (R - 40) / 2, 38.0
    radius = (half * half + width * width) / (2 * width)
    y = CY - 30 - half
    parts = tuple(
        p.shape("circle", circle(CX + side * (radius - width), y, radius), solid(fill), member=True) for side in (-1, 1)
    )
    return p.shape(
        "plate", CombinedForm("intersect"), Offset(inset) if inset else Offset(0.0, on=False), Rounding(3.0),
        Fill(linear((CX, y - half), (CX, y + half), (0, fill), (1, "#74305f"))), *more, held=parts,
    )  # fmt: skip


def _plates(p: Pile) -> Group:
    """One plate with all its beads, and a ring of it that closes."""
    plate = _lens(
        p, 0.0, "#dd6a92",
        Sliver("shade", "shift", 7, opacity=0.42, colour=SHADE), Sliver("light", "shift", 4.5, opacity=0.4, blend="screen"),
    )  # fmt: skip
    inner = _lens(p, -9.0, "#f6b0bd", Sliver("light", "shift", 2.2, opacity=0.5, blend="screen"))
    dots = []
    for i in range(6):
        t = i / 5
        d = 3.0 + 5.4 * math.sin(math.pi * (0.12 + 0.8 * t))
        y = CY - 56 - t * (R - 92)
        dots.append(
            p.shape("bead", circle(CX, y, d), solid(BONE), Body("ball", "wax", strength=0.8),
                    CastShadow(0.5), lift=2.2)
        )  # fmt: skip
    at, beside = (
        p.shape("small bead", circle(CX + R * 0.93 * math.sin(a), CY - R * 0.93 * math.cos(a), 3.4), solid("#f3c1c9"))
        for a in (math.radians(18 + d) for d in (0, -7))
    )
    side: tuple[Node, ...] = (p.group("bead and its image", beside, recipe=(Mirror((CX, CY), 108.0),)), at)
    seam = [
        p.shape("seam bead", circle(CX + r * math.sin(math.radians(18)), CY - r * math.cos(math.radians(18)), s),
                solid("#f3c1c9", 0.85))
        for r, s in ((92, 2.2), (118, 2.8), (146, 3.4), (172, 3.4))
    ]  # fmt: skip
    parts = (plate, inner, *dots, *side, *seam)
    return p.group("plates", *parts, recipe=(Ring((CX, CY), PLATES),))


def _crown(p: Pile) -> Group:
    petal = p.shape("crown plate", circle(CX, CY - 23, 11.5), solid("#f0c27a"), Body("ball", "wax"),
                    CastShadow(0.5), lift=2.6, transform=_turned(18))  # fmt: skip
    petals = p.group("crown plates", petal, recipe=(Ring((CX, CY), 5),))
    eye = p.shape("crown", circle(CX, CY, 15), solid("#f7dfb0"), Body("ball", "enamel"), CastShadow(0.5), lift=3.0)
    return p.group("crown", petals, eye)


def _gloss(p: Pile) -> Shape:
    return p.shape(
        "gloss", EllipseForm(CX - 96, CY - 30, 192, 60), Bend("arc", 0.30),
        Fill(linear((CX, CY - 60), (CX, CY + 30), (0, "#ffffff", 0.75), (1, "#ffffff", 0.1))), Blur(5.0),
        transform=multiply(rotation(-40, (CX, CY)), translation(0, -R * 0.80)), blend="screen",
    )  # fmt: skip


def _name(p: Pile) -> list[Shape]:
    """The word on a bowed line, with a thicker band of its own outline behind it."""
    bow = path_form(
        smooth(CX - 270, CY + 230, 80, 40),
        smooth(CX, CY + 286, 90, 0),
        smooth(CX + 270, CY + 230, 80, -40),
        closed=False,
    )
    word = TextForm("Kelder Urchin", "Pacifico", "Regular", 92, path=bow, start=0.5, align="centre")
    small = TextForm("HARBOUR MUSEUM TEA ROOM", "Bebas Neue", "Regular", 34, CX, CY + 386, 0.09, align="centre")
    return [
        p.shape("band", word, Offset(17.0), solid(PLUM), Sliver("shade", "shift", 6, opacity=0.5, colour=SHADE)),
        p.shape("small band", RectangleForm(CX - 196, CY + 348, 392, 50), Rounding(25.0), solid(PLUM),
                Sliver("shade", "shift", 4, opacity=0.5, colour=SHADE)),
        p.shape("word", word, Fill(linear((0, CY + 190), (0, CY + 316), (0, "#ffffff"), (0.55, BONE), (1, "#eebf8f"))),
                CastShadow(0.6), lift=4.0),
        p.shape("small word", small, solid(BONE)),
    ]  # fmt: skip


def _drops(p: Pile) -> list[Shape]:
    out = []
    for x, y, size, angle in (
        (118, 96, 44, -38),
        (668, 84, 36, 34),
        (716, 168, 24, 52),
        (88, 182, 24, -62),
        (84, 640, 30, -20),
        (716, 640, 34, 22),
    ):
        place = multiply(translation(x, y), multiply(rotation(angle), scaling(size / 40, size / 40)))
        out.append(
            p.shape("drop", DropForm(-20, -32, 40, 64, 0.55, 1.0), Rounding(2.0),
                    Fill(radial((-4, 8), 34, (0, "#d8fbf4"), (0.5, "#5cc8c6"), (1, "#167f8a"), focus=(-7, 2))),
                    Sliver("shade", "shift", 5, opacity=0.4, colour=colour("#04343c")),
                    Sliver("light", "shift", 3, opacity=0.7, blend="screen"), transform=place)
        )  # fmt: skip
    return out
