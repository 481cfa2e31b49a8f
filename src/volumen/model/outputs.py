"""Outputs that an artist keeps: what of the artwork is written in which form, under a name."""

from __future__ import annotations

from typing import Literal

import msgspec

from volumen.stock.stocks import StockView

Kind = Literal["png", "jpg", "webp", "tif", "svg", "pdf"]
Of = Literal["sheet", "selection", "each object"]
BITMAPS = ("png", "jpg", "webp", "tif")
FOR_PRESS = ("tif", "pdf")


class Output(msgspec.Struct, frozen=True):
    """``kind`` is the suffix of the format. Bitmaps are ``width`` pixels wide, or have ``dpi`` pixels to the inch where
    it is 0; in PDF what becomes pixels has ``dpi``. ``inks``: for the press that is
    proofed for. ``stock``: a picture of the artwork on it. ``text``: words
    stay text in PDF.
    """

    name: str = ""
    kind: Kind = "png"
    of: Of = "sheet"
    width: int = 1600
    dpi: float = 300.0
    clear: bool = False
    flat: bool = False
    pure_vector: bool = False
    bleed: bool = False
    marks: bool = False
    depth: int = 8
    quality: int = 90
    inks: bool = False
    stock: StockView | None = None
    text: bool = False
