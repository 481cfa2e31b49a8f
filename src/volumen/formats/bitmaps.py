"""Pixels as files in memory."""

from __future__ import annotations

import io
import struct
import zlib
from typing import Any, NamedTuple

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from volumen.colour.press import Press, profile_bytes, separated
from volumen.colour.press_views import on_white

Levels = NDArray[np.uint8] | NDArray[np.uint16]
_DEFLATE = "zlib"  # what tifffile calls it
_PNG_HEAD = 8 + 25  # the signature and the first chunk


class BitmapStyle(NamedTuple):
    """How pixels are written: their resolution, the profile of what is in sRGB, quality (1..100, None: hardly any
    loss), whether JPEG keeps each pixel's colour, and the press whose inks TIFF holds."""

    dpi: float
    srgb: bytes
    quality: int | None = None
    fine_colour: bool = True
    press: Press | None = None


def png_bytes(rgba: NDArray[np.uint8]) -> bytes:
    """A PNG of straight RGBA (h, w, 4)."""
    return _saved(rgba, "PNG", {"compress_level": 4})


def as_png(rgba: Levels, style: BitmapStyle) -> bytes:
    """A PNG of straight RGBA (h, w, 4) in 8 or 16 bits."""
    if rgba.dtype == np.uint8:
        return _saved(_bytes(rgba), "PNG", {"dpi": (style.dpi, style.dpi), "icc_profile": style.srgb})
    ready, data = cv2.imencode(".png", np.ascontiguousarray(rgba[..., [2, 1, 0, 3]]))
    assert ready
    a_metre = round(style.dpi / 0.0254)
    told = _chunk(b"iCCP", b"sRGB\0\0" + zlib.compress(style.srgb))
    told += _chunk(b"pHYs", struct.pack(">IIB", a_metre, a_metre, 1))
    plain = data.tobytes()
    return plain[:_PNG_HEAD] + told + plain[_PNG_HEAD:]


def _chunk(kind: bytes, data: bytes) -> bytes:
    """A chunk of a PNG (ISO/IEC 15948, 5.3)."""
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def as_jpeg(rgba: Levels, style: BitmapStyle) -> bytes:
    """A JPEG on white: the format has no alpha."""
    more = {"dpi": (style.dpi, style.dpi), "icc_profile": style.srgb, "quality": style.quality or 95}
    return _saved(on_white(_bytes(rgba)), "JPEG", {**more, "subsampling": 0 if style.fine_colour else 2})


def as_webp(rgba: Levels, style: BitmapStyle) -> bytes:
    """A WebP; without a quality nothing is lost."""
    more = {"lossless": True} if style.quality is None else {"quality": style.quality}
    return _saved(_bytes(rgba), "WEBP", {"icc_profile": style.srgb, **more})


def as_tiff(rgba: Levels, style: BitmapStyle) -> bytes:
    """A TIFF of straight RGBA in 8 or 16 bits, or of the inks that a press lays on white, with the profile."""
    if style.press is not None:
        inks, profile = separated(on_white(_bytes(rgba)), style.press), profile_bytes(style.press.profile)
        return _tiff(inks, "separated", profile, style.dpi)
    return _tiff(rgba, "rgb", style.srgb, style.dpi)


def _tiff(values: Levels, kind: str, profile: bytes, dpi: float) -> bytes:
    out = io.BytesIO()
    extra: dict[str, Any] = {"extrasamples": ["unassalpha"]} if kind == "rgb" else {}
    tifffile.imwrite(
        out, np.ascontiguousarray(values), photometric=kind, compression=_DEFLATE, predictor=True, metadata=None,
        resolution=(dpi, dpi), resolutionunit="inch", iccprofile=profile, software="Volumen", **extra,
    )  # fmt: skip
    return out.getvalue()


def _bytes(rgba: Levels) -> NDArray[np.uint8]:
    if rgba.dtype == np.uint8:
        return rgba.astype(np.uint8, copy=False)
    return ((rgba.astype(np.uint32) + 128) // 257).astype(np.uint8)


def _saved(values: NDArray[np.uint8], kind: str, more: dict[str, Any]) -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(values)).save(out, kind, **more)
    return out.getvalue()
