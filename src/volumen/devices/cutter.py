"""A cutter: the line round a sticker, the order in which a blade follows lines, how far and how long it goes.

A stand-in: one speed on lines, one between them, a fixed halt at corners; the blade drags along without an offset of
its own.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import msgspec
import numpy as np

from volumen.colour.srgb import Floats
from volumen.devices.cover import DeviceProblem, cover
from volumen.geometry.affine import Point
from volumen.geometry.boolean import fill_holes
from volumen.geometry.curve import flatten
from volumen.geometry.engine import PathOpError, contains
from volumen.geometry.offset import offset
from volumen.geometry.path import Contour, Path
from volumen.model.nodes import Document
from volumen.model.sheet import PER_UNIT

MM = PER_UNIT["mm"]
_CHORD = 0.02 * MM
_FINEST = 1e-3  # mm: a blade that is finer goes round everything
_MOST_STEPS = 500_000  # along a line, which is then as long as ten sheets
_CORNER = 15.0  # degrees of turn within a step, from where the blade halts
_TOO_TIGHT = 0.9  # of the blade's radius; what is tighter is told
_WINDOW = 0.6  # of the radius: the way along a line over which its turn is measured


class Cutter(msgspec.Struct, frozen=True):
    """``gap``: from the artwork to the line, mm. ``radius``: the tightest turn of the blade, mm. Speeds in mm/s,
    ``halt`` in seconds at each corner."""

    gap: float = 2.0
    radius: float = 1.5
    cutting: float = 60.0
    moving: float = 250.0
    halt: float = 0.15


USUAL = Cutter()


class Tight(NamedTuple):
    """A place (user units) where a line turns tighter than the blade, and its radius there in mm."""

    at: Point
    radius: float


class CutPlan(NamedTuple):
    """Lines in the order in which they are cut, each with its end at its start; lengths in mm, time in seconds."""

    path: Path
    lines: tuple[Contour, ...]
    cut_mm: float
    travel_mm: float
    seconds: float
    tight: tuple[Tight, ...]


def die_line(document: Document, cutter: Cutter = USUAL) -> Path:
    """The line round a document's artwork: its cover with holes filled, grown by the gap, with bays closed and spikes
    rounded to the radius of the blade. The largest outline only. Raises DeviceProblem."""
    ink = cover(document)
    if not ink:
        raise DeviceProblem("there is nothing to cut round: no object of the artwork covers anything")
    gap, r = cutter.gap * MM, cutter.radius * MM
    try:
        grown = _largest(fill_holes(offset(fill_holes(ink), gap + r)))
        opened = _largest(fill_holes(offset(grown, -2 * r))) if r > 0 else grown
        made = _largest(fill_holes(offset(opened, r))) if opened else Path()
    except PathOpError as error:
        raise DeviceProblem(f"the line round the artwork cannot be worked out: {error}") from error
    if not made:
        raise DeviceProblem(f"a blade of {cutter.radius:g} mm radius cannot go round anything so small")
    return made


def _largest(path: Path) -> Path:
    if not path.contours:
        return Path()
    return Path((max(path.contours, key=lambda c: abs(Path((c,)).area())),))


def plan(path: Path, cutter: Cutter = USUAL, start: Point = (0.0, 0.0)) -> CutPlan:
    """How a blade cuts the lines of a path from a place: inner lines before those round them, then always the nearest
    next."""
    lines = [c for c in path.contours if len(c.points) > 1]
    flat = [flatten(c, _CHORD)[0] for c in lines]
    rings = [Path((c,)) for c in lines]
    depth = [sum(contains(r, *flat[k][0]) for n, r in enumerate(rings) if n != k) for k in range(len(lines))]
    left, here, order, travel = set(range(len(lines))), start, [], 0.0
    while left:
        deepest = max(depth[k] for k in left)
        k = min((k for k in left if depth[k] == deepest), key=lambda k: math.dist(here, flat[k][0]))
        travel += math.dist(here, flat[k][0])
        here = (float(flat[k][-1][0]), float(flat[k][-1][1]))
        order.append(k)
        left.remove(k)
    cut = sum(_length(p) for p in flat) / MM
    travel = (travel + math.dist(here, start)) / MM
    corners = sum(_corners(p) for p in flat)
    seconds = cut / cutter.cutting + travel / cutter.moving + corners * cutter.halt
    tight = tuple(t for p in flat for t in _tight(p, cutter.radius))
    return CutPlan(path, tuple(lines[k] for k in order), cut, travel, seconds, tight)


def _length(points: Floats) -> float:
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _corners(points: Floats) -> int:
    ways = np.diff(points, axis=0)
    ways = ways[np.hypot(*ways.T) > 1e-9]
    turn = np.degrees(np.arctan2(ways[:, 1], ways[:, 0]))
    turn = np.abs((np.diff(np.append(turn, turn[:1])) + 180) % 360 - 180)
    return int(np.count_nonzero(turn > _CORNER))


def _tight(points: Floats, radius: float) -> Iterator[Tight]:
    """Places where the line turns within a short way more than a circle of the radius would: each bend once."""
    if radius < _FINEST or len(points) < 4:
        return
    closed = bool(np.hypot(*(points[0] - points[-1])) < 1e-6)
    step = radius * MM * _WINDOW / 6
    way = np.append(0.0, np.cumsum(np.hypot(*np.diff(points, axis=0).T)))
    count = min(max(int(way[-1] / step), 8), _MOST_STEPS)
    even = np.linspace(0, way[-1], count, endpoint=not closed)
    at = np.stack([np.interp(even, way, points[:, k]) for k in (0, 1)], axis=1)
    ahead, back = np.roll(at, -6, 0), np.roll(at, 6, 0)
    a, b = at - back, ahead - at
    turn = np.abs(np.arctan2(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0], (a * b).sum(1)))
    long = (np.hypot(*a.T) + np.hypot(*b.T)) / 2
    bend = np.where(turn > 1e-6, long / np.maximum(2 * np.sin(turn / 2), 1e-9), np.inf) / MM
    if not closed:
        bend[:6] = bend[-6:] = np.inf
    under = bend < radius * _TOO_TIGHT
    for k in np.nonzero(under & ~np.roll(under, 1))[0]:
        run = [int(k)]
        while len(run) < count and under[(run[-1] + 1) % count]:
            run.append((run[-1] + 1) % count)
        worst = min(run, key=lambda n: bend[n])
        yield Tight((float(at[worst, 0]), float(at[worst, 1])), float(bend[worst]))
