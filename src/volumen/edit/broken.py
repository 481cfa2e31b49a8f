"""Pieces of lines and of the edges of blocks, left out or put back one by one."""

from __future__ import annotations

from typing import NamedTuple

import msgspec
import numpy as np

from volumen.compose.light import light_at
from volumen.edit.recipes import with_ingredient
from volumen.geometry.affine import Affine, Point
from volumen.geometry.path import Path
from volumen.geometry.pieces import all_segments, middle_of, nearest_segment, open_path
from volumen.model.ingredients import Block, Line
from volumen.model.nodes import Document, Node
from volumen.model.tree import find, world_of
from volumen.outline.blocks import block_edges, block_of, block_walls, edges_left_out
from volumen.outline.lines import segments_left_out
from volumen.outline.silhouettes import whole_outline

replace = msgspec.structs.replace


class Piece(NamedTuple):
    """A piece of a line or an edge: of the ingredient at ``rank``, its number there, its path on the sheet, and whether
    it is drawn."""

    rank: int
    number: int
    path: Path
    drawn: bool


def pieces_of(document: Document, node_id: int) -> list[Piece]:
    """All pieces of the front-most line of an object, or of the edges of its block."""
    node = find(document, node_id)
    if node is None:
        return []
    world = world_of(document, node_id)
    path = whole_outline(node, world)
    block = block_of(node.recipe)
    for rank in reversed(range(len(node.recipe))):
        i = node.recipe[rank]
        if i is block and block is not None and (block.edge > 0 or node.lines_only):
            return _of_block(rank, node, block, path, world, light_at(document, node_id).lamp.away)
        if isinstance(i, Line) and i.on and i.width > 0:
            return _of_line(rank, i, path, world)
    return []


def _of_line(rank: int, line: Line, path: Path, world: Affine) -> list[Piece]:
    gone = segments_left_out(path, line)
    segments = enumerate(all_segments(path))
    return [Piece(rank, k, open_path(s).transformed(world), k not in gone) for k, s in segments]


def _of_block(rank: int, node: Node, block: Block, path: Path, world: Affine, away: Point) -> list[Piece]:
    edges = block_edges(path, block_walls(node, path, block, world, away))
    gone = edges_left_out(edges, block)
    return [Piece(rank, e.number, e.path.transformed(world), e.number not in gone) for e in edges]


def piece_at(pieces: list[Piece], place: Point, reach: float) -> Piece | None:
    """The piece that passes nearest to a place on the sheet, within ``reach``."""
    rows = [all_segments(p.path) for p in pieces]
    owner = [p for p, row in zip(pieces, rows, strict=True) for _ in row]
    if not owner:
        return None
    at, away = nearest_segment(np.concatenate(rows), place)
    return owner[at] if away <= reach else None


def turned_over(document: Document, node_id: int, piece: Piece) -> Document:
    """A piece left out, or put back; the same document for one that the lot left out."""
    node = find(document, node_id)
    i = node.recipe[piece.rank] if node is not None else None
    if isinstance(i, Block):
        if not piece.drawn and piece.number not in i.omitted:
            return document
        numbers = set(i.omitted) ^ {piece.number}
        return with_ingredient(document, node_id, piece.rank, replace(i, omitted=tuple(sorted(numbers))))
    if not isinstance(i, Line) or node is None:
        return document
    segments = all_segments(whole_outline(node, world_of(document, node_id)))
    kept = tuple(p for p in i.omitted if nearest_segment(segments, p)[0] != piece.number)
    if len(kept) == len(i.omitted):
        if not piece.drawn:
            return document
        kept = (*i.omitted, middle_of(segments[piece.number]))
    return with_ingredient(document, node_id, piece.rank, replace(i, omitted=kept))
