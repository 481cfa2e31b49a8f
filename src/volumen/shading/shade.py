"""How dark shadows are: as dark as the light that they take away."""

from __future__ import annotations

import math

from volumen.caching import by_value
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.paint import Colour
from volumen.shading.tones import AMBIENT

Light3 = tuple[float, float, float]
_DARK = 1e-3  # a channel that a lamp lacks


def on_sheet(lamp: Lamp, strength: float) -> Light3:
    """The light (red, green, blue) that a lamp of some strength throws on a sheet that faces the eye."""
    s = math.sin(lamp.elevation) * strength
    r, g, b = lamp.colour.rgb
    return (max(r, _DARK) * s, max(g, _DARK) * s, max(b, _DARK) * s)


@by_value("light taken away", 256)
def taken_away(lights: Lights, lamp: Lamp) -> Light3:
    """The share (red, green, blue; 0..1) of all light on a sheet that comes from one of its lamps.

    A lamp that alone is weaker than normal takes less away: sheets are drawn as under a normal one.
    """
    own, normal = on_sheet(lamp, lamp.strength), on_sheet(lamp, 1.0)
    lamps = [on_sheet(each, each.strength) for each in (lights.key, *lights.others)]
    ambient = lights.ambient
    around = [(a + b) / 2 * AMBIENT * max(ambient.strength, 0.0)
              for a, b in zip(ambient.sky.rgb, ambient.ground.rgb, strict=True)]  # fmt: skip
    r, g, b = (min(own[k] / max(sum(light[k] for light in lamps) + around[k], normal[k]), 1.0) for k in range(3))
    return (r, g, b)


def shaded(tint: Colour, lights: Lights, lamp: Lamp, tinted: bool = True) -> tuple[Colour, float]:
    """The multiply colour of a lamp's shadow, and the share of its opacity, from the ``tint`` of a shadow that takes
    all light away. One that is not ``tinted``, of a colour chosen by hand, only gets weaker."""
    shares = taken_away(lights, lamp)
    most = max(shares)
    if not tinted or most <= 0 or min(shares) == most:
        return tint, most
    r, g, b = (1 - (1 - c) * share / most for c, share in zip(tint.rgb, shares, strict=True))
    return Colour(r, g, b, tint.a), most
