"""Which shadows can be seen: what shows of every sheet, cell by cell of a map, and where on that a shadow may fall.

All is told on the safe side: a sheet shows in every cell that it touches, unless one solid thing over it fills that
cell; a shadow falls wherever its blur may reach. What is left out would change no pixel.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, Floats, invert
from volumen.geometry.mask import Bits, Cells, Part, touched_and_filled, whole_map
from volumen.model.ingredients import Blur, Feather, Fill, Line, Rim
from volumen.model.nodes import Image, Node, Shape
from volumen.outline.making import itself, shown_children
from volumen.outline.outlines import pieces
from volumen.outline.silhouettes import silhouette
from volumen.picture.instructions import FillPath, Item, StrokePath
from volumen.shading.paint import Conic, Linear, Radial, Solid

if TYPE_CHECKING:
    from volumen.compose.heights import Standing

_SIDE = 128  # cells along the longer side of the map
_MARGIN = 0.125  # cells by which the map may be wrong
_maps: Cache[tuple[Bits, Bits]] = Cache("what sheets touch and fill of the map", most_bytes=30_000_000)
_smears: Cache[Bits] = Cache("sheets on the map as wide as their shadows", most_bytes=30_000_000)


class Sight:
    """What shows of sheets back to front, the first of which is the ground. ``boxes`` (n, 4) are those of their
    silhouettes. Where something ``cuts`` holes nothing hides what lies beneath it."""

    def __init__(self, standing: Sequence[Standing | None], boxes: Floats, cuts: bool) -> None:
        self.standing, self.boxes, self.cuts = standing, boxes, cuts
        _, _, width, height = boxes[0].tolist()
        k = _SIDE / max(width, height, 1e-6)
        self.grid: Affine = (k, 0.0, 0.0, k, 0.0, 0.0)
        self.columns, self.rows = max(math.ceil(width * k), 1), max(math.ceil(height * k), 1)
        self.all = whole_map(self.columns, self.rows)
        self.maps: list[tuple[Bits, Bits]] = []
        self.shown: list[Bits] = []
        self.wide: dict[tuple[int, int, int], Bits] = {}

    def seen(self, casters: Cells, receivers: Cells, moves: Floats, reaches: Floats) -> NDArray[np.bool_]:
        """Whether anything may be seen (n,) of the shadows (n) of some sheets on others, moved (n, 2) and blurred as far
        as ``reaches`` (n,)."""
        if not self.shown:
            self._find()
        shifts, far = moves * self.grid[0], (reaches * self.grid[0] + _MARGIN)[:, None]
        least, most = np.floor(shifts - far), np.ceil(shifts + far)
        # what lies farther off than the map knows may be seen
        near = np.all((np.maximum(-least, most) <= (self.columns, self.rows)), axis=1)
        out = np.ones(len(casters), np.bool_)
        ways = np.concatenate([least, most - least], axis=1)[near].astype(np.intp).tolist()
        pairs = zip(casters[near].tolist(), receivers[near].tolist(), ways, strict=True)
        out[near] = [self._meet(caster, receiver, *way) for caster, receiver, way in pairs]
        return out

    def _meet(self, caster: int, receiver: int, x: int, y: int, across: int, down: int) -> bool:
        """Whether one sheet, moved by cells and wider by more, meets what shows of another."""
        if not (self.maps[caster][0].value and self.maps[receiver][0].value):
            return True  # a hair between the cells
        key = (caster, across, down)
        wide = self.wide.get(key)
        if wide is None:
            wide = self.wide[key] = self._smeared(*key)
        return wide.meets(self.shown[receiver], x, y, self.columns)

    def _smeared(self, number: int, across: int, down: int) -> Bits:
        bits = self.maps[number][0]
        key = (id(bits), across, down, self.columns)
        hit = _smears.get(key)
        if hit is None:
            wide = bits.smeared(across, down, self.columns)
            hit = _smears.put(key, bits, wide, _size(wide))
        return hit

    def _maps(self, number: int) -> tuple[Bits, Bits]:
        """The cells that a sheet touches, and those that it fills."""
        standing = self.standing[number]
        if standing is None:
            return self.all, self.all
        items = silhouette(standing.node, standing.world)
        key = (id(items), self.grid, self.columns, self.rows)
        hit = _maps.get(key)
        if hit is None:
            box = tuple(self.boxes[number].tolist())
            parts = tuple(map(part_of, items))
            made = touched_and_filled(parts, box, self.grid, self.columns, self.rows)
            hit = _maps.put(key, items, made, _size(made[0]) + _size(made[1]))
        return hit

    def _find(self) -> None:
        """Find what shows of every sheet."""
        stride, everywhere = 3 * self.columns, self.all.value
        maps = self.maps = [self._maps(n) for n in range(len(self.standing))]
        filled: list[int] = []  # the cells in which each hides all beneath
        for standing, (_, full) in zip(self.standing, maps, strict=True):
            hides = standing is not None and standing.solid and not standing.only_throws and not self.cuts
            cells = _moved(full.value, full.top * stride) & everywhere if hides else 0
            inside = standing.holder if standing is not None else -1
            filled.append(cells & filled[inside] if inside >= 0 else cells)
        shown: list[Bits] = []
        over = 0
        for (touched, _), cells in zip(reversed(maps), reversed(filled), strict=True):
            seen = (everywhere & ~over) >> max(touched.top, 0) * stride
            shown.append(Bits(_moved(touched.value, min(touched.top, 0) * stride) & seen, max(touched.top, 0)))
            over |= cells
        self.shown = shown[::-1]


def _moved(value: int, by: int) -> int:
    return value << by if by >= 0 else value >> -by


def _size(bits: Bits) -> int:
    return bits.value.bit_length() // 8 + 200


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
    return rims and lines and any(_hides(i) for i in recipe if isinstance(i, Fill)) and not pieces(node, IDENTITY)


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
