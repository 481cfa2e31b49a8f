"""A half outline made whole: cut at an axis, mirrored, and welded there point on point, without a boolean."""

from __future__ import annotations

import math

import numpy as np

from volumen.geometry.affine import Floats, Point
from volumen.geometry.curve import evaluate, flatten, span
from volumen.geometry.path import Contour, Path, joined

_ON_AXIS = 0.01  # units within which an end of an open half counts as on the axis
_SAME = 1e-6  # of a segment: double roots, where handles are drawn in, are found to about 1e-8


def whole_of_half(path: Path, centre: Point, angle: float, other: bool = False) -> Path:
    """What lies on one side of the line through ``centre`` at ``angle`` degrees, and its mirror image, as one outline.

    The side is the one on which most of the outline runs, or with ``other`` the opposite one. Contours that meet the
    axis are joined there, the points of both halves being the same; others stand twice. An open half whose ends lie
    on the axis becomes closed.
    """
    frame = _Frame(centre, angle)
    contours = [Contour(frame.into(c.points), c.closed) for c in path.contours if len(c.points) > 3]
    if not contours:
        return path
    sign = _side(contours) * (-1.0 if other else 1.0)
    made: list[Contour] = []
    for c in contours:
        made += _whole(Contour(c.points * (1.0, sign), c.closed))
    return Path(tuple(Contour(frame.back(c.points * (1.0, sign)), c.closed) for c in made), path.evenodd)


class _Frame:
    """Coordinates along an axis and across it."""

    def __init__(self, centre: Point, angle: float) -> None:
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        c, s = (0.0 if abs(v) < 1e-15 else v for v in (c, s))  # upright and level axes stay exact
        self.centre, self.turn = np.array(centre), np.array([[c, s], [-s, c]])

    def into(self, points: Floats) -> Floats:
        return np.asarray((points - self.centre) @ self.turn.T)

    def back(self, points: Floats) -> Floats:
        return np.asarray(points @ self.turn + self.centre)


def _side(contours: list[Contour]) -> float:
    """On which side of the axis, +1 or -1, more of the outline runs."""
    total = 0.0
    for c in contours:
        p, _ = flatten(c, 0.1)
        total += float((np.hypot(*np.diff(p, axis=0).T) * (p[1:, 1] + p[:-1, 1])).sum())
    return 1.0 if total >= 0 else -1.0


def _whole(c: Contour) -> list[Contour]:
    """A contour's part above the axis with its mirror image below it."""
    runs = _runs_above(c)
    out = []
    for run, starts_on, ends_on in runs:
        image = (run * (1.0, -1.0))[::-1]
        if starts_on and ends_on:
            out.append(Contour(joined([run, image]), True))
        elif ends_on:
            out.append(Contour(joined([run, image]), False))
        elif starts_on:
            out.append(Contour(joined([image, run]), False))
        else:
            out += [Contour(run, c.closed), Contour(image, c.closed)]
    return out


def _runs_above(c: Contour) -> list[tuple[Floats, bool, bool]]:
    """The runs of a contour above the axis, and whether each starts and ends on it; ends there lie on it exactly."""
    n = float(len(c.segments))
    cuts = _places_on_axis(c)
    ends = [] if c.closed else [p for p in (0.0, n) if abs(c.points[0 if p == 0 else -1, 1]) <= _ON_AXIS]
    cuts = sorted({*cuts, *ends})
    if not cuts:
        return [(c.points, False, False)] if c.points[:, 1].mean() > 0 else []
    if c.closed:
        stops = [(a, b) for a, b in zip(cuts, [*cuts[1:], cuts[0] + n], strict=True)]
    else:
        edges = sorted({0.0, n, *cuts})
        stops = list(zip(edges, edges[1:], strict=False))
    out = []
    for a, b in stops:
        if b - a < _SAME or _at(c, ((a + b) / 2) % n)[1] <= 0:
            continue
        run = span(c, a, b) if b <= n else joined([span(c, a, n), span(c, 0.0, b - n)])
        run = np.array(run)
        on = [c.closed or a in cuts, c.closed or b in cuts]
        for k, there in zip((0, -1), on, strict=True):
            if there:
                run[k, 1] = 0.0
        out.append((run, on[0], on[1]))
    return out


def _at(c: Contour, place: float) -> Floats:
    i = min(int(place), len(c.segments) - 1)
    return np.asarray(evaluate(c.segments[i : i + 1], np.array([place - i]))[0])


def _places_on_axis(c: Contour) -> list[float]:
    """Where a contour crosses the axis, as places: roots of a cubic each, polished by Newton's method."""
    y = c.segments[:, :, 1]
    near = np.nonzero((y.min(axis=1) <= 0) & (y.max(axis=1) >= 0))[0]
    found: list[float] = []
    for i in near.tolist():
        a, b, d, e = y[i].tolist()
        poly = np.array([e - 3 * d + 3 * b - a, 3 * (d - 2 * b + a), 3 * (b - a), a])
        if not np.any(np.abs(poly[:3]) > 1e-12):
            continue  # it runs along the axis
        slope = np.polyder(poly)
        for root in np.roots(poly[np.argmax(np.abs(poly) > 1e-12 * np.abs(poly).max()) :]):
            t = float(root.real)
            if abs(root.imag) > 1e-6 or not -1e-9 <= t <= 1 + 1e-9:
                continue
            for _ in range(2):
                k = float(np.polyval(slope, t))
                t -= float(np.polyval(poly, t)) / k if abs(k) > 1e-12 else 0.0
            found.append(i + min(max(t, 0.0), 1.0))
    n = float(len(c.segments))
    found = sorted(float(round(p)) if abs(p - round(p)) < _SAME else p for p in found)
    if c.closed:
        found = sorted({0.0 if p == n else p for p in found})
    return [p for k, p in enumerate(found) if k == 0 or p - found[k - 1] > _SAME]
