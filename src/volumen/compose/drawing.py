"""How each kind of ingredient is drawn: registered beside the drawing itself, asked for by kind.

What lies behind an outline is told where the node stands (``Behind``), what lies over its paints which outline it is
(``Over``). The rows of the catalogue say which of the two a kind is.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple, TypeVar

from volumen.compose.light import Light
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.ingredients import Ingredient
from volumen.model.nodes import Node, Shape
from volumen.picture.instructions import Clip, Item
from volumen.shading.lamp import Lamp, Lights
from volumen.shading.materials import Material
from volumen.shading.paint import Colour

Others = dict[int, tuple[Shape, Affine]]  # shapes that a recipe refers to, by id, with their places on the sheet


class Behind(NamedTuple):
    """What a shadow or glow needs to know: its node and place, the lights, and what it falls on: the colour beneath, or
    for one that is held to some objects their colours and clips (``receivers``); the document's own materials."""

    node: Node
    world: Affine
    lights: Lights
    beneath: Colour
    receivers: Sequence[tuple[Colour, Clip | None]]
    materials: tuple[Material, ...] = ()

    @property
    def lamp(self) -> Lamp:
        """The key lamp."""
        return self.lights.key


class Over(NamedTuple):
    """What lies over a node's paints needs its outline, its place, the light, and the shapes that it refers to."""

    node: Node
    path: Path
    world: Affine
    light: Light
    others: Others


DrawBehind = Callable[[Any, Behind], Sequence[Item]]
DrawOver = Callable[[Any, Over], Sequence[Item]]
_BEHIND: dict[type, DrawBehind] = {}
_OVER: dict[type, DrawOver] = {}
B = TypeVar("B", bound=DrawBehind)
O = TypeVar("O", bound=DrawOver)


def draws_behind(kind: type) -> Callable[[B], B]:
    """Registers the function that draws a kind of ingredient behind the outline."""

    def register(draw: B) -> B:
        _BEHIND[kind] = draw
        return draw

    return register


def draws_over(kind: type) -> Callable[[O], O]:
    """Registers the function that draws a kind of ingredient over the paints."""

    def register(draw: O) -> O:
        _OVER[kind] = draw
        return draw

    return register


def drawn_behind(i: Ingredient, at: Behind) -> Sequence[Item]:
    """What an ingredient puts behind its node, back to front; nothing for one that lies elsewhere."""
    draw = _BEHIND.get(type(i))
    return draw(i, at) if draw is not None else ()


def drawn_over(i: Ingredient, at: Over) -> Sequence[Item]:
    """What an ingredient lays over the paints of its node; nothing for one that lies elsewhere."""
    draw = _OVER.get(type(i))
    return draw(i, at) if draw is not None else ()
