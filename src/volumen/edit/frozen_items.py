"""Drawing instructions as plain shapes: what a picture shows, in nodes that no lamp changes."""

from __future__ import annotations

import math
from collections.abc import Iterable

import msgspec

from volumen.geometry.affine import Affine, apply_vector, invert, mean_scale, multiply, translation
from volumen.geometry.path import Path
from volumen.model.ingredients import Blur, Feather, Fill, Ingredient, Line, Recipe
from volumen.model.nodes import Group, Node, Shape
from volumen.outline.forms import path_form
from volumen.picture.instructions import Bitmap, Clip, FillPath, Item, Layer, Soft, StrokePath, in_plain_layers
from volumen.shading.mesh_paints import stored
from volumen.shading.paint import ReliefPaint, Solid

replace = msgspec.structs.replace


class Taker:
    """Hands out new ids."""

    def __init__(self, next_id: int) -> None:
        self.next_id = next_id

    def take(self) -> int:
        """The next free id."""
        self.next_id += 1
        return self.next_id - 1

    def numbered(self, node: Node) -> Node:
        """What is made of a copy, a step or a piece, some of whose ids are below zero, as nodes of the document."""
        children = tuple(self.numbered(c) for c in node.children)
        return replace(node, id=self.take() if node.id < 0 else node.id, children=children)


class NodeMaker(Taker):
    """Makes nodes of drawing instructions, for a parent at a ``place`` on the sheet.

    All of them are without substance: they are light and shade laid over things.
    """

    def nodes(self, items: Iterable[Item], place: Affine, name: str) -> list[Node]:
        """Nodes that show what items show, in the coordinates that ``place`` maps to the sheet; none where it cannot
        be inverted."""
        back = invert(place)
        return [] if back is None else [n for i in items for n in self._nodes(i, back, name)]

    def _nodes(self, item: Item, back: Affine, name: str) -> list[Node]:
        if isinstance(item, FillPath | StrokePath):
            look = _look(item)
            if look is None or not item.path:
                return []
            return [self._plain(item.path, (look,), multiply(back, item.transform), name)]
        if isinstance(item, Layer):
            return self._layer(item, back, name)
        if isinstance(item, Soft):
            return self._soft(item, back, name)
        assert isinstance(item, Bitmap)
        return []

    def _plain(self, path: Path, recipe: Recipe, place: Affine, name: str) -> Shape:
        return Shape(self.take(), name, path_form(path), recipe, transform=place, substance=False)

    def _layer(self, item: Layer, back: Affine, name: str) -> list[Node]:
        item = in_plain_layers(item)
        inner = [n for i in item.items for n in self._nodes(i, back, name)]
        if not inner:
            return []
        recipe: list[Ingredient] = []
        if item.blur > 0:
            recipe.append(_blur(item, back))
        if item.feather > 0:
            recipe.append(Feather(item.feather * mean_scale(back)))
        if not item.at_rest:
            group = Group(
                self.take(), name, tuple(inner), tuple(recipe), opacity=item.opacity, blend=item.blend,
                isolated=item.isolated, substance=False,
            )  # fmt: skip
            inner = [group]
        return self.held(inner, item.clip, back, name)

    def _soft(self, item: Soft, back: Affine, name: str) -> list[Node]:
        """A blurred silhouette in one colour; without its ramp, which no plain shape can have."""
        move = multiply(back, translation(*item.offset))
        paint = Solid(item.colour.with_alpha(1.0))
        parts: list[Node] = []
        for i in item.items:
            if isinstance(i, FillPath | StrokePath) and i.path:
                plain = replace(i, paint=paint, opacity=1.0, blend="normal")
                look = _look(plain)
                assert look is not None
                parts.append(self._plain(i.path, (look,), multiply(move, i.transform), "outline"))
        if not parts:
            return []
        blur: Recipe = (Blur(item.sigma * mean_scale(back)),) if item.sigma > 0 else ()
        opacity = item.opacity * item.colour.a
        group = Group(self.take(), name, tuple(parts), blur, opacity=opacity, blend=item.blend, substance=False)
        return self.held([group], item.clip, back, name)

    def held(self, inner: list[Node], clip: Clip | None, back: Affine, name: str) -> list[Node]:
        """Nodes inside a clip, in the coordinates that ``back`` leads to."""
        if clip is None:
            return inner
        place = multiply(back, clip.transform)
        inside = invert(place)
        if inside is None:
            return []
        held = tuple(replace(n, transform=multiply(inside, n.transform)) for n in inner)
        holder = Shape(self.take(), name, path_form(clip.path), (), held, place, substance=False)
        return [holder]


def _blur(item: Layer, back: Affine) -> Blur:
    """A layer's blur, given on the sheet, in the coordinates that ``back`` leads to."""
    if item.blur_angle is None:
        return Blur(item.blur * mean_scale(back))
    t = math.radians(item.blur_angle)
    x, y = apply_vector(back, (math.cos(t), math.sin(t)))
    return Blur(item.blur * math.hypot(x, y), angle=math.degrees(math.atan2(y, x)))


def _look(item: FillPath | StrokePath) -> Ingredient | None:
    if isinstance(item, StrokePath):
        return Line(item.paint, item.width, item.cap, item.join, item.miter, opacity=item.opacity, blend=item.blend)
    return None if isinstance(item.paint, ReliefPaint) else Fill(stored(item.paint), item.opacity, item.blend)
