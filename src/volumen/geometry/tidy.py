"""Fewer points for the same curve: merging what a cut left over, removing points, simplifying."""

from __future__ import annotations

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.curve import evaluate, flatten, leaving
from volumen.geometry.fit import fit_points, fit_run
from volumen.geometry.path import Contour, Path, is_straight, line

_NEAR_END = 2e-3  # a cut nearer to an end than this share leaves handles too short to tell the whole from
_CORNER = 30.0  # degrees: chords of fine flattening turn little, so what turns more is a corner


def without_needless_points(path: Path, tolerance: float = 0.01) -> Path:
    """The path with segments merged that one cubic can draw within ``tolerance``, and none of no length."""
    return Path(tuple(c for c in (_merged(c, tolerance) for c in path.contours) if len(c.points) > 3), path.evenodd)


def _merged(contour: Contour, tolerance: float) -> Contour:
    segments = contour.segments
    if not len(segments):
        return contour
    size = np.abs(segments - segments[:, :1]).max(axis=(1, 2))
    segments = segments[size > min(tolerance, 1e-3)]
    if not len(segments):
        return Contour(contour.points[:1], contour.closed)
    can_merge, whole = _merges(segments, np.concatenate([segments[1:], segments[:1]]), tolerance)
    can_merge[-1] = can_merge[-1] and contour.closed
    if not can_merge.any():
        return contour if len(segments) == len(size) else _joined(segments, contour.closed)
    rows, stays = segments.copy(), np.ones(len(segments), dtype=bool)
    last = -1  # the row into which the segment before was merged
    for i in (np.flatnonzero(can_merge[:-1]) + 1).tolist():  # segment i may join the one before it
        if stays[i - 1]:
            last, merged = i - 1, whole[i - 1]
        else:
            merged = merge(rows[last], segments[i], tolerance)
        if merged is not None:
            rows[last], stays[i] = merged, False
    rows = rows[stays]
    if contour.closed and len(rows) > 1 and can_merge[-1]:
        merged = merge(rows[-1], rows[0], tolerance)
        if merged is not None:
            rows = np.concatenate([merged[None], rows[1:-1]])
    return _joined(rows, contour.closed)


def _joined(segments: Floats, closed: bool) -> Contour:
    points = np.concatenate([segments[0, :1], segments[:, 1:].reshape(-1, 2)])
    if closed and np.abs(points[0] - points[-1]).max() > 0:
        if np.abs(points[0] - points[-1]).max() > 0.01:
            a, b = points[-1], points[0]
            points = np.concatenate([points, line(a, b)[1:]])
        else:
            points = points.copy()
            points[-1] = points[0]
    return Contour(points, closed)


def _unsplit(a: Floats, b: Floats) -> tuple[Floats, Floats]:
    """Cubics (n, 4, 2) that give a and b when cut at t (n,): the handles at a cut have the ratio t to 1 - t."""
    handles = np.stack([a[:, 3] - a[:, 2], b[:, 1] - b[:, 0]])
    la, lb = np.sqrt(np.einsum("kni,kni->kn", handles, handles))
    t = la / np.maximum(la + lb, 1e-300)
    u = _inside(t)
    whole = np.empty_like(a)
    whole[:, 0], whole[:, 3] = a[:, 0], b[:, 3]
    whole[:, 1] = a[:, 0] + (a[:, 1] - a[:, 0]) / u
    whole[:, 2] = b[:, 3] + (b[:, 2] - b[:, 3]) / (1 - u)
    return whole, t


def _inside(t: Floats) -> Floats:
    """Parameters (n, 1) kept off the ends, so that they divide."""
    return np.asarray(np.fmin(np.fmax(t, _NEAR_END), 1 - _NEAR_END)[:, None])


def _merges(a: Floats, b: Floats, tolerance: float) -> tuple[np.ndarray[tuple[int], np.dtype[np.bool_]], Floats]:
    """For pairs of joined segments (n, 4, 2): whether one cubic draws both within ``tolerance``, and that cubic."""
    whole, t = _unsplit(a, b)
    u = _inside(t)
    q = whole[:, :3] + (whole[:, 1:] - whole[:, :3]) * u[:, None]
    r = q[:, :2] + (q[:, 1:] - q[:, :2]) * u[:, None]
    cut = r[:, 0] + (r[:, 1] - r[:, 0]) * u
    miss = np.abs(np.concatenate([r[:, 0] - a[:, 2], r[:, 1] - b[:, 1], cut - a[:, 3]], axis=1)).max(axis=1)
    return np.asarray((t > _NEAR_END) & (t < 1 - _NEAR_END) & (miss <= tolerance)), whole


def merge(a: Floats, b: Floats, tolerance: float) -> Floats | None:
    """One cubic for two joined segments (4, 2), if it stays within ``tolerance`` of both; None otherwise."""
    fits, whole = _merges(a[None], b[None], tolerance)
    return whole[0] if fits[0] else None


def remove_point(before: Floats, after: Floats) -> Floats:
    """The one cubic that keeps closest to two joined segments (4, 2) with the end tangents kept."""
    if is_straight(*before) and is_straight(*after):
        return line(before[0], after[3])
    exact = merge(before, after, 1e-6)
    if exact is not None:
        return exact
    t = np.linspace(0, 1, 25)
    rows = np.concatenate(
        [evaluate(np.broadcast_to(s, (25, 4, 2)), t)[(1 if k else 0) :] for k, s in enumerate((before, after))]
    )
    first = leaving(before)
    last = leaving(after[::-1])
    return fit_run(rows, np.inf, first, last)[0]


def simplify(path: Path, tolerance: float) -> Path:
    """New curves within about ``tolerance`` of the old with as few points as they need; corners stay."""
    out = []
    for contour in path.contours:
        if len(contour.points) < 4:
            continue
        fine = max(min(tolerance / 4, 0.5), 1e-3)
        points = flatten(contour, fine)[0]
        points = _dense(points, tolerance)
        made = fit_points(points[:-1] if contour.closed else points, tolerance, contour.closed, _CORNER)
        if len(made.points) < len(contour.points):
            out.append(made)
        else:
            merged = _merged(contour, tolerance)
            out.append(merged)
    return Path(tuple(out), path.evenodd)


def _dense(points: Floats, tolerance: float) -> Floats:
    """Points added on long chords, so that a fit cannot bulge between them."""
    d = np.hypot(*np.diff(points, axis=0).T)
    longest = max(float(d.sum()) / 60, 8 * tolerance)
    if not len(d) or d.max() <= longest:
        return points
    rows = []
    for a, b, size in zip(points[:-1], points[1:], d, strict=True):
        n = max(int(np.ceil(size / longest)), 1)
        rows.append(a + (b - a) * (np.arange(n) / n)[:, None])
    return np.concatenate([*rows, points[-1:]])


def point_count(path: Path) -> int:
    """How many points an artist would see."""
    return sum((len(c.points) - 1) // 3 + (0 if c.closed else 1) for c in path.contours)
