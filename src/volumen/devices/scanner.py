"""A scanner: makes a drawing or photograph look scanned, and takes skew and colour cast out of a scan by its chart.

A stand-in: the glass lies straight, light falls evenly, and the chart is always printed above the drawing.
"""

from __future__ import annotations

from typing import NamedTuple

import cv2
import msgspec
import numpy as np

from volumen.colour.press import Bytes, levels_of
from volumen.colour.srgb import Floats, from_linear, to_linear
from volumen.devices.cover import DeviceProblem

_GREYS = "f4f4f2 c8c8c8 a0a0a0 787878 505050 2a2a2a"
_HUES = "b33c36 3f8a4c 35509c e2bf2f b04f8c 3a8fa8"
# The patches of the chart, 8-bit sRGB: greys, then colours all round.
CHART = tuple(tuple(bytes.fromhex(h)) for h in f"{_GREYS} {_HUES}".split())
_MARGIN, _PATCH = 0.05, 0.05  # of the width: round the sheet, and the side of a patch
_DARK = 70  # level below which a mark is one


class Scan(msgspec.Struct, frozen=True):
    """How a scan goes wrong: ``skew`` degrees, ``dust`` specks to a million pixels, ``cast``: how strongly the lamp
    colours it (0..1), ``fog``: how much light strays, ``seed``: which chance."""

    skew: float = 1.4
    dust: float = 60.0
    cast: float = 0.5
    fog: float = 0.04
    seed: int = 7


USUAL = Scan()


class Chart(NamedTuple):
    """Where the chart lies on a sheet: the middles of its marks (left and right above the drawing, left below it)
    and of its patches (pixels)."""

    marks: Floats
    patches: Floats
    side: float


def chart_on(width: int, height: float) -> Chart:
    """The places of the chart on a sheet of so many pixels."""
    side = width * _PATCH
    y = width * _MARGIN + side / 2
    left, right = width * _MARGIN + side / 2, width * (1 - _MARGIN) - side / 2
    inner = np.linspace(left + 1.5 * side, right - 1.5 * side, len(CHART))
    low = height - width * _MARGIN / 2
    return Chart(np.array([[left, y], [right, y], [left, low]]), np.c_[inner, np.full(len(CHART), y)], side * 0.8)


def with_chart(picture: Bytes) -> Bytes:
    """A picture (h, w, 3) on paper with a margin and the chart above it."""
    h, w = picture.shape[:2]
    width = round(w / (1 - 2 * _MARGIN))
    edge, top = round(width * _MARGIN), round(width * (2 * _MARGIN + _PATCH))
    sheet = np.full((h + top + edge, width, 3), 250, np.uint8)
    sheet[top : top + h, edge : edge + w] = picture
    chart = chart_on(width, sheet.shape[0])
    for at in chart.marks:
        _square(sheet, at, chart.side, (12, 12, 12))
    for at, colour in zip(chart.patches, CHART, strict=True):
        _square(sheet, at, chart.side, colour)
    return sheet


def _square(sheet: Bytes, at: Floats, side: float, colour: tuple[int, ...]) -> None:
    x0, y0 = (round(v - side / 2) for v in at)
    sheet[max(y0, 0) : round(y0 + side), max(x0, 0) : round(x0 + side)] = colour


def scanned(picture: Bytes, scan: Scan = USUAL) -> Bytes:
    """A picture (h, w, 3; 8-bit sRGB) with the chart, as it comes from the scanner: skewed, dusty, with a cast."""
    turned = _laid_askew(with_chart(picture), scan.skew)
    h, w = turned.shape[:2]
    light = to_linear(turned / 255)
    lamp = 1 + scan.cast * np.array([0.16, 0.0, -0.24])  # a warm lamp
    strays = light.mean(axis=(0, 1)) * scan.fog
    light = np.clip(light * (1 - scan.fog) * lamp + strays, 0, 1)
    rng = np.random.default_rng(scan.seed)
    made = levels_of(from_linear(light))
    for _ in range(int(scan.dust * h * w / 1e6)):
        at, size = (int(rng.integers(w)), int(rng.integers(h))), int(rng.integers(1, max(w // 500, 2)) + 0)
        tone = int(rng.choice((60, 235)))
        if rng.random() < 0.3:  # a hair
            end = (at[0] + int(rng.normal(0, w / 60)), at[1] + int(rng.normal(0, w / 60)))
            cv2.line(made, at, end, (tone, tone, tone), 1, cv2.LINE_AA)
        else:
            cv2.circle(made, at, size, (tone, tone, tone), -1, cv2.LINE_AA)
    return made


def _laid_askew(sheet: Bytes, skew: float) -> Bytes:
    """A sheet turned clockwise by degrees on glass that is large enough for it."""
    h, w = sheet.shape[:2]
    edge = int(np.ceil(abs(np.sin(np.radians(skew))) * max(h, w) / 2)) + 2
    turn = cv2.getRotationMatrix2D((w / 2, h / 2), -skew, 1.0)
    turn[:, 2] += edge
    size = (w + 2 * edge, h + 2 * edge)
    return np.asarray(cv2.warpAffine(sheet, turn, size, flags=cv2.INTER_CUBIC, borderValue=(250, 250, 250)), np.uint8)


def straightened(scan: Bytes) -> tuple[Bytes, float]:
    """A scan (h, w, 3) without its skew and cast, cut to the drawing; and the skew in degrees. Raises DeviceProblem
    where the chart is not found."""
    left, right, low = _marks(scan)
    skew = float(np.degrees(np.arctan2(right[1] - left[1], right[0] - left[0])))
    # The marks tell how large the sheet is, and with it where all else lies.
    width = float(np.hypot(*(right - left))) / (1 - 2 * _MARGIN - _PATCH)
    height = float(np.hypot(*(low - left))) + width * (_MARGIN + _PATCH / 2 + _MARGIN / 2)
    chart = chart_on(round(width), height)
    place = cv2.getAffineTransform(np.array([left, right, low], np.float32), chart.marks.astype(np.float32))
    size = (round(width), round(height))
    flat = cv2.warpAffine(scan, place, size, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REPLICATE)
    even = _without_cast(np.asarray(flat, np.uint8), chart)
    edge, top = round(width * _MARGIN), round(width * (2 * _MARGIN + _PATCH))
    return even[top : even.shape[0] - edge, edge : round(width) - edge], skew


def _marks(scan: Bytes) -> tuple[Floats, Floats, Floats]:
    """The middles of the marks: the outermost dark squares above the drawing, and the one at its lower left."""
    h, w = scan.shape[:2]
    above = sorted(_squares(scan[: max(round(w * 0.25), 8)]), key=lambda p: float(p[0]))
    deep = max(h - round(w * 0.2), 0)
    below = sorted(_squares(scan[deep:]), key=lambda p: float(p[0]))
    if len(above) < 2 or not below:
        raise DeviceProblem("no chart is found round the drawing: scan it with the chart, or straighten it by hand")
    return above[0], above[-1], below[0] + [0, deep]


def _squares(band: Bytes) -> list[Floats]:
    """The middles of dark squares as large as a mark."""
    dark = (band.max(axis=-1) < _DARK).astype(np.uint8)
    count, _, stats, middles = cv2.connectedComponentsWithStats(dark)
    wanted = (band.shape[1] * _PATCH * 0.8) ** 2
    out = []
    for k in range(1, count):
        wide, high, area = stats[k, cv2.CC_STAT_WIDTH], stats[k, cv2.CC_STAT_HEIGHT], stats[k, cv2.CC_STAT_AREA]
        if 0.6 * wanted < area < 1.5 * wanted and 0.75 < wide / max(high, 1) < 1.33 and area > 0.7 * wide * high:
            out.append(np.asarray(middles[k], np.float64))
    return out


def _without_cast(flat: Bytes, chart: Chart) -> Bytes:
    """The colours that make the patches of the chart right again: a matrix and an offset, in linear light."""
    r = max(chart.side * 0.3, 1.0)
    seen = []
    for x, y in chart.patches:
        cut = flat[max(round(y - r), 0) : round(y + r) + 1, max(round(x - r), 0) : round(x + r) + 1]
        seen.append(np.median(to_linear(cut.reshape(-1, 3) / 255), axis=0))
    wanted = to_linear(np.array(CHART) / 255)
    measured = np.c_[np.array(seen), np.ones(len(seen))]
    # The dark patches count as much as the light ones: errors are weighed by how light each is.
    weight = 1 / (0.02 + wanted.mean(axis=1, keepdims=True))
    matrix, *_ = np.linalg.lstsq(measured * weight, wanted * weight, rcond=None)
    light = to_linear(flat / 255) @ matrix[:3] + matrix[3]
    return levels_of(from_linear(np.clip(light, 0, 1)))
