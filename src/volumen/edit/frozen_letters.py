"""Frozen block letters: one group a letter, of its faces and its front."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from volumen.edit.frozen_items import Taker
from volumen.edit.plain_forms import letter_name, parts_by_glyph
from volumen.geometry.affine import Point
from volumen.geometry.path import Path
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Group, Node, PathForm, Shape, TextForm
from volumen.outline.forms import path_form, text_glyphs

replace = msgspec.structs.replace


def letters_of(
    taker: Taker, node: Shape, path: Path, faces: Sequence[tuple[Point, Node]], front: Node, way: Point
) -> tuple[Node, ...] | None:
    """A word's faces (each with a place on its front edge) and its front as groups, one a letter, in the word's
    coordinates; None for what cannot be taken apart: what is no text, holds things or has light on its front.

    ``way`` leads to the back: letters that lie farther that way come in front, so that no face touches the edge of a
    front.
    """
    if not isinstance(node.form, TextForm) or not isinstance(front, Shape) or not isinstance(front.form, PathForm):
        return None
    if front.children or not all(isinstance(i, Fill | Line) for i in front.recipe):
        return None
    glyphs = text_glyphs(node.form)
    parts = [(g, p) for g, p in zip(glyphs, parts_by_glyph(path, glyphs), strict=True) if p]
    if len(parts) < 2:
        return None
    rows: list[list[Node]] = [[] for _ in parts]
    for at, face in faces:
        rows[min(range(len(parts)), key=lambda k: _away(parts[k][1], at))].append(face)
    out = []
    for (glyph, part), own in zip(parts, rows, strict=True):
        name = letter_name(node.form, glyph)
        shape = replace(front, id=taker.take(), name=f"{name}, front", form=path_form(part))
        out.append(Group(taker.take(), name, (*own, shape)))
    far = [glyph.place[4] * way[0] + glyph.place[5] * way[1] for glyph, _ in parts]
    return tuple(out[k] for k in sorted(range(len(out)), key=far.__getitem__))


def _away(path: Path, at: Point) -> float:
    """How far a place is from the box of an outline; below zero inside it."""
    box = path.bounds()
    if box is None:
        return float("inf")
    return max(box[0] - at[0], at[0] - box[2], box[1] - at[1], at[1] - box[3])
