"""Views of a picture as the press will make it: printed, how much ink lies where, plate by plate."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

from volumen.colour.difference import srgb_difference
from volumen.colour.press import PRINTABLE, Bytes, levels_of, press_difference, printed, separated, total_ink
from volumen.colour.press_settings import Press
from volumen.colour.srgb import Floats, from_linear, to_linear
from volumen.colour.values import values_of

Kind = Literal["as drawn", "values", "press", "ink", "plates", "difference"]
_VEIL = np.array([240, 150, 0], np.float32)  # what the press cannot reach, in stripes
_STRIPE = 4  # pixels
# Colours of the map of total ink, by its share of the limit: paper, a little, much, at the limit.
_MAP_AT = np.array([0.0, 0.35, 0.8, 1.0])
_MAP = np.array([[255, 255, 255], [196, 214, 222], [64, 110, 140], [16, 42, 66]], np.float32)
# Colours of the map of differences, by CIEDE2000: none, seen side by side, plain, large.
_APART_AT = np.array([0.0, 1.0, 3.0, 10.0, 20.0])
_APART = np.array([[250, 249, 245], [226, 224, 214], [240, 174, 69], [216, 64, 32], [80, 16, 30]], np.float32)
_OVER = np.array([216, 64, 32], np.uint8)


class ProofView(msgspec.Struct, frozen=True, tag="press"):
    """What to show of a picture. ``veil`` stripes what is out of gamut; ``plates`` are those shown, by their number;
    ``coloured`` shows them in their inks, otherwise one in grey."""

    kind: Kind = "as drawn"
    press: Press = Press()
    veil: bool = True
    plates: tuple[int, ...] = (0, 1, 2, 3)
    coloured: bool = True


class Spot(NamedTuple):
    """The plate of a spot ink: its look (encoded sRGB, 0..1) and how much of it lies where (h, w; 255 is solid)."""

    rgb: tuple[float, float, float]
    cover: Bytes


class Proof(NamedTuple):
    """A view: 8-bit sRGB and alpha (h, w, 4); what was measured; the inks (h, w, 4 and one more for each spot ink)
    where there are any."""

    pixels: Bytes
    figures: dict[str, float]
    inks: Bytes | None = None


def proof_of(pixels: Bytes, view: ProofView, spots: Sequence[Spot] = ()) -> Proof:
    """A view of a picture (h, w, 4; 8-bit, straight) of the process colours, and of spot inks laid over them. Raises
    ProfileProblem.

    Figures of ``press``: ``out``, the share out of gamut in percent, and ``worst``, the largest CIEDE2000. Of
    ``ink`` and ``plates``: ``mean`` and ``most`` ink where anything is printed, ``over`` the share beyond the limit,
    all in percent.
    """
    if view.kind in ("as drawn", "difference"):
        return Proof(pixels, {})
    if view.kind == "values":
        shown = pixels.copy()
        shown[..., :3] = values_of(pixels[..., :3])[..., None]
        return Proof(shown, {})
    rgb = on_white(pixels)
    inks = separated(rgb, view.press)
    there = pixels[..., 3] > 0
    every = np.concatenate([inks, *(s.cover[..., None] for s in spots)], axis=-1) if spots else inks
    if view.kind == "press":
        made = _pressed(rgb, inks, there, view)
        return Proof(_opaque(overprinted(made.pixels[..., :3], spots)), made.figures, every)
    figures = ink_figures(every, view.press)
    shown = _ink_map(every, view.press) if view.kind == "ink" else plates_of(every, view, spots)
    return Proof(_opaque(shown), figures, every)


def overprinted(rgb: Bytes, spots: Sequence[Spot]) -> Bytes:
    """The look of spot inks on a print (h, w, 3): ink over ink, each a filter on what lies beneath it, in linear light.
    On white a tint looks as its swatch."""
    if not any(s.cover.any() for s in spots):
        return rgb
    light = to_linear(rgb / 255)
    for spot in spots:
        tint = spot.cover[..., None] / 255
        light = light * to_linear(1 - tint * (1 - np.array(spot.rgb)))
    return levels_of(from_linear(light))


def on_white(pixels: Bytes) -> Bytes:
    """A picture as it lies on white paper (h, w, 3)."""
    alpha = pixels[..., 3:].astype(np.uint16)
    if alpha.min(initial=255) == 255:
        return np.ascontiguousarray(pixels[..., :3])
    return ((pixels[..., :3] * alpha + 255 * (255 - alpha) + 127) // 255).astype(np.uint8)


def ink_figures(inks: Bytes, press: Press) -> dict[str, float]:
    """How much ink inks (h, w, 4) are, in percent, where there is any."""
    total = total_ink(inks)
    wet = total[total > 0]
    if not wet.size:
        return {"mean": 0.0, "most": 0.0, "over": 0.0}
    over = np.count_nonzero(wet > press.ink_limit) / wet.size
    return {"mean": float(wet.mean()), "most": float(wet.max()), "over": float(over) * 100}


def _pressed(rgb: Bytes, inks: Bytes, there: NDArray[np.bool_], view: ProofView) -> Proof:
    shown = printed(inks, view.press)
    miss = press_difference(rgb, view.press)[there]
    figures = {"out": 0.0, "worst": 0.0}
    if miss.size:
        figures = {"out": float((miss > PRINTABLE).mean() * 100), "worst": float(miss.max())}
    if view.veil and figures["out"] > 0:
        beyond = there.copy()
        beyond[there] = miss > PRINTABLE
        y, x = np.nonzero(beyond)
        on = (x + y) // _STRIPE % 2 == 0
        y, x = y[on], x[on]
        shown = shown.copy()
        shown[y, x] = (0.35 * shown[y, x] + 0.65 * _VEIL).astype(np.uint8)
    return Proof(_opaque(shown), figures, inks)


def _ink_map(inks: Bytes, press: Press) -> Bytes:
    """Total ink as colours: from paper to dark at the limit, and a warning beyond it."""
    share = total_ink(inks) / press.ink_limit
    made = _mapped(share, _MAP_AT, _MAP)
    made[share > 1] = _OVER
    return made


def _mapped(values: Floats, at: Floats, colours: NDArray[np.float32]) -> Bytes:
    """Values (h, w) as colours that run through ``colours`` (n, 3) at ``at`` (n,), in 256 steps."""
    table = np.stack([np.interp(np.linspace(0, at[-1], 256), at, colours[:, k]) for k in range(3)], axis=-1)
    return np.asarray(table.astype(np.uint8)[np.clip(values / at[-1] * 255, 0, 255).astype(np.uint8)])


def plates_of(inks: Bytes, view: ProofView, spots: Sequence[Spot] = ()) -> Bytes:
    """Some of the plates laid on one another in their inks, or their darkness in grey."""
    kept, shown = np.zeros_like(inks), [k for k in view.plates if k < inks.shape[-1]]
    kept[..., shown] = inks[..., shown]
    if view.coloured:
        seen = [s for k, s in enumerate(spots) if k + 4 in shown]
        return overprinted(printed(kept[..., :4], view.press), seen)
    grey = 255 - np.minimum(kept.sum(axis=-1, dtype=np.uint16), 255).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=-1)


def _opaque(rgb: Bytes) -> Bytes:
    return np.concatenate([rgb, np.full((*rgb.shape[:-1], 1), 255, np.uint8)], axis=-1)


def difference_of(mine: Bytes, other: Bytes) -> Proof:
    """Where two pictures (h, w, 4) differ, on white: CIEDE2000 as a map, its ``mean`` and ``worst``."""
    a, b = on_white(mine), on_white(other)
    miss = np.zeros(a.shape[:2])
    apart = (a != b).any(axis=-1)
    if apart.any():
        miss[apart] = srgb_difference(a[apart] / 255, b[apart] / 255)
    return Proof(_opaque(_mapped(miss, _APART_AT, _APART)), {"mean": float(miss.mean()), "worst": float(miss.max())})
