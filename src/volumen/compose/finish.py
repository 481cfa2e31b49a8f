"""Finish: what acts on all that a node shows, once it is drawn."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from msgspec.structs import replace

from volumen.compose.facts import facts_of
from volumen.geometry.affine import Affine, apply_vector, mean_scale
from volumen.model.ingredients import Adjust, Blur, Feather
from volumen.model.nodes import Node
from volumen.model.recolour import paint_with, shifted_all
from volumen.picture.instructions import FillPath, Item, Layer, Soft, StrokePath
from volumen.shading.paint import Colour, ReliefPaint, Solid


def is_finished(node: Node, flat: bool) -> bool:
    """Whether a node must be composed on its own."""
    if node.opacity < 1 or node.blend != "normal" or node.isolated:
        return True
    facts = facts_of(node.recipe)
    return not flat and (facts.finish or facts.seams)


def finished(node: Node, items: Sequence[Item], world: Affine, flat: bool) -> list[Item]:
    """What a node shows after its finish."""
    out = list(items)
    if not out:
        return out
    if not flat and facts_of(node.recipe).finish:
        for i in node.recipe:
            if isinstance(i, Adjust) and i.on:
                out = _adjusted(out, i)
        out = _softened(node, out, world)
    if node.opacity < 1 or node.blend != "normal":
        if len(out) == 1 and isinstance(out[0], Layer) and out[0].opacity >= 1 and out[0].blend == "normal":
            return [replace(out[0], opacity=node.opacity, blend=node.blend)]
        return [Layer(tuple(out), node.opacity, node.blend)]
    if node.isolated and not (len(out) == 1 and isinstance(out[0], Layer) and not out[0].at_rest):
        return [Layer(tuple(out), isolated=True)]
    return out


def _adjusted(items: list[Item], i: Adjust) -> list[Item]:
    """Items with all their colours shifted: thousands of copies have few colours, which are shifted in one go."""
    held: dict[Colour, Colour] = {}
    for item in items:
        recoloured(item, lambda c: held.setdefault(c, c))
    known = shifted_all(held, i.hue, i.lightness, i.chroma, i.contrast)
    return [recoloured(item, known.__getitem__) for item in items]


def _softened(node: Node, items: list[Item], world: Affine) -> list[Item]:
    """Blurs that go all ways act as one (variances add); one along a line acts by itself; then the edge fades."""
    scale = mean_scale(world)
    even = math.sqrt(sum(i.size**2 for i in node.recipe if isinstance(i, Blur) and i.on and i.angle is None)) * scale
    if even > 0:
        items = [Layer(tuple(items), blur=even)]
    for i in node.recipe:
        if isinstance(i, Blur) and i.on and i.angle is not None and i.size > 0:
            t = math.radians(i.angle)
            x, y = apply_vector(world, (math.cos(t), math.sin(t)))
            size = i.size * math.hypot(x, y)
            items = [Layer(tuple(items), blur=size, blur_angle=math.degrees(math.atan2(y, x)))]
    fade = max((i.size for i in node.recipe if isinstance(i, Feather) and i.on), default=0.0) * scale
    return [Layer(tuple(items), feather=fade)] if fade > 0 else items


def recoloured(item: Item, change: Callable[[Colour], Colour]) -> Item:
    """An instruction with every colour in it changed."""
    if isinstance(item, FillPath | StrokePath):
        paint = item.paint
        if isinstance(paint, ReliefPaint):
            return item
        if isinstance(paint, Solid) and paint.grain is not None and item.blend != "normal":
            return item  # grain laid over: its grey means no change
        return replace(item, paint=paint_with(paint, change))
    if isinstance(item, Layer):
        return replace(item, items=tuple(recoloured(i, change) for i in item.items))
    if isinstance(item, Soft):
        ramp = tuple((*change(Colour(r, g, b)).rgb, a) for r, g, b, a in item.ramp)
        return replace(item, colour=change(item.colour), ramp=ramp)
    return item
