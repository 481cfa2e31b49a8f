"""What lies inside an outline, over its paints: inner shadows and glows, rims, grain and relief."""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import suppress
from functools import partial

from volumen.caching import Cache
from volumen.compose.drawing import Over, draws_over
from volumen.compose.face import base_colour
from volumen.compose.glows import glow_ramp, glow_tint
from volumen.geometry.affine import Affine, Point, invert, mean_scale, multiply, uneven
from volumen.geometry.boolean import cleaned
from volumen.geometry.engine import PathOpError, combine, in_cubics, outline_of_line
from volumen.geometry.offset import offset
from volumen.geometry.path import Box, Path, grow_box
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import InnerGlow, InnerShadow, Relief, Rim, Speckle
from volumen.outline.derived import derived
from volumen.outline.silhouettes import SILHOUETTE
from volumen.picture.bounds import REACH
from volumen.picture.instructions import Clip, FillPath, Item, Soft
from volumen.shading.lamp import Lamp, bearing_vector, shadow_factor, shadow_offset, shadow_sigma
from volumen.shading.paint import Colour, Grain, LitFrom, ReliefPaint, Solid
from volumen.shading.shade import shaded
from volumen.shading.tones import towards

_GREY = Colour(0.5, 0.5, 0.5)
_rings: Cache[tuple[tuple[Item, ...], Clip]] = Cache("rings of inner light", 2000)


@draws_over(InnerShadow)
def inner_shadow(i: InnerShadow, at: Over) -> list[Item]:
    """What the rim throws into a shape that lies ``depth`` below it."""
    path, world, lamp = at.path, at.world, at.light.lamp
    if i.angle is None:
        move = shadow_offset(lamp, i.depth)
    else:
        x, y = bearing_vector(i.angle)
        far = math.hypot(*shadow_offset(lamp, i.depth))
        move = (-x * far, -y * far)  # the side that lies in shadow is the one it comes from
    scale = mean_scale(world)
    move = (move[0] * scale, move[1] * scale)
    sigma = (max(i.softness, 0.0) if i.softness is not None else shadow_sigma(lamp, i.depth)) * scale
    tint, share = shaded(i.colour or shadow_factor(base_colour(at.node), 1.0), at.light.lights, lamp, i.colour is None)
    ring = _from_outside(path, world, sigma, move)
    return [Soft(ring[0], tint, sigma, move, i.opacity * share, i.blend, ring[1])] if ring and share > 0 else []


@draws_over(InnerGlow)
def inner_glow(i: InnerGlow, at: Over) -> list[Item]:
    """Light from the edge inwards, or from the middle outwards."""
    path, world = at.path, at.world
    sigma = max(i.size, 0.0) * mean_scale(world)
    if i.source == "edge":
        ring = _from_outside(path, world, sigma, (0.0, 0.0))
    else:
        core = shrunk(path, max(i.size, 0.0), world)
        ring = ((FillPath(core, world, SILHOUETTE),), Clip(path, world)) if core else None
    if ring is None:
        return []
    return [Soft(ring[0], glow_tint(i), sigma, (0.0, 0.0), i.opacity, i.blend, ring[1], glow_ramp(i))]


def _from_outside(path: Path, world: Affine, sigma: float, move: Point) -> tuple[tuple[Item, ...], Clip] | None:
    """All that lies round an outline as far as a soft silhouette of it reaches inside, and the inside."""
    box = path.bounds()
    if box is None:
        return None
    reach = (REACH * sigma + math.hypot(*move) + 2) / max(mean_scale(world), 1e-9)
    squeeze = uneven(world)
    if squeeze is not None:  # one direction may be squeezed far below the mean
        a, b, c, d = squeeze[:4]
        narrow = abs(a * d - b * c) / max(math.hypot(a, b), math.hypot(c, d), 1e-9)
        reach *= mean_scale(squeeze) / max(narrow, 1e-3)
    reach = 2.0 ** math.ceil(math.log2(max(reach, 1e-3)))
    key = (id(path), world, reach)
    hit = _rings.get(key)
    if hit is None:
        ring = derived(path, ("round", reach), lambda: _ring_round(path, grow_box(box, reach)))
        made = (FillPath(ring, world, SILHOUETTE),), Clip(path, world)
        hit = _rings.put(key, path, made)
    return hit


def _ring_round(path: Path, box: Box) -> Path:
    """A box without what lies inside an outline."""
    l, t, r, b = box
    flat = path
    if not path.evenodd:
        with suppress(PathOpError):  # too large or too small to be cut: then as it is
            flat = cleaned(path)
    return Path((*rectangle(l, t, r - l, b - t).contours, *flat.contours), True)


def shrunk(path: Path, by: float, world: Affine) -> Path:
    """An outline set in by some units; half as far, or less, where nothing would be left."""

    def make() -> Path:
        for share in (1.0, 0.5, 0.2, 0.0):
            with suppress(PathOpError):
                made = _even(path, world, lambda p, k, s=share: offset(p, -by * k * s))  # type: ignore[misc]
                if made:
                    return made
        return Path()

    return derived(path, ("in", by, uneven(world)), make)


def _even(path: Path, world: Affine, change: Callable[[Path, float], Path]) -> Path:
    """A change of an outline made where its place keeps angles; it is told how much larger lengths are there."""
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    if squeeze is None or back is None:
        return change(path, 1.0)
    return change(path.transformed(squeeze), mean_scale(squeeze)).transformed(back)


@draws_over(Rim)
def inner_rim(i: Rim, at: Over) -> list[Item]:
    """A band of one colour along the inside of an edge."""
    if not i.inside:
        return []
    path, world = at.path, at.world

    def band(p: Path, k: float) -> Path:
        return in_cubics(combine(p, outline_of_line(p, 2 * abs(i.distance) * k, "butt", i.join, 4.0), "intersect"))

    try:
        made = derived(path, ("band", i.distance, i.join, uneven(world)), lambda: _even(path, world, band))
    except PathOpError:
        return []
    return [FillPath(made, world, Solid(i.colour), i.opacity)] if made else []


@draws_over(Speckle)
def speckle(i: Speckle, at: Over) -> list[Item]:
    """Grain over an outline: middle grey, which the overlay modes leave as it is, made uneven."""
    path, world = at.path, at.world
    paint = Solid(_GREY, grain=Grain(i.amount, i.size, i.mono, i.seed))
    return [FillPath(path, world, paint, 1.0, i.blend)] if path else []


@draws_over(Relief)
def relief(i: Relief, at: Over) -> list[Item]:
    """The shade and the light of a relief, worked out where the outline's place keeps angles."""
    path, world, lights = at.path, at.world, i.lights or at.light.lights
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    place, scale = world, 1.0
    if squeeze is not None and back is not None:
        path = derived(path, ("squeezed", squeeze), partial(path.transformed, squeeze))
        place, scale = multiply(world, back), mean_scale(squeeze)
    shown = path
    if i.place != "inside":
        reach = i.width * scale * (1.0 if i.place == "outside" else 0.5)
        shown = _grown(path, reach)
    lamps = tuple(lit_from(lamp, place) for lamp in (lights.key, *lights.others))
    common = {
        "lights": lamps, "place": i.place, "profile": i.profile, "drawn": i.drawn, "sunk": i.sunk,
        "width": max(i.width, 0.0) * scale, "height": i.height, "soften": i.soften * scale, "gloss": i.gloss,
        "shininess": i.shininess, "ambient": lights.ambient.strength * 0.5,
    }  # fmt: skip
    shade = ReliefPaint("shade", **common, colour=i.shade)  # type: ignore[arg-type]
    light = ReliefPaint("light", **common, colour=i.light)  # type: ignore[arg-type]
    return [
        FillPath(shown, place, shade, i.shade_opacity, "multiply", path),
        FillPath(shown, place, light, i.light_opacity, "screen", path),
    ]


def _grown(path: Path, by: float) -> Path:
    def make() -> Path:
        try:
            return offset(path, by)
        except PathOpError:
            return path

    return derived(path, ("out", by), make)


def lit_from(lamp: Lamp, place: Affine) -> LitFrom:
    """A lamp in the coordinates of something at ``place``, which keeps angles."""
    return LitFrom(*towards(lamp, place), lamp.strength, lamp.colour)
