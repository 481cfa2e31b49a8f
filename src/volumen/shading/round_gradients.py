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
from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
from scipy.interpolate import PchipInterpolator

from volumen.caching import by_values
from volumen.colour import oklab
from volumen.colour.srgb import Floats
from volumen.shading.paint import Colour, Radial, Stop
from volumen.shading.surfaces import affine_of, ball, lean_of
from volumen.shading.tones import (
    GLOSS_WIDTH,
    Direction,
    Lighting,
    Look,
    gloss_colours,
    gloss_share,
    half_vector,
    lit_each,
    looks_of,
    reduced_each,
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
_TURNS, _LEAST = 4, 0.02  # of seeking a gradient under that of another lamp; what is left of 1 where it is white
_GLOSS_REACH, _GLOSS_FADE, _GLOSS_STOPS = 1.2, 1.5, 13
_ALIKE = 0.98  # from this share of the radii on an ellipse is a circle


class Lines(NamedTuple):
    """Families of lines: the squash ``b`` (m, 2, 2) from the unit disc, focus and drift (m, 2) there."""

    b: Floats
    focus: Floats
    drift: Floats

    def radius(self, places: Floats) -> Floats:
        """The radius (m, n) of the line through each place (n, 2) or (m, n, 2) of the unit disc."""
        away = places @ self.b.transpose(0, 2, 1) - self.focus[:, None]
        along, rest = (away @ self.drift[..., None])[..., 0], (1 - (self.drift**2).sum(axis=1))[:, None]
        return np.asarray((np.sqrt(np.maximum(along**2 + rest * (away**2).sum(axis=2), 0)) - along) / rest)


class Round(NamedTuple):
    """A ball in the unit disc, which lies on the sheet with radii 1 along x and ``short`` along y. ``towards`` is the
    direction that its lines go by. ``clear`` lets what lies beneath show between where light gathers and where it is
    dark."""

    short: float
    look: Look
    light: Lighting
    towards: Direction
    clear: bool


class Shine(NamedTuple):
    """The highlight of one lamp, ``towards`` it, on such a ball."""

    short: float
    look: Look
    light: Lighting
    towards: Direction
    strength: float
    tint: tuple[float, float, float]


def sunflower(count: int) -> Floats:
    """Places (count, 2) spread evenly over the unit disc."""
    i = np.arange(count) + 0.5
    r, turn = np.sqrt(i / count) * 0.995, i * math.pi * (3 - math.sqrt(5))
    return np.stack([r * np.cos(turn), r * np.sin(turn)], axis=1)


_SUNFLOWER = sunflower(_PLACES)
_RIM = np.stack([np.cos(np.linspace(0, 2 * np.pi, 72)), np.sin(np.linspace(0, 2 * np.pi, 72))], axis=1)


def _unit(v: Floats) -> Floats:
    """Directions (m, 2) of vectors; along x where there is none."""
    size = np.hypot(v[:, :1], v[:, 1:])
    return np.where(size > 1e-9, v / np.maximum(size, 1e-9), (1.0, 0.0))


def _mapped(b: Floats, v: Floats) -> Floats:
    """Vectors (m, 2) by a matrix each (m, 2, 2)."""
    return np.asarray((b @ v[..., None])[..., 0])


def _lines(short: Floats, towards: Floats, rho: Floats) -> Lines:
    """The lines of equal light on balls (m) under a lamp each (m, 3)."""
    aspect, level, z = np.stack([short, np.ones_like(short)], axis=1), towards[:, :2], towards[:, 2]

    def height(share: float) -> Floats:
        flat = level * aspect**share
        return np.clip(np.degrees(np.arctan2(z, np.hypot(flat[:, 0], flat[:, 1]))), 5.0, 90.0)

    d = _unit(level * aspect**_AXIS)
    squash, focus = _table(height(_SQUASH_HEIGHT))[:, :1], _table(height(_FOCUS_HEIGHT))[:, 1]
    b = np.stack([d / squash, d[:, ::-1] * (-1.0, 1.0)], axis=1) * (aspect**_ASPECT)[:, None]
    at = _mapped(b, _unit(level * aspect**_FOCUS_AXIS) * (focus / rho)[:, None])
    return Lines(b, at, _table(height(_DRIFT_HEIGHT))[:, 2:] * _unit(at))


class _Fitted(NamedTuple):
    """Gradients fitted to tones: their lines (m), the radii (m, 1) of those on which the first and the last stop lie,
    and premultiplied values (m, stops, 4) at even stops between."""

    lines: Lines
    first: Floats
    last: Floats
    values: Floats

    def rows(self, some: list[int]) -> _Fitted:
        """Some of them."""
        lines = Lines(*(v[some] for v in self.lines))
        return _Fitted(lines, self.first[some], self.last[some], self.values[some])

    def share(self, places: Floats) -> Floats:
        """How far (m, n) places (m, n, 2) lie on the way from the first to the last stop."""
        way = np.maximum(self.last - self.first, 1e-9)
        return np.clip((self.lines.radius(places) - self.first) / way, 0, 1)


class _Disc(NamedTuple):
    """Where balls (m) are looked at: lines, the radii of the first and the last (m, 1), places (m, n, 2) of the unit
    disc, and the surface there (``surfaces.ball``)."""

    lines: Lines
    first: Floats
    last: Floats
    places: Floats
    normals: Floats
    s: Floats


def _disc(short: Floats, lights: Sequence[Lighting], rho: Floats, towards: Floats) -> _Disc:
    """Places all over balls that lie as ``Round`` says, with one a stop along the lines of light from ``towards``."""
    lines = _lines(short, towards, rho)
    rim = lines.radius(_RIM)
    inside = (np.linalg.solve(lines.b, lines.focus[..., None])[..., 0] ** 2).sum(axis=1) < 1
    first, last = np.where(inside, 0.0, rim.min(axis=1))[:, None], rim.max(axis=1)[:, None]
    moving = _far_axis(lines, first + np.linspace(0, 1, _STOPS) * (last - first))
    places = np.concatenate([np.broadcast_to(_SUNFLOWER, (len(rho), *_SUNFLOWER.shape)), moving], axis=1)
    matrix = np.zeros((len(rho), 2, 2))
    matrix[:, 0, 0], matrix[:, 1, 1] = 1.0, short
    return _Disc(lines, first, last, places, *ball(places, matrix, rho, np.array([lean_of(light) for light in lights])))


def _fitted(asked: Sequence[Round]) -> _Fitted:
    """The gradients of balls without the light of their edge lamps."""
    looks, lights = [r.look for r in asked], [r.light.without_edge for r in asked]
    short, rho = np.array([r.short for r in asked]), np.array([look.roundness for look in looks])
    at = _disc(short, lights, rho, np.array([r.towards for r in asked]))
    colours = lit_each(looks, lights, at.normals, at.s)
    clear = np.array([r.clear for r in asked])[:, None, None]
    alpha = np.where(clear, _let_through(at.normals, lights)[..., None], 1.0)
    bare = _Fitted(at.lines, at.first, at.last, np.zeros((len(asked), _STOPS, 4)))
    values = np.concatenate([colours * alpha, np.broadcast_to(alpha, at.s[..., None].shape)], axis=2)
    return bare._replace(values=least_squares(bare.share(at.places), values))


@by_values("round gradients", 4096)
def round_gradients(asked: list[Round]) -> list[tuple[Radial, ...]]:
    """The gradients of many balls, each in its unit disc; and what their edge lamps add, to be screened over them."""
    made = _fitted(asked)
    edged = [k for k, r in enumerate(asked) if r.light.edged]
    screens: dict[int, Radial] = {}
    if edged:
        under, over = _with_edge([asked[k] for k in edged], made.rows(edged))
        made.values[edged] = under.values
        screens = dict(zip(edged, _painted(over, [asked[k] for k in edged]), strict=True))
    return [(r, screens[k]) if k in screens else (r,) for k, r in enumerate(_painted(made, asked))]


def _painted(made: _Fitted, asked: Sequence[Round]) -> list[Radial]:
    """Fitted values as gradients."""
    seen = np.clip(made.values[..., 3:], 1e-3, 1)
    clear = np.array([r.clear for r in asked])[:, None, None]
    shown = np.array([[[r.look.base.a]] for r in asked]) * np.where(clear, seen, 1.0)
    rgba = np.concatenate([np.clip(made.values[..., :3] / seen, 0, 1), shown], axis=2)
    even = (made.first + np.linspace(0, 1, _STOPS) * (made.last - made.first)) / made.last
    return _radials(made.lines, reduced_each(even, rgba), made.last[:, 0])


def _with_edge(asked: Sequence[Round], made: _Fitted) -> tuple[_Fitted, _Fitted]:
    """Gradients without and with only the light of the lamp shown apart, of which the second is screened over the
    first.

    Lamps from opposite sides are not one family of lines, so this one has its own. Where 1 - shown = (1 - under) (1 -
    over) each of the two is a least squares while the other stays; they are sought in turns.
    """
    looks, lights = [r.look for r in asked], [r.light for r in asked]
    short, rho = np.array([r.short for r in asked]), np.array([look.roundness for look in looks])
    at = _disc(short, lights, rho, np.array([light.others[-1][0] for light in lights]))
    dark = 1 - lit_each(looks, lights, at.normals, at.s)
    over = _Fitted(at.lines, at.first, at.last, np.ones((len(asked), _STOPS, 4)))
    under, above = _weights(made.share(at.places)), _weights(over.share(at.places))
    for _ in range(_TURNS):
        left = np.maximum(1 - under @ made.values[..., :3], _LEAST)
        over.values[..., :3] = np.clip(_weighed(above, 1 - dark / left, left**2), 0, 1)
        left = np.maximum(1 - above @ over.values[..., :3], _LEAST)
        made.values[..., :3] = np.clip(_weighed(under, 1 - dark / left, left**2), 0, 1)
    return made, over


def _radials(lines: Lines, stops: Iterable[tuple[Stop, ...]], radii: Floats) -> list[Radial]:
    """Gradients along families of lines (m), whose last stops lie on lines of those radii (m,)."""
    centres = lines.focus + lines.drift * radii[:, None]
    columns = zip(stops, centres.tolist(), radii.tolist(), lines.focus.tolist(), np.linalg.inv(lines.b), strict=True)
    return [Radial(s, (x, y), r, (u, v), affine_of(back), oklab=False) for s, (x, y), r, (u, v), back in columns]


def _far_axis(lines: Lines, steps: Floats) -> Floats:
    """One place (m, stops, 2) a stop on the far side of the focus: they move with the lines, so that no stop is left
    without one."""
    q = lines.focus[:, None] + steps[..., None] * (lines.drift - _unit(lines.focus))[:, None]
    p = q @ np.linalg.inv(lines.b).transpose(0, 2, 1)
    return np.asarray(p / np.maximum(np.hypot(p[..., :1], p[..., 1:]), 0.995) * 0.995)


def least_squares(share: Floats, values: Floats) -> Floats:
    """Values (m, stops, c) at even stops, joined by straight lines, nearest to ``values`` (m, n, c) at ``share``."""
    weights = _weights(share)
    across = weights.transpose(0, 2, 1)
    return np.asarray(np.linalg.solve(across @ weights + _smoothing(share.shape[1]), across @ values))


def _weighed(weights: Floats, values: Floats, counts: Floats) -> Floats:
    """The same where each value counts as much as told, (m, n, c), and ``weights`` (m, n, stops) says how much each
    even stop counts there."""
    by_channel = weights[:, None]
    across = (by_channel * counts.transpose(0, 2, 1)[..., None]).transpose(0, 1, 3, 2)
    smooth = counts.mean(axis=1)[..., None, None] * _smoothing(weights.shape[1])
    right = across @ values.transpose(0, 2, 1)[..., None]
    return np.asarray(np.linalg.solve(across @ by_channel + smooth, right)[..., 0].transpose(0, 2, 1))


def _smoothing(places: int) -> Floats:
    """What (stops, stops) a least squares over so many places is held smooth with."""
    bend = np.diff(np.eye(_STOPS), n=2, axis=0)
    return np.asarray(_SMOOTH * places / _STOPS * bend.T @ bend + 1e-9 * np.eye(_STOPS))


def stops_at(share: Floats, stops: Floats) -> Floats:
    """Values (m, n, c) of even stops (m, stops, c) at ``share`` (m, n)."""
    return np.asarray(_weights(share) @ stops)


def _weights(share: Floats) -> Floats:
    """How much (m, n, stops) each even stop counts at shares (m, n) of the way."""
    place = share * (_STOPS - 1)
    return np.asarray(np.maximum(1 - np.abs(place[..., None] - np.arange(_STOPS)), 0))


def _let_through(normals: Floats, lights: Sequence[Lighting]) -> Floats:
    """How much is seen (m, n) of clear drops: least half way between the nearest and the farthest from the lamp."""
    key = np.array([light.key for light in lights])
    angle = np.arccos(np.clip((normals @ key[..., None])[..., 0], -1, 1))
    nearest = angle.min(axis=1, keepdims=True)
    share = (angle - nearest) / np.maximum(angle.max(axis=1, keepdims=True) - nearest, 1e-9)
    return np.asarray(0.25 + 0.75 * np.abs(2 * share - 1) ** 1.5)


@by_values("highlights", 4096)
def highlights(asked: list[Shine]) -> list[Radial]:
    """Many highlights: exact on a circle, an ellipse about its middle on others."""
    looks = looks_of([h.look for h in asked])
    rho, short = np.array([h.look.roundness for h in asked]), np.array([h.short for h in asked])
    half = half_vector(np.array([h.towards for h in asked]))
    reach = _GLOSS_REACH * GLOSS_WIDTH * looks.gloss_size
    angles = np.linspace(0, 1, _GLOSS_STOPS) * reach
    share = gloss_share(looks.gloss, looks.gloss_size, angles, np.array([[h.strength] for h in asked]))
    white = gloss_colours(looks)
    mixed = np.clip(share * np.minimum(looks.strength, 1.0), 0, 1)
    seen = _as_alpha(mixed, asked, half, white) * np.array([[h.look.base.a] for h in asked])
    circle = (short > _ALIKE)[:, None]
    radii = np.where(circle, np.sin(angles) / rho[:, None], angles)
    families = zip(_circle_lines(half, rho, reach[:, 0]), _ellipse_lines(half, rho, short), strict=True)
    lines = Lines(*(np.where(circle[..., None] if a.ndim == 3 else circle, a, b) for a, b in families))
    end = radii[:, -1] * _GLOSS_FADE
    tint = white * np.array([h.tint for h in asked])
    rgba = np.empty((len(asked), _GLOSS_STOPS + 1, 4))
    rgba[..., :3], rgba[:, :-1, 3], rgba[:, -1, 3] = tint[:, None], seen, 0.0
    at = np.concatenate([radii / end[:, None], np.ones((len(asked), 1))], axis=1)
    return _radials(lines, map(_stops, at.tolist(), rgba.tolist()), end)


def _stops(at: list[float], rgba: list[list[float]]) -> tuple[Stop, ...]:
    return tuple([Stop(t, Colour(*c)) for t, c in zip(at, rgba, strict=True)])


def _as_alpha(mixed: Floats, asked: Sequence[Shine], half: Floats, white: Floats) -> Floats:
    """The alphas (m, n) that look like shares mixed in OKLab, over the tones that face the half vectors (m, 3)."""
    dull, middle = [h.look.dull for h in asked], np.full((len(asked), 1), 0.5)
    under = lit_each(dull, [h.light for h in asked], half[:, None], middle)[:, 0]
    a, b = oklab.from_srgb(under)[:, None], oklab.from_srgb(white)[:, None]
    wanted = oklab.to_srgb(a + mixed[..., None] * (b - a))
    way = white - under
    along = ((wanted - under[:, None]) @ way[..., None])[..., 0]
    return np.asarray(np.clip(along / np.maximum((way**2).sum(axis=1, keepdims=True), 1e-9), 0, 1))


def _circle_lines(half: Floats, rho: Floats, reach: Floats) -> Lines:
    """Circles on spheres (m) about the half vectors (m, 3), as they are seen from above."""
    flat, up = np.hypot(half[:, 0], half[:, 1]), np.maximum(half[:, 2], 0.05)
    d = _unit(half[:, :2])
    b = np.stack([d / up[:, None], d[:, ::-1] * (-1.0, 1.0)], axis=1)
    drift = np.maximum(-flat / up * np.tan(reach / 2), -0.97)
    return Lines(b, _mapped(b, d * (flat / rho)[:, None]), drift[:, None] * _unit(_mapped(b, d)))


def _ellipse_lines(half: Floats, rho: Floats, short: Floats) -> Lines:
    """Angles from the half vectors (m, 3) near the places that face them, as quadratic forms."""
    aspect = np.stack([short, np.ones_like(short)], axis=1)
    q = np.concatenate([half[:, :2] / aspect, half[:, 2:]], axis=1)
    q /= np.linalg.norm(q, axis=1, keepdims=True)
    facing = np.concatenate([aspect * q[:, :2], q[:, 2:]], axis=1)
    size = np.linalg.norm(facing, axis=1, keepdims=True)
    change = np.zeros((len(q), 3, 2))
    change[:, 0, 0], change[:, 1, 1], change[:, 2] = short, 1.0, -q[:, :2] / np.maximum(q[:, 2:], 0.05)
    n = facing / size
    j = (rho[:, None] / size)[..., None] * (change - n[..., None] * (n[:, None] @ change))
    b = np.linalg.cholesky(j.transpose(0, 2, 1) @ j + 1e-9 * np.eye(2)).transpose(0, 2, 1)
    return Lines(b, _mapped(b, q[:, :2] / rho[:, None]), np.zeros((len(q), 2)))
