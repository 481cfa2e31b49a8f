"""Slivers as drawing instructions."""

from __future__ import annotations

from functools import partial

from volumen.caching import Cache
from volumen.compose.drawing import Others, Over, draws_over
from volumen.geometry.affine import Affine, invert, mean_scale, multiply, uneven
from volumen.geometry.engine import PathOpError, combine, drop_specks, in_cubics
from volumen.geometry.path import Path
from volumen.model.ingredients import Sliver
from volumen.outline.derived import derived
from volumen.outline.outlines import outline
from volumen.picture.instructions import Clip, FillPath, FillUncovered, Item, Layer
from volumen.shading.lamp import Lamp, bearing_vector
from volumen.shading.paint import Colour, Solid
from volumen.shading.slivers import Cut, sliver
from volumen.shading.tones import local_direction

_slivers: Cache[Cut] = Cache("slivers", 3000)  # a turning lamp makes all of them anew every frame
INK = Colour(0.05, 0.09, 0.12)


def sliver_paint(i: Sliver, lamp: Lamp) -> Solid:
    """A sliver's own colour, else ink for shade and the lamp's colour for light."""
    return Solid(i.colour or (INK if i.kind == "shade" else lamp.colour))


def sliver_opacity(i: Sliver, lamp: Lamp) -> float:
    """Light is as strong as the lamp that it comes from."""
    return i.opacity if i.kind == "shade" else min(i.opacity * max(lamp.strength, 0.0), 1.0)


def _cut_by_other(i: Sliver, path: Path, world: Affine, others: Others) -> Path:
    """What the outline of another shape leaves of this one, in its own coordinates; empty if it cannot be cut."""
    inverse = invert(world)
    other = others.get(i.other) if i.other is not None else None
    if other is None or inverse is None:
        return Path()
    cutter = outline(*other).transformed(multiply(inverse, other[1]))
    try:
        return in_cubics(drop_specks(combine(path, cutter, "subtract"), i.min_area))
    except PathOpError:
        return Path()


def _cut(i: Sliver, path: Path, world: Affine, lamp: Lamp) -> tuple[Cut, Path, Affine]:
    """A sliver by a moved copy, the outline that it is cut from and their place: the outline's own or, where that
    stretches unevenly, one that keeps angles, so that the sliver is as deep on every side."""
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    depth, least, place = i.depth, i.min_area, world
    if squeeze is not None and back is not None:
        path = derived(path, ("squeezed", squeeze), partial(path.transformed, squeeze))
        scale = mean_scale(squeeze)
        depth, least, place = depth * scale, least * scale * scale, multiply(world, back)
    if i.angle is not None:
        side = bearing_vector(i.angle)
    else:
        side = lamp.toward if (i.kind == "light") != i.sunk else lamp.away
    local = local_direction(side, place)
    key = (id(path), i.by, depth, local, least)
    hit = _slivers.get(key)
    made = hit if hit is not None else _slivers.put(key, path, sliver(path, i.by, depth, local, least))  # fmt: skip
    return made, path, place


@draws_over(Sliver)
def sliver_items(i: Sliver, at: Over) -> list[Item]:
    """A sliver: cut by the outline of another shape, or what a moved copy leaves uncovered."""
    path, world, lamp, others = at.path, at.world, at.light.lamp, at.others
    cut, source, place = Cut(path), path, world
    if i.by == "outline":
        cut = Cut(_cut_by_other(i, path, world, others))
    else:
        cut, source, place = _cut(i, path, world, lamp)
    if cut.path.hull() is None:
        return []
    paint, strength, whole = sliver_paint(i, lamp), sliver_opacity(i, lamp), i.feather <= 0
    opacity, blend = (strength, i.blend) if whole else (1.0, "normal")
    if cut.move is None:
        inside = FillPath(cut.path, place, paint, opacity, blend)
    else:
        inside = FillUncovered(cut.path, place, paint, opacity, blend, outline=source, move=cut.move)
    if whole:
        return [inside]
    return [Layer((inside,), strength, i.blend, Clip(path, world), i.feather * mean_scale(world))]
