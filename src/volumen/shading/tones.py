"""The tones of a lit surface: from the angle between surface and lamps to colour, by a material."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import msgspec
import numpy as np
from numpy.typing import NDArray

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
_DIGITS = 7
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
    """The lamps in a shape's own coordinates: unit vectors towards them (z towards the eye), strengths, colours.
    ``edged``: the light of the last of the others, an edge lamp or one from the far side, is shown apart."""

    key: Direction
    strength: float
    colour: tuple[float, float, float]
    others: tuple[tuple[Direction, float, tuple[float, float, float]], ...]
    up: Point
    ambient: tuple[float, tuple[float, float, float], tuple[float, float, float]] | None
    edged: bool = False

    @property
    def without_edge(self) -> Lighting:
        """The same without the edge lamp."""
        return replace(self, others=self.others[:-1], edged=False) if self.edged else self

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
    up, edged = local_direction((0.0, -1.0), world), lights.edge is not None and lights.edge.strength > 0
    return Lighting(towards(key, world), key.strength, key.colour.rgb, others, up, around, edged)


def towards(lamp: Lamp, world: Affine) -> Direction:
    """The unit vector towards a lamp in the coordinates that ``world`` maps to the sheet; z to the eye."""
    x, y = local_direction(lamp.toward, world)
    flat = math.cos(lamp.elevation)
    return (x * flat, y * flat, math.sin(lamp.elevation))


def _held(values: Floats, low: float, high: float) -> Floats:
    """Values held to a range; on the few of a gradient twice as fast as NumPy's own."""
    return np.minimum(np.maximum(values, low), high)


def half_vector(towards: Direction | Floats) -> Floats:
    """The unit vector (..., 3) half way between a lamp and the eye: a mirror that faces it shows the lamp."""
    h = np.asarray(towards) + (0.0, 0.0, 1.0)
    return np.asarray(h / np.maximum(np.linalg.norm(h, axis=-1, keepdims=True), 1e-9))


def lit(look: Look, light: Lighting, normals: Floats, s: Floats) -> Floats:
    """Straight sRGB (n, 3) of a surface with unit normals (n, 3); ``s`` -1..1 is how far each place lies towards the
    key lamp, from rim to rim."""
    return np.asarray(lit_each([look], [light], normals[None], s[None])[0])


def lit_each(looks: Sequence[Look], lights: Sequence[Lighting], normals: Floats, s: Floats) -> Floats:
    """Straight sRGB (m, n, 3) of m surfaces, each with n unit normals (m, n, 3), in its own look and light."""
    look = looks_of(looks)
    key = np.array([light.key for light in lights])
    strength = np.array([[light.strength] for light in lights])
    facing = _cosines(normals, key)
    angle = np.arccos(_held(_cosines(normals, half_vector(key)), -1, 1))
    more = _other_light(lights, normals)
    added: Floats | float = more.mean(axis=2) if more is not None else 0.0
    lab = _tones(look, facing, angle, s, strength, added)
    flat = look.base[:, None]
    rgb = oklab.lch_to_srgb(oklab.to_lch(flat + (lab - flat) * look.strength[..., None]))
    tinted = [k for k, light in enumerate(lights) if not light.plain]
    if tinted:
        own = (np.maximum(facing, 0) * strength)[..., None]
        colour = np.array([[light.colour] for light in lights])
        sum_ = own + np.expand_dims(added, -1)
        tint = (own * colour + (more if more is not None else 0.0)) / np.maximum(sum_, 1e-6)
        weight = _held(sum_, 0, 1) * np.minimum(look.strength, 1.0)[..., None]
        rgb[tinted] = _held(rgb * (1 - weight + weight * tint), 0, 1)[tinted]
    return _with_more_highlights(rgb, look, lights, normals) if look.gloss.any() else rgb


def _with_more_highlights(rgb: Floats, look: Looks, lights: Sequence[Lighting], normals: Floats) -> Floats:
    """Colours (m, n, 3) of surfaces with the highlights of the lamps beside the key lamp."""
    for towards, strength, colour in _other_lamps(lights):
        angle = np.arccos(_held(_cosines(normals, half_vector(towards)), -1, 1))
        share = gloss_share(look.gloss, look.gloss_size, angle, strength[:, None])
        mix = (_held(share, 0, 1) * np.minimum(look.strength, 1.0))[..., None]
        white = oklab.from_srgb(gloss_colours(look) * colour)[:, None]
        rgb = _held(oklab.to_srgb(oklab.from_srgb(rgb) * (1 - mix) + white * mix), 0, 1)
    return rgb


def _other_lamps(lights: Sequence[Lighting]) -> Iterator[tuple[Floats, Floats, Floats]]:
    """The second lamps of several lights, then the third: directions (m, 3), strengths (m,), colours (m, 3). Where
    there is none it has no strength."""
    for k in range(max(len(light.others) for light in lights)):
        lamps = [light.others[k] if k < len(light.others) else ((0.0, 0.0, 1.0), 0.0, (1.0,) * 3) for light in lights]
        towards, strength, colour = (np.array(v) for v in zip(*lamps, strict=True))
        yield towards, strength, colour


def _cosines(normals: Floats, towards: Floats) -> Floats:
    """Between normals (m, n, 3) and a direction each (m, 3)."""
    return np.asarray((normals @ towards[..., None])[..., 0])


def _other_light(lights: Sequence[Lighting], normals: Floats) -> Floats | None:
    """The light (m, n, 3) of lamps beside the key lamp and from all round; None where there is none at all."""
    if not any(light.others or light.ambient is not None for light in lights):
        return None
    more = np.zeros(normals.shape)
    for towards, strength, colour in _other_lamps(lights):
        shown = np.maximum(_cosines(normals, towards), 0) * strength[:, None]
        more += shown[..., None] * colour[:, None]
    around = [light.ambient or (0.0, (1.0,) * 3, (1.0,) * 3) for light in lights]
    amount, sky, ground = (np.array(v) for v in zip(*around, strict=True))
    up = np.array([light.up for light in lights])
    share = (1 + normals[..., :2] @ up[..., None]) / 2
    return np.asarray(more + (amount * AMBIENT)[:, None, None] * (sky[:, None] * share + ground[:, None] * (1 - share)))


@by_value("base tones", 1024)
def _base_tones(base: Colour) -> tuple[Floats, tuple[float, float, float]]:
    """A colour as OKLab (3,) and as lightness, chroma and hue."""
    lab = oklab.from_srgb(base.rgb)
    lum, chroma, hue = oklab.to_lch(lab).tolist()
    return lab, (lum, chroma, hue)


class Looks(NamedTuple):
    """The numbers of several looks: OKLab of the base colours (m, 3), all others (m, 1)."""

    base: Floats
    lum: Floats
    chroma: Floats
    hue: Floats
    strength: Floats
    bounce: Floats
    contrast: Floats
    lighten: Floats
    hue_shift: Floats
    fuller: Floats
    gloss: Floats
    gloss_size: Floats
    tinted_gloss: Floats
    edge: Floats
    bands: Floats
    glow: Floats


def looks_of(looks: Sequence[Look]) -> Looks:
    """Looks as columns, for formulas over many at once."""
    rows = []
    for look in looks:
        m = look.material
        rows.append((
            *_base_tones(look.base)[1], look.strength, look.bounce, m.contrast, m.lighten, m.hue_shift, m.chroma,
            m.gloss, m.gloss_size, m.tinted_gloss, m.edge, m.bands, m.glow,
        ))  # fmt: skip
    columns = np.array(rows).T[..., None]
    return Looks(np.array([_base_tones(look.base)[0] for look in looks]), *columns)


def _tones(
    m: Looks, light: Floats, from_half: Floats, s: Floats, lamp_strength: Floats, added: Floats | float
) -> Floats:
    """OKLab (m, n, 3) of the five tones: highlight, light, core shadow, reflected light, edge.

    ``light`` is the cosine between surface and lamp, ``from_half`` the angle between the surface and the half vector in
    radians, ``s`` the position (-1 far rim .. 1 near rim), ``added`` the light of other lamps, each (m, n).
    """
    diffuse = np.maximum(light, 0) * lamp_strength + added
    up = _held((diffuse - _MIDDLE) / (1 - _MIDDLE), 0, _BRIGHTEST)
    down = _held((_MIDDLE - diffuse) / _MIDDLE, 0, 1) ** _DARKENING
    if m.bands.any():
        dark = np.exp(-(((diffuse - _DARK_BAND) / _DARK_WIDTH) ** 2))
        bright = np.exp(-(((diffuse - _BRIGHT_BAND) / _BRIGHT_WIDTH) ** 2))
        down = _held(down - m.bands * (dark - _BRIGHT_SHARE * bright), 0, 1)
    far = _held(-s, 0, 1)
    unlit = _held((_BOUNCE_BELOW - diffuse) / _BOUNCE_BELOW, 0, 1)
    reflected = m.bounce * _BOUNCE * far**_BOUNCE_FALLOFF * unlit
    rim = m.edge * far**_RIM_FALLOFF + m.glow * _GLOW * far**_GLOW_FALLOFF
    depth = m.contrast * _held(down - reflected, 0, 1)
    lightness = m.lum * (1 - depth) + (1 - m.lum) * (m.lighten * up + _RIM_LIGHTENS * rim)
    fuller = m.fuller * _held(down * 2, 0, 1)
    gain = m.chroma * (1 + fuller - _DEEP_CHROMA * down**2 - _LIGHT_CHROMA * up - _RIM_CHROMA * rim)
    turned = m.hue + m.hue_shift * (down - _LIGHT_TURN * up)
    lab = oklab.from_lch(np.stack([lightness, np.maximum(gain, 0), turned], axis=-1))
    if not m.gloss.any():
        return lab
    mix = _held(gloss_share(m.gloss, m.gloss_size, from_half, lamp_strength), 0, 1)[..., None]
    return np.asarray(lab * (1 - mix) + oklab.from_lch(_gloss(m)) * mix)


def _gloss(m: Looks) -> Floats:
    """OKLCH (m, 1, 3) of highlights."""
    return np.stack([np.full_like(m.hue, _WHITE), m.chroma * _TINT * m.tinted_gloss, m.hue], axis=-1)


def gloss_colours(m: Looks) -> Floats:
    """Straight sRGB (m, 3) of highlights on bodies."""
    return oklab.lch_to_srgb(_gloss(m)[:, 0])


def gloss_share(gloss: Floats, size: Floats, from_half: Floats, lamp_strength: Floats) -> Floats:
    """How much of its highlight a surface shows where it is turned away from the half vector by radians; over 1 under
    a strong lamp. Arrays that fit each other."""
    falloff = np.exp(-((from_half / (size * GLOSS_WIDTH)) ** 2) * _GLOSS_FALLOFF)
    return np.asarray(gloss * falloff * np.minimum(lamp_strength, _GLOSS_MOST))


def reduced_each(t: Floats, rgba: Floats) -> list[tuple[Stop, ...]]:
    """The fewest stops that follow each of m rows of colours (m, n, 4) at places (m, n) that do not fall: dense enough
    to be joined in plain sRGB."""
    rgba = rgba.round(_DIGITS)  # so that last digits, which hang on what is worked out beside it, choose no stops
    kept = _fewest(t, rgba, _CLOSE)
    return [
        tuple([Stop(at, Colour(*c)) for at, c in zip(t[k, on].tolist(), rgba[k, on].tolist(), strict=True)])
        for k, on in enumerate(kept)
    ]


def _fewest(t: Floats, values: Floats, tolerance: float) -> NDArray[np.bool_]:
    """Which (m, n) of samples are kept so that the lines joining them stay within ``tolerance`` of all: those that are
    farthest off, piece by piece (Douglas-Peucker), in all rows at once."""
    rows, count = t.shape
    kept = np.zeros((rows, count), np.bool_)
    kept[:, [0, -1]] = True
    at, row = np.arange(count), np.arange(rows)[:, None]
    while True:
        before = np.maximum.accumulate(np.where(kept, at, 0), axis=1)
        after = np.minimum.accumulate(np.where(kept, at, count - 1)[:, ::-1], axis=1)[:, ::-1]
        w = ((t - t[row, before]) / np.maximum(t[row, after] - t[row, before], 1e-12))[..., None]
        off = np.linalg.norm(values[row, before] * (1 - w) + values[row, after] * w - values, axis=2)
        off[kept] = 0
        pieces = np.flatnonzero(kept)  # each row begins with one, so they part the flat array
        worst = np.repeat(np.maximum.reduceat(off.ravel(), pieces), np.diff(pieces, append=kept.size)).reshape(
            off.shape
        )
        new = (off == worst) & (off > tolerance)
        if not new.any():
            return kept
        kept |= new
