"""Short ways to write nodes by hand: used by the demos, by tools and by tests."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from volumen.geometry.affine import Point
from volumen.model.ingredients import Fill, Ingredient
from volumen.model.meant import MeantSo
from volumen.model.nodes import Document, EllipseForm, Form, Group, Node, PathForm, PathPoint, PathRun, Shape, Sheet
from volumen.model.tree import walk
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Linear, Radial, Solid, Stop, colour


def corner(x: float, y: float) -> PathPoint:
    """A point without handles."""
    return PathPoint((x, y), (x, y), (x, y))


def smooth(x: float, y: float, dx: float, dy: float, before: float = 1.0) -> PathPoint:
    """A smooth point whose leaving handle is (dx, dy) away; the arriving one is ``before`` times as long."""
    return PathPoint((x, y), (x - dx * before, y - dy * before), (x + dx, y + dy), True)


def cusp(x: float, y: float, arrive: Point, leave: Point) -> PathPoint:
    """A corner with two free handles, given relative to the point."""
    return PathPoint((x, y), (x + arrive[0], y + arrive[1]), (x + leave[0], y + leave[1]))


def path_form(*points: PathPoint, closed: bool = True) -> PathForm:
    """A path of one run of points."""
    return PathForm((PathRun(points, closed),))


def circle(cx: float, cy: float, rx: float, ry: float | None = None) -> EllipseForm:
    """An ellipse about a centre; a circle without ``ry``."""
    ry = rx if ry is None else ry
    return EllipseForm(cx - rx, cy - ry, 2 * rx, 2 * ry)


def stops(*pairs: tuple[float, str] | tuple[float, str, float]) -> tuple[Stop, ...]:
    """Stops from (position, hex) or (position, hex, alpha)."""
    return tuple(Stop(p[0], colour(p[1], p[2] if len(p) == 3 else 1.0)) for p in pairs)


def solid(hex_colour: str, opacity: float = 1.0) -> Ingredient:
    """A plain fill."""
    return Fill(Solid(colour(hex_colour)), opacity)


def linear(start: Point, end: Point, *pairs: tuple[float, str] | tuple[float, str, float]) -> Linear:
    """A linear gradient from (position, hex) or (position, hex, alpha)."""
    return Linear(stops(*pairs), start, end)


def radial(
    centre: Point, radius: float, *pairs: tuple[float, str] | tuple[float, str, float], focus: Point | None = None
) -> Radial:
    """A radial gradient from (position, hex) or (position, hex, alpha); the focus lies in its centre unless given."""
    return Radial(stops(*pairs), centre, radius, focus or centre)


class Pile:
    """Counts ids for nodes written by hand, back to front."""

    def __init__(self) -> None:
        self.next_id = 1

    def take(self) -> int:
        """The next free id."""
        self.next_id += 1
        return self.next_id - 1

    def shape(self, name: str, form: Form, *recipe: Ingredient, held: tuple[Node, ...] = (), **more: Any) -> Shape:
        """A shape with the next id; ``held`` lies inside it."""
        return Shape(self.take(), name, form, recipe, held, **more)

    def group(self, name: str, *children: Node, recipe: tuple[Ingredient, ...] = (), **more: Any) -> Group:
        """A group with the next id."""
        return Group(self.take(), name, children, recipe, **more)

    def document(self, sheet: Sheet, lamp: Lamp, *children: Node) -> Document:
        """A document of nodes, back to front, whose lifts add up."""
        return Document(sheet, lamp, Group(0, "pile", children), self.next_id, lifts_add_up=True)


def empty_document() -> Document:
    """A document to begin with: nothing on a white sheet, and lifts add up."""
    return Document(lifts_add_up=True)


def meant_so(document: Document, *things: tuple[str, str]) -> Document:
    """A document whose light check leaves alone what some nodes, by name, mean: (name, what it would find)."""
    found = (MeantSo(n.id, what) for name, what in things for n in walk(document.root) if n.name == name)
    return replace(document, meant_so=(*document.meant_so, *found))
