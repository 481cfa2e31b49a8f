"""Rounded corners: circular arcs tangent to both sides, on curves as well as on lines.

A corner lies between two runs of smoothly joined segments. The arc's centre is where the runs' parallel curves
at the radius meet; a radius that finds no room is shortened to what fits.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from volumen.geometry.affine import Floats
from volumen.geometry.crossings import meetings
from volumen.geometry.curve import leaving, points_at, segment_lengths, span
from volumen.geometry.path import Contour, Path, joined, line

_LEAST_TURN = math.radians(2)
_STEPS = 40


@dataclass(frozen=True, slots=True)
class Corner:
    """A corner of a path: its number among the path's points, where it is, and half-way into the shape."""

    index: int
    at: tuple[float, float]
    inward: tuple[float, float]


def corners(path: Path) -> list[Corner]:
    """All corners that rounding can act on."""
    out, base = [], 0
    for contour in path.contours:
        segments = contour.segments
        n = len(segments)
        for k in _corner_joints(contour):
            before, after = segments[(k - 1) % n], segments[k]
            a, b = leaving(before[::-1]), leaving(after)
            inward = a + b
            size = float(np.hypot(*inward)) or 1.0
            at = segments[k][0]
            direction = (float(inward[0]) / size, float(inward[1]) / size)
            out.append(Corner(base + k, (float(at[0]), float(at[1])), direction))
        base += n + (0 if contour.closed else 1)
    return out


def round_corners(path: Path, radius: float, own: Mapping[int, float] | None = None, all_corners: bool = True) -> Path:
    """The path with arcs of ``radius`` at its corners; ``own`` gives single corners another radius.

    With ``all_corners`` False only the corners in ``own`` are rounded.
    """
    own = own or {}
    out, base = [], 0
    for contour in path.contours:
        n = len(contour.segments)
        radii = {}
        for k in _corner_joints(contour):
            r = own.get(base + k, radius if all_corners else 0.0)
            if r > 0:
                radii[k] = r
        out.append(_rounded(contour, radii) if radii else contour)
        base += n + (0 if contour.closed else 1)
    return Path(tuple(out), path.evenodd)


def _corner_joints(contour: Contour) -> list[int]:
    """Numbers of segments that start at a corner."""
    segments = contour.segments
    n = len(segments)
    out = []
    for k in range(0 if contour.closed else 1, n):
        a, b = -leaving(segments[(k - 1) % n][::-1]), leaving(segments[k])
        turn = abs(math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b)))
        if turn > _LEAST_TURN:
            out.append(k)
    return out


@dataclass(slots=True)
class _Run:
    """Smooth segments between two rounded corners (or ends), as a contour of its own."""

    contour: Contour
    length: float
    start_cut: float = 0.0  # place where the arc before it ends
    end_cut: float = 0.0

    @property
    def is_even_line(self) -> bool:
        """Whether it is one straight segment, along which the place grows as the length does."""
        points = self.contour.points
        return len(points) == 4 and float(np.abs(points - line(points[0], points[3])).max()) < 1e-9 * self.length


def _rounded(contour: Contour, radii: dict[int, float]) -> Contour:
    segments = contour.segments
    n = len(segments)
    joints = sorted(radii)
    if contour.closed:
        bounds = list(zip(joints, [*joints[1:], joints[0] + n], strict=True))
    else:
        bounds = list(zip([0, *joints], [*joints, n], strict=True))
    runs = [_run(segments, a, b) for a, b in bounds]
    # ``corners`` between run i and the next; a closed contour also has one after its last run.
    count = len(runs) if contour.closed else len(runs) - 1
    arcs: list[Floats | None] = []
    for i in range(count):
        joint = bounds[i][1] % n
        before, after = runs[i], runs[(i + 1) % len(runs)]
        alone = len(runs) == 1
        before_room = (
            0.5 if (contour.closed or i > 0 or alone) and count > 0 and not _is_end(contour, i, -1, count) else 1.0
        )
        after_room = 0.5 if not _is_end(contour, i, 1, count) else 1.0
        arcs.append(_fillet(before, after, radii[joint], before_room, after_room))
    pieces: list[Floats] = []
    for i, run in enumerate(runs):
        whole = float(len(run.contour.segments))
        kept = span(run.contour, run.start_cut, whole - run.end_cut)
        pieces.append(kept)
        arc = arcs[i] if i < count else None
        if arc is not None:
            pieces.append(arc)
    points = [pieces[0]]
    for piece in pieces[1:]:
        piece = piece.copy()
        piece[0] = points[-1][-1]
        points.append(piece[1:])
    whole_run = np.concatenate(points)
    if contour.closed:
        whole_run[-1] = whole_run[0]
    return Contour(whole_run, contour.closed)


def _is_end(contour: Contour, i: int, side: int, count: int) -> bool:
    """Whether the run beside corner ``i`` ends freely, so that an arc may take all of it."""
    return not contour.closed and (i == 0 if side < 0 else i == count - 1)


def _run(segments: Floats, a: int, b: int) -> _Run:
    n = len(segments)
    chosen = segments[[k % n for k in range(a, b)]]
    points = joined(list(chosen))
    return _Run(Contour(points, False), float(segment_lengths(chosen).sum()))


def _fillet(before: _Run, after: _Run, radius: float, before_room: float, after_room: float) -> Floats | None:
    """The arc (3k + 1, 2) from one run to the next; notes on both runs how much it takes. None if there is no room."""
    if before.is_even_line and after.is_even_line:
        return _between_lines(before, after, radius, before_room, after_room)
    back = Contour(before.contour.points[::-1], False)
    places_a = np.linspace(0, 1, _STEPS + 1) ** 1.5 * _place_of_share(back, before_room)
    places_b = np.linspace(0, 1, _STEPS + 1) ** 1.5 * _place_of_share(after.contour, after_room)
    pa, ta = points_at(back, places_a)
    pb, tb = points_at(after.contour, places_b)
    inward = ta[0, 0] * tb[0, 1] - ta[0, 1] * tb[0, 0]
    if abs(inward) < 1e-3:  # a cusp: its sides start out alike and part further on
        u, v = pa[_STEPS // 4] - pa[0], pb[_STEPS // 4] - pb[0]
        inward = u[0] * v[1] - u[1] * v[0]
    side = 1.0 if inward >= 0 else -1.0
    # Both normals point into the corner.
    na = side * np.stack([-ta[:, 1], ta[:, 0]], axis=1)
    nb = side * np.stack([tb[:, 1], -tb[:, 0]], axis=1)
    found = _meeting(pa, na, pb, nb, radius)
    if found is None:
        low, high = 0.0, radius
        for _ in range(14):
            middle = (low + high) / 2
            trial = _meeting(pa, na, pb, nb, middle)
            low, high, found = (middle, high, trial) if trial is not None else (low, middle, found)
        radius = low
    if found is None or radius <= 1e-9:
        return None
    fa, fb = found
    place_a = float(np.interp(fa, np.arange(_STEPS + 1), places_a))
    place_b = float(np.interp(fb, np.arange(_STEPS + 1), places_b))
    place_a, place_b = _polish(back, after.contour, place_a, place_b, radius, side)
    before.end_cut, after.start_cut = place_a, place_b
    (a, b), (da, db) = _ends(back, after.contour, place_a, place_b)
    return _arc(a, -da, b, db)


def _between_lines(before: _Run, after: _Run, radius: float, before_room: float, after_room: float) -> Floats | None:
    """The arc between two straight lines, which touches them at the same distance from the corner: r / tan(angle / 2).
    As ``_fillet``."""
    da = (before.contour.points[0] - before.contour.points[3]) / before.length
    db = (after.contour.points[3] - after.contour.points[0]) / after.length
    half = math.atan2(abs(float(da[0] * db[1] - da[1] * db[0])), float(da @ db)) / 2
    room = min(before.length * before_room, after.length * after_room) * (1 - 1e-9)  # a hair of each line stays
    taken = min(radius / math.tan(half), room) if half > 1e-12 else room
    if taken * math.tan(half) <= 1e-9:
        return None
    before.end_cut, after.start_cut = taken / before.length, taken / after.length
    corner = after.contour.points[0]
    return _arc(corner + da * taken, -da, corner + db * taken, db)


def _place_of_share(contour: Contour, share: float) -> float:
    """The place at a share of a contour's length, a hair inside."""
    n = float(len(contour.segments))
    if share >= 1.0:
        return n
    lengths = segment_lengths(contour.segments)
    total = np.concatenate([[0.0], np.cumsum(lengths)])
    return float(np.interp(share * total[-1], total, np.arange(len(total))))


def _meeting(pa: Floats, na: Floats, pb: Floats, nb: Floats, r: float) -> tuple[float, float] | None:
    """Where the parallel polylines at distance r first cross, as fractional indices."""
    a, b = pa + r * na, pb + r * nb
    chords_a, chords_b = (np.stack([q[:-1], q[1:]], axis=1) for q in (a, b))
    s, t, _ = meetings(chords_a[:, None], chords_b[None, :])
    hit = (s >= -1e-9) & (s <= 1 + 1e-9) & (t >= -1e-9) & (t <= 1 + 1e-9)
    if not hit.any():
        return None
    i, j = np.nonzero(hit)
    first = int((i + j).argmin())
    i0, j0 = int(i[first]), int(j[first])
    return i0 + float(s[i0, j0]), j0 + float(t[i0, j0])


def _beside(curve: Contour, at: float, step: float, off: float) -> tuple[float, float, float, float]:
    """A point of the curve that runs ``off`` to its left, and its change a step further on: plain numbers, as it is
    asked a dozen times a corner."""
    x, y = _left_of(curve, at, off)
    u, v = _left_of(curve, at + step, off)
    return x, y, (u - x) / step, (v - y) / step


def _left_of(curve: Contour, at: float, off: float) -> tuple[float, float]:
    k = min(int(at), len(curve.points) // 3 - 1)
    t = min(at - k, 1.0)
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = curve.points[3 * k : 3 * k + 4].tolist()
    u = 1 - t
    p, q, r, s = u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t
    x, y = p * ax + q * bx + r * cx + s * dx, p * ay + q * by + r * cy + s * dy
    e, f, g = u * u, 2 * u * t, t * t
    tx, ty = e * (bx - ax) + f * (cx - bx) + g * (dx - cx), e * (by - ay) + f * (cy - by) + g * (dy - cy)
    size = math.hypot(tx, ty)
    if size < 1e-9:
        (tx, ty), size = points_at(curve, np.array([at]))[1][0].tolist(), 1.0
    return x - off * ty / size, y + off * tx / size


def _polish(a: Contour, b: Contour, x: float, y: float, r: float, side: float) -> tuple[float, float]:
    """Secant steps on A(x) + r n = B(y) + r n."""
    top_a, top_b = float(len(a.segments)), float(len(b.segments))

    h, known = 1e-5, (x, y, math.inf)
    for _ in range(7):
        px, py, ax, ay = _beside(a, x, h if x + h <= top_a else -h, side * r)
        qx, qy, bx, by = _beside(b, y, h if y + h <= top_b else -h, -side * r)
        gx, gy = px - qx, py - qy
        gap = math.hypot(gx, gy)
        if gap > known[2]:
            break
        known = x, y, gap
        det = bx * ay - ax * by
        if gap < 1e-9 * max(r, 1) or abs(det) < 1e-12:
            break
        x = min(max(x + (gx * by - gy * bx) / det, 0.0), top_a)
        y = min(max(y + (gx * ay - gy * ax) / det, 0.0), top_b)
    return known[:2]


def _ends(a: Contour, b: Contour, x: float, y: float) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
    pa, ta = points_at(a, np.array([x]))
    pb, tb = points_at(b, np.array([y]))
    return (pa[0], pb[0]), (ta[0], tb[0])


def _arc(a: Floats, da: Floats, b: Floats, db: Floats) -> Floats:
    """A circular arc that leaves a along da and reaches b along db, as one or two cubics."""
    turn = math.atan2(da[0] * db[1] - da[1] * db[0], float(da @ db))
    chord = float(np.hypot(*(b - a)))
    half = abs(turn) / 2
    if half < 1e-6:
        return line(a, b)
    r = chord / (2 * math.sin(half))
    if half <= math.pi / 4 + 1e-9:
        k = r * 4 / 3 * math.tan(half / 2)
        return np.stack([a, a + da * k, b - db * k, b])
    c, s = math.cos(turn / 2), math.sin(turn / 2)
    dm = np.array([da[0] * c - da[1] * s, da[0] * s + da[1] * c])
    centre = a + np.array([-da[1], da[0]]) * math.copysign(r, turn)
    m = centre + np.array([dm[1], -dm[0]]) * math.copysign(r, turn)
    return np.concatenate([_arc(a, da, m, dm), _arc(m, dm, b, db)[1:]])
