"""Which shadows can be seen: what shows of every sheet, cell by cell of a map, and where on that a shadow may fall.

All is told on the safe side: a sheet shows in every cell that it touches, unless one solid thing over it fills that
cell; a shadow falls wherever its blur may reach. What is left out would change no pixel.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property, partial

import numpy as np
from numpy.typing import NDArray

from volumen.caching import Cache, by_value
from volumen.geometry.affine import Floats, invert
from volumen.geometry.mask import Bits, Cells, Part, touched_and_filled, whole_map
from volumen.geometry.path import Box
from volumen.model.ingredients import Blur, Feather, Fill, Line, Rim
from volumen.model.nodes import Image, Node, Shape
from volumen.outline.making import itself, shown_children
from volumen.picture.instructions import FillPath, Item, StrokePath
from volumen.shading.paint import Conic, Linear, Radial, Solid

_SIDE = 128  # cells along the longer side of the map
_MANY = 20_000  # answers that are kept, and
_FEW = 1000  # of which it is asked whether they still hold
_MARGIN = 0.125  # cells by which the map may be wrong


class Laid:
    """The cells of a map that a sheet touches, and those that it fills, as bits from the map's first row on; found when
    they are first asked for."""

    def __init__(self, find: Callable[[], tuple[Bits, int]]) -> None:
        self._find = find

    @cached_property
    def _cells(self) -> tuple[Bits, int]:
        return self._find()

    @cached_property
    def touched(self) -> Bits:
        """The cells that it touches."""
        return self._cells[0]

    @cached_property
    def filled(self) -> int:
        """The cells that it fills."""
        return self._cells[1]


_wide: Cache[Bits] = Cache("sheets on the map as wide as their shadows", most_bytes=20_000_000, lasting=False)


@by_value("maps of the ground", 8)
def ground_of(width: float, height: float) -> Ground:
    """The map of a sheet of paper of some size."""
    return Ground(width, height)


class Ground:
    """A map of a sheet of paper with a cell more on each side, as its edge may cut pixels: ``scale`` leads to its
    cells, ``columns`` by ``rows``; ``whole`` is all of it."""

    def __init__(self, width: float, height: float) -> None:
        self.scale = _SIDE / max(width, height, 1e-6)
        self.columns, self.rows = math.ceil(width * self.scale) + 2, math.ceil(height * self.scale) + 2
        cells = whole_map(self.columns, self.rows)
        self.whole = Laid(lambda: (cells, cells.value))

    def laid(self, parts: tuple[Part, ...], box: Box) -> Laid:
        """Parts of a silhouette inside a box."""
        return Laid(partial(self._found, parts, box))

    def _found(self, parts: tuple[Part, ...], box: Box) -> tuple[Bits, int]:
        k = self.scale
        touched, filled = touched_and_filled(parts, box, (k, 0.0, 0.0, k, 1.0, 1.0), self.columns, self.rows)
        far = filled.top * 3 * self.columns
        return touched, filled.value << far if far >= 0 else filled.value >> -far


class Sight:
    """What shows of sheets back to front, with the ``maps`` of their silhouettes; the first is the ground. Each
    ``hides`` what lies beneath it or does not, in what holds it (``holders``, -1 for none). What the ``last`` one knows
    of the same sheets holds as long as they show the same."""

    def __init__(
        self, ground: Ground, maps: Sequence[Laid], hides: Sequence[bool], holders: Sequence[int], last: Sight | None
    ) -> None:
        self.ground, self.maps, self.hides, self.holders = ground, maps, hides, holders
        self.last = last if last is not None and last.shown and last.ground is ground else None
        self.shown: list[Bits] = []
        self.known: dict[tuple[int, ...], bool] = {}

    def seen(self, casters: Cells, receivers: Cells, moves: Floats, reaches: Floats) -> NDArray[np.bool_]:
        """Whether anything may be seen (n,) of the shadows (n) of some sheets on others, moved (n, 2) and blurred as
        far as ``reaches`` (n,)."""
        if not self.shown:
            self._find()
        g = self.ground
        shifts, far = moves * g.scale, (reaches * g.scale + _MARGIN)[:, None]
        least, most = np.floor(shifts - far), np.ceil(shifts + far)
        # what lies farther off than the map knows may be seen
        near = np.all(np.maximum(-least, most) <= (g.columns, g.rows), axis=1)
        out = np.ones(len(casters), np.bool_)
        ways = np.column_stack([casters, receivers, least, most - least])[near].astype(np.intp).tolist()
        known, found = self.known, []
        if len(known) > _MANY:
            known.clear()
        for way in map(tuple, ways):
            hit = known.get(way)
            if hit is None:
                hit = known[way] = self._meet(*way)
            found.append(hit)
        out[near] = found
        return out

    def _meet(self, caster: int, receiver: int, x: int, y: int, across: int, down: int) -> bool:
        """Whether one sheet, moved by cells and wider by more, meets what shows of another."""
        own = self.maps[caster]
        if not (own.touched.value and self.maps[receiver].touched.value):
            return True  # a hair between the cells
        key = (id(own), across, down)
        wide = _wide.get(key)
        if wide is None:
            wide = own.touched.smeared(across, down, self.ground.columns)
            _wide.put(key, own, wide, wide.value.bit_length() // 8 + 200)
        return wide.meets(self.shown[receiver], x, y, self.ground.columns)

    def _find(self) -> None:
        """Find what shows of every sheet."""
        stride = 3 * self.ground.columns
        filled: list[int] = []  # the cells in which each hides all beneath
        for laid, hides, holder in zip(self.maps, self.hides, self.holders, strict=True):
            cells = laid.filled if hides else 0
            filled.append(cells & filled[holder] if holder >= 0 else cells)
        shown: list[Bits] = []
        free = self.ground.whole.filled
        for laid, cells in zip(reversed(self.maps), reversed(filled), strict=True):
            value, top = laid.touched
            if top < 0:
                value, top = value >> -top * stride, 0
            shown.append(Bits(value & (free >> top * stride), top))
            if cells:
                free &= ~cells
        self.shown = shown[::-1]
        if self.last is not None:
            self._take_over(self.last)
            self.last = None

    def _take_over(self, last: Sight) -> None:
        """Answers that still hold."""
        if len(last.maps) != len(self.maps) or len(last.known) > _FEW:
            return
        same = [a is b and c == d for a, b, c, d in zip(self.maps, last.maps, self.shown, last.shown, strict=True)]
        self.known = {
            way: seen for way, seen in last.known.items() if self.maps[way[0]] is last.maps[way[0]] and same[way[1]]
        }


def part_of(item: Item) -> Part:
    """A part of a silhouette as it is laid on maps."""
    if isinstance(item, StrokePath):
        return Part(item.path, item.transform, item.width, item.cap, item.join, item.miter)
    assert isinstance(item, FillPath)  # silhouettes are made of these two
    return Part(item.path, item.transform)


_solid: Cache[bool] = Cache("whether a node hides what it covers")


def is_solid(node: Node) -> bool:
    """Whether a node surely hides all that lies beneath its silhouette."""
    hit = _solid.get(id(node))
    return hit if hit is not None else _solid.put(id(node), node, _is_solid(node))


def is_veiled(node: Node) -> bool:
    """Whether something solid in a node may still let show what lies beneath: faded, blended or softened."""
    soft = any(isinstance(i, Blur | Feather) and i.on for i in node.recipe)
    return node.opacity < 1 or node.blend != "normal" or soft


def _is_solid(node: Node) -> bool:
    children = [c for c in shown_children(node) if c.visible]
    if is_veiled(node) or any(c.knockout for c in children) or isinstance(node, Image):
        return False
    recipe = [i for i in itself(node).recipe if i.on]
    rims = all(i.opacity >= 1 and i.colour.a >= 1 for i in recipe if isinstance(i, Rim))
    if not isinstance(node, Shape):
        return rims and all(is_solid(c) for c in children if c.substance)
    lines = all(_hides(i) for i in recipe if isinstance(i, Line))
    return rims and lines and any(_hides(i) for i in recipe if isinstance(i, Fill))


def _hides(i: Fill | Line) -> bool:
    """Whether a paint hides all that it covers."""
    paint = i.paint
    if i.opacity < 1 or i.blend != "normal":
        return False
    if isinstance(paint, Solid):
        return paint.colour.a >= 1
    if isinstance(paint, Radial) and invert(paint.transform) is None:
        return False
    return (
        isinstance(paint, Linear | Radial | Conic) and bool(paint.stops) and all(s.colour.a >= 1 for s in paint.stops)
    )
