"""What lies behind an outline: shadows and glows."""

from __future__ import annotations

import math

import numpy as np
from msgspec.structs import replace
from scipy.special import ndtri

from volumen.caching import Cache, by_value
from volumen.compose.drawing import Behind, draws_behind
from volumen.compose.glows import RAMP, Ramp, glow_ramp, glow_tint
from volumen.compose.shadow_tint import shadow_tint
from volumen.geometry.affine import IDENTITY, Affine, Point, mean_scale, multiply, scaling
from volumen.geometry.engine import PathOpError, combine
from volumen.geometry.path import Box, Path, grow_box, union_box
from volumen.geometry.primitives import ellipse
from volumen.model.ingredients import CastShadow, ContactShadow, GroundGlow, Occlusion, OuterGlow
from volumen.model.lengths import lift_on_sheet
from volumen.outline.boxes import placed_box
from volumen.outline.silhouettes import SILHOUETTE, silhouette
from volumen.picture.instructions import FillPath, Item, Soft, StrokePath
from volumen.shading.lamp import Lamp, bearing_vector, shadow_factor, shadow_offset, shadow_reach, shadow_sigma
from volumen.shading.paint import Colour, Radial, Stop
from volumen.shading.shade import shaded

_FOOT = 0.12  # how flat the shadow under the foot of a standing thing is
_DEEP = 0.2  # how deep a standing thing is, of its width

_glows: Cache[Soft] = Cache("outer glows", 2000)

_parts: Cache[tuple[Path, ...]] = Cache("shown parts of receivers")


@draws_behind(CastShadow)
def cast_shadow(i: CastShadow, at: Behind) -> list[Item]:
    """The cast shadow of a node, in the place, softness and strength that its lift and the lamp give; one on each
    receiver, from the key lamp and each other one that throws shadows."""
    items = silhouette(at.node, at.world)
    if not items:
        return []
    lamps = [at.lamp, *(lamp for lamp in at.lights.others if lamp.throws and i.angle is None)]
    return [soft for lamp in lamps if lamp.strength > 0 for soft in _thrown(i, at, items, lamp)]


def _thrown(i: CastShadow, at: Behind, items: tuple[Item, ...], lamp: Lamp) -> list[Item]:
    """The shadow that one lamp throws, on each receiver."""
    scale, lift = mean_scale(at.world), lift_on_sheet(at.node, at.world)
    away = lamp.away if i.angle is None else bearing_vector(i.angle)
    far = i.length * scale if i.length is not None else math.hypot(*shadow_offset(lamp, lift))
    sigma = max(i.softness, 0.0) * scale if i.softness is not None else shadow_sigma(lamp, lift)
    move = (away[0] * far, away[1] * far)
    if i.fall == "ground":
        items = laid_on_ground(items, lamp, away, i.squash)
    elif i.squash != 1:
        items = _squashed(items, i.squash)
    made: list[Item] = []
    for beneath, clip in at.receivers if i.receivers else [(at.beneath, None)]:
        tint, share = shaded(i.colour or shadow_tint(at.node, beneath, at.materials), at.lights, lamp, i.colour is None)
        made.append(Soft(items, tint, sigma, move, i.opacity * at.node.opacity * share, i.blend, clip))
    return made


def apart(paths: tuple[Path, ...], places: tuple[Affine, ...]) -> tuple[Path, ...]:
    """Outlines on the sheet, each without what the ones before it cover."""
    key = (tuple(map(id, paths)), places)
    hit = _parts.get(key)
    if hit is not None:
        return hit
    made: list[Path] = []
    before = Path()
    for path, place in zip(paths, places, strict=True):
        on_sheet = path.transformed(place)
        try:
            made.append(combine(on_sheet, before, "subtract") if before else on_sheet)
            before = combine(before, on_sheet, "union") if before else on_sheet
        except PathOpError:  # then they overlap
            made.append(on_sheet)
    return _parts.put(key, paths, tuple(made))


@draws_behind(ContactShadow)
def contact_shadow(i: ContactShadow, at: Behind) -> list[Item]:
    """The seam of shadow where a node touches what it lies on."""
    items = silhouette(at.node, at.world)
    if not items:
        return []
    size = max(i.size, 0.0) * mean_scale(at.world)
    if i.foot:
        items = _squashed(items, _FOOT)
    move = (0.0, size * 0.3) if i.foot else (at.lamp.away[0] * size * 0.6, at.lamp.away[1] * size * 0.6)
    tint = i.colour or shadow_factor(at.beneath, 1.0)
    return [Soft(items, tint, size, move, i.opacity * at.node.opacity, i.blend)]


@draws_behind(Occlusion)
def occlusion(i: Occlusion, at: Behind) -> list[Item]:
    """What a sheet that stands ``reach`` high takes away of the light that comes from all round."""
    items = silhouette(at.node, at.world)
    reach = lift_on_sheet(at.node, at.world) if i.reach is None else i.reach * mean_scale(at.world)
    if not items or reach <= 0:
        return []
    tint = i.colour or shadow_factor(at.beneath, 1.0)
    return [Soft(items, tint, reach, (0.0, 0.0), i.opacity * at.node.opacity, i.blend, ramp=occluded(tint))]


@by_value("occlusion ramps", 256)
def occluded(tint: Colour) -> Ramp:
    """How much light is missing beside a sheet, by the strength b of its silhouette blurred by its height z.

    At the distance d outside a straight edge b = Φ(-d / z), and the form factor of the half-plane above for a cosine
    weighted sky is (1 - (d / z) / √(1 + (d / z)²)) / 2.
    """
    b = np.linspace(0, 1, RAMP)
    far = -ndtri(np.clip(b, 1e-9, 1 - 1e-9))
    missing = (1 - far / np.sqrt(1 + far**2)) / 2
    missing[0] = 0.0
    return tuple((*tint.rgb, float(a)) for a in missing)


@draws_behind(OuterGlow)
def outer_glow(i: OuterGlow, at: Behind) -> list[Item]:
    """The light around a node."""
    items = silhouette(at.node, at.world, max(i.spread, 0.0) * mean_scale(at.world))
    if not items:
        return []
    key = (id(items), id(i), at.node.opacity)
    hit = _glows.get(key)
    if hit is not None:
        return [hit]
    sigma = max(i.size, 0.0) * mean_scale(at.world)
    made = Soft(items, glow_tint(i), sigma, (0.0, 0.0), i.opacity * at.node.opacity, i.blend, ramp=glow_ramp(i))
    return [_glows.put(key, (items, i), made)]


@draws_behind(GroundGlow)
def ground_glow(i: GroundGlow, at: Behind) -> list[Item]:
    """A pool of light below the foot of a node, fading to nothing."""
    box = _standing_box(silhouette(at.node, at.world))
    if box is None:
        return []
    return [_pool_of_light(i, box, at.node.opacity)]


@by_value("pool of light", 256)
def _pool_of_light(i: GroundGlow, box: Box, opacity: float) -> FillPath:
    """The same object while it stays the same: a turning lamp does not move it."""
    size = box[2] - box[0]
    rx, ry = max(size * i.width / 2, 1e-6), max(size * i.height / 2, 1e-6)
    x, y = (box[0] + box[2]) / 2, box[3]
    alpha = (1.0, 0.62, 0.28, 0.08, 0.0)
    stops = tuple(Stop(k / 4, i.colour.with_alpha(i.colour.a * a)) for k, a in enumerate(alpha))
    paint = Radial(stops, (0.0, 0.0), 1.0, (0.0, 0.0), (rx, 0.0, 0.0, ry, x, y))
    return FillPath(ellipse(x, y, rx, ry), IDENTITY, paint, i.opacity * opacity, i.blend)


def laid_on_ground(items: tuple[Item, ...], lamp: Lamp, away: Point, squash: float = 1.0) -> tuple[Item, ...]:
    """A standing silhouette laid on the ground from its foot: what stands h high falls h cot(lamp height) far.

    ``squash`` is how flat the ground is seen. Things are not thin as paper: from the side their shadow is a band.
    """
    box = _standing_box(items)
    if box is None:
        return items
    foot, reach = box[3], shadow_reach(lamp)
    dx, dy = away[0] * reach, away[1] * reach * squash
    # (x, foot - h) goes to (x + h dx, foot + h dy)
    laid = _mapped(items, (1.0, 0.0, -dx, -dy, foot * dx, foot * (1 + dy)))
    thick = _DEEP * (box[2] - box[0]) * abs(away[0]) * squash
    if thick <= 0:
        return laid
    outlines = [item.path.transformed(item.transform) for item in laid if isinstance(item, FillPath)]
    return (*laid, *(StrokePath(path, IDENTITY, SILHOUETTE, thick, "round", "round") for path in outlines))


def _standing_box(items: tuple[Item, ...]) -> Box | None:
    """The tight box of a silhouette: its lower side is the foot that a thing stands on, however it is turned."""
    boxes = []
    for item in items:
        if isinstance(item, FillPath | StrokePath):
            box = placed_box(item.path, item.transform)
            wide = item.width / 2 * mean_scale(item.transform) if isinstance(item, StrokePath) else 0.0
            boxes.append(grow_box(box, wide) if box is not None else None)
    return union_box(boxes)


def _squashed(items: tuple[Item, ...], squash: float) -> tuple[Item, ...]:
    box = _standing_box(items)
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
