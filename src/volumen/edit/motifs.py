"""Motifs: artwork kept in the palette by name, used in several places, edited in any of them."""

from __future__ import annotations

from collections.abc import Iterable

import msgspec

from volumen.edit.links import link
from volumen.edit.objects import free_name, insert, selection_box, transform
from volumen.edit.palette import with_palette
from volumen.edit.repeats import repeat
from volumen.geometry.affine import Point, translation
from volumen.model.nodes import Document, Group, Motif, Shape
from volumen.model.repeats import Course
from volumen.model.tree import find, parent_of, renumbered, walk

replace = msgspec.structs.replace


def keep_motif(document: Document, node_id: int) -> Document:
    """Keep an object in the palette under its name; from now on it is linked with what is used of it."""
    if not isinstance(find(document, node_id), Shape | Group):
        return document
    document = link(document, [node_id])
    node = find(document, node_id)
    assert isinstance(node, Shape | Group)
    palette = document.palette
    motif = Motif(palette.next_id, node.name, node)
    return with_palette(document, motifs=(*palette.motifs, motif), next_id=palette.next_id + 1)


def set_motif(document: Document, motif_id: int, **fields: object) -> Document:
    """Change the name of a motif."""
    motifs = tuple(replace(m, **fields) if m.id == motif_id else m for m in document.palette.motifs)
    return with_palette(document, motifs=motifs)


def remove_motif(document: Document, motif_id: int) -> Document:
    """Take a motif out of the palette; what was used of it stays, linked."""
    motifs = tuple(m for m in document.palette.motifs if m.id != motif_id)
    return with_palette(document, motifs=motifs)


def uses_of(document: Document, motif: Motif) -> list[int]:
    """The ids of what was used of a motif."""
    return [n.id for n in walk(document.root) if n.link == motif.node.link]


def placed(document: Document, motif: Motif, at: Point) -> tuple[Document, int]:
    """One more use of a motif, its middle at a place on the sheet; its id."""
    document, made = _inserted(document, motif, document.root.id)
    box = selection_box(document, [made])
    if box is not None:
        shift = translation(at[0] - (box[0] + box[2]) / 2, at[1] - (box[1] + box[3]) / 2)
        document = transform(document, [made], shift)
    return document, made


def along(document: Document, motif: Motif, paths: Iterable[int]) -> tuple[Document, list[int]]:
    """A motif repeated along each of some shapes, which become its paths; the ids of what shows it."""
    out = []
    for path in paths:
        parent = parent_of(document, path)
        if parent is None or not isinstance(find(document, path), Shape):
            continue
        document, made = _inserted(document, motif, parent.id)
        document, group = repeat(document, [made, path], Course())
        out += [] if group is None else [group]
    return document, out


def _inserted(document: Document, motif: Motif, parent: int) -> tuple[Document, int]:
    made, following = renumbered(motif.node, document.next_id)
    made = replace(made, name=free_name(document, motif.name), member=False, visible=True, locked=False)
    document = insert(replace(document, next_id=following), parent, (made,))
    return document, made.id
