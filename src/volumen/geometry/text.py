"""Text as outlines: shaping with kerning and ligatures, lines, alignment, and text along a path.

Shaping is HarfBuzz's; this module places glyphs. Sizes are user units per em, y down, the first baseline at 0.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import uharfbuzz as hb

from volumen.caching import by_value
from volumen.geometry.affine import IDENTITY, Affine, multiply, rotation, scaling, translation
from volumen.geometry.curve import Ruler, points_at, reversed_path, ruler
from volumen.geometry.fonts import FontFile, face, match
from volumen.geometry.path import Contour, Path, append_line

Align = Literal["left", "centre", "right"]


@dataclass(frozen=True, slots=True)
class Style:
    """How text is set. ``spacing`` is added after each glyph and ``leading`` between baselines, both in ems."""

    family: str
    style: str = "Regular"
    size: float = 48.0
    spacing: float = 0.0
    leading: float = 1.2
    align: Align = "left"
    kerning: bool = True
    ligatures: bool = True


@dataclass(frozen=True, slots=True)
class Glyph:
    """A glyph in place, with its number in the font. ``cluster`` is the index in the text of the first character it
    stands for."""

    outline: Path
    place: Affine
    cluster: int
    advance: float
    gid: int

    def path(self) -> Path:
        """The glyph's outline where it stands."""
        return self.outline.transformed(self.place)


@dataclass(frozen=True, slots=True)
class Shaped:
    """One glyph as the shaper gives it, in font units."""

    gid: int
    cluster: int
    advance: int
    dx: int
    dy: int


@by_value("shape", 512)
def shape(file: FontFile, text: str, kerning: bool, ligatures: bool) -> tuple[tuple[Shaped, ...], int]:
    """A run of text as glyphs in visual order, and the font's units per em."""
    buffer = hb.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    font = hb.Font(face(file.path, file.index))
    if not text:  # the shaper has no positions for no letters
        return (), font.face.upem
    hb.shape(font, buffer, {"kern": kerning, "liga": ligatures, "clig": ligatures})
    glyphs = tuple(
        Shaped(info.codepoint, info.cluster, p.x_advance, p.x_offset, p.y_offset)
        for info, p in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True)
    )
    return glyphs, font.face.upem


@by_value("glyph outline", 4096)
def glyph_outline(file: FontFile, gid: int) -> Path:
    """A glyph's outline in font units, y down; quadratics come out as exact cubics."""
    rows: list[list[tuple[float, float]]] = []

    def move(x: float, y: float, _: None) -> None:
        rows.append([(x, -y)])

    def line(x: float, y: float, _: None) -> None:
        append_line(rows[-1], (x, -y))

    def quad(cx: float, cy: float, x: float, y: float, _: None) -> None:
        (x0, y0), cy, y = rows[-1][-1], -cy, -y
        rows[-1] += [
            (x0 + (cx - x0) * 2 / 3, y0 + (cy - y0) * 2 / 3),
            (x + (cx - x) * 2 / 3, y + (cy - y) * 2 / 3),
            (x, y),
        ]

    def cubic(ax: float, ay: float, bx: float, by: float, x: float, y: float, _: None) -> None:
        rows[-1] += [(ax, -ay), (bx, -by), (x, -y)]

    def close(_: None) -> None:
        (x, y), (x0, y0) = rows[-1][0], rows[-1][-1]
        if math.hypot(x - x0, y - y0) > 1e-6:
            line(x, -y, None)

    pen = hb.DrawFuncs()
    pen.set_move_to_func(move)
    pen.set_line_to_func(line)
    pen.set_quadratic_to_func(quad)
    pen.set_cubic_to_func(cubic)
    pen.set_close_path_func(close)
    hb.Font(face(file.path, file.index)).draw_glyph(gid, pen, None)
    return Path(tuple(Contour(np.array(r, dtype=np.float64), True) for r in rows if len(r) > 3))


def layout(text: str, style: Style) -> list[Glyph]:
    """All glyphs of a text in lines below one another; spaces have an empty outline."""
    out: list[Glyph] = []
    start = 0
    for number, line in enumerate(text.split("\n")):
        glyphs, width = _line(line, style, start)
        indent = {"left": 0.0, "centre": -width / 2, "right": -width}[style.align]
        shift = translation(indent, number * style.leading * style.size)
        out += [replace(g, place=multiply(shift, g.place)) for g in glyphs]
        start += len(line) + 1
    return out


def _line(line: str, style: Style, start: int) -> tuple[list[Glyph], float]:
    """The glyphs of one line from x = 0, and its width without the spacing after its last glyph."""
    file = match(style.family, style.style).file
    glyphs, upem = shape(file, line, style.kerning, style.ligatures)
    k = style.size / upem
    x, out = 0.0, []
    for g in glyphs:
        place = multiply(translation(x + g.dx * k, -g.dy * k), scaling(k, k))
        advance = g.advance * k + style.spacing * style.size
        out.append(Glyph(glyph_outline(file, g.gid), place, start + g.cluster, advance, g.gid))
        x += advance
    return out, max(x - style.spacing * style.size, 0.0) if glyphs else 0.0


def along(text: str, style: Style, path: Path, start: float, flip: bool) -> list[Glyph]:
    """Glyphs standing on a path, each turned to the path under its middle.

    ``start`` 0..1 is where on the path the text's left end, middle or right end lies, by its alignment; ``flip``
    runs the other way on the other side. What finds no room on an open path is left out; a closed one goes round.
    """
    if flip:
        path = reversed_path(path)
    contour = max(path.contours, key=lambda c: len(c.points), default=None)
    if contour is None or len(contour.points) < 4:
        return layout(text, style)
    measure = ruler(contour)
    flat = text.replace("\n", " ")
    glyphs, width = _line(flat, style, 0)
    shift = start * measure.total - {"left": 0.0, "centre": width / 2, "right": width}[style.align]
    out = []
    for g in glyphs:
        middle = g.place[4] + (g.advance - style.spacing * style.size) / 2
        at = _frame(measure, middle + shift, contour.closed)
        if at is not None:
            out.append(replace(g, place=multiply(at, multiply(translation(-middle, 0), g.place))))
    return out


def _frame(measure: Ruler, distance: float, closed: bool) -> Affine | None:
    """The map from a baseline to the path at a distance along it."""
    if closed and measure.total > 0:
        distance %= measure.total
    if not 0 <= distance <= measure.total:
        return None
    p, t = points_at(measure.contour, measure.place_at(np.array([distance])))
    angle = math.degrees(math.atan2(t[0, 1], t[0, 0]))
    return multiply(translation(float(p[0, 0]), float(p[0, 1])), rotation(angle))


def outlines(glyphs: list[Glyph], move: Affine = IDENTITY) -> Path:
    """All glyphs as one path."""
    contours: list[Contour] = []
    for g in glyphs:
        contours += g.outline.transformed(multiply(move, g.place)).contours
    return Path(tuple(contours))


def words(text: str, glyphs: list[Glyph]) -> list[tuple[str, list[Glyph]]]:
    """The glyphs word by word, spaces left out."""
    out: list[tuple[str, list[Glyph]]] = []
    at = 0
    while at < len(text):
        if text[at].isspace():
            at += 1
            continue
        end = at
        while end < len(text) and not text[end].isspace():
            end += 1
        inside = [g for g in glyphs if at <= g.cluster < end and g.outline]
        if inside:
            out.append((text[at:end], inside))
        at = end
    return out
