"""From which side a paint is lit as it lies on the sheet, and how it is turned towards another."""

from __future__ import annotations

import math

import msgspec
import numpy as np

from volumen.colour import oklab
from volumen.geometry.affine import IDENTITY, Affine, Floats, Point, apply, apply_points, invert, multiply, rotation
from volumen.geometry.mask import Part, places_in
from volumen.geometry.path import Path, grow_box
from volumen.model.ingredients import Fill, Line, Recipe
from volumen.shading.blending import TONAL, laid_over
from volumen.shading.carried import carried
from volumen.shading.paint import Along, Colour, Inward, MeshPaint, Paint, Solid, face_colour
from volumen.shading.paint_pixels import colours_at

_SIDE = 24  # cells along the longer side of the box that is sampled
_RANGE = 0.08  # of lightness (0..1) between both ends, less shows no side
_SHARE = 0.12  # of the tones' variance that lies along one direction, less shows none
_GREY = Colour(0.6, 0.6, 0.6)


def lit_from(i: Fill | Line, beneath: Recipe, path: Path, world: Affine) -> Point | None:
    """The unit vector on the sheet towards which the paint of an ingredient grows lighter over those ``beneath`` it in
    its recipe; None if it shows no side."""
    if isinstance(i.paint, Solid | Inward | Along) or i.opacity <= 0 or i.blend not in TONAL:
        return None
    points, rgba = _sampled(i, path)
    if len(points) < 6:
        return None
    under = np.array(_under(beneath).rgb)
    alpha = rgba[:, 3:] * i.opacity
    tones = oklab.from_srgb(laid_over(under, rgba[:, :3], alpha, i.blend))[:, 0]
    places = apply_points(world, points)
    places = places - places.mean(axis=0)
    # The plane through the tones: its slope is where they grow lighter.
    slope, *_ = np.linalg.lstsq(places, tones - tones.mean(), rcond=None)
    along = places @ slope
    if math.sqrt(12) * along.std() < _RANGE or along.var() < _SHARE * tones.var():
        return None
    size = math.hypot(*slope)
    return (float(slope[0] / size), float(slope[1] / size)) if size > 0 else None


def _under(beneath: Recipe) -> Colour:
    """The colour that a paint lies on, where it is clear."""
    faces = (face_colour(i.paint) for i in reversed(beneath) if isinstance(i, Fill) and i.on and i.opacity > 0.5)
    return next((f for f in faces if f is not None and f.a > 0.5), _GREY)


def _sampled(i: Fill | Line, path: Path) -> tuple[Floats, Floats]:
    """Places (n, 2) in the shape's coordinates where a paint is seen, and its colours (n, 4) there."""
    paint = i.paint
    if isinstance(paint, MeshPaint):
        points = np.array([p.at for p in paint.points]).reshape(-1, 2)
        return points, np.array([(*p.colour.rgb, p.colour.a) for p in paint.points]).reshape(-1, 4)
    box = path.hull()
    if box is None:
        return np.zeros((0, 2)), np.zeros((0, 4))
    part = Part(path, IDENTITY)
    if isinstance(i, Line):  # a hair is sampled as wide as two cells
        box = grow_box(box, i.width / 2)
        part = Part(path, IDENTITY, max(i.width, 2 * min(box[2] - box[0], box[3] - box[1]) / _SIDE))
    points = places_in(part, box, _SIDE)
    return points, colours_at(paint, points[None], path)[0]


def turned(i: Fill | Line, beneath: Recipe, path: Path, world: Affine, toward: Point) -> Fill | Line:
    """An ingredient whose paint is turned on the sheet, round its middle, until it is lit from a side."""
    box, back = path.hull(), invert(world)
    if box is None or back is None:
        return i
    middle = apply(world, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2))
    made = i
    for _ in range(4):  # what an outline shows of a paint changes as it turns
        side = lit_from(made, beneath, path, world)
        if side is None:
            break
        turn = math.degrees(math.atan2(toward[1], toward[0]) - math.atan2(side[1], side[0]))
        if abs((turn + 180) % 360 - 180) < 5:
            break
        about = multiply(back, multiply(rotation(turn, middle), world))
        paint: Paint = carried(made.paint, about)
        made = msgspec.structs.replace(made, paint=paint)
    return made
