"""sRGB encoding and hexadecimal notation. Arrays are (..., 3), values 0 to 1."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]


def to_linear(encoded: ArrayLike) -> Floats:
    """Decode sRGB to linear light (IEC 61966-2-1); odd-symmetric for values below 0."""
    v = np.asarray(encoded, dtype=np.float64)
    a = np.abs(v)
    return np.asarray(np.sign(v) * np.where(a <= 0.04045, a / 12.92, ((a + 0.055) / 1.055) ** 2.4))


def from_linear(linear: ArrayLike) -> Floats:
    """Encode linear light as sRGB (IEC 61966-2-1)."""
    v = np.asarray(linear, dtype=np.float64)
    a = np.abs(v)
    return np.asarray(np.sign(v) * np.where(a <= 0.0031308, a * 12.92, 1.055 * a ** (1 / 2.4) - 0.055))


def to_hex(rgb: ArrayLike) -> str:
    """``#rrggbb`` of one colour."""
    r, g, b = (round(float(v) * 255) for v in np.clip(np.asarray(rgb, dtype=np.float64)[:3], 0, 1))
    return f"#{r:02x}{g:02x}{b:02x}"


def from_hex(text: str) -> tuple[float, float, float]:
    """Read ``#rgb`` or ``#rrggbb``, with or without the sign. Raises ValueError with the text it could not read."""
    m = re.fullmatch(r"#?([0-9a-fA-F]{3}|[0-9a-fA-F]{6})", text.strip())
    if not m:
        raise ValueError(f"'{text}' is not a colour; write it as #rrggbb")
    digits = m[1] if len(m[1]) == 6 else "".join(d * 2 for d in m[1])
    r, g, b = (int(digits[i : i + 2], 16) / 255 for i in (0, 2, 4))
    return (r, g, b)
