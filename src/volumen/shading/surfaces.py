"""The surfaces that bodies are: for each the height, its normal, and where it turns from the lamp.

Everything is told on the sheet, where the lamps stand. ``A`` (2, 2) maps the unit disc to the body's ellipse there
(the box of the outline, turned and squashed by its place), ``p`` is a place in that disc, ``rho`` the roundness, and
``depth`` the shorter radius of the ellipse on the sheet: a long ball is a body turned about its long axis, and becomes
the tube as it grows.

- *ball*: the cap of an ellipsoid, height depth · sqrt(1 - rho² |p|²) / rho. Upright at the rim where rho is 1.
- *dish* and *drop*: the ball turned over, height below the sheet. Light on them is that of the ball with the lamps
  mirrored through the eye's axis (``turned_over``).
- *tube*: the same arc in one direction only: normals lean by asin(rho s) across the axis, s -1..1 from edge to edge.
- *cone*: height depth · tan(55° rho) · (1 - |p|): one normal along each line from the tip to the rim.
- *fold*: two flats that lean 38° · rho away from a crease, and a little less beside it.

Each gives unit normals and ``s``, how far a place lies towards the key lamp from rim to rim (-1..1): reflected light
and the edge tone belong to the far rim.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, unit
from volumen.shading.tones import Lighting

_STEEPEST_CONE, _STEEPEST_FOLD = math.radians(55), math.radians(38)
FOLD_PLACES = np.array([0.0, 0.36, 0.5, 0.5, 0.64, 1.0])
FOLD_SIDES = np.array([1.0, 1.0, 1.0, -1.0, -1.0, -1.0])
_FOLD_LEAN = np.array([1.0, 0.92, 0.72, 0.72, 0.92, 1.0])


def matrix_of(a: Affine) -> Floats:
    """The linear part of a map as (2, 2), held apart from singular."""
    return np.asarray(matrices_of([a])[0])


def matrices_of(maps: Sequence[Affine]) -> Floats:
    """The linear parts of maps as (m, 2, 2), held apart from singular."""
    u, sizes, vt = np.linalg.svd(np.array(maps)[:, :4].reshape(-1, 2, 2).transpose(0, 2, 1))
    return np.asarray((u * np.maximum(sizes, np.maximum(sizes[:, :1], 1e-9) * 1e-4)[:, None]) @ vt)


def affine_of(matrix: Floats) -> Affine:
    """A (2, 2) matrix as a map that leaves the origin where it is."""
    (a, c), (b, d) = matrix.tolist()
    return (a, b, c, d, 0.0, 0.0)


class Upright(NamedTuple):
    """An ellipse on the sheet seen so that its longer radius is 1 and lies along x, with the lamps turned alike.

    A circle is turned so that the key lamp stands along x: what is turned with its lamp gives one and the same.
    ``back`` maps the unit disc there to that of the ellipse.
    """

    short: float
    light: Lighting
    back: Affine


def upright(a: Floats, lights: Sequence[Lighting]) -> list[Upright]:
    """Ellipses that matrices (m, 2, 2) make of the unit disc, each under its lamps."""
    u, sizes, vt = np.linalg.svd(a)
    short = sizes[:, 1] / sizes[:, 0]
    key = np.array([light.key[:2] for light in lights])
    circle = short > 1 - 1e-6
    x, y = np.array([lean_of(light) for light in lights]).T
    leaning = np.stack([np.stack([x, -y], axis=1), np.stack([y, x], axis=1)], axis=1)
    u = np.where(circle[:, None, None], leaning, u)
    vt = np.where(circle[:, None, None], leaning.transpose(0, 2, 1) @ a / sizes[:, :1, None], vt)
    sides = np.where((key[:, None] @ u)[:, 0] < -1e-9, -1.0, 1.0)  # the lamp on the right and below
    u, vt = u * sides[:, None], vt * sides[..., None]
    shorts = np.where(circle, 1.0, short).round(9).tolist()
    backs = vt.transpose(0, 2, 1)
    return [Upright(*v) for v in zip(shorts, map(_turned, lights, u), map(affine_of, backs), strict=True)]


def _turned(light: Lighting, u: Floats) -> Lighting:
    """The lamps as they stand along the columns of ``u`` (2, 2)."""

    def turned(x: float, y: float) -> tuple[float, float]:
        p, q = (x * u[0] + y * u[1]).round(9).tolist()  # so that what is alike is kept as one
        return p + 0.0, q + 0.0

    (x, y, z), up = light.key, turned(*light.up) if light.ambient is not None else (0.0, -1.0)
    others = tuple(((*turned(dx, dy), round(dz, 9)), k, colour) for (dx, dy, dz), k, colour in light.others)
    return Lighting((*turned(x, y), round(z, 9)), light.strength, light.colour, others, up, light.ambient, light.edged)


def lean_of(light: Lighting) -> Floats:
    """The unit vector (2,) on the sheet towards the key lamp; upwards where it stands overhead."""
    return np.array(unit(light.key[:2]) or (0.0, -1.0))


def turned_over(light: Lighting) -> Lighting:
    """The lamps for a surface pressed in, as for the same one standing out."""
    x, y, z = light.key
    others = tuple(((-dx, -dy, dz), k, colour) for (dx, dy, dz), k, colour in light.others)
    up = (-light.up[0], -light.up[1])
    return Lighting((-x, -y, z), light.strength, light.colour, others, up, light.ambient, light.edged)


def ball(places: Floats, a: Floats, rho: Floats | float, lean: Floats) -> tuple[Floats, Floats]:
    """Normals (..., n, 3) and s (..., n) at places (..., n, 2) of the unit disc. Here and below ``a`` (..., 2, 2),
    ``rho`` (...) and ``lean`` (..., 2) may be those of one surface or of many."""
    slopes = places @ np.linalg.inv(a)  # rows A^-T p
    depth = np.linalg.svd(a, compute_uv=False)[..., -1]
    out = (places**2).sum(axis=-1)
    up = np.sqrt(np.maximum(1 - np.expand_dims(np.square(rho), -1) * out, 0))
    normals = np.concatenate([slopes * np.expand_dims(rho * depth, (-1, -2)), up[..., None]], axis=-1)
    normals /= np.maximum(np.linalg.norm(normals, axis=-1, keepdims=True), 1e-12)
    steepest = slopes / np.maximum(np.hypot(slopes[..., :1], slopes[..., 1:]), 1e-12)
    return normals, _along(steepest, lean) * np.sqrt(out)


def tube(s: Floats, across: Floats, world: Floats, rho: Floats | float, lean: Floats) -> tuple[Floats, Floats]:
    """Normals (..., n, 3) and s (..., n) of places -1..1 across the axis; ``across`` (..., 2) in the shape's own
    coordinates, which ``world`` (..., 2, 2) maps to the sheet."""
    c = across_on_sheet(across, world)
    tilt = np.arcsin(np.clip(np.expand_dims(rho, -1) * s, -1, 1))
    return _leaning(tilt, c), s * (c * lean).sum(axis=-1, keepdims=True)


def fold(across: Floats, world: Floats, rho: Floats | float, lean: Floats) -> tuple[Floats, Floats]:
    """Normals (..., 6, 3) and s (..., 6) at ``FOLD_PLACES`` of the way across the crease."""
    c = across_on_sheet(across, world)
    tilt = _STEEPEST_FOLD * np.expand_dims(rho, -1) * (FOLD_SIDES * _FOLD_LEAN)
    return _leaning(tilt, c), 0.4 * FOLD_SIDES * (c * lean).sum(axis=-1, keepdims=True)


def cone(directions: Floats, a: Floats, rho: Floats | float, lean: Floats) -> tuple[Floats, Floats]:
    """Normals (..., n, 3) and s (..., n) along lines from the tip to places (..., n, 2) on the rim of the unit disc."""
    depth = np.linalg.svd(a, compute_uv=False)[..., -1]
    slopes = directions @ np.linalg.inv(a)
    flat = slopes * np.expand_dims(depth * np.tan(_STEEPEST_CONE * np.asarray(rho)), (-1, -2))
    normals = np.concatenate([flat, np.ones((*flat.shape[:-1], 1))], axis=-1)
    normals /= np.linalg.norm(normals, axis=-1, keepdims=True)
    return normals, _along(slopes / np.hypot(slopes[..., :1], slopes[..., 1:]), lean)


def _along(directions: Floats, lean: Floats) -> Floats:
    return np.asarray((directions @ lean[..., None])[..., 0])


def across_on_sheet(across: Floats, world: Floats) -> Floats:
    """The unit direction (..., 2) on the sheet across an axis."""
    c = (np.asarray(across)[..., None, :] @ np.linalg.inv(world))[..., 0, :]
    return np.asarray(c / np.maximum(np.hypot(c[..., :1], c[..., 1:]), 1e-12))


def _leaning(tilt: Floats, c: Floats) -> Floats:
    return np.concatenate([np.sin(tilt)[..., None] * c[..., None, :], np.cos(tilt)[..., None]], axis=-1)
