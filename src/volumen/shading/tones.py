"""The tones of a lit surface: from the angle between surface and lamps to colour, by a material."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, apply_vector, invert, unit
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material
from volumen.shading.paint import Colour, Stop

_SAMPLES = 49
Direction = tuple[float, float, float]


class Look(msgspec.Struct, frozen=True):
    """What a body is made of: its colour and material, how far it departs from flat, and light thrown back at it."""

    base: Colour
    material: Material
    strength: float = 1.0
    roundness: float = 1.0
    bounce: float = 0.4


class Lighting(msgspec.Struct, frozen=True):
    """The lamps in a shape's own coordinates: unit vectors towards them (z towards the eye), strengths, colours."""

    key: Direction
    strength: float
    colour: tuple[float, float, float]
    others: tuple[tuple[Direction, float, tuple[float, float, float]], ...]
    up: Point
    ambient: tuple[float, tuple[float, float, float], tuple[float, float, float]] | None

    @property
    def plain(self) -> bool:
        """Whether only a white key lamp shines."""
        return not self.others and self.ambient is None and self.colour == (1.0, 1.0, 1.0)


def local_direction(direction: Point, world: Affine) -> Point:
    """A direction on the sheet in the coordinates that ``world`` maps there."""
    inverse = invert(world)
    local = apply_vector(inverse, direction) if inverse else direction
    return unit(local) or direction


def lighting(lights: Lights, world: Affine) -> Lighting:
    """The lights as they fall on a shape at ``world``."""
    ambient = lights.ambient
    around = (ambient.strength, ambient.sky.rgb, ambient.ground.rgb) if ambient.strength > 0 else None
    others = tuple((towards(o, world), o.strength, o.colour.rgb) for o in lights.others)
    key = lights.key
    return Lighting(
        towards(key, world), key.strength, key.colour.rgb, others, local_direction((0.0, -1.0), world), around
    )


def towards(lamp: Lamp, world: Affine) -> Direction:
    """The unit vector towards a lamp in the coordinates that ``world`` maps to the sheet; z to the eye."""
    x, y = local_direction(lamp.toward, world)
    flat = math.cos(lamp.elevation)
    return (x * flat, y * flat, math.sin(lamp.elevation))


def _held(values: Floats, low: float, high: float) -> Floats:
    """Values held to a range; on the few of a gradient twice as fast as NumPy's own."""
    return np.minimum(np.maximum(values, low), high)


def lit(look: Look, light: Lighting, normals: Floats, s: Floats, from_lamp: Floats | None = None) -> Floats:
    """Straight sRGB (n, 3) of a surface with unit normals (n, 3); ``s`` -1..1 is how far each place lies towards the
    key lamp, from rim to rim."""
    facing = normals @ np.array(light.key)
    angle = np.arccos(_held(facing, -1, 1)) if from_lamp is None else from_lamp
    more = np.zeros((len(normals), 3)) if light.others or light.ambient is not None else np.zeros((1, 3))
    for direction, strength, colour in light.others:
        more += strength * np.maximum(normals @ np.array(direction), 0)[:, None] * np.array(colour)
    if light.ambient is not None:
        strength, sky, ground = light.ambient
        share = ((1 + normals[:, :2] @ np.array(light.up)) / 2)[:, None]
        more += strength * (np.array(sky) * share + np.array(ground) * (1 - share)) * 0.5
    added = more.mean(axis=1)
    lab = tones(look.base, look.material, facing, angle, s, look.bounce, light.strength, added)
    flat = _base_tones(look.base)[0]
    rgb = oklab.lch_to_srgb(oklab.to_lch(flat + (lab - flat) * look.strength))
    if light.plain:
        return rgb
    own = (np.maximum(facing, 0) * light.strength)[:, None]
    tint = (own * np.array(light.colour) + more) / np.maximum(own + added[:, None], 1e-6)
    weight = _held(own + added[:, None], 0, 1) * min(look.strength, 1.0)
    return np.asarray(_held(rgb * (1 - weight + weight * tint), 0, 1))


@by_value("base tones", 1024)
def _base_tones(base: Colour) -> tuple[Floats, tuple[float, float, float]]:
    """A colour as OKLab (3,) and as lightness, chroma and hue."""
    lab = oklab.from_srgb(base.rgb)
    lum, chroma, hue = oklab.to_lch(lab).tolist()
    return lab, (lum, chroma, hue)


@by_value("gloss", 1024)
def _gloss(chroma: float, hue: float) -> Floats:
    """OKLab (3,) of a highlight."""
    return oklab.from_lch(np.array([0.985, chroma, hue]))


def tones(
    base: Colour, m: Material, light: Floats, from_lamp: Floats, s: Floats, bounce: float, lamp_strength: float,
    added: Floats | float = 0.0,
) -> Floats:  # fmt: skip
    """OKLab (n, 3) of the five tones: highlight, light, core shadow, reflected light, edge.

    ``light`` is the cosine between surface and lamp, ``from_lamp`` the angle between them in radians,
    ``s`` the position (-1 far rim .. 1 near rim), ``added`` the light of other lamps.
    """
    lum, chroma, hue = _base_tones(base)[1]
    diffuse = np.maximum(light, 0) * lamp_strength + added
    # The base colour is what the artist chose for the middle of the light: it sits at 0.7 of full light.
    up = _held((diffuse - 0.7) / 0.3, 0, 2)
    down = _held((0.7 - diffuse) / 0.7, 0, 1) ** 1.25
    if m.bands:
        ripple = np.exp(-(((diffuse - 0.42) / 0.10) ** 2)) - 0.7 * np.exp(-(((diffuse - 0.62) / 0.08) ** 2))
        down = _held(down - m.bands * ripple, 0, 1)
    far = _held(-s, 0, 1)
    reflected = bounce * 0.55 * far**3 * _held((0.55 - diffuse) / 0.55, 0, 1)
    rim = m.edge * far**14 + m.glow * 0.8 * far**2
    depth = m.contrast * _held(down - reflected, 0, 1)
    lightness = lum * (1 - depth) + (1 - lum) * (m.lighten * up + 0.6 * rim)
    gain = chroma * (1 + m.chroma * _held(down * 2, 0, 1) - 0.55 * down**2 - 0.25 * up - 0.3 * rim)
    turned = hue + m.hue_shift * (down - 0.5 * up)
    lch = np.empty((len(diffuse), 3))
    lch[:, 0], lch[:, 1], lch[:, 2] = lightness, np.maximum(gain, 0), turned
    lab = oklab.from_lch(lch)
    # The half vector between lamp and eye turns half as far: a highlight falls off with twice the angle.
    spark = m.gloss * np.exp(-((np.asarray(from_lamp) / (m.gloss_size * 2.2)) ** 2) * 2.2) * min(lamp_strength, 1.5)
    white = _gloss(chroma * 0.55 * m.tinted_gloss, hue)
    mix = _held(spark, 0, 1)[:, None]
    return np.asarray(lab * (1 - mix) + white * mix)


def axis_stops(look: Look, light: Lighting, axis: Point, tilt: float, first: float, last: float) -> tuple[Stop, ...]:
    """Stops of the tones met on the way from position ``first`` to ``last`` along an axis of a round surface.

    ``axis`` is the unit vector on the sheet that its normals lean to at positions above 0, ``tilt`` the angle of the
    key lamp from upright along it.
    """
    others = tuple(((x * axis[0] + y * axis[1], 0.0, z), k, colour) for (x, y, z), k, colour in light.others)
    up = (light.up[0] * axis[0] + light.up[1] * axis[1], 0.0) if light.ambient is not None else (0.0, 0.0)
    turned = Lighting((math.sin(tilt), 0.0, math.cos(tilt)), light.strength, light.colour, others, up, light.ambient)
    return _axis_stops(look, turned, tilt, first, last)


@by_value("axis stops", 8192)
def _axis_stops(look: Look, light: Lighting, tilt: float, first: float, last: float) -> tuple[Stop, ...]:
    """The same with the axis along x: bodies turned with their lamp share one result."""
    t = np.linspace(0, 1, _SAMPLES)
    s = first + t * (last - first)
    theta = np.arcsin(np.clip(look.roundness * s, -1, 1))
    normals = np.stack([np.sin(theta), np.zeros_like(theta), np.cos(theta)], axis=1)
    return reduced(t, lit(look, light, normals, s, theta - tilt), look.base.a)


def reduced(t: Floats, rgb: Floats, alpha: float) -> tuple[Stop, ...]:
    """The fewest stops that follow colours (n, 3) at places (n,): dense enough to be joined in plain sRGB."""
    return tuple(Stop(float(t[i]), _colour(rgb[i], alpha)) for i in _fewest(t, rgb, 0.004))


def _colour(rgb: Floats, alpha: float) -> Colour:
    r, g, b = rgb.tolist()
    return Colour(r, g, b, alpha)


def _fewest(t: Floats, lab: Floats, tolerance: float) -> list[int]:
    """Indices of few samples whose polyline stays within ``tolerance`` of all (Douglas-Peucker)."""
    kept = {0, len(t) - 1}

    def split(i: int, j: int) -> None:
        if j - i < 2:
            return
        w = ((t[i + 1 : j] - t[i]) / (t[j] - t[i]))[:, None]
        error = np.linalg.norm(lab[i] * (1 - w) + lab[j] * w - lab[i + 1 : j], axis=1)
        if error.max() > tolerance:
            m = i + 1 + int(error.argmax())
            kept.add(m)
            split(i, m)
            split(m, j)

    split(0, len(t) - 1)
    return sorted(kept)
