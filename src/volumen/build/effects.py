"""Light ingredients as drawing instructions: shadows, glows and relief, behind an outline and inside it."""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from functools import lru_cache, partial

import numpy as np
from msgspec.structs import replace

from volumen.build.bounds import REACH, items_box
from volumen.build.keeping import identity_cache
from volumen.build.outline import kept, remember, uneven
from volumen.build.picture import Clip, FillPath, Item, Soft, StrokePath
from volumen.build.silhouette import SILHOUETTE, silhouette
from volumen.geometry.affine import IDENTITY, Affine, Point, invert, mean_scale, multiply, scaling
from volumen.geometry.boolean import cleaned
from volumen.geometry.ease import EVEN, Ease, eased_all
from volumen.geometry.engine import PathOpError, combine, outline_of_line
from volumen.geometry.engine_form import in_cubics
from volumen.geometry.offset import offset
from volumen.geometry.path import Box, Path, grow_box
from volumen.geometry.primitives import ellipse, rectangle
from volumen.model.ingredients import (
    CastShadow,
    ContactShadow,
    GroundGlow,
    InnerGlow,
    InnerShadow,
    OuterGlow,
    Relief,
    Rim,
    Speckle,
)
from volumen.model.lengths import lift_on_sheet
from volumen.model.nodes import Node, Shape
from volumen.shading.lamp import Lamp, Lights, bearing_vector, shadow_factor, shadow_offset, shadow_sigma
from volumen.shading.paint import Colour, Grain, LitFrom, Radial, ReliefPaint, Solid, Stop
from volumen.shading.ramp import ramp
from volumen.shading.tones import towards

Others = dict[int, tuple[Shape, Affine]]
RAMP = 33  # colours of a glow's ramp
_GREY = Colour(0.5, 0.5, 0.5)
_FOOT = 0.12  # how flat the shadow under the foot of a standing thing is
_glows: OrderedDict[object, tuple[object, Soft]] = identity_cache()
_MOST_GLOWS = 2000
_rings: OrderedDict[object, tuple[object, tuple[tuple[Item, ...], Clip]]] = identity_cache()
_MOST_RINGS = 2000
_parts: OrderedDict[object, tuple[object, tuple[Path, ...]]] = identity_cache()


# -- behind the outline


def shadow_item(
    node: Node, i: CastShadow, world: Affine, lamp: Lamp, beneath: Colour, clip: Clip | None
) -> Soft | None:
    """The cast shadow of a node, in the place and softness that its lift and the lamp give."""
    items = silhouette(node, world)
    if not items:
        return None
    away = lamp.away if i.angle is None else bearing_vector(i.angle)
    scale, lift = mean_scale(world), lift_on_sheet(node, world)
    far = i.length * scale if i.length is not None else math.hypot(*shadow_offset(lamp, lift))
    sigma = max(i.softness, 0.0) * scale if i.softness is not None else shadow_sigma(lamp, lift)
    move = (away[0] * far, away[1] * far)
    if i.fall == "ground":
        items = laid_on_ground(items, lamp, away)
    elif i.squash != 1:
        items = _squashed(items, i.squash)
    tint = i.colour or shadow_factor(beneath, 1.0)
    return Soft(items, tint, sigma, move, i.opacity * node.opacity, i.blend, clip)


def apart(paths: tuple[Path, ...], places: tuple[Affine, ...]) -> tuple[Path, ...]:
    """Outlines on the sheet, each without what the ones before it cover."""
    key = (tuple(map(id, paths)), places)
    hit = _parts.get(key)
    if hit is not None:
        return hit[1]
    made: list[Path] = []
    before = Path()
    for path, place in zip(paths, places, strict=True):
        on_sheet = path.transformed(place)
        try:
            made.append(combine(on_sheet, before, "subtract") if before else on_sheet)
            before = combine(before, on_sheet, "union") if before else on_sheet
        except PathOpError:  # then they overlap
            made.append(on_sheet)
    return remember(_parts, key, paths, tuple(made))


def laid_on_ground(items: tuple[Item, ...], lamp: Lamp, away: Point) -> tuple[Item, ...]:
    """A standing silhouette laid on the ground from its foot: what stands h high falls h cot(lamp height) far."""
    box = items_box(items)
    if box is None:
        return items
    foot, reach = box[3], 1 / math.tan(lamp.elevation)
    dx, dy = away[0] * reach, away[1] * reach
    # (x, foot - h) goes to (x + h dx, foot + h dy)
    return _mapped(items, (1.0, 0.0, -dx, -dy, foot * dx, foot * (1 + dy)))


def _squashed(items: tuple[Item, ...], squash: float) -> tuple[Item, ...]:
    box = items_box(items)
    if box is None:
        return items
    flat = scaling(1, squash, ((box[0] + box[2]) / 2, box[3]))
    return _mapped(items, flat)


def _mapped(items: tuple[Item, ...], by: Affine) -> tuple[Item, ...]:
    out: list[Item] = []
    for item in items:
        if isinstance(item, FillPath):
            out.append(FillPath(item.path, multiply(by, item.transform), item.paint))
        elif isinstance(item, StrokePath):
            out.append(replace(item, transform=multiply(by, item.transform)))
    return tuple(out)


def contact_item(node: Node, i: ContactShadow, world: Affine, lamp: Lamp, beneath: Colour) -> Soft | None:
    """The seam of shadow where a node touches what it lies on."""
    items = silhouette(node, world)
    if not items:
        return None
    size = max(i.size, 0.0) * mean_scale(world)
    if i.foot:
        items = _squashed(items, _FOOT)
    move = (0.0, size * 0.3) if i.foot else (lamp.away[0] * size * 0.6, lamp.away[1] * size * 0.6)
    return Soft(items, i.colour or shadow_factor(beneath, 1.0), size, move, i.opacity * node.opacity, i.blend)


def glow_item(node: Node, i: OuterGlow, world: Affine) -> Soft | None:
    """The light around a node."""
    items = silhouette(node, world, max(i.spread, 0.0) * mean_scale(world))
    if not items:
        return None
    key = (id(items), id(i), node.opacity)
    hit = _glows.get(key)
    if hit is not None:
        return hit[1]
    sigma = max(i.size, 0.0) * mean_scale(world)
    made = Soft(items, _tint(i), sigma, (0.0, 0.0), i.opacity * node.opacity, i.blend, ramp=glow_ramp(i))
    return remember(_glows, key, (items, i), made, _MOST_GLOWS)


def _tint(glow: OuterGlow | InnerGlow) -> Colour:
    """The colour of a glow, or the one that stands for its gradient."""
    return glow.stops[0].colour.with_alpha(1.0) if glow.stops else glow.colour


Ramp = tuple[tuple[float, float, float, float], ...]


def glow_ramp(glow: OuterGlow | InnerGlow) -> Ramp:
    """Straight colours by the strength of a blurred silhouette; nothing for a glow of one colour that fades evenly.

    Outside an edge the strength falls from one half to nothing, so the colours run over that half.
    """
    if not glow.stops and glow.falloff == EVEN:
        return ()
    return _glow_ramp(glow.stops or (Stop(0.0, glow.colour.with_alpha(1.0)),), glow.falloff)


@lru_cache(maxsize=256)
def _glow_ramp(stops: tuple[Stop, ...], falloff: Ease) -> Ramp:
    t = np.linspace(0, 1, RAMP)
    rows = ramp(stops, 1 - np.clip(2 * t, 0, 1))
    rows[:, 3] *= eased_all(t, falloff)
    return tuple(tuple(row) for row in rows.tolist())


def ground_glow_item(node: Node, i: GroundGlow, world: Affine) -> FillPath | None:
    """A pool of light below the foot of a node, fading to nothing."""
    box = items_box(silhouette(node, world))
    if box is None:
        return None
    return _pool_of_light(i, box, node.opacity)


@lru_cache(maxsize=256)
def _pool_of_light(i: GroundGlow, box: Box, opacity: float) -> FillPath:
    """The same object while it stays the same: a turning lamp does not move it."""
    size = box[2] - box[0]
    rx, ry = max(size * i.width / 2, 1e-6), max(size * i.height / 2, 1e-6)
    x, y = (box[0] + box[2]) / 2, box[3]
    alpha = (1.0, 0.62, 0.28, 0.08, 0.0)
    stops = tuple(Stop(k / 4, i.colour.with_alpha(i.colour.a * a)) for k, a in enumerate(alpha))
    paint = Radial(stops, (0.0, 0.0), 1.0, (0.0, 0.0), (rx, 0.0, 0.0, ry, x, y))
    return FillPath(ellipse(x, y, rx, ry), IDENTITY, paint, i.opacity * opacity, i.blend)


# -- inside the outline


def inner_shadow(i: InnerShadow, path: Path, world: Affine, lamp: Lamp, base: Colour) -> list[Item]:
    """What the rim throws into a shape that lies ``depth`` below it."""
    if i.angle is None:
        move = shadow_offset(lamp, i.depth)
    else:
        x, y = bearing_vector(i.angle)
        far = math.hypot(*shadow_offset(lamp, i.depth))
        move = (-x * far, -y * far)  # the side that lies in shadow is the one it comes from
    scale = mean_scale(world)
    move = (move[0] * scale, move[1] * scale)
    sigma = (max(i.softness, 0.0) if i.softness is not None else shadow_sigma(lamp, i.depth)) * scale
    tint = i.colour or shadow_factor(base, 1.0)
    ring = _from_outside(path, world, sigma, move)
    return [Soft(ring[0], tint, sigma, move, i.opacity, i.blend, ring[1])] if ring else []


def inner_glow(i: InnerGlow, path: Path, world: Affine) -> list[Item]:
    """Light from the edge inwards, or from the middle outwards."""
    sigma = max(i.size, 0.0) * mean_scale(world)
    if i.source == "edge":
        ring = _from_outside(path, world, sigma, (0.0, 0.0))
    else:
        core = shrunk(path, max(i.size, 0.0), world)
        ring = ((FillPath(core, world, SILHOUETTE),), Clip(path, world)) if core else None
    if ring is None:
        return []
    return [Soft(ring[0], _tint(i), sigma, (0.0, 0.0), i.opacity, i.blend, ring[1], glow_ramp(i))]


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
        ring = kept(path, ("round", reach), lambda: _ring_round(path, grow_box(box, reach)))
        made = (FillPath(ring, world, SILHOUETTE),), Clip(path, world)
        hit = (path, remember(_rings, key, path, made, _MOST_RINGS))
    return hit[1]


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

    return kept(path, ("in", by, uneven(world)), make)


def _even(path: Path, world: Affine, change: Callable[[Path, float], Path]) -> Path:
    """A change of an outline made where its place keeps angles; it is told how much larger lengths are there."""
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    if squeeze is None or back is None:
        return change(path, 1.0)
    return change(path.transformed(squeeze), mean_scale(squeeze)).transformed(back)


def inner_rim(i: Rim, path: Path, world: Affine) -> list[Item]:
    """A band of one colour along the inside of an edge."""

    def band(p: Path, k: float) -> Path:
        return in_cubics(combine(p, outline_of_line(p, 2 * abs(i.distance) * k, "butt", i.join, 4.0), "intersect"))

    try:
        made = kept(path, ("band", i.distance, i.join, uneven(world)), lambda: _even(path, world, band))
    except PathOpError:
        return []
    return [FillPath(made, world, Solid(i.colour), i.opacity)] if made else []


def speckle(i: Speckle, path: Path, world: Affine) -> list[Item]:
    """Grain over an outline: middle grey, which the overlay modes leave as it is, made uneven."""
    paint = Solid(_GREY, grain=Grain(i.amount, i.size, i.mono, i.seed))
    return [FillPath(path, world, paint, 1.0, i.blend)] if path else []


def relief(i: Relief, path: Path, world: Affine, lights: Lights) -> list[Item]:
    """The shade and the light of a relief, worked out where the outline's place keeps angles."""
    squeeze = uneven(world)
    back = invert(squeeze) if squeeze is not None else None
    place, scale = world, 1.0
    if squeeze is not None and back is not None:
        path = kept(path, ("squeezed", squeeze), partial(path.transformed, squeeze))
        place, scale = multiply(world, back), mean_scale(squeeze)
    shown = path
    if i.place != "inside":
        reach = i.width * scale * (1.0 if i.place == "outside" else 0.5)
        shown = _grown(path, reach)
    lights = i.lights or lights
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

    return kept(path, ("out", by), make)


def lit_from(lamp: Lamp, place: Affine) -> LitFrom:
    """A lamp in the coordinates of something at ``place``, which keeps angles."""
    return LitFrom(*towards(lamp, place), lamp.strength, lamp.colour)
