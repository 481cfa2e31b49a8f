"""Frozen blocks: the faces behind a front as shapes of their own, closed at their seams."""

from __future__ import annotations

import msgspec

from volumen.compose.blocks import block_faces
from volumen.compose.knockout import holes_of
from volumen.compose.memo import Around
from volumen.edit.frozen_items import NodeMaker
from volumen.edit.frozen_letters import letters_of
from volumen.geometry.affine import Affine
from volumen.geometry.path import Path
from volumen.model.ingredients import Body, Fill, Seams
from volumen.model.nodes import Group, Node, Shape
from volumen.outline.outlines import pieces

replace = msgspec.structs.replace


def with_faces(maker: NodeMaker, node: Node, path: Path, around: Around, inner: list[Node]) -> list[Node]:
    """What an object shows of itself in front of the faces of its block, as one group with closed seams; where its
    front is open, the faces alone are in it. ``inner`` itself where there are none."""
    faces = block_faces(node, around.world, around.light, path)
    if not faces:
        return inner
    made = [(f.at, n) for f in faces for n in maker.nodes((f.item,), around.world, f"{node.name}, {f.words}")]
    made = [(at, replace(n, substance=True)) for at, n in made]
    letters = letters_of(maker, node, path, made, inner[0]) if isinstance(node, Shape) and len(inner) == 1 else None
    if letters is not None:
        return [Group(node.id, node.name, letters, (Seams(),))]
    walls = tuple(n for _, n in made)
    holes = holes_of(inner[0]) if len(inner) == 1 else []  # they go through the faces, too
    if holes:
        inner = [replace(inner[0], children=tuple(c for c in inner[0].children if c not in holes))]
    if isinstance(node, Shape) and not _is_painted(node, around.world):
        shown = [Group(maker.take(), node.name, walls, (Seams(),)), *inner]
    else:
        shown = [Group(maker.take(), node.name, (*walls, *inner), (Seams(),))]
    return [Group(maker.take(), node.name, (*shown, *holes))] if holes else shown


def _is_painted(node: Shape, world: Affine) -> bool:
    return any(i.on and isinstance(i, Fill | Body) for i in node.recipe) or bool(pieces(node, world))
