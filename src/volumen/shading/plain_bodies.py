"""The plain gradients of bodies: the best for each surface, worked out for many bodies at once.

One radial gradient for ball, dish and drop, a linear one for tube and fold and a conic one for the cone, which are
exact. A highlight of a glossy material on a round body is a second gradient, as is the light of a lamp at its edge.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Literal, NamedTuple

import msgspec
import numpy as np

from volumen.caching import by_values
from volumen.colour.srgb import Floats
from volumen.geometry.affine import Affine, Point, multiply, scaling, translation
from volumen.shading.paint import Colour, Conic, Gradient, LaidMesh, Linear, Radial, Stop
from volumen.shading.round_gradients import OWN_GLOSS, Round, Shine, highlights, round_gradients
from volumen.shading.surfaces import (
    FOLD_PLACES,
    across_on_sheet,
    cone,
    fold,
    lean_of,
    matrices_of,
    tube,
    turned_over,
    upright,
)
from volumen.shading.tones import Direction, Lighting, Look, lit_each, reduced_each

BodyKind = Literal["ball", "tube", "cone", "dish", "cushion", "slab", "drop", "fold"]
_ROUND_CONE = 96  # places round a cone
_OPPOSED = math.cos(math.radians(80))  # of the angle between two lamps; nearer ones do as well with one gradient
_SAMPLES = 49  # places across a tube


class Placed(NamedTuple):
    """A body, the ``number`` of its question, to be painted over the ellipse about ``centre`` with ``radii`` in
    coordinates that ``world`` maps to the sheet. One whose axes are turned is painted upright there, and its paints are
    ``turned`` back. ``thin``: what lies beneath it shows."""

    number: int
    kind: BodyKind
    look: Look
    light: Lighting
    centre: Point
    radii: Point
    world: Affine
    turn: float
    turned: Affine | None
    thin: bool


class Coat(NamedTuple):
    """One of the paints of a body, and how it is blended with those beneath it."""

    paint: Gradient | LaidMesh
    blend: Literal["normal", "screen"] = "normal"


def painted(bodies: list[Placed]) -> Iterator[tuple[Placed, list[Coat]]]:
    """The paints of bodies, back to front; those of one kind are worked out together."""
    for kinds, make in _MAKERS.items():
        alike = [p for p in bodies if p.kind in kinds]
        if alike:
            yield from zip(alike, make(alike), strict=True)


def _rounds(bodies: list[Placed]) -> list[list[Coat]]:
    """Balls, or turned over dishes and drops, with the edge light and the highlights of all their lamps."""
    matrices = matrices_of([multiply(p.world, scaling(*p.radii)) for p in bodies])
    lights = [turned_over(p.light) if p.kind != "ball" else p.light for p in bodies]
    standing = upright(matrices, lights)
    rounds = [_round(p, short, light) for p, (short, light, _) in zip(bodies, standing, strict=True)]
    made = [[Coat(first), *(Coat(r, "screen") for r in rest)] for first, *rest in round_gradients(rounds)]
    shiny = [(k, shine) for k, p in enumerate(bodies) for shine in _shines(p.look, rounds[k])]
    for (k, _), paint in zip(shiny, highlights([shine for _, shine in shiny]), strict=True):
        made[k].append(Coat(paint))
    out: list[list[Coat]] = []
    for p, u, coats in zip(bodies, standing, made, strict=True):
        place = multiply(translation(*p.centre), multiply(scaling(*p.radii), u.back))
        out.append([moved(coat, place) for coat in coats])
    return out


def moved(coat: Coat, place: Affine) -> Coat:
    """A coat that is a radial gradient, at a place."""
    paint = coat.paint
    assert isinstance(paint, Radial)
    return coat._replace(paint=msgspec.structs.replace(paint, transform=multiply(place, paint.transform)))


def _round(p: Placed, short: float, light: Lighting) -> Round:
    """A body as an upright ball, without the highlights that are gradients of their own. Of what is let through, or
    blended in, the lamp at its edge or from the other side is one of the others."""
    look = p.look.dull if p.look.material.gloss >= OWN_GLOSS else p.look
    solid = p.kind != "drop" and not p.thin and look.base.a >= 1
    edged = light.edged and solid
    opposed = solid and not edged and _is_opposed(light)
    towards = _brightest(msgspec.structs.replace(light, edged=edged).without_edge)
    light = msgspec.structs.replace(light, edged=edged or opposed)
    return Round(short, look, light, towards, p.kind == "drop")


def _is_opposed(light: Lighting) -> bool:
    """Whether a fill lamp shines from so far beside the key lamp that they light places of their own: one family of
    lines is 3 to 8 CIEDE2000 off at one place in twenty then, two are 1 to 4."""
    if len(light.others) != 1:
        return False
    across = sum(a * b for a, b in zip(light.key, light.others[0][0], strict=True))
    return light.strength > 0 and across < _OPPOSED


def _shines(look: Look, body: Round) -> list[Shine]:
    """The highlights of a body, if it is glossy."""
    if look.material.gloss < OWN_GLOSS:
        return []
    light = body.light
    lamps = ((light.key, light.strength, light.colour), *light.others)
    return [Shine(body.short, look, light, way, strength, tint) for way, strength, tint in lamps if strength > 0]


def _brightest(light: Lighting) -> Direction:
    """Where most of the light comes from: lines of equal light go by the sum of the lamps."""
    if not light.others:
        return light.key
    total = np.array(light.key) * light.strength + sum(np.array(way) * strength for way, strength, _ in light.others)
    size = float(np.linalg.norm(total))
    if size < 1e-6:
        return light.key
    x, y, z = (total / size).tolist()
    return (x, y, z)


class _Leaning(NamedTuple):
    """A body that turns in one direction only, across its axis: a unit vector on the sheet."""

    across: Point
    look: Look
    light: Lighting


def _tubes(bodies: list[Placed]) -> list[list[Coat]]:
    """A tube along the longer axis of each box; its lines begin at the lamp's side."""
    across, reaches = zip(*(_across(p.radii, p.turn) for p in bodies), strict=True)
    on_sheet = across_on_sheet(np.array(across), matrices_of([p.world for p in bodies]))
    side = np.where((on_sheet * np.array([p.light.key[:2] for p in bodies])).sum(axis=1) < 0, -1.0, 1.0)[:, None]
    asked = _leaning(bodies, on_sheet * side)
    ways = (np.array(across) * side).tolist()
    return [
        [Coat(Linear(stops, *_ends(p.centre, (x, y), reach), oklab=False))]
        for p, stops, (x, y), reach in zip(bodies, _tube_stops(asked), ways, reaches, strict=True)
    ]


def _leaning(bodies: list[Placed], on_sheet: Floats) -> list[_Leaning]:
    ways = on_sheet.round(9).tolist()  # so that what is alike is kept as one
    return [_Leaning((x + 0.0, y + 0.0), p.look, p.light) for p, (x, y) in zip(bodies, ways, strict=True)]


@by_values("stops of tubes", 4096)
def _tube_stops(asked: list[_Leaning]) -> list[tuple[Stop, ...]]:
    s = np.linspace(1, -1, _SAMPLES)
    rgba = _lit_leaning(asked, tube(s, *_numbers(asked)))
    return reduced_each(np.broadcast_to((1 - s) / 2, rgba.shape[:2]), rgba)


@by_values("stops of folds", 1024)
def _fold_stops(asked: list[_Leaning]) -> list[tuple[Stop, ...]]:
    rgba = _lit_leaning(asked, fold(*_numbers(asked))).tolist()
    return [tuple(Stop(float(t), Colour(*c)) for t, c in zip(FOLD_PLACES, row, strict=True)) for row in rgba]


def _numbers(asked: list[_Leaning]) -> tuple[Floats, Floats, Floats, Floats]:
    """Directions across on the sheet, where they stay what they are; roundness; directions to the lamps."""
    rho = np.array([a.look.roundness for a in asked])
    return np.array([a.across for a in asked]), np.eye(2), rho, np.array([lean_of(a.light) for a in asked])


def _lit_leaning(asked: list[_Leaning], surface: tuple[Floats, Floats]) -> Floats:
    return _rgba(lit_each([a.look for a in asked], [a.light for a in asked], *surface), [a.look for a in asked])


def _rgba(rgb: Floats, looks: list[Look]) -> Floats:
    alpha = np.array([look.base.a for look in looks])[:, None, None]
    return np.concatenate([rgb, np.broadcast_to(alpha, (*rgb.shape[:2], 1))], axis=2)


def _across(radii: Point, turn: float) -> tuple[Point, float]:
    """The direction across the longer axis of a box, and half the box's extent along it."""
    lengthwise = 0.0 if radii[0] >= radii[1] else 90.0
    a = math.radians(lengthwise + turn + 90)
    across = (math.cos(a), math.sin(a))
    return across, abs(across[0]) * radii[0] + abs(across[1]) * radii[1]


def _ends(centre: Point, across: Point, reach: float) -> tuple[Point, Point]:
    (cx, cy), (x, y) = centre, across
    return (cx + x * reach, cy + y * reach), (cx - x * reach, cy - y * reach)


def _folds(bodies: list[Placed]) -> list[list[Coat]]:
    """Two flat halves that lean away from a crease along each box's longer axis, a little rounder towards it."""
    across, reaches = zip(*(_across(p.radii, p.turn) for p in bodies), strict=True)
    on_sheet = across_on_sheet(np.array(across), matrices_of([p.world for p in bodies]))
    return [
        [Coat(Linear(stops, *_ends(p.centre, way, reach), oklab=False))]
        for p, stops, way, reach in zip(bodies, _fold_stops(_leaning(bodies, on_sheet)), across, reaches, strict=True)
    ]


def _cones(bodies: list[Placed]) -> list[list[Coat]]:
    """Cones seen from above their tips: one tone along each line from the tip to the rim."""
    t = np.linspace(0, 1, _ROUND_CONE + 1)
    rim = (
        np.stack([np.cos(2 * np.pi * t), np.sin(2 * np.pi * t)], axis=1) / np.array([p.radii for p in bodies])[:, None]
    )
    rim /= np.hypot(rim[..., :1], rim[..., 1:])
    looks, lights = [p.look for p in bodies], [p.light for p in bodies]
    a, rho = matrices_of([multiply(p.world, scaling(*p.radii)) for p in bodies]), np.array([k.roundness for k in looks])
    surface = cone(rim, a, rho, np.array([lean_of(light) for light in lights]))
    rgba = _rgba(lit_each(looks, lights, *surface), looks)
    stops = reduced_each(np.broadcast_to(t, rgba.shape[:2]), rgba)
    return [[Coat(Conic(s, p.centre, oklab=False))] for p, s in zip(bodies, stops, strict=True)]


_MAKERS: dict[tuple[str, ...], Callable[[list[Placed]], list[list[Coat]]]] = {
    ("ball", "dish", "drop"): _rounds, ("tube",): _tubes, ("fold",): _folds, ("cone",): _cones,
}  # fmt: skip
