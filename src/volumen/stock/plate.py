"""An enamel sign screwed to painted boards: a domed, glossy face that mirrors the room."""

from __future__ import annotations

import numpy as np

from volumen.stock.fields import Field, blur, grid, mix, noise, normals, occlusion, rgb, rounded, step, unit
from volumen.stock.light import lit_share
from volumen.stock.scene import Layer, Scene, slot_of
from volumen.stock.stocks import Plate
from volumen.stock.walls import boards

_SEED = 11
_RADIUS, _EYE = 26, 620  # of the corners; how far the eye is away: from far away a flat face would mirror one grey
_TURNS = (25, -40, 70, 10)  # of the screws' slots, degrees


def sign(plate: Plate, face: str, aspect: float, width: int) -> Scene:
    """The sign (700 x 520 and its like) with a face of a colour; ``aspect``: its width by its height."""
    s = width / 700
    h, w = int(520 * s), width
    x, y = grid(h, w, s)
    heights, colours = boards(h, w, s, plate.wall, _SEED)
    x0, y0, x1, y1 = box = _box(aspect)
    wide, high = x1 - x0, y1 - y0
    inside = rounded(x, y, box, _RADIUS)
    mask = np.clip(inside * s + 0.5, 0, 1).astype(np.float32)
    edge = np.clip(inside / 22, 0, 1)
    dome = np.clip(1 - ((x - 350) / (wide / 2)) ** 2, 0, 1) * np.clip(1 - ((y - 260) / (high / 2)) ** 2, 0, 1)
    raised = 10 * np.sqrt(np.clip(1 - (1 - edge) ** 2, 0, 1)) + plate.dome * dome
    peel = noise(h, w, 26 * s, _SEED + 5, 2) * 0.16 * s + noise(h, w, 9 * s, _SEED + 6, 2) * 0.028 * s
    heights = mix(heights, (17 + raised) * s + peel, mask)
    rim = step(5.5, 3.5, inside)
    colours = mix(colours, mix(np.broadcast_to(rgb(face), (h, w, 3)), rgb(plate.rim), rim), mask)
    f0, rough, mirror = 0.045 * mask, mix(0.75, plate.rough, mask), mask
    printed = mask * (1 - rim)
    if plate.screws:
        corners = ((x0 + 23, y0 + 23), (x1 - 23, y0 + 23), (x0 + 23, y1 - 23), (x1 - 23, y1 - 23))
        for at, turn in zip(corners, _TURNS, strict=True):
            ring, top, slot = _screw(x - at[0], y - at[1], s, turn)
            heights, colours = mix(heights, top, ring), mix(colours, rgb("#8a6f3e"), ring)
            colours = mix(colours, rgb("#2a2114"), slot * 0.8)
            printed = printed * (1 - ring)
            f0, rough, mirror = mix(f0, 0.55, ring), mix(rough, 0.3, ring), mix(mirror, 0.5, ring)
    layer = Layer(
        np.clip(colours, 0, 1), normals(blur(heights, 0.6)), ao=occlusion(heights, 10 * s, 0.045 / s, 0.3),
        f0=f0, rough=rough, mirror=mirror,
    )  # fmt: skip
    layer.eye = unit(np.dstack([(350 - x) * s, (260 - y) * s, np.full_like(x, _EYE * s)]))
    layer.sees = lambda lamp: lit_share(heights, lamp, 90 * s, 16)
    layer.slots = [slot_of((x - x0) / wide, (y - y0) / high, printed, aspect)]
    return Scene(w, h, [layer])


def _box(aspect: float) -> tuple[float, float, float, float]:
    """The plate: as large as it fits 576 by 430, in the middle."""
    wide = min(576.0, 430.0 * aspect)
    high = wide / aspect
    return 350 - wide / 2, 260 - high / 2, 350 + wide / 2, 260 + high / 2


def _screw(x: Field, y: Field, s: float, turn: float) -> tuple[Field, Field, Field]:
    """A slotted screw over a cup washer: its cover, its heights, the slot."""
    r = np.hypot(x, y)
    c, si = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    ring, head = np.clip((11.5 - r) * s + 0.5, 0, 1), np.clip((8.6 - r) * s + 0.5, 0, 1)
    slot = head * step(1.5, 0.8, abs(x * si - y * c)) * step(8.2, 7.4, r)
    top = 26.5 * s + 2.2 * s * np.exp(-(((r - 10) / 1.3) ** 2))
    top = top + head * 3.2 * s * np.sqrt(np.clip(1 - (r / 9.4) ** 2, 0, 1)) - slot * 2.6 * s
    return ring, np.asarray(top, np.float32), np.asarray(slot, np.float32)
