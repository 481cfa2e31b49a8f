"""Bodies: paints that make a flat outline look like a ball, a tube, a dish and more under the lamps.

Each is the best plain paint for its surface (``surfaces``, ``plain_bodies``); cushion and slab are meshes. The bodies
of a sheet are worked out in one call, a single one as the case of one.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import cv2
import msgspec
import numpy as np

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, apply, multiply, rotation
from volumen.geometry.curve import flatten
from volumen.geometry.path import Box, Path
from volumen.geometry.primitives import rectangle
from volumen.shading.bodies_mesh import cushion, slab
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material, material
from volumen.shading.paint import Colour, Conic, Gradient, Grain, LaidMesh, Radial
from volumen.shading.plain_bodies import BodyKind, Coat, Placed, moved, painted
from volumen.shading.round_mesh import ROUND, round_mesh
from volumen.shading.tones import Lighting, Look, lighting

MESHES = ("cushion", "slab")


class Asked(NamedTuple):
    """A body over an outline ``path`` in the shape's own coordinates, which ``world`` maps to the sheet (lamps stand on
    the sheet, so a turned shape keeps its light). ``turn`` turns the axis of a body in degrees; a cushion and a slab
    have none. ``mesh`` lays a mesh for a ball or a dish in place of its gradients. What lies beneath a ``thin`` one
    shows through it."""

    kind: BodyKind
    path: Path
    look: Look
    lights: Lights
    world: Affine
    turn: float = 0.0
    mesh: bool = False
    thin: bool = False


Paints = tuple[Coat, ...]
_known: Cache[Paints] = Cache("paints of bodies", 6000)


def body_paints(
    kind: BodyKind, path: Path, look: Look, lights: Lights, world: Affine, turn: float = 0.0, mesh: bool = False
) -> Paints:
    """The paints of a body in the shape's own coordinates, back to front; none for an outline without extent."""
    return bodies_paints([Asked(kind, path, look, lights, world, turn, mesh)])[0]


def bodies_paints(asked: Sequence[Asked]) -> list[Paints]:
    """The paints of many bodies, those that are not known yet worked out together."""
    keys = [(a.kind, id(a.path), a.look, a.lights, a.world[:4], a.turn, a.mesh, a.thin) for a in asked]
    found = [_known.get(k) for k in keys]
    new = {k: a for k, a, hit in zip(keys, asked, found, strict=True) if hit is None}
    made = dict(zip(new, _made(list(new.values())), strict=True))
    for key, paints in made.items():
        _known.put(key, new[key].path, paints)
    return [made[k] if hit is None else hit for k, hit in zip(keys, found, strict=True)]


def _made(asked: list[Asked]) -> list[Paints]:
    out: list[list[Coat]] = [[] for _ in asked]
    placed: list[Placed] = []
    known: dict[int, Lighting] = {}
    for k, a in enumerate(asked):
        light = known.get(id(a.lights))
        if light is None:
            light = known[id(a.lights)] = lighting(a.lights, IDENTITY)
        meshed = _mesh(a)
        if meshed is not None:
            out[k].append(Coat(meshed))
        elif a.kind not in MESHES and (here := _placed(k, a, light)) is not None:
            placed.append(here)
    for p, paints in painted(placed):
        there = p.turned
        out[p.number] += paints if there is None else [_turned(c, there, asked[p.number].turn) for c in paints]
    return [_with_grain(paints, a.look.material) for a, paints in zip(asked, out, strict=True)]


def _mesh(a: Asked) -> LaidMesh | None:
    """The paint of a body that is a mesh."""
    if a.path.bounds() is None:
        return None
    if a.kind == "cushion":
        return cushion(a.path, a.look, lighting(a.lights, a.world))
    if a.kind == "slab":
        return slab(a.path, a.look, lighting(a.lights, a.world))
    return round_mesh(a.kind, a.path, a.look, a.lights, a.world, a.turn) if a.mesh and a.kind in ROUND else None


def _placed(number: int, a: Asked, light: Lighting) -> Placed | None:
    """None for an outline without extent, and for what no mesh could be laid over."""
    there = rotation(a.turn) if a.turn and a.kind not in ("tube", "fold") else None
    box = (a.path.transformed(rotation(-a.turn)) if there is not None else a.path).bounds()
    if box is None or (a.mesh and a.kind in ROUND):
        return None
    centre = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    radii = (max((box[2] - box[0]) / 2, 1e-6), max((box[3] - box[1]) / 2, 1e-6))
    world = multiply(a.world, there) if there is not None else a.world
    return Placed(number, a.kind, a.look, light, centre, radii, world, a.turn if there is None else 0.0, there, a.thin)


def _turned(coat: Coat, there: Affine, turn: float) -> Coat:
    paint = coat.paint
    if isinstance(paint, Radial):
        return moved(coat, there)
    assert isinstance(paint, Conic)
    return Coat(msgspec.structs.replace(paint, centre=apply(there, paint.centre), turn=paint.turn + turn))


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


def _with_grain(paints: list[Coat], m: Material) -> Paints:
    """The grain of a material on the lowest of a body's paints."""
    if not paints or m.grain <= 0:
        return tuple(paints)
    lowest, grain = paints[0].paint, Grain(m.grain, m.grain_size, seed=11)
    if isinstance(lowest, LaidMesh):
        return (Coat(LaidMesh(lowest.mesh, grain)), *paints[1:])
    return (Coat(msgspec.structs.replace(lowest, grain=grain)), *paints[1:])


def body_gradient(
    kind: BodyKind, box: Box, base: Colour, lamp: Lamp, world: Affine, material_name: str,
    strength: float = 1.0, roundness: float = 1.0, bounce: float = 0.4, turn: float = 0.0,
) -> Gradient:  # fmt: skip
    """The first gradient of a body that has one, in a box under a single lamp."""
    look = look_of(base, material(material_name), strength, roundness, bounce)
    x, y, r, b = box
    paint = body_paints(kind, rectangle(x, y, r - x, b - y), look, Lights(lamp), world, turn)[0].paint
    assert not isinstance(paint, LaidMesh)
    return paint


def look_of(base: Colour, m: Material, strength: float, roundness: float, bounce: float) -> Look:
    """A look with its numbers held to what the formulas allow."""
    return Look(base, m, min(max(strength, 0.0), 2.0), min(max(roundness, 0.02), 1.0), min(max(bounce, 0.0), 1.0))
