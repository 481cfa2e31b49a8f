"""A camera over a table, and the table with the wall behind it. World: x right, y down, z towards the eye."""

from __future__ import annotations

import math

import cv2
import numpy as np

from volumen.stock.fields import Field, Points, blur, chance, mix, noise, rgb, step, unit
from volumen.stock.scene import Layer

_TILE = 1024  # pixels of wood
_LOWEST = 0.24  # of the lamp over the table, as the sine of 14 degrees


class Camera:
    """A pinhole camera at a place, pitched down by degrees; ``focal`` in widths of the picture."""

    def __init__(self, width: int, height: int, focal: float, at: tuple[float, float, float], pitch: float) -> None:
        self.width, self.height, self.focal = width, height, focal * width
        self.at = np.array(at, np.float32)
        p = math.radians(pitch)
        down = [[1, 0, 0], [0, math.cos(p), math.sin(p)], [0, -math.sin(p), math.cos(p)]]
        self.turn = np.array(down, np.float32)  # world to camera

    def rays(self, box: tuple[int, int, int, int]) -> Field:
        """Unit vectors (h, w, 3) from the eye through the pixels of a box."""
        x, y = np.meshgrid(np.arange(box[0], box[2]) + 0.5, np.arange(box[1], box[3]) + 0.5)
        seen = np.dstack([(x - self.width / 2) / self.focal, (y - self.height / 2) / self.focal, -np.ones_like(x)])
        return unit(seen.astype(np.float32) @ self.turn)

    def pixels(self, points: Points) -> Points:
        """Where points (n, 3) of the world appear."""
        q = (np.asarray(points, np.float32) - self.at) @ self.turn.T
        back = -self.focal / q[..., 2]
        return np.stack([self.width / 2 + q[..., 0] * back, self.height / 2 + q[..., 1] * back], -1)

    def within(self, low: Points, high: Points) -> tuple[int, int, int, int]:
        """The pixels of the picture from one corner to another."""
        left, top = (max(math.floor(v), 0) for v in low)
        right, foot = min(math.ceil(high[0]), self.width), min(math.ceil(high[1]), self.height)
        return left, top, max(right, left + 1), max(foot, top + 1)

    def over_table(self, toward: Field) -> Field:
        """The way to a lamp (camera space) in the world, held over the table."""
        way = toward @ self.turn
        way[1] = min(way[1], -_LOWEST)
        return unit(way)


def table(camera: Camera, wall_at: float, wood: str, wall: str, seed: int) -> tuple[Layer, Field, Field]:
    """The table and the wall: the layer, the place in the world of each pixel, and whether it is on the table."""
    ways = camera.rays((0, 0, camera.width, camera.height))
    down = np.where(ways[..., 1] > 1e-4, -camera.at[1] / np.maximum(ways[..., 1], 1e-4), 1e9)
    far = np.where(ways[..., 2] < -1e-4, (wall_at - camera.at[2]) / np.minimum(ways[..., 2], -1e-4), 1e9)
    on, way = down < far, np.minimum(down, far)
    places = (camera.at + ways * way[..., None]).astype(np.float32)
    boards, grain = _wood(places, way, wood, seed)
    tone = _tiled(noise(_TILE, _TILE, 40, seed + 2, 4, 0.6), places[..., 0] * 90 + 512, places[..., 1] * 90)
    plaster = np.clip(rgb(wall) * (1 + 0.012 * tone)[..., None], 0, 1)
    normal = np.where(on[..., None], np.array([0, -1, 0], np.float32), np.array([0, 0, 1], np.float32))
    normal = normal + np.dstack([0 * grain, 0 * grain, 0.03 * grain * on])
    ao = np.where(on, 1 - 0.35 * np.exp(-(places[..., 2] - wall_at) / 0.5), 1 - 0.35 * np.exp(places[..., 1] / 0.5))
    layer = Layer(
        mix(plaster, boards, blur(on.astype(np.float32), 0.7)), np.asarray(unit(normal) @ camera.turn.T, np.float32),
        ao=ao.astype(np.float32), f0=np.asarray(0.03 * on, np.float32), rough=0.45,
        eye=np.asarray(-ways @ camera.turn.T, np.float32),
    )  # fmt: skip
    return layer, places, on


def _wood(places: Field, way: Field, wood: str, seed: int) -> tuple[Field, Field]:
    """Boards across the table, paler in their drawing the farther they lie."""
    u, v = places[..., 2] * 150 * 1.3, places[..., 0] * 150
    board = np.floor((places[..., 2] + 20) / 0.62)
    inside = (places[..., 2] + 20) / 0.62 - board
    each = chance(200, seed)[np.clip(board.astype(int), 0, 199)]
    grain = _tiled(noise(_TILE, _TILE, 9, seed, 4, 0.62, aspect=28), u + each * 300, v + each * 500)
    fine = _tiled(noise(_TILE, _TILE, 3, seed + 1, 2, 0.6, aspect=30), u + 300, v + 512)
    near = np.clip(6 / np.maximum(way, 1), 0.2, 1)
    colours = np.clip(rgb(wood) * (1 + (0.05 * grain + 0.03 * fine) * near + 0.035 * each)[..., None], 0, 1)
    return colours * (1 - 0.42 * step(0.016, 0.004, np.minimum(inside, 1 - inside)))[..., None], grain


def _tiled(tile: Field, u: Field, v: Field) -> Field:
    x, y = np.mod(u, _TILE - 1).astype(np.float32), np.mod(v, _TILE - 1).astype(np.float32)
    return np.asarray(cv2.remap(tile, x, y, cv2.INTER_LINEAR))
