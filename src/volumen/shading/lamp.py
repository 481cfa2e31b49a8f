"""The lamp: where light comes from, and the shadow that follows from it."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.geometry.affine import Point
from volumen.shading.paint import Colour

# Below this height the cotangent grows without use: a shadow longer than 11 times the lift.
LOWEST = 5.0
WHITE = Colour(1.0, 1.0, 1.0)


class Lamp(msgspec.Struct, frozen=True):
    """``bearing``: where its light comes from, degrees clockwise from the sheet's top edge. ``height``: 0
    grazing to 90 overhead. ``strength``: 1 is normal. ``size``: how soft its shadows are (0 hard). ``colour``: of its
    light; white leaves colours as they are. ``throws``: a fill or edge lamp throws shadows of its own, too."""

    bearing: float = 322.0
    height: float = 41.0
    strength: float = 1.0
    size: float = 0.3
    colour: Colour = WHITE
    throws: bool = False

    @property
    def toward(self) -> Point:
        """Unit vector on the sheet that points to the lamp (y down)."""
        return bearing_vector(self.bearing)

    @property
    def away(self) -> Point:
        """The unit vector on the sheet that points away from the lamp."""
        x, y = self.toward
        return (-x, -y)

    @property
    def elevation(self) -> float:
        """Height in radians, held to what shadows can use."""
        return math.radians(min(max(self.height, LOWEST), 90.0))


class Ambient(msgspec.Struct, frozen=True):
    """Light from all around: of one colour from the sheet's top edge, of another from its bottom edge."""

    strength: float = 0.0
    sky: Colour = Colour(0.85, 0.92, 1.0)
    ground: Colour = Colour(0.80, 0.72, 0.62)


class Lights(msgspec.Struct, frozen=True):
    """All light that falls on the sheet. The ``key`` lamp throws shadows; ``fill`` and ``edge`` brighten, and
    throw weaker ones where they are told to."""

    key: Lamp = Lamp()
    fill: Lamp | None = None
    edge: Lamp | None = None
    ambient: Ambient = Ambient()

    @property
    def others(self) -> tuple[Lamp, ...]:
        """The fill and edge lamps that shine."""
        return tuple(lamp for lamp in (self.fill, self.edge) if lamp is not None and lamp.strength > 0)


def bearing_of(dx: float, dy: float) -> float:
    """The bearing of a lamp that stands in direction (dx, dy) on the sheet, 0..360."""
    return math.degrees(math.atan2(dx, -dy)) % 360


@by_value("bearing vector", 256)
def bearing_vector(bearing: float) -> Point:
    """The unit vector on the sheet (y down) towards a bearing."""
    t = math.radians(bearing)
    return (math.sin(t), -math.cos(t))


def lamp_on_dome(lamp: Lamp, dx: float, dy: float, step: float = 0.0) -> Lamp:
    """The lamp moved to (dx, dy) on a dome of radius 1 seen from above; places outside lie on its rim.

    ``step`` rounds bearing and height to its multiples. Straight above, the bearing stays as it was.
    """
    far = min(math.hypot(dx, dy), 1.0)
    height = math.degrees(math.acos(far))
    bearing = bearing_of(dx, dy) if far > 1e-3 else lamp.bearing
    if step:
        bearing, height = round(bearing / step) * step % 360, round(height / step) * step
    return msgspec.structs.replace(lamp, bearing=round(bearing, 1), height=round(max(height, 3.0), 1))


def shadow_reach(lamp: Lamp) -> float:
    """How far the shadow of something lies for each unit that it is high: cot(height)."""
    return 1 / math.tan(lamp.elevation) if lamp.height < 90 else 0.0


def shadow_offset(lamp: Lamp, lift: float) -> Point:
    """How far a shadow of something at ``lift`` is shifted: lift · cot(height), away from the lamp."""
    length = lift * shadow_reach(lamp)
    return (lamp.away[0] * length, lamp.away[1] * length)


def shadow_sigma(lamp: Lamp, lift: float) -> float:
    """The blur (standard deviation, user units) of that shadow: lift · lamp size."""
    return abs(lift) * max(lamp.size, 0.0)


@by_value("shadow factor", 4096)
def shadow_factor(receiver: Colour, darkness: float) -> Colour:
    """The multiply colour that turns ``receiver`` into its own shadow.

    The shadow is the receiver's colour with its OKLCH lightness scaled down by ``darkness`` (0..1) and its
    chroma relatively raised; the factor is shadow / receiver per channel, so multiplying gives exactly that
    colour on the receiver and a sensible one elsewhere.
    """
    light, chroma, hue = oklab.to_lch(oklab.from_srgb(receiver.rgb))
    keep = 1 - 0.72 * min(max(darkness, 0.0), 1.0)
    # On neutral grounds the shadow leans to the cool side of ink, as in daylight.
    if chroma < 0.02:
        chroma, hue = 0.02, 250.0
    target = oklab.lch_to_srgb(np.array([light * keep, chroma * (0.55 * keep + 0.6), hue]))
    base = np.maximum(np.array(receiver.rgb), 1 / 255)
    r, g, b = np.clip(target / base, 0, 1)
    return Colour(float(r), float(g), float(b))
