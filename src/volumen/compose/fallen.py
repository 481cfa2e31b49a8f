"""Shadows by height as they are seen from above: each held to what shows of the sheet that it falls on.

In a picture the shade on a sheet lies right on it, and what lies over both hides it. What is drawn later, as freezing
does, must leave out what lies between.
"""

from __future__ import annotations

from volumen.compose.falling import Falling, Part, clip_of
from volumen.compose.heights import GROUND
from volumen.geometry.affine import IDENTITY
from volumen.geometry.engine import Operation, PathOpError, combine
from volumen.geometry.path import Path, boxes_meet, union_box
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import Ingredient
from volumen.picture.instructions import Clip, Item


class Fallen:
    """Finds what is seen of the shadows that some objects ``together`` throw in a composition."""

    def __init__(self, falling: Falling, together: frozenset[int]) -> None:
        self.falling, self.heights = falling, falling.heights
        self.shown: dict[int, Path] = {}
        numbers = [n for n in self.heights.falls.of if (s := self.heights.standing[n]) and s.node.id in together]
        self.found: dict[int, list[tuple[Ingredient, Item]]] = {}
        for receiver, parts in sorted(falling.by_receiver(numbers, from_within=True).items()):
            self._add(receiver, parts)

    def of(self, node_id: int) -> list[tuple[Ingredient, Item]]:
        """The shadows that lie right behind one object, back to front, each with an ingredient that it comes from."""
        return self.found.get(node_id, [])

    def _add(self, receiver: int, parts: list[Part]) -> None:
        """All that falls on one sheet, behind the lowest of what throws it."""
        caster = min(p.throw.number for p in parts)
        standing = self.heights.standing[caster]
        path = self._seen(receiver, caster, parts)
        if not path or standing is None:
            return
        clip = Clip(path, IDENTITY)
        for group, item in self.falling.grouped(parts, clip):
            self.found.setdefault(standing.node.id, []).append((group[0].throw.ingredient, item))

    def _seen(self, receiver: int, caster: int, parts: list[Part]) -> Path:
        """What shows of a sheet beneath those between it and what throws a shadow on it, near that."""
        path, near = self._outline(receiver), union_box([p.box for p in parts])
        for number in range(receiver + 1, caster):
            standing = self.heights.standing[number]
            box = tuple(self.heights.boxes[number])
            if near is None or standing is None or standing.only_throws or not boxes_meet(box, near):
                continue
            path = _joined(path, self._outline(number), "subtract")
        return path

    def _outline(self, number: int) -> Path:
        """The outline of a sheet inside what holds it."""
        if number not in self.shown:
            standing = self.heights.standing[number]
            if standing is None:
                l, t, r, b = self.heights.boxes[GROUND].tolist()
                self.shown[number] = rectangle(l, t, r - l, b - t)
            else:
                clip = clip_of(standing)
                path = clip.path.transformed(clip.transform) if clip is not None else Path()
                held = standing.holder >= 0
                self.shown[number] = _joined(path, self._outline(standing.holder), "intersect") if held else path
        return self.shown[number]


def _joined(a: Path, b: Path, how: Operation) -> Path:
    try:
        return combine(a, b, how)
    except PathOpError:
        return a
