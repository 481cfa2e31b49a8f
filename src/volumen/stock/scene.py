"""A stock as layers, back to front, with slots that artwork is laid into."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import cv2
import numpy as np

from volumen.stock.fields import Field, dot, mix, unit
from volumen.stock.light import StockLamp, mirrored, to_encoded, to_linear
from volumen.stock.stocks import InkMode

Lit = tuple[Field, Field | None]  # irradiance (h, w), and gloss (h, w) where there is any
_BRIGHTEST_GLOSS = 12.0
_INK_DULLS = 0.75  # of the gloss of glass is taken by ink on it
_FAR = np.float32(-9999)
_CROWDED = 1.7  # pixels of artwork to one of the picture, from where a copy blurred across is mixed in


@dataclass(slots=True)
class Slot:
    """Where artwork lies on a layer: for each pixel of ``box`` the pixel of the artwork, fitted to ``size`` (w, h), and
    how much of it is there. ``far``: where it is crowded, as on the turning side of a tin."""

    x: Field
    y: Field
    mask: Field
    size: tuple[int, int]
    box: tuple[int, int, int, int]
    far: Field | None = None
    mode: InkMode = "print"
    aspect: float = 1.0  # of what is printed there, its width by its height


@dataclass(slots=True)
class Layer:
    """``base``: its colour (h, w, 3; encoded); ``normal`` (h, w, 3); ``x``, ``y`` where it lies; ``mask`` its cover;
    ``ao`` light from all round that reaches it; ``gap`` between threads; gloss by ``f0`` (facing), ``rough`` and
    ``mirror``; ``sees``: of the lamp, by lamp; ``shines``: a screen; ``eye``: the way to it; ``reflector``: light from
    across the lamp, for round things."""

    base: Field
    normal: Field
    x: int = 0
    y: int = 0
    mask: Field | None = None
    ao: Field | None = None
    gap: Field | None = None
    slots: list[Slot] = field(default_factory=list)
    f0: Field | float = 0.04
    rough: Field | float = 0.5
    mirror: Field | float = 0.0
    sees: Callable[[StockLamp], Field] | None = None
    shines: Field | None = None
    eye: Field | None = None
    reflector: float = 0.0
    glass: Callable[[Field, Field, Field], Field] | None = None  # of its light, what lies behind, and the ink
    lit: dict[StockLamp, Lit] = field(default_factory=dict)  # of the last lamp


def light_of(layer: Layer, lamp: StockLamp) -> Lit:
    """The light that falls on a layer, and that it throws back as gloss; kept for the last lamp."""
    known = layer.lit.get(lamp)
    if known is not None:
        return known
    n, toward = layer.normal, lamp.toward
    soft = 0.05 + 0.25 * lamp.size
    facing = n @ toward
    facing = 0.5 * (facing + np.sqrt(facing * facing + np.float32(soft * soft * 0.06)))
    seen: Field | float = layer.sees(lamp) if layer.sees is not None else 1.0
    key = (1 - lamp.ambient) / max(float(toward[2]), 0.42)
    around = lamp.ambient * (0.66 - 0.17 * n[..., 1] + 0.34 * n[..., 2])
    e = around * (1 if layer.ao is None else layer.ao) + key * facing * seen
    if layer.reflector:
        across = unit(np.array([-toward[0], 0.25 * toward[1], toward[2]], np.float32))
        e = e + layer.reflector * np.maximum(n @ across, 0)
    gloss = _gloss(layer, lamp, np.clip(facing, 0, 1), seen, key) if np.any(np.asarray(layer.f0) > 0) else None
    layer.lit.clear()
    layer.lit[lamp] = (np.asarray(e, np.float32), gloss)
    return layer.lit[lamp]


def _gloss(layer: Layer, lamp: StockLamp, facing: Field, seen: Field | float, key: float) -> Field:
    """A wide lobe round the half vector (Trowbridge and Reitz 1975, widened by the lamp), and what mirrors show,
    stronger at grazing angles (Schlick 1994, damped by roughness)."""
    n, toward = layer.normal, lamp.toward
    eye = np.array([0, 0, 1], np.float32) if layer.eye is None else layer.eye
    half = np.clip(dot(n, np.broadcast_to(unit(toward + eye), n.shape)), 0, 1)
    rough = np.asarray(layer.rough, np.float32)
    a2 = np.maximum(rough**4, 1e-4) + (lamp.size * 0.22) ** 2
    lobe = np.minimum(a2 / (half * half * (a2 - 1) + 1) ** 2 * 0.25, _BRIGHTEST_GLOSS)
    gloss = layer.f0 * lobe * seen * key * facing
    if np.any(np.asarray(layer.mirror) > 0):
        nv = dot(n, np.broadcast_to(eye, n.shape))
        room, window = mirrored(2 * nv[..., None] * n - eye, lamp)
        fresnel = layer.f0 + (np.maximum(1 - rough * 1.4, layer.f0) - layer.f0) * np.clip(1 - nv, 0, 1) ** 5
        gloss = gloss + layer.mirror * fresnel * (room + window * (0.35 + 0.65 * seen))
    return np.asarray(gloss, np.float32)


def slot_of(u: Field, v: Field, mask: Field, aspect: float = 1.0, density: float = 1.15) -> Slot:
    """A slot from the place in the artwork (0..1 across and down) of every pixel of a layer; ``density``: pixels of
    the artwork to one of the picture."""
    u, v, mask = (np.asarray(a, np.float32) for a in (u, v, mask))
    there = (u > -0.02) & (u < 1.02) & (v > -0.02) & (v < 1.02) & (mask > 0)
    rows, columns = np.where(there.any(1))[0], np.where(there.any(0))[0]
    box = (int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1)
    cut = np.s_[box[1] : box[3], box[0] : box[2]]
    u, v, there, mask = u[cut], v[cut], there[cut], mask[cut]
    across = np.hypot(np.gradient(u, axis=1), np.gradient(u, axis=0))
    down = np.hypot(np.gradient(v, axis=1), np.gradient(v, axis=0))
    wide = max(int(density / np.percentile(across[there], 30)), 1)
    high = max(int(density / np.percentile(down[there], 30)), 1)
    crowded = np.where(there, np.clip((across * wide - _CROWDED) / 2, 0, 1), 0).astype(np.float32)
    return Slot(
        np.where(there, u * wide - 0.5, _FAR).astype(np.float32),
        np.where(there, v * high - 0.5, _FAR).astype(np.float32),
        np.asarray(mask * there, np.float32),
        (wide, high), box, crowded if np.count_nonzero(crowded > 0.3) > 400 else None, aspect=aspect,
    )  # fmt: skip


def fitted(artwork: Field, slot: Slot) -> Field:
    """Artwork (h, w, 4; premultiplied, encoded) at the size of a slot."""
    smaller = slot.size[0] < artwork.shape[1]
    return np.asarray(cv2.resize(artwork, slot.size, interpolation=cv2.INTER_AREA if smaller else cv2.INTER_CUBIC))


def laid(base: Field, layer: Layer, slot: Slot, artwork: Field) -> Field:
    """Lay artwork that fits a slot on a layer's colour, in place; gives back its cover within the box."""
    x0, y0, x1, y1 = slot.box
    under = base[y0:y1, x0:x1]
    ink = _mapped(artwork, slot) * slot.mask[..., None]
    cover = ink[..., 3:]
    if slot.mode == "print" or layer.gap is None:
        under *= 1 - cover
        under += ink[..., :3]
        return np.asarray(ink[..., 3])
    gap = layer.gap[y0:y1, x0:x1, None]
    if slot.mode == "underbase":
        sure = cover * (1 - 0.30 * gap)
        under[:] = under * (1 - sure) + ink[..., :3] / np.maximum(cover, 1e-4) * sure
    else:  # dye: multiplied through the weave, in linear light
        tint = to_linear(ink[..., :3] + (1 - cover))
        under[:] = to_encoded(to_linear(under) * mix(np.ones_like(tint), tint, 1 - 0.45 * gap))
    return np.asarray(ink[..., 3])


def _mapped(artwork: Field, slot: Slot) -> Field:
    ink = cv2.remap(artwork, slot.x, slot.y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
    if slot.far is not None:
        wide = cv2.remap(cv2.blur(artwork, (5, 1)), slot.x, slot.y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
        ink = ink + (wide - ink) * slot.far[..., None]
    return np.asarray(ink)


@dataclass(slots=True)
class Scene:
    """``exposure``: 0 until it is worked out, once: so that the artwork facing the eye keeps its colours under the
    default lamp. Never by lamp, which would hide the lamp."""

    width: int
    height: int
    layers: list[Layer]
    exposure: float = 0.0

    def shown(self, artworks: Sequence[Field], lamp: StockLamp) -> Field:
        """The stock (h, w, 3; encoded, 0..1) with artwork (h, w, 4; premultiplied) for each of its slots, in order;
        the last one repeats where there are too few."""
        out: Field | None = None
        turn = 0
        for layer in self.layers:
            base, ink = layer.base, np.zeros(layer.base.shape[:2], np.float32)
            if layer.slots:
                base = base.copy()
            for slot in layer.slots:
                x0, y0, x1, y1 = slot.box
                artwork = artworks[min(turn, len(artworks) - 1)]
                ink[y0:y1, x0:x1] = laid(base, layer, slot, fitted(artwork, slot))
                turn += 1
            e, gloss = light_of(layer, lamp)
            colour = to_linear(base)
            colour *= (e if layer.shines is None else mix(e, 1.0, layer.shines))[..., None]
            if layer.glass is not None and out is not None:
                colour = layer.glass(colour, out, ink)
                gloss = gloss * (1 - np.float32(_INK_DULLS) * ink) if gloss is not None else None
            if gloss is not None:
                colour += gloss[..., None]
            if out is None:
                out = colour
            else:  # an edge pixel is a share of light: mixed in linear light
                under = out[layer.y : layer.y + colour.shape[0], layer.x : layer.x + colour.shape[1]]
                under += (colour - under) * (1 if layer.mask is None else layer.mask[..., None])
        assert out is not None
        self.exposure = self.exposure or exposure(self.layers)
        return to_encoded(out * np.float32(self.exposure))


def exposure(layers: list[Layer]) -> float:
    """By how much all is made brighter so that the largest slot keeps the colours of the artwork; 1 to 1.22."""
    largest = [(s.mask.sum(), n, s) for n, l in enumerate(layers) for s in l.slots]
    if not largest:
        return 1.0
    _, n, slot = max(largest, key=lambda found: float(found[0]))
    layer = layers[n]
    if layer.shines is not None:
        return 1.0
    kept = dict(layer.lit)
    x0, y0, x1, y1 = slot.box
    e = light_of(layer, StockLamp())[0][y0:y1, x0:x1]
    layer.lit.clear()
    layer.lit.update(kept)
    return float(np.clip(0.97 / np.percentile(e[slot.mask > 0.9], 65), 1, 1.22))
