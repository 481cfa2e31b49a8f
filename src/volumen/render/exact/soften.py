"""Gaussian blur of float images by shrinking, blurring small, and enlarging.

For a standard deviation σ the image is averaged in k x k blocks, k = 2^floor(log2(σ/4)), blurred with
σ' = sqrt(σ² - (k²-1)/12 - k²/6) / k, and enlarged linearly: within 0.3/255 of a direct Gaussian and up to a
hundred times faster.
"""

from __future__ import annotations

import math
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.float32]
LONGEST_LINE = 400.0  # pixels: beyond, nothing of a picture's own shape is left along the line
_WIDE_LINE = 24.0  # pixels: from here on a line is blurred turned level, as its kernel grows with the square
_STRIP = 256  # rows of a turned picture that are worked out at a time


def gaussian_blur(image: Image, sigma: float, rough: bool = False) -> Image:
    """Blur (h, w) or (h, w, c) float32 with ``sigma`` in pixels; outside the image lies zero.

    ``rough`` shrinks twice as far: a few levels off, for frames that last a moment.
    """
    if sigma < 0.1:
        return image
    limit = 1.5 if rough else 4.0
    k = 1 << max(math.floor(math.log2(sigma / limit)), 0) if sigma >= 2 * limit else 1
    if k == 1:
        return _direct(image, sigma)
    h, w = image.shape[:2]
    padded = _pad(image, (-h) % k + 2 * k, (-w) % k + 2 * k, k)
    small: Any = cv2.resize(padded, (padded.shape[1] // k, padded.shape[0] // k), interpolation=cv2.INTER_AREA)
    rest = math.sqrt(max(sigma * sigma - (k * k - 1) / 12 - k * k / 6, 0.01)) / k
    small = _direct(small, rest)
    large: Any = cv2.resize(small, (padded.shape[1], padded.shape[0]), interpolation=cv2.INTER_LINEAR)
    return np.ascontiguousarray(large[k : k + h, k : k + w])


def _pad(image: Image, extra_h: int, extra_w: int, before: int) -> Image:
    return np.asarray(
        cv2.copyMakeBorder(image, before, extra_h - before, before, extra_w - before, cv2.BORDER_CONSTANT, value=0)
    )


def _direct(image: Image, sigma: float) -> Image:
    size = 2 * math.ceil(3.5 * sigma) + 1
    return np.asarray(cv2.GaussianBlur(image, (size, size), sigma, borderType=cv2.BORDER_CONSTANT))


def feathered(image: Image, sigma: float, rough: bool = False) -> Image:
    """Premultiplied pixels (h, w, 4) faded out towards the edge of what they show.

    With b the alpha blurred by ``sigma`` pixels, everything is taken times max(0, 2 b - 1): nothing at a straight
    edge, where b is one half, all of it some way inside.
    """
    if sigma < 0.1:
        return image
    if sigma > 4 * max(image.shape[:2]):
        return np.zeros_like(image)  # nothing lies so far inside
    inside = gaussian_blur(np.ascontiguousarray(image[..., 3]), sigma, rough)
    return np.asarray(image * np.clip(2 * inside - 1, 0, 1)[..., None], dtype=np.float32)


def line_blur(image: Image, sigma: float, angle: float) -> Image:
    """A Gaussian blur of premultiplied pixels (h, w, 4) along one direction, ``angle`` in degrees, y down.

    The kernel is a line of sub-pixel samples, each shared among the four pixels around it. A wide one is worked
    out on the picture turned so that the line lies level, at a cost that does not grow: 0.1 of 255 levels off on
    average, up to 10 where a hard edge runs along the line (turning softens it by a third of a pixel).
    """
    if sigma < 0.1:
        return image
    if sigma >= _WIDE_LINE:
        return _blurred_level(image, min(sigma, LONGEST_LINE), angle)
    reach = math.ceil(3 * sigma)
    kernel = np.zeros((2 * reach + 3, 2 * reach + 3), np.float32)
    t = np.linspace(-3 * sigma, 3 * sigma, 12 * reach + 1)
    weight = np.exp(-0.5 * (t / sigma) ** 2)
    weight /= weight.sum()
    x = reach + 1 + t * math.cos(math.radians(angle))
    y = reach + 1 + t * math.sin(math.radians(angle))
    x0, y0 = np.floor(x).astype(int), np.floor(y).astype(int)
    fx, fy = x - x0, y - y0
    for dx, wx in ((0, 1 - fx), (1, fx)):
        for dy, wy in ((0, 1 - fy), (1, fy)):
            np.add.at(kernel, (y0 + dy, x0 + dx), weight * wx * wy)
    made = cv2.filter2D(image, cv2.CV_32F, kernel[::-1, ::-1].copy(), borderType=cv2.BORDER_CONSTANT)
    return np.asarray(made, dtype=np.float32)


def _blurred_level(image: Image, sigma: float, angle: float) -> Image:
    """``line_blur`` of a picture turned level, with blocks of k pixels along the line averaged (see the module)."""
    h, w = image.shape[:2]
    c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
    k = 1 << max(math.floor(math.log2(sigma / 4)), 0)
    long = math.ceil((abs(w * c) + abs(h * s)) / k + 4) * k
    wide = math.ceil(abs(w * s) + abs(h * c)) + 4
    # (u, v) of the turned picture is at turn @ (u, v, 1) of the picture; the two middles meet, nearly
    turn = np.array([[c, -s, 0.0], [s, c, 0.0]])
    turn[:, 2] = np.array([(w - 1) / 2, (h - 1) / 2]) - turn[:, :2] @ np.array([(long - 1) / 2, (wide - 1) / 2])
    turn[:, 2] = np.round(turn[:, 2])  # pixel on pixel at right angles
    level = np.zeros((wide, long // k, 4), np.float32)
    for top in range(0, wide, _STRIP):
        rows = min(_STRIP, wide - top)
        part = turn.copy()
        part[:, 2] += turn[:, 1] * top
        strip: Any = cv2.warpAffine(image, part, (long, rows), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
        level[top : top + rows] = cv2.resize(strip, (long // k, rows), interpolation=cv2.INTER_AREA)
    rest = math.sqrt(max(sigma * sigma - (k * k - 1) / 12 - k * k / 6, 0.01)) / k
    size = 2 * math.ceil(3.5 * rest) + 1
    level = np.asarray(cv2.GaussianBlur(level, (size, 1), rest, sigmaY=0.01, borderType=cv2.BORDER_CONSTANT))
    back = cv2.invertAffineTransform(turn)
    back[0] /= k
    back[0, 2] += 0.5 / k - 0.5
    made = cv2.warpAffine(level, back, (w, h), flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP)
    return np.asarray(made, dtype=np.float32)
