"""Branches alone, for other programs."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.compose.scene import build
from volumen.formats.export import picture_png
from volumen.formats.svg.write import svg_bytes
from volumen.geometry.affine import translation
from volumen.geometry.path import union_box
from volumen.model.nodes import Document, Group
from volumen.outline.boxes import node_box


def exported(document: Document, branches: tuple[Group, ...]) -> tuple[bytes, bytes]:
    """Branches that stand on the sheet as SVG and PNG, alone; empty for what shows nothing."""
    box = union_box(node_box(b) for b in branches)
    if box is None:
        return b"", b""
    margin = 0.02 * max(box[2] - box[0], box[3] - box[1]) + 1
    place = translation(margin - box[0], margin - box[1])
    width, height = (max(b - a + 2 * margin, 1.0) for a, b in ((box[0], box[2]), (box[1], box[3])))
    sheet = replace(document.sheet, width=width, height=height, ground=None)
    alone = replace(document, sheet=sheet, root=Group(-2, "copy", branches, transform=place))
    picture = build(alone, ground=False)
    return svg_bytes(picture), picture_png(picture, 2048)
