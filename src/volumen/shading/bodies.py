"""Bodies: paints that make a flat outline look like a ball, a tube, a dish and more under the lamps.

The outline's box is the unit disc (ball, dish, drop) or the unit strip (tube). At distance s from the middle the
surface tilts by asin(roundness · s). Seen from above, under a lamp that stands (90° - height) from the
vertical, the light at tilt θ along the lamp's direction is cos(θ - lamp tilt).

For the round bodies a radial gradient has three free numbers along that axis: focus, centre and radius. The
focus is put on the brightest point, the circle through the far rim, and the centre where the near rim gets
the stop of equal light on the far side. Light is then exact along the whole far axis and at the near rim.
"""

from __future__ import annotations

import math
from typing import Literal

import cv2
import msgspec
import numpy as np

from volumen.geometry.affine import Affine, Point, apply, multiply, rotation, scaling, translation, unit
from volumen.geometry.curve import flatten
from volumen.geometry.path import Box, Path
from volumen.shading.bodies_mesh import cushion, slab
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour, Conic, Gradient, Grain, Linear, MeshPaint, Radial, Stop
from volumen.shading.tones import Lighting, Look, axis_stops, lighting, lit, reduced
from volumen.shading.tones import tones as tones

BodyKind = Literal["ball", "tube", "cone", "dish", "cushion", "slab", "drop", "fold"]
_ROUND_CONE = 96  # places round a cone


def body_paint(
    kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float = 0.0
) -> Gradient | MeshPaint | None:
    """The paint of a body in the shape's own coordinates; None for an outline without extent.

    ``path`` is the outline there, ``world`` maps it to the sheet (lamps stand on the sheet, so a turned shape keeps
    its light). ``turn`` turns the axis of a body in degrees; a cushion and a slab have none.
    """
    box = path.bounds()
    if box is None:
        return None
    light = lighting(lights, world)
    made: Gradient | MeshPaint | None
    if kind == "cushion":
        made = cushion(path, look, light)
    elif kind == "slab":
        made = slab(path, look, light)
    elif turn and kind not in ("tube", "fold"):
        made = _turned(kind, path, look, lights, world, turn)
    else:
        made = _gradient(kind, box, look, light, turn)
    if made is not None and look.material.grain > 0:
        m = look.material
        made = _with_grain(made, Grain(m.grain, m.grain_size, seed=11))
    return made


def _turned(kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float) -> Gradient | None:
    """The gradient of a body in the box that its outline has when seen turned."""
    box = path.transformed(rotation(-turn)).bounds()
    if box is None:
        return None
    there = rotation(turn)
    made = _gradient(kind, box, look, lighting(lights, multiply(world, there)), 0.0)
    if isinstance(made, Radial):
        return msgspec.structs.replace(made, transform=multiply(there, made.transform))
    assert isinstance(made, Conic)
    return msgspec.structs.replace(made, centre=apply(there, made.centre), turn=made.turn + turn)


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
    """The gradient of a body that has one, in a box under a single lamp."""
    look = look_of(base, material(material_name), strength, roundness, bounce)
    return _gradient(kind, box, look, lighting(Lights(lamp), world), turn)


def look_of(base: Colour, m: Material, strength: float, roundness: float, bounce: float) -> Look:
    """A look with its numbers held to what the formulas allow."""
    return Look(base, m, min(max(strength, 0.0), 2.0), min(max(roundness, 0.02), 1.0), min(max(bounce, 0.0), 1.0))


def _gradient(kind: BodyKind, box: Box, look: Look, light: Lighting, turn: float) -> Gradient:
    centre = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    radii = (max((box[2] - box[0]) / 2, 1e-6), max((box[3] - box[1]) / 2, 1e-6))
    if kind == "tube":
        return _tube(centre, radii, look, light, turn)
    if kind == "fold":
        return _fold(centre, radii, look, light, turn)
    if kind == "cone":
        return _cone(centre, radii, look, light)
    return _round_body(centre, radii, look, light, hollow=kind in ("dish", "drop"), clear=kind == "drop")


def _key_tilt(light: Lighting) -> tuple[Point, float]:
    """The key lamp's direction on the sheet and its angle from upright."""
    x, y, z = light.key
    return unit((x, y)) or (0.0, -1.0), math.acos(min(max(z, -1.0), 1.0))


def _round_body(centre: Point, radii: Point, look: Look, light: Lighting, hollow: bool, clear: bool) -> Radial:
    lean, tilt = _key_tilt(light)
    toward = (-lean[0], -lean[1]) if hollow else lean
    u = unit((toward[0] / radii[0], toward[1] / radii[1])) or (0.0, -1.0)
    rho = look.roundness
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
    stops = axis_stops(look, light, lean, tilt, focus, -1.0)
    if clear:
        stops = _let_through(stops)
    return Radial(stops, (shift, 0.0), 1 + shift, (focus, 0.0), to_shape, oklab=False)


def _let_through(stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
    """The stops of a clear drop: where light gathers it is seen, towards its middle what lies beneath shows."""
    out = []
    for s in stops:
        seen = 0.25 + 0.75 * abs(2 * s.at - 1) ** 1.5
        out.append(Stop(s.at, s.colour.with_alpha(s.colour.a * min(seen, 1.0))))
    return tuple(out)


def _tube(centre: Point, radii: Point, look: Look, light: Lighting, turn: float) -> Linear:
    across, reach = _across(radii, turn)
    x, y, z = light.key
    facing = across[0] * x + across[1] * y
    if facing < 0:
        across, facing = (-across[0], -across[1]), -facing
    # Only the part of the lamp's tilt that lies across the axis shades a tube.
    tilt = math.atan2(facing, max(z, 1e-6))
    stops = axis_stops(look, light, across, tilt, 1.0, -1.0)
    return Linear(stops, *_ends(centre, across, reach), oklab=False)


def _across(radii: Point, turn: float) -> tuple[Point, float]:
    """The direction across the longer axis of a box, and half the box's extent along it."""
    lengthwise = 0.0 if radii[0] >= radii[1] else 90.0
    a = math.radians(lengthwise + turn + 90)
    across = (math.cos(a), math.sin(a))
    return across, abs(across[0]) * radii[0] + abs(across[1]) * radii[1]


def _ends(centre: Point, across: Point, reach: float) -> tuple[Point, Point]:
    (cx, cy), (x, y) = centre, across
    return (cx + x * reach, cy + y * reach), (cx - x * reach, cy - y * reach)


def _fold(centre: Point, radii: Point, look: Look, light: Lighting, turn: float) -> Linear:
    """Two flat halves that lean away from a crease along the box's longer axis, a little rounder towards it."""
    across, reach = _across(radii, turn)
    lean = math.radians(38) * look.roundness
    at = np.array([0.0, 0.36, 0.5, 0.5, 0.64, 1.0])
    side = np.array([1.0, 1.0, 1.0, -1.0, -1.0, -1.0])
    tilt = lean * side * np.array([1.0, 0.92, 0.72, 0.72, 0.92, 1.0])
    normals = np.stack([np.sin(tilt) * across[0], np.sin(tilt) * across[1], np.cos(tilt)], axis=1)
    rgb = lit(look, light, normals, side * 0.4)
    stops = tuple(Stop(t, Colour(r, g, b, look.base.a)) for t, (r, g, b) in zip(at.tolist(), rgb.tolist(), strict=True))
    return Linear(stops, *_ends(centre, across, reach), oklab=False)


def _cone(centre: Point, radii: Point, look: Look, light: Lighting) -> Conic:
    """A cone seen from above its tip: one tone along each line from the tip to the rim."""
    t = np.linspace(0, 1, _ROUND_CONE + 1)
    angle = 2 * np.pi * t
    slope = math.radians(55) * look.roundness
    x, y = np.cos(angle) / radii[0], np.sin(angle) / radii[1]
    size = np.hypot(x, y)
    flat = np.stack([x / size, y / size], axis=1)
    normals = np.concatenate([flat * math.sin(slope), np.full((len(t), 1), math.cos(slope))], axis=1)
    (lx, ly), _ = _key_tilt(light)
    rgb = lit(look, light, normals, flat @ np.array([lx, ly]))
    return Conic(reduced(t, rgb, look.base.a), centre, oklab=False)
