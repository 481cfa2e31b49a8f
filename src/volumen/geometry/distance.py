"""Distances to an outline over a grid, exact to the chords of its curves.

The nearest chord is found by compiled code that hands its number from node to node; the distance is then worked out
exactly, so neither the grid nor a mask's edge ever shows.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from volumen.geometry.affine import Floats
from volumen.geometry.curve import flatten, segment_lengths
from volumen.geometry.path import Box, Contour, Path, grow_box

_MOST_CELLS = 6_000_000


@dataclass(frozen=True)
class DistanceField:
    """``distance`` (h, w) in units to the nearest place of an outline, over nodes ``step`` units apart from ``origin``;
    ``signed`` is the same below 0 outside the outline as it is filled. ``near`` (h, w) is the number of the nearest
    of ``chords`` (n, 2, 2), ``share`` (n, 2) where on their contour those begin and end, 0..1."""

    origin: tuple[float, float]
    step: float
    distance: Floats
    signed: NDArray[np.float32]
    near: NDArray[np.int32]
    chords: Floats
    share: Floats

    @cached_property
    def _nearest(self) -> tuple[Floats, Floats]:
        """Which side of its nearest chord each node lies on, and how far along the contour."""
        h, w = self.distance.shape
        y, x = np.mgrid[:h, :w]
        at = np.stack([x * self.step + self.origin[0], y * self.step + self.origin[1]], axis=-1)
        a, b = self.chords[self.near, 0], self.chords[self.near, 1]
        d = b - a
        t = np.clip(((at - a) * d).sum(-1) / np.maximum((d * d).sum(-1), 1e-300), 0, 1)
        off = at - a - d * t[..., None]
        side = np.sign(d[..., 0] * off[..., 1] - d[..., 1] * off[..., 0])
        first, last = self.share[self.near, 0], self.share[self.near, 1]
        return side, first + (last - first) * t

    @cached_property
    def deepest(self) -> float:
        """How far the node farthest inside the outline lies from it; 1 where none lies inside."""
        inmost = float(self.signed.max())
        return inmost if inmost > 0 else 1.0

    @property
    def side(self) -> Floats:
        """(h, w), above 0 on the right of the outline's course."""
        return self._nearest[0]

    @property
    def along(self) -> Floats:
        """(h, w), how far along its contour the nearest place lies, 0..1."""
        return self._nearest[1]

    def sample(self, table: Floats, points: Floats) -> Floats:
        """Values of a table of this field at points (h, w, 2) in units, evenly between its nodes."""
        x = ((points[..., 0] - self.origin[0]) / self.step).astype(np.float32)
        y = ((points[..., 1] - self.origin[1]) / self.step).astype(np.float32)
        read = cv2.remap(table.astype(np.float32), x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(read, dtype=np.float64)


def distance_field(
    path: Path, step: float, margin: float = 0.0, within: Box | None = None, most: float = math.inf
) -> DistanceField | None:
    """The field of an outline on a grid of ``step`` units; None for a path without length.

    Distances above ``most`` need not be known: they are told as that.
    """
    box = within or path.bounds()
    contours = [c for c in path.contours if len(c.points) > 3]
    if box is None or not contours or step <= 0:
        return None
    box = grow_box(box, margin + 2 * step)
    width, height = box[2] - box[0], box[3] - box[1]
    step = max(step, (width * height / _MOST_CELLS) ** 0.5)
    shape = (int(np.ceil(height / step)) + 1, int(np.ceil(width / step)) + 1)
    chords, before, after, share = _chords(contours, step)
    from volumen.geometry.distance_kernel import nearest_chords  # compiled code loads slowly

    in_steps = (chords - (box[0], box[1])) / step
    near, far = nearest_chords(
        in_steps.reshape(-1, 4), before.astype(np.int32), after.astype(np.int32), *shape, most / step
    )
    if most == math.inf and (near < 0).any():
        return None
    best = far * step
    signed = np.where(_inside(path, contours, box, step, shape), best, -best).astype(np.float32)
    return DistanceField((box[0], box[1]), step, best, signed, near, chords, share)


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


def _chords(contours: list[Contour], step: float) -> tuple[Floats, Floats, Floats, Floats]:
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
