"""Forms that fill a box."""

from __future__ import annotations

from typing import Literal

import msgspec


class BoxForm(msgspec.Struct, frozen=True):
    """What all forms in a box start with: its left top corner and its size."""

    x: float
    y: float
    width: float
    height: float


class EllipseForm(BoxForm, frozen=True, tag="ellipse"):
    """An ellipse in the box x, y, width, height.

    With a ``sweep`` below 360 degrees only the part from ``start`` on, clockwise, closed as ``part`` says.
    """

    start: float = 0.0
    sweep: float = 360.0
    part: Literal["sector", "chord", "open"] = "sector"


class RectangleForm(BoxForm, frozen=True, tag="rectangle"):
    """``radii`` gives each corner its own radius: left top, right top, right bottom, left bottom."""

    radius: float = 0.0
    radii: tuple[float, float, float, float] | None = None


class PolygonForm(BoxForm, frozen=True, tag="polygon"):
    """A regular polygon in the ellipse of its box, its first point at the top."""

    sides: int = 6
    turn: float = 0.0


class StarForm(BoxForm, frozen=True, tag="star"):
    """``inner`` is how far out the inner points lie, as a share of the radius."""

    points: int = 5
    inner: float = 0.45
    turn: float = 0.0


class DropForm(BoxForm, frozen=True, tag="drop"):
    """``bulge`` 0..1 sets how low it is widest, ``point`` 0..1 how sharp its tip is."""

    bulge: float = 0.5
    point: float = 1.0


class CloudForm(BoxForm, frozen=True, tag="cloud"):
    """``count`` lobes round an ellipse; at ``depth`` 1 each is a half circle."""

    count: int = 9
    depth: float = 0.8
