"""Documents and pictures that several tests use."""

from __future__ import annotations

import numpy as np

from volumen.compose.scene import build
from volumen.edit import objects
from volumen.geometry.affine import IDENTITY, scaling
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import BLEND_MODES, Blur, Body, CastShadow, Fill, Ingredient, Line, OuterGlow, Sliver
from volumen.model.make import circle, corner, linear, path_form, radial, smooth, solid
from volumen.model.nodes import Document, Group, Node, RectangleForm, Shape, Sheet
from volumen.picture.instructions import Chunk, FillPath, Item, Picture
from volumen.render.raster import render_bytes
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour, Solid, colour

WHITE = Colour(1, 1, 1)


def document(*nodes: Node, side: float = 200.0, ground: Colour | None = WHITE, lamp: Lamp | None = None) -> Document:
    ids = [n.id for n in nodes] + [c.id for n in nodes for c in n.children]
    return Document(Sheet(side, side, ground), lamp or Lamp(), Group(0, "pile", nodes), max(ids, default=0) + 1)


def disc(node_id: int, x: float, y: float, r: float, *recipe: Ingredient, **more) -> Shape:
    return Shape(node_id, f"disc {node_id}", circle(x, y, r), recipe or (solid("#2b8577"),), **more)


def lit_trio() -> Document:
    """Three lit shapes: a ball with all of light, a tube with a line, a dish that holds a disc."""
    ball = disc(1, 60, 70, 34, solid("#2b8577"), Body("ball"), Sliver("shade", depth=6, feather=2),
                Sliver("light", depth=4, blend="screen"), CastShadow(), lift=8.0)  # fmt: skip
    tube = Shape(2, "tube", RectangleForm(110, 30, 70, 26, 6),
                 (solid("#c98f35"), Body("tube", "brass"), Line(Solid(colour("#20242a")), 2.0)), opacity=0.9)  # fmt: skip
    held = disc(4, 150, 150, 24, solid("#c8402a"), CastShadow(), lift=5.0)
    dish = disc(
        3, 130, 140, 36, solid("#d9dbd3"), Body("dish", "clay"), OuterGlow(colour("#f0ae45"), 6.0), children=(held,)
    )
    return document(ball, tube, dish, ground=colour("#efe6d6"))


def feature_card() -> Document:
    """Everything an export must carry: gradients with clear stops, lines, clips, groups, blur, blend modes."""
    paints = (
        linear((10, 10), (90, 60), (0, "#c8402a"), (0.4, "#f0ae45", 0.4), (1, "#0f4a49", 0.9)),
        radial((140, 40), 42, (0, "#ffffff"), (0.6, "#2b8577"), (1, "#0f4a49"), focus=(128, 30)),
    )
    wave = path_form(smooth(20, 110, 20, -30), smooth(60, 110, 20, 30), corner(95, 95), closed=False)
    nodes: list[Node] = [
        Shape(1, "linear", RectangleForm(10, 10, 80, 50, 10), (Fill(paints[0]),)),
        Shape(2, "radial", circle(140, 40, 40, 30), (Fill(paints[1]), Line(paints[0], 3.0, "round", "round"))),
        Shape(3, "line", wave, (Line(Solid(colour("#0f4a49")), 8, "square", "bevel", opacity=0.7),)),
        disc(4, 140, 110, 26, solid("#c98f35"), children=(disc(5, 155, 120, 22, solid("#0f4a49", 0.8)),)),
        Group(6, "group", (disc(7, 180, 100, 14), disc(8, 190, 112, 14, solid("#c8402a"))), opacity=0.6),
        disc(9, 40, 165, 18, solid("#c8402a"), Blur(4)),
        disc(10, 95, 165, 16, solid("#2b8577"), CastShadow(), OuterGlow(colour("#c8402a"), 5.0), lift=9.0),
    ]
    return document(*nodes, *blended(BLEND_MODES[:12]), ground=colour("#cfd8d4"))


def blended(modes: tuple[str, ...]) -> list[Node]:
    """A small gradient in each mode. The last four modes make a PDF hold pixels, so they have a card of their own."""
    nodes: list[Node] = []
    for i, mode in enumerate(modes):
        x, y = 130 + (i % 6) * 11, 150 + (i // 6) * 15
        paint = linear((x, y), (x, y + 13), (0, "#f0ae45"), (1, "#2b8577"))
        nodes.append(Shape(20 + i, mode, RectangleForm(x, y, 10, 13), (Fill(paint, 0.9, mode),)))
    return nodes


def blend_card() -> Document:
    ground = Fill(linear((0, 0), (200, 0), (0, "#c8402a"), (0.5, "#d9dbd3"), (1, "#0f4a49")))
    under = Shape(1, "under", RectangleForm(0, 0, 200, 200), (ground,))
    return document(
        under,
        *(
            objects.transform(document(*blended(BLEND_MODES)), range(20, 36), scaling(2.6, 2.6, (196, 190)))
        ).root.children,
    )


def single(item: Item, size: float = 32.0) -> Picture:
    box = (0.0, 0.0, size, size)
    return Picture(size, size, None, (Chunk(1, (item,), box),))


def two_fills(under: Colour, over: Colour, mode: str) -> Picture:
    path = rectangle(0, 0, 4, 4)
    items = (FillPath(path, IDENTITY, Solid(under)), FillPath(path, IDENTITY, Solid(over), 1.0, mode))
    return Picture(4, 4, None, (Chunk(1, items, (0, 0, 4, 4)),))


def shown(doc: Document, scale: float = 1.0) -> np.ndarray:
    """The picture of a document, straight bytes (h, w, 4) as whole numbers."""
    return np.asarray(render_bytes(build(doc, references=True), scale)).astype(np.int16)


def off(a: Document, b: Document) -> np.ndarray:
    """By how many levels the pictures of two documents differ, at each pixel (h, w)."""
    return abs(shown(a) - shown(b)).max(axis=-1)


def png():
    import cv2

    rows = np.zeros((24, 30, 3), np.uint8)
    rows[..., 0], rows[..., 2] = np.linspace(60, 220, 30), np.linspace(200, 40, 24)[:, None]
    return cv2.imencode(".png", rows)[1].tobytes()


def ball(n=240):
    """A ray-traced ball: Lambert's law with ambient light over a disc."""
    y, x = (np.mgrid[:n, :n] + 0.5 - n / 2) / (n * 0.46)
    z = np.sqrt(np.maximum(1 - x * x - y * y, 0))
    light = np.clip(-0.45 * x - 0.55 * y + 0.70 * z, 0, None)
    base = np.array([0.75, 0.45, 0.25])
    rgb = np.clip((0.12 + 0.85 * light[..., None]) * base, 0, 1) ** (1 / 2.2)
    return np.dstack([rgb, (x * x + y * y < 1) * 1.0])
