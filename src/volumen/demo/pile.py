"""A small counter of ids for writing demo documents by hand, back to front."""

from __future__ import annotations

from typing import Any

from volumen.model.ingredients import Ingredient
from volumen.model.nodes import Document, Form, Group, Node, Shape, Sheet
from volumen.shading.lamp import Lamp


class Pile:
    def __init__(self) -> None:
        self.next_id = 1

    def take(self) -> int:
        self.next_id += 1
        return self.next_id - 1

    def shape(self, name: str, form: Form, *recipe: Ingredient, held: tuple[Node, ...] = (), **more: Any) -> Shape:
        return Shape(self.take(), name, form, recipe, held, **more)

    def group(self, name: str, *children: Node, recipe: tuple[Ingredient, ...] = (), **more: Any) -> Group:
        return Group(self.take(), name, children, recipe, **more)

    def document(self, sheet: Sheet, lamp: Lamp, *children: Node) -> Document:
        return Document(sheet, lamp, Group(0, "pile", children), self.next_id)
