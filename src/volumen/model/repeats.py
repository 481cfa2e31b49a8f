"""Repeats: ingredients of a group that show what it holds several times, each copy lit where it stands.

Places are in the group's own coordinates, lengths in its units, angles in degrees, 0 to the right, clockwise. ``gone``
are the numbers of copies that were let go: 0 is what was drawn, which stays where it is. ``scale``, ``spin`` and
``fade`` apply once more with each step: size, turn about a copy's own middle, opacity.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from volumen.geometry.affine import Point

RingBy = Literal["count", "angle"]
GridBy = Literal["gaps", "steps", "fit"]
ScatterOn = Literal["inside", "outline"]


class Ring(msgspec.Struct, frozen=True, tag="ring"):
    """Copies round ``centre``, over a whole turn or over the part ``sweep`` of one.

    By count or by angle, it always closes: an angle is brought to the nearest one with which whole steps fill the
    sweep. ``upright`` ones keep their turn. Each step goes ``outward`` units farther from the centre.
    """

    centre: Point = (0.0, 0.0)
    by: RingBy = "count"
    count: int = 8
    angle: float = 45.0
    sweep: float = 360.0
    upright: bool = False
    outward: float = 0.0
    scale: float = 1.0
    spin: float = 0.0
    fade: float = 1.0
    gone: tuple[int, ...] = ()
    on: bool = True


class Grid(msgspec.Struct, frozen=True, tag="grid"):
    """Copies in a row along ``angle``, or in rows that follow one another ``slant`` degrees from it.

    ``x`` and ``y`` are the gaps between boxes, the steps from middle to middle, or the lengths into which a row and
    the rows fit. Every second row is shifted by the share ``stagger`` of a step.
    """

    across: int = 4
    down: int = 1
    by: GridBy = "gaps"
    x: float = 12.0
    y: float = 12.0
    angle: float = 0.0
    slant: float = 90.0
    stagger: float = 0.0
    scale: float = 1.0
    spin: float = 0.0
    fade: float = 1.0
    gone: tuple[int, ...] = ()
    on: bool = True


class Mirror(msgspec.Struct, frozen=True, tag="mirror"):
    """One mirrored copy, at the line through ``centre`` at ``angle`` (90 upright)."""

    centre: Point = (0.0, 0.0)
    angle: float = 90.0
    gone: tuple[int, ...] = ()
    on: bool = True


class Scatter(msgspec.Struct, frozen=True, tag="scatter"):
    """Copies strewn inside a shape or along its outline: the group's guide, a child with ``member`` set.

    No two middles lie nearer than ``distance``. Each number of a copy gives its own place, size, turn and tint out of
    ``seed``: more copies leave the earlier ones where they are. ``tint`` and ``light`` are the most by which hue
    (degrees) and lightness (share) differ. ``added`` are places put by hand.
    """

    where: ScatterOn = "inside"
    count: int = 40
    distance: float = 20.0
    smallest: float = 0.7
    largest: float = 1.2
    turn: float = 180.0
    tint: float = 0.0
    light: float = 0.0
    seed: int = 1
    added: tuple[Point, ...] = ()
    gone: tuple[int, ...] = ()
    on: bool = True


Repeat = Ring | Grid | Mirror | Scatter
REPEATS = (Ring, Grid, Mirror, Scatter)


def ring_steps(i: Ring) -> tuple[int, float]:
    """How many copies a ring has, the drawn one counted, and the angle from each to the next in degrees.

    A whole turn closes; over a part of one the first and the last copy stand at its ends.
    """
    whole = abs(i.sweep) >= 360.0 - 1e-9
    if i.by == "count":
        count = i.count
    else:
        steps = round(abs(i.sweep) / max(abs(i.angle), 360.0 / 2000)) if i.sweep else 0
        count = steps if whole else steps + 1
    count = max(count, 1)
    between = count if whole else count - 1
    return count, i.sweep / between if between else 0.0


def most_copies(i: Repeat) -> int:
    """How many copies a repeat may make at most, counted without making them."""
    if isinstance(i, Ring):
        return ring_steps(i)[0]
    if isinstance(i, Grid):
        return i.across * i.down
    return 2 if isinstance(i, Mirror) else 1 + i.count + len(i.added)
