"""Shadows by height: what the sheets that lie higher throw on each sheet, under the lamps.

The shadow of a sheet lies cot(height of the lamp) times the depth away and is as soft as depth times size of the lamp:
it breaks at the edge of what it falls on and lies farther and softer on the next one down. One light is taken away
once: the shadows on a sheet are one layer, in which they are united.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from operator import attrgetter
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace

from volumen.caching import Cache
from volumen.compose.behind import occluded
from volumen.compose.face import base_colour
from volumen.compose.heights import GROUND, Heights, Standing, casts
from volumen.compose.light import Light
from volumen.compose.shadow_tint import lets_through, shadow_tint
from volumen.geometry.affine import Affine, Point, mean_scale
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Box, Path, transform_box
from volumen.model.ingredients import BlendMode, CastShadow, Line, Occlusion, Rim
from volumen.model.nodes import Node, Shape
from volumen.outline.outlines import outline, pieces
from volumen.outline.silhouettes import silhouette, silhouette_path, whole_outline
from volumen.picture.bounds import REACH
from volumen.picture.instructions import Clip, Item, Layer, Soft
from volumen.shading.lamp import Lamp, Lights, bearing_vector, shadow_factor, shadow_reach
from volumen.shading.paint import Colour
from volumen.shading.shade import shaded

_clips: Cache[Clip] = Cache("outlines that catch shadows", 5000)
_outlines: Cache[Path] = Cache("outlines with their lines", 5000)
_held: Cache[tuple[Clip | None]] = Cache("what holds the shadows on sheets", 5000)


class Throw(NamedTuple):
    """What one lamp throws by one ingredient of sheet ``number``, a ``node``: ``far`` is how far the shadow lies,
    ``soft`` how soft it is for each unit of depth. Light from all round is kept away as far as the sheet is high."""

    number: int
    node: Node
    ingredient: CastShadow | Occlusion
    lamp: Lamp
    lights: Lights
    away: Point
    far: float
    soft: float
    items: tuple[Item, ...]
    clear: bool = False  # lets light through in its colour


class Part(NamedTuple):
    """A shadow as it falls on one sheet, as strong as ``opacity``."""

    throw: Throw
    sigma: float
    move: Point
    box: Box
    tint: Colour
    opacity: float


class Shade(NamedTuple):
    """What falls on a sheet, and its box on the sheet."""

    items: tuple[Item, ...]
    box: Box


Kept = dict[object, tuple[object, Item]]  # items by what they are made of, with what that names


class Falling:
    """The shadows between sheets under the lamps of a document. ``kept`` is what the last composition made: what stays
    the same stays the same object."""

    def __init__(self, heights: Heights, light: Light, ground: Colour, kept: Kept | None = None) -> None:
        self.heights, self.light = heights, light
        self.before: Kept = kept or {}
        self.kept: Kept = {}
        self.colours = {GROUND: ground}
        self.tints: dict[tuple[int, object], tuple[Colour, float]] = {}

    def shades(self) -> dict[int | None, Shade]:
        """The shade on each sheet that has some, by the id of its object; the ground's is under None."""
        out: dict[int | None, Shade] = {}
        for receiver, parts in self.by_receiver(self.heights.falls.of).items():
            standing = self.heights.standing[receiver]
            clip = clip_of(standing) if standing is not None else None
            if standing is not None and clip is None:
                continue
            l, t, r, b = zip(*(p.box for p in parts), strict=True)
            box = (min(l), min(t), max(r), max(b))
            held = clip.path.hull() if clip is not None else None
            if clip is not None and held is not None:
                x, y, u, v = transform_box(held, clip.transform)
                box = (max(box[0], x), max(box[1], y), min(box[2], u), min(box[3], v))
            if box[0] < box[2] and box[1] < box[3]:
                items = tuple([item for _, item in self.grouped(parts, clip)])
                out[None if standing is None else standing.node.id] = Shade(items, box)
        return out

    def by_receiver(self, casters: Iterable[int], from_within: bool = False) -> dict[int, list[Part]]:
        """The shadows that some sheets throw, by the number of the sheet that they fall on. Those of what lies in
        something faded are as faint; not so ``from_within`` it, where they fade with it."""
        out: dict[int, list[Part]] = {}
        for receiver, part in self._parts([t for number in casters for t in self._throws(number)], from_within):
            out.setdefault(receiver, []).append(part)
        return out

    def grouped(self, parts: list[Part], clip: Clip | None) -> list[tuple[list[Part], Item]]:
        """What falls on one sheet, held inside its outline: the shadows of one tint united."""
        groups: dict[tuple[Colour, BlendMode, int], list[Part]] = {}
        for part in parts:
            i = part.throw.ingredient
            alone = id(part) if isinstance(i, Occlusion) else 0  # what fades in a way of its own is not united
            groups.setdefault((part.tint, i.blend, alone), []).append(part)
        order = sorted(groups, key=lambda key: (key[1], key[0].rgb))  # the same whichever of them are seen
        return [(groups[key], self._item(key[0], key[1], groups[key], clip)) for key in order]

    def _throws(self, number: int) -> list[Throw]:
        """What the lamps throw of one sheet."""
        standing = self.heights.standing[number]
        assert standing is not None
        lights = self.light.lights
        if standing.lamp is not None:
            lights = replace(lights, key=standing.lamp)
        scale = mean_scale(standing.world) / standing.lift
        items = silhouette(standing.node, standing.world)
        clear = lets_through(standing.node, self.light.materials)
        out: list[Throw] = []
        for i in casts(standing.node):
            if isinstance(i, Occlusion):
                out.append(Throw(number, standing.node, i, lights.key, lights, (0.0, 0.0), 0.0, 1.0, items))
                continue
            for lamp in (lights.key, *(lamp for lamp in lights.others if lamp.throws and i.angle is None)):
                if lamp.strength > 0:  # lengths and softness of its own are those at the depth of its lift
                    away = lamp.away if i.angle is None else bearing_vector(i.angle)
                    far = i.length * scale if i.length is not None else shadow_reach(lamp)
                    soft = max(i.softness, 0.0) * scale if i.softness is not None else max(lamp.size, 0.0)
                    shines = clear and i.colour is None
                    out.append(Throw(number, standing.node, i, lamp, lights, away, far, soft, items, shines))
        return out

    def _parts(self, throws: list[Throw], from_within: bool) -> Iterator[tuple[int, Part]]:
        """The shadows of some sheets where they may be seen, each with the number of the sheet that it falls on."""
        if not throws:
            return
        falls = self.heights.falls
        ranges = [falls.of[t.number] for t in throws]
        pairs = np.concatenate([np.arange(r.start, r.stop) for r in ranges])
        by = np.repeat(np.arange(len(throws)), [r.stop - r.start for r in ranges])
        ways = np.array([(*t.away, t.far, t.soft) for t in throws])[by]
        depths, seen = falls.depths[pairs], self.heights.seen[falls.receivers[pairs]]
        moves = ways[:, :2] * (ways[:, 2] * depths)[:, None]
        sigmas = ways[:, 3] * depths
        boxes = self.heights.boxes[falls.casters[pairs]] + np.tile(moves, 2)
        boxes[:, :2] -= REACH * sigmas[:, None]
        boxes[:, 2:] += REACH * sigmas[:, None]
        meets = np.flatnonzero(np.all(boxes[:, :2] < seen[:, 2:], axis=1) & np.all(seen[:, :2] < boxes[:, 2:], axis=1))
        sight = self.heights.sight
        # of what is frozen more may be seen when things move
        if sight is not None and not (from_within or self.heights.moving):
            places = falls.casters[pairs[meets]], falls.receivers[pairs[meets]]
            meets = meets[sight.seen(*places, moves[meets], REACH * sigmas[meets])]
        standing = self.heights.standing
        opacities = [t.ingredient.opacity * t.node.opacity for t in throws]
        helds = [getattr(t.ingredient, "receivers", ()) for t in throws]
        fades = [not from_within and (s := standing[t.number]) is not None and bool(s.faded) for t in throws]
        kinds = [self._kind(t) for t in throws]
        for t, receiver, sigma, move, box in zip(
            by[meets].tolist(), falls.receivers[pairs[meets]].tolist(), sigmas[meets].tolist(), moves[meets].tolist(),
            boxes[meets].tolist(), strict=True,
        ):  # fmt: skip
            if helds[t] and ((on := standing[receiver]) is None or on.node.id not in helds[t]):
                continue
            tint, share = self.tints.get((receiver, kinds[t])) or self._tint(receiver, throws[t], kinds[t])
            if fades[t]:
                share *= self._faded(throws[t].number, receiver)
            if opacities[t] * share > 0:
                yield receiver, Part(throws[t], sigma, tuple(move), tuple(box), tint, opacities[t] * share)

    def _faded(self, caster: int, receiver: int) -> float:
        """How much of a shadow is left by all that the thing throwing it lies in and the sheet it falls on does not."""
        standing, on = self.heights.standing[caster], self.heights.standing[receiver]
        if standing is None or not standing.faded:
            return 1.0
        around = {n for n, _ in on.faded} | {on.node.id} if on is not None else set()
        return math.prod(opacity for n, opacity in standing.faded if n not in around)

    def _kind(self, throw: Throw) -> object:
        """What the tints of a throw on one sheet hang on."""
        lamp = id(throw.lamp) if isinstance(throw.ingredient, CastShadow) else None
        return (throw.ingredient.colour, lamp, throw.number if throw.clear else None)

    def _tint(self, receiver: int, throw: Throw, kind: object) -> tuple[Colour, float]:
        """The multiply colour of a shadow on a sheet, and its share of the opacity."""
        own = throw.ingredient.colour
        standing = self.heights.standing[receiver]
        if receiver not in self.colours and standing is not None:
            self.colours[receiver] = base_colour(standing.node)
        beneath = self.colours[receiver]
        tint = own or shadow_factor(beneath, 1.0)
        if throw.clear:
            tint = shadow_tint(throw.node, beneath, self.light.materials)
        cast = isinstance(throw.ingredient, CastShadow)
        hit = self.tints[receiver, kind] = shaded(tint, throw.lights, throw.lamp, own is None) if cast else (tint, 1.0)
        return hit

    def _item(self, tint: Colour, blend: BlendMode, parts: list[Part], clip: Clip | None) -> Item:
        """The shadows of one tint on one sheet: none is any darker for what lies elsewhere."""
        if len(parts) == 1:
            return self._soft(parts[0], parts[0].opacity, blend, clip)
        parts = sorted(parts, key=attrgetter("opacity"))
        most = parts[-1].opacity
        softs = tuple([self._soft(p, p.opacity / most) for p in parts])
        key = (tuple([id(s) for s in softs]), most, blend, id(clip))
        known = self.before.get(key) or ((softs, clip), Layer(softs, most, blend, clip, one_light=True))
        self.kept[key] = known
        return known[1]

    def _soft(self, p: Part, opacity: float, blend: BlendMode = "normal", clip: Clip | None = None) -> Soft:
        items = p.throw.items
        round_about = isinstance(p.throw.ingredient, Occlusion)
        thrower = p.throw.node.id
        key = (id(items), thrower, p.sigma, p.move, p.tint, opacity, blend, id(clip), round_about)
        known = self.before.get(key)
        if known is None:
            ramp = occluded(p.tint) if round_about else ()
            known = ((items, clip), Soft(items, p.tint, p.sigma, p.move, opacity, blend, clip, ramp, thrower))
        self.kept[key] = known
        assert isinstance(known[1], Soft)
        return known[1]


def clip_of(standing: Standing) -> Clip | None:
    """The outline of all that a sheet shows, which holds the shadows that fall on it; None if there is none."""
    known = _held.get(id(standing))  # while no object changes a sheet stands as it did
    return (known if known is not None else _held.put(id(standing), standing, (_clip_of(standing),)))[0]


def _clip_of(standing: Standing) -> Clip | None:
    path, place = _catching(standing.node, standing.world)
    if not path:
        return None
    key = (id(path), place)
    hit = _clips.get(key)
    return hit if hit is not None else _clips.put(key, path, Clip(path, place))


def _catching(node: Node, world: Affine) -> tuple[Path, Affine]:
    """An outline and its place."""
    if isinstance(node, Shape):
        if not any(isinstance(i, Line | Rim) and i.on for i in node.recipe) and not pieces(node, world):
            return outline(node, world), world
    elif not node.recipe:
        return whole_outline(node, world), world
    turn = (*world[:4], 0.0, 0.0)
    key = (id(node), turn)
    path = _outlines.get(key)
    if path is None:
        try:
            path = silhouette_path(node, turn)
        except PathOpError:
            path = whole_outline(node, world).transformed(turn)
        path = _outlines.put(key, node, path)
    return path, (1.0, 0.0, 0.0, 1.0, world[4], world[5])
