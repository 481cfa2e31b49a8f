"""Frozen block letters: one group a letter, of its faces and its front."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec
import numpy as np
from scipy.spatial import cKDTree

from volumen.edit.frozen_items import Taker
from volumen.edit.plain_forms import letter_name
from volumen.geometry.affine import Floats, Point
from volumen.geometry.curve import evaluate
from volumen.geometry.path import Path
from volumen.geometry.pieces import all_segments
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Group, Node, PathForm, Shape, TextForm
from volumen.outline.forms import path_form, text_glyphs
from volumen.outline.letters import parts_by_glyph
from volumen.outline.outlines import outline

replace = msgspec.structs.replace
_PLACES = 12  # a segment
_SHARES = np.linspace(0.0, 1.0, _PLACES, endpoint=False)
_TOUCHING = 0.05  # units: places of a face so close to an edge run along it


def letters_of(
    taker: Taker, node: Shape, path: Path, faces: Sequence[tuple[Point, Node]], front: Node
) -> tuple[Node, ...] | None:
    """A word's faces (each with a place on its front edge) and its front as groups, one a letter, in the word's
    coordinates; None for what cannot be taken apart: what is no text, holds things or has light on its front.

    Letters whose fronts the faces of others run up to come later, so that no face touches the edge of a front.
    """
    if not isinstance(node.form, TextForm) or not isinstance(front, Shape) or not isinstance(front.form, PathForm):
        return None
    if front.children or not all(isinstance(i, Fill | Line) for i in front.recipe):
        return None
    glyphs = text_glyphs(node.form)
    parts = [(g, p) for g, p in zip(glyphs, parts_by_glyph(path, glyphs), strict=True) if p]
    if len(parts) < 2:
        return None
    edges = [cKDTree(_dense(part)) for _, part in parts]
    rows: list[list[Node]] = [[] for _ in parts]
    for at, face in faces:
        rows[int(np.argmin([e.query(at)[0] for e in edges]))].append(face)
    order = _back_to_front([[_dense(outline(f)) for f in row if isinstance(f, Shape)] for row in rows], edges)
    out = []
    for (glyph, part), own in zip(parts, rows, strict=True):
        name = letter_name(node.form, glyph)
        shape = replace(front, id=taker.take(), name=f"{name}, front", form=path_form(part))
        out.append(Group(taker.take(), name, (*own, shape)))
    return tuple(out[k] for k in order)


def _dense(path: Path) -> Floats:
    """Places (n, 2) all along an outline."""
    segments = all_segments(path)
    return np.asarray(evaluate(np.repeat(segments, _PLACES, axis=0), np.tile(_SHARES, len(segments))))


def _back_to_front(faces: Sequence[Sequence[Floats]], edges: Sequence[cKDTree]) -> list[int]:
    """An order of letters in which as few faces as can be lie over the edge of another letter's front: next is always
    the one that most of what is left need not go before."""
    n = len(edges)
    touching = np.zeros((n, n))  # places of the faces of one letter on the edge of another's front
    for k, own in enumerate(faces):
        for j in range(n):
            if j != k and own:
                touching[k, j] = (edges[j].query(np.concatenate(own))[0] < _TOUCHING).sum()
    left, order = list(range(n)), []
    while left:
        order.append(min(left, key=lambda k: touching[left, k].sum()))
        left.remove(order[-1])
    return order
