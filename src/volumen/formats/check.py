"""What is wrong with a document, or will change on export, object by object."""

from __future__ import annotations

import msgspec

from volumen.build.outline import outline
from volumen.build.purity import WORDS, node_purity
from volumen.build.scene import build
from volumen.geometry.fonts import match
from volumen.model.ingredients import Body, CastShadow, Fill, Line
from volumen.model.nodes import Document, Node, Shape, TextForm
from volumen.model.tree import walk
from volumen.shading.materials import MATERIALS


class Finding(msgspec.Struct, frozen=True):
    """One thing to know. ``level``: 'export' (changes form on export), 'warning' (probably not meant)."""

    level: str
    node: int
    name: str
    message: str


def check(document: Document) -> list[Finding]:
    """All findings, in the order of the pile from the back."""
    purity = node_purity(build(document))
    ids = {n.id for n in walk(document.root)}
    out: list[Finding] = []
    for node in walk(document.root):
        for message in _warnings(node, ids):
            out.append(Finding("warning", node.id, node.name, message))
        p = purity.get(node.id)
        if p is not None and (p.svg != "vector" or p.pdf != "vector"):
            why = "; ".join(p.reasons)
            out.append(Finding("export", node.id, node.name, f"SVG: {WORDS[p.svg]}, PDF: {WORDS[p.pdf]} ({why})"))
    return out


def _warnings(node: Node, ids: set[int]) -> list[str]:
    out: list[str] = []
    for i in node.recipe:
        if isinstance(i, CastShadow) and i.on and node.lift == 0 and i.softness is None:
            out.append("casts a shadow but has no lift, so the shadow hides exactly behind it")
        if isinstance(i, CastShadow) and i.receiver is not None and i.receiver not in ids:
            out.append("its shadow is held to an object that no longer exists; it now falls on everything")
        if isinstance(i, Body) and i.material not in MATERIALS:
            out.append(f"material '{i.material}' is not known here; it is drawn as clay")
    if isinstance(node, Shape):
        if isinstance(node.form, TextForm) and (font := match(node.form.family, node.form.style)).substitute:
            wish = f"{node.form.family} {node.form.style}"
            out.append(f"font '{wish}' is not installed; shown in {font.file.family} {font.file.style}")
        if node.knockout:
            return out
        if outline(node).bounds() is None:
            out.append("has no points and draws nothing")
        elif not any(isinstance(i, Fill | Line | Body) and i.on for i in node.recipe) and not node.children:
            out.append("has no paint and draws nothing")
    return out
