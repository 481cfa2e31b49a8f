"""Repeats: ingredients of a group that show what it holds several times, each copy lit where it stands.

Places are in the group's own coordinates, lengths in its units, angles in degrees, 0 to the right, clockwise. ``gone``
are the numbers of copies that were let go: 0 is what was drawn, which stays where it is. ``scale``, ``spin`` and
``fade`` apply once more with each step: size, turn about a copy's own middle, opacity.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from volumen.geometry.affine import Point
from volumen.geometry.ease import EVEN, Ease

GridBy = Literal["gaps", "steps", "fit"]
ScatterOn = Literal["inside", "outline"]
CourseWay = Literal["repeat", "fit", "stretch"]
CourseCorners = Literal["sharp", "round", "mitre"]


class Ring(msgspec.Struct, frozen=True, tag="ring"):
    """Copies round ``centre``, over a whole turn or over the part ``sweep`` of one.

    It always closes, for the angle from copy to copy follows from their ``count``. ``upright`` ones keep their turn.
    Each step goes ``outward`` units farther from the centre.
    """

    centre: Point = (0.0, 0.0)
    count: int = 8
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


class Course(msgspec.Struct, frozen=True, tag="course"):
    """What the group holds, its motif, along a path: the group's guide, a child with ``member`` set.

    The motif's box runs from its left to its right side along the path, its middle on it. It is repeated with a
    ``gap`` as often as it fits, or fitted a whole number of times, or stretched once over all. With ``bends``
    outlines follow the path, else they are turned as they are; ``corners`` of the path are followed as they are,
    rounded so that the motif swings round them, or mitred: what bends is cut there. Sizes run from ``first`` to
    ``last`` as ``run`` says, ``across`` is how far the motif lies beside the path, ``start`` where along it the
    first one begins (share). ``flip`` runs from the path's last point to its first, ``other_side`` mirrors it at
    the path. ``caps`` are children of the group that stand at the first and the last place instead; a single one
    stands at both. No more than ``most`` motifs are shown.
    """

    way: CourseWay = "fit"
    bends: bool = True
    corners: CourseCorners = "sharp"
    gap: float = 0.0
    first: float = 1.0
    last: float = 1.0
    run: Ease = EVEN
    across: float = 0.0
    start: float = 0.0
    flip: bool = False
    other_side: bool = False
    caps: tuple[int, ...] = ()
    most: int = 100
    gone: tuple[int, ...] = ()
    on: bool = True


Placed = Ring | Grid | Mirror | Scatter
Repeat = Placed | Course
REPEATS = (Ring, Grid, Mirror, Scatter, Course)


def ring_steps(i: Ring) -> tuple[int, float]:
    """How many copies a ring has, the drawn one counted, and the angle from each to the next in degrees.

    A whole turn closes; over a part of one the first and the last copy stand at its ends.
    """
    whole = abs(i.sweep) >= 360.0 - 1e-9
    between = i.count if whole else i.count - 1
    return i.count, i.sweep / between if between else 0.0


def ring_with_angle(i: Ring, angle: float) -> Ring:
    """A ring with the count whose angle from copy to copy is nearest to one in degrees."""
    whole = abs(i.sweep) >= 360.0 - 1e-9
    steps = round(abs(i.sweep) / max(abs(angle), 360.0 / 2000))
    return msgspec.structs.replace(i, count=max(steps if whole else steps + 1, 1))


def most_copies(i: Repeat) -> int:
    """How many copies a repeat may make at most, counted without making them."""
    if isinstance(i, Ring):
        return i.count
    if isinstance(i, Grid):
        return i.across * i.down
    if isinstance(i, Course):
        return i.most + 2
    return 2 if isinstance(i, Mirror) else 1 + i.count + len(i.added)
