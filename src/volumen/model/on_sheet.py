"""Another sheet under the same artwork."""

from __future__ import annotations

import msgspec

from volumen.geometry.affine import Affine, Point, apply, mean_scale, multiply
from volumen.model.nodes import Document, Guide, GuideCircle, Sheet

replace = msgspec.structs.replace
MIDDLE = (0.5, 0.5)


def on_sheet(document: Document, sheet: Sheet, place: Point = MIDDLE, scale: bool = False) -> Document:
    """The artwork on another sheet, guides with it.

    ``place`` tells which point of the old sheet keeps its place on the new one, 0..1 across and down: (0, 0) is the
    upper left corner, (0.5, 0.5) the middle. ``scale`` makes the artwork as large as the new sheet holds all of the
    old one.
    """
    old = document.sheet
    k = min(sheet.width / old.width, sheet.height / old.height) if scale else 1.0
    m = (k, 0.0, 0.0, k, place[0] * (sheet.width - k * old.width), place[1] * (sheet.height - k * old.height))
    if m == (1.0, 0.0, 0.0, 1.0, 0.0, 0.0):
        return replace(document, sheet=sheet)
    moved = tuple(replace(n, transform=multiply(m, n.transform)) for n in document.root.children)
    return replace(
        document, sheet=sheet, root=replace(document.root, children=moved),
        guides=tuple(_guide(g, m) for g in document.guides),
    )  # fmt: skip


def with_bleed(document: Document) -> Document:
    """The document on a sheet that is larger by its bleed on every side, the artwork where it was on the paper."""
    sheet = document.sheet
    if sheet.bleed == 0:
        return document
    grown = replace(sheet, width=sheet.width + 2 * sheet.bleed, height=sheet.height + 2 * sheet.bleed, bleed=0.0)
    return on_sheet(document, grown)


def _guide(guide: Guide, m: Affine) -> Guide:
    at = apply(m, guide.at)
    if isinstance(guide, GuideCircle):
        return replace(guide, at=at, radius=guide.radius * mean_scale(m))
    return replace(guide, at=at)
