"""The plain gradients of round bodies: one radial gradient with a focus, squashed along the lamp's axis.

On a sphere the places of equal angle to the lamp are circles. Seen from above they are ellipses of one aspect whose
centres wander along the lamp's axis, and a focal radial gradient under a squash has just such a family of lines. With
``Q = B p`` the squashed place in the unit disc, a line of radius r is ``|Q - f - k r| = r``: focus ``f``, drift ``k``.
``_TABLE`` holds squash, focus and drift by the lamp's height, fitted by ``scripts/fit_round_gradients.py`` once for all
materials and roundness. Colours are the least squares of the surface's own tones at places of the disc.

A highlight has lines of its own, about the half vector between lamp and eye, and a gradient of its own over the rest.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from scipy.interpolate import PchipInterpolator

from volumen.caching import by_value
from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.shading.paint import Colour, Radial, Stop
from volumen.shading.surfaces import affine_of, ball, lean_of
from volumen.shading.tones import (
    GLOSS_WIDTH,
    Direction,
    Lighting,
    Look,
    gloss_colour,
    gloss_share,
    half_vector,
    lit,
    reduced,
)

# Lamp's height in degrees; squash, focus in radii, drift.
_TABLE = np.array([
    [5, 0.273, 1.116, -0.546], [10, 0.400, 1.131, -0.523], [15, 0.509, 1.141, -0.516], [20, 0.606, 1.141, -0.522],
    [25, 0.681, 1.121, -0.549], [30, 0.732, 1.074, -0.597], [40, 0.791, 0.925, -0.646], [50, 0.852, 0.812, -0.636],
    [60, 0.923, 0.693, -0.560], [70, 0.979, 0.521, -0.432], [80, 1.000, 0.288, -0.252], [90, 1.000, 0.000, 0.000],
])  # fmt: skip
_table = PchipInterpolator(_TABLE[:, 0], _TABLE[:, 1:])
# On an ellipse the lines are no conics: which share of its aspect squash, axis, heights and focus take (fitted too).
_ASPECT, _AXIS, _SQUASH_HEIGHT, _FOCUS_AXIS, _FOCUS_HEIGHT, _DRIFT_HEIGHT = 0.33, 0.75, 0.21, -0.30, -0.77, -0.91
_STOPS, _PLACES = 24, 128
_SMOOTH = 0.3  # weight of second differences: few places a stop would leave rings, and some stops meet none
OWN_GLOSS = 0.3  # materials from this gloss on have their highlight as a gradient of its own
_GLOSS_REACH, _GLOSS_FADE, _GLOSS_STOPS = 1.2, 1.5, 13
_ALIKE = 0.98  # from this share of the radii on an ellipse is a circle


class Lines(NamedTuple):
    """A family of lines: the squash ``b`` (2, 2) from the unit disc, focus and drift (2,) there."""

    b: Floats
    focus: Floats
    drift: Floats

    def radius(self, places: Floats) -> Floats:
        """The radius (n,) of the line through each place (n, 2) of the unit disc."""
        away = places @ self.b.T - self.focus
        along, rest = away @ self.drift, 1 - self.drift @ self.drift
        return np.asarray((np.sqrt(np.maximum(along**2 + rest * (away**2).sum(axis=1), 0)) - along) / rest)


def sunflower(count: int) -> Floats:
    """Places (count, 2) spread evenly over the unit disc."""
    i = np.arange(count) + 0.5
    r, turn = np.sqrt(i / count) * 0.995, i * math.pi * (3 - math.sqrt(5))
    return np.stack([r * np.cos(turn), r * np.sin(turn)], axis=1)


_SUNFLOWER = sunflower(_PLACES)
_RIM = np.stack([np.cos(np.linspace(0, 2 * np.pi, 72)), np.sin(np.linspace(0, 2 * np.pi, 72))], axis=1)


def _unit(v: Floats) -> Floats:
    size = float(np.hypot(*v))
    return v / size if size > 1e-9 else np.array([1.0, 0.0])


def _lines(short: float, towards: Direction, rho: float) -> Lines:
    """The lines of equal light on a ball under a lamp."""
    aspect, level, z = np.array([short, 1.0]), np.array(towards[:2]), towards[2]

    def height(share: float) -> float:
        return min(max(math.degrees(math.atan2(z, float(np.hypot(*(level * aspect**share))))), 5.0), 90.0)

    d = _unit(level * aspect**_AXIS)
    squash, focus = float(_table(height(_SQUASH_HEIGHT))[0]), float(_table(height(_FOCUS_HEIGHT))[1])
    b = np.array([d / squash, [-d[1], d[0]]]) * aspect**_ASPECT
    at = b @ (_unit(level * aspect**_FOCUS_AXIS) * (focus / rho))
    return Lines(b, at, float(_table(height(_DRIFT_HEIGHT))[2]) * _unit(at))


@by_value("round gradients", 4096)
def round_gradient(short: float, look: Look, light: Lighting, towards: Direction, clear: bool) -> Radial:
    """The gradient of a ball in the unit disc, which lies on the sheet with radii 1 along x and ``short`` along y.

    ``towards`` is the direction that its lines go by. ``clear`` lets what lies beneath show between where light
    gathers and where it is dark.
    """
    matrix = np.diag([1.0, short])
    lines = _lines(short, towards, look.roundness)
    rim = lines.radius(_RIM)
    inside = np.linalg.solve(lines.b, lines.focus)
    first, last = 0.0 if inside @ inside < 1 else float(rim.min()), float(rim.max())
    steps = first + np.linspace(0, 1, _STOPS) * (last - first)
    places = np.concatenate([_SUNFLOWER, _far_axis(lines, steps)])
    normals, s = ball(places, matrix, look.roundness, lean_of(light))
    colours = lit(look, light, normals, s)
    alpha = _let_through(normals, light.key) if clear else np.ones(len(places))
    share = (lines.radius(places) - first) / max(last - first, 1e-9)
    made = least_squares(np.clip(share, 0, 1), np.concatenate([colours * alpha[:, None], alpha[:, None]], axis=1))
    seen = np.clip(made[:, 3:], 1e-3, 1)
    rgba = np.concatenate([np.clip(made[:, :3] / seen, 0, 1), seen if clear else np.ones_like(seen)], axis=1)
    stops = tuple(_with_alpha(s, look.base.a) for s in reduced(steps / last, rgba))
    return _radial(lines, stops, lines.focus + lines.drift * last, last)


def _with_alpha(s: Stop, alpha: float) -> Stop:
    return Stop(s.at, s.colour.with_alpha(s.colour.a * alpha))


def _radial(lines: Lines, stops: tuple[Stop, ...], centre: Floats, radius: float) -> Radial:
    (cx, cy), (fx, fy) = centre.tolist(), lines.focus.tolist()
    return Radial(stops, (cx, cy), radius, (fx, fy), affine_of(np.asarray(np.linalg.inv(lines.b))), oklab=False)


def _far_axis(lines: Lines, steps: Floats) -> Floats:
    """One place a stop on the far side of the focus: they move with the lines, so that no stop is left without one."""
    ahead = _unit(lines.focus)
    q = lines.focus + np.outer(steps, lines.drift - ahead)
    p = q @ np.linalg.inv(lines.b).T
    return np.asarray(p / np.maximum(np.hypot(p[:, 0], p[:, 1]), 0.995)[:, None] * 0.995)


def least_squares(share: Floats, values: Floats) -> Floats:
    """Values (stops, c) at even stops, joined by straight lines, nearest to ``values`` (n, c) at ``share`` (n,)."""
    weights = _weights(share)
    bend = np.diff(np.eye(_STOPS), n=2, axis=0)
    normal = weights.T @ weights + _SMOOTH * len(share) / _STOPS * bend.T @ bend + 1e-9 * np.eye(_STOPS)
    return np.asarray(np.linalg.solve(normal, weights.T @ values))


def stops_at(share: Floats, stops: Floats) -> Floats:
    """Values (n, c) of even stops (stops, c) at ``share`` (n,)."""
    return np.asarray(_weights(share) @ stops)


def _weights(share: Floats) -> Floats:
    """How much (n, stops) each even stop counts at shares (n,) of the way."""
    place = share * (_STOPS - 1)
    i = np.minimum(place.astype(int), _STOPS - 2)
    weights = np.zeros((len(share), _STOPS))
    rows = np.arange(len(share))
    weights[rows, i], weights[rows, i + 1] = 1 - (place - i), place - i
    return weights


def _let_through(normals: Floats, key: Direction) -> Floats:
    """How much is seen (n,) of a clear drop: least half way between the nearest and the farthest from the lamp."""
    angle = np.arccos(np.clip(normals @ np.array(key), -1, 1))
    share = (angle - angle.min()) / max(float(np.ptp(angle)), 1e-9)
    return np.asarray(0.25 + 0.75 * np.abs(2 * share - 1) ** 1.5)


@by_value("highlights", 4096)
def highlight(
    short: float, look: Look, light: Lighting, towards: Direction, strength: float, tint: tuple[float, float, float]
) -> Radial:  # fmt: skip
    """The highlight of one lamp on such a ball: exact on a circle, an ellipse about its middle on others."""
    rho, half = look.roundness, half_vector(towards)
    level = half[:2]
    reach = _GLOSS_REACH * GLOSS_WIDTH * look.material.gloss_size
    angles = np.linspace(0, reach, _GLOSS_STOPS)
    mixed = np.clip(gloss_share(look.material, angles, strength) * min(look.strength, 1.0), 0, 1)
    seen = _as_alpha(mixed, look, light, half) * look.base.a
    if short > _ALIKE:
        radii, lines = np.sin(angles) / rho, _circle_lines(level, float(half[2]), rho, reach)
    else:
        radii, lines = angles, _ellipse_lines(level, float(half[2]), rho, short)
    end = float(radii[-1]) * _GLOSS_FADE
    r, g, b = (float(c * t) for c, t in zip(gloss_colour(look), tint, strict=True))
    stops = tuple(Stop(float(x / end), Colour(r, g, b, float(v))) for x, v in zip(radii, seen, strict=True))
    return _radial(lines, (*stops, Stop(1.0, Colour(r, g, b, 0.0))), lines.focus + lines.drift * end, end)


def _as_alpha(mixed: Floats, look: Look, light: Lighting, half: Floats) -> Floats:
    """The alpha that looks like a share mixed in OKLab, over the tone that faces the half vector."""
    under, white = lit(look.dull, light, half[None], np.array([0.5]))[0], gloss_colour(look)
    a, b = oklab.from_srgb(under), oklab.from_srgb(white)
    wanted = oklab.to_srgb(a + np.outer(mixed, b - a))
    way = white - under
    return np.asarray(np.clip((wanted - under) @ way / max(float(way @ way), 1e-9), 0, 1))


def _circle_lines(level: Floats, up: float, rho: float, reach: float) -> Lines:
    """Circles on a sphere about the half vector, as they are seen from above."""
    flat = float(np.hypot(*level))
    d = _unit(level)
    b = np.array([d / max(up, 0.05), [-d[1], d[0]]])
    drift = max(-flat / max(up, 0.05) * math.tan(reach / 2), -0.97)
    return Lines(b, b @ (d * (flat / rho)), drift * (b @ d) / float(np.hypot(*(b @ d))))


def _ellipse_lines(level: Floats, up: float, rho: float, short: float) -> Lines:
    """Angles from the half vector near the place that faces it, as a quadratic form."""
    aspect = np.array([short, 1.0])
    q = np.append(level / aspect, up)
    q /= np.linalg.norm(q)
    facing = np.array([*(aspect * q[:2]), q[2]])
    size = float(np.linalg.norm(facing))
    change = np.array([[aspect[0], 0.0], [0.0, aspect[1]], [-q[0] / max(q[2], 0.05), -q[1] / max(q[2], 0.05)]])
    n = facing / size
    j = rho / size * (change - np.outer(n, n @ change))
    b = np.asarray(np.linalg.cholesky(j.T @ j + 1e-9 * np.eye(2)).T, dtype=np.float64)
    return Lines(b, b @ (q[:2] / rho), np.zeros(2))
