"""A swatch on its way from the palette to where it is dropped."""

from __future__ import annotations

from PySide6.QtCore import QMimeData

from volumen.shading.paint import Colour

MIME = "application/x-volumen-swatch"


def dropped(data: QMimeData) -> tuple[int | None, Colour] | None:
    """The swatch's id and colour that are being dragged; any other colour has no id."""
    if data.hasFormat(MIME):
        words = bytes(data.data(MIME).data()).decode().split()
        return int(words[0]) or None, Colour(*(float(v) for v in words[1:]))
    return None
