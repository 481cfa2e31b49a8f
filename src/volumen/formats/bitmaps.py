"""Pixels as files in memory."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def png_bytes(rgba: NDArray[np.uint8]) -> bytes:
    """A PNG of straight RGBA (h, w, 4)."""
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(rgba), "RGBA").save(out, "PNG", compress_level=4)
    return out.getvalue()
