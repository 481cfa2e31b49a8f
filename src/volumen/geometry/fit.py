"""Smooth cubics through rows of points: least squares after Schneider, cut at corners, error measured.

P. J. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990: each run is
fitted by one cubic with given end tangents; the parameters are improved by Newton steps; a run that stays
outside the tolerance is cut where it misses most.
"""

from __future__ import annotations

import math

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.curve import derivative, evaluate
from volumen.geometry.path import Contour, joined

_DEPTH = 24


def fit_points(points: Floats, tolerance: float, closed: bool = False, corner: float = 35.0) -> Contour:
    """A contour within about ``tolerance`` of a row of points (k, 2).

    ``corner`` is the turn in degrees from which a point becomes a corner. A closed row does not repeat its
    first point.
    """
    points = _distinct(points, closed)
    if len(points) < 2:
        return Contour(points, closed)
    if len(points) < 3:
        closed = False
    corners = find_corners(points, closed, corner, 3 * tolerance)
    if closed:
        start = corners[0] if corners else _flattest(points)
        points = np.roll(points, -start, axis=0)
        corners = [c - start for c in corners]
        points = np.concatenate([points, points[:1]])
    cuts = sorted({0, len(points) - 1, *[c for c in corners if 0 < c < len(points) - 1]})
    smooth_joint = closed and 0 not in corners
    rows: list[Floats] = []
    for a, b in zip(cuts, cuts[1:], strict=False):
        run = points[a : b + 1]
        first = last = None
        if smooth_joint:
            shared = _unit(points[1] - points[-2])
            first = shared if a == 0 else None
            last = -shared if b == len(points) - 1 else None
        rows += fit_run(run, tolerance, first, last)
    if not rows:
        return Contour(points[:1], closed)
    return Contour(joined(rows), closed)


def fit_run(points: Floats, tolerance: float, first: Floats | None = None, last: Floats | None = None) -> list[Floats]:
    """Cubics (4, 2) through a smooth run; ``first`` and ``last`` are unit tangents into it from its ends."""
    first = _end_tangent(points) if first is None else first
    last = _end_tangent(points[::-1]) if last is None else last
    out: list[Floats] = []
    stack: list[tuple[Floats, Floats, Floats, int]] = [(points, first, last, 0)]
    while stack:
        run, a, b, depth = stack.pop()
        cubic, error, worst = _fit_one(run, a, b, tolerance)
        if error <= tolerance or len(run) < 4 or depth > _DEPTH:
            out.append(cubic)
            continue
        worst = min(max(worst, 1), len(run) - 2)
        middle = _centre_tangent(run, worst)
        stack.append((run[worst:], -middle, b, depth + 1))
        stack.append((run[: worst + 1], a, middle, depth + 1))
    return out


def _fit_one(run: Floats, a: Floats, b: Floats, tolerance: float) -> tuple[Floats, float, int]:
    """The best cubic for a run, its largest distance from it, and where that is."""
    if len(run) == 2:
        d = float(np.hypot(*(run[1] - run[0]))) / 3
        return np.stack([run[0], run[0] + a * d, run[1] + b * d, run[1]]), 0.0, 0
    t = _chord_parameters(run)
    cubic = _least_squares(run, t, a, b)
    error, worst = _error(cubic, run, t)
    for _ in range(4):
        if error <= tolerance * 0.5 or error > tolerance * 30:
            break
        better_t = _reparametrised(cubic, run, t)
        better = _least_squares(run, better_t, a, b)
        new_error, new_worst = _error(better, run, better_t)
        if new_error >= error * 0.995:
            break
        cubic, t, error, worst = better, better_t, new_error, new_worst
    return cubic, error, worst


def fit_runs(runs: Floats, first: Floats, last: Floats) -> Floats:
    """One cubic (n, 4, 2) through each of n runs (n, k, 2), with unit tangents (n, 2) into it from both its ends."""
    return _least_squares(runs, _chord_parameters(runs), first, last)


def _least_squares(run: Floats, t: Floats, a: Floats, b: Floats) -> Floats:
    """The cubics (..., 4, 2) nearest to runs (..., k, 2) at parameters (..., k) that leave both ends along a and b."""
    u = 1 - t
    b0, b1, b2, b3 = u**3, 3 * u * u * t, 3 * u * t * t, t**3
    p0, p3 = run[..., 0, :], run[..., -1, :]
    rest = run - (b0 + b1)[..., None] * p0[..., None, :] - (b2 + b3)[..., None] * p3[..., None, :]
    ab = (a * b).sum(axis=-1)
    c00, c01, c11 = (b1 * b1).sum(axis=-1), (b1 * b2).sum(axis=-1) * ab, (b2 * b2).sum(axis=-1)
    x0 = ((rest * a[..., None, :]).sum(axis=-1) * b1).sum(axis=-1)
    x1 = ((rest * b[..., None, :]).sum(axis=-1) * b2).sum(axis=-1)
    det = c00 * c11 - c01 * c01
    chord = np.hypot(*np.moveaxis(p3 - p0, -1, 0))
    sound = np.abs(det) > 1e-12 * np.maximum(c00 * c11, 1e-300)
    safe = np.where(sound, det, 1.0)
    alpha, beta = (x0 * c11 - x1 * c01) / safe, (c00 * x1 - c01 * x0) / safe
    # Handles that point back or run far past the chord come from noise: the plain third is safer.
    limit = np.maximum(chord * 3, np.hypot(*np.moveaxis(np.diff(run, axis=-2), -1, 0)).sum(axis=-1))
    good = sound & (alpha > 1e-6 * chord) & (alpha < limit) & (beta > 1e-6 * chord) & (beta < limit)
    alpha, beta = np.where(good, alpha, chord / 3), np.where(good, beta, chord / 3)
    return np.stack([p0, p0 + a * alpha[..., None], p3 + b * beta[..., None], p3], axis=-2)


def _error(cubic: Floats, run: Floats, t: Floats) -> tuple[float, int]:
    d = evaluate(np.broadcast_to(cubic, (len(t), 4, 2)), t) - run
    size = np.hypot(d[:, 0], d[:, 1])
    worst = int(size.argmax())
    return float(size[worst]), worst


def _reparametrised(cubic: Floats, run: Floats, t: Floats) -> Floats:
    many = np.broadcast_to(cubic, (len(t), 4, 2))
    offset = evaluate(many, t) - run
    d1 = derivative(many, t)
    bend = 6 * np.diff(cubic, 2, axis=0)
    d2 = np.outer(1 - t, bend[0]) + np.outer(t, bend[1])
    slope = (d1 * d1).sum(axis=1) + (offset * d2).sum(axis=1)
    step = np.where(np.abs(slope) > 1e-12, (offset * d1).sum(axis=1) / np.where(slope == 0, 1, slope), 0.0)
    out = np.clip(t - step, 0.0, 1.0)
    out[0], out[-1] = 0.0, 1.0
    return np.asarray(np.maximum.accumulate(out))


def _chord_parameters(run: Floats) -> Floats:
    """Shares (..., k) of the way along runs (..., k, 2); even ones for a run that does not move."""
    total = np.cumsum(np.hypot(*np.moveaxis(np.diff(run, axis=-2), -1, 0)), axis=-1)
    total = np.concatenate([np.zeros_like(total[..., :1]), total], axis=-1)
    whole = total[..., -1:]
    return np.where(whole > 0, total / np.where(whole > 0, whole, 1.0), np.linspace(0, 1, run.shape[-2]))


def find_corners(points: Floats, closed: bool, corner: float, reach: float) -> list[int]:
    """Indices of points where a row turns by more than ``corner`` degrees within a short way."""
    n = len(points)
    if n < 3:
        return []
    turn = _turns(points, closed, reach)
    limit = math.radians(corner)
    # Where a row turns over several points, the one that turns most is the corner.
    peak = (turn >= np.roll(turn, 1)) & (turn > np.roll(turn, -1))
    found = [int(i) for i in np.nonzero((turn > limit) & peak)[0] if closed or 0 < i < n - 1]
    # Of corners closer than the tolerance only one is kept: a rounded tip is not many corners.
    kept: list[int] = []
    for i in found:
        if kept and float(np.hypot(*(points[i] - points[kept[-1]]))) < reach:
            continue
        kept.append(i)
    return kept


def _turns(points: Floats, closed: bool, reach: float) -> Floats:
    """How much a row turns at each point, between what lies up to ``reach`` before and after it."""
    n = len(points)
    ring = np.concatenate([points, points, points]) if closed else points
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(ring, axis=0).T))])
    own = along[n : 2 * n] if closed else along
    gap = np.diff(along, prepend=along[0] - reach)
    gap = gap[n : 2 * n] if closed else gap
    back, ahead = np.maximum(gap, reach), np.maximum(np.roll(gap, -1), reach)

    def at(distance: Floats) -> Floats:
        return np.stack([np.interp(distance, along, ring[:, k]) for k in (0, 1)], axis=1)

    before, after = points - at(own - back), at(own + ahead) - points
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    return np.asarray(np.abs(np.arctan2(cross, (before * after).sum(axis=1))))


def _flattest(points: Floats) -> int:
    """Where a closed smooth row is best cut: amid its straightest stretch."""
    before, after = points - np.roll(points, 1, axis=0), np.roll(points, -1, axis=0) - points
    cross = np.abs(before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0])
    return int(cross.argmin())


def _distinct(points: Floats, closed: bool) -> Floats:
    if len(points) < 2:
        return points
    step = np.hypot(*np.diff(points, axis=0).T)
    kept: Floats = points[np.concatenate([[True], step > 1e-9])]
    if closed and len(kept) > 1 and float(np.hypot(*(kept[0] - kept[-1]))) <= 1e-9:
        kept = kept[:-1]
    return kept


def _end_tangent(points: Floats) -> Floats:
    """The direction in which a run leaves its first point."""
    if len(points) > 2:
        # The tangent of the parabola through the first three points.
        a, b = points[1] - points[0], points[2] - points[0]
        la, lb = float(np.hypot(*a)), float(np.hypot(*(points[2] - points[1])))
        if la > 0 and lb > 0:
            guess = a / la - la * ((b - a) / lb - a / la) / (la + lb)
            if float(guess @ a) > 0:
                return _unit(guess)
    return _unit(points[1] - points[0])


def _centre_tangent(run: Floats, i: int) -> Floats:
    """The unit direction back along the run at an inner point."""
    return _unit(run[i - 1] - run[i + 1])


def _unit(v: Floats) -> Floats:
    size = float(np.hypot(*v))
    return np.asarray(v / size) if size > 0 else np.array([1.0, 0.0])
