"""Finish: what acts on all that a node shows, once it is drawn."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial

from msgspec.structs import replace

from volumen.caching import Cache
from volumen.compose.facts import facts_of
from volumen.geometry.affine import Affine, apply_vector, mean_scale
from volumen.geometry.engine import outline_of_line
from volumen.geometry.path import Path
from volumen.model.ingredients import Adjust, Blur, Feather
from volumen.model.nodes import Node
from volumen.model.recolour import paint_with, shifted_all
from volumen.outline.derived import derived
from volumen.picture.instructions import Clip, FillPath, Item, Layer, Soft, StrokePath
from volumen.shading.paint import Colour, MeshPaint, ReliefPaint, Solid, face_colour, is_field

# Wide enough to reach under both sides of a hairline however small the picture is shown; the outline of the whole
# holds it in.
_UNDERLAY = 5.0
_seamed: Cache[Layer] = Cache("closed seams", 500)


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


def closed_seams(items: Sequence[Item], whole: Path, world: Affine) -> Item:
    """Items over underlays of themselves: every opaque area is first drawn with a margin, so that no hairline opens
    between two that share an edge.

    All of it is held inside the outline of the whole; where shadows or glows must reach beyond it, the underlays only.
    The same items give the same layer.
    """
    key = (tuple(map(id, items)), id(whole), world)
    hit = _seamed.get(key)
    if hit is not None:
        return hit
    return _seamed.put(key, (items, whole), _seamless(items, whole, world))


def _seamless(items: Sequence[Item], whole: Path, world: Affine) -> Layer:
    held = Clip(whole, world)
    alphas = {round(a, 3) for item in items if (a := _hides(item)) is not None}
    alpha = alphas.pop() if len(alphas) == 1 else 1.0
    if 0 < alpha < 1:  # as thin as one another: solid under one opacity, for what is thin hides no underlay
        solid = [_solid(item) for item in items if _hides(item) is not None]
        over = [item for item in items if _hides(item) is None]
        beyond = any(isinstance(i, Soft) for i in over)
        whole_layer = replace(_seamless(solid, whole, world), opacity=alpha)
        return Layer((whole_layer, *over), clip=None if beyond else held, isolated=True)
    under = tuple(u for item in items for u in _underlays(item))
    if any(isinstance(i, Soft) for i in items):
        return Layer((Layer(under, clip=held), *items), isolated=True)
    return Layer((*under, *items), clip=held, isolated=True)


def _hides(item: Item) -> float | None:
    """How much a plain fill, or a layer of solid ones, hides: -1 where that is not the same all over it, None for what
    is laid over such things."""
    if isinstance(item, Layer) and item.clip is None and item.blend == "normal" and not item.softened:
        return item.opacity if item.items and all(_hides(i) == 1 for i in item.items) else None
    if not isinstance(item, FillPath) or item.blend != "normal" or isinstance(item.paint, ReliefPaint):
        return None
    paint = item.paint
    if isinstance(paint, Solid):
        return paint.colour.a * item.opacity
    held = paint.points if isinstance(paint, MeshPaint) else getattr(paint, "stops", ())
    alphas = {c.colour.a for c in held}
    return alphas.pop() * item.opacity if len(alphas) == 1 else -1.0


def _solid(item: Item) -> Item:
    """The same without what it lets through."""
    if isinstance(item, Layer):
        return replace(item, opacity=1.0)
    assert isinstance(item, FillPath) and not isinstance(item.paint, ReliefPaint)
    return replace(item, paint=paint_with(item.paint, lambda c: c.with_alpha(1.0)), opacity=1.0)


def _underlays(item: Item) -> list[Item]:
    if isinstance(item, Layer) and item.at_rest and item.clip is None:
        return [u for i in item.items for u in _underlays(i)]
    if not isinstance(item, FillPath) or isinstance(item.paint, ReliefPaint) or (_hides(item) or 0.0) < 1:
        return []
    paint = item.paint
    width = _UNDERLAY / max(mean_scale(item.transform), 1e-9)
    if is_field(paint) and not isinstance(paint, MeshPaint):
        wide = partial(outline_of_line, item.path, width, "round", "round", 4.0)
        band = derived(item.path, ("wide", width), wide)
        return [FillPath(band, item.transform, paint, course=item.course or item.path), item]
    if isinstance(paint, MeshPaint):  # beyond its border a mesh has no colours: its mean stands for them
        paint = Solid(face_colour(paint) or Colour(0.5, 0.5, 0.5))
    return [StrokePath(item.path, item.transform, paint, width, "round", "round"), item]
