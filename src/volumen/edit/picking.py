"""Colours read from reference pictures: the picture's own, however it is dimmed and whatever lies over it."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, apply, invert, mean_scale, multiply
from volumen.geometry.path import in_box
from volumen.model.ingredients import Fill
from volumen.model.nodes import Asset, Document, Image, Node
from volumen.model.tree import find
from volumen.outline.hit import hit
from volumen.shading.paint import Colour, MeshPaint

Reader = Callable[[Asset], Floats | None]


def reference_colour(document: Document, at: Point, read: Reader, side: float = 0.0) -> Colour | None:
    """The mean colour of a square of ``side`` sheet units of the reference picture at a place; None where artwork that
    is not a mesh covers it, or where there is none. ``read`` gives a picture's pixels (rows, columns, 4) in straight
    sRGB."""
    chain = hit(document, at, 0.0)
    over = find(document, chain[-1]) if chain else None
    if over is not None and not isinstance(over, Image) and not _is_mesh(over):
        return None
    found = _pictures(document.root, document.root.transform, at)
    if not found:
        return None
    image, world = found[-1]
    asset = next((a for a in document.assets if a.key == image.asset), None)
    back = invert(world)
    pixels = read(asset) if asset is not None else None
    if pixels is None or back is None:
        return None
    x, y = apply(back, at)
    height, width = pixels.shape[:2]
    px, py = x / image.width * width, y / image.height * height
    half = max(side / (mean_scale(world) or 1.0) / image.width * width / 2, 0.5)
    l, r = max(int(px - half + 0.5), 0), max(int(np.ceil(px + half - 0.5)), int(px) + 1)
    t, b = max(int(py - half + 0.5), 0), max(int(np.ceil(py + half - 0.5)), int(py) + 1)
    part = pixels[min(t, height - 1) : max(b, t + 1), min(l, width - 1) : max(r, l + 1)].reshape(-1, 4)
    weight = part[:, 3].sum()
    if weight <= 0:
        return None
    red, green, blue = (float(v) for v in (part[:, :3] * part[:, 3:]).sum(axis=0) / weight)
    return Colour(red, green, blue)


def _is_mesh(node: Node) -> bool:
    return any(isinstance(i, Fill) and i.on and isinstance(i.paint, MeshPaint) for i in node.recipe)


def _pictures(parent: Node, world: Affine, at: Point) -> list[tuple[Image, Affine]]:
    """The visible reference pictures, locked ones too, under a place, back to front."""
    out: list[tuple[Image, Affine]] = []
    for node in parent.children:
        if not node.visible:
            continue
        place = multiply(world, node.transform)
        back = invert(place)
        if isinstance(node, Image) and back is not None and in_box((0, 0, node.width, node.height), *apply(back, at)):
            out.append((node, place))
        out += _pictures(node, place, at)
    return out
