"""Export by file name: the one path that the window and the command line share."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from typing import Any

import msgspec
from PIL import Image

from volumen.compose.scene import build
from volumen.formats.bitmaps import png_bytes
from volumen.formats.files import FileProblem, write_bytes
from volumen.formats.options import ExportOptions
from volumen.formats.pdf.objects import srgb_profile
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.pure_vector import Closeness, closeness, vectorised
from volumen.formats.svg.write import svg_bytes
from volumen.model.nodes import Document, Sheet
from volumen.model.tree import walk
from volumen.picture.instructions import Picture
from volumen.render.raster import RenderError, render_bytes
from volumen.shading.paint import Colour

BITMAPS = {".png": "PNG", ".jpg": "JPEG", ".jpeg": "JPEG", ".tif": "TIFF", ".tiff": "TIFF", ".webp": "WEBP"}
SUFFIXES = (*BITMAPS, ".svg", ".pdf")
Progress = Callable[[float], None]


def export(
    document: Document, path: Path, options: ExportOptions, progress: Progress | None = None
) -> Closeness | None:
    """Write ``document`` to ``path`` in the format of its suffix, atomically.

    Returns how close the vector forms come, where some stand for filters or pixels. Raises FileProblem for an unknown
    suffix, an impossible size, or a place that cannot be written.
    """
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise FileProblem(f"cannot export to '{path.name}': use one of {', '.join(SUFFIXES)}")
    tell = progress or (lambda _: None)
    document = prepared(document, options)
    close = None
    if suffix in (".svg", ".pdf"):
        picture, close = _vector_picture(document, options, lambda v: tell(0.6 * v))
        if suffix == ".svg":
            data = svg_bytes(picture, options.title)
        else:
            data = pdf_bytes(picture, options.title, options.dpi)
    else:
        try:
            data = _bitmap(document, options, suffix, lambda v: tell(0.05 + 0.8 * v))
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
        sheet = Sheet(document.sheet.width, document.sheet.height, ground)
        document = msgspec.structs.replace(document, sheet=sheet)
    return document


def _bitmap(document: Document, options: ExportOptions, suffix: str, progress: Progress) -> bytes:
    picture = build(document, options.flat)
    image = Image.fromarray(render_bytes(picture, options.scale, progress))
    kind = BITMAPS[suffix]
    dpi = options.scale * 96
    if kind == "JPEG":
        paper = Image.new("RGB", image.size, (255, 255, 255))
        paper.paste(image, mask=image.getchannel("A"))
        image = paper
    out = io.BytesIO()
    more: dict[str, Any] = {"quality": 95, "subsampling": 0} if kind == "JPEG" else {}
    if kind == "WEBP":
        more = {"lossless": True}
    if kind == "TIFF":
        more = {"compression": "tiff_deflate"}
    image.save(out, kind, dpi=(dpi, dpi), icc_profile=srgb_profile(), **more)
    return out.getvalue()


def picture_png(picture: Picture, size: int) -> bytes:
    """A picture as PNG whose longer side is ``size`` pixels."""
    return png_bytes(render_bytes(picture, size / max(picture.width, picture.height)))
