"""Open lines closed where they nearly meet another: straight lines from their ends to what is nearest."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from volumen.geometry.affine import Floats
from volumen.geometry.curve import Ints, chords_of, segments_of
from volumen.geometry.engine import PathOpError
from volumen.geometry.path import Contour, line

_CHORD = 0.01  # how far a bridge may end beside a curve: a fifth of what counts as one line
_SAME = 1e-9  # closer, an end lies on the other line already
_MOST_NEAR = 2_000_000  # chords within the gap of an end, of all ends


def bridges(contours: Sequence[Contour], gap: float) -> list[Contour]:
    """Straight lines from open ends to the nearest other line, or the line's own other end, within ``gap``.

    Raises PathOpError where too much lies within that of the ends to look at all.
    """
    owners = np.array([k for k, c in enumerate(contours) if not c.closed for _ in (0, 1)], dtype=np.int64)
    if not len(owners):
        return []
    ends = np.concatenate([contours[k].points[[0, -1]] for k in owners[::2]])
    beyond = ends.reshape(-1, 2, 2)[:, ::-1].reshape(-1, 2)
    place, far = _nearest(contours, ends, owners, gap)
    away = np.hypot(*(beyond - ends).T)
    itself = (away > _SAME) & (away <= gap) & (away < far)
    place[itself], far[itself] = beyond[itself], away[itself]
    return [Contour(line(ends[k], place[k]), False) for k in np.flatnonzero(far <= gap)]


def _nearest(contours: Sequence[Contour], ends: Floats, owners: Ints, gap: float) -> tuple[Floats, Floats]:
    """For each end (n, 2) the nearest place (n, 2) on other contours than its own and those that it lies on, and how
    far (n,) that is; infinite where none comes within ``gap``."""
    segments = segments_of(contours)
    chords, segment, _, _ = chords_of(segments, _CHORD)
    owner = np.repeat(np.arange(len(contours)), [len(c.segments) for c in contours])[segment]
    tree = shapely.STRtree(shapely.linestrings(chords))
    i, j = tree.query(shapely.box(*(ends - gap).T, *(ends + gap).T))
    if len(i) > _MOST_NEAR:
        raise PathOpError(f"too much lies within {gap:g} of the open ends; take a smaller gap, or fewer shapes")
    other = owner[j] != owners[i]
    i, j = i[other], j[other]
    starts, along = chords[j, 0], chords[j, 1] - chords[j, 0]
    t = ((ends[i] - starts) * along).sum(axis=1) / np.maximum((along * along).sum(axis=1), 1e-300)
    at = starts + np.clip(t, 0, 1)[:, None] * along
    far = np.hypot(*(at - ends[i]).T)
    pair = i * len(contours) + owner[j]
    keep = (far <= gap) & ~np.isin(pair, pair[far <= _SAME])
    order = np.flatnonzero(keep)[np.argsort(far[keep])[::-1]]  # the nearest is written last
    place, least = ends.copy(), np.full(len(ends), np.inf)
    place[i[order]], least[i[order]] = at[order], far[order]
    return place, least
