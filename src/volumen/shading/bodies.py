"""Bodies: paints that make a flat outline look like a ball, a tube, a dish and more under the lamps.

Each is the best plain paint for its surface (``surfaces``): one radial gradient for ball, dish and drop, a linear one
for tube and fold and a conic one for the cone, which are exact; cushion and slab are meshes. A highlight of a glossy
material on a round body is a second gradient.
"""

from __future__ import annotations

import math
from typing import Literal

import cv2
import msgspec
import numpy as np

from volumen.colour.srgb import Floats
from volumen.geometry.affine import IDENTITY, Affine, Point, apply, multiply, rotation, scaling, translation
from volumen.geometry.curve import flatten
from volumen.geometry.path import Box, Path
from volumen.shading.bodies_mesh import cushion, slab
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour, Conic, Gradient, Grain, Linear, MeshPaint, Radial, Stop
from volumen.shading.round_gradients import OWN_GLOSS, highlight, round_gradient
from volumen.shading.round_mesh import ROUND, round_mesh
from volumen.shading.surfaces import FOLD_PLACES, cone, fold, lean_of, matrix_of, tube, turned_over, upright
from volumen.shading.tones import Direction, Lighting, Look, lighting, lit, reduced

BodyKind = Literal["ball", "tube", "cone", "dish", "cushion", "slab", "drop", "fold"]
_ROUND_CONE = 96  # places round a cone
_SAMPLES = 49  # places across a tube
_BEHIND = 0.8  # cosine: lamps that far behind the body draw its edge


def body_paints(
    kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float = 0.0,
    mesh: bool = False,
) -> tuple[Gradient | MeshPaint, ...]:  # fmt: skip
    """The paints of a body in the shape's own coordinates, back to front; none for an outline without extent.

    ``path`` is the outline there, ``world`` maps it to the sheet (lamps stand on the sheet, so a turned shape keeps
    its light). ``turn`` turns the axis of a body in degrees; a cushion and a slab have none. ``mesh`` lays a mesh for a
    ball or a dish in place of its gradients.
    """
    box = path.bounds()
    if box is None:
        return ()
    made: tuple[Gradient | MeshPaint | None, ...]
    if kind == "cushion":
        made = (cushion(path, look, lighting(lights, world)),)
    elif kind == "slab":
        made = (slab(path, look, lighting(lights, world)),)
    elif mesh and kind in ROUND:
        made = (round_mesh(kind, path, look, lights, world, turn),)
    elif turn and kind not in ("tube", "fold"):
        there = rotation(turn)
        turned = path.transformed(rotation(-turn)).bounds()
        made = () if turned is None else _gradients(kind, turned, look, lights, multiply(world, there), 0.0)
        made = tuple(_turned(g, there, turn) for g in made)
    else:
        made = _gradients(kind, box, look, lights, world, turn)
    paints = [p for p in made if p is not None]
    m = look.material
    if paints and m.grain > 0:
        paints[0] = _with_grain(paints[0], Grain(m.grain, m.grain_size, seed=11))
    return tuple(paints)


def _turned(paint: Gradient, there: Affine, turn: float) -> Gradient:
    if isinstance(paint, Radial):
        return msgspec.structs.replace(paint, transform=multiply(there, paint.transform))
    assert isinstance(paint, Conic)
    return msgspec.structs.replace(paint, centre=apply(there, paint.centre), turn=paint.turn + turn)


def fitting_turn(kind: BodyKind, path: Path) -> float:
    """The turn that lays a body's axis along the direction in which its outline is longest (its principal axis).

    In degrees, -90..90 for a tube or a fold, -45..45 for the others, whose axes are alike. 0 for an outline that is
    as long in all directions.
    """
    box, border = path.bounds(), max((abs(c.area()), i) for i, c in enumerate(path.contours))[1] if path else 0
    if box is None:
        return 0.0
    points = flatten(path.contours[border], max(box[2] - box[0], box[3] - box[1], 1e-6) / 1000)[0]
    m = cv2.moments((points - points.mean(axis=0)).astype(np.float32))
    long, skew = m["mu20"] - m["mu02"], 2 * m["mu11"]
    if math.hypot(long, skew) <= 1e-3 * (m["mu20"] + m["mu02"]):
        return 0.0
    angle = math.degrees(math.atan2(skew, long)) / 2
    if kind not in ("tube", "fold"):
        return (angle + 45) % 90 - 45
    lengthwise = 0.0 if box[2] - box[0] >= box[3] - box[1] else 90.0
    return (angle - lengthwise + 90) % 180 - 90


def _with_grain(paint: Gradient | MeshPaint, grain: Grain) -> Gradient | MeshPaint:
    return msgspec.structs.replace(paint, grain=grain)


def body_gradient(
    kind: BodyKind, box: Box, base: Colour, lamp: Lamp, world: Affine, material_name: str,
    strength: float = 1.0, roundness: float = 1.0, bounce: float = 0.4, turn: float = 0.0,
) -> Gradient:  # fmt: skip
    """The first gradient of a body that has one, in a box under a single lamp."""
    look = look_of(base, material(material_name), strength, roundness, bounce)
    return _gradients(kind, box, look, Lights(lamp), world, turn)[0]


def look_of(base: Colour, m: Material, strength: float, roundness: float, bounce: float) -> Look:
    """A look with its numbers held to what the formulas allow."""
    return Look(base, m, min(max(strength, 0.0), 2.0), min(max(roundness, 0.02), 1.0), min(max(bounce, 0.0), 1.0))


def _gradients(
    kind: BodyKind, box: Box, look: Look, lights: Lights, world: Affine, turn: float
) -> tuple[Gradient, ...]:  # fmt: skip
    centre = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    radii = (max((box[2] - box[0]) / 2, 1e-6), max((box[3] - box[1]) / 2, 1e-6))
    light = lighting(lights, IDENTITY)
    if kind == "tube":
        return (_tube(centre, radii, look, light, world, turn),)
    if kind == "fold":
        return (_fold(centre, radii, look, light, world, turn),)
    if kind == "cone":
        return (_cone(centre, radii, look, light, world),)
    return _round(centre, radii, look, light, world, hollow=kind in ("dish", "drop"), clear=kind == "drop")


def _round(
    centre: Point, radii: Point, look: Look, light: Lighting, world: Affine, hollow: bool, clear: bool
) -> tuple[Gradient, ...]:
    """A ball, or turned over a dish or a drop, with the highlights of all its lamps."""
    short, light, back = upright(matrix_of(multiply(world, scaling(*radii))), turned_over(light) if hollow else light)
    to_shape = multiply(translation(*centre), multiply(scaling(*radii), back))
    glossy = look.material.gloss >= OWN_GLOSS
    made = [round_gradient(short, look.dull if glossy else look, light, _brightest(light), clear)]
    if glossy:
        lamps = ((light.key, light.strength, light.colour), *light.others)
        made += [highlight(short, look, light, d, k, tint) for d, k, tint in lamps if k > 0]
    return tuple(msgspec.structs.replace(p, transform=multiply(to_shape, p.transform)) for p in made)


def _brightest(light: Lighting) -> Direction:
    """Where most of the light comes from: lines of equal light go by the sum of the lamps. One that stands low at the
    far side of the key lamp only draws an edge, and counts for nothing here."""
    total = np.array(light.key) * light.strength
    for direction, strength, _ in light.others:
        if float(np.dot(direction[:2], light.key[:2])) > -_BEHIND * float(np.hypot(*light.key[:2])):
            total += np.array(direction) * strength
    size = float(np.linalg.norm(total))
    if size < 1e-6:
        return light.key
    x, y, z = (total / size).tolist()
    return (x, y, z)


def _tube(centre: Point, radii: Point, look: Look, light: Lighting, world: Affine, turn: float) -> Linear:
    across, reach = _across(radii, turn)
    place, lean = matrix_of(world), lean_of(light)
    facing = tube(np.array([1.0]), across, place, 1.0, lean)[0][0, :2] @ np.array(light.key[:2])
    if facing < 0:
        across = (-across[0], -across[1])
    s = np.linspace(1, -1, _SAMPLES)
    rgb = lit(look, light, *tube(s, across, place, look.roundness, lean))
    return Linear(reduced((1 - s) / 2, _rgba(rgb, look)), *_ends(centre, across, reach), oklab=False)


def _rgba(rgb: Floats, look: Look) -> Floats:
    return np.column_stack([rgb, np.full(len(rgb), look.base.a)])


def _across(radii: Point, turn: float) -> tuple[Point, float]:
    """The direction across the longer axis of a box, and half the box's extent along it."""
    lengthwise = 0.0 if radii[0] >= radii[1] else 90.0
    a = math.radians(lengthwise + turn + 90)
    across = (math.cos(a), math.sin(a))
    return across, abs(across[0]) * radii[0] + abs(across[1]) * radii[1]


def _ends(centre: Point, across: Point, reach: float) -> tuple[Point, Point]:
    (cx, cy), (x, y) = centre, across
    return (cx + x * reach, cy + y * reach), (cx - x * reach, cy - y * reach)


def _fold(centre: Point, radii: Point, look: Look, light: Lighting, world: Affine, turn: float) -> Linear:
    """Two flat halves that lean away from a crease along the box's longer axis, a little rounder towards it."""
    across, reach = _across(radii, turn)
    rgb = lit(look, light, *fold(across, matrix_of(world), look.roundness, lean_of(light)))
    stops = tuple(Stop(float(t), Colour(*c)) for t, c in zip(FOLD_PLACES, _rgba(rgb, look).tolist(), strict=True))
    return Linear(stops, *_ends(centre, across, reach), oklab=False)


def _cone(centre: Point, radii: Point, look: Look, light: Lighting, world: Affine) -> Conic:
    """A cone seen from above its tip: one tone along each line from the tip to the rim."""
    t = np.linspace(0, 1, _ROUND_CONE + 1)
    angle = 2 * np.pi * t
    rim = np.stack([np.cos(angle) / radii[0], np.sin(angle) / radii[1]], axis=1)
    rim /= np.hypot(rim[:, 0], rim[:, 1])[:, None]
    a = matrix_of(multiply(world, scaling(*radii)))
    rgb = lit(look, light, *cone(rim, a, look.roundness, lean_of(light)))
    return Conic(reduced(t, _rgba(rgb, look)), centre, oklab=False)
