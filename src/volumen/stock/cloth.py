"""A cotton bag on a peg: folds and weave as heights, the print read along the cloth."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from volumen.caching import by_value
from volumen.colour.srgb import from_hex
from volumen.stock.fields import (
    Field,
    Points,
    along,
    blur,
    chance,
    grid,
    mix,
    noise,
    normals,
    occlusion,
    polygon,
    rgb,
    step,
    stroke,
)
from volumen.stock.light import lit_share
from volumen.stock.scene import Layer, Scene, exposure, slot_of
from volumen.stock.stocks import Cloth, Fold, InkMode
from volumen.stock.walls import plaster

HIGH, WIDE = 820, 700  # of the picture that all is given in
_SEED = 5
_STRETCH = 3.0  # folds show in the print more than their heights alone say
_FRONT = (236, 464, 66, 318, 20)  # of a strap: its feet, its top, where it is sewn on, its bend
_BACK = (246, 454, 58, 262, 16)


def fold(x: Field, y: Field, f: Fold) -> Field:
    """A ridge along a segment, which widens, bows and leans, and fades at its ends."""
    x0, y0, x1, y1, w0, w1, high, bow, skew = f
    dx, dy = x1 - x0, y1 - y0
    n = np.hypot(dx, dy) or 1.0
    dx, dy = dx / n, dy / n
    t = ((x - x0) * dx + (y - y0) * dy) / n
    off = -(x - x0) * dy + (y - y0) * dx
    held = np.clip(t, 0, 1)
    u = (off - bow * 4 * held * (1 - held)) / (w0 + (w1 - w0) * held)
    ridge = high * np.exp(-u * u) * (1 + skew * np.tanh(u * 1.5))
    return np.asarray(ridge * step(-0.12, 0.22, t) * step(1.15, 0.55, t), np.float32)


def weave(x: Field, y: Field, pitch: float, seed: int) -> tuple[Field, Field, Field]:
    """Plain weave: the height of the upper thread, the gap between threads (both 0..1), and the tone of each thread."""
    warp, weft = chance(2048, seed)[:1024], chance(2048, seed)[1024:]
    u, v = x / pitch, y / pitch
    i, j = np.floor(u), np.floor(v)
    fu, fv = u - i - 0.5, v - j - 0.5
    upper = (i + j) % 2 < 1
    across, length = np.where(upper, fu, fv), np.where(upper, fv, fu)
    high = np.sqrt(np.clip(1 - (across * 1.85) ** 2, 0, 1)) * (1 - 0.45 * (2 * length) ** 2)
    tone = np.where(upper, warp[i.astype(np.int32) % 1024], weft[j.astype(np.int32) % 1024])
    return high.astype(np.float32), ((1 - high) ** 2).astype(np.float32), tone.astype(np.float32)


def bag(cloth: Cloth, colour: str, ink: InkMode, width: int) -> Scene:
    """The bag in a colour; what has no colour is prepared once for all of them."""
    made = _prepared(cloth, width)
    layer = replace(made.layer, base=made.coloured(colour))
    layer.slots = [replace(s, mode=ink) for s in layer.slots]
    return Scene(layer.base.shape[1], layer.base.shape[0], [layer], made.exposure_of(layer))


class _Bag:
    """All of a bag but its colour. Layers of all colours share the light that was worked out."""

    def __init__(self, cloth: Cloth, width: int) -> None:
        s = self.s = width / WIDE
        self.h, self.w = int(HIGH * s), width
        self.x, self.y = grid(self.h, self.w, s)
        self.exposure = 0.0
        self.folds = self._folds(cloth)
        du, dv = along(self.folds, _STRETCH, self.w // 2)
        self.u, self.v = self.x + du / s, self.y + dv / s  # along the cloth
        fine = float(step(1.2, 2.8, cloth.thread * s))  # threads too near for the pixels would only beat with them
        self.weave, self.gap, self.tone = (fine * a for a in weave(self.u, self.v, cloth.thread, _SEED))
        chance_of = noise(self.h, self.w, 4 * s, _SEED + 7, 1, aspect=0.25)
        self.slub = chance_of + noise(self.h, self.w, max(1.2 * s, 1), _SEED + 8, 1, aspect=8)
        self.outline()
        self.stack()

    def outline(self) -> None:
        s, h, w = self.s, self.h, self.w
        t = np.linspace(0, 1, 30)
        top = np.c_[138 + 424 * t, 250 + 7 * np.sin(np.pi * t) + 3 * np.sin(9 * t)]
        right = np.c_[562 + 26 * t + 6 * np.sin(np.pi * t * 2), 250 + 520 * t]
        foot = np.c_[588 - 476 * t, 770 + 10 * np.sin(np.pi * t) + 2.5 * np.sin(13 * t)]
        left = np.c_[112 + 26 * t - 5 * np.sin(np.pi * t * 2 + 0.6), 770 - 520 * t]
        corners = [[586, 764], [580, 770]], [[119, 770], [113, 763]]
        edge = np.r_[top, right[1:-1], corners[0], foot[1:-1], corners[1], left[1:-1]]
        self.body = polygon(h, w, edge * s)
        rim = np.r_[np.c_[146 + 408 * t, 250 - 13 * np.sin(np.pi * t)], [[560, 300], [140, 300]]]
        self.rim = polygon(h, w, rim * s)
        self.front, self.front_core = (stroke(h, w, strap(*_FRONT) * s, wide * s) for wide in (27, 17))
        self.back, self.back_core = (stroke(h, w, strap(*_BACK) * s, wide * s) for wide in (26, 16))
        seam = np.c_[np.linspace(144, 556, 60), 267 + 7 * np.sin(np.pi * np.linspace(0, 1, 60))]
        stitch = stroke(h, w, seam * s, 1.7 * s, (6 * s, 2.6 * s))
        for cx in (236, 464):
            box = [(-9, 281), (9, 281), (9, 311), (-9, 311), (-9, 281), (9, 311), (9, 281), (-9, 311)]
            sewn = np.array([(cx + dx, y) for dx, y in box])
            stitch = np.maximum(stitch, stroke(h, w, sewn * s, 1.6 * s, (5 * s, 2.2 * s)))
        self.stitch = stitch
        self.hem = self.body * step(1.2, -1.2, self.y - 272 - 7 * np.sin(np.pi * np.clip((self.x - 138) / 424, 0, 1)))

    def _folds(self, cloth: Cloth) -> Field:
        """Heights of the cloth in pixels: folds, unevenness, the bulge of the bag."""
        h, w, s, x, y = self.h, self.w, self.s, self.x, self.y
        heights = np.zeros((h, w), np.float32)
        for f in cloth.folds:
            heights += fold(x, y, f)
        heights += noise(h, w, 95 * s, _SEED, 2) * 2.4 + noise(h, w, 26 * s, _SEED + 1) * 0.55
        side = np.clip(abs((x - 350) / 232), 0, 1)
        heights += 16 * (1 - side**3) + 9 * np.exp(-(((y - 735) / 70) ** 2))
        return blur(heights * np.float32(s), 1.6 * s)

    def stack(self) -> None:
        """All heights over the wall, back to front, and what follows from them."""
        s, h, w, y = self.s, self.h, self.w, self.y
        thread = blur(self.weave, 0.55) * 0.85 * s + self.slub * 0.10 * s
        fine = thread + (blur(self.stitch, 0.7) - blur(self.stitch, 2.5)) * 1.2 * s
        wall, self.wall = plaster(h, w, "#d9d4c7", _SEED + 20)
        self.rail = step(34, 36, y) * step(108, 106, y)
        grain = noise(h, w, 90 * s, _SEED + 30, aspect=0.06)
        heights = wall * s * 0.6 + blur(self.rail * (12 + grain * 0.5) * s, 1.2 * s)
        self.grain = noise(h, w, 120 * s, _SEED + 31, 4, 0.7, aspect=0.03)
        bump = np.clip(1 - ((self.x - 350) ** 2 + (y - 84) ** 2) / 13**2, 0, 1)
        self.peg = step(0, 0.12, bump)
        lifted = mix(20, 8, step(60, 250, y)) * s
        heights = mix(heights, lifted + blur(self.back_core, 2.5 * s) * 2.2 * s + fine * 0.8, self.back)
        heights = mix(heights, 14 * s + self.folds * 0.25 + fine, self.rim)
        cloth = 22 * s + self.folds * 1.3
        heights = mix(heights, cloth + self.hem * 1.6 * s + fine, self.body)
        self.strap = self.front * step(322, 320, y)
        lifted = mix(np.full_like(cloth, 30 * s), cloth + 4 * s, step(120, 262, y))
        heights = mix(heights, lifted + blur(self.front_core, 2.5 * s) * 2.4 * s + fine * 0.9, self.strap)
        heights = mix(heights, 30 * s + 12 * s * np.sqrt(bump), self.peg)
        smooth, printed = blur(heights, 1.5), np.asarray(self.body * (1 - self.front), np.float32)
        self.layer = Layer(
            np.zeros((h, w, 3), np.float32), normals(heights, 0.75), ao=occlusion(heights, 9 * s, 0.028 / s, 0.35),
            gap=self.gap, f0=np.asarray(0.02 * self.peg + 0.012 * printed, np.float32), rough=0.62,
        )  # fmt: skip
        self.layer.sees = lambda lamp: lit_share(smooth, lamp, 150 * s)
        u, v = (self.u - 350) / 292 + 0.5, (self.v - 372) / (292 * 934 / 760)
        self.layer.slots = [slot_of(u, v, printed, 760 / 934)]

    def coloured(self, colour: str) -> Field:
        """What the bag looks like in even light (h, w, 3)."""
        dark = float(np.mean(from_hex(colour)) < 0.3)
        tone = 1 + (0.022 + 0.012 * dark) * self.tone + 0.02 * self.slub
        cloth = np.clip(rgb(colour) * (tone * (1 - (0.16 - 0.05 * dark) * self.gap))[..., None], 0, 1)
        thread = mix(rgb(colour), rgb("#f3ead4"), 0.30)
        cloth = mix(cloth, thread, self.stitch * 0.8)
        rail = np.clip(rgb("#7d9aa0") * (1 + 0.045 * self.grain[..., None]), 0, 1)
        out = mix(self.wall, rail, self.rail)
        out = mix(out, cloth * 0.93, self.back)
        out = mix(out, cloth * 0.62, self.rim)
        out = mix(out, cloth, self.body)
        out = mix(out, mix(cloth, thread, self.stitch * 0.85 * (self.y > 276)), self.strap)
        out = mix(out, np.broadcast_to(rgb("#b98a4e"), out.shape), self.peg)
        return np.asarray(np.clip(out, 0, 1))

    def exposure_of(self, layer: Layer) -> float:
        """That of all colours of a bag is the same: worked out at the first."""
        if not self.exposure:
            self.exposure = exposure([layer])
        return self.exposure


def strap(x0: float, x1: float, top: float, foot: float, bend: float) -> Points:
    """The middle of a strap: up from one foot, round a peg, down to the other."""
    q = np.linspace(0, 1, 60)
    up = np.c_[x0 + (350 - bend - x0) * q**1.7, foot + (top + bend - foot) * q]
    turn = np.linspace(np.pi, 2 * np.pi, 30)
    round_peg = np.c_[350 + bend * np.cos(turn), top + bend + bend * 0.9 * np.sin(turn)]
    down = np.c_[x1 + (350 + bend - x1) * q[::-1] ** 1.7, foot + (top + bend - foot) * q[::-1]]
    return np.asarray(np.r_[up, round_peg, down])


@by_value("prepared bags", 2)
def _prepared(cloth: Cloth, width: int) -> _Bag:
    return _Bag(cloth, width)
