"""SVG geometry: lengths, transforms, basic shapes and path data as forms and paths."""

from __future__ import annotations

import math
import re
from collections import Counter
from dataclasses import dataclass
from typing import Any

import numpy as np
from fontTools.pens.basePen import BasePen
from fontTools.svgLib.path.parser import parse_path

from volumen.geometry.affine import IDENTITY, Affine, multiply, rotation, scaling, translation
from volumen.geometry.path import Contour, Path, append_line, contour_from_lines
from volumen.model.nodes import EllipseForm, Form, RectangleForm, SegmentForm

_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_CALL = re.compile(r"(\w+)\s*\(([^)]*)\)")
_LIMIT = 1e9
_UNITS = {
    "px": 1.0,
    "pt": 96 / 72,
    "pc": 16.0,
    "mm": 96 / 25.4,
    "cm": 96 / 2.54,
    "in": 96.0,
    "q": 96 / 101.6,
    "em": 16.0,
    "ex": 8.0,
}


def number(text: str | None, default: float, whole: float = 1.0) -> float:
    """A length or number; percentages are of ``whole``. The default for what cannot be read."""
    if not text:
        return default
    text = text.strip().lower()
    factor = 1.0
    if text.endswith("%"):
        text, factor = text[:-1], whole / 100
    else:
        for unit, size in _UNITS.items():
            if text.endswith(unit):
                text, factor = text[: -len(unit)], size
                break
    try:
        value = float(text) * factor
    except ValueError:
        return default
    return value if math.isfinite(value) else default


@dataclass(frozen=True, slots=True)
class Lengths:
    """Lengths as they are written, with percentages of a viewport."""

    width: float
    height: float

    def x(self, text: str | None, default: float) -> float:
        """A length along x in user units; percentages are of the width."""
        return number(text, default, self.width)

    def y(self, text: str | None, default: float) -> float:
        """A length along y in user units; percentages are of the height."""
        return number(text, default, self.height)

    def other(self, text: str | None, default: float) -> float:
        """Any other length in user units; percentages are of the normalised diagonal (SVG 2, 8.9)."""
        return number(text, default, math.hypot(self.width, self.height) / math.sqrt(2))


def view_box(element: Any) -> tuple[float, float, float, float]:
    """The view box, or the size as one."""
    found = [float(v) for v in _NUMBER.findall(element.get("viewBox") or "")]
    if len(found) == 4 and found[2] > 0 and found[3] > 0 and all(abs(v) < _LIMIT for v in found):
        return (found[0], found[1], found[2], found[3])
    w, h = number(element.get("width"), 300.0), number(element.get("height"), 150.0)
    return (0.0, 0.0, w if 0 < w < _LIMIT else 300.0, h if 0 < h < _LIMIT else 150.0)


def read_transform(text: str | None, missing: Counter[str]) -> Affine:
    """A transform attribute as one map."""
    m = IDENTITY
    for name, inside in _CALL.findall(text or ""):
        v = [float(x) for x in _NUMBER.findall(inside)]
        step = _transform_step(name, v)
        if step is None:
            missing[f"transform {name}"] += 1
        else:
            m = multiply(m, step)
    return m if all(math.isfinite(v) for v in m) else IDENTITY


def _transform_step(name: str, v: list[float]) -> Affine | None:
    if name == "matrix" and len(v) == 6:
        return (v[0], v[1], v[2], v[3], v[4], v[5])
    if name == "translate" and v:
        return translation(v[0], v[1] if len(v) > 1 else 0.0)
    if name == "scale" and v:
        return scaling(v[0], v[1] if len(v) > 1 else v[0])
    if name == "rotate" and v:
        return rotation(v[0], (v[1], v[2]) if len(v) > 2 else (0.0, 0.0))
    if name == "skewX" and v:
        return (1.0, 0.0, math.tan(math.radians(v[0])), 1.0, 0.0, 0.0)
    if name == "skewY" and v:
        return (1.0, math.tan(math.radians(v[0])), 0.0, 1.0, 0.0, 0.0)
    return None


def basic_form(element: Any, tag: str, lengths: Lengths) -> Form | None:
    """The parametric form of a basic shape; None where only a path can hold it."""
    get = element.get
    if tag == "rect":
        w, h = lengths.x(get("width"), 0), lengths.y(get("height"), 0)
        rx, ry = get("rx"), get("ry")
        a = lengths.x(rx if rx is not None else ry, 0)
        b = lengths.y(ry if ry is not None else rx, 0)
        if w <= 0 or h <= 0 or not _sane(w, h, a, b) or abs(a - b) > 1e-9:
            return None
        return RectangleForm(lengths.x(get("x"), 0), lengths.y(get("y"), 0), w, h, min(max(a, 0), w / 2, h / 2))
    if tag in ("circle", "ellipse"):
        rx = lengths.other(get("r"), 0) if tag == "circle" else lengths.x(get("rx"), 0)
        ry = rx if tag == "circle" else lengths.y(get("ry"), 0)
        if rx <= 0 or ry <= 0 or not _sane(rx, ry):
            return None
        cx, cy = lengths.x(get("cx"), 0), lengths.y(get("cy"), 0)
        return EllipseForm(cx - rx, cy - ry, 2 * rx, 2 * ry)
    if tag == "line":
        ends = [lengths.x(get(k), 0) if k[0] == "x" else lengths.y(get(k), 0) for k in ("x1", "y1", "x2", "y2")]
        return SegmentForm((ends[0], ends[1]), (ends[2], ends[3])) if _sane(*ends) else None
    return None


def _sane(*values: float) -> bool:
    return all(math.isfinite(v) and abs(v) < _LIMIT for v in values)


def path_of(element: Any, tag: str, lengths: Lengths) -> Path:
    """The outline of a path, polyline or polygon, or of a rectangle with unlike radii.

    Raises ValueError for data that cannot be read.
    """
    if tag in ("polyline", "polygon"):
        v = [float(x) for x in _NUMBER.findall(element.get("points") or "")]
        pairs = list(zip(v[0::2], v[1::2], strict=False))
        return Path((contour_from_lines(pairs, tag == "polygon"),)) if len(pairs) > 1 else Path()
    if tag == "rect":
        return _rectangle(element, lengths)
    if tag != "path":
        return Path()
    pen = _ContourPen()
    try:
        parse_path(element.get("d") or "", pen)
    except (ValueError, IndexError, ZeroDivisionError, AssertionError, OverflowError, TypeError) as error:
        if not pen.contours and not pen.rows:
            raise ValueError(str(error)) from error
    pen.flush(False)
    return Path(tuple(pen.contours))


def _rectangle(element: Any, lengths: Lengths) -> Path:
    from volumen.geometry.primitives import rounded_rectangle

    w, h = lengths.x(element.get("width"), 0), lengths.y(element.get("height"), 0)
    a, b = lengths.x(element.get("rx"), 0), lengths.y(element.get("ry"), 0)
    if w <= 0 or h <= 0 or a <= 0 or b <= 0 or not _sane(w, h, a, b):
        return Path()
    # Unlike radii: a rectangle with round corners in a space where they are alike.
    k = min(b, h / 2) / min(a, w / 2)
    r = min(a, w / 2)
    even = rounded_rectangle(0, 0, w, h / k, (r, r, r, r))
    return even.transformed((1, 0, 0, k, lengths.x(element.get("x"), 0), lengths.y(element.get("y"), 0)))


class _ContourPen(BasePen):  # type: ignore[misc]
    """Collects path data as cubic contours."""

    def __init__(self) -> None:
        super().__init__(None)
        self.contours: list[Contour] = []
        self.rows: list[tuple[float, float]] = []

    def _moveTo(self, p: tuple[float, float]) -> None:
        self.flush(False)
        self.rows = [p]

    def _lineTo(self, p: tuple[float, float]) -> None:
        append_line(self.rows, p)

    def _curveToOne(self, a: tuple[float, float], b: tuple[float, float], p: tuple[float, float]) -> None:
        self.rows += [a, b, p]

    def _closePath(self) -> None:
        if self.rows and math.dist(self.rows[0], self.rows[-1]) > 1e-9:
            self._lineTo(self.rows[0])
        self.flush(True)

    def _endPath(self) -> None:
        self.flush(False)

    def flush(self, closed: bool) -> None:
        rows, self.rows = self.rows, []
        if len(rows) > 3:
            points = np.array(rows, dtype=np.float64)
            if not np.isfinite(points).all():
                raise ValueError("numbers out of range")
            if closed:
                points[-1] = points[0]
            self.contours.append(Contour(points, closed))
