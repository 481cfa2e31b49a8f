"""Which cells of a coarse grid an area covers."""

from __future__ import annotations

import math
from typing import Any, NamedTuple

import numpy as np
import skia
from numpy.typing import NDArray

from volumen.geometry.affine import Affine, Floats, multiply, translation
from volumen.geometry.engine import Cap, Join, matrix, set_pen, to_engine
from volumen.geometry.path import Box, Path

Cells = NDArray[np.intp]


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
    l, t, r, b = box
    kx, ky = side / max(r - l, 1e-9), side / max(b - t, 1e-9)
    cells = cells_of((part,), box, (kx, 0.0, 0.0, ky, -l * kx, -t * ky), side, side)
    return np.stack([l + (cells % side + 0.5) / kx, t + (cells // side + 0.5) / ky], axis=1)


def cells_of(parts: tuple[Part, ...], box: Box, grid: Affine, columns: int, rows: int) -> Cells:
    """The numbers (n,), row by row, of the cells whose middle lies in some parts; ``box`` holds them, ``grid`` leads to
    cells."""
    x, y = max(math.floor(box[0] * grid[0] + grid[4]), 0), max(math.floor(box[1] * grid[3] + grid[5]), 0)
    r, b = min(math.ceil(box[2] * grid[0] + grid[4]), columns), min(math.ceil(box[3] * grid[3] + grid[5]), rows)
    if x >= r or y >= b:
        return np.zeros(0, np.intp)
    alpha = np.zeros((b - y, r - x), np.uint8)
    info = skia.ImageInfo.Make(r - x, b - y, skia.kAlpha_8_ColorType, skia.kPremul_AlphaType)
    surface: Any = skia.Surface.MakeRasterDirect(info, alpha, r - x)
    canvas = surface.getCanvas()
    here = multiply(translation(-x, -y), grid)
    for part in parts:
        paint = skia.Paint(Color=0xFF000000)
        if part.width > 0:
            set_pen(paint, part.width, part.cap, part.join, part.miter)
        canvas.setMatrix(matrix(multiply(here, part.place)))
        canvas.drawPath(to_engine(part.path), paint)
    surface.flushAndSubmit()
    down, along = np.nonzero(alpha > 127)
    return np.asarray((down + y) * columns + (along + x), np.intp)
