"""Export by file name: the one path that the window and the command line share."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import NamedTuple

import cv2
import msgspec
import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from volumen.colour.press import ProfileProblem
from volumen.compose.scene import build
from volumen.formats.bitmaps import BitmapStyle, Levels, as_jpeg, as_png, as_tiff, as_webp, png_bytes
from volumen.formats.files import FileProblem, write_bytes
from volumen.formats.marks import MARGIN, WIDTH, mark_lines
from volumen.formats.options import ExportOptions
from volumen.formats.pdf.checker import press_findings
from volumen.formats.pdf.objects import srgb_profile
from volumen.formats.pdf.page import Page
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.plates import Spots, as_grey, inverted, plates
from volumen.formats.pure_vector import Closeness, closeness, vectorised
from volumen.formats.svg.write import svg_bytes
from volumen.model.nodes import Document, Sheet
from volumen.model.on_sheet import with_bleed
from volumen.model.tree import walk
from volumen.outline.alone import sheet_of_branches
from volumen.picture.instructions import Picture
from volumen.render.raster import RenderError, render_bytes, render_words
from volumen.render.stock_pictures import stock_picture
from volumen.shading.paint import Colour
from volumen.stock.prepared import width_for
from volumen.stock.stocks import StockProblem

Progress = Callable[[float], None]


class Exporter(NamedTuple):
    """One row registers a format: its suffixes, whether it takes the picture or its pixels, and how it is written."""

    suffixes: tuple[str, ...]
    vector: Callable[[Picture, ExportOptions, Sheet], bytes] | None = None
    bitmap: Callable[[Levels, BitmapStyle], bytes] | None = None
    most: int = 0  # pixels along a side that the format holds; 0 for any
    inks: bool = False  # whether it can hold the inks of a press


def _as_svg(picture: Picture, options: ExportOptions, sheet: Sheet) -> bytes:
    lines = mark_lines(sheet) if options.marks else ()
    return svg_bytes(picture, options.title, sheet.unit, lines, sheet.bleed if options.bleed else 0.0)


def _as_pdf(picture: Picture, options: ExportOptions, sheet: Sheet) -> bytes:
    page = Page(sheet.bleed if options.bleed else 0.0, tuple(mark_lines(sheet)) if options.marks else ())
    now = datetime.now().astimezone()
    data = pdf_bytes(picture, options.title, options.dpi or sheet.dpi, page, now, options.press, options.text)
    if options.press is not None:
        wrong = press_findings(data)
        if wrong:  # what the program writes must hold; if it does not, no shop shall get it
            raise FileProblem(f"the PDF would not be fit for the press: {'; '.join(wrong[:3])}")
    return data


EXPORTERS = (
    Exporter((".png",), bitmap=as_png),
    Exporter((".jpg", ".jpeg"), bitmap=as_jpeg, most=65_500),
    Exporter((".tif", ".tiff"), bitmap=as_tiff, inks=True),
    Exporter((".webp",), bitmap=as_webp, most=16_383),
    Exporter((".svg",), vector=_as_svg),
    Exporter((".pdf",), vector=_as_pdf, inks=True),
)
_BY_SUFFIX = {suffix: row for row in EXPORTERS for suffix in row.suffixes}
SUFFIXES = tuple(_BY_SUFFIX)
IN_INKS = tuple(suffix for row in EXPORTERS if row.inks for suffix in row.suffixes)


def export(
    document: Document, path: Path, options: ExportOptions, progress: Progress | None = None
) -> Closeness | None:
    """Write ``document`` to ``path`` in the format of its suffix, atomically.

    Returns how close the vector forms come, where some stand for filters or pixels. Raises FileProblem for an unknown
    suffix, an impossible size, or a place that cannot be written.
    """
    exporter = _BY_SUFFIX.get(path.suffix.lower())
    if exporter is None:
        raise FileProblem(f"cannot export to '{path.name}': use one of {', '.join(SUFFIXES)}")
    if options.press is not None and not exporter.inks:
        raise FileProblem(f"cannot export '{path.name}' for a press: inks go into {', '.join(IN_INKS)}")
    tell = progress or (lambda _: None)
    if options.nodes:  # branches alone have no edge that is cut
        options = msgspec.structs.replace(options, bleed=False, marks=False)
    sheet, document = document.sheet, prepared(document, options)
    close = None
    if exporter.vector is not None:
        picture, close = _vector_picture(document, options, lambda v: tell(0.6 * v))
        try:
            data = exporter.vector(picture, options, sheet)
        except ProfileProblem as error:
            raise FileProblem(f"cannot export '{path.name}': {error}") from error
    else:
        assert exporter.bitmap is not None
        _hold_to(exporter, document, options, path)
        try:
            data = exporter.bitmap(*_levels(document, sheet, options, lambda v: tell(0.05 + 0.8 * v)))
        except (RenderError, MemoryError, ProfileProblem, StockProblem, cv2.error, OSError, ValueError) as error:
            raise FileProblem(f"cannot export '{path.name}': {error or 'there is not enough memory'}") from error
    tell(0.9)
    write_bytes(path, data)
    tell(1.0)
    return close


def _levels(document: Document, sheet: Sheet, options: ExportOptions, tell: Progress) -> tuple[Levels, BitmapStyle]:
    """The pixels of a document with marks where they are wanted, and how they are written."""
    image, spots = _drawn(document, options, tell)
    marked = None
    if options.marks and options.stock is None:
        image = _with_marks(image, sheet, options)
        spots = tuple((n, inverted(_with_marks(as_grey(cover), sheet, options)[..., 0])) for n, cover in spots)
        marked = _marked(image.shape[:2], sheet, options)
    dpi = options.scale * 96
    style = BitmapStyle(dpi, srgb_profile(), options.quality, options.fine_colour, options.press, spots, marked)
    return image, style


def _hold_to(exporter: Exporter, document: Document, options: ExportOptions, path: Path) -> None:
    """Refuse what a format cannot hold before it is drawn. Raises FileProblem."""
    edge = 2 * MARGIN if options.marks else 0.0
    side = round((max(document.sheet.width, document.sheet.height) + edge) * options.scale)
    if exporter.most and side > exporter.most:
        kind = path.suffix[1:].upper()
        raise FileProblem(
            f"cannot export '{path.name}': {kind} holds at most {exporter.most:,} pixels along a side, not {side:,};"
            " choose a smaller size or TIFF"
        )


def _vector_picture(document: Document, options: ExportOptions, tell: Progress) -> tuple[Picture, Closeness | None]:
    """The picture for a vector format, with stepped shapes for soft light where that is wanted."""
    picture = build(document, options.flat)
    kept = {n.id for top in walk(document.root) if top.keep_vector for n in walk(top)}
    if not (options.pure_vector or kept):
        return picture, None
    made = vectorised(picture, None if options.pure_vector else kept, tell)
    return made, closeness(picture, made)


def prepared(document: Document, options: ExportOptions) -> Document:
    """The document with the lamp, ground, bleed and branches of the options."""
    if options.lamp is not None:
        document = msgspec.structs.replace(document, lamp=options.lamp)
    if options.ground != "sheet":
        ground = options.ground if isinstance(options.ground, Colour) else None
        document = msgspec.structs.replace(document, sheet=msgspec.structs.replace(document.sheet, ground=ground))
    if options.nodes:
        alone = sheet_of_branches(document, options.nodes)
        if alone is None:
            raise FileProblem("there is nothing to see in what shall be exported; choose other objects")
        return alone
    return with_bleed(document) if options.bleed else document


def _drawn(document: Document, options: ExportOptions, tell: Progress) -> tuple[Levels, Spots]:
    """The pixels, and the plates of spot inks where a press prints them."""
    if options.press is None or options.stock is not None:
        return _pixels(document, options, tell), ()
    return plates(build(document, options.flat), options.scale, options.depth == 16, tell)


def _pixels(document: Document, options: ExportOptions, progress: Progress) -> Levels:
    if options.stock is not None:
        wide = round(document.sheet.width * options.scale)
        made = stock_picture(document, options.stock, width_for(wide), options.flat).pixels
        size = wide, max(round(wide * made.shape[0] / made.shape[1]), 1)
        fitted = cv2.resize(made, size, interpolation=cv2.INTER_AREA if wide < made.shape[1] else cv2.INTER_CUBIC)
        levels = np.asarray(fitted, np.uint8)
        return levels.astype(np.uint16) * 257 if options.depth == 16 else levels
    rendered = render_words if options.depth == 16 else render_bytes
    return rendered(build(document, options.flat), options.scale, progress)


def _with_marks(pixels: Levels, sheet: Sheet, options: ExportOptions) -> Levels:
    """The picture on a larger sheet of white, or of nothing where it is clear, with marks round it."""
    clear = options.ground == "none" or (options.ground == "sheet" and sheet.ground is None)
    edge = round(MARGIN * options.scale)
    full = np.iinfo(pixels.dtype).max
    made = np.full((pixels.shape[0] + 2 * edge, pixels.shape[1] + 2 * edge, 4), full, pixels.dtype)
    made[..., 3] = 0 if clear else full
    made[edge:-edge, edge:-edge] = pixels
    made[_marked(made.shape[:2], sheet, options)] = (0, 0, 0, full)
    return made


def _marked(size: tuple[int, int], sheet: Sheet, options: ExportOptions) -> NDArray[np.bool_]:
    """Where marks lie in a picture (h, w) of the sheet and the room for them round it."""
    k, bleed = options.scale, sheet.bleed if options.bleed else 0.0
    at = round(MARGIN * k) + bleed * k
    lines = Image.new("L", (size[1], size[0]))
    for (x0, y0), (x1, y1) in mark_lines(sheet):
        ends = (at + x0 * k, at + y0 * k, at + x1 * k, at + y1 * k)
        ImageDraw.Draw(lines).line(ends, fill=255, width=max(round(WIDTH * k), 1))
    return np.asarray(lines) > 0


def picture_png(picture: Picture, size: int) -> bytes:
    """A picture as PNG whose longer side is ``size`` pixels."""
    return png_bytes(render_bytes(picture, size / max(picture.width, picture.height)))
