"""Vector forms of what would need filters or become pixels: soft light as nested outlines of equal strength.

A soft mask is worked out once as numbers, the lines of equal strength are followed through it as smooth
curves and filled one within another, each with just the colour and alpha that brings what lies there to its strength.
What is blurred in several colours becomes a gradient mesh. Where no such form exists (grain; several colours whose edge
fades, or which are blurred along a line) the instruction stays as it is.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from dataclasses import dataclass

import numpy as np
from contourpy import contour_generator
from msgspec.structs import replace

from volumen.colour.difference import srgb_difference
from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY, multiply, scaling, translation
from volumen.geometry.curve import smooth_through
from volumen.geometry.path import Box, Path, grow_box
from volumen.geometry.primitives import rectangle
from volumen.picture.bounds import item_box
from volumen.picture.instructions import Chunk, Clip, FillPath, Item, Layer, Picture, Soft, in_plain_layers, one_colour
from volumen.render.raster import render_bytes, render_float
from volumen.shading.mesh_make import four_sided
from volumen.shading.mesh_paints import to_paint
from volumen.shading.paint import Colour, Inward, ReliefPaint, Solid, Stop
from volumen.shading.paint_pixels import field_pixels
from volumen.shading.ramp import ramp

STEPS = 32
_SIDE = 420.0  # nodes along the longer side of a mask, at most
_SOFT_EVERY, _EVERY = 7, 3  # a line is drawn through one in so many of its crossings with the grid
_PATCHES = 1.6  # of a mesh along one standard deviation of a blur
_MOST_PATCHES = 60
_WHITE = Colour(1.0, 1.0, 1.0)
_RISING = (Stop(0.0, Colour(0.0, 0.0, 0.0)), Stop(1.0, _WHITE))  # tells how far in a place lies
Progress = Callable[[float], None]
Place = Callable[[Floats], Floats]


@dataclass(frozen=True, slots=True)
class Closeness:
    """CIEDE2000 between a picture and its vector form: mean, 99th percentile and maximum over its pixels."""

    mean: float
    p99: float
    worst: float

    def __str__(self) -> str:
        return f"mean {self.mean:.2f}, 99 of 100 pixels within {self.p99:.1f}, at most {self.worst:.1f} (CIEDE2000)"


def vectorised(picture: Picture, nodes: Collection[int] | None = None, progress: Progress | None = None) -> Picture:
    """A picture with vector forms wherever there are some: of all its objects, or of the given nodes only."""
    chunks = []
    for k, chunk in enumerate(picture.chunks):
        wanted = nodes is None or chunk.node in nodes
        items = tuple(vector_form(i) if wanted else _with_thrown(i, nodes or set()) for i in chunk.items)
        chunks.append(Chunk(chunk.node, items, chunk.box))
        if progress is not None:
            progress((k + 1) / len(picture.chunks))
    return replace(picture, chunks=tuple(chunks))


def _with_thrown(item: Item, nodes: Collection[int]) -> Item:
    """What another object shows, with the vector form of shadows that some nodes throw onto it."""
    if isinstance(item, Soft):
        return vector_form(item) if item.thrown in nodes else item
    if not isinstance(item, Layer):
        return item
    if item.one_light:
        thrown = any(isinstance(i, Soft) and i.thrown in nodes for i in item.items)
        return vector_form(item) if thrown else item
    items = tuple(_with_thrown(i, nodes) for i in item.items)
    return replace(item, items=items) if any(a is not b for a, b in zip(items, item.items, strict=True)) else item


def closeness(a: Picture, b: Picture, side: float = 900.0) -> Closeness:
    """How close two pictures of the same sheet come, compared on white at up to ``side`` pixels."""
    scale = min(side / max(a.width, a.height), 1.0)
    shown = []
    for picture in (a, b):
        rgba = render_bytes(picture, scale) / 255
        shown.append(rgba[..., :3] * rgba[..., 3:] + 1 - rgba[..., 3:])
    error = srgb_difference(shown[0], shown[1])
    return Closeness(float(error.mean()), float(np.percentile(error, 99)), float(error.max()))


def vector_form(item: Item) -> Item:
    """The vector form of an instruction; the same one if it is vector already, or has no such form."""
    if isinstance(item, Soft) and (item.sigma > 0 or item.ramp):
        return _soft(item)
    if isinstance(item, FillPath):
        if isinstance(item.paint, ReliefPaint):
            return _relief(item, item.paint)
        if isinstance(item.paint, Inward) and item.paint.grain is None:
            return _inward(item, item.paint)
        return item
    if isinstance(item, Layer):
        colour = one_colour(item.items)
        if item.softened and colour is not None:
            return _softened(item, colour)
        if item.blur > 0 and item.blur_angle is None and item.feather <= 0:
            return _blurred(item)
        if item.softened:
            return item
        item = in_plain_layers(item)
        return replace(item, items=tuple(vector_form(i) for i in item.items))
    return item


def steps_for(strength: float) -> int:
    """How many steps a light of some strength (0..1) needs for none to show."""
    return max(round(STEPS * min(max(strength, 0.0), 1.0)), 8)


def _soft(item: Soft) -> Item:
    """A shadow or glow: nested outlines of its blurred silhouette."""
    plain = Soft(item.items, _WHITE, item.sigma, item.offset)
    box = item_box(plain)
    if box is None:
        return item
    mask, place = _mask(plain, box)
    steps = steps_for(item.opacity * item.colour.a)
    levels = (np.arange(steps) + 0.5) / steps
    if item.ramp:
        rows = np.array(item.ramp)
        at = np.linspace(0, 1, len(rows))
        colours = np.stack([np.interp(levels, at, rows[:, k]) for k in range(4)], axis=1)
    else:
        colours = np.concatenate([np.tile(item.colour.rgb, (steps, 1)), levels[:, None]], axis=1)
    colours[:, 3] *= item.colour.a
    fills = _nested(mask, np.arange(steps) / steps + 1e-4, colours, place, _SOFT_EVERY)
    return Layer(fills, item.opacity, item.blend, item.clip, isolated=True)


def _softened(item: Layer, colour: Colour) -> Item:
    """Things of one colour, blurred or faded out at the edge: nested outlines of what is left of them."""
    plain = Layer(item.items, blur=item.blur, blur_angle=item.blur_angle, feather=item.feather)
    box = item_box(plain)
    if box is None:
        return item
    mask, place = _mask(plain, box)
    steps = steps_for(item.opacity)
    levels = (np.arange(steps) + 0.5) / steps
    colours = np.concatenate([np.tile(colour.rgb, (steps, 1)), levels[:, None]], axis=1)
    every = _SOFT_EVERY if item.blur_angle is None and item.feather <= 0 else _EVERY
    fills = _nested(mask, np.arange(steps) / steps + 1e-4, colours, place, every)
    return Layer(fills, item.opacity, item.blend, item.clip, isolated=True)


def _blurred(item: Layer) -> Item:
    """Things blurred in several colours: a gradient mesh, whose patches are smaller than the blur is wide."""
    box = item_box(Layer(item.items, blur=item.blur))
    if box is None:
        return item
    wide, high = box[2] - box[0], box[3] - box[1]
    columns, rows = (int(np.clip(np.ceil(v / item.blur * _PATCHES), 2, _MOST_PATCHES)) for v in (wide, high))
    scale = min(4 * columns / max(wide, 1e-6), 4.0)
    plain = Layer(item.items, blur=item.blur)
    pixels = render_float(Picture(box[2], box[3], None, (Chunk(0, (plain,), box),)), scale, box)

    def colours(points: Floats) -> Floats:
        at = (points - (box[0], box[1])) * scale - 0.5
        j, i = (np.clip(np.rint(at[:, k]).astype(int), 0, pixels.shape[1 - k] - 1) for k in (0, 1))
        rgba = np.asarray(pixels[i, j], dtype=np.float64)
        return np.concatenate([np.clip(rgba[:, :3] / np.maximum(rgba[:, 3:], 1e-6), 0, 1), rgba[:, 3:]], axis=1)

    frame = rectangle(box[0], box[1], wide, high)
    mesh = FillPath(frame, IDENTITY, to_paint(four_sided(frame, columns, rows, colours)))
    return Layer((mesh,), item.opacity, item.blend, item.clip, isolated=True)


def _mask(item: Soft | Layer, box: Box) -> tuple[Floats, Place]:
    """The strength of something soft over a grid with a border of nothing, and the map of nodes to the sheet."""
    size = max(box[2] - box[0], box[3] - box[1], 1e-6)
    softness = item.sigma if isinstance(item, Soft) else item.blur if item.blur_angle is None else 0.0
    fine = _SIDE if softness > 0 else 2 * _SIDE
    scale = min(fine / size, max(6.0 / softness, 0.05) if softness > 0 else 4.0, 4.0)
    box = grow_box(box, 2 / scale)
    part = Picture(box[2], box[3], None, (Chunk(0, (item,), box),))
    alpha = np.pad(np.asarray(render_float(part, scale, box)[..., 3], dtype=np.float64), 1)
    return alpha, _placing(scale, box)


def _placing(scale: float, box: Box) -> Place:
    """The map to the sheet of the nodes of a grid over a box that was padded by one."""
    return lambda nodes: np.asarray((nodes - 0.5) / scale + (box[0], box[1]))


def _relief(item: FillPath, paint: ReliefPaint) -> Item:
    """The shade or light of a relief, in one colour."""
    made = _field(item)
    if made is None:
        return item
    pixels, place = made
    alpha = pixels[..., 3]
    if alpha.max() <= 1e-3:
        return Layer((), clip=Clip(item.path, item.transform))
    weight = float(alpha.sum())
    mean = pixels[..., :3].sum(axis=(0, 1)) / weight if paint.part == "light" else np.array(paint.colour.rgb)
    top = float(alpha.max())
    steps = steps_for(item.opacity * top)
    levels = (np.arange(steps) + 0.5) / steps * top
    colours = np.concatenate([np.tile(np.clip(mean, 0, 1), (steps, 1)), levels[:, None]], axis=1)
    fills = _nested(np.pad(alpha, 1), np.arange(steps) / steps * top + 1e-4, colours, place)
    return Layer(fills, item.opacity, item.blend, Clip(item.path, item.transform), isolated=True)


def _inward(item: FillPath, paint: Inward) -> Item:
    """A gradient that follows the outline: nested outlines, each in its colour over the ones before it."""
    made = _field(replace(item, paint=Inward(_RISING, paint.depth, oklab=False)))
    if made is None or any(s.colour.a < 1 for s in paint.stops) or paint.spread != "pad":
        return item
    pixels, place = made
    levels = (np.arange(2 * STEPS) + 0.5) / (2 * STEPS)
    colours = ramp(paint.stops, levels, paint.oklab)
    fills: list[Item] = []
    for k, (r, g, b) in enumerate(colours[:, :3].tolist()):
        path = _line_of(np.pad(pixels[..., 0], 1), k / len(levels), place) if k else item.path
        if path:
            fills.append(FillPath(path, IDENTITY if k else item.transform, Solid(Colour(r, g, b))))
    return Layer(tuple(fills), item.opacity, item.blend, Clip(item.path, item.transform), isolated=True)


def _field(item: FillPath) -> tuple[Floats, Place] | None:
    """A field paint's pixels over a grid, and the map of (padded) nodes to the sheet."""
    box = item_box(item)
    if box is None:
        return None
    scale = min(2 * _SIDE / max(box[2] - box[0], box[3] - box[1], 1e-6), 3.0)
    w, h = (max(int(np.ceil(v * scale)), 2) for v in (box[2] - box[0], box[3] - box[1]))
    place = multiply(multiply(scaling(scale, scale), translation(-box[0], -box[1])), item.transform)
    path, width = (item.course, item.course_width) if item.course is not None else (item.path, 0.0)
    pixels = np.asarray(field_pixels(item.paint, place, (0, 0, w, h), path, width), dtype=np.float64)
    return pixels, _placing(scale, box)


def _nested(mask: Floats, levels: Floats, colours: Floats, place: Place, every: int = _EVERY) -> tuple[Item, ...]:
    """Fills one within another: over all before it each brings straight ``colours`` (n, 4) where the mask exceeds its
    level (n,)."""
    out: list[Item] = []
    premultiplied, alpha = np.zeros(3), 0.0
    for level, row in zip(levels, colours, strict=True):
        wanted, goal = row[:3] * row[3], float(row[3])
        own = 1 - (1 - goal) / max(1 - alpha, 1e-9)
        if own <= 1e-5:
            continue
        path = _line_of(mask, float(level), place, every)
        if not path:
            continue
        r, g, b = (float(v) for v in np.clip((wanted - premultiplied * (1 - own)) / own, 0, 1))
        out.append(FillPath(path, IDENTITY, Solid(Colour(r, g, b, min(own, 1.0)))))
        premultiplied, alpha = wanted, goal
    return tuple(out)


def _line_of(mask: Floats, level: float, place: Place, every: int = _EVERY) -> Path:
    """The outline of where a mask exceeds a level, as smooth curves on the sheet."""
    contours = []
    for line in contour_generator(z=mask).lines(level):
        points = np.asarray(line)[:-1]
        if len(points) >= 8:
            contours.append(smooth_through(place(points[:: min(every, len(points) // 6)])))
    return Path(tuple(contours), True)
