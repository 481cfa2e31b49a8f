"""Values: a picture in greys of the same OKLab lightness, fast enough for a picture that moves."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from volumen.colour.oklab import LMS_TO_LIGHTNESS, RGB_TO_LMS
from volumen.colour.srgb import from_linear, to_linear

_LINEAR = to_linear(np.arange(256) / 255).astype(np.float32)
_STEPS = 4095
# A grey of OKLab lightness L is L^3 in linear light.
_GREY = np.clip(np.rint(from_linear((np.arange(_STEPS + 1) / _STEPS) ** 3) * 255), 0, 255).astype(np.uint8)
_MATRIX = RGB_TO_LMS.astype(np.float32)


def values_of(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """The grey (h, w), 0..255, of the OKLab lightness of each encoded sRGB colour (h, w, 3)."""
    import cv2  # loads slowly

    lms = cv2.transform(cv2.LUT(np.ascontiguousarray(rgb), _LINEAR), _MATRIX)
    root = cv2.pow(np.maximum(lms, 0), 1 / 3)
    light = root.reshape(-1, 3) @ LMS_TO_LIGHTNESS.astype(np.float32)
    return np.asarray(_GREY[np.clip(light * _STEPS + 0.5, 0, _STEPS).astype(np.uint16)].reshape(rgb.shape[:2]))


def show_values(bgra: NDArray[np.uint8]) -> None:
    """Turn premultiplied BGRA (h, w, 4) into its values, in place."""
    alpha = bgra[..., 3:]
    rgb = bgra[..., 2::-1]
    if alpha.min(initial=255) < 255:
        straight = rgb.astype(np.uint16) * 255 // np.maximum(alpha, 1)
        grey = values_of(np.minimum(straight, 255).astype(np.uint8)).astype(np.uint16) * alpha[..., 0] // 255
        bgra[..., :3] = grey.astype(np.uint8)[..., None]
    else:
        bgra[..., :3] = values_of(rgb)[..., None]
