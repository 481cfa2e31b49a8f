"""Shadows by height: what the sheets that lie higher throw on each sheet, under the lamps.

The shadow of a sheet lies cot(height of the lamp) times the depth away and is as soft as depth times size of the lamp:
it breaks at the edge of what it falls on and lies farther and softer on the next one down. One light is taken away
once: the shadows on a sheet are one layer, in which they are united.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.compose.face import base_colour
from volumen.compose.heights import GROUND, Heights, Standing, casts
from volumen.compose.light import Light
from volumen.geometry.affine import Affine, Floats, Point, mean_scale
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Path
from volumen.model.ingredients import BlendMode, CastShadow, Line, Rim
from volumen.model.nodes import Node, Shape
from volumen.outline.outlines import outline, pieces
from volumen.outline.silhouettes import silhouette, silhouette_path, whole_outline
from volumen.picture.bounds import REACH
from volumen.picture.instructions import Clip, Item, Layer, Soft
from volumen.shading.lamp import Lamp, Lights, bearing_vector, shadow_factor
from volumen.shading.paint import Colour
from volumen.shading.shade import shaded

_softs: Cache[Soft] = Cache("shadows by height", 20_000)
_layers: Cache[Layer] = Cache("shade on sheets", 5000)
_clips: Cache[Clip] = Cache("outlines that catch shadows", 5000)
_outlines: Cache[Path] = Cache("outlines with their lines", 5000)
_WHITE = Colour(1.0, 1.0, 1.0)


class Thrown(NamedTuple):
    """A shadow on sheet ``receiver``: white until its shade is ``tint``ed, as strong as ``opacity``."""

    ingredient: CastShadow
    receiver: int
    items: tuple[Item, ...]
    sigma: float
    move: Point
    tint: Colour
    opacity: float


class Falling:
    """The shadows between sheets under the lamps of a document."""

    def __init__(self, heights: Heights, light: Light, ground: Colour) -> None:
        self.heights, self.light = heights, light
        self.tints = {GROUND: ground}
        self.numbers = {s.node.id: n for n, s in enumerate(heights.standing) if s is not None}

    def shades(self) -> dict[int | None, tuple[Item, ...]]:
        """The shade on each sheet that has some, by the id of its object; the ground's is under None."""
        by_receiver: dict[int, dict[tuple[Colour, BlendMode], list[Thrown]]] = {}
        for number in self.heights.falls:
            for t in self._thrown(number):
                by_receiver.setdefault(t.receiver, {}).setdefault((t.tint, t.ingredient.blend), []).append(t)
        out: dict[int | None, tuple[Item, ...]] = {}
        for receiver, groups in by_receiver.items():
            standing = self.heights.standing[receiver]
            clip = clip_of(standing) if standing is not None else None
            if standing is not None and clip is None:
                continue
            layers = tuple(_layer(tint, blend, parts, clip) for (tint, blend), parts in groups.items())
            out[None if standing is None else standing.node.id] = layers
        return out

    def thrown_by(self, node_id: int) -> list[tuple[CastShadow, int, Soft]]:
        """The shadows of one object, each with its ingredient and the number of the sheet that it falls on."""
        number = self.numbers.get(node_id, GROUND)
        return [
            (t.ingredient, t.receiver, Soft(t.items, t.tint, t.sigma, t.move, t.opacity, t.ingredient.blend))
            for t in (self._thrown(number) if number in self.heights.falls else ())
        ]

    def _thrown(self, number: int) -> Iterator[Thrown]:
        standing, falls = self.heights.standing[number], self.heights.falls[number]
        box = self.heights.boxes[number]
        if standing is None or box is None or not len(falls.receivers):
            return
        lights = self.light.lights
        if standing.lamp is not None:
            lights = replace(lights, key=standing.lamp)
        items = silhouette(standing.node, standing.world)
        for i in casts(standing.node):
            lamps = [lights.key, *(lamp for lamp in lights.others if lamp.throws and i.angle is None)]
            for lamp in lamps:
                if lamp.strength > 0:
                    yield from self._from(lamp, lights, i, number, standing, items)

    def _from(
        self, lamp: Lamp, lights: Lights, i: CastShadow, number: int, standing: Standing, items: tuple[Item, ...]
    ) -> Iterator[Thrown]:  # fmt: skip
        """The shadows that one lamp throws by one ingredient, where they may be seen."""
        receivers, depths = self.heights.falls[number]
        scale = mean_scale(standing.world)
        away = lamp.away if i.angle is None else bearing_vector(i.angle)
        # Lengths and softness of its own are those at the depth of its lift.
        far = i.length * scale / standing.lift if i.length is not None else _cotangent(lamp)
        soft = max(i.softness, 0.0) * scale / standing.lift if i.softness is not None else max(lamp.size, 0.0)
        moves, sigmas = depths * far, depths * soft
        for k in self._reached(number, receivers, moves, sigmas, away):
            receiver = int(receivers[k])
            if i.receivers and (receiver == GROUND or self._id(receiver) not in i.receivers):
                continue
            tint, share = shaded(i.colour or self._tint(receiver), lights, lamp, i.colour is None)
            opacity = i.opacity * standing.node.opacity * share
            move = float(moves[k])
            if opacity > 0:
                yield Thrown(i, receiver, items, float(sigmas[k]), (away[0] * move, away[1] * move), tint, opacity)

    def _reached(
        self, number: int, receivers: NDArray[np.intp], moves: Floats, sigmas: Floats, away: Point
    ) -> list[int]:
        """Which of the receivers a shadow may reach where something of them is seen."""
        l, t, r, b = self.heights.boxes[number] or (0.0, 0.0, 0.0, 0.0)
        seen = self.heights.seen[receivers]
        x, y, grown = moves * away[0], moves * away[1], REACH * sigmas
        meets = (l + x - grown < seen[:, 2]) & (seen[:, 0] < r + x + grown)
        meets &= (t + y - grown < seen[:, 3]) & (seen[:, 1] < b + y + grown)
        return [int(k) for k in np.flatnonzero(meets)]

    def _id(self, number: int) -> int | None:
        standing = self.heights.standing[number]
        return standing.node.id if standing is not None else None

    def _tint(self, receiver: int) -> Colour:
        """The multiply colour of full shadow on a sheet."""
        colour = self.tints.get(receiver)
        if colour is None:
            standing = self.heights.standing[receiver]
            assert standing is not None
            colour = self.tints[receiver] = base_colour(standing.node)
        return shadow_factor(colour, 1.0)


def _cotangent(lamp: Lamp) -> float:
    return 1 / math.tan(lamp.elevation) if lamp.height < 90 else 0.0


def _layer(tint: Colour, blend: BlendMode, parts: list[Thrown], clip: Clip | None) -> Item:
    """The shadows of one tint on one sheet; the same object while they stay the same."""
    if len(parts) == 1:
        return _soft(parts[0], tint, parts[0].opacity, blend, clip)
    most = max(t.opacity for t in parts)
    softs = tuple([_soft(t, tint, t.opacity / most) for t in parts])
    key = (tuple([id(s) for s in softs]), round(most, 6), blend, id(clip))
    hit = _layers.get(key)
    return hit if hit is not None else _layers.put(key, (softs, clip), Layer(softs, most, blend, clip))


def _soft(t: Thrown, tint: Colour, opacity: float, blend: BlendMode = "normal", clip: Clip | None = None) -> Soft:
    place = (round(t.sigma, 4), round(t.move[0], 4), round(t.move[1], 4))
    key = (id(t.items), place, tint, round(opacity, 6), blend, id(clip))
    hit = _softs.get(key)
    if hit is None:
        hit = _softs.put(key, (t.items, clip), Soft(t.items, tint, t.sigma, t.move, opacity, blend, clip))
    return hit


def clip_of(standing: Standing) -> Clip | None:
    """The outline of all that a sheet shows, which holds the shadows that fall on it; None if there is none."""
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
