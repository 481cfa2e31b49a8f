"""What is wrong with a document, or will change on export, object by object."""

from __future__ import annotations

import msgspec

from volumen.compose.scene import build
from volumen.geometry.fonts import match
from volumen.model.ingredients import Block, Body, CastShadow, Fill, Line, Seams
from volumen.model.nodes import Document, Image, Node, Shape, TextForm
from volumen.model.tree import walk
from volumen.outline.neighbours import shared_edges
from volumen.outline.outlines import outline
from volumen.picture.purity import WORDS, Purity, node_purity
from volumen.shading.materials import MATERIALS


class Finding(msgspec.Struct, frozen=True):
    """One thing to know. ``level``: 'export' (changes form on export), 'warning' (probably not meant)."""

    level: str
    node: int
    name: str
    message: str


def check(document: Document, purity: dict[int, Purity] | None = None) -> list[Finding]:
    """All findings, in the order of the pile from the back. ``purity`` is what exports will hold, by node, where that
    is known already."""
    if purity is None:
        purity = node_purity(build(document))
    ids = {n.id for n in walk(document.root)}
    known = {*MATERIALS, *(m.name for m in document.materials)}
    edged = unclosed_edges(document)
    out: list[Finding] = []
    for node in walk(document.root):
        if node.id in edged:
            message = "shares an edge with a neighbour: group them and add Closed seams, or a hairline may show"
            out.append(Finding("warning", node.id, node.name, message))
        for message in _warnings(node, ids, known):
            out.append(Finding("warning", node.id, node.name, message))
        p = purity.get(node.id) if not isinstance(node, Image) else None  # reference pictures are in no export
        if p is not None and (p.svg != "vector" or p.pdf != "vector"):
            why = "; ".join(p.reasons)
            out.append(Finding("export", node.id, node.name, f"SVG: {WORDS[p.svg]}, PDF: {WORDS[p.pdf]} ({why})"))
    return out


def unclosed_edges(document: Document) -> set[int]:
    """Shapes that meet a sibling along a whole segment of their outlines, where no group closes the seam."""
    open_ones = (
        n for n in walk(document.root)
        if not isinstance(n, Shape) and not any(isinstance(i, Seams) and i.on for i in n.recipe)
    )  # fmt: skip
    return {i for n in open_ones for i in shared_edges(n)}


def _warnings(node: Node, ids: set[int], known: set[str]) -> list[str]:
    out: list[str] = []
    for i in node.recipe:
        if isinstance(i, CastShadow) and i.on and node.lift == 0 and i.softness is None:
            out.append("casts a shadow but has no lift, so the shadow hides exactly behind it")
        if isinstance(i, CastShadow) and (lost := [r for r in i.receivers if r not in ids]):
            rest = "nowhere" if len(lost) == len(i.receivers) else "only on the others"
            out.append(f"its shadow is held to an object that no longer exists; it now falls {rest}")
        if isinstance(i, Body | Block) and i.material not in known:
            out.append(f"material '{i.material}' is not known here; it is drawn as clay")
    if isinstance(node, Shape):
        if isinstance(node.form, TextForm) and (font := match(node.form.family, node.form.style)).substitute:
            wish = f"{node.form.family} {node.form.style}"
            out.append(f"font '{wish}' is not installed; shown in {font.file.family} {font.file.style}")
        if node.knockout:
            return out
        if outline(node).bounds() is None:
            out.append("has no points and draws nothing")
        elif (
            not node.member
            and not any(isinstance(i, Fill | Line | Body) and i.on for i in node.recipe)
            and not node.children
        ):
            out.append("has no paint and draws nothing")
    return out
