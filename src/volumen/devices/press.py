"""A press: prints a file as plates laid on one another, with dot gain and plates that do not quite meet.

A stand-in: tones grow by one curve for all inks, plates shift and turn as a whole; there are no screens, no paper
grain, no wear. A PDF is read in RGB and taken apart with the profile: its spot inks print as their look.
"""

from __future__ import annotations

import io
import logging
from pathlib import Path
from typing import Any, NamedTuple

import cv2
import msgspec
import numpy as np
import tifffile
from PIL import Image

from volumen.colour.press import Bytes, printed, separated
from volumen.colour.press_settings import Press
from volumen.colour.press_views import Spot, overprinted
from volumen.devices.cover import DeviceProblem

logging.getLogger("tifffile").setLevel(logging.CRITICAL)  # what is wrong is told in words, not on the terminal
_MOST_PIXELS = 400_000_000
_UNKNOWN_INK = (0.55, 0.42, 0.30)  # the look of a plate whose file does not tell it
_TURNS = (40.0, 165.0, 290.0, 100.0, 220.0, 340.0)  # degrees, in which plates go astray


class PressRun(msgspec.Struct, frozen=True):
    """``gain``: by how much a tone of a half grows beyond what the profile expects. ``astray``: how far plates miss one
    another, mm."""

    gain: float = 0.04
    astray: float = 0.1


USUAL = PressRun()


class Printed(NamedTuple):
    """The printed sheet (h, w, 3; 8-bit sRGB on the white of the paper) and its resolution."""

    pixels: Bytes
    dpi: float


class Plates(NamedTuple):
    """Inks (h, w, 4 and one for each spot ink; 255 is solid), the looks of those, and the resolution; ``told``: the
    width and height in mm that a file has where it is read in fewer pixels, whose rounding would tell another size."""

    inks: Bytes
    looks: tuple[tuple[float, float, float], ...]
    dpi: float
    told: tuple[float, float] | None = None

    @property
    def size(self) -> tuple[float, float]:
        """Width and height in mm."""
        h, w = self.inks.shape[:2]
        return self.told or (w / self.dpi * 25.4, h / self.dpi * 25.4)


def print_sheet(plates: Plates, press: Press, run: PressRun = USUAL) -> Printed:
    """What comes out of the press. Raises ProfileProblem."""
    inks = grown(plates.inks, run.gain)
    moved = np.stack([_astray(inks[..., k], run.astray * plates.dpi / 25.4, k) for k in range(inks.shape[-1])], axis=-1)
    on_paper = msgspec.structs.replace(press, intent="relative", paper=True)
    sheet = printed(np.ascontiguousarray(moved[..., :4]), on_paper)
    spots = [Spot(look, moved[..., 4 + k]) for k, look in enumerate(plates.looks)]
    return Printed(overprinted(sheet, spots), plates.dpi)


def grown(inks: Bytes, gain: float) -> Bytes:
    """Tones after dot gain: t + 4 g t (1 - t), which leaves paper and solids as they are."""
    t = np.arange(256) / 255
    curve = np.clip(t + 4 * gain * t * (1 - t), 0, 1)
    return np.asarray(np.round(curve * 255), np.uint8)[inks]


def _astray(plate: Bytes, pixels: float, number: int) -> Bytes:
    """A plate shifted its own way; black (3) is what the others are laid on."""
    if number == 3 or pixels == 0:
        return plate
    turn = np.radians(_TURNS[number % len(_TURNS)])
    shift = np.array([[1, 0, pixels * np.cos(turn)], [0, 1, pixels * np.sin(turn)]], np.float64)
    h, w = plate.shape
    return np.asarray(cv2.warpAffine(plate, shift, (w, h), flags=cv2.INTER_LINEAR), np.uint8)


def read_plates(path: Path, press: Press, dpi: float = 150.0, wide: int = 0) -> Plates:
    """The plates of a TIFF in inks, or of a PDF drawn at a resolution; ``wide``: so many pixels wide instead, a TIFF at
    most that. Raises DeviceProblem, ProfileProblem."""
    try:
        data = path.read_bytes()
    except OSError as error:
        raise DeviceProblem(f"'{path.name}' cannot be read: {error.strerror}") from error
    if data[:5] == b"%PDF-":
        drawn, dpi, size = _drawn(data, path.name, dpi, wide)
        return Plates(separated(drawn, press), (), dpi, size)
    plates = _tiff(data, path.name)
    h, w = plates.inks.shape[:2]
    if not 0 < wide < w:
        return plates
    fewer = (wide, max(round(h * wide / w), 1))
    smaller = [
        cv2.resize(plates.inks[..., k], fewer, interpolation=cv2.INTER_AREA) for k in range(plates.inks.shape[2])
    ]
    return Plates(np.asarray(np.stack(smaller, axis=-1), np.uint8), plates.looks, plates.dpi * wide / w, plates.size)


def _tiff(data: bytes, name: str) -> Plates:
    try:
        with tifffile.TiffFile(io.BytesIO(data)) as file:
            page: Any = file.pages[0]
            if page.imagewidth * page.imagelength > _MOST_PIXELS:
                raise DeviceProblem(f"'{name}' is too large: more than {_MOST_PIXELS // 1_000_000} million pixels")
            inks = page.asarray()
            if page.planarconfig == tifffile.PLANARCONFIG.SEPARATE:
                inks = np.moveaxis(inks, 0, -1)
            kind = page.photometric
            dpi = _resolution(page)
    except (DeviceProblem, MemoryError):
        raise
    except Exception as error:  # the reader raises many kinds
        raise DeviceProblem(f"'{name}' is neither a TIFF nor a PDF that a press could print") from error
    whole = inks.dtype in (np.uint8, np.uint16) and inks.ndim == 3 and inks.size
    if kind != tifffile.PHOTOMETRIC.SEPARATED or not whole or inks.shape[-1] < 4:
        raise DeviceProblem(f"'{name}' is not in the inks of a press; export it for the press first")
    levels = inks if inks.dtype == np.uint8 else np.round(inks / 257).astype(np.uint8)
    return Plates(levels, (_UNKNOWN_INK,) * (levels.shape[-1] - 4), dpi)


def _resolution(page: Any) -> float:
    """Pixels to the inch; 300 where a TIFF does not tell, or tells nonsense."""
    across, unit = page.tags.get("XResolution"), page.tags.get("ResolutionUnit")
    found = across.value[0] / across.value[1] if across is not None and across.value[1] else 0.0
    if unit is not None and int(unit.value) == tifffile.RESUNIT.CENTIMETER:
        found *= 2.54
    return found if 1 <= found <= 100_000 else 300.0


def _drawn(data: bytes, name: str, dpi: float, wide: int) -> tuple[Bytes, float, tuple[float, float]]:
    """The first page (h, w, 3), its resolution, and its size in mm."""
    try:
        import pypdfium2
    except ImportError as error:
        raise DeviceProblem("to print a PDF, install pypdfium2; a TIFF in inks needs nothing more") from error
    try:
        page = pypdfium2.PdfDocument(data)[0]
        w, h = page.get_size()
        dpi = wide / w * 72 if wide else dpi
        if w * h * (dpi / 72) ** 2 > _MOST_PIXELS:
            raise DeviceProblem(f"'{name}' is too large at {dpi:g} dpi")
        picture: Image.Image = page.render(scale=dpi / 72).to_pil().convert("RGB")
    except (pypdfium2.PdfiumError, IndexError, ZeroDivisionError) as error:
        raise DeviceProblem(f"'{name}' cannot be read as a PDF: {error}") from error
    return np.asarray(picture, np.uint8), dpi, (w / 72 * 25.4, h / 72 * 25.4)
