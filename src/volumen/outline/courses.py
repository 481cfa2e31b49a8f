"""Where the motifs of a course stand on its path, and how each of them is turned there."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from scipy.optimize import brentq

from volumen.geometry.affine import Affine, multiply, rotation, scaling, translation
from volumen.geometry.curve import reversed_path
from volumen.geometry.ease import eased
from volumen.geometry.path import Box, Contour, Path
from volumen.geometry.rounding import round_corners
from volumen.geometry.spine import Spine
from volumen.geometry.tidy import without_needless_points
from volumen.model.repeats import Course

FIRST_CAP, LAST_CAP = -1, -2  # the numbers of the places at both ends
_MOST_SCALED = 2.0**20
_SAME_CURVE = 1e-3  # units: what a cut leaves is nearer, and no eye sees as much


class Stand(NamedTuple):
    """One motif on its path: its number, the distance at which it begins, its scales along and across."""

    number: int
    at: float
    along: float
    across: float


class Lay(NamedTuple):
    """How a motif's box lies at a place: the map of its coordinates to distances along and across the path, and the
    map that turns it as the path runs at its middle."""

    number: int
    along: Affine
    turned: Affine


def spine_of(guide: Path, i: Course, box: Box) -> Spine | None:
    """The path of a course in the direction in which it runs; None where there is none. ``box`` is the motif's."""
    path = Path(tuple(_without_split_points(c) for c in guide.contours), guide.evenodd)
    path = reversed_path(path) if i.flip else path
    if i.corners == "round":  # so far that the inner edge of the motif does not fold
        path = round_corners(path, ((box[3] - box[1]) / 2 * max(i.first, i.last) + abs(i.across)) / 0.8)
    contour = next((c for c in path.contours if len(c.points) > 3), None)
    made = Spine(contour) if contour is not None else None
    return made if made is not None and made.total > 1e-6 else None


def _without_split_points(contour: Contour) -> Contour:
    """The contour without points that only part one cubic in two, so that a new point on a path changes nothing that
    follows it. Its first point stays, as a course begins there."""
    kept = without_needless_points(Path((Contour(contour.points, False),)), _SAME_CURVE).contours
    if not kept:
        return contour
    points = kept[0].points.copy()
    points[0], points[-1] = contour.points[0], contour.points[-1]
    return Contour(points, contour.closed)


def laid(i: Course, spine: Spine, box: Box, caps: tuple[Box | None, Box | None] = (None, None)) -> list[Lay]:
    """The places of a course, from the first to the last; those of the motif are numbered from 0."""
    begin = i.start * spine.total
    room = spine.total if spine.closed else spine.total - begin
    ends = [0.0 if c is None else (c[2] - c[0]) * size for c, size in zip(caps, (i.first, i.last), strict=True)]
    if room < sum(ends):
        return []
    motifs = stands(i, room - sum(ends), spine.closed and not any(ends), box[2] - box[0])
    out = [(s._replace(at=begin + ends[0] + s.at), box) for s in motifs]
    if caps[0] is not None:
        out.insert(0, (Stand(FIRST_CAP, begin, i.first, i.first), caps[0]))
    if caps[1] is not None:
        out.append((Stand(LAST_CAP, begin + room - ends[1], i.last, i.last), caps[1]))
    out = [(s, b) for s, b in out if s.number not in i.gone]
    if not out:
        return []
    middles = np.array([s.at + (b[2] - b[0]) / 2 * s.along for s, b in out])
    f = spine.frames(middles)
    mirrored = caps[0] is not None and caps[0] is caps[1]
    places = (f.at + f.across * i.across).tolist()
    return [
        _lay(s, i, b, middle, at, along, mirrored and s.number == LAST_CAP)
        for (s, b), middle, at, along in zip(out, middles.tolist(), places, f.along.tolist(), strict=True)
    ]


def stands(i: Course, room: float, closed: bool, width: float) -> list[Stand]:
    """Where motifs of a width stand in a room of some length, from 0."""
    if width < 1e-9 or room < 1e-9:
        return []
    if i.way == "stretch":
        return [Stand(0, 0.0, room / width, i.first)]
    rows, end = _in_turn(i, room, width, closed)
    if i.way == "repeat":
        return rows
    count = max(len(rows), 1)
    further = _in_turn(i, room, width, closed, 1.0, count + 1)[1]
    if rows and count < i.most and further - room < room - end:  # nearer when they shrink than when they grow
        count += 1
    # Sizes depend on where they stand: all are made larger or smaller until the last ends where the room does.
    low = high = 1.0
    while high < _MOST_SCALED and _in_turn(i, room, width, closed, high, count)[1] < room:
        high *= 2
    while low > 1 / _MOST_SCALED and _in_turn(i, room, width, closed, low, count)[1] > room:
        low /= 2
    try:
        factor = float(brentq(lambda f: _in_turn(i, room, width, closed, f, count)[1] - room, low, high, xtol=1e-14))
    except ValueError:  # a gap that takes more than there is
        factor = 1.0
    return _in_turn(i, room, width, closed, factor, count)[0]


def _in_turn(
    i: Course, room: float, width: float, closed: bool, factor: float = 1.0, count: int | None = None
) -> tuple[list[Stand], float]:
    """Motifs one after another, as many as asked for or as fit, and how much of the room they take."""
    out: list[Stand] = []
    at = end = 0.0
    while len(out) < (i.most if count is None else count):
        size = (i.first + (i.last - i.first) * eased(min(at / room, 1.0), i.run)) * factor
        wide, gap = width * size, i.gap * factor
        reach = at + wide + (gap if closed else 0.0)
        if (count is None and reach > room * (1 + 1e-9)) or wide + gap <= 0:
            break
        out.append(Stand(len(out), at, size, size))
        end = reach
        at += wide + gap
    return out, end


def _lay(
    s: Stand, i: Course, box: Box, middle: float, at: list[float], along: list[float], mirrored: bool
) -> Lay:  # fmt: skip
    """How a box lies whose middle is so far along the path, at a place ``at`` where it runs ``along``."""
    own = ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)
    sx, sy = -s.along if mirrored else s.along, -s.across if i.other_side else s.across
    flat = (sx, 0.0, 0.0, sy, middle - own[0] * sx, i.across - own[1] * sy)
    turn = multiply(rotation(math.degrees(math.atan2(along[1], along[0])), own), scaling(sx, sy, own))
    return Lay(s.number, flat, multiply(translation(at[0] - own[0], at[1] - own[1]), turn))
