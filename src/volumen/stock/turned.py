"""Tins and jars on a table: bodies of revolution, traced through a distance field of their profile."""

from __future__ import annotations

import math
from collections.abc import Sequence

import cv2
import numpy as np

from volumen.stock.camera import Camera, table
from volumen.stock.fields import Field, enlarged, halved, mix, noise, rgb, step, unit
from volumen.stock.scene import Layer, Scene, slot_of
from volumen.stock.stocks import Table, Turned

_SEED = 31
_CELL = 0.006  # of the distance field
_LEFT, _FOOT, _COLUMNS, _ROWS = -0.32, -0.3, 320, 480  # where it begins, and its cells
_TRACE_STEPS = 56
_CLEAR = 0.42  # of the light is lost behind bare glass
_REFLECTOR = 0.24


class Revolved:
    """The solid of a profile, as a plane distance field over radius and height."""

    def __init__(self, body: Turned) -> None:
        self.body, self.x, self.z = body, body.x, body.z
        profile = np.array(body.profile, np.float64)
        both = np.r_[profile, profile[::-1] * [-1, 1]]
        corners = np.rint((both - [_LEFT, _FOOT]) / _CELL * 16).astype(np.int32)
        solid = np.zeros((_ROWS, _COLUMNS), np.uint8)
        cv2.fillPoly(solid, [corners], (1,), cv2.LINE_8, 4)
        inside, outside = (cv2.distanceTransform(m, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) for m in (solid, 1 - solid))
        distance = (np.where(solid > 0, 0.5 - inside, outside - 0.5) * _CELL).astype(np.float32)
        self.distance = cv2.GaussianBlur(distance, (0, 0), 1.3)
        self.across = (np.gradient(self.distance, axis=1) / _CELL).astype(np.float32)
        self.down = (np.gradient(self.distance, axis=0) / _CELL).astype(np.float32)
        self.top, self.radius = float(profile[:, 1].max()), float(profile[:, 0].max())

    def slices(self, count: int) -> list[tuple[float, float]]:
        """(height, radius) at so many heights."""
        out = []
        for high in np.linspace(0.03, self.top - 0.03, count):
            solid = np.where(self.distance[round((high - _FOOT) / _CELL)] < 0)[0]
            if len(solid):
                out.append((float(high), float(solid[-1] * _CELL + _LEFT)))
        return out

    def _read(self, what: Field, places: Field) -> Field:
        r = np.hypot(places[..., 0] - self.x, places[..., 2] - self.z)
        u, v = (r - _LEFT) / _CELL, (-places[..., 1] - _FOOT) / _CELL
        at = u.astype(np.float32), v.astype(np.float32)
        return np.asarray(cv2.remap(what, *at, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE))

    def far(self, places: Field) -> Field:
        """How far places are from the body; beyond the field the way back to it is added."""
        r = np.hypot(places[..., 0] - self.x, places[..., 2] - self.z)
        u, v = (r - _LEFT) / _CELL, (-places[..., 1] - _FOOT) / _CELL
        beyond = np.maximum(u - _COLUMNS + 1, 0) + np.maximum(v - _ROWS + 1, 0) + np.maximum(-v, 0)
        return np.asarray(self._read(self.distance, places) + beyond.astype(np.float32) * np.float32(_CELL * 0.7))

    def normal(self, places: Field) -> Field:
        """Unit normals (world)."""
        x, z = places[..., 0] - self.x, places[..., 2] - self.z
        r = np.maximum(np.hypot(x, z), 1e-4)
        out, up = self._read(self.across, places), self._read(self.down, places)
        return unit(np.dstack([out * x / r, -up, out * z / r]))

    def seen(self, camera: Camera) -> tuple[tuple[int, int, int, int], Field, Field, Field]:
        """The box of pixels that may show it; there the nearest place of each ray, the rays, and the cover: rays are
        marched by the distance, edges are smooth by the least distance in pixels."""
        turn = np.linspace(0, 2 * np.pi, 40)
        rims = [np.c_[self.x + self.radius * np.cos(turn), 0 * turn - high, self.z + self.radius * np.sin(turn)]
                for high in (0, self.top)]  # fmt: skip
        at = camera.pixels(np.concatenate(rims))
        low, high = at.min(0) - 4, at.max(0) + 4
        box = (
            max(int(low[0]), 0),
            max(int(low[1]), 0),
            min(int(high[0]), camera.width),
            min(int(high[1]), camera.height),
        )
        ways = camera.rays(box)
        middle = np.array([self.x, -self.top / 2, self.z], np.float32) - camera.at
        way = np.full(ways.shape[:2], np.linalg.norm(middle) - 2.0, np.float32)
        best, best_way = np.full_like(way, 9.0), way.copy()
        for _ in range(_TRACE_STEPS):
            far = self.far(camera.at + ways * way[..., None])
            pixels = far * camera.focal / way
            nearer = pixels < best
            best, best_way = np.where(nearer, pixels, best), np.where(nearer, way, best_way)
            way = np.minimum(way + np.where(far > 2e-4, far * 0.95, 0), 30)
        cover = np.clip(1.1 - np.maximum(best, 0), 0, 1).astype(np.float32)
        return box, np.asarray(camera.at + ways * best_way[..., None], np.float32), ways, cover


def past(bodies: Sequence[Revolved], places: Field, toward: Field, size: float, levels: int = 11) -> Field:
    """How much of the lamp places (world) see past bodies: a ray to it meets each of a few slices of a body; there the
    distance to the axis against the slice's radius decides, the edge widening with the way."""
    up = max(float(-toward[1]), 0.05)
    across, ahead, soft = (np.float32(v / up) for v in (toward[0], toward[2], 0.05 + 0.21 * size))
    # What is needed at a slice is linear in its height: all but that is worked out once.
    y = np.ascontiguousarray(places[..., 1])
    foot_x, foot_z, edge_0 = places[..., 0] + y * across, places[..., 2] + y * ahead, np.float32(0.012) + y * soft
    lost = np.zeros(places.shape[:2], np.float32)
    for body in bodies:
        x0, z0 = foot_x - np.float32(body.x), foot_z - np.float32(body.z)
        for high, radius in body.slices(levels):
            h = np.float32(high)
            far = cv2.magnitude(x0 + h * across, z0 + h * ahead)
            share = (np.float32(radius) - far) / np.maximum(edge_0 + h * soft, np.float32(0.012)) * np.float32(0.5)
            share += np.float32(0.5)
            share[y < -h] = 0  # what lies above a slice is not shadowed by it
            clear = body.body.glass and body.body.filled < high < body.body.cork
            np.maximum(lost, np.clip(share, 0, 1) * np.float32(_CLEAR if clear else 1), out=lost)
    return 1 - step(0, 1, lost)


def on_table(data: Table, colour: str, aspect: float, width: int) -> Scene:
    """All bodies; metal ones in a colour. ``aspect`` is that of the first one's label."""
    camera = Camera(width, int(width * 0.9), 1.78, (0, -3.6, 7.7), 18.5)
    bodies = [Revolved(b) for b in data.bodies]
    ground, places, on = table(camera, -2.6, data.wood, data.wall, _SEED)
    assert ground.ao is not None
    for body in bodies:
        r = np.hypot(places[..., 0] - body.x, places[..., 2] - body.z) - body.radius
        near = 1 - 0.72 * np.exp(-np.maximum(r, 0) / 0.11) - 0.16 * np.exp(-np.maximum(r, 0) / 0.5)
        ground.ao = np.asarray(ground.ao * np.where(on, near, 1), np.float32)
    half = halved(places)
    ground.sees = lambda lamp: enlarged(past(bodies, half, camera.over_table(lamp.toward), lamp.size), places)
    layers = [ground, *(_layer(b, bodies, camera, colour, aspect if b is bodies[0] else 1.0) for b in bodies)]
    return Scene(camera.width, camera.height, layers)


def _layer(body: Revolved, bodies: list[Revolved], camera: Camera, colour: str, aspect: float) -> Layer:
    box, places, ways, cover = body.seen(camera)
    normal = body.normal(places)
    facing = -(normal * ways).sum(-1, keepdims=True)
    normal = unit(normal - ways * np.maximum(0.03 - facing, 0))  # silhouettes never face away
    turn = np.arctan2(places[..., 0] - body.x, places[..., 2] - body.z)
    high = np.asarray(-places[..., 1], np.float32)
    others = [b for b in bodies if b is not body]
    layer = Layer(
        np.zeros((*high.shape, 3), np.float32), np.asarray(normal @ camera.turn.T, np.float32), box[0], box[1], cover,
        eye=np.asarray(-ways @ camera.turn.T, np.float32), reflector=_REFLECTOR,
    )  # fmt: skip
    foot = np.exp(-np.maximum(high, 0) / 0.13)
    layer.ao = np.asarray(1 - 0.45 * foot * (1 - 0.5 * np.abs(normal[..., 1])), np.float32)
    half = halved(places)
    layer.sees = lambda lamp: enlarged(past(others, half, camera.over_table(lamp.toward), lamp.size, 7), places)
    (_glass if body.body.glass else _tin)(layer, body.body, turn, high, colour, aspect, camera)
    return layer


def _band(body: Turned, aspect: float, radius: float) -> tuple[float, float]:
    """The turn (radians) and the height of what is printed: as large as the arc and the band allow."""
    arc = math.radians(body.arc)
    tall = arc * radius / aspect
    return (arc, tall) if tall <= body.high else (body.high * aspect / radius, body.high)


def _tin(layer: Layer, body: Turned, turn: Field, high: Field, colour: str, aspect: float, camera: Camera) -> None:
    arc, tall = _band(body, aspect, _radius_at(body))
    whole, top = math.radians(body.arc), body.middle + tall / 2
    turned = math.radians(body.turn)
    across, h, w = np.abs(turn - turned), *high.shape
    label = step(0, 0.008, np.minimum(high - (top - tall), top - high)) * step(whole / 2, whole / 2 - 0.006, across)
    printed = label * (across < arc / 2)
    paper = label if body.label else np.zeros_like(label)
    brush = noise(h, w, 2, _SEED + 3, 2, aspect=0.2) * 0.012
    bare = np.broadcast_to(rgb(colour), (h, w, 3))
    layer.base = mix(bare, np.broadcast_to(rgb(body.label or colour), (h, w, 3)), paper)
    edge = np.exp(-(((high - top) / 0.008) ** 2)) - np.exp(-(((high - top + tall) / 0.008) ** 2))
    layer.normal = unit(layer.normal + np.dstack([brush * (1 - paper), -0.35 * edge * paper - 0.02 * brush, 0 * high]))
    metal = 0.62 if body.metal else 0.05
    layer.f0, layer.rough = mix(metal, 0.035, paper), mix(0.3, 0.42, paper)
    layer.mirror = mix(0.95 if body.metal else 0.4, 0.22, paper)
    lid = max(h for _, h in body.profile) * 0.846
    under_lid = np.exp(-np.maximum(lid - high, 0) / 0.02) * (high < lid)
    assert layer.ao is not None
    layer.ao = layer.ao * np.asarray(1 - 0.5 * under_lid, np.float32)
    layer.base = np.asarray(layer.base * (1 - 0.55 * (1 - paper) * (high < lid + 0.33))[..., None], np.float32)
    assert layer.mask is not None
    shown = printed * (layer.mask > 0.3)
    if np.count_nonzero(shown > 0.5) > 100:
        layer.slots = [slot_of((turn - turned) / arc + 0.5, (top - high) / tall, shown, aspect)]


def _radius_at(body: Turned) -> float:
    heights = [h for _, h in body.profile]
    near = min(range(len(heights)), key=lambda k: abs(heights[k] - body.middle))
    return max(body.profile[near][0], max(r for r, _ in body.profile) * 0.5)


def _glass(layer: Layer, body: Turned, turn: Field, high: Field, colour: str, aspect: float, camera: Camera) -> None:
    h, w = high.shape
    level = body.filled + 0.03 * np.sin(turn * 5) + 0.02 * np.sin(turn * 13 + 1)
    content = np.clip(rgb(body.content) * (1 + 0.42 * noise(h, w, 4, _SEED + 5, 3, 0.7)[..., None]), 0, 1)
    cork = step(body.cork - 0.005, body.cork + 0.005, high)
    full = step(0.02, -0.02, high - level) * (high > 0.06)
    base = mix(np.broadcast_to(rgb(body.colour), (h, w, 3)), content, full)
    stopper = np.clip(rgb("#c39a6b") * (1 + 0.10 * noise(h, w, 3, _SEED + 6)[..., None]), 0, 1)
    layer.base = mix(base, stopper, cork)
    layer.f0, layer.rough, layer.mirror = mix(0.05, 0.015, cork), mix(0.12, 0.7, cork), 1 - cork
    assert layer.eye is not None and layer.mask is not None
    clear = np.asarray((1 - full) * (1 - cork), np.float32)
    facing = np.clip((layer.normal * layer.eye).sum(-1), 0.05, 1)
    through = (np.exp(-0.10 / facing) * (1 - 0.30 * (1 - facing) ** 2))[..., None] * rgb("#e6f2ee")
    y, x = np.mgrid[:h, :w].astype(np.float32)
    x = x + np.float32(layer.x) + layer.normal[..., 0] * np.float32(camera.width * 0.045) * (1 - facing)
    y = y + np.float32(layer.y) + layer.normal[..., 1] * np.float32(camera.width * 0.03) * (1 - facing)

    def glass(colour: Field, behind: Field, ink: Field) -> Field:
        bent = cv2.remap(behind, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return mix(colour, bent * through + colour * np.float32(0.06), clear * (1 - np.clip(ink, 0, 1)))

    layer.glass = glass
    radius = _radius_at(body)
    arc, tall = _band(body, aspect, radius)
    u, v = (turn + math.radians(body.turn)) / arc + 0.5, (body.middle - high) / tall + 0.5
    shown = ((u > 0) & (u < 1) & (v > 0) & (v < 1) & (layer.mask > 0.3)).astype(np.float32)
    if np.count_nonzero(shown) > 100:
        layer.slots = [slot_of(u, v, shown, aspect)]
