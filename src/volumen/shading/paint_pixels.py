"""Paints worked out point by point: all gradients in closed form, meshes, and grain over any of them.

This is how paints are drawn that no drawing library knows; for the plain gradients it is the reference.
"""

from __future__ import annotations

import math

import numpy as np

from volumen.caching import Cache, MixedCache
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, apply_points, invert, mean_scale
from volumen.geometry.distance import DistanceField, distance_field
from volumen.geometry.path import Path
from volumen.shading.grain import grained
from volumen.shading.mesh import MeshError
from volumen.shading.mesh_paints import mesh_of
from volumen.shading.mesh_raster import DRAFT, FINE, Pixels, mesh_pixels
from volumen.shading.paint import (
    Conic,
    Drawn,
    Gradient,
    Grain,
    Inward,
    Linear,
    Meshed,
    Paint,
    Radial,
    ReliefPaint,
    Solid,
    Spread,
    Stop,
)
from volumen.shading.ramp import held_focus, ramp, sorted_stops
from volumen.shading.relief import PixelRange, Slopes, is_plain, relief_light, relief_strength, slopes_over

_TABLE = 2048
_FINE = 400  # nodes along an outline, to find its deepest place
_fields: MixedCache = Cache("distance fields", most_bytes=256_000_000)
_NODE = 32  # bytes of a field, with all that is worked out of it


def field_pixels(
    paint: Drawn, place: Affine, box: PixelRange, path: Path, width: float = 0.0, rough: bool = False
) -> Pixels:
    """A paint over a box of pixels, premultiplied encoded RGBA (h, w, 4); what lies outside the shape counts not.

    ``place`` maps the shape to pixels. ``path`` is the shape's outline, or the course of a line ``width`` wide.
    """
    left, top, right, bottom = box
    if isinstance(paint, Meshed):
        return _mesh(paint, place, box, rough)
    if isinstance(paint, ReliefPaint):
        return _relief(paint, place, box, path, rough)
    inverse = invert(place)
    if inverse is None or right <= left or bottom <= top:
        return np.zeros((max(bottom - top, 0), max(right - left, 0), 4), np.float32)
    points = _points(inverse, box)
    rgba = colours_at(paint, points, path, width, (4 if rough else 1) / max(mean_scale(place), 1e-9))
    rgba[..., :3] *= rgba[..., 3:]
    return rgba.astype(np.float32)


def _points(inverse: Affine, box: PixelRange) -> Floats:
    """The centres of a box of pixels, in the shape's units (h, w, 2)."""
    x, y = np.meshgrid(np.arange(box[0], box[2]) + 0.5, np.arange(box[1], box[3]) + 0.5)
    return apply_points(inverse, np.stack([x, y], axis=-1).reshape(-1, 2)).reshape(*x.shape, 2)


def _relief(paint: ReliefPaint, place: Affine, box: PixelRange, path: Path, rough: bool) -> Pixels:
    """The light of a relief."""
    leaning = _leaning(paint, place, box, path, rough)
    if leaning is None:
        return np.zeros((box[3] - box[1], box[2] - box[0], 4), np.float32)
    return relief_light(paint, leaning)


def rough_relief(paint: ReliefPaint, place: Affine, box: PixelRange, path: Path) -> Pixels:
    """The relief of a draft over a box of pixels: how strong it is (h, w), 0..1, where it has one colour all over;
    else its pixels (h, w, 4)."""
    leaning = _leaning(paint, place, box, path, True)
    if leaning is None:
        return np.zeros((box[3] - box[1], box[2] - box[0]), np.float32)
    return relief_strength(paint, leaning) if is_plain(paint) else relief_light(paint, leaning)


def _leaning(paint: ReliefPaint, place: Affine, box: PixelRange, path: Path, rough: bool) -> Slopes | None:
    """The slopes of a relief over a box of pixels. Those beside the box count where it is softened, so that parts
    join."""
    inverse = invert(place)
    step = 1 / max(mean_scale(place), 1e-9)
    more = min(math.ceil(3 * paint.soften / step), 200) + 1
    wide = (box[0] - more, box[1] - more, box[2] + more, box[3] + more)
    reach = paint.width if paint.place != "inside" else 0.0
    most = paint.width + (more + 3) * step if paint.width > 0 else math.inf
    field = _field_of(path, (2 if rough else 1) * step, reach + more * step, most)
    if inverse is None or field is None:
        return None
    return slopes_over(paint, field, inverse, wide, more)


def _mesh(paint: Meshed, place: Affine, box: PixelRange, rough: bool) -> Pixels:
    try:
        mesh = mesh_of(paint)
    except MeshError:
        return np.zeros((box[3] - box[1], box[2] - box[0], 4), np.float32)
    pixels = mesh_pixels(mesh.transformed(place), box, DRAFT if rough else FINE)
    inverse = invert(place)
    if paint.grain is None or inverse is None:
        return pixels
    alpha = pixels[..., 3:]
    straight = np.concatenate([pixels[..., :3] / np.maximum(alpha, 1e-6), alpha], axis=-1)
    made = grained(straight.astype(np.float64), paint.grain, _points(inverse, box))
    made[..., :3] *= made[..., 3:]
    return made.astype(np.float32)


def colours_at(paint: Paint, points: Floats, path: Path, width: float = 0.0, step: float = 0.25) -> Floats:
    """Straight RGBA (h, w, 4) of a gradient or plain colour at points (h, w, 2) in the shape's units.

    ``step`` is the spacing at which distances to the outline are known.
    """
    assert not isinstance(paint, Meshed)
    if isinstance(paint, Solid):
        c = paint.colour
        rgba = np.broadcast_to(np.array([c.r, c.g, c.b, c.a]), (*points.shape[:2], 4)).copy()
        return rgba if paint.grain is None else grained(rgba, paint.grain, points)
    spread: Spread = paint.spread if isinstance(paint, Linear | Radial | Inward) else "pad"
    t = spread_parameter(parameter(paint, points, path, width, step), spread)
    rgba = _looked_up(paint.stops, t, paint.oklab)
    extra = _stop_grain(paint.stops, t)
    if paint.grain is None and extra is None:
        return rgba
    return grained(rgba, paint.grain or Grain(amount=0.0), points, extra)


def parameter(paint: Gradient, points: Floats, path: Path, width: float = 0.0, step: float = 0.25) -> Floats:
    """Where along the gradient points (h, w, 2) lie: 0 at its first end, 1 at its last, beyond outside."""
    if isinstance(paint, Linear):
        return _along(points, paint.start, paint.end)
    if isinstance(paint, Radial):
        return _from_focus(paint, points)
    if isinstance(paint, Conic):
        angle = np.degrees(np.arctan2(points[..., 1] - paint.centre[1], points[..., 0] - paint.centre[0]))
        return np.asarray(np.mod(angle - paint.turn, 360) / 360)
    field = _field_of(path, step, width / 2)
    if field is None:
        return np.zeros(points.shape[:2])
    if isinstance(paint, Inward):
        depth = paint.depth if paint.depth > 0 else field.deepest
        return field.sample(field.distance, points) / max(depth, 1e-9)
    if paint.across:
        signed = field.sample(field.distance * field.side, points)
        return np.asarray(0.5 + signed / max(width, 1e-9))
    # Not evenly between nodes: at a closed outline's start the share jumps from 1 to 0.
    x = np.clip(np.rint((points[..., 0] - field.origin[0]) / field.step).astype(int), 0, field.along.shape[1] - 1)
    y = np.clip(np.rint((points[..., 1] - field.origin[1]) / field.step).astype(int), 0, field.along.shape[0] - 1)
    return np.asarray(field.along[y, x])


def spread_parameter(t: Floats, spread: Spread) -> Floats:
    """A parameter brought to 0..1 as the spread says."""
    if spread == "repeat":
        return np.asarray(t - np.floor(t))
    if spread == "reflect":
        return np.asarray(1 - np.abs(np.mod(t, 2) - 1))
    return np.asarray(np.clip(t, 0, 1))


def _along(points: Floats, start: Point, end: Point) -> Floats:
    d = np.array(end) - np.array(start)
    return np.asarray(((points - np.array(start)) @ d) / max(float(d @ d), 1e-300))


def _from_focus(paint: Radial, points: Floats) -> Floats:
    """t such that the point lies on the circle about focus + t (centre - focus) of radius t r (ISO 32000-1)."""
    inverse = invert(paint.transform)
    if inverse is None:
        return np.ones(points.shape[:2])
    radius = max(paint.radius, 1e-6)
    focus = np.array(held_focus(paint.centre, radius, paint.focus))
    p = apply_points(inverse, points.reshape(-1, 2)).reshape(points.shape) - focus
    c = np.array(paint.centre) - focus
    a = float(c @ c) - radius * radius
    b = p @ c
    k = (p * p).sum(-1)
    return np.asarray((b - np.sqrt(np.maximum(b * b - a * k, 0))) / a)


def _looked_up(stops: tuple[Stop, ...], t: Floats, oklab: bool) -> Floats:
    """The ramp at t (h, w): from a table between the stops, exact at hard edges."""
    at = np.array([s.at for s in sorted_stops(stops)] or [0.0])
    places = np.unique(np.concatenate([np.linspace(0, 1, _TABLE), at, np.maximum(at - 1e-9, 0)]))
    table = ramp(stops, places, oklab)
    pre = table.copy()
    pre[:, :3] *= table[:, 3:]
    flat = t.reshape(-1)
    out = np.stack([np.interp(flat, places, pre[:, k]) for k in range(4)], axis=-1)
    shown = out[:, 3:] > 1e-6
    out[:, :3] = np.where(shown, out[:, :3] / np.maximum(out[:, 3:], 1e-6), 0)
    return out.reshape(*t.shape, 4)


def _stop_grain(stops: tuple[Stop, ...], t: Floats) -> Floats | None:
    ordered = sorted_stops(stops)
    if not any(s.grain > 0 for s in ordered):
        return None
    return np.interp(t, [s.at for s in ordered], [s.grain for s in ordered])


def deepest(path: Path) -> float:
    """How far the deepest place inside an outline lies from it, in its units."""
    box = path.bounds()
    field = _field_of(path, max(box[2] - box[0], box[3] - box[1]) / _FINE) if box is not None else None
    return field.deepest if field is not None else 0.0


def _field_of(path: Path, step: float, margin: float = 0.0, most: float = math.inf) -> DistanceField | None:
    """The distances of an outline, kept while it lives, on a grid no finer than it need be."""
    box = path.bounds()
    size = max(box[2] - box[0], box[3] - box[1], 1e-6) if box else 1.0
    step = float(2 ** np.round(np.log2(max(step, size / 1500))))
    key = (id(path), step, margin, most)
    field: DistanceField | None = _fields.get(key)
    if field is None:
        field = distance_field(path, step, margin + 4 * step, most=most)
        if field is not None:
            _fields.put(key, path, field, _NODE * field.distance.size)
    return field
