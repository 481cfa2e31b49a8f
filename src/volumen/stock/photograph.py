"""An artist's own photograph as stock: artwork bent onto it by points, in the light that the photograph holds."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from scipy.interpolate import RBFInterpolator
from scipy.spatial.distance import pdist

from volumen.stock.fields import Field, Points, rgb
from volumen.stock.light import to_encoded, to_linear
from volumen.stock.scene import Slot, fitted, slot_of
from volumen.stock.stocks import Photograph, StockProblem

_FIRST = [(0, 0), (1, 0), (1, 1), (0, 1), (0.5, 0), (0.5, 1), (0, 0.5), (1, 0.5), (0.5, 0.5)]
_FINER = [(x / 4, y / 4) for y in range(5) for x in range(5) if x % 2 or y % 2]
SOURCE = np.array([*_FIRST, *_FINER])  # in the artwork, 0..1: corners, middles, a mesh of 3 x 3, one of 5 x 5
_CELL = 6  # pixels from knot to knot of the bending
_ROUNDS = 12  # to find a place in the artwork on a bent photograph: each leaves a fraction of the way
_APART = 0.5  # pixels at least, from point to point
_MOST_PIXELS = 60_000_000
_MOST_HIGH = 8  # times as high as wide: what is longer is no photograph


def placed(points: Points, height: int, width: int) -> tuple[Field, Field]:
    """The place in the artwork (0..1) of every pixel of a photograph. Four ``points`` (pixels) are its corners: a
    homography; those beyond bend it, as a thin plate spline on what is left over. Raises StockProblem for corners that
    do not go round, and for points that lie on one another."""
    matrix = _to_artwork(points)
    gx, gy = np.meshgrid(np.arange(0, width + _CELL, _CELL), np.arange(0, height + _CELL, _CELL))
    knots = np.c_[gx.ravel(), gy.ravel()].astype(np.float64)
    at = _projected(matrix, knots) + _left_over(matrix, points)(knots)
    table = at.reshape(*gx.shape, 2).astype(np.float32)
    x, y = np.meshgrid(np.arange(width, dtype=np.float32) / _CELL, np.arange(height, dtype=np.float32) / _CELL)
    both = cv2.remap(table, x, y, cv2.INTER_LINEAR)
    return both[..., 0], both[..., 1]


def finer(points: Points, count: int) -> Points:
    """As many points as are asked for: new ones lie where the artwork lies by the others, so that nothing changes until
    they are drawn. Raises StockProblem as ``placed``."""
    if count <= len(points):
        return points[:count]
    matrix, goal = _to_artwork(points), SOURCE[len(points) : count]
    back, left = np.linalg.inv(matrix), _left_over(matrix, points)
    at = _projected(back, goal)
    for _ in range(_ROUNDS if len(points) > 4 else 0):
        at = _projected(back, goal - left(at))
    return np.concatenate([points, at])


def _to_artwork(points: Points) -> Field:
    """The homography that takes four corners to those of the artwork; its third row is above 0 on their side of the
    horizon, which may be seen on the photograph."""
    sides = np.roll(points[:4], -1, 0) - points[:4]
    ahead = np.roll(sides, -1, 0)
    turns = sides[:, 0] * ahead[:, 1] - sides[:, 1] * ahead[:, 0]
    if turns.min() <= 1e-6 * np.abs(sides).max() ** 2:
        raise StockProblem("the four corners on the photograph must go round it clockwise, from the top left one")
    matrix = np.asarray(cv2.getPerspectiveTransform(points[:4].astype(np.float32), SOURCE[:4].astype(np.float32)))
    return matrix if matrix[2] @ [*points[:4].mean(axis=0), 1.0] > 0 else -matrix


def _left_over(matrix: Field, points: Points) -> Callable[[Points], Points]:
    """What a homography leaves of the way of places to those in the artwork: a thin plate spline through what it leaves
    at the points."""
    if len(points) == 4:
        return np.zeros_like
    if pdist(points).min() < _APART:
        raise StockProblem("points on the photograph lie on one another: draw them apart")
    left = SOURCE[: len(points)] - _projected(matrix, points)
    return RBFInterpolator(points, left, kernel="thin_plate_spline")  # type: ignore[no-any-return]


def _projected(matrix: Field, points: Points) -> Points:
    """Points through a homography; those at or behind its horizon are held far outside."""
    h = np.c_[points, np.ones(len(points))] @ np.asarray(matrix, np.float64).T
    w = np.where(h[:, 2] > 1e-9, h[:, 2], 1e-9)
    return np.asarray(np.clip(h[:, :2] / w[:, None], -1e4, 1e4))


class OnPhotograph:
    """A photograph prepared for artwork of an ``aspect``, which fills the place between the points: it lends the
    artwork its shade, over the ``white`` of the thing, and its grain."""

    def __init__(self, data: Photograph, aspect: float, width: int) -> None:
        self.picture = read_photograph(data.picture, width)
        h, w = self.picture.shape[:2]
        points = np.array(data.points, np.float64) * [w, h]
        u, v = placed(points, h, w)
        inside = ((u >= 0) & (u <= 1) & (v >= 0) & (v <= 1)).astype(np.float32)
        if np.count_nonzero(inside) < 100:
            raise StockProblem("the points enclose next to nothing of the photograph")
        self.slot: Slot = slot_of(u, v, cv2.GaussianBlur(inside, (0, 0), 0.6), aspect)
        smooth = cv2.bilateralFilter(self.picture, 0, 0.06, 3.0)
        self.shade = to_linear(smooth) / np.maximum(to_linear(rgb(data.white)), 0.02)
        self.grain = self.picture - smooth

    def shown(self, artwork: Field) -> Field:
        """The photograph (h, w, 3; encoded) with artwork (h, w, 4; premultiplied) on it."""
        x0, y0, x1, y1 = self.slot.box
        s = self.slot
        ink = cv2.remap(fitted(artwork, s), s.x, s.y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_CONSTANT)
        cover = ink[..., 3:] * s.mask[..., None]
        colour = to_linear(np.clip(ink[..., :3] / np.maximum(ink[..., 3:], 1e-4), 0, 1))
        lit = to_encoded(colour * self.shade[y0:y1, x0:x1]) + self.grain[y0:y1, x0:x1]
        out = self.picture.copy()
        out[y0:y1, x0:x1] += (lit - out[y0:y1, x0:x1]) * cover
        return np.clip(out, 0, 1)


def read_photograph(name: str, width: int) -> Field:
    """A picture so many pixels wide (h, w, 3; encoded). Raises StockProblem for what is none."""
    path = Path(name)
    try:
        with Image.open(path) as image:
            if image.width * image.height > _MOST_PIXELS:
                raise StockProblem(f"'{path.name}' has more than {_MOST_PIXELS // 1_000_000} million pixels")
            if image.height > _MOST_HIGH * image.width:
                raise StockProblem(f"'{path.name}' is over {_MOST_HIGH} times as high as wide: that is no photograph")
            image.draft("RGB", (width * 2, width * 2))
            height = max(round(image.height * width / image.width), 1)
            small = image.convert("RGB").resize((width, height), Image.Resampling.LANCZOS)
    except (OSError, SyntaxError, Image.DecompressionBombError) as error:
        raise StockProblem(f"'{path.name}' cannot be read as a photograph") from error
    return np.asarray(small, np.float32) / np.float32(255)
