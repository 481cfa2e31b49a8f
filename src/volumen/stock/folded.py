"""A greeting card that stands folded on a table: two bowed panels from a fold, met by rays."""

from __future__ import annotations

import math

import numpy as np

from volumen.stock.camera import Camera, table
from volumen.stock.fields import Field, enlarged, halved, mix, noise, polygon, rgb, step, stroke, unit
from volumen.stock.light import StockLamp
from volumen.stock.scene import Layer, Scene, Slot, slot_of
from volumen.stock.stocks import Folded

_SEED = 41
_FOLD = np.array([-0.58, 0, 0.62], np.float32)  # where the fold stands, nearest to the eye
_WIDE = 1.9


class Panel:
    """One side of the card: away from the fold along ``way``, with a ``normal`` to the eye."""

    def __init__(self, angle: float, left: bool, bow: float, high: float) -> None:
        a = math.radians(angle)
        side = -1 if left else 1
        self.way = np.array([side * math.cos(a), 0, -math.sin(a)], np.float32)
        self.normal = np.array([side * math.sin(a), 0, math.cos(a)], np.float32)
        self.bow, self.high = bow, high

    def off(self, s: Field) -> Field:
        """How far the panel stands off its plane, at a way from the fold."""
        q = np.clip(s / _WIDE, -0.1, 1.1)
        return np.asarray(self.bow * np.sin(np.pi * q) * (1 - 0.3 * q), np.float32)

    def places(self, s: Field, y: Field) -> Field:
        """Places (n, 3) at ways from the fold and heights."""
        up = np.array([0, -1, 0], np.float32) * y[:, None]
        return np.asarray(_FOLD + self.way * s[:, None] + self.normal * self.off(s)[:, None] + up, np.float32)

    def met(self, start: Field, ways: Field, steps: int) -> tuple[Field, Field, Field]:
        """Where rays meet it: their length, the way from the fold and the height there. The bow is reached in a few
        steps of a fixed point."""
        through = ways @ self.normal
        through = np.where(abs(through) < 1e-4, 1e-4, through)
        flat = (_FOLD - start) @ self.normal
        t = flat / through
        for _ in range(steps):
            s = (start + ways * t[..., None] - _FOLD) @ self.way
            t = (flat + self.off(s)) / through
        at = start + ways * t[..., None]
        return t, (at - _FOLD) @ self.way, -at[..., 1]

    def hides(self, places: Field, toward: Field, size: float) -> Field:
        """How much of the lamp it takes from places."""
        if abs(float(toward @ self.normal)) < 0.02:
            return np.zeros(places.shape[:2], np.float32)
        t, s, y = self.met(places, np.broadcast_to(toward, places.shape), 2)
        edge = np.float32(0.006) + np.maximum(t, 0) * np.float32(0.05 + 0.21 * size)
        inside = step(-1, 1, np.minimum(s, _WIDE - s) / edge) * step(-1, 1, (self.high - y) / edge)
        return np.asarray(inside * step(-1, 1, (y + 0.02) / 0.02) * (t > 0.015), np.float32)


def card(data: Folded, paper: str, aspect: float, width: int) -> Scene:
    """The card; its front panel is as high as artwork of an ``aspect`` asks for."""
    camera = Camera(width, int(width * 0.92), 1.62, (0, -2.5, 6.4), 14.5)
    high = float(np.clip(_WIDE / aspect, 0.7, 2.4))
    back = Panel(data.angles[0], True, data.bow[0], high)
    front = Panel(data.angles[1], False, data.bow[1], high)
    ground, places, on = table(camera, -2.4, data.wood, data.wall, _SEED)
    assert ground.ao is not None
    for panel in (back, front):
        r = _from(panel, places)
        near = 1 - 0.60 * np.exp(-r / 0.05) - 0.20 * np.exp(-r / 0.35)
        ground.ao = np.asarray(ground.ao * np.where(on, near, 1), np.float32)
    half = halved(places)

    def sees(lamp: StockLamp) -> Field:
        toward = camera.over_table(lamp.toward)
        return enlarged((1 - back.hides(half, toward, lamp.size)) * (1 - front.hides(half, toward, lamp.size)), places)

    ground.sees = sees
    layers = [ground, _layer(back, front, camera, paper, 1), _layer(front, back, camera, paper, 0)]
    assert layers[2].mask is not None
    layers[2].slots = [_front_slot(layers[2], front, camera, _WIDE / high)]
    return Scene(camera.width, camera.height, layers)


def _from(panel: Panel, places: Field) -> Field:
    """How far places are from the foot of a panel."""
    off = places - _FOLD
    s = np.clip(off[..., 0] * panel.way[0] + off[..., 2] * panel.way[2], 0, _WIDE)
    at = _FOLD + panel.way * s[..., None] + panel.normal * panel.off(s)[..., None]
    return np.asarray(np.hypot(places[..., 0] - at[..., 0], places[..., 2] - at[..., 2]), np.float32)


def _layer(panel: Panel, other: Panel, camera: Camera, paper: str, seed: int) -> Layer:
    q = np.linspace(0, 1, 40).astype(np.float32)
    zero, high = 0 * q, panel.high
    sides = (q * _WIDE, zero), (zero + _WIDE, q * high), (_WIDE * q[::-1], zero + high), (zero, q[::-1] * high)
    edge = camera.pixels(np.concatenate([panel.places(s, y) for s, y in sides]))
    box = camera.within(edge.min(0) - 2, edge.max(0) + 2)
    ways = camera.rays(box)
    t, s, y = panel.met(camera.at, ways, 4)
    h, w = s.shape
    mask = polygon(h, w, edge - [box[0], box[1]])
    slope = (panel.off(s + 0.01) - panel.off(s - 0.01)) / 0.02
    roll = np.exp(-np.maximum(s, 0) / 0.03)
    normal = panel.normal - panel.way * (slope + 0.6 * roll)[..., None]
    normal = unit(normal + np.array([0, 1, 0], np.float32) * (noise(h, w, 1.6, _SEED + seed, 2) * 0.012)[..., None])
    cut = stroke(h, w, edge[39:121] - [box[0], box[1]], 1.6 * camera.width / 700)
    fibre = rgb(paper) * (1 + 0.006 * noise(h, w, 2, _SEED + 9, 2))[..., None]
    lighter = np.minimum(rgb(paper) * 1.04, 1)
    places = np.asarray(camera.at + ways * t[..., None], np.float32)
    layer = Layer(
        np.clip(mix(fibre, lighter, cut), 0, 1), np.asarray(normal @ camera.turn.T, np.float32), box[0], box[1], mask,
        ao=np.asarray(1 - 0.30 * np.exp(-np.maximum(y, 0) / 0.10), np.float32), f0=0.03, rough=0.5,
        eye=np.asarray(-ways @ camera.turn.T, np.float32),
    )  # fmt: skip
    half = halved(places)
    layer.sees = lambda lamp: enlarged(1 - other.hides(half, camera.over_table(lamp.toward), lamp.size), places)
    layer.gap = cut
    return layer


def _front_slot(layer: Layer, panel: Panel, camera: Camera, aspect: float) -> Slot:
    h, w = layer.base.shape[:2]
    _, s, y = panel.met(camera.at, camera.rays((layer.x, layer.y, layer.x + w, layer.y + h)), 4)
    assert layer.mask is not None and layer.gap is not None
    mask, layer.gap = layer.mask * (1 - 0.75 * layer.gap), None
    return slot_of(s / _WIDE, 1 - y / panel.high, mask, aspect)
