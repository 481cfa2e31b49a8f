"""Comparing our pixels with what independent renderers make of our exports."""

from __future__ import annotations

import io
import shutil
import subprocess
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import pikepdf
import pypdfium2
import resvg_py
from numpy.typing import NDArray
from PIL import Image

from volumen.colour.difference import srgb_difference
from volumen.compose.scene import build
from volumen.formats.pdf.write import pdf_bytes
from volumen.formats.svg.write import svg_bytes
from volumen.model.nodes import Document
from volumen.render.raster import render_bytes

# Everything is drawn larger and averaged down: each renderer has its own way with the edge pixels of a shape, and at 1:1
# those (one to three in a hundred) would hide any true difference of colour. What a PDF holds as pixels is made at the
# same resolution, so that resampling by the renderer does not count.
OVERSAMPLE = 2.0

RGB = NDArray[np.float64]


@dataclass(frozen=True)
class Agreement:
    """CIEDE2000 between two pictures: mean, 99th percentile, and the share of pixels off by more than 5."""

    mean: float
    p99: float
    share_off: float


def averaged_down(rgb: RGB, times: float = OVERSAMPLE) -> RGB:
    w, h = round(rgb.shape[1] / times), round(rgb.shape[0] / times)
    return np.asarray(cv2.resize(rgb, (w, h), interpolation=cv2.INTER_AREA))


def ours(document: Document, times: float = OVERSAMPLE) -> RGB:
    rgba = render_bytes(build(document), times) / 255
    return averaged_down(rgba[..., :3] * rgba[..., 3:] + 1 - rgba[..., 3:], times)


def by_resvg(document: Document, times: float = OVERSAMPLE) -> RGB:
    picture = build(document)
    width, height = round(picture.width * times), round(picture.height * times)
    png = resvg_py.svg_to_bytes(svg_string=svg_bytes(picture).decode(), width=width, height=height)
    return _rgb(Image.open(io.BytesIO(bytes(png))), times)


def by_pdfium(document: Document) -> RGB:
    return page_by_pdfium(pdf_bytes(build(document), dpi=96.0 * OVERSAMPLE), OVERSAMPLE)


def page_by_pdfium(page: bytes, times: float) -> RGB:
    return _rgb(pypdfium2.PdfDocument(page)[0].render(scale=times * 96 / 72).to_pil(), times)


def by_all(
    document: Document, folder: Path, times: float = OVERSAMPLE, others: Sequence[str] = ("resvg", "poppler")
) -> dict[str, RGB]:
    """The document by pdfium and other renderers: poppler, if installed, works beside the others."""
    page = pdf_bytes(build(document), dpi=96.0 * times)
    file, target = folder / "page.pdf", folder / "page"
    file.write_bytes(page)
    command = ["pdftoppm", "-r", str(96 * times), "-singlefile", str(file), str(target)]
    running = subprocess.Popen(command) if "poppler" in others and shutil.which("pdftoppm") else None
    found = {"pdfium": page_by_pdfium(page, times)}
    if "resvg" in others:
        found["resvg"] = by_resvg(document, times)
    if running is not None:
        assert running.wait() == 0
        found["poppler"] = _rgb(Image.open(f"{target}.ppm"), times)
    return found


def _rgb(image: Image.Image, times: float) -> RGB:
    paper = Image.new("RGBA", image.size, "white")
    paper.alpha_composite(image.convert("RGBA"))
    return averaged_down(np.asarray(paper.convert("RGB")) / 255, times)


def compare(a: RGB, b: RGB) -> Agreement:
    h, w = min(a.shape[0], b.shape[0]), min(a.shape[1], b.shape[1])
    error = srgb_difference(a[:h, :w], b[:h, :w])
    return Agreement(float(error.mean()), float(np.percentile(error, 99)), float((error > 5).mean()))


def unpacked(page: bytes) -> bytes:
    """A PDF with all its streams as they are read."""
    out = io.BytesIO()
    with pikepdf.open(io.BytesIO(page)) as pdf:
        pdf.save(
            out, object_stream_mode=pikepdf.ObjectStreamMode.disable, compress_streams=False,
            stream_decode_level=pikepdf.StreamDecodeLevel.generalized,
        )  # fmt: skip
    return out.getvalue()
