"""PDF building blocks: numbers, paths, colour space, functions and shadings, images."""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import numpy as np
import pikepdf
from numpy.typing import NDArray
from PIL import ImageCms

from volumen.caching import by_value
from volumen.geometry.affine import Affine
from volumen.geometry.path import Box, Path, is_straight
from volumen.picture.instructions import SpotInk
from volumen.picture.spots import tint_stops
from volumen.shading.paint import Linear, Radial
from volumen.shading.ramp import held_focus, past_its_breaks, plain_stops, rounds, to_both_ends

Array, Dictionary, Name = pikepdf.Array, pikepdf.Dictionary, pikepdf.Name


NEWEST_PROFILE = (4, 2)  # of ICC profiles in PDF 1.6 (and in PDF/X-4, ISO 15930-7)


@by_value("srgb profile", 1)
def srgb_profile() -> bytes:
    """An sRGB ICC profile, made by the colour management library from the published primaries."""
    return of_version(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())


def of_version(profile: bytes) -> bytes:
    """A profile as PDF 1.6 and PDF/X-4 allow it: of ICC.1:2004-10, version 4.2, or earlier. Later ones of version 4 say
    the same with the same tags; their number is set back, and with it the sum over the profile, which then is none."""
    major, minor = profile[8], profile[9] >> 4
    if (major, minor) <= NEWEST_PROFILE or major != NEWEST_PROFILE[0]:
        return profile
    return profile[:8] + bytes((4, 0x20, 0, 0)) + profile[12:84] + bytes(16) + profile[100:]


def num(v: float, digits: int = 5) -> str:
    """A number as PDF writes it: no exponent, held within ±32 million, 0 for what is none."""
    if not math.isfinite(v):
        return "0"
    s = f"{max(-32e6, min(v, 32e6)):.{digits}f}".rstrip("0").rstrip(".")
    return "0" if s in ("-0", "") else s


def nums(*values: float, digits: int = 5) -> str:
    """Numbers with blanks between them."""
    return " ".join(num(v, digits) for v in values)


def levels(rgb: Sequence[float]) -> tuple[float, ...]:
    """A colour (sRGB, 0 to 1) that gives its own 8-bit levels by rounding and by cutting off, as readers do either on
    the way through a profile: what falls short of its level by a hundred thousandth would come out one lower."""
    return tuple(min(math.ceil(max(v, round(v * 255) / 255) * 1e5 + 0.5) / 1e5, 1.0) for v in rgb)


def fill_colour(rgb: Sequence[float]) -> str:
    """The operators that choose a colour to fill with, in the page's sRGB space."""
    return f"/S cs {nums(*levels(rgb))} sc"


def concat(m: Affine) -> str:
    """The operator that maps what follows by ``m``."""
    return " ".join(f"{v:.8f}".rstrip("0").rstrip(".") or "0" for v in m) + " cm\n"


def path_operators(path: Path, digits: int = 5) -> str:
    """The operators that build a path of cubics. One of four straight sides is written as a curve: what readers
    take for a rectangle they move to whole pixels, which makes a rule half as wide again."""
    out: list[str] = []
    for contour in path.contours:
        if len(contour.points) < 2:
            continue
        out.append(f"{nums(*contour.points[0], digits=digits)} m\n")
        straight = [is_straight(*s) for s in contour.segments]
        if straight == [True] * 4:
            straight[0] = False
        for (_, p1, p2, p3), is_line in zip(contour.segments, straight, strict=True):
            if is_line:
                out.append(f"{nums(*p3, digits=digits)} l\n")
            else:
                out.append(f"{nums(*p1, *p2, *p3, digits=digits)} c\n")
        if contour.closed:
            out.append("h\n")
    return "".join(out)


def ramp_function(pdf: pikepdf.Pdf, rows: Sequence[tuple[float, ...]]) -> Any:
    """Values at positions, as rows of both: a type 2 function for two, else a type 3 that stitches one a segment."""

    def piece(a: tuple[float, ...], b: tuple[float, ...]) -> Any:
        return Dictionary(FunctionType=2, Domain=[0, 1], C0=Array(a[1:]), C1=Array(b[1:]), N=1)

    if len(rows) == 1:
        return piece(rows[0], rows[0])
    spans = [(a, b) for a, b in pairwise(to_both_ends(rows)) if b[0] - a[0] > 1e-9]
    if len(spans) == 1:
        return piece(*spans[0])
    return pdf.make_indirect(
        Dictionary(
            FunctionType=3,
            Domain=[0, 1],
            Functions=Array([piece(a, b) for a, b in spans]),
            Bounds=Array([b[0] for _, b in spans[:-1]]),
            Encode=Array([v for _ in spans for v in (0, 1)]),
        )
    )


def shadings(
    pdf: pikepdf.Pdf, paint: Linear | Radial, box: Box | None, space: Any, alpha: bool,
    spot: tuple[SpotInk, Any] | None = None,
) -> list[Any]:  # fmt: skip
    """Axial or radial shadings in the gradient's own coordinates, to be painted one over the other: of its colour,
    of the tints of a ``spot`` ink in its space, or of its alpha as grey.

    A gradient that repeats is one shading a round: a renderer that reads a ramp at 256 places would blur many.
    """
    out: list[Any] = []
    for part, inner in rounds(past_its_breaks(paint), box):
        rows: list[tuple[float, ...]]
        if spot is not None:
            rows = [(at, round(tint, 5)) for at, tint, _ in tint_stops(part, spot[0])]
        else:
            stops = plain_stops(part.stops, part.oklab)
            rows = [(s[0], *levels(s[4:] if alpha else s[1:4])) for s in stops]
        drawn_in = Name.DeviceGray if alpha else space if spot is None else spot[1]
        common = {"ColorSpace": drawn_in, "Function": ramp_function(pdf, rows)}
        first = not out
        if isinstance(part, Linear):
            coords, extend = Array([*part.start, *part.end]), Array([first, True])
            made = Dictionary(ShadingType=2, Coords=coords, Extend=extend, **common)
        else:
            radius = max(part.radius, 1e-6)
            focus = part.focus if inner > 0 else held_focus(part.centre, radius, part.focus)
            coords = Array([*focus, inner, *part.centre, radius])
            made = Dictionary(ShadingType=3, Coords=coords, Extend=Array([True, first]), **common)
        out.append(pdf.make_indirect(made))
    return out


def image_with_mask(pdf: pikepdf.Pdf, rgba: NDArray[np.uint8], space: Any) -> Any:
    """An image XObject of straight RGBA (h, w, 4), its alpha as a soft mask."""
    h, w = rgba.shape[:2]
    size = {"Type": Name.XObject, "Subtype": Name.Image, "Width": w, "Height": h, "BitsPerComponent": 8}
    mask = pikepdf.Stream(pdf, np.ascontiguousarray(rgba[..., 3]).tobytes())
    mask.stream_dict = Dictionary(**size, ColorSpace=Name.DeviceGray, Interpolate=True)
    image = pikepdf.Stream(pdf, np.ascontiguousarray(rgba[..., :3]).tobytes())
    image.stream_dict = Dictionary(**size, ColorSpace=space, SMask=pdf.make_indirect(mask), Interpolate=True)
    return pdf.make_indirect(image)
