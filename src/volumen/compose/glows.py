"""The colours of a glow by its strength."""

from __future__ import annotations

import numpy as np

from volumen.caching import by_value
from volumen.geometry.ease import EVEN, Ease, eased_all
from volumen.model.ingredients import InnerGlow, OuterGlow
from volumen.shading.paint import Colour, Stop
from volumen.shading.ramp import ramp

RAMP = 33  # colours of a glow's ramp


def glow_tint(glow: OuterGlow | InnerGlow) -> Colour:
    """The colour of a glow, or the one that stands for its gradient."""
    return glow.stops[0].colour.with_alpha(1.0) if glow.stops else glow.colour


Ramp = tuple[tuple[float, float, float, float], ...]


def glow_ramp(glow: OuterGlow | InnerGlow) -> Ramp:
    """Straight colours by the strength of a blurred silhouette; nothing for a glow of one colour that fades evenly.

    Outside an edge the strength falls from one half to nothing, so the colours run over that half.
    """
    if not glow.stops and glow.falloff == EVEN:
        return ()
    return _glow_ramp(glow.stops or (Stop(0.0, glow.colour.with_alpha(1.0)),), glow.falloff)


@by_value("glow ramp", 256)
def _glow_ramp(stops: tuple[Stop, ...], falloff: Ease) -> Ramp:
    t = np.linspace(0, 1, RAMP)
    rows = ramp(stops, 1 - np.clip(2 * t, 0, 1))
    rows[:, 3] *= eased_all(t, falloff)
    return tuple(tuple(row) for row in rows.tolist())
