"""The document and its nodes: one definition gives types, equality, validation and the file format."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import IDENTITY, Affine, Point
from volumen.model.ingredients import BlendMode, Recipe
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour


class EllipseForm(msgspec.Struct, frozen=True, tag="ellipse"):
    """An ellipse in the box x, y, width, height."""

    x: float
    y: float
    width: float
    height: float


class RectangleForm(msgspec.Struct, frozen=True, tag="rectangle"):
    x: float
    y: float
    width: float
    height: float
    radius: float = 0.0


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


class PathForm(msgspec.Struct, frozen=True, tag="path"):
    runs: tuple[PathRun, ...]


Form = EllipseForm | RectangleForm | PathForm


class Shape(msgspec.Struct, frozen=True, tag="shape"):
    """A form with its recipe. ``children`` are held inside: clipped to the outline."""

    id: int
    name: str
    form: Form
    recipe: Recipe = ()
    children: tuple[Node, ...] = ()
    transform: Affine = IDENTITY
    visible: bool = True
    locked: bool = False
    lift: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"


class Group(msgspec.Struct, frozen=True, tag="group"):
    """Nodes taken as one; its recipe holds what acts on them together (shadow, glow, blur).

    A group whose opacity is 1, whose blend mode is normal and whose recipe does not blur lets its children
    blend with what lies beneath; otherwise it is composed on its own first.
    """

    id: int
    name: str
    children: tuple[Node, ...] = ()
    recipe: Recipe = ()
    transform: Affine = IDENTITY
    visible: bool = True
    locked: bool = False
    lift: float = 0.0
    opacity: float = 1.0
    blend: BlendMode = "normal"


Node = Shape | Group


class Sheet(msgspec.Struct, frozen=True):
    """The page: size in user units, and its colour (None is a clear ground)."""

    width: float = 800.0
    height: float = 800.0
    ground: Colour | None = Colour(1.0, 1.0, 1.0)


class Document(msgspec.Struct, frozen=True):
    """Everything an artist sets. ``root`` is the pile: the last child lies in front."""

    sheet: Sheet = Sheet()
    lamp: Lamp = Lamp()
    root: Group = Group(0, "pile")
    next_id: int = 1
