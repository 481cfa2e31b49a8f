"""Light ingredients that look at the object they are given to: colours that show on it, axes along its shape."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import msgspec
import numpy as np

from volumen.colour.difference import srgb_difference
from volumen.compose.backdrop import behind
from volumen.compose.face import base_colour
from volumen.edit.placing import by_size, own_box
from volumen.edit.recipes import add, counterpart
from volumen.model.ingredients import BlendMode, Body, Fill, GroundGlow, Halves, Ingredient, InnerGlow, OuterGlow, Rim
from volumen.model.nodes import Document, Group, Image, Node, Shape
from volumen.model.tree import find, update_nodes, world_of
from volumen.outline.outlines import outline
from volumen.shading.blending import TONAL, laid_over
from volumen.shading.bodies import fitting_turn
from volumen.shading.paint import Colour, Linear, Stop, colour

replace = msgspec.structs.replace
PLAIN_TO_SEE = 12.0  # CIEDE2000 between an effect's middle and what it lies on
_GLOWS: tuple[tuple[Colour, BlendMode], ...] = (
    (colour("#f0ae45"), "screen"), (colour("#8fd8ff"), "screen"), (colour("#0f4a5a"), "multiply"),
    (colour("#a8321f"), "multiply"),
)  # fmt: skip
_RIMS = (colour("#1b2226"), colour("#c8402a"))


def add_to_see(document: Document, ids: Iterable[int], ingredient: Ingredient) -> Document:
    """Add an ingredient to objects: its lengths by the size of each, glows and rims in colours that show on what they
    lie on there."""
    for node_id in ids:
        node = find(document, node_id)
        if node is not None:
            document = add(document, [node_id], by_size(document, node, seen_on(document, node, ingredient)))
    return document


def second_fill(node: Node, i: Fill) -> Fill:
    """A fill for a shape that has one already: light to shade laid over it, so that both show."""
    box = own_box(node)
    if box is None:
        return i
    l, t, r, b = box
    stops = (
        Stop(0.0, Colour(1.0, 1.0, 1.0, 0.9)),
        Stop(0.5, Colour(0.5, 0.5, 0.5, 0.0)),
        Stop(1.0, Colour(0.05, 0.09, 0.12, 0.9)),
    )
    return replace(i, paint=Linear(stops, ((l + r) / 2, t), ((l + r) / 2, b)), blend="overlay")


def seen_on(document: Document, node: Node, i: Ingredient) -> Ingredient:
    """The ingredient as it is if it shows, else in the first colour that does, or the one that shows most."""
    if isinstance(i, Fill) and any(isinstance(k, Fill | Body) and k.on for k in node.recipe):
        return second_fill(node, i)
    if isinstance(i, Halves) and isinstance(node, Shape):
        return _on_axis(node, i)
    if isinstance(i, Body) and isinstance(node, Group):
        return replace(i, each=True)  # every child in its own colour
    if isinstance(i, Body) and isinstance(node, Image):
        return replace(i, colour=colour("#ffffff"), blend="multiply")  # the picture shows under the light
    if isinstance(i, OuterGlow | InnerGlow | GroundGlow):
        ground = base_colour(node) if isinstance(i, InnerGlow) else _behind(document, node)
        offers = [replace(i, colour=c, blend=b) for c, b in ((i.colour, i.blend), *_GLOWS)]
        return _first_seen(offers, [difference(g.colour, g.blend, ground) for g in offers])
    if isinstance(i, Rim):
        ground = base_colour(node) if i.inside else _behind(document, node)
        rims = [replace(i, colour=c) for c in (i.colour, *_RIMS)]
        return _first_seen(rims, [difference(r.colour, "normal", ground) for r in rims])
    return i


def _on_axis(shape: Shape, i: Halves) -> Halves:
    """The axis through both ends of an open half; upright through the middle of anything else."""
    path = outline(shape)
    box = path.bounds()
    if box is None:
        return i
    if len(path.contours) == 1 and not path.contours[0].closed:
        (ax, ay), (bx, by) = path.contours[0].points[0].tolist(), path.contours[0].points[-1].tolist()
        if math.hypot(bx - ax, by - ay) > 1e-6:
            return replace(i, centre=((ax + bx) / 2, (ay + by) / 2), angle=math.degrees(math.atan2(by - ay, bx - ax)))
    return replace(i, centre=((box[0] + box[2]) / 2, (box[1] + box[3]) / 2))


def _first_seen(offers: Sequence[Ingredient], seen: list[float]) -> Ingredient:
    return next((o for o, d in zip(offers, seen, strict=True) if d >= PLAIN_TO_SEE), offers[int(np.argmax(seen))])


def difference(c: Colour, blend: str, ground: Colour) -> float:
    """How far (CIEDE2000) half of a colour, blended as W3C Compositing and Blending says, is from its ground."""
    g = np.array(ground.rgb)
    return float(srgb_difference(laid_over(g, np.array(c.rgb), 0.5, blend if blend in TONAL else "normal"), g))


def _behind(document: Document, node: Node) -> Colour:
    return behind(document, node) or Colour(1.0, 1.0, 1.0)


def fit_bodies(document: Document, ids: Iterable[int], rank: int) -> Document:
    """Turn the bodies with ``rank`` others before them along the longest direction of each of some shapes."""

    def change(node: Node) -> Node:
        at = counterpart(node.recipe, Body, rank)
        if at is None or not isinstance(node, Shape):
            return node
        body = node.recipe[at]
        assert isinstance(body, Body)
        turn = fitting_turn(body.kind, outline(node, world_of(document, node.id)))
        return replace(node, recipe=(*node.recipe[:at], replace(body, turn=turn), *node.recipe[at + 1 :]))

    return update_nodes(document, ids, change)
