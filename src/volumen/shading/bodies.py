"""Bodies: gradients that make a flat outline look like a ball, a tube or a dish under the lamp.

The outline's box is the unit disc (ball, dish) or the unit strip (tube). At distance s from the middle the
surface tilts by asin(roundness · s). Seen from above, under a lamp that stands (90° - height) from the
vertical, the light at tilt θ along the lamp's direction is cos(θ - lamp tilt).

For the round bodies a radial gradient has three free numbers along that axis: focus, centre and radius. The
focus is put on the brightest point, the circle through the far rim, and the centre where the near rim gets
the stop of equal light on the far side. Light is then exact along the whole far axis and at the near rim.
"""

from __future__ import annotations

import math
from functools import lru_cache
from typing import Literal

import numpy as np

from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, apply_vector, invert, multiply, rotation, scaling, translation, unit
from volumen.geometry.path import Box
from volumen.shading.lamp import Lamp
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour, Gradient, Linear, Radial, Stop

BodyKind = Literal["ball", "tube", "dish"]
_SAMPLES = 49


def body_gradient(
    kind: BodyKind, box: Box, base: Colour, lamp: Lamp, world: Affine, material_name: str,
    strength: float = 1.0, roundness: float = 1.0, bounce: float = 0.4, turn: float = 0.0,
) -> Gradient:  # fmt: skip
    """The gradient of a body, in the shape's own coordinates.

    ``box`` is the outline's box there, ``world`` maps it to the sheet (the lamp stands on the sheet, so a
    turned shape keeps its light). ``strength`` 0..1 fades to the flat base colour, ``bounce`` 0..1 is the light
    reflected into the shadow, ``turn`` turns the axis of a tube in degrees.
    """
    cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    rx, ry = max((box[2] - box[0]) / 2, 1e-6), max((box[3] - box[1]) / 2, 1e-6)
    toward = _local_direction(lamp.toward, world)
    rho = min(max(roundness, 0.02), 1.0)
    tilt = math.pi / 2 - lamp.elevation
    look = (base, material_name, min(max(strength, 0.0), 2.0), rho, min(max(bounce, 0.0), 1.0), lamp.strength)
    if kind == "tube":
        return _tube((cx, cy), (rx, ry), toward, tilt, look, turn)
    if kind == "dish":
        toward = (-toward[0], -toward[1])
    return _round_body((cx, cy), (rx, ry), toward, tilt, look)


Look = tuple[Colour, str, float, float, float, float]


def _local_direction(direction: Point, world: Affine) -> Point:
    inverse = invert(world)
    local = apply_vector(inverse, direction) if inverse else direction
    return unit(local) or direction


def _round_body(centre: Point, radii: Point, toward: Point, tilt: float, look: Look) -> Radial:
    u = unit((toward[0] / radii[0], toward[1] / radii[1])) or (0.0, -1.0)
    rho = look[3]
    near = math.asin(rho)  # tilt of the rim
    focus = min(math.sin(tilt) / rho, 0.9)
    shift = 0.0
    if near > tilt and 2 * tilt - near > -math.pi / 2:
        equal = math.sin(2 * tilt - near) / rho  # far-side point lit like the near rim
        t_near = (focus - equal) / (1 + focus)
        if t_near > 1e-3:
            shift = min(max(((1 - focus) / t_near + focus - 1) / 2, 0.0), 1.5)
    angle = math.degrees(math.atan2(u[1], u[0]))
    to_shape = multiply(translation(*centre), multiply(scaling(*radii), rotation(angle)))
    stops = _stops(look, tilt, focus, -1.0)
    return Radial(stops, (shift, 0.0), 1 + shift, (focus, 0.0), to_shape, oklab=False)


def _tube(centre: Point, radii: Point, toward: Point, tilt: float, look: Look, turn: float) -> Linear:
    lengthwise = 0.0 if radii[0] >= radii[1] else 90.0
    a = math.radians(lengthwise + turn + 90)
    across = (math.cos(a), math.sin(a))
    facing = across[0] * toward[0] + across[1] * toward[1]
    if facing < 0:
        across, facing = (-across[0], -across[1]), -facing
    # Only the part of the lamp's tilt that lies across the axis shades a tube.
    tilt_across = math.atan2(math.sin(tilt) * facing, max(math.cos(tilt), 1e-6))
    reach = abs(across[0]) * radii[0] + abs(across[1]) * radii[1]
    start = (centre[0] + across[0] * reach, centre[1] + across[1] * reach)
    end = (centre[0] - across[0] * reach, centre[1] - across[1] * reach)
    return Linear(_stops(look, tilt_across, 1.0, -1.0), start, end, oklab=False)


@lru_cache(maxsize=8192)
def _stops(look: Look, tilt: float, first: float, last: float) -> tuple[Stop, ...]:
    """Stops of the tones met on the way from position ``first`` to ``last`` along the lamp's axis."""
    base, name, strength, rho, bounce, lamp_strength = look
    t = np.linspace(0, 1, _SAMPLES)
    s = first + t * (last - first)
    theta = np.arcsin(np.clip(rho * s, -1, 1))
    lab = tones(base, material(name), np.cos(theta - tilt), theta - tilt, s, bounce, lamp_strength)
    flat = oklab.from_srgb(base.rgb)
    lab = flat + (lab - flat) * strength
    rgb = oklab.lch_to_srgb(oklab.to_lch(lab))
    # The samples are dense enough to be joined in plain sRGB, so the gradient needs no further stops anywhere.
    kept = _fewest(t, rgb, 0.004)
    return tuple(Stop(float(t[i]), _colour(rgb[i], base.a)) for i in kept)


def _colour(rgb: Floats, alpha: float) -> Colour:
    r, g, b = rgb.tolist()
    return Colour(r, g, b, alpha)


def tones(
    base: Colour, m: Material, light: Floats, from_lamp: Floats, s: Floats, bounce: float, lamp_strength: float
) -> Floats:
    """OKLab (n, 3) of the five tones: highlight, light, core shadow, reflected light, edge.

    ``light`` is the cosine between surface and lamp, ``from_lamp`` the angle between them in radians,
    ``s`` the position (-1 far rim .. 1 near rim).
    """
    lum, chroma, hue = oklab.to_lch(oklab.from_srgb(base.rgb))
    diffuse = np.maximum(light, 0) * lamp_strength
    # The base colour is what the artist chose for the middle of the light: it sits at 0.7 of full light.
    up = np.clip((diffuse - 0.7) / 0.3, 0, 2)
    down = np.clip((0.7 - diffuse) / 0.7, 0, 1) ** 1.25
    if m.bands:
        ripple = np.exp(-(((diffuse - 0.42) / 0.10) ** 2)) - 0.7 * np.exp(-(((diffuse - 0.62) / 0.08) ** 2))
        down = np.clip(down - m.bands * ripple, 0, 1)
    far = np.clip(-s, 0, 1)
    reflected = bounce * 0.55 * far**3 * np.clip((0.55 - diffuse) / 0.55, 0, 1)
    rim = m.edge * far**14
    depth = m.contrast * np.clip(down - reflected, 0, 1)
    lightness = lum * (1 - depth) + (1 - lum) * (m.lighten * up + 0.6 * rim)
    gain = chroma * (1 + m.chroma * np.clip(down * 2, 0, 1) - 0.55 * down**2 - 0.25 * up - 0.3 * rim)
    turned = hue + m.hue_shift * (down - 0.5 * up)
    lab = oklab.from_lch(np.stack([lightness, np.maximum(gain, 0), turned], axis=-1))
    # The half vector between lamp and eye turns half as far: a highlight falls off with twice the angle.
    spark = m.gloss * np.exp(-((np.asarray(from_lamp) / (m.gloss_size * 2.2)) ** 2) * 2.2) * min(lamp_strength, 1.5)
    white = oklab.from_lch(np.array([0.985, chroma * 0.55 * m.tinted_gloss, hue]))
    mix = np.clip(spark, 0, 1)[:, None]
    return np.asarray(lab * (1 - mix) + white * mix)


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
