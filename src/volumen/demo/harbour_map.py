"""The harbour map: a flat picture of some sixty pieces, lit in one step as cut paper, then finished by hand."""

from __future__ import annotations

import math

import msgspec

from volumen.edit.first_light.light import first_light
from volumen.geometry.affine import Affine, apply, multiply, rotation, translation
from volumen.library import (
    Body,
    Document,
    EllipseForm,
    Fill,
    Group,
    Lamp,
    Line,
    Node,
    OuterGlow,
    PathForm,
    Pile,
    RectangleForm,
    Shape,
    Sheet,
    Sliver,
    Solid,
    Speckle,
    TextForm,
    circle,
    colour,
    corner,
    path_form,
    radial,
    smooth,
    solid,
)
from volumen.model.ingredients import Recipe
from volumen.model.tree import update_nodes, walk

replace = msgspec.structs.replace
WIDE, HIGH = 960.0, 720.0
SEA, SHOAL, SAND, MEADOW, WOOD = "#8cc3c7", "#a9d6d3", "#f0dfb4", "#9dbb6c", "#4c7a50"
RED, CREAM, INK, SLATE, GOLD = "#cf4a2f", "#f7efdc", "#1d3144", "#47647a", "#e3a33a"


def flat_map() -> Document:
    """The drawing as it comes: fills and a few lines, no light."""
    p = Pile()
    return p.document(
        Sheet(WIDE, HIGH, colour(SEA)), Lamp(318, 44, 1.0, 0.35),
        p.shape("sea", RectangleForm(0, 0, WIDE, HIGH), solid(SEA)),
        *_mainland(p), *_islands(p), *_quay(p), *_water(p), _lighthouse(p), _ferry(p), *_buoys(p), _compass(p), *_title(p),
    )  # fmt: skip


def lit_map() -> Document:
    """The map as cut paper: one step."""
    return first_light(flat_map(), (), "cut paper", 1.1, 0.3)


def harbour_map() -> Document:
    """The map finished by hand: a brass compass, enamel buoys, a lamp that shines, grain on the paper, warmer light."""
    document = lit_map()
    names = {n.id: n.name for n in walk(document.root)}

    def by_hand(node: Node) -> Node:
        recipe: Recipe = tuple(i for i in node.recipe if not isinstance(i, Sliver))
        match names[node.id]:
            case "ring":
                recipe = (*recipe, Body("slab", "brass", colour=colour("#d2a24c"), roundness=0.35))
            case "boss":
                recipe = (*recipe, Body("ball", "brass"))
            case "buoy":
                recipe = (*recipe, Body("ball", "enamel"))
            case "lamp room":
                recipe = (*recipe, OuterGlow(colour("#ffd98a"), 15.0, opacity=0.9))
            case "sea":
                light = radial((430, 320), 700, (0, "#ffffff", 0.30), (0.6, "#ffffff", 0.0), (1, "#0d4a5a", 0.30))
                recipe = (*recipe, Fill(light), Speckle(0.016, 1.4))
            case _:
                recipe = (*node.recipe, Speckle(0.022, 1.2))
        return replace(node, recipe=recipe)

    mine = ("ring", "boss", "buoy", "lamp room", "sea", "fields", "beach", "quay", "wood", "sand", "meadow")
    document = update_nodes(
        document, [i for i, name in names.items() if name.split()[-1] in mine or name in mine], by_hand
    )
    return replace(document, lamp=Lamp(312, 38, 1.0, 0.35, colour("#fff1d8")))


def _blob(cx: float, cy: float, *way: tuple[float, float]) -> PathForm:
    """A soft outline through places round a middle, told as (degrees, distance)."""
    at = [(cx + r * math.cos(math.radians(a)), cy + r * math.sin(math.radians(a))) for a, r in way]
    points = []
    for k, (x, y) in enumerate(at):
        (px, py), (nx, ny) = at[k - 1], at[(k + 1) % len(at)]
        points.append(smooth(x, y, (nx - px) / 5.2, (ny - py) / 5.2))
    return path_form(*points)


def _land(p: Pile, name: str, cx: float, cy: float, way: list[tuple[float, float]]) -> list[Shape]:
    """An island in three sheets: shoal, sand and meadow."""

    def inset(by: float) -> PathForm:
        return _blob(cx, cy, *((a, r - by) for a, r in way))

    return [
        p.shape(f"{name} shoal", inset(-18), solid(SHOAL)), p.shape(f"{name} sand", inset(0), solid(SAND)),
        p.shape(f"{name} meadow", inset(13), solid(MEADOW)),
    ]  # fmt: skip


def _mainland(p: Pile) -> list[Shape]:
    def coast(dx: float) -> PathForm:
        return path_form(
            corner(-20, 60 - dx), smooth(120 + dx, 96 - dx / 2, 60, -10), smooth(250 + dx, 190, 10, 60), smooth(215 + dx, 330, -40, 40),
            smooth(262 + dx, 460, 20, 60), smooth(150 + dx / 2, 590 + dx, -70, 10), corner(-20, 600 + dx),
        )  # fmt: skip

    return [
        p.shape("shoal", coast(30), solid(SHOAL)), p.shape("beach", coast(6), solid(SAND)),
        p.shape("fields", coast(-16), solid(MEADOW)),
        p.shape("wood", _blob(72, 190, (0, 76), (50, 60), (110, 66), (170, 58), (230, 62), (300, 60)), solid(WOOD)),
        p.shape("far wood", _blob(110, 500, (0, 62), (60, 48), (130, 56), (200, 62), (280, 46)), solid(WOOD)),
    ]  # fmt: skip


def _islands(p: Pile) -> list[Shape]:
    return [
        *_land(p, "Sker", 620, 210, [(0, 120), (45, 86), (95, 78), (150, 112), (200, 104), (250, 74), (310, 92)]),
        *_land(p, "Little Sker", 815, 400, [(0, 58), (70, 62), (140, 50), (215, 66), (290, 52)]),
        *_land(p, "Gull Holm", 470, 580, [(0, 86), (60, 52), (120, 56), (180, 92), (240, 50), (300, 54)]),
        p.shape("Sker wood", _blob(662, 196, (0, 48), (70, 34), (150, 44), (220, 36), (290, 40)), solid(WOOD)),
        p.shape("hill", _blob(575, 232, (0, 44), (90, 28), (180, 46), (270, 34)), solid("#b8a463")),
        *(p.shape("house", RectangleForm(x, y, 17, 14), solid(c)) for x, y, c in ((548, 190, RED), (572, 180, CREAM), (596, 196, RED))),
    ]  # fmt: skip


def _quay(p: Pile) -> list[Shape]:
    """The quay with its sheds, seen from above."""
    sheds = [
        p.shape("shed", RectangleForm(x, y, w, h), solid(c))
        for x, y, w, h, c in (
            (206, 352, 40, 24, RED),
            (206, 384, 40, 24, CREAM),
            (206, 416, 40, 24, GOLD),
            (262, 346, 26, 18, SLATE),
        )
    ]
    pier = [p.shape("pier", RectangleForm(296, y, 74, 11), solid("#8a6a48")) for y in (352, 388, 424)]
    return [*pier, p.shape("quay", RectangleForm(196, 338, 108, 112, 5), solid("#c9b58f")), *sheds]


def _water(p: Pile) -> list[Shape]:
    """The ferry's way as dashes, and waves as lines."""
    way = path_form(smooth(372, 394, 40, 0), smooth(470, 330, 40, -50), smooth(560, 318, 30, 0), closed=False)
    waves = [
        p.shape("wave", path_form(smooth(x, y, 9, -9), smooth(x + 20, y, 9, 9), smooth(x + 40, y, 9, -9), closed=False),
                Line(Solid(colour("#5e9fa8")), 3.0, "round", "round"))
        for x, y in ((400, 130), (452, 152), (700, 560), (752, 580), (330, 640), (850, 250), (372, 226), (640, 650))
    ]  # fmt: skip
    return [p.shape("way", way, Line(Solid(colour(CREAM)), 3.5, "round", dashes=(2.0, 11.0))), *waves]


def _lighthouse(p: Pile) -> Group:
    x, y = 478.0, 584.0

    def band(low: float, high: float, tone: str, name: str) -> Shape:
        def half(at: float) -> float:
            return 21 - 9 * at

        return p.shape(name, path_form(
            corner(x - half(low), y - 118 * low), corner(x + half(low), y - 118 * low), corner(x + half(high), y - 118 * high),
            corner(x - half(high), y - 118 * high)), solid(tone))  # fmt: skip

    bands = [band(0.0, 1.0, CREAM, "tower"), *(band(k / 5, (k + 1) / 5, RED, "band") for k in (1, 3))]
    roof = path_form(corner(x - 17, y - 142), corner(x, y - 164), corner(x + 17, y - 142))
    return p.group(
        "lighthouse", p.shape("rock", EllipseForm(x - 44, y - 12, 88, 30), solid(SLATE)), *bands,
        p.shape("gallery", RectangleForm(x - 17, y - 124, 34, 7, 2), solid(INK)),
        p.shape("lamp room", RectangleForm(x - 9, y - 142, 18, 18), solid(GOLD)), p.shape("roof", roof, solid(INK)),
    )  # fmt: skip


def _ferry(p: Pile) -> Group:
    x, y = 424.0, 372.0
    hull = path_form(
        corner(x - 62, y - 6), corner(x + 66, y - 6), smooth(x + 44, y + 22, -8, 6), corner(x - 50, y + 22)
    )
    place = translation(-8, -2)
    return p.group(
        "ferry", p.shape("funnel", RectangleForm(x - 24, y - 56, 17, 26), solid(RED)),
        p.shape("cabin", RectangleForm(x - 42, y - 34, 76, 29, 4), solid(CREAM)), p.shape("hull", hull, solid(INK)),
        *(p.shape("window", circle(x - 30 + 16 * k, y - 19, 4.6), solid(SLATE)) for k in range(4)),
        p.shape("stripe", RectangleForm(x - 54, y + 3, 110, 5), solid(RED)), transform=place,
    )  # fmt: skip


def _buoys(p: Pile) -> list[Shape]:
    return [
        p.shape("buoy", circle(x, y, 11), solid(c))
        for x, y, c in (
            (520, 400, RED),
            (566, 442, GOLD),
            (625, 470, RED),
            (700, 330, GOLD),
            (742, 292, RED),
            (330, 520, GOLD),
            (352, 560, RED),
        )
    ]


def _compass(p: Pile) -> Group:
    """A rose of eight points in two tones."""
    cx, cy = 838.0, 592.0

    def point(turn: float, far: float, wide: float, whole: bool) -> PathForm:
        place: Affine = multiply(translation(cx, cy), rotation(turn))
        left = [(-wide, -1.3 * wide)] if whole else []
        at = [apply(place, q) for q in ((0.0, 0.0), (wide, -1.3 * wide), (0.0, -far), *left)]
        return path_form(*(corner(*q) for q in at))

    points = [
        p.shape("point", point(turn, far, wide, whole), solid(dark if whole else light))
        for turns, far, wide, dark, light in (((45, 135, 225, 315), 52, 9, SLATE, CREAM), ((0, 90, 180, 270), 78, 13, INK, RED))
        for turn in turns for whole in (True, False)
    ]  # fmt: skip
    return p.group(
        "compass", p.shape("ring", circle(cx, cy, 92), solid(CREAM)), p.shape("dial", circle(cx, cy, 82), solid("#d9ead9")),
        *points, p.shape("boss", circle(cx, cy, 8), solid(GOLD)),
    )  # fmt: skip


def _title(p: Pile) -> list[Shape]:
    return [
        p.shape("cartouche", RectangleForm(560, 34, 362, 84, 12), solid(INK)),
        p.shape("title", TextForm("KELDER SOUND", "Bebas Neue", "Regular", 50, 741, 84, 0.09, align="centre"), solid(CREAM)),
        p.shape("subtitle", TextForm("islands, quay and lights", "Vollkorn", "SemiBold", 19, 741, 107, 0.04, align="centre"), solid(GOLD)),
    ]  # fmt: skip
