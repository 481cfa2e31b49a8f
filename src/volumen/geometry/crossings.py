"""Where chords of outlines meet, and how tangled outlines are."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from volumen.geometry.affine import Affine, Floats
from volumen.geometry.curve import chords_needed, flatten
from volumen.geometry.path import Path

_CALM = 600  # points, below which no outline is looked at for tangles

_MOST_MEETINGS = 2000
_MOST_CHORDS = 30_000
_SAMPLE = 500
_BATCH = 200  # chords asked for at a time

MOST_CROSSINGS = 20_000  # the clipper takes seconds over them, the engine minutes
_LONG = 6000  # points, below which no two outlines can meet that often in a way that lasts
_FEW = 200  # pieces, below which no outline can take long


def meetings(a: Floats, b: Floats) -> tuple[Floats, Floats, Floats]:
    """Where the lines through chords (..., 2, 2) meet: parameters on both, and the cross product of their directions.

    Parameters of parallel chords are not finite.
    """
    da, db, w = a[..., 1, :] - a[..., 0, :], b[..., 1, :] - b[..., 0, :], b[..., 0, :] - a[..., 0, :]
    cross = da[..., 0] * db[..., 1] - da[..., 1] * db[..., 0]
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        s = (w[..., 0] * db[..., 1] - w[..., 1] * db[..., 0]) / cross
        t = (w[..., 0] * da[..., 1] - w[..., 1] * da[..., 0]) / cross
    return s, t, cross


def is_tangle(paths: Sequence[Path], tolerance: float) -> bool:
    """Whether outlines cross so often that the engine, whose work grows with crossings, would take minutes."""
    if sum(len(c.points) for p in paths for c in p.contours) < _CALM:
        return False
    met = count_meetings(paths, tolerance)
    return met is None or met[0] > max(_MOST_MEETINGS, met[1])


def rough_crossings(path: Path) -> int:
    """About how often an outline crosses itself, told from straight lines between its points, of which many thousands
    are sampled. Kept with the path."""
    if path.crossings is None:
        rows = [c.points[::3] for c in path.contours if len(c.points) > 3]
        ends = np.concatenate([np.stack([r[:-1], r[1:]], axis=1) for r in rows]) if rows else np.zeros((0, 2, 2))
        path.crossings = _crossings(ends) if len(ends) > _FEW else 0
    return path.crossings


def cross_too_often(a: Path, b: Path, move: Affine | None = None) -> bool:
    """Whether two long outlines, one of them moved, meet so often that the engine would take minutes to combine them,
    as a star of a thousand points does with its own copy."""
    if sum(len(c.points) for p in (a, b) for c in p.contours) < _LONG:
        return False
    b = b.transformed(move) if move is not None else b
    return rough_crossings(Path((*a.contours, *b.contours))) > MOST_CROSSINGS


def _crossings(ends: Floats) -> int:
    import shapely  # only long outlines come here

    step = -(-len(ends) // _SAMPLE)
    chords = shapely.linestrings(ends[::step])
    met = shapely.STRtree(chords).query(chords, predicate="crosses").shape[1] // 2
    return int(met * step * step)


def count_meetings(paths: Sequence[Path], tolerance: float) -> tuple[int, int] | None:
    """How often the chords of outlines meet, and how many chords there are; None for too many to tell.

    Counting ends where it is clear that they are far more than chords.
    """
    contours = [c for p in paths for c in p.contours if len(c.points) > 3]
    if sum(int(chords_needed(c.segments, tolerance).sum()) for c in contours) > _MOST_CHORDS:
        return None
    import shapely  # only long outlines come here

    rows = [flatten(c, tolerance)[0] for c in contours]
    chords = shapely.linestrings(np.concatenate([np.stack([r[:-1], r[1:]], axis=1) for r in rows]))
    tree, met, count = shapely.STRtree(chords), 0, len(chords)
    for k in range(0, count, _BATCH):
        met += tree.query(chords[k : k + _BATCH], predicate="intersects").shape[1]
        if met > 20 * max(_MOST_MEETINGS, count):
            break
    return (met - 3 * count) // 2, count  # each meets itself and its two neighbours
