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

AMBIENT = 0.5  # what ambient light adds where all of the sky, or all of the ground, shines
# The base colour is what the artist chose for the middle of the light: it sits at this share of full light.
_MIDDLE = 0.7
_BRIGHTEST = 2.0  # how far above the middle the light goes on to lighten, in spans of 1 - _MIDDLE
_DARKENING = 1.25  # exponent of the way from the middle to the dark
# Reflections of metals: a dark band at one share of full light beside a bright one, each a bell so wide.
_DARK_BAND, _DARK_WIDTH = 0.42, 0.10
_BRIGHT_BAND, _BRIGHT_WIDTH, _BRIGHT_SHARE = 0.62, 0.08, 0.7
# Light thrown back from the ground: on the far side, falling off with its cube, where the light is below this share.
_BOUNCE, _BOUNCE_FALLOFF, _BOUNCE_BELOW = 0.55, 3, 0.55
_RIM_FALLOFF = 14  # how narrow the edge light on the far rim is
_GLOW, _GLOW_FALLOFF = 0.8, 2  # light that a material lets out on its far side
_RIM_LIGHTENS = 0.6
# How chroma changes: fuller in half shade, less in deep shade, in full light and on the rim.
_DEEP_CHROMA, _LIGHT_CHROMA, _RIM_CHROMA = 0.55, 0.25, 0.3
_LIGHT_TURN = 0.5  # how far hue turns the other way in the light
_WHITE = 0.985  # lightness of a highlight
_TINT = 0.55  # chroma of a tinted highlight, in that of the base
# A highlight falls off with the angle between the surface and the half vector of lamp and eye.
GLOSS_WIDTH, _GLOSS_FALLOFF, _GLOSS_MOST = 2.2, 2.2, 1.5
_CLOSE = 0.004  # encoded sRGB that stops may be off the colours they follow
Direction = tuple[float, float, float]
replace = msgspec.structs.replace


class Look(msgspec.Struct, frozen=True):
    """What a body is made of: its colour and material, how far it departs from flat, and light thrown back at it."""

    base: Colour
    material: Material
    strength: float = 1.0
    roundness: float = 1.0
    bounce: float = 0.4

    @property
    def dull(self) -> Look:
        """The same without highlights."""
        return replace(self, material=replace(self.material, gloss=0.0))


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


def half_vector(towards: Direction) -> Floats:
    """The unit vector (3,) half way between a lamp and the eye: a mirror that faces it shows the lamp."""
    h = np.array([towards[0], towards[1], towards[2] + 1.0])
    return np.asarray(h / max(float(np.linalg.norm(h)), 1e-9))


def lit(look: Look, light: Lighting, normals: Floats, s: Floats) -> Floats:
    """Straight sRGB (n, 3) of a surface with unit normals (n, 3); ``s`` -1..1 is how far each place lies towards the
    key lamp, from rim to rim."""
    facing = normals @ np.array(light.key)
    angle = np.arccos(_held(normals @ half_vector(light.key), -1, 1))
    more = np.zeros((len(normals), 3)) if light.others or light.ambient is not None else np.zeros((1, 3))
    for direction, strength, colour in light.others:
        more += strength * np.maximum(normals @ np.array(direction), 0)[:, None] * np.array(colour)
    if light.ambient is not None:
        strength, sky, ground = light.ambient
        share = ((1 + normals[:, :2] @ np.array(light.up)) / 2)[:, None]
        more += strength * (np.array(sky) * share + np.array(ground) * (1 - share)) * AMBIENT
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


def gloss_colour(look: Look) -> Floats:
    """Straight sRGB (3,) of a highlight on a body."""
    _, chroma, hue = _base_tones(look.base)[1]
    return oklab.lch_to_srgb(np.array([_WHITE, chroma * _TINT * look.material.tinted_gloss, hue]))


@by_value("gloss", 1024)
def _gloss(chroma: float, hue: float) -> Floats:
    """OKLab (3,) of a highlight."""
    return oklab.from_lch(np.array([_WHITE, chroma, hue]))


def tones(
    base: Colour, m: Material, light: Floats, from_half: Floats, s: Floats, bounce: float, lamp_strength: float,
    added: Floats | float = 0.0,
) -> Floats:  # fmt: skip
    """OKLab (n, 3) of the five tones: highlight, light, core shadow, reflected light, edge.

    ``light`` is the cosine between surface and lamp, ``from_half`` the angle between the surface and the half vector in
    radians, ``s`` the position (-1 far rim .. 1 near rim), ``added`` the light of other lamps.
    """
    lum, chroma, hue = _base_tones(base)[1]
    diffuse = np.maximum(light, 0) * lamp_strength + added
    up = _held((diffuse - _MIDDLE) / (1 - _MIDDLE), 0, _BRIGHTEST)
    down = _held((_MIDDLE - diffuse) / _MIDDLE, 0, 1) ** _DARKENING
    if m.bands:
        dark = np.exp(-(((diffuse - _DARK_BAND) / _DARK_WIDTH) ** 2))
        bright = np.exp(-(((diffuse - _BRIGHT_BAND) / _BRIGHT_WIDTH) ** 2))
        down = _held(down - m.bands * (dark - _BRIGHT_SHARE * bright), 0, 1)
    far = _held(-s, 0, 1)
    unlit = _held((_BOUNCE_BELOW - diffuse) / _BOUNCE_BELOW, 0, 1)
    reflected = bounce * _BOUNCE * far**_BOUNCE_FALLOFF * unlit
    rim = m.edge * far**_RIM_FALLOFF + m.glow * _GLOW * far**_GLOW_FALLOFF
    depth = m.contrast * _held(down - reflected, 0, 1)
    lightness = lum * (1 - depth) + (1 - lum) * (m.lighten * up + _RIM_LIGHTENS * rim)
    fuller = m.chroma * _held(down * 2, 0, 1)
    gain = chroma * (1 + fuller - _DEEP_CHROMA * down**2 - _LIGHT_CHROMA * up - _RIM_CHROMA * rim)
    turned = hue + m.hue_shift * (down - _LIGHT_TURN * up)
    lch = np.empty((len(diffuse), 3))
    lch[:, 0], lch[:, 1], lch[:, 2] = lightness, np.maximum(gain, 0), turned
    lab = oklab.from_lch(lch)
    white = _gloss(chroma * _TINT * m.tinted_gloss, hue)
    mix = _held(gloss_share(m, from_half, lamp_strength), 0, 1)[:, None]
    return np.asarray(lab * (1 - mix) + white * mix)


def gloss_share(m: Material, from_half: Floats, lamp_strength: float) -> Floats:
    """How much (n,) of its highlight a surface shows where it is turned away from the half vector by radians (n,); over
    1 under a strong lamp."""
    falloff = np.exp(-((from_half / (m.gloss_size * GLOSS_WIDTH)) ** 2) * _GLOSS_FALLOFF)
    return np.asarray(m.gloss * falloff * min(lamp_strength, _GLOSS_MOST))


def reduced(t: Floats, rgba: Floats) -> tuple[Stop, ...]:
    """The fewest stops that follow colours (n, 4) at places (n,): dense enough to be joined in plain sRGB."""
    return tuple(Stop(float(t[i]), Colour(*rgba[i].tolist())) for i in _fewest(t, rgba, _CLOSE))


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
