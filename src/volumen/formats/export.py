"""Export by file name: the one path that the window and the command line share."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

import msgspec
from PIL import Image, ImageDraw

from volumen.compose.scene import build
from volumen.formats.bitmaps import png_bytes
from volumen.formats.files import FileProblem, write_bytes
from volumen.formats.marks import MARGIN, WIDTH, mark_lines
from volumen.formats.options import ExportOptions
from volumen.formats.pdf.objects import srgb_profile
from volumen.formats.pdf.page import Page
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.pure_vector import Closeness, closeness, vectorised
from volumen.formats.svg.write import svg_bytes
from volumen.model.nodes import Document, Sheet
from volumen.model.on_sheet import with_bleed
from volumen.model.tree import walk
from volumen.picture.instructions import Picture
from volumen.render.raster import RenderError, render_bytes
from volumen.shading.paint import Colour

Progress = Callable[[float], None]


class Exporter(NamedTuple):
    """One row registers a format: its suffixes, whether it takes the picture or its pixels, and how it is written."""

    suffixes: tuple[str, ...]
    vector: Callable[[Picture, ExportOptions, Sheet], bytes] | None = None
    bitmap: Callable[[Image.Image, dict[str, Any]], bytes] | None = None  # with the profile and resolution of each


def _as_svg(picture: Picture, options: ExportOptions, sheet: Sheet) -> bytes:
    return svg_bytes(picture, options.title, sheet.unit)


def _as_pdf(picture: Picture, options: ExportOptions, sheet: Sheet) -> bytes:
    page = Page(sheet.bleed if options.bleed else 0.0, tuple(mark_lines(sheet)) if options.marks else ())
    return pdf_bytes(picture, options.title, options.dpi, page)


def _saved(image: Image.Image, kind: str, more: dict[str, Any]) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def _as_png(image: Image.Image, more: dict[str, Any]) -> bytes:
    return _saved(image, "PNG", more)


def _as_jpeg(image: Image.Image, more: dict[str, Any]) -> bytes:
    """On white: the format has no alpha."""
    paper = Image.new("RGB", image.size, (255, 255, 255))
    paper.paste(image, mask=image.getchannel("A"))
    return _saved(paper, "JPEG", {**more, "quality": 95, "subsampling": 0})


def _as_tiff(image: Image.Image, more: dict[str, Any]) -> bytes:
    return _saved(image, "TIFF", {**more, "compression": "tiff_deflate"})


def _as_webp(image: Image.Image, more: dict[str, Any]) -> bytes:
    return _saved(image, "WEBP", {**more, "lossless": True})


EXPORTERS = (
    Exporter((".png",), bitmap=_as_png),
    Exporter((".jpg", ".jpeg"), bitmap=_as_jpeg),
    Exporter((".tif", ".tiff"), bitmap=_as_tiff),
    Exporter((".webp",), bitmap=_as_webp),
    Exporter((".svg",), vector=_as_svg),
    Exporter((".pdf",), vector=_as_pdf),
)
_BY_SUFFIX = {suffix: row for row in EXPORTERS for suffix in row.suffixes}
SUFFIXES = tuple(_BY_SUFFIX)


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
    tell = progress or (lambda _: None)
    sheet, document = document.sheet, prepared(document, options)
    close = None
    if exporter.vector is not None:
        picture, close = _vector_picture(document, options, lambda v: tell(0.6 * v))
        data = exporter.vector(picture, options, sheet)
    else:
        assert exporter.bitmap is not None
        try:
            image = _pixels(document, options, lambda v: tell(0.05 + 0.8 * v))
            if options.marks:
                image = _with_marks(image, sheet, options)
            dpi = options.scale * 96
            data = exporter.bitmap(image, {"dpi": (dpi, dpi), "icc_profile": srgb_profile()})
        except (RenderError, MemoryError) as error:
            raise FileProblem(f"cannot export '{path.name}': {error or 'there is not enough memory'}") from error
    tell(0.9)
    write_bytes(path, data)
    tell(1.0)
    return close


def _vector_picture(document: Document, options: ExportOptions, tell: Progress) -> tuple[Picture, Closeness | None]:
    """The picture for a vector format, with stepped shapes for soft light where that is wanted."""
    picture = build(document, options.flat)
    kept = {n.id for top in walk(document.root) if top.keep_vector for n in walk(top)}
    if not (options.pure_vector or kept):
        return picture, None
    made = vectorised(picture, None if options.pure_vector else kept, tell)
    return made, closeness(picture, made)


def prepared(document: Document, options: ExportOptions) -> Document:
    """The document with the lamp and ground of the options."""
    if options.lamp is not None:
        document = msgspec.structs.replace(document, lamp=options.lamp)
    if options.ground != "sheet":
        ground = options.ground if isinstance(options.ground, Colour) else None
        document = msgspec.structs.replace(document, sheet=msgspec.structs.replace(document.sheet, ground=ground))
    return with_bleed(document) if options.bleed else document


def _pixels(document: Document, options: ExportOptions, progress: Progress) -> Image.Image:
    return Image.fromarray(render_bytes(build(document, options.flat), options.scale, progress))


def _with_marks(image: Image.Image, sheet: Sheet, options: ExportOptions) -> Image.Image:
    """The picture on a larger sheet of white, or of nothing where it is clear, with marks round it."""
    clear = options.ground == "none" or (options.ground == "sheet" and sheet.ground is None)
    k, bleed = options.scale, sheet.bleed if options.bleed else 0.0
    edge = round(MARGIN * k)
    paper = (image.width + 2 * edge, image.height + 2 * edge)
    made = Image.new("RGBA", paper, (255, 255, 255, 0 if clear else 255))
    made.paste(image, (edge, edge))
    draw, at = ImageDraw.Draw(made), edge + bleed * k
    for (x0, y0), (x1, y1) in mark_lines(sheet):
        ends = (at + x0 * k, at + y0 * k, at + x1 * k, at + y1 * k)
        draw.line(ends, fill=(0, 0, 0, 255), width=max(round(WIDTH * k), 1))
    return made


def picture_png(picture: Picture, size: int) -> bytes:
    """A picture as PNG whose longer side is ``size`` pixels."""
    return png_bytes(render_bytes(picture, size / max(picture.width, picture.height)))
