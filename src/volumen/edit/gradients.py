"""Changing gradients: carried to another place, across several objects, stops rearranged, sampled from a picture."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec
import numpy as np

from volumen.colour import oklab
from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.geometry.affine import invert
from volumen.geometry.path import Box, transform_box, union_box
from volumen.model.ingredients import Fill
from volumen.model.nodes import Document, Node, Shape
from volumen.model.tree import changed_nodes, find, update_nodes, walk, world_of
from volumen.outline.outlines import outline
from volumen.shading.carried import carried
from volumen.shading.paint import (
    GRADIENTS,
    Along,
    Colour,
    Conic,
    Gradient,
    Inward,
    Linear,
    Paint,
    Radial,
    Solid,
    Stop,
    face_colour,
)
from volumen.shading.ramp import ramp, sorted_stops

replace = msgspec.structs.replace
SHARED = (Linear, Radial, Conic)  # the kinds that can lie across several shapes


def fill_index(shape: Shape) -> int | None:
    """The topmost fill that is on."""
    found = [k for k, i in enumerate(shape.recipe) if isinstance(i, Fill) and i.on]
    return found[-1] if found else None


def paint_of(shape: Shape, index: int | None = None) -> Paint | None:
    """The paint of an ingredient, or of the topmost fill."""
    at = fill_index(shape) if index is None else index
    return getattr(shape.recipe[at], "paint", None) if at is not None and at < len(shape.recipe) else None


def with_paint(shape: Shape, paint: Paint) -> Shape:
    """The shape with its topmost fill in another paint; with a fill if it had none."""
    at = fill_index(shape)
    if at is None:
        return replace(shape, recipe=(Fill(paint), *shape.recipe))
    recipe = list(shape.recipe)
    recipe[at] = replace(recipe[at], paint=paint)
    return replace(shape, recipe=tuple(recipe))


def sheet_box(document: Document, ids: Iterable[int]) -> Box | None:
    """The box around the outlines of shapes on the sheet."""
    boxes = []
    for i in ids:
        node = find(document, i)
        if isinstance(node, Shape):
            world = world_of(document, i)
            box = outline(node, world).bounds()
            boxes.append(transform_box(box, world) if box else None)
    return union_box(boxes)


def across(document: Document, ids: Iterable[int], gradient: Paint | None = None) -> Document:
    """Several shapes under one gradient, as if they were one: ``gradient`` in sheet coordinates.

    Without one, that of the first shape is stretched over the box of all.
    """
    order = [i for i in ids if isinstance(find(document, i), Shape)]
    box = sheet_box(document, order)
    if box is None:
        return document
    if gradient is None:
        first = find(document, order[0])
        assert isinstance(first, Shape)
        paint = paint_of(first)
        own = outline(first).bounds()
        if not isinstance(paint, Linear | Radial | Conic) or own is None:
            return document
        w, h = max(own[2] - own[0], 1e-9), max(own[3] - own[1], 1e-9)
        sx, sy = (box[2] - box[0]) / w, (box[3] - box[1]) / h
        gradient = carried(paint, (sx, 0, 0, sy, box[0] - own[0] * sx, box[1] - own[1] * sy))
    number = document.next_id
    document = replace(document, next_id=number + 1)
    if isinstance(gradient, SHARED):
        gradient = replace(gradient, shared=number)
    return spread(document, order, gradient)


def spread(document: Document, ids: Iterable[int], gradient: Paint) -> Document:
    """Shapes with a gradient of the sheet as their topmost fill, each in its own coordinates."""
    for i in ids:
        back = invert(world_of(document, i))
        if back is not None:
            local = carried(gradient, back)
            document = update_nodes(document, [i], lambda n, p=local: with_paint(n, p))  # type: ignore[misc]
    return document


def shared_of(node: Node) -> int | None:
    """The number of the gradient that a shape shares with others, if its topmost fill has one."""
    paint = paint_of(node) if isinstance(node, Shape) else None
    return paint.shared if isinstance(paint, SHARED) else None


def one_gradient(before: Document, after: Document) -> Document:
    """``after`` with what was changed since ``before`` in a gradient across several shapes changed in all of them.

    Moving a shape moves its part with it; the gradient is changed by changing it.
    """
    changed: dict[int, int] = {}
    for old, new in changed_nodes(before.root, after.root):
        if old.recipe is not new.recipe and isinstance(old, Shape) and isinstance(new, Shape):
            number = shared_of(new)
            if number is not None and shared_of(old) == number and paint_of(old) != paint_of(new):
                changed.setdefault(number, new.id)
    for number, source in changed.items():
        node = find(after, source)
        assert isinstance(node, Shape)
        paint = paint_of(node)
        assert paint is not None
        others = [n.id for n in walk(after.root) if n.id != source and shared_of(n) == number]
        after = spread(after, others, carried(paint, world_of(after, source)))
    return after


def distributed(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """Stops at even distances between the first and the last."""
    ordered = sorted_stops(stops)
    if len(ordered) < 3:
        return ordered
    at = np.linspace(ordered[0].at, ordered[-1].at, len(ordered)).tolist()
    return tuple(replace(s, at=t, middle=0.5) for s, t in zip(ordered, at, strict=True))


def evened_out(stops: tuple[Stop, ...], oklab: bool = True) -> tuple[Stop, ...]:
    """Stops moved so that colour changes at the same rate (CIEDE2000) all along."""
    ordered = sorted_stops(stops)
    if len(ordered) < 3:
        return ordered
    steps = []
    for a, b in zip(ordered, ordered[1:], strict=False):
        pair = (replace(a, at=0.0), replace(b, at=1.0))
        row = ramp(pair, np.linspace(0, 1, 33), oklab)
        steps.append(float(srgb_difference(row[1:, :3], row[:-1, :3]).sum()) + 1e-6)
    at = np.concatenate([[0.0], np.cumsum(steps)]) / sum(steps)
    low, high = ordered[0].at, ordered[-1].at
    return tuple(replace(s, at=float(low + (high - low) * t), middle=0.5) for s, t in zip(ordered, at, strict=True))


def sampled_stops(rgba: Floats, most: int = 9, tolerance: float = 2.0) -> tuple[Stop, ...]:
    """The fewest stops that follow a row of colours (n, 4), straight sRGB, within ``tolerance`` (CIEDE2000)."""
    n = len(rgba)
    kept = [0, n - 1]
    while len(kept) < most:
        made = tuple(_stop(rgba, k, n) for k in kept)
        row = ramp(made, np.linspace(0, 1, n))
        error = srgb_difference(row[:, :3], rgba[:, :3]) * rgba[:, 3] + np.abs(row[:, 3] - rgba[:, 3]) * 100
        worst = int(error.argmax())
        if error[worst] <= tolerance or worst in kept:
            break
        kept = sorted([*kept, worst])
    return tuple(_stop(rgba, k, n) for k in kept)


def _stop(rgba: Floats, k: int, n: int) -> Stop:
    r, g, b, a = (float(v) for v in rgba[k])
    return Stop(k / max(n - 1, 1), Colour(r, g, b, a))


def lighter_and_darker(colour: Colour) -> tuple[Stop, ...]:
    """Stops for a gradient made of one colour: a tint, the colour, a shade."""
    l, c, h = oklab.to_lch(oklab.from_srgb(colour.rgb))

    def tone(lightness: float, chroma: float) -> Colour:
        r, g, b = (float(v) for v in oklab.lch_to_srgb([lightness, chroma, h]))
        return Colour(r, g, b, colour.a)

    return (Stop(0.0, tone(l + (1 - l) * 0.55, c * 0.75)), Stop(0.5, colour), Stop(1.0, tone(l * 0.55, c * 0.85)))


def kind_of(paint: Paint) -> object:
    """What the paint editor chooses between: the paint's type, or "across" for one that runs across a line."""
    return "across" if isinstance(paint, Along) and paint.across else type(paint)


def converted(paint: Paint, kind: object, box: Box | None) -> Paint:
    """A paint as another kind, laid out for an outline's box."""
    if kind_of(paint) == kind:
        return paint
    face = face_colour(paint) or Colour(0.5, 0.5, 0.5)
    if kind is Solid:
        return Solid(face, grain=paint.grain)
    stops = paint.stops if isinstance(paint, GRADIENTS) else lighter_and_darker(face)
    mixed = paint.oklab if isinstance(paint, GRADIENTS) else True
    l, t, r, b = box or (0.0, 0.0, 100.0, 100.0)
    centre, radius = ((l + r) / 2, (t + b) / 2), max(r - l, b - t) / 2
    if kind is Linear:
        return Linear(stops, ((l + r) / 2, t), ((l + r) / 2, b), mixed, grain=paint.grain)
    if kind is Radial:
        focus = (centre[0] - radius * 0.3, centre[1] - radius * 0.35)
        return Radial(stops, centre, radius, focus, oklab=mixed, grain=paint.grain)
    if kind is Conic:
        return Conic(stops, centre, -90.0, mixed, paint.grain)
    if kind is Inward:
        return Inward(stops, 0.0, mixed, grain=paint.grain)
    return Along(stops, kind == "across", mixed, paint.grain)


def with_stop_at(gradient: Gradient, at: float) -> tuple[Gradient, int]:
    """The gradient with a stop more, of the colour already there; the stop's index."""
    stops = sorted_stops(gradient.stops)
    r, g, b, a = (float(v) for v in ramp(stops, np.array([at]), gradient.oklab)[0])
    stops = sorted_stops((*stops, Stop(at, Colour(r, g, b, a))))
    return replace(gradient, stops=stops), max(i for i, s in enumerate(stops) if s.at == at)
