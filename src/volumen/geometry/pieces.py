"""Outlines in pieces: single segments left out, by hand or by lot."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import numpy as np

from volumen.geometry.affine import Floats, Point
from volumen.geometry.curve import evaluate, segments_of
from volumen.geometry.path import Contour, Path, joined
from volumen.geometry.scattering import noise

_DRAWN_BY_LOT = 11  # what the numbers of the lot are for
_CHORDS = 12


def drawn_by_lot(numbers: Sequence[int], share: float, seed: int) -> set[int]:
    """Which of some pieces, by number, a lot takes: about a ``share`` 0..1 of them. A greater share takes those of a
    smaller one too, and more pieces leave it as it was."""
    if share <= 0 or not numbers:
        return set()
    taken = noise(seed, np.array(numbers, dtype=np.int64), _DRAWN_BY_LOT) < share
    return {k for k, gone in zip(numbers, taken.tolist(), strict=True) if gone}


def all_segments(path: Path) -> Floats:
    """The segments of all contours, (n, 4, 2), in their order."""
    return segments_of([c for c in path.contours if len(c.points) > 3])


def nearest_segment(segments: Floats, place: Point) -> tuple[int, float]:
    """Which of segments (n, 4, 2) passes nearest to a place, and how far away, by its chords; -1 for none."""
    n = len(segments)
    if not n:
        return -1, float("inf")
    t = np.linspace(0, 1, _CHORDS + 1)
    points = evaluate(np.repeat(segments, len(t), axis=0), np.tile(t, n)).reshape(n, len(t), 2)
    start, way = points[:, :-1], np.diff(points, axis=1)
    to = np.array(place) - start
    share = np.clip((to * way).sum(axis=2) / np.maximum((way * way).sum(axis=2), 1e-300), 0, 1)
    away = np.hypot(*np.moveaxis(to - share[..., None] * way, 2, 0)).min(axis=1)
    at = int(away.argmin())
    return at, float(away[at])


def middle_of(segment: Floats) -> Point:
    """The place half way along a segment (4, 2)."""
    x, y = evaluate(segment[None], np.array([0.5]))[0].tolist()
    return x, y


def open_path(points: Floats) -> Path:
    """A path of one open run of cubics (3n + 1, 2)."""
    return Path((Contour(points, False),))


def without(path: Path, gone: Collection[int]) -> Path:
    """A path without some of its segments, by number: what is left of a contour are open runs."""
    if not gone:
        return path
    left_out, out, first = set(gone), [], 0
    for contour in path.contours:
        count = (len(contour.points) - 1) // 3
        kept = [k for k in range(count) if first + k not in left_out]
        if len(kept) == count:
            out.append(contour)
        elif kept:
            out += _runs(contour.segments, kept, contour.closed)
        first += max(count, 0)
    return Path(tuple(out), path.evenodd)


def _runs(segments: Floats, kept: Sequence[int], closed: bool) -> list[Contour]:
    rows: list[list[int]] = []
    for k in kept:
        if rows and rows[-1][-1] == k - 1:
            rows[-1].append(k)
        else:
            rows.append([k])
    if closed and len(rows) > 1 and rows[0][0] == 0 and rows[-1][-1] == len(segments) - 1:
        rows[0] = rows.pop() + rows[0]  # it goes on over the start
    return [Contour(joined([segments[k] for k in row]), False) for row in rows]
