"""Verified booleans of cubic paths.

The curve engine answers first; an independent polygon clipper judges the answer. An answer that fails is asked
for again in another form (operands simplified, one of them shifted by a thousandth of a unit), then read off
the arrangement of all curves, and at last fitted to the clipper's own polygons.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import reduce

import numpy as np

from volumen.geometry.affine import IDENTITY, Affine, invert, multiply, scaling, translation
from volumen.geometry.crossings import MOST_CROSSINGS, is_tangle, rough_crossings
from volumen.geometry.enclosed_areas import arrange
from volumen.geometry.engine import Operation, PathOpError, engine_op
from volumen.geometry.fit import fit_points
from volumen.geometry.path import Contour, Path, boxes_meet, contour_from_lines, line, union_box
from volumen.geometry.polygon_check import IntPolygons, area, clip, from_grid, thick_difference, to_grid, to_grids
from volumen.geometry.tidy import without_needless_points
from volumen.geometry.winding import evenodd_simplified, simplified, wound

SIZE = 500.0  # operands are brought to this many units first
MOST_SEGMENTS = 20_000
MOST_TRIED_AGAIN = 1000  # segments that the engine may fail on once and be given again: it may then take minutes
_MANY = 12  # areas, above which they are not excluded one after another
MOST_AREAS = 2000  # each becomes an outline of its own
_CHORD = 0.2  # of the polygons that judge
_FINE = 0.02  # of those that judge again
_FIT = 0.1  # of the polygons that curves are fitted to
SLACK = 0.5  # a wrong piece is thicker than this, in units of the normalised size
Way = Callable[[Path, Path, Operation], Path]


@dataclass(slots=True)
class Tally:
    """How often the first way's answer was not the clipper's: read by the benchmark."""

    second_ways: int = 0


tally = Tally()


def boolean(a: Path, b: Path, operation: Operation) -> Path:
    """The union, difference, intersection or exclusion of two areas, even-odd filled.

    Open contours count as closed by their chord. Raises PathOpError if no way gives a verified answer.
    """
    box = union_box([a.hull(), b.hull()])
    if box is None:
        return Path()
    trivial = _trivial(a, b, operation)
    if trivial is not None:
        return trivial
    check_size(a, b)
    normal, back = _normalising(box)
    first, second = (closed(p).transformed(normal) for p in (a, b))
    wanted = _clipped(first, second, operation, _CHORD)
    if is_tangle([first, second], _FIT):
        return _by_polygons(first, second, operation, 2 * _FIT).transformed(back)
    for attempt, way in enumerate(_ways(_segments(first, second))):
        try:
            result = way(first, second, operation)
        except (PathOpError, RuntimeError, ValueError, IndexError, KeyError):
            continue
        tidy = without_needless_points(result, 0.004)
        for candidate in (tidy, result):
            off = excess(candidate, wanted, _CHORD)
            if 1 < off < 4:  # where many lines touch, the judge's own chords may be what is off
                off = excess(candidate, _clipped(first, second, operation, _FINE), _FINE)
            if off <= 1:
                tally.second_ways += attempt > 0
                return candidate.transformed(back)
    raise PathOpError(f"cannot {operation} these two outlines; simplify one of them and try again")


def _clipped(a: Path, b: Path, operation: Operation, chord: float) -> IntPolygons:
    """What the independent clipper makes of the operands in chords within ``chord`` of their curves."""
    grid_a, grid_b = to_grids([a, b], chord)
    return clip(grid_a, a.evenodd, grid_b, b.evenodd, operation)


def excess(result: Path, wanted: IntPolygons, chord: float) -> float:
    """How far a path is from the area that the clipper found, 1 being what seams of rounding may come to."""
    found = to_grid(result, chord)
    if not found and not wanted:
        return 0.0
    return thick_difference(found, result.evenodd, wanted, True, SLACK) / max(1e-6 * abs(area(wanted)), 0.25)


def _ways(segments: int) -> Iterator[Way]:
    yield engine_op
    if segments <= MOST_TRIED_AGAIN:
        yield lambda a, b, op: engine_op(simplified(a), simplified(b), op)
        yield lambda a, b, op: engine_op(simplified(a), simplified(b).transformed(translation(1 / 1024, 1 / 2048)), op)
    yield _by_areas
    yield _by_polygons


def _by_areas(a: Path, b: Path, operation: Operation) -> Path:
    net = arrange([a, b], 0.02)
    wanted: dict[Operation, Callable[[frozenset[int]], bool]] = {
        "union": bool,
        "subtract": lambda c: c == {0},
        "intersect": lambda c: len(c) == 2,
        "exclude": lambda c: len(c) == 1,
    }
    rule = wanted[operation]
    return Path(net.outline([i for i in range(len(net.areas)) if rule(net.covers(i))]).contours, True)


def _by_polygons(a: Path, b: Path, operation: Operation, tolerance: float = _FIT) -> Path:
    return fitted(_clipped(a, b, operation, _FIT), tolerance)


def fitted(polygons: IntPolygons, tolerance: float) -> Path:
    """Smooth curves within ``tolerance`` of polygons of the clipper."""
    contours = []
    for p in from_grid(polygons):
        contour = fit_points(p, tolerance, True, 12.0)
        if len(contour.points) > 3:
            contours.append(contour)
    return Path(tuple(contours), True)


def closed(path: Path) -> Path:
    """The path with every contour closed by its chord."""
    if all(c.closed for c in path.contours):
        return path
    out = []
    for c in path.contours:
        if not c.closed and len(c.points) > 3:
            a, b = c.points[-1], c.points[0]
            bridge = [] if np.allclose(a, b) else [line(a, b)[1:]]
            out.append(Contour(np.concatenate([c.points, *bridge]), True))
        elif c.closed:
            out.append(c)
    return Path(tuple(out), path.evenodd)


def _trivial(a: Path, b: Path, operation: Operation) -> Path | None:
    """The answer when the boxes do not meet or an operand is empty."""
    box_a, box_b = a.hull(), b.hull()
    if box_a is not None and box_b is not None and boxes_meet(box_a, box_b):
        return None
    if operation == "intersect":
        return Path()
    if operation == "subtract":
        return cleaned(a)
    return Path((*cleaned(a).contours, *cleaned(b).contours), True)


def cleaned(path: Path) -> Path:
    """The same area, even-odd filled and without self-crossings."""
    box = path.hull()
    if box is None:
        return Path()
    check_size(path)
    normal, back = _normalising(box)
    plain = closed(path).transformed(normal)
    if is_tangle([plain], _FIT):
        return _by_polygons(plain, Path(), "union", 2 * _FIT).transformed(back)
    return evenodd_simplified(plain).transformed(back)


def merged(path: Path) -> Path:
    """The same area without self-crossings, nonzero filled, as ``simplified`` gives it; where many contours share edges
    the engine may lose most of them, so that the clipper judges here, too, and gives its own polygons then."""
    made, box = simplified(path), path.hull()
    if box is None or made is path:
        return made
    try:
        normal, back = _normalising(box)
        plain = closed(path).transformed(normal)
        if excess(made.transformed(normal), _clipped(plain, Path(), "union", _CHORD), _CHORD) <= 1:
            return made
        found = [p for p in _clipped(plain, Path(), "union", _FIT) if abs(area([p])) > 1]  # what is smaller are seams
    except PathOpError:
        return made
    return wound(Path(tuple(contour_from_lines(p, True) for p in from_grid(found)), True)).transformed(back)


def _segments(*paths: Path) -> int:
    return sum(len(c.points) // 3 for p in paths for c in p.contours)


def check_size(*paths: Path) -> None:
    """Refuse outlines that would take minutes: the engine's work grows with the square of its segments."""
    count = _segments(*paths)
    if count > MOST_SEGMENTS:
        raise PathOpError(f"the outlines have {count} segments; up to {MOST_SEGMENTS} can be combined")
    if sum(rough_crossings(p) for p in paths) > MOST_CROSSINGS:
        raise PathOpError(f"the outlines cross themselves more than {MOST_CROSSINGS:,} times; draw them simpler")


def _normalising(box: tuple[float, float, float, float]) -> tuple[Affine, Affine]:
    """The map that brings a box to ``SIZE`` units about zero, and back. Raises PathOpError for endless boxes."""
    size = max(box[2] - box[0], box[3] - box[1])
    if not math.isfinite(size) or size > 1e9:
        raise PathOpError("the shapes are too large to combine")
    if size < 1e-9:
        raise PathOpError("the shapes are too small to combine")
    middle = translation(-(box[0] + box[2]) / 2, -(box[1] + box[3]) / 2)
    normal = multiply(scaling(SIZE / size, SIZE / size), middle)
    return normal, invert(normal) or IDENTITY


def union_all(paths: Sequence[Path]) -> Path:
    """The union of any number of areas, joined in pairs so that operands stay small."""
    rest = [p for p in paths if p]
    if len(rest) == 1:
        return boolean(rest[0], Path(), "union")
    while len(rest) > 1:
        rest = [
            boolean(rest[i], rest[i + 1], "union") if i + 1 < len(rest) else rest[i] for i in range(0, len(rest), 2)
        ]
    return rest[0] if rest else Path()


def combine_all(paths: Sequence[Path], operation: Operation) -> Path:
    """Fold areas, back to front: for ``subtract`` all later ones are taken from the first."""
    rest = [p for p in paths if p]
    if not rest:
        return Path()
    if operation == "union":
        return union_all(rest)
    if operation == "subtract" and len(rest) > 1:
        return boolean(rest[0], union_all(rest[1:]), "subtract")
    if len(rest) == 1:
        return boolean(rest[0], Path(), "union")
    if operation == "exclude" and len(rest) > _MANY:  # what an odd number of them holds: one even-odd fill of all
        return cleaned(Path(tuple(c for p in rest for c in cleaned(p).contours), True))
    return reduce(lambda a, b: boolean(a, b, operation), rest)


def cut_hidden(paths: Sequence[Path]) -> list[Path]:
    """Each of some areas, back to front, without what those in front of it hide."""
    out: list[Path] = []
    cover = Path()
    for path in reversed(paths):
        out.append(boolean(path, cover, "subtract") if cover else path)
        cover = boolean(cover, path, "union") if cover else path
    return out[::-1]


def divide(paths: Sequence[Path]) -> list[tuple[Path, frozenset[int]]]:
    """All areas that the outlines cut out and that lie in at least one of them, with the paths that hold each."""
    net = arrange([closed(p) for p in paths])
    if len(net.areas) > MOST_AREAS:
        raise PathOpError(f"the outlines cut out {len(net.areas):,} areas; up to {MOST_AREAS:,} are possible")
    covers = [net.covers(i) for i in range(len(net.areas))]
    return [(net.outline([i]), covers[i]) for i in range(len(net.areas)) if covers[i]]


def fill_holes(path: Path) -> Path:
    """Only what borders run clockwise round: a nonzero path without holes."""
    if len(path.contours) < 2:
        return path
    return Path(tuple(c for c in simplified(path).contours if Path((c,)).area() > 0))
