"""Scans as reference pictures: a picture as the simulated scanner gives it, and a scan put straight by its chart."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
from PIL import Image as Pillow

from volumen.colour.press import Bytes
from volumen.devices.cover import DeviceProblem
from volumen.devices.scanner import Scan, scanned, straightened
from volumen.formats.files import FileProblem
from volumen.formats.images import place
from volumen.formats.native import asset_key
from volumen.model.nodes import Asset

_LARGEST = 3000  # pixels along the longer side of what is scanned


def scan(path: Path, how: Scan | None = None) -> tuple[Asset, int, int]:
    """A picture file as the scanner gives it, chart and all, with its size in pixels. Raises FileProblem."""
    asset, _, _ = place(path)
    image = Pillow.open(io.BytesIO(asset.data)).convert("RGB")
    image.thumbnail((_LARGEST, _LARGEST), Pillow.Resampling.LANCZOS)
    return _asset(scanned(np.asarray(image, np.uint8), how or Scan()))


def straighten(data: bytes) -> tuple[Asset, int, int]:
    """A scan without its skew and colour cast, cut to the drawing. Raises FileProblem where its chart is not found."""
    try:
        pixels, _ = straightened(np.asarray(Pillow.open(io.BytesIO(data)).convert("RGB"), np.uint8))
    except DeviceProblem as problem:
        raise FileProblem(str(problem)) from problem
    return _asset(pixels)


def straightened_file(path: Path) -> tuple[Asset, int, int]:
    """``straighten`` for a picture file. Raises FileProblem."""
    return straighten(place(path)[0].data)


def _asset(pixels: Bytes) -> tuple[Asset, int, int]:
    out = io.BytesIO()
    Pillow.fromarray(np.ascontiguousarray(pixels)).save(out, "JPEG", quality=93, subsampling=0)
    return Asset(asset_key(out.getvalue()), out.getvalue()), pixels.shape[1], pixels.shape[0]
