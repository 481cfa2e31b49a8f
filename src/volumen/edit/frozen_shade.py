"""What frozen shadows lie over, though the light laid it over them: it is told, as no order of plain shapes within the
same groups shows both."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from volumen.compose.facts import facts_of
from volumen.compose.memo import Around
from volumen.model.nodes import Document
from volumen.model.tree import chain_to, find, walk


def lying_over(document: Document, ids: Iterable[int], around: Mapping[int, Around]) -> list[str]:
    """In words, for objects that are frozen where lifts add up."""
    if not document.lifts_add_up:
        return []
    blurred: list[str] = []
    glowing: list[str] = []
    for node_id in ids:
        branch = find(document, node_id)
        seen = [around[n.id] for n in walk(branch) if n.id in around] if branch is not None else []
        blurred += [name for a in seen for name in a.finished_sheets]
        if any(a.by_height for a in seen):
            glowing += [n.name for n in chain_to(document, node_id)[:-1] if facts_of(n.recipe).behind]
    out = []
    if blurred:
        out.append(f"its shadows on {_names(blurred)} lie over the finish of that now, and within it before")
    if glowing:
        out.append(f"its shadows lie over the glow or shadow of {_names(glowing)} now, and beneath it before")
    if any(around[i].meets_others for i in ids if i in around):
        out.append("where its shadows met those of other objects they darken twice now")
    return out


def _names(names: list[str]) -> str:
    return ", ".join(f"'{name}'" for name in dict.fromkeys(names))
