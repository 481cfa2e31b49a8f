"""The page of a PDF: what of it is cut off, and the marks round it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

import pikepdf
from pikepdf.models.metadata import encode_pdf_date

from volumen.formats.marks import MARGIN, WIDTH, Line
from volumen.formats.pdf.objects import nums

PT = 0.75  # points per user unit


@dataclass(frozen=True, slots=True)
class Page:
    """``bleed``: how much of the picture, in user units on each side, lies beyond the cut; ``lines``: marks, from the
    left upper corner of the cut sheet."""

    bleed: float = 0.0
    lines: tuple[Line, ...] = ()

    @property
    def margin(self) -> float:
        """User units of paper round the picture."""
        return MARGIN if self.lines else 0.0

    def boxes(self, width: float, height: float, whole: bool = False) -> dict[str, Any]:
        """The boxes of a page that shows a picture of this size (ISO 32000-1, 14.11.2); the ``whole`` set even where
        nothing is cut off."""
        m, b = self.margin, self.bleed
        boxes = {"MediaBox": _box(0, 0, width + 2 * m, height + 2 * m)}
        if m or b or whole:
            boxes["BleedBox"] = _box(m, m, m + width, m + height)
            boxes["TrimBox"] = _box(m + b, m + b, m + width - b, m + height - b)
        return boxes

    def marks(self, colour: str = "/S CS 0 0 0 SC") -> str:
        """The operators that draw the marks, in the picture's coordinates."""
        if not self.lines:
            return ""
        b = self.bleed
        drawn = "".join(f"{nums(x0 + b, y0 + b)} m {nums(x1 + b, y1 + b)} l\n" for (x0, y0), (x1, y1) in self.lines)
        return f"q {colour} {nums(WIDTH)} w 0 J\n{drawn}S Q\n"


def _box(left: float, bottom: float, right: float, top: float) -> Any:
    return pikepdf.Array([left * PT, bottom * PT, right * PT, top * PT])


def describe(pdf: Any, title: str, made: datetime | None) -> None:
    """Say in a PDF what it is, by whom and when, in its information dictionary and in XMP alike (ISO 16684-1)."""
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as xmp:
        xmp["pdf:Producer"] = xmp["xmp:CreatorTool"] = "Volumen"
        if title:
            xmp["dc:title"] = title
        if made is not None:
            for field in ("xmp:CreateDate", "xmp:ModifyDate", "xmp:MetadataDate"):
                xmp[field] = made.isoformat(timespec="seconds")
    pdf.docinfo["/Producer"] = pdf.docinfo["/Creator"] = "Volumen"
    if title:
        pdf.docinfo["/Title"] = title
    if made is not None:
        pdf.docinfo["/CreationDate"] = pdf.docinfo["/ModDate"] = encode_pdf_date(made)
