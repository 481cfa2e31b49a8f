"""What can be chosen for an export. Kept apart from the exporting itself, which loads much more."""

from __future__ import annotations

import msgspec

from volumen.colour.press_settings import Press
from volumen.shading.lamp import Lamp
from volumen.shading.paint import Colour
from volumen.stock.stocks import StockView

BAKE_DPI = 300.0
FIELD_DPI = 192.0  # of paints worked out point by point: smooth, or grain that is coarser than this


class ExportOptions(msgspec.Struct, frozen=True):
    """``scale``: pixels per user unit for bitmaps. ``dpi``: of what becomes pixels in PDF; None is the
    sheet's.
    ``pure_vector``: soft light in SVG and PDF as stepped shapes.
    ``bleed`` takes the artwork that far beyond the edges, ``marks`` shows where to cut.
    ``nodes``: only these branches, on a clear sheet as large as they are. ``depth``: bits of a channel, 8 or 16.
    ``quality`` of JPEG and WebP, 1..100 (None: hardly any loss), ``fine_colour`` keeps each pixel's colour in JPEG.
    ``press``: TIFF in the inks of a press. ``stock``: bitmaps show the artwork on it.
    ``text``: in PDF words stay text, with their letters embedded.
    ``ground``: 'sheet' keeps the sheet's colour, 'none' leaves it clear, or a Colour. ``lamp``: None keeps it."""

    scale: float = 1.0
    dpi: float | None = None
    flat: bool = False
    ground: str | Colour = "sheet"
    lamp: Lamp | None = None
    title: str = ""
    pure_vector: bool = False
    bleed: bool = False
    marks: bool = False
    nodes: tuple[int, ...] = ()
    depth: int = 8
    quality: int | None = None
    fine_colour: bool = True
    press: Press | None = None
    stock: StockView | None = None
    text: bool = False
