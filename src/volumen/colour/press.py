"""What a press makes of colours: separation into inks and back, through ICC profiles (ICC.1:2010) by LittleCMS."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray
from PIL import Image, ImageCms
from scipy.ndimage import map_coordinates

from volumen.caching import by_value
from volumen.colour.difference import srgb_difference
from volumen.colour.press_settings import SHIPPED, Press
from volumen.colour.srgb import Floats

Bytes = NDArray[np.uint8]

INKS = ("cyan", "magenta", "yellow", "black")
PRINTABLE = 3.0  # CIEDE2000 up to which a colour counts as printed faithfully
_FINE = 4  # levels of 8 bits between colours that are separated one by one for 16 bits
_MOST_BYTES = 32 * 2**20
_MOST_EXACT = 20_000  # colours that are worked out one by one
_MOST_COLOURS = 40_000  # of a picture that are told apart exactly
_INTENTS = {"relative": ImageCms.Intent.RELATIVE_COLORIMETRIC, "perceptual": ImageCms.Intent.PERCEPTUAL}


class ProfileProblem(ValueError):
    """A profile that no press can be proofed with; the message says why."""


def profile_bytes(profile: str) -> bytes:
    """The ICC profile of a press. Raises ProfileProblem for what is none, or none of a CMYK output."""
    path = Path(__file__).parent / "profiles" / SHIPPED[profile] if profile in SHIPPED else Path(profile)
    return _checked(str(path), path.stat().st_mtime_ns if path.exists() else 0)


@by_value("press profiles", 8)
def _checked(name: str, _changed: int) -> bytes:
    path = Path(name)
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise ProfileProblem(f"'{path.name}' is larger than {_MOST_BYTES >> 20} MB: no profile of a press is")
        data = path.read_bytes()
        about: Any = ImageCms.ImageCmsProfile(io.BytesIO(data)).profile
    except OSError as error:
        why = error.strerror or "it is damaged, or no ICC profile"
        raise ProfileProblem(f"'{path.name}' cannot be used as a profile: {why}") from error
    space, kind = about.xcolor_space.strip(), about.device_class.strip()
    if space != "CMYK" or kind != "prtr":
        words = {"mntr": "a screen", "scnr": "a scanner", "prtr": "a printer", "link": "a pair of devices"}
        what = f"'{path.name}' is a profile of {words.get(kind, kind)} in {space}"
        raise ProfileProblem(f"{what}; a press needs an output profile for CMYK")
    for direction, way in (
        (ImageCms.Direction.INPUT, "inks to colours"),
        (ImageCms.Direction.OUTPUT, "colours to inks"),
    ):
        if not about.is_intent_supported(ImageCms.Intent.RELATIVE_COLORIMETRIC, direction):
            raise ProfileProblem(f"'{path.name}' has no table from {way}")
    return data


def separated(rgb: ArrayLike, press: Press) -> Bytes:
    """The inks (..., 4) of 8-bit sRGB (..., 3); 255 is solid."""
    values = np.asarray(rgb, np.uint8)
    return _applied(_transforms(press, values)[0], values, "RGB", "CMYK")


def finely_separated(rgb: NDArray[np.uint16], press: Press) -> NDArray[np.uint16]:
    """The inks (..., 4) of 16-bit sRGB (..., 3); 65535 is solid. Between colours that are 4 levels of 8 bits apart, the
    steps of the colour library, inks run straight."""
    at = np.append(np.arange(0, 255, _FINE), 255)
    grid = np.stack(np.meshgrid(at, at, at, indexing="ij"), axis=-1).astype(np.uint8)
    nodes = separated(grid.reshape(-1, 1, 3), press).reshape(*grid.shape[:3], 4).astype(np.float32)
    places = np.asarray(rgb, np.float32) / 257
    index = np.where(places > at[-2], len(at) - 2 + (places - at[-2]) / (255 - at[-2]), places / _FINE)
    where = np.moveaxis(index, -1, 0)
    inks = [map_coordinates(nodes[..., k], where, order=1, mode="nearest") for k in range(4)]
    return np.asarray(np.round(np.stack(inks, axis=-1) * 257), np.uint16)


def printed(inks: ArrayLike, press: Press) -> Bytes:
    """The look of inks (..., 4; 255 is solid) as 8-bit sRGB (..., 3), on white or on the paper."""
    values = np.asarray(inks, np.uint8)
    return _applied(_transforms(press, values)[1], values, "CMYK", "RGB")


def _applied(transform: Any, values: Bytes, kind: str, to: str) -> Bytes:
    """A transform of the colour library over an array whose last axis holds the channels."""
    shape = values.shape[:-1]
    size = (shape[1], shape[0]) if len(shape) == 2 else (int(np.prod(shape)), 1)
    if 0 in size:
        return np.zeros((*shape, len(to)), np.uint8)
    image = Image.frombytes(kind, size, np.ascontiguousarray(values).tobytes())
    made = transform.apply(image)
    return np.frombuffer(made.tobytes(), np.uint8).reshape(*shape, len(to))


def _transforms(press: Press, values: Bytes) -> tuple[Any, Any]:
    exact = values.size // values.shape[-1] <= _MOST_EXACT
    try:
        return _built(profile_bytes(press.profile), press.intent, press.black_point, press.paper, exact)
    except ImageCms.PyCMSError as error:
        raise ProfileProblem(f"the profile '{press.name}' cannot be used: {error}") from error


@by_value("press transforms", 16)
def _built(profile: bytes, intent: str, black_point: bool, paper: bool, exact: bool) -> tuple[Any, Any]:
    """To inks and back. ``exact`` works colour by colour: ready at once, a microsecond each. Otherwise by fine tables,
    ready after half a second, six times as fast, mean 0.2 levels off."""
    srgb, cmyk = ImageCms.createProfile("sRGB"), ImageCms.ImageCmsProfile(io.BytesIO(profile))
    flags = ImageCms.Flags.NOOPTIMIZE if exact else ImageCms.Flags.HIGHRESPRECALC
    kept = flags | ImageCms.Flags.BLACKPOINTCOMPENSATION if black_point else flags
    back = ImageCms.Intent.ABSOLUTE_COLORIMETRIC if paper else ImageCms.Intent.RELATIVE_COLORIMETRIC
    return (
        ImageCms.buildTransform(srgb, cmyk, "RGB", "CMYK", _INTENTS[intent], kept),
        ImageCms.buildTransform(cmyk, srgb, "CMYK", "RGB", back, flags if paper else kept),
    )


def levels_of(rgb: ArrayLike) -> Bytes:
    """Encoded sRGB, 0..1, in 8 bits."""
    return np.asarray(np.round(np.clip(rgb, 0, 1) * 255), np.uint8)


def inks_of(rgb: tuple[float, float, float], press: Press) -> tuple[float, ...]:
    """The inks of one colour (encoded sRGB, 0..1), in percent."""
    return tuple(float(v) * 100 / 255 for v in separated(levels_of([rgb]), press)[0])


def look_of(inks: tuple[float, ...], press: Press) -> tuple[float, float, float]:
    """The look, as encoded sRGB 0..1, of four inks in percent."""
    r, g, b = (float(v) / 255 for v in printed(np.round(np.clip([inks], 0, 100) * 2.55), press)[0])
    return r, g, b


def press_difference(rgb: ArrayLike, press: Press) -> Floats:
    """How far (CIEDE2000) the nearest print is from 8-bit sRGB (..., 3), white laid on white and black on black."""
    nearest = press.nearest

    def miss(colours: Bytes) -> Floats:
        return srgb_difference(printed(separated(colours, nearest), nearest) / 255, colours / 255)

    return by_colour(np.asarray(rgb, np.uint8), miss)


def by_colour(rgb: Bytes, call: Callable[[Bytes], Floats]) -> Floats:
    """A function of colours over a picture (..., 3), called once for each colour; where there are very many, for each
    of four levels a channel."""
    packed = rgb[..., 0].astype(np.int64) << 16 | rgb[..., 1].astype(np.int64) << 8 | rgb[..., 2]
    found, back = np.unique(packed, return_inverse=True)
    if len(found) > _MOST_COLOURS:
        found, back = np.unique(packed & 0xFCFCFC | 0x020202, return_inverse=True)
    colours = np.stack([found >> 16, found >> 8 & 255, found & 255], axis=-1).astype(np.uint8)
    return np.asarray(call(colours)[back].reshape(rgb.shape[:-1]))


def total_ink(inks: Bytes) -> Floats:
    """The sum of inks (..., 4) in percent, 0..400."""
    return np.asarray(inks.sum(axis=-1, dtype=np.float32) * np.float32(100 / 255))
