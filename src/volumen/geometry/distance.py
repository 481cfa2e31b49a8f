"""Distances to an outline over a grid, exact to the chords of its curves.

Chords are drawn into a grid of cells with their numbers; a distance transform tells each cell the nearest marked
one. From there the true distance to that chord and its neighbours is worked out, so the transform's own error
of a fraction of a cell never shows.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats
from volumen.geometry.curve import flatten, segment_lengths
from volumen.geometry.path import Box, Contour, Path, grow_box

_MOST_CELLS = 6_000_000


@dataclass(frozen=True, slots=True)
class DistanceField:
    """``distance`` (h, w) in units to the nearest place of an outline; ``side`` (h, w) is positive on the right of
    the outline's course; ``along`` (h, w) is how far along its contour that place lies, 0..1; ``inside`` (h, w) says
    which places the outline, closed and filled, holds."""

    origin: tuple[float, float]
    step: float
    distance: Floats
    side: Floats
    along: Floats
    inside: NDArray[np.bool_]

    @property
    def signed(self) -> Floats:
        """The distance (h, w), below 0 outside the outline."""
        return np.where(self.inside, self.distance, -self.distance)

    def sample(self, table: Floats, points: Floats) -> Floats:
        """Values of a table of this field at points (h, w, 2) in units, evenly between its nodes."""
        x = ((points[..., 0] - self.origin[0]) / self.step).astype(np.float32)
        y = ((points[..., 1] - self.origin[1]) / self.step).astype(np.float32)
        read = cv2.remap(table.astype(np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(read, dtype=np.float64)


def distance_field(path: Path, step: float, margin: float = 0.0, within: Box | None = None) -> DistanceField | None:
    """The field of an outline on a grid of ``step`` units; None for a path without length."""
    box = within or path.bounds()
    contours = [c for c in path.contours if len(c.points) > 3]
    if box is None or not contours or step <= 0:
        return None
    box = grow_box(box, margin + 2 * step)
    width, height = box[2] - box[0], box[3] - box[1]
    step = max(step, (width * height / _MOST_CELLS) ** 0.5)
    shape = (int(np.ceil(height / step)) + 1, int(np.ceil(width / step)) + 1)
    chords, before, after, share = _chords(contours, step)
    marks = np.zeros(shape, np.int32)
    places = np.rint((chords - (box[0], box[1])) / step * 16).astype(np.int32)
    for number, (a, b) in enumerate(places.tolist(), 1):
        cv2.line(marks, a, b, number, 1, cv2.LINE_8, 4)
    if not marks.any():
        return None
    from scipy.ndimage import distance_transform_edt  # here, as it takes long to load

    rows, columns = distance_transform_edt(marks == 0, return_distances=False, return_indices=True)
    nearest = marks[rows, columns] - 1
    y, x = np.mgrid[: shape[0], : shape[1]]
    at = np.stack([x * step + box[0], y * step + box[1]], axis=-1)
    best = np.full(shape, np.inf)
    side, along = np.zeros(shape), np.zeros(shape)
    for which in (nearest, before[nearest], after[nearest]):
        a, b = chords[which, 0], chords[which, 1]
        d = b - a
        t = np.clip(((at - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300), 0, 1)
        off = at - a - d * t[..., None]
        distance = np.hypot(off[..., 0], off[..., 1])
        nearer = distance < best
        best = np.where(nearer, distance, best)
        side = np.where(nearer, np.sign(d[..., 0] * off[..., 1] - d[..., 1] * off[..., 0]), side)
        along = np.where(nearer, share[which, 0] + (share[which, 1] - share[which, 0]) * t, along)
    return DistanceField((box[0], box[1]), step, best, side, along, _inside(path, contours, box, step, shape))


def _inside(path: Path, contours: list[Contour], box: Box, step: float, shape: tuple[int, int]) -> NDArray[np.bool_]:
    """Which nodes of the grid lie inside, by the path's own fill rule."""
    count = np.zeros(shape, np.int32)
    for contour in contours:
        points = np.rint((flatten(contour, step / 8)[0] - (box[0], box[1])) / step * 16).astype(np.int32)
        mask = np.zeros(shape, np.uint8)
        cv2.fillPoly(mask, [points], 1, cv2.LINE_8, 4)
        turn = np.roll(points, -1, axis=0).astype(np.int64)
        way = 1 if (points[:, 0] * turn[:, 1] - turn[:, 0] * points[:, 1]).sum() > 0 else -1
        count += mask.astype(np.int32) * (1 if path.evenodd else way)
    return np.asarray(count % 2 == 1 if path.evenodd else count != 0)


def _chords(contours: list, step: float) -> tuple[Floats, Floats, Floats, Floats]:  # type: ignore[type-arg]
    """All chords (n, 2, 2), the numbers of the one before and after each, and where on their contour they lie."""
    chords, before, after, share = [], [], [], []
    count = 0
    for contour in contours:
        points, at = flatten(contour, step / 40)
        n = len(points) - 1
        lengths = np.concatenate([[0.0], np.cumsum(segment_lengths(contour.segments))])
        where = np.interp(at, np.arange(len(lengths)), lengths) / max(float(lengths[-1]), 1e-300)
        chords.append(np.stack([points[:-1], points[1:]], axis=1))
        index = np.arange(n)
        ends = contour.closed
        before.append(count + ((index - 1) % n if ends else np.maximum(index - 1, 0)))
        after.append(count + ((index + 1) % n if ends else np.minimum(index + 1, n - 1)))
        share.append(np.stack([where[:-1], where[1:]], axis=1))
        count += n
    return (np.concatenate(chords), np.concatenate(before), np.concatenate(after), np.concatenate(share))
