"""Sea glass on display: translucent faceted stones whose facets share their edges without a hairline."""

from __future__ import annotations

import math

from volumen.geometry.affine import Point
from volumen.library import (
    Ambient,
    Colour,
    ContactShadow,
    Document,
    Fill,
    GroundGlow,
    InnerGlow,
    InnerShadow,
    Lamp,
    Lights,
    Linear,
    Node,
    OuterGlow,
    Pile,
    RectangleForm,
    Relief,
    Seams,
    Sheet,
    Sliver,
    Solid,
    Speckle,
    Stop,
    TextForm,
    colour,
    corner,
    linear,
    path_form,
    radial,
    solid,
)

SIDE = 800.0
# Corners of the facets: each stone is given by its outline and one or two inner corners, all shared exactly.
STONES: tuple[tuple[str, str, str, tuple[Point, ...], tuple[Point, ...]], ...] = (
    ("back stone", "#1f9e8f", "#58e0c8", ((446, 566), (430, 330), (498, 176), (566, 300), (584, 520), (530, 590)), ((492, 300), (520, 470))),
    ("left stone", "#2b7fc4", "#7cc6ff", ((214, 604), (232, 420), (318, 302), (388, 392), (404, 566), (330, 622)), ((306, 412), (322, 540))),
    ("right stone", "#8a5bd6", "#caa6ff", ((560, 612), (560, 470), (628, 372), (690, 458), (684, 578), (628, 630)), ((620, 462), (634, 560))),
    ("middle stone", "#18b39a", "#9dffe6", ((328, 640), (318, 470), (402, 300), (500, 440), (512, 616), (424, 668)), ((398, 444), (430, 588))),
    ("small stone", "#e0922f", "#ffd694", ((474, 676), (468, 602), (522, 548), (572, 606), (560, 668), (516, 692)), ((516, 606), (522, 656))),
)  # fmt: skip


def seaglass() -> Document:
    p = Pile()
    parts: tuple[Node, ...] = (
        p.shape("dark", RectangleForm(0, 0, SIDE, SIDE), Fill(radial((400, 470), 620, (0, "#15323f"), (0.55, "#0a1a24"), (1, "#04090e"))), locked=True),
        p.shape("shelf", RectangleForm(0, 596, SIDE, 204), Fill(linear((0, 596), (0, 800), (0, "#0c2430", 0.0), (0.3, "#10303c", 0.9), (1, "#050d13"))), locked=True),
        *(_stone(p, k) for k in range(len(STONES))),
        p.shape("caption", TextForm("SEA GLASS OF KELDER SOUND", "Bebas Neue", "Regular", 25, 400, 760, 0.26, align="centre"), solid("#7fb9b4"),
                OuterGlow(colour("#3fd0b8"), 7.0, opacity=0.5)),
    )  # fmt: skip
    document = p.document(Sheet(SIDE, SIDE, colour("#04090e")), Lamp(318, 46, 1.0, 0.4), *parts)
    return document.with_lights(
        Lights(
            document.lamp,
            Lamp(120, 24, 0.35, 0.3, colour("#8fc9ff")),
            None,
            Ambient(0.12, colour("#dff6ff"), colour("#0d3a44")),
        )
    )


def _stone(p: Pile, k: int) -> Node:
    """Grey facets; one tint over the group sets the hue, and the light lies on the whole of it."""
    name, tint, light, rim, inner = STONES[k]
    facets = tuple(
        p.shape(f"facet {n + 1}", path_form(*(corner(x, y) for x, y in f)), Fill(_grey(f, n)))
        for n, f in enumerate(_facets(rim, inner))
    )
    top, low = min(y for _, y in rim), max(y for _, y in rim)
    x = sum(v for v, _ in rim) / len(rim)
    glassy = linear((x, top), (x, low), (0, light, 0.75), (0.45, tint, 0.9), (1, tint))
    return p.group(
        name, *facets,
        recipe=(
            GroundGlow(colour(tint), 1.9, 0.42, 0.55),
            OuterGlow(colour(light), 20.0, 0.0, 0.5, falloff=(0.3, 0.15, 0.75, 0.7), stops=(Stop(0.0, colour(light)), Stop(1.0, colour("#2a6bff")))),
            ContactShadow(7.0, foot=True, opacity=0.75, colour=colour("#02080c")),
            Seams(),
            Fill(Solid(colour(tint)), 0.9, "color"),
            Fill(glassy, 0.55, "hard-light"),
            InnerShadow(9.0, opacity=0.5, colour=colour("#06202c")),
            InnerGlow(colour(light), 9.0, "edge", 0.75),
            Relief("inside", "round", width=6.0, height=0.6, gloss=0.7, light_opacity=0.55, shade_opacity=0.25),
            Sliver("light", depth=1.4, opacity=0.85, blend="screen"),
            Speckle(0.02, 0.9),
        ),
        opacity=0.96, lift=10.0,
    )  # fmt: skip


def _facets(rim: tuple[Point, ...], inner: tuple[Point, ...]) -> list[tuple[Point, ...]]:
    """A crown of facets round two inner corners."""
    a, b = inner
    n = len(rim)
    out: list[tuple[Point, ...]] = []
    for i in range(n):
        p, q = rim[i], rim[(i + 1) % n]
        near_p, near_q = (a if _nearer(p, a, b) else b), (a if _nearer(q, a, b) else b)
        if near_p is near_q:
            out.append((p, q, near_p))
        else:
            out.append((p, q, near_q, near_p))
    return out


def _nearer(p: Point, a: Point, b: Point) -> bool:
    return math.dist(p, a) < math.dist(p, b)


def _grey(facet: tuple[Point, ...], n: int) -> Linear:
    """A grey gradient that leans another way in every facet."""
    xs, ys = [x for x, _ in facet], [y for _, y in facet]
    turn = math.radians(40 + 67 * n)
    cx, cy, reach = sum(xs) / len(xs), sum(ys) / len(ys), 0.6 * max(max(xs) - min(xs), max(ys) - min(ys))
    tones = ((0.94, 0.5), (0.66, 0.26), (0.82, 0.34), (0.5, 0.16), (0.74, 0.42), (0.58, 0.22))[n % 6]
    dx, dy = math.cos(turn) * reach, math.sin(turn) * reach
    return Linear(
        tuple(Stop(float(k), Colour(v, v, v)) for k, v in enumerate(tones)), (cx - dx, cy - dy), (cx + dx, cy + dy)
    )
