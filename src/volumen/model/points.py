"""Points of hand-drawn paths."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import Point


class PathPoint(msgspec.Struct, frozen=True, array_like=True):
    """A point of a path with its arriving and leaving handle, all absolute. A corner's handles may lie on it."""

    at: Point
    arrive: Point
    leave: Point
    smooth: bool = False


class PathRun(msgspec.Struct, frozen=True):
    """One run of points, open or closed."""

    points: tuple[PathPoint, ...]
    closed: bool = False
