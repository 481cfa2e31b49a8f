"""Placing reference pictures: any mode, orientation tag or size becomes data that the program can show."""

from __future__ import annotations

import io
import warnings
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pillow
from PIL import ImageOps, UnidentifiedImageError

from volumen.formats.files import FileProblem, problem
from volumen.formats.native import asset_key
from volumen.model.nodes import Asset

SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff")
_MOST_BYTES = 512 * 2**20
_LARGEST = 6000  # pixels along the longer side that are kept; more is not seen under a drawing
_MOST_PIXELS = 150_000_000  # as RGBA 600 MB


def place(path: Path) -> tuple[Asset, int, int]:
    """A picture file as an asset, with its size in pixels as it is looked at. Raises FileProblem."""
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise FileProblem(f"'{path.name}' is larger than {_MOST_BYTES >> 20} MB; it is not placed")
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            return _read(path)
    except FileProblem:
        raise
    except MemoryError as error:
        raise FileProblem(f"'{path.name}' needs more memory than a picture may take; save it smaller") from error
    except (UnidentifiedImageError, SyntaxError, ValueError, EOFError) as error:
        raise FileProblem(f"'{path.name}' is no picture that can be read: {error}") from error
    except OSError as error:
        if error.errno is None:  # the decoder's own errors
            raise FileProblem(f"'{path.name}' is damaged: {error}") from error
        raise problem("open", path, error) from error


def _read(path: Path) -> tuple[Asset, int, int]:
    limit, Pillow.MAX_IMAGE_PIXELS = Pillow.MAX_IMAGE_PIXELS, None
    try:
        with Pillow.open(path) as image:
            image.draft("RGB", (_LARGEST, _LARGEST))  # what can be read smaller is
            if image.width * image.height > _MOST_PIXELS:
                raise FileProblem(
                    f"'{path.name}' has {image.width:,} x {image.height:,} pixels; "
                    f"up to {_MOST_PIXELS // 10**6} million can be placed: save it smaller"
                )
            image.load()
            shown = as_rgb(ImageOps.exif_transpose(_reduced(image)))
    finally:
        Pillow.MAX_IMAGE_PIXELS = limit
    if max(shown.size) > _LARGEST:
        shown.thumbnail((_LARGEST, _LARGEST), Pillow.Resampling.LANCZOS)
    out = io.BytesIO()
    if shown.mode == "RGBA":
        shown.save(out, "PNG", compress_level=3)
    else:
        shown.save(out, "JPEG", quality=93, subsampling=0)
    data = out.getvalue()
    return Asset(asset_key(data), data), shown.width, shown.height


def _reduced(image: Pillow.Image) -> Pillow.Image:
    """A picture larger than what is kept, made smaller before anything is copied."""
    if max(image.size) > _LARGEST and image.mode in ("L", "LA", "RGB", "RGBA", "CMYK", "YCbCr"):
        image.thumbnail((_LARGEST, _LARGEST), Pillow.Resampling.LANCZOS, reducing_gap=2.0)
    return image


def as_rgb(image: Pillow.Image) -> Pillow.Image:
    """Any mode as 8-bit RGB, or RGBA where it has alpha. 16-bit and float grey is brought into range."""
    if image.mode.startswith("I;16"):
        return Pillow.fromarray((np.asarray(image) // 257).astype(np.uint8)).convert("RGB")
    if image.mode in ("I", "F"):
        values = np.nan_to_num(np.asarray(image, dtype=np.float32))
        top = 65535.0 if values.max(initial=0) > 255 else 255.0
        if image.mode == "F" and values.max(initial=0) <= 1.0:
            top = 1.0
        grey = np.clip(values / top * 255, 0, 255).astype(np.uint8)
        return Pillow.fromarray(grey).convert("RGB")
    if image.mode in ("RGBA", "LA", "PA", "La", "RGBa") or "transparency" in image.info:
        return image.convert("RGBA")
    return image.convert("RGB")


def pixels_of(data: bytes) -> NDArray[np.float64]:
    """A placed picture as straight encoded sRGB and alpha (h, w, 4), 0..1. Raises FileProblem."""
    try:
        with Pillow.open(io.BytesIO(data)) as image:
            return np.asarray(image.convert("RGBA"), dtype=np.float64) / 255
    except (OSError, ValueError, SyntaxError) as error:
        raise FileProblem(f"the picture cannot be read: {error}") from error
