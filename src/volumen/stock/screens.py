"""Icons on two screens, one on a light desk and one on a dark one: the screens shine, bezels and desks are lit."""

from __future__ import annotations

import numpy as np

from volumen.stock.fields import Field, grid, mix, noise, normals, occlusion, rgb, rounded, step
from volumen.stock.light import lit_share
from volumen.stock.scene import Layer, Scene, Slot
from volumen.stock.stocks import Screens

_SEED = 21
_TILES = (
    (-118, 66, 110),
    (-118, 224, 96),
    (-2, 240, 64),
    (76, 248, 48),
    (-112, 396, 32),
    (-60, 400, 24),
    (-16, 404, 16),
)


def screens(data: Screens, width: int) -> Scene:
    """The desks (700 x 500 and its like), each with the artwork in seven sizes of whole pixels."""
    s = width / 700
    h, w = int(500 * s), width
    x, y = grid(h, w, s)
    grain, fine = (noise(h, w, c * s, _SEED + k, 4 - k, 0.62, aspect=0.05) for k, c in enumerate((90, 18)))
    share = 700 / len(data.desks)
    heights = np.asarray(grain * 0.25 * s + fine * 0.12 * s, np.float32)
    colours = np.zeros((h, w, 3), np.float32)
    shines = np.zeros((h, w), np.float32)
    f0, rough = np.full((h, w), 0.02, np.float32), np.full((h, w), 0.6, np.float32)
    slots = []
    for k, (bezel, top, foot, tile, wood) in enumerate(data.desks):
        desk = np.clip(rgb(wood) * (1 + 0.055 * grain + 0.03 * fine)[..., None], 0, 1)
        here = step(-0.6, 0.6, x - k * share) if k else np.ones((h, w), np.float32)
        colours, middle = mix(colours, desk, here), (k + 0.5) * share
        inside = rounded(x, y, (middle - 146, 30, middle + 146, 470), 26)
        case, glass = np.clip(inside * s + 0.5, 0, 1), np.clip((inside - 13) * s + 0.5, 0, 1)
        edge = 9 * np.sqrt(np.clip(1 - (1 - np.clip(inside / 9, 0, 1)) ** 2, 0, 1)) + 5
        heights = mix(heights, edge * s, case)
        colours = mix(colours, rgb(bezel), case)
        colours = mix(colours, _wallpaper(x - middle, y, s, top, foot, tile), glass)
        shines = np.maximum(shines, glass)
        f0, rough = mix(f0, 0.04, case), mix(rough, 0.35, case)
        slots += [_whole_pixels(middle + dx, dy, side, s) for dx, dy, side in _TILES]
    layer = Layer(
        np.clip(colours, 0, 1), normals(heights), ao=occlusion(heights, 9 * s, 0.04 / s, 0.4),
        f0=f0, rough=rough, mirror=np.asarray(shines * 0.10, np.float32), shines=np.asarray(shines, np.float32),
    )  # fmt: skip
    layer.sees = lambda lamp: lit_share(heights, lamp, 60 * s, 14)
    layer.slots = slots
    return Scene(w, h, [layer])


def _wallpaper(x: Field, y: Field, s: float, top: str, foot: str, tile: str) -> Field:
    """A quiet ground with a hill and empty tiles."""
    dark = float(rgb(top).mean() < 0.4)
    ground = mix(rgb(top), rgb(foot), np.clip((y - 43) / 414, 0, 1))
    hill = step(-1, 1, y - (360 + 26 * np.sin(x / 62) + 14 * np.sin(x / 23 + 1)))
    ground = mix(ground, mix(rgb(foot), rgb(tile), 0.25 if dark else 0.55), hill * 0.5)
    for row in range(2):
        for column in range(4):
            if row or column > 1:
                left, high = -118 + column * 62, 66 + row * 70
                there = np.clip(rounded(x, y, (left, high, left + 48, high + 48), 12) * s + 0.5, 0, 1)
                ground = mix(ground, rgb(tile), there * (0.34 if dark else 0.62))
    return ground


def _whole_pixels(x: float, y: float, side: int, s: float) -> Slot:
    """A slot in which each pixel of the artwork is one of the picture: icons never go through a fractional map."""
    left, top, size = round(x * s), round(y * s), max(round(side * s), 1)
    v, u = np.mgrid[:size, :size].astype(np.float32)
    return Slot(u, v, np.ones((size, size), np.float32), (size, size), (left, top, left + size, top + size))
