"""Which cells of a coarse grid an area covers."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray

from volumen.geometry.affine import Affine, Floats, multiply, scaling, translation
from volumen.geometry.engine import Cap, Join, matrix, set_pen, to_engine
from volumen.geometry.path import Box, Path

Cells = NDArray[np.intp]
Bytes = NDArray[np.uint8]
_FINE = 4  # rows of pixels for a row of cells


class Part(NamedTuple):
    """The inside of a path at a place, or a line along it where it has a ``width``."""

    path: Path
    place: Affine
    width: float = 0.0
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0


def places_in(part: Part, box: Box, side: int) -> Floats:
    """Places (n, 2) all over a part, evenly ``side`` along each side of its ``box``."""
    cells, (kx, _, _, ky, _, _) = cells_in(part, box, side), _evenly(box, side)
    return np.stack([box[0] + (cells % side + 0.5) / kx, box[1] + (cells // side + 0.5) / ky], axis=1)


def cells_in(part: Part, box: Box, side: int) -> Cells:
    """The numbers (n,) of the cells of a part, of which ``side`` lie along each side of its ``box``."""
    return cells_of((part,), box, _evenly(box, side), side, side)


def _evenly(box: Box, side: int) -> Affine:
    """The map from a box to so many cells along each of its sides."""
    l, t, r, b = box
    kx, ky = side / max(r - l, 1e-9), side / max(b - t, 1e-9)
    return (kx, 0.0, 0.0, ky, -l * kx, -t * ky)


def cells_of(parts: tuple[Part, ...], box: Box, grid: Affine, columns: int, rows: int) -> Cells:
    """The numbers (n,), row by row, of the cells whose middle lies in some parts; ``box`` holds them, ``grid`` leads to
    cells."""
    x, y, r, b = _window(box, grid, (0, 0, columns, rows))
    if x >= r or y >= b:
        return np.zeros(0, np.intp)
    down, along = np.nonzero(_drawn(parts, (x, y, r, b), grid) > 127)
    return np.asarray((down + y) * columns + (along + x), np.intp)


def _drawn(parts: tuple[Part, ...], window: tuple[int, int, int, int], grid: Affine, fine: int = 0) -> Bytes:
    """The alpha (h, w) of parts over a window of cells, each seen in the middle or, where it is ``fine``, as much of a
    cell as they cover, in so many rows for each."""
    x, y, r, b = window
    k = fine or 1
    alpha = np.zeros(((b - y) * k, r - x), np.uint8)
    info = skia.ImageInfo.Make(r - x, (b - y) * k, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
    surface: Any = skia.Surface.MakeRasterDirect(info, alpha, r - x)
    canvas = surface.getCanvas()
    here = multiply(multiply(scaling(1.0, k), translation(-x, -y)), grid)
    for part in parts:
        paint = skia.Paint(Color=0xFF000000, AntiAlias=fine > 0)
        if part.width > 0:
            set_pen(paint, part.width, part.cap, part.join, part.miter)
        canvas.setMatrix(matrix(multiply(here, part.place)))
        canvas.drawPath(to_engine(part.path), paint)
    surface.flushAndSubmit()
    return alpha


def windows_of(ids: Cells, columns: int, count: int) -> Floats:
    """The columns and rows (count, 4) between which each number up to ``count`` is found on a map of them, row by row:
    left, top, right and bottom; not a number where it is not."""
    begins = np.ones(len(ids), np.bool_)  # of runs of one number in a row, which are few
    np.not_equal(ids[1:], ids[:-1], out=begins[1:])
    begins[::columns] = True
    starts = np.flatnonzero(begins)
    ends = np.append(starts[1:], len(ids)) - 1
    numbers = ids[starts]
    low, high = np.full((2, count), np.inf), np.full((2, count), -np.inf)
    for k, (first, last) in enumerate(((starts % columns, ends % columns), (starts // columns, starts // columns))):
        np.minimum.at(low[k], numbers, first)
        np.maximum.at(high[k], numbers, last + 1)
    return np.where(np.isfinite(low[0]), np.concatenate([low, high]), np.nan).T


class Bits(NamedTuple):
    """Cells of a map and of as much beyond each side, as the bits of a number: row by row from row ``top`` on, each
    from the left of what lies beyond. What is moved by no more than a map's width meets nothing of the next row."""

    value: int
    top: int

    def smeared(self, across: int, down: int, columns: int) -> Bits:
        """With all cells up to so many to the right and below."""
        value = self.value
        for most, step in ((across, 1), (down, 3 * columns)):
            far = 0
            while far < most:
                more = min(far + 1, most - far)
                value |= value << more * step
                far += more
        return Bits(value, self.top)

    def meets(self, other: Bits, across: int, down: int, columns: int) -> bool:
        """Whether these, moved by cells, have one in common with others that lie on the map."""
        shift = (self.top + down - other.top) * 3 * columns + across
        return bool((other.value >> shift) & self.value if shift >= 0 else other.value & (self.value >> -shift))


def whole_map(columns: int, rows: int) -> Bits:
    """All cells of a map."""
    return _bits(np.ones((rows, columns), np.bool_), 0, 0, columns)


def touched_and_filled(parts: tuple[Part, ...], box: Box, grid: Affine, columns: int, rows: int) -> tuple[Bits, Bits]:
    """The cells, of a map and as much beyond each side, of which some parts cover anything, and those that they cover
    wholly: to a sixteenth of a cell, as the paint library knows edges to a quarter of a row."""
    x, y, r, b = _window(box, grid, (-columns, -rows, 2 * columns, 2 * rows))
    if x >= r or y >= b:
        return Bits(0, 0), Bits(0, 0)
    alpha = _drawn(parts, (x, y, r, b), grid, _FINE).reshape(b - y, _FINE, r - x)
    return _bits(alpha.max(axis=1) > 0, x, y, columns), _bits(alpha.min(axis=1) == 255, x, y, columns)


def _bits(cells: NDArray[np.bool_], x: int, y: int, columns: int) -> Bits:
    """Cells (h, w), the first of which lies at (x, y) of a map."""
    whole = np.zeros((len(cells), 3 * columns), np.bool_)
    whole[:, columns + x : columns + x + cells.shape[1]] = cells
    return Bits(int.from_bytes(np.packbits(whole, bitorder="little").tobytes(), "little"), y)


def _window(box: Box, grid: Affine, most: tuple[int, int, int, int]) -> tuple[int, int, int, int]:
    """The cells that a box touches, of those inside ``most``: left, top, right and bottom."""
    l, t, r, b = (n * grid[i] + grid[j] for n, i, j in zip(box, (0, 3, 0, 3), (4, 5, 4, 5), strict=True))
    return (
        max(math.floor(l), most[0]),
        max(math.floor(t), most[1]),
        min(math.ceil(r), most[2]),
        min(math.ceil(b), most[3]),
    )
