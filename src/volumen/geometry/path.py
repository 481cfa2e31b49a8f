"""Immutable cubic paths.

A ``Contour`` is an (3n + 1, 2) float64 array: start point, then control, control, end for each of its n
cubic segments. A closed contour ends on its start point. A ``Path`` is a tuple of contours, filled by the
nonzero rule unless said otherwise. Coordinates are user units, y down.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Affine, Floats, apply_points

Box = tuple[float, float, float, float]  # left, top, right, bottom


@dataclass(frozen=True, slots=True, eq=False)
class Contour:
    """One run of cubic segments; ``points`` is (3n + 1, 2)."""

    points: Floats
    closed: bool

    @property
    def segments(self) -> Floats:
        """The segments as an (n, 4, 2) array."""
        p = self.points
        n = (len(p) - 1) // 3
        out = np.empty((n, 4, 2))
        out[:, :3] = p[: 3 * n].reshape(n, 3, 2)
        out[:, 3] = p[3 : 3 * n + 1 : 3]
        return out

    def area(self) -> float:
        """The signed area (clockwise on the sheet is positive), exact for cubics."""
        seg = self.segments
        return float(signed_areas(seg, np.zeros(1, np.int64), self.points[:1])[0]) if len(seg) else 0.0


class _Unknown:
    """A box that was not asked for yet; None is that of an empty path."""


UNKNOWN = _Unknown()


class Path:
    """Contours with a fill rule. Compared by identity: equal geometry may live in different objects.

    A path that the engine made may keep its contours there until someone asks for them (``deferred``), and one may not
    even be made until then (``pending``): a sliver that is only painted never needs either. What is derived from a path
    is kept in its slots: ``engine`` (the engine's form), ``crossings`` and ``is_tangle`` (of its chords), and the boxes
    of its turned forms by the first four numbers of the map (``turned_boxes``).
    """

    __slots__ = (
        "_bounds", "_contours", "_hull", "_load", "crossings", "engine", "evenodd", "is_tangle", "make", "turned_boxes",
    )  # fmt: skip

    def __init__(self, contours: tuple[Contour, ...] = (), evenodd: bool = False) -> None:
        self._contours: tuple[Contour, ...] | None = contours
        self._load: Callable[[], tuple[Contour, ...]] | None = None
        self._hull: Box | _Unknown | None = UNKNOWN
        self._bounds: Box | _Unknown | None = UNKNOWN
        self.make: Callable[[], Path] | None = None
        self.evenodd = evenodd
        self.engine: Any = None
        self.crossings: int | None = None
        self.is_tangle: bool | None = None
        self.turned_boxes: dict[tuple[float, ...], Box | None] | None = None

    @staticmethod
    def deferred(load: Callable[[], tuple[Contour, ...]], box: Box | None, evenodd: bool) -> Path:
        """A path whose contours come from ``load`` when first needed; ``box`` holds it, maybe loosely."""
        path = Path((), evenodd)
        path._contours, path._load, path._hull = None, load, box
        return path

    @property
    def pending(self) -> bool:
        """Whether it is not made yet."""
        return self.make is not None

    def settle(self, holds: bool) -> None:
        """A path that was pending is made now, and ``holds`` something. Its loose box stays: soft things are drawn in
        boxes, and must come out the same whether someone asked for the path before or not."""
        self.make = None
        if not holds:
            self._hull = None

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The contours; made now if they were not asked for before."""
        if self._contours is None:
            assert self._load is not None
            self._contours = self._load()
        return self._contours

    def __bool__(self) -> bool:
        if self._contours is None and not self.pending:
            return self._hull is not None
        return any(len(c.points) > 1 for c in self.contours)

    def hull(self) -> Box | None:
        """A box that holds the path, not always tight; cheap. None for an empty path.

        The same whether the tight box is known or not: soft things are drawn in such boxes, and no picture may hang on
        what else was asked for before."""
        if isinstance(self._hull, _Unknown):
            self._hull = _control_box(self.contours)
        return self._hull

    def transformed(self, m: Affine) -> Path:
        """The path mapped by ``m``."""
        return Path(tuple(Contour(apply_points(m, c.points), c.closed) for c in self.contours), self.evenodd)

    def bounds(self) -> Box | None:
        """The tight box of the curves, or None for an empty path."""
        if isinstance(self._bounds, _Unknown):
            self._bounds = _tight_bounds(self.contours)
        return self._bounds

    def area(self) -> float:
        """Sum of the signed areas of the contours (clockwise on the sheet is positive), exact for cubics."""
        return float(sum(c.area() for c in self.contours))


def _control_box(contours: tuple[Contour, ...]) -> Box | None:
    """The box of all points and handles: a cubic never leaves it."""
    pieces = [c.points for c in contours if len(c.points)]
    if not pieces:
        return None
    points = pieces[0] if len(pieces) == 1 else np.concatenate(pieces)
    (l, t), (r, b) = points.min(axis=0).tolist(), points.max(axis=0).tolist()
    return (l, t, r, b)


def _tight_bounds(contours: tuple[Contour, ...]) -> Box | None:
    shown = [c for c in contours if len(c.points)]
    if not shown:
        return None
    ends = np.concatenate([c.points[::3] for c in shown])
    lo, hi = ends.min(axis=0), ends.max(axis=0)
    points = np.concatenate([c.points for c in shown])
    outside = ((points < lo) | (points > hi)).any(axis=1)  # a curve never leaves the box of its points and handles
    if outside.any():
        first = np.cumsum([0, *(len(c.points) for c in shown[:-1])])
        for k in np.flatnonzero(np.logical_or.reduceat(outside, first)).tolist():
            seg = shown[k].segments
            beyond = seg[((seg < lo) | (seg > hi)).any(axis=(1, 2))]
            if len(beyond):
                far = _extrema(beyond)
                lo, hi = np.minimum(lo, far.min(axis=0)), np.maximum(hi, far.max(axis=0))
    return (float(lo[0]), float(lo[1]), float(hi[0]), float(hi[1]))


def _extrema(seg: Floats) -> Floats:
    """Points of the segments where x' or y' vanishes, as an (m, 2) array."""
    p0, p1, p2, p3 = (seg[:, i] for i in range(4))
    a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
        flat = np.abs(a) < 1e-12
        t = np.stack([np.where(flat, -c / b, (-b + root) / (2 * a)), np.where(flat, -c / b, (-b - root) / (2 * a))])
    t = np.where(np.isfinite(t) & (t > 0) & (t < 1), t, 0.0)  # (2 roots, n, 2 axes)
    out = []
    for root_index in range(2):
        for axis in range(2):
            tt = t[root_index, :, axis][:, None]
            u = 1 - tt
            out.append(u**3 * p0 + 3 * u * u * tt * p1 + 3 * u * tt * tt * p2 + tt**3 * p3)
    return np.concatenate(out)


# Green's theorem on Bernstein polynomials: the weights are integrals of B_i B_j'.
_AREA = np.array([[0, 6, 3, 1], [-6, 0, 3, 3], [-3, -3, 0, 6], [-1, -3, -6, 0]]) / 20.0


def signed_areas(segments: Floats, firsts: NDArray[np.int64], starts: Floats) -> Floats:
    """The signed areas (m,) of contours made of segments (n, 4, 2): ``firsts`` (m,) are the numbers of their first
    segments, ``starts`` (m, 2) where they begin.

    Areas are taken from the start: far from zero the products would lose the area itself, and the chord that closes
    an open contour, which ends at the start, adds nothing.
    """
    if not len(segments):
        return np.zeros(len(firsts))
    from_start = segments - np.repeat(starts, np.diff([*firsts.tolist(), len(segments)]), axis=0)[:, None]
    each = np.einsum("ni,ij,nj->n", from_start[:, :, 0], _AREA, from_start[:, :, 1])
    return np.asarray(np.add.reduceat(each, firsts))


def clockwise(contour: Contour) -> Contour:
    """A contour as it runs clockwise on the sheet, turned round where it does not; an open one stays."""
    if contour.closed and contour.area() < 0:
        return Contour(contour.points[::-1].copy(), True)
    return contour


def union_box(boxes: Iterable[Box | None]) -> Box | None:
    """The smallest box around all boxes that are not None."""
    kept = [b for b in boxes if b is not None]
    if not kept:
        return None
    l, t, r, b = zip(*kept, strict=True)
    return (min(l), min(t), max(r), max(b))


def grow_box(box: Box, by: float) -> Box:
    """A box larger by some units on each side."""
    return (box[0] - by, box[1] - by, box[2] + by, box[3] + by)


def whole_pixels(box: Box, scale: float, origin: float = 0.0) -> Box:
    """A box grown to whole pixels, of which a unit has ``scale``; ``origin``: where in both axes a pixel begins."""
    l, t = (math.floor((v - origin) * scale + 1e-6) / scale + origin for v in box[:2])
    r, b = (math.ceil((v - origin) * scale - 1e-6) / scale + origin for v in box[2:])
    return (l, t, max(r, l + 1 / scale), max(b, t + 1 / scale))


def transform_box(box: Box, m: Affine) -> Box:
    """The box around the mapped corners."""
    l, t, r, b = box
    a, c, e = m[0], m[2], m[4]
    x0, x1 = (a * l, a * r) if a >= 0 else (a * r, a * l)
    x2, x3 = (c * t, c * b) if c >= 0 else (c * b, c * t)
    a, c, f = m[1], m[3], m[5]
    y0, y1 = (a * l, a * r) if a >= 0 else (a * r, a * l)
    y2, y3 = (c * t, c * b) if c >= 0 else (c * b, c * t)
    return (x0 + x2 + e, y0 + y2 + f, x1 + x3 + e, y1 + y3 + f)


def boxes_meet(a: Box, b: Box) -> bool:
    """Whether two boxes overlap."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def in_box(box: Box, x: float, y: float) -> bool:
    """Whether a point lies in a box or on its edge."""
    return box[0] <= x <= box[2] and box[1] <= y <= box[3]


def line(a: Floats, b: Floats) -> Floats:
    """A straight segment (4, 2) with its handles on the thirds."""
    return np.stack([a, a + (b - a) / 3, a + (b - a) * (2 / 3), b])


def append_line(rows: list[tuple[float, float]], to: tuple[float, float]) -> None:
    """Append the handles and the end of a straight segment to a row of contour points."""
    (x0, y0), (x1, y1) = rows[-1], to
    rows += [(x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3), (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), to]


def joined(pieces: Sequence[Floats]) -> Floats:
    """Runs of contour points (3k + 1, 2), each starting where the last one ends, as one run."""
    return np.concatenate([pieces[0], *(p[1:] for p in pieces[1:])])


def contour_from_cubics(cubics: Floats, closed: bool) -> Contour:
    """A contour of cubics (n, 4, 2), each from where the last one ends; a closed one ends at its very start."""
    points = np.empty((3 * len(cubics) + 1, 2))
    points[:-1] = cubics[:, :3].reshape(-1, 2)
    points[-1] = points[0] if closed else cubics[-1, 3]
    return Contour(points, closed)


def contour_from_lines(points: Iterable[tuple[float, float]], closed: bool = True) -> Contour:
    """A contour of straight segments, as cubics with handles on the thirds."""
    p = np.array(list(points), dtype=np.float64).reshape(-1, 2)
    if closed and len(p):
        p = np.concatenate([p, p[:1]])
    if len(p) < 2:
        return Contour(p, closed)
    a, b = p[:-1], p[1:]
    rows = np.stack([a + (b - a) / 3, a + (b - a) * (2 / 3), b], axis=1).reshape(-1, 2)
    return Contour(np.concatenate([p[:1], rows]), closed)


def path_data(path: Path, digits: int = 3) -> str:
    """SVG path data; straight segments come out as lines."""

    def num(v: float) -> str:
        s = f"{v:.{digits}f}".rstrip("0").rstrip(".")
        return "0" if s in ("-0", "") else s

    def pt(p: Floats) -> str:
        return f"{num(p[0])} {num(p[1])}"

    words: list[str] = []
    for contour in path.contours:
        if not len(contour.points):
            continue
        words.append(f"M{pt(contour.points[0])}")
        for p0, p1, p2, p3 in contour.segments:
            if is_straight(p0, p1, p2, p3):
                words.append(f"L{pt(p3)}")
            else:
                words.append(f"C{pt(p1)} {pt(p2)} {pt(p3)}")
        if contour.closed:
            words.append("Z")
    return "".join(words)


def is_straight(p0: Floats, p1: Floats, p2: Floats, p3: Floats) -> bool:
    """True when both handles lie on the chord, between its ends."""
    dx, dy = p3[0] - p0[0], p3[1] - p0[1]
    size = abs(dx) + abs(dy)
    tolerance = 1e-6 * size * size + 1e-12
    for p in (p1, p2):
        ex, ey = p[0] - p0[0], p[1] - p0[1]
        along = ex * dx + ey * dy
        if abs(ex * dy - ey * dx) > tolerance or along < -tolerance or along > dx * dx + dy * dy + tolerance:
            return False
    return True
