"""Bursts of tapering rays round a centre or side by side, held between two outlines."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import shapely

from volumen.geometry.affine import Floats, Point
from volumen.geometry.boolean import boolean
from volumen.geometry.curve import flatten
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Contour, Path, contour_from_lines
from volumen.geometry.ray_clip import cut_to, polygon_contours
from volumen.geometry.scattering import noise
from volumen.geometry.winding import simplified, wound

_START, _END = 21, 22  # what a random number is for


class Burst(NamedTuple):
    """How rays stand. Lengths in units, angles in degrees; widths are shares of the room that a ray has, so no number
    of rays makes them overlap; ``widest`` is a share of a ray's length, the random parts of its ends too."""

    radial: bool
    centre: Point
    angle: float  # of the first ray, or of all parallel ones
    sweep: float
    number: int
    inner: float  # where rays start: from the centre, or before the middle of parallel ones
    reach: float  # where they end, and how far parallel ones spread to both sides
    narrow: float
    wide: float
    widest: float
    start: float
    end: float
    seed: int


def ray_polygons(b: Burst) -> Floats:
    """The rays as hexagons (count, 6, 2): start, widest place and end, on both sides."""
    k = np.arange(b.number)
    length = b.reach - b.inner if b.radial else 2 * b.reach
    first = (b.inner if b.radial else -b.reach) + noise(b.seed, k, _START) * b.start * length
    last = b.reach - noise(b.seed, k, _END) * b.end * length
    last = np.maximum(last, first + 1e-6 * max(abs(b.reach), 1e-6))
    middle = first + (last - first) * b.widest
    far = np.stack([first, middle, last], axis=1)
    share = np.array([b.narrow, b.wide, b.narrow])
    if b.widest <= 0 or b.widest >= 1:  # it goes on being narrower, or wider, all the way
        share = np.array([b.wide, b.wide, b.narrow] if b.widest <= 0 else [b.narrow, b.wide, b.wide])
    whole = abs(b.sweep) >= 360
    if b.radial:
        step = b.sweep / (b.number if whole else max(b.number - 1, 1))
        turn = np.radians(b.angle + step * k)
        half = np.tan(np.radians(min(abs(step), 170.0)) / 2) * far * share
        u = np.stack([np.cos(turn), np.sin(turn)], axis=1)
        base = np.zeros((b.number, 2))
    else:
        turn = np.full(b.number, math.radians(b.angle))
        pitch = 2 * b.reach / max(b.number, 1)
        half = np.broadcast_to(pitch / 2 * share, far.shape)
        u = np.stack([np.cos(turn), np.sin(turn)], axis=1)
        base = (-b.reach + pitch * (k + 0.5))[:, None] * np.stack([-u[:, 1], u[:, 0]], axis=1)
    v = np.stack([-u[:, 1], u[:, 0]], axis=1)
    spine = np.array(b.centre) + base[:, None] + far[..., None] * u[:, None]
    side = half[..., None] * v[:, None]
    return np.concatenate([spine + side, (spine - side)[:, ::-1]], axis=1)


def rays_within(b: Burst, outer: Path | None, inner: Path | None) -> Path:
    """Rays cut to the inside of one outline and to the outside of another; nonzero filled.

    Raises PathOpError where the outlines themselves cannot be combined.
    """
    polygons = ray_polygons(b)
    if outer is None and inner is None:
        return Path(polygon_contours(polygons))
    if outer is None:
        size = 2 * (abs(b.reach) + 1) * 1.5
        x, y = b.centre
        outer = Path(
            (
                contour_from_lines(
                    [(x - size, y - size), (x + size, y - size), (x + size, y + size), (x - size, y + size)]
                ),
            )
        )
    region = simplified(outer) if inner is None else _ring(outer, inner) or wound(boolean(outer, inner, "subtract"))
    box = region.bounds()
    if box is None or min(box[2] - box[0], box[3] - box[1]) < 1e-9:
        return Path()  # there is no room
    made = cut_to(polygons, region)
    rest: list[Contour] = []
    for k in made.failed:  # seldom: a ray through a corner of the region
        try:
            rest += simplified(boolean(Path(polygon_contours(polygons[k : k + 1])), region, "intersect")).contours
        except PathOpError:
            continue
    return Path((*made.contours, *rest))


def _ring(outer: Path, inner: Path) -> Path | None:
    """One contour less another that lies well inside it, for the nonzero rule; None where they do not lie so.

    While a point of a bound is dragged this is so nearly always, and asks for no boolean.
    """
    if len(outer.contours) != 1 or len(inner.contours) != 1 or not (outer.contours[0].closed and inner):
        return None
    l, t, r, b = outer.hull() or (0.0, 0.0, 0.0, 0.0)
    chord = 2e-4 * max(r - l, b - t)
    around, within = (shapely.linearrings(flatten(p.contours[0], chord)[0]) for p in (outer, inner))
    if not (around.is_simple and within.is_simple and shapely.contains(shapely.polygons(around), within)):
        return None
    if shapely.distance(around, within) <= 4 * chord:
        return None
    return wound(Path((*outer.contours, *inner.contours), True))
