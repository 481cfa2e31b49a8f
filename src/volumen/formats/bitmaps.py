"""Pixels as files in memory."""

from __future__ import annotations

import io
import struct
import unicodedata
import zlib
from typing import Any, NamedTuple

import cv2
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image

from volumen.colour.press import INKS, finely_separated, profile_bytes, separated
from volumen.colour.press_settings import Press
from volumen.colour.press_views import on_white

Levels = NDArray[np.uint8] | NDArray[np.uint16]
_DEFLATE = "zlib"  # what tifffile calls it
_INK_NAMES, _NUMBER_OF_INKS = 333, 334  # tags of TIFF
_PNG_HEAD = 8 + 25  # the signature and the first chunk


class BitmapStyle(NamedTuple):
    """How pixels are written: their resolution, the profile of what is in sRGB, quality (1..100, None: hardly any
    loss), whether JPEG keeps each pixel's colour, the press whose inks TIFF holds, and plates of ``spots`` beside
    them: names and covers (h, w), as deep as the pixels. Where it is ``marked`` (h, w), for
    whoever puts the plates in register, all inks are solid."""

    dpi: float
    srgb: bytes
    quality: int | None = None
    fine_colour: bool = True
    press: Press | None = None
    spots: tuple[tuple[str, Levels], ...] = ()
    marked: NDArray[np.bool_] | None = None


def png_bytes(rgba: NDArray[np.uint8]) -> bytes:
    """A PNG of straight RGBA (h, w, 4)."""
    return _saved(rgba, "PNG", {"compress_level": 4})


def opaque_png(pixels: NDArray[np.uint8]) -> bytes:
    """Pixels (h, w, 3 or 4) as PNG; what has no alpha is solid."""
    if pixels.shape[-1] == 3:
        pixels = np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
    return png_bytes(pixels)


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
    """A TIFF of straight RGBA in 8 or 16 bits, or of the inks that a press lays on white, with the profile; spot inks
    follow as further samples, named as TIFF names inks (TIFF 6.0, section 16)."""
    if style.press is None:
        return _tiff(rgba, "rgb", style.srgb, style.dpi, {"extrasamples": ["unassalpha"]})
    profile = profile_bytes(style.press.profile)
    inks: Levels
    if rgba.dtype == np.uint8:
        inks = separated(on_white(_bytes(rgba)), style.press)
    else:
        inks = finely_separated(_words_on_white(rgba), style.press)
    if style.marked is not None:
        inks = inks.copy()
        inks[style.marked] = np.iinfo(inks.dtype).max
    if not style.spots:
        return _tiff(inks, "separated", profile, style.dpi, {})
    inks = np.concatenate([inks, *(cover[..., None] for _, cover in style.spots)], axis=-1)
    names = "".join(f"{n}\0" for n in (*INKS, *_told_apart([n for n, _ in style.spots]))).encode()
    tags = [(_INK_NAMES, 2, len(names), names, True), (_NUMBER_OF_INKS, 3, 1, inks.shape[-1], True)]
    extra = {"extrasamples": ["unspecified"] * len(style.spots), "extratags": tags}
    return _tiff(inks, "separated", profile, style.dpi, extra)


def _told_apart(names: list[str]) -> list[str]:
    """Names of inks whole, in any script, none like another or like that of a process ink: those are numbered."""
    taken = {n.casefold() for n in INKS}
    out = []
    for name in names:
        whole = unicodedata.normalize("NFC", name.replace("\0", " ")).strip() or "ink"
        told, count = whole, 2
        while told.casefold() in taken:
            told, count = f"{whole} {count}", count + 1
        taken.add(told.casefold())
        out.append(told)
    return out


def _words_on_white(rgba: Levels) -> NDArray[np.uint16]:
    alpha = rgba[..., 3:].astype(np.uint64)
    return ((rgba[..., :3] * alpha + 65535 * (65535 - alpha) + 32767) // 65535).astype(np.uint16)


def _tiff(values: Levels, kind: str, profile: bytes, dpi: float, extra: dict[str, Any]) -> bytes:
    out = io.BytesIO()
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
