"""Where the copies of a repeat stand: pure arithmetic on the box of what is repeated and on its guide."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from volumen.geometry.affine import (
    IDENTITY,
    Affine,
    Floats,
    Point,
    apply,
    mirroring,
    multiply,
    rotation,
    scaling,
    translation,
)
from volumen.geometry.path import Box, Path
from volumen.geometry.scattering import noise, strewn, strewn_along
from volumen.model.repeats import Grid, Mirror, Placed, Repeat, Ring, Scatter

_SIZE, _TURN, _TINT, _LIGHT = 11, 12, 13, 14  # what a random number is for


_LARGEST = 1e4  # times the size of the drawn one: beyond, and below one part in so many, no picture shows a copy


class Copy(NamedTuple):
    """One copy: its number, the map from what was drawn to it, how much of the opacity is left, and the shifts of its
    hue (degrees) and lightness (share)."""

    number: int
    place: Affine = IDENTITY
    fade: float = 1.0
    hue: float = 0.0
    light: float = 0.0


def copies_of(i: Placed, box: Box | None, guide: Path) -> list[Copy]:
    """The copies of a repeat, those that were let go left out, back to front. ``box`` is round what is repeated."""
    if box is None:
        return []
    middle = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    if isinstance(i, Ring):
        made = _ring(i, middle)
    elif isinstance(i, Grid):
        made = _grid(i, box, middle)
    elif isinstance(i, Mirror):
        made = [Copy(0), Copy(1, mirroring(i.angle, i.centre))]
    else:
        made = _scatter(i, middle, guide)
    return [c for c in made if c.number not in i.gone and _has_a_size(c)]


def beyond_sight(i: Repeat) -> int:
    """How many copies of a ring or grid are left out as their steps make them too large, or too small, to be seen."""
    if not isinstance(i, Ring | Grid) or i.scale == 1:
        return 0
    if isinstance(i, Ring):
        return sum(not _seen(i.scale, n) for n in range(i.count))
    return sum(not _seen(i.scale, column + row) for row in range(i.down) for column in range(i.across))


def _seen(scale: float, steps: int) -> bool:
    return abs(steps * math.log(scale)) <= math.log(_LARGEST)


def _has_a_size(c: Copy) -> bool:
    a, b, _, _, e, f = c.place
    return math.hypot(a, b) > 0 and math.isfinite(e) and math.isfinite(f)


def _grown(scale: float, steps: int) -> float:
    """The size after some steps; 0 where it is beyond sight."""
    return scale**steps if _seen(scale, steps) else 0.0


def _ring(i: Ring, middle: Point) -> list[Copy]:
    between = i.count if abs(i.sweep) >= 360.0 - 1e-9 else max(i.count - 1, 1)
    away = math.hypot(middle[0] - i.centre[0], middle[1] - i.centre[1])
    out = []
    for k in range(i.count):
        turn = i.sweep * k / between  # from the drawn one each time: errors do not add up
        place = rotation(turn, i.centre)
        if i.outward and away > 1e-9:
            far = i.outward * k / away
            place = multiply(place, translation((middle[0] - i.centre[0]) * far, (middle[1] - i.centre[1]) * far))
        if i.upright:
            at = apply(place, middle)
            place = translation(at[0] - middle[0], at[1] - middle[1])
        out.append(_stepped(k, place, middle, i))
    return out


def _stepped(k: int, place: Affine, middle: Point, i: Ring | Grid, step: int | None = None) -> Copy:
    """A copy with what each step adds: size and turn about its middle, and opacity."""
    n = k if step is None else step
    if n and i.scale != 1:
        size = _grown(i.scale, n)
        place = multiply(place, scaling(size, size, middle))
    if n and i.spin:
        place = multiply(place, rotation(i.spin * n, middle))
    return Copy(k, place, i.fade**n)


def _grid(i: Grid, box: Box, middle: Point) -> list[Copy]:
    """Rows of copies: every place is summed up from the drawn one, sizes and gaps apart."""
    first, second = math.radians(i.angle), math.radians(i.angle + i.slant)
    u, v = (math.cos(first), math.sin(first)), (math.cos(second), math.sin(second))
    w, h = box[2] - box[0], box[3] - box[1]
    wide, high = abs(w * u[0]) + abs(h * u[1]), abs(w * v[0]) + abs(h * v[1])
    along, down = _middles(i.across, wide, i.x, i), _middles(i.down, high, i.y, i)
    step = along[1] if len(along) > 1 else 0.0
    out = []
    for row in range(i.down):
        smaller = _grown(i.scale, row)
        for column in range(i.across):
            s = along[column] * smaller + (i.stagger * step * smaller if row % 2 else 0.0)
            place = translation(s * u[0] + down[row] * v[0], s * u[1] + down[row] * v[1])
            out.append(_stepped(row * i.across + column, place, middle, i, row + column))
    return out


def _middles(count: int, size: float, given: float, i: Grid) -> list[float]:
    """How far the middles of a row's copies are from that of the first."""
    k = i.scale
    sizes = [size * _grown(k, n) for n in range(count)]
    if i.by == "steps":
        return [given * n for n in range(count)]
    gap = given
    if i.by == "fit":
        gap = (given - sum(sizes)) / (count - 1) if count > 1 else 0.0
    out, at = [0.0], 0.0
    for a, b in zip(sizes, sizes[1:], strict=False):
        at += (a + b) / 2 + gap
        out.append(at)
    return out


def _scatter(i: Scatter, middle: Point, guide: Path) -> list[Copy]:
    """The drawn one, the strewn ones with the numbers of their darts, and those put by hand with numbers below 0."""
    strew = strewn if i.where == "inside" else strewn_along
    darts = strew(guide, i.count, i.distance, i.seed, (middle,))
    numbers = [*(d.number for d in darts), *range(-1, -len(i.added) - 1, -1)]
    n = np.array(numbers, dtype=np.int64)
    size = np.exp(_between(np.log(i.smallest), np.log(i.largest), noise(i.seed, n, _SIZE))).tolist()
    turn, hue, light = (
        _between(-a, a, noise(i.seed, n, what)).tolist()
        for a, what in ((i.turn, _TURN), (i.tint, _TINT), (i.light, _LIGHT))
    )
    out = [Copy(0)]
    for k, (x, y) in enumerate((*(d.at for d in darts), *i.added)):
        m = multiply(rotation(turn[k], middle), scaling(size[k], size[k], middle))
        place = multiply(translation(x - middle[0], y - middle[1]), m)
        out.append(Copy(numbers[k], place, 1.0, hue[k], light[k]))
    return out


def _between(low: float, high: float, share: Floats) -> Floats:
    return low + (high - low) * share
