"""Shadows by height as they are seen from above: each held to what shows of the sheet that it falls on.

In a picture the shade on a sheet lies right on it, and what lies over both hides it. What is drawn later, as freezing
does, must leave out what lies between.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from dataclasses import replace

from volumen.compose.falling import Falling, Part, clip_of
from volumen.compose.finish import is_finished
from volumen.compose.heights import GROUND
from volumen.compose.memo import Around
from volumen.geometry.affine import IDENTITY
from volumen.geometry.engine import Operation, PathOpError, combine
from volumen.geometry.path import Path, boxes_meet, union_box
from volumen.geometry.primitives import rectangle
from volumen.model.ingredients import Ingredient
from volumen.picture.instructions import Clip, Item


class Fallen:
    """Finds what is seen of the shadows that some objects ``together`` throw in a composition: the branch of the pile
    that each of them is in, by its id."""

    def __init__(self, falling: Falling, together: Mapping[int, int]) -> None:
        self.falling, self.heights = falling, falling.heights
        self.shown: dict[int, Path] = {}
        numbers = [n for n in self.heights.falls.of if (s := self.heights.standing[n]) and s.node.id in together]
        self.found: dict[int, list[tuple[Ingredient, Item]]] = {}
        self.within: dict[int, list[tuple[Ingredient, Item]]] = {}
        self.over_finish: dict[int, list[str]] = {}  # names of sheets with a finish, by what throws a shadow on it
        self.met: set[int] = set()
        self.together = together
        self.sheets: dict[int, list[int]] = {}  # the numbers of those of each branch
        for n, standing in enumerate(self.heights.standing):
            if standing is not None and standing.node.id in together:
                self.sheets.setdefault(together[standing.node.id], []).append(n)
        for receiver, parts in sorted(falling.by_receiver(numbers, from_within=True).items()):
            self._add(receiver, parts)

    def around(self, node_id: int, bare: Around) -> Around:
        """The surroundings of an object, with the shadows that lie right behind it, back to front, each with an
        ingredient that it comes from; and those that lie on it beneath its finish, if it is one of those together."""
        behind = self.found.get(node_id, [])
        return replace(
            bare, soft=(*behind, *bare.soft), inside=tuple(self.within.get(node_id, ())), by_height=bool(behind),
            finished_sheets=tuple(self.over_finish.get(node_id, ())), meets_others=node_id in self.met,
        )  # fmt: skip

    def _add(self, receiver: int, parts: list[Part]) -> None:
        """All that falls on one sheet: beneath its finish, or behind the lowest of what lies over it in its own branch,
        or behind the lowest branch that throws it."""
        sheet = self.heights.standing[receiver]
        finished = sheet is not None and is_finished(sheet.node, False)
        if sheet is not None and finished and sheet.node.id in self.together:
            for group, item in self.falling.grouped(parts, clip_of(sheet)):
                self.within.setdefault(sheet.node.id, []).append((group[0].throw.ingredient, item))
            return
        lowest, behind = self._place(receiver, min(p.throw.number for p in parts))
        path = self._seen(receiver, lowest, parts)
        if not path:
            return
        if sheet is not None and finished:
            self.over_finish.setdefault(behind, []).append(sheet.node.name)
        if self._meets_others(receiver, parts):
            self.met.add(behind)
        clip = Clip(path, IDENTITY)
        for group, item in self.falling.grouped(parts, clip):
            self.found.setdefault(behind, []).append((group[0].throw.ingredient, item))

    def _meets_others(self, receiver: int, parts: list[Part]) -> bool:
        """Whether what falls on a sheet may meet a shadow on it that other objects throw."""
        near = union_box([p.box for p in parts])
        falls = self.heights.falls
        for number in falls.casters[falls.receivers == receiver].tolist():
            standing = self.heights.standing[number]
            if near is None or standing is None or standing.node.id in self.together:
                continue
            if boxes_meet(tuple(self.heights.boxes[number]), near):
                return True
        return False

    def _place(self, receiver: int, caster: int) -> tuple[int, int]:
        """The number of the lowest sheet over a shadow on another, and the object that it is drawn right behind."""
        sheet, throwing = self.heights.standing[receiver], self.heights.standing[caster]
        assert throwing is not None
        branch = self.together[throwing.node.id]
        if sheet is not None and self.together.get(sheet.node.id) == branch:
            return caster, throwing.node.id
        own = self.sheets[branch]
        return own[bisect_right(own, receiver)], branch

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
