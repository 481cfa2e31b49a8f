"""A poster pinned to a brick wall: it curls, sags and was once folded; the print is read along the paper."""

from __future__ import annotations

import numpy as np

from volumen.stock.fields import along, blur, grid, mix, noise, normals, occlusion, rgb
from volumen.stock.light import lit_share
from volumen.stock.scene import Layer, Scene, slot_of
from volumen.stock.stocks import Poster
from volumen.stock.walls import bricks

_SEED = 4
_ROOM = (500.0, 640.0)  # that a poster fits into, of a picture of 700 by 760
_PINS = ((15, 15), (-17, 15))


def poster(sheet: Poster, aspect: float, width: int) -> Scene:
    """A poster whose width by its height is ``aspect``."""
    s = width / 700
    h, w = int(760 * s), width
    x, y = grid(h, w, s)
    wall, colours = bricks(h, w, s, _SEED)
    wide = min(_ROOM[0], _ROOM[1] * aspect)
    high = wide / aspect
    x0, y0 = 350 - wide / 2, 52 + (_ROOM[1] - high) / 2
    tx, ty = (x - x0) / wide, (y - y0) / high
    curl = sheet.curl * np.clip((ty - 0.72) / 0.28, 0, 1.3) ** 2
    right = np.clip((tx * 0.8 + ty - 1.36) / 0.44, 0, 1.3) ** 2 * sheet.curl * 1.27
    left = np.clip(((1 - tx) * 0.8 + ty - 1.5) / 0.3, 0, 1.3) ** 2 * sheet.curl * 0.6
    sag = 11 * np.sin(np.pi * np.clip(tx, 0, 1)) * np.clip(ty, 0, 1) ** 0.6
    sag = sag + 4.2 * np.sin(tx * 7.5 + ty * 2) * np.clip(ty * 1.2, 0.1, 1)
    paper = (3 + curl + right + left + sag) * s
    paper = blur(paper + noise(h, w, 130 * s, _SEED + 9, 2) * 0.9 * s + noise(h, w, 2, _SEED + 10, 1) * 0.05 * s, 0.8)
    du, dv = along(paper, 1.0, min(max(int((x0 + 20) * s), 0), w - 1), min(max(int(y0 * s), 0), h - 1))
    u, v = (x + du / s - x0) / wide, (y + dv / s - y0) / high
    edge = np.minimum(np.minimum(u, 1 - u) * wide, np.minimum(v, 1 - v) * high) * s
    mask = np.clip(edge + 0.5, 0, 1).astype(np.float32)
    heights = mix(wall, 7 * s + paper, mask)
    colours = mix(colours, rgb(sheet.paper) * (1 + 0.008 * noise(h, w, 2, _SEED + 11, 2))[..., None], mask)
    crease = np.zeros_like(heights)
    for place in sheet.across:
        crease += np.exp(-(((v - place) * high / 1.3) ** 2)) * mask
    for place in sheet.down:
        crease += np.exp(-(((u - place) * wide / 1.3) ** 2)) * mask
    heights = heights - crease * np.float32(0.42 * s)
    pins = np.zeros_like(mask)
    for dx, dy in _PINS:
        r = np.hypot(x - x0 - dx - (wide if dx < 0 else 0), y - y0 - dy)
        head = np.clip((7.2 - r) * s + 0.5, 0, 1)
        heights = mix(heights, (14 + 7 * np.sqrt(np.clip(1 - (r / 7.6) ** 2, 0, 1))) * s, head)
        colours, pins = mix(colours, rgb("#c9a24d"), head), np.maximum(pins, head)
    smooth = blur(heights, 1.0)
    layer = Layer(
        np.clip(colours, 0, 1), normals(blur(heights, 0.7), 0.8), ao=occlusion(heights, 8 * s, 0.03 / s, 0.4),
        f0=mix(0.012 * mask, 0.5, pins), rough=mix(0.6, 0.28, pins),
    )  # fmt: skip
    layer.sees = lambda lamp: lit_share(smooth, lamp, 150 * s)
    layer.slots = [slot_of(u, v, mask * (1 - pins) * (1 - 0.25 * np.clip(crease, 0, 1)), aspect)]
    return Scene(w, h, [layer])
