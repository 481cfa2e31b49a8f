"""Bending outlines: along an arc, by a swell, a ripple, a pinch, or a free cage.

A bend is a smooth map of the plane given in the box of what is bent: u and v run from -1 to 1 across the box.
A cubic is cut until the cubic with the mapped ends and mapped end derivatives follows the true image.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal

import numpy as np

from volumen.geometry.affine import Floats, Point, apply_points, invert, rotation
from volumen.geometry.curve import derivative, evaluate
from volumen.geometry.path import Box, Contour, Path, joined

BendKind = Literal["arc", "swell", "ripple", "pinch", "cage"]
Map = Callable[[Floats], Floats]
_DEPTH = 7
CAGE = 4  # a cage has CAGE x CAGE control points
# A cage at rest, row by row in box coordinates from -1 to 1.
REST: tuple[Point, ...] = tuple(
    (-1 + 2 * i / (CAGE - 1), -1 + 2 * j / (CAGE - 1)) for j in range(CAGE) for i in range(CAGE)
)


def bend(
    path: Path, kind: BendKind, amount: float, turn: float = 0.0, count: float = 2.0,
    cage: tuple[Point, ...] = REST, tolerance: float = 0.02,
) -> Path:  # fmt: skip
    """The path bent within its own box. ``amount`` 1 is a strong bend, 0 none, negative the other way.

    ``arc`` curves the box's middle line through ``amount`` half circles; ``swell`` widens the middle, ``pinch``
    draws towards the centre, ``ripple`` makes ``count`` waves of ``amount`` half heights. ``turn`` in degrees
    turns the direction; ``cage`` holds 4 x 4 control points of a bicubic patch in box coordinates.
    """
    box = path.bounds()
    if box is None:
        return path
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    if turn and kind != "cage":
        to = rotation(-turn, middle)
        back = invert(to)
        assert back is not None
        return bend(path.transformed(to), kind, amount, 0.0, count, cage, tolerance).transformed(back)
    if kind != "cage" and abs(amount) < 1e-9:
        return path
    if kind == "cage" and (cage == REST or len(cage) != CAGE * CAGE):
        return path
    size = max(box[2] - box[0], box[3] - box[1], 1e-9)
    return mapped(path, mapping(box, kind, amount, count, cage), max(tolerance, size * 1e-5))


def mapping(box: Box, kind: BendKind, amount: float, count: float, cage: tuple[Point, ...]) -> Map:
    """The map of points (n, 2) that a bend makes of a box."""
    cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    w, h = max(box[2] - box[0], 1e-9) / 2, max(box[3] - box[1], 1e-9) / 2

    def arc(p: Floats) -> Floats:
        angle = amount * math.pi
        radius = 2 * w / angle
        a = (p[:, 0] - cx) / radius
        r = radius - (p[:, 1] - cy)
        return np.stack([cx + r * np.sin(a), cy + radius - r * np.cos(a)], axis=1)

    def swell(p: Floats) -> Floats:
        u = np.clip((p[:, 0] - cx) / w, -1, 1)
        k = np.maximum(1 + amount * np.cos(u * math.pi / 2), 1e-3)
        return np.stack([p[:, 0], cy + (p[:, 1] - cy) * k], axis=1)

    def ripple(p: Floats) -> Floats:
        u = (p[:, 0] - cx) / w
        return np.stack([p[:, 0], p[:, 1] - amount * h * np.sin(u * math.pi * count)], axis=1)

    def pinch(p: Floats) -> Floats:
        u, v = (p[:, 0] - cx) / w, (p[:, 1] - cy) / h
        rest = np.maximum(1 - (u * u + v * v) / 2, 0.0)
        k = np.exp(-amount * rest)
        return np.stack([cx + u * k * w, cy + v * k * h], axis=1)

    def patch(p: Floats) -> Floats:
        grid = np.array(cage).reshape(CAGE, CAGE, 2)
        bu = _bernstein((p[:, 0] - cx) / (2 * w) + 0.5)
        bv = _bernstein((p[:, 1] - cy) / (2 * h) + 0.5)
        uv = np.einsum("ni,nj,ijk->nk", bv, bu, grid)
        return np.asarray(np.array([cx, cy]) + uv * np.array([w, h]))

    return {"arc": arc, "swell": swell, "ripple": ripple, "pinch": pinch, "cage": patch}[kind]


def _bernstein(t: Floats) -> Floats:
    u = 1 - t
    return np.stack([u**3, 3 * u * u * t, 3 * u * t * t, t**3], axis=1)


def mapped(path: Path, move: Map, tolerance: float) -> Path:
    """The image of a path under a smooth map, within ``tolerance``."""
    return Path(tuple(_mapped_contour(c, move, tolerance) for c in path.contours), path.evenodd)


def _mapped_contour(contour: Contour, move: Map, tolerance: float) -> Contour:
    source = contour.segments
    if not len(source):
        return Contour(move(contour.points), contour.closed)
    low, high, index = np.zeros(len(source)), np.ones(len(source)), np.arange(len(source))
    done: list[tuple[Floats, Floats, Floats]] = []  # place, cubic
    for level in range(_DEPTH + 1):
        cubics = _images(source[index], low, high, move)
        miss = np.zeros(len(index))
        for t in (0.25, 0.5, 0.75):
            at = low + (high - low) * t
            true = move(evaluate(source[index], at))
            made = evaluate(cubics, np.full(len(index), t))
            miss = np.maximum(miss, np.hypot(*(true - made).T))
        good = (miss <= tolerance) | (level == _DEPTH)
        done.append((index[good] + low[good], cubics[good], miss[good]))
        index, low, high = index[~good], low[~good], high[~good]
        if not len(index):
            break
        middle = (low + high) / 2
        index = np.concatenate([index, index])
        low, high = np.concatenate([low, middle]), np.concatenate([middle, high])
    places = np.concatenate([d[0] for d in done])
    cubics = np.concatenate([d[1] for d in done])[np.argsort(places, kind="stable")]
    points = joined(list(cubics))
    if contour.closed:
        points[-1] = points[0]
    return Contour(points, contour.closed)


def _images(segments: Floats, low: Floats, high: Floats, move: Map) -> Floats:
    """Cubics with the mapped ends and end derivatives of parts of segments."""
    p0, p3 = evaluate(segments, low), evaluate(segments, high)
    third = ((high - low) / 3)[:, None]
    d0, d3 = derivative(segments, low) * third, derivative(segments, high) * third
    q0, q3 = move(p0), move(p3)
    e = 1e-4
    # Directional derivatives of the map along the handles, by central differences.
    h0 = (move(p0 + d0 * e) - move(p0 - d0 * e)) / (2 * e)
    h3 = (move(p3 + d3 * e) - move(p3 - d3 * e)) / (2 * e)
    return np.stack([q0, q0 + h0, q3 - h3, q3], axis=1)


def cage_points(box: Box, cage: tuple[Point, ...]) -> Floats:
    """A cage's control points on the sheet side of its box, as (16, 2)."""
    cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
    return apply_points(((box[2] - box[0]) / 2, 0, 0, (box[3] - box[1]) / 2, cx, cy), np.array(cage))
