"""Lighting pieces by their roles, and lighting them anew with other dials while nobody has touched them."""

from __future__ import annotations

import math
import zlib
from collections.abc import Collection
from typing import NamedTuple

import msgspec

from volumen.edit.first_light.pieces import Piece, pieces_of
from volumen.edit.first_light.roles import tell_roles, touches
from volumen.edit.first_light.styles import Style, style_named
from volumen.edit.placing import own_recipe, tidy_length
from volumen.geometry.affine import mean_scale
from volumen.model import limits
from volumen.model.first_light import FirstLight, Given
from volumen.model.ingredients import (
    Body,
    CastShadow,
    ContactShadow,
    Fill,
    Ingredient,
    InnerGlow,
    InnerShadow,
    Recipe,
    Relief,
    Sliver,
    Speckle,
)
from volumen.model.nodes import Document, Node, Sheet
from volumen.model.tree import ids_within, update_nodes, walk
from volumen.outline.lines import line_of
from volumen.outline.outlines import outline
from volumen.picture.stopping import Stop, raise_if
from volumen.shading.paint import Solid, colour

replace = msgspec.structs.replace
_FLAT_ROLES = ("ground", "tone", "hair", "outline")  # stay as they are
_GREY = colour("#8c8c8c")  # over a gradient a body only darkens and lightens
_SOFTNESS = FirstLight().softness  # that leaves the lamp as large as it is
_WORDS = ("text", "frame")
_MOSTLY = 0.55  # of a piece, that must be seen for a body


class Prepared(NamedTuple):
    """A document without its first light, and what is known of the pieces that may get it: for any style and dials."""

    document: Document
    of: tuple[int, ...]
    kept: tuple[Given, ...]
    left: tuple[int, ...]
    pieces: list[Piece]


def first_light(
    document: Document,
    ids: Collection[int] = (),
    style: str = "enamel",
    depth: float = 1.0,
    softness: float = _SOFTNESS,
    stop: Stop | None = None,
) -> Document:
    """Light on some objects, or on all; what an earlier call gave, and nobody changed, is replaced. What was changed by
    hand since is left alone, unless it is asked for by its id.

    ``depth`` runs from 0 (flat) over 1 to 2, ``softness`` from 0 to 1. Nothing is frozen or renamed, no object added.
    Raises Stopped where ``stop`` says so.
    """
    record = document.first_light
    if record is not None and ids:
        asked = ids_within(document, ids)
        left = tuple(i for i in record.left if i not in asked)
        document = replace(document, first_light=replace(record, left=left))
    return lit(prepared(document, ids, stop, anew=bool(ids)), style, depth, softness, stop)


def prepared(
    document: Document, ids: Collection[int] = (), stop: Stop | None = None, anew: bool = False
) -> Prepared:  # fmt: skip
    """What lighting looks at, worked out once. What was changed by hand since it was lit is left alone, unless it is
    lit ``anew``. Raises Stopped where ``stop`` says so."""
    changed = () if anew else changed_by_hand(document)
    document, before = without_first_light(document, ids)
    pieces = pieces_of(document, stop)  # of all, for what carries a piece tells what it is
    tell_roles(pieces, document.sheet)
    inside = ids_within(document, ids) if ids else None
    kept_out = ids_within(document, [n.id for n in walk(document.root) if n.locked or n.unlit])
    kept_out |= set(changed)
    pieces = [p for p in pieces if p.node.id not in kept_out and (inside is None or p.node.id in inside)]
    kept = before.given if before is not None else ()
    left = changed if not anew else before.left if before is not None else ()
    return Prepared(document, tuple(ids), kept, left, pieces)


def lit(p: Prepared, style: str, depth: float, softness: float, stop: Stop | None = None) -> Document:
    """The prepared document under a style. Raises Stopped where ``stop`` says so."""
    made: dict[int, tuple[Recipe, float]] = {}
    linked: dict[int, tuple[Recipe, float]] = {}  # linked objects have one recipe, whatever their size
    for piece in p.pieces if depth > 0 else []:
        raise_if(stop)
        recipe, lift = _lit(piece, style_named(style), p.document.sheet, depth, softness)
        own = (own_recipe(recipe, piece.world), lift / (mean_scale(piece.world) or 1.0))
        if piece.node.link is not None:
            own = linked.setdefault(piece.node.link, own)
        if own[0]:
            made[piece.node.id] = own

    def change(node: Node) -> Node:
        recipe, lift = made[node.id]
        return replace(node, recipe=(*node.recipe, *recipe), lift=node.lift or lift)

    document = update_nodes(p.document, list(made), change)
    nodes = {n.id: n for n in walk(document.root) if n.id in made}
    given = tuple(
        Given(q.node.id, k, q.node.lift, _mark(nodes[q.node.id], k))
        for q in p.pieces if q.node.id in made and (k := len(made[q.node.id][0]))
    )  # fmt: skip
    size = None if p.of else document.lamp.size
    if size is not None:  # shadows are as soft as the lamp is large
        document = replace(document, lamp=replace(document.lamp, size=_size(size, softness)))
    return replace(document, first_light=FirstLight(style, depth, softness, p.of, size, (*p.kept, *given), p.left))


def _size(before: float, softness: float) -> float:
    return before * softness / _SOFTNESS


def last_asked(document: Document) -> FirstLight:
    """The style and the dials that the next first light begins with: those of the last one, but never flat."""
    known = document.first_light or FirstLight()
    return known if known.depth > 0 else replace(known, depth=1.0)


def without_first_light(document: Document, ids: Collection[int] = ()) -> tuple[Document, FirstLight | None]:
    """The document without what first light gave to some objects, or to all, where nobody changed it; and what is known
    of the rest."""
    record = document.first_light
    if record is None:
        return document, None
    inside = ids_within(document, ids)
    nodes = {n.id: n for n in walk(document.root)}
    mine = [g for g in record.given if (not ids or g.id in inside) and is_untouched(nodes.get(g.id), g)]
    known = {g.id: g for g in mine}

    def change(node: Node) -> Node:
        g = known[node.id]
        return replace(node, recipe=node.recipe[: len(node.recipe) - g.count], lift=g.lift)

    document_before, document = document, update_nodes(document, list(known), change)
    size = record.lamp_size
    if size is not None and not ids and document.lamp.size == _size(size, record.softness):
        document = replace(document, lamp=replace(document.lamp, size=size))
    rest = tuple(g for g in record.given if g.id not in known and is_untouched(nodes.get(g.id), g))
    left = changed_by_hand(document_before)
    record = replace(record, given=rest, left=left) if rest or left else None
    return replace(document, first_light=record), record


def changed_by_hand(document: Document) -> tuple[int, ...]:
    """The pieces on which a hand has changed what first light gave them, the light itself or the lift."""
    record = document.first_light
    if record is None:
        return ()
    nodes = {n.id: n for n in walk(document.root)}
    touched = [g.id for g in record.given if not is_untouched(nodes.get(g.id), g)]
    return tuple(i for i in dict.fromkeys((*record.left, *touched)) if i in nodes)


def is_untouched(node: Node | None, given: Given) -> bool:
    """Whether a node still ends with what first light gave it."""
    return node is not None and len(node.recipe) >= given.count and _mark(node, given.count) == given.mark


def _mark(node: Node | None, count: int) -> int:
    """A number that changes with the last ingredients of a node and with its lift."""
    if node is None or count <= 0:
        return 0
    return zlib.crc32(msgspec.json.encode((node.recipe[-count:], node.lift))) & limits.MAX_WHOLE


def _lit(p: Piece, style: Style, sheet: Sheet, depth: float, softness: float) -> tuple[Recipe, float]:
    """What a piece gets, lengths as on the sheet, and its lift there."""
    if p.role in _FLAT_ROLES:
        return (), 0.0
    diagonal = math.hypot(sheet.width, sheet.height)
    if p.role == "feature":
        sunk = tidy_length(min(0.006 * diagonal, p.thick) * depth)
        return ((InnerShadow(sunk, opacity=0.45),) if p.thick > 0.012 * diagonal else ()), 0.0
    volume: list[Ingredient] = []
    if p.role != "lit" and not any(isinstance(i, Fill) and i.on for i in p.node.recipe):
        volume = _on_line(p, style, depth)
    elif p.role != "lit":
        body = _body(p, style, depth)
        volume = [*body, *_edges(p, style, diagonal, depth, softness, bool(body))]
        if style.grain:
            volume.append(Speckle(style.grain, tidy_length(max(0.0012 * diagonal, 0.3))))
    return _with_shadow(p, volume, style, sheet, depth)


def _on_line(p: Piece, style: Style, depth: float) -> list[Ingredient]:
    """What is drawn by its line alone gets a tube along it, in its own colours, where the style has bodies:
    what lies along the edges of an area would lie beside it."""
    strength = round(style.strength * min(depth, 1.25), 3)
    path = outline(p.node, p.world)
    closed = any(c.closed for c in path.contours)
    body = Body("tube", style.material, strength=strength, roundness=style.roundness, bounce=0.5, along=closed)
    line = line_of(p.node, path, body)
    if not style.material or line is None:
        return []
    if not isinstance(line.paint, Solid):  # it keeps what the artist painted
        return [replace(body, colour=_GREY, blend="overlay", opacity=0.8)]
    return [body]


def _body(p: Piece, style: Style, depth: float) -> list[Ingredient]:
    """A round thing's body, in its own colour; none where the style has none, on what is as dark as ink, and on what is
    hidden but for an edge, which would be its dark side."""
    kind = {"round": "ball", "long": "tube", "plump": "cushion"}.get(p.role)
    if not style.material or kind is None or p.lch[0] < 0.22 or p.shown < _MOSTLY:
        return []
    cold = p.lch[1] < 0.04 or 150 < p.lch[2] % 360 < 300
    name = style.cool if style.cool and cold else style.material
    # What carries others is lit at half strength: else they drown on its dark side.
    strength = style.strength * (0.45 if p.carries else 1.0) * min(depth, 1.25) * _dim(p)
    turn = p.turn if kind == "tube" else 0.0
    body = Body(kind, name, strength=round(strength, 3), roundness=style.roundness, bounce=0.5, turn=turn)  # type: ignore[arg-type]
    if p.gradient:  # it keeps what the artist painted
        return [replace(body, colour=_GREY, blend="overlay", opacity=0.8)]
    return [body]


def _dim(p: Piece) -> float:
    """How strongly a colour is lit: a little light on what is nearly black takes away most of its contrast."""
    return min(max((p.lch[0] - 0.1) / 0.35, 0.7), 1.0)


def _edges(
    p: Piece, style: Style, diagonal: float, depth: float, softness: float, bodied: bool
) -> list[Ingredient]:  # fmt: skip
    """Relief or slivers along the edges of what has no body, and light that shines within."""
    out: list[Ingredient] = []
    thin, dim = p.role in _WORDS or p.thick < 0.012 * diagonal, _dim(p)
    if style.relief is not None and not bodied:
        width = min(p.thick * 0.9, (0.012 if thin else 0.035) * diagonal)
        if p.role == "plate":
            width = min(width, 0.012 * diagonal)
        out.append(
            Relief(
                profile=style.relief, width=tidy_length(width), height=round(style.rise * depth, 3),
                gloss=round(style.gloss * dim, 3), light_opacity=round(0.5 * dim, 3), shade_opacity=0.4,
                soften=tidy_length(width * (0.05 + 0.2 * softness)),
            )
        )  # fmt: skip
    if style.edge:
        far = tidy_length(max(min(style.edge * p.thick * 2, 0.006 * diagonal), 0.0012 * diagonal) * depth)
        feather = tidy_length(far * softness * 0.6) if softness > 0 else 0.0
        if style.light:
            out.append(Sliver("light", depth=far, opacity=style.light, blend="screen", feather=feather))
        if style.shade:
            out.append(Sliver("shade", depth=far, opacity=style.shade, feather=feather))
    if style.glow and not thin:
        far = tidy_length(min(p.thick * 0.25, 0.012 * diagonal))
        out.append(InnerGlow(colour("#ffffff"), far, opacity=round(style.glow * dim, 3)))
    return out


def _with_shadow(
    p: Piece, volume: list[Ingredient], style: Style, sheet: Sheet, depth: float
) -> tuple[Recipe, float]:  # fmt: skip
    """The volume of a piece with its shadow, and how high it lies."""
    diagonal = math.hypot(sheet.width, sheet.height)
    if p.see_through or touches(p, sheet) or p.node.lift or any(isinstance(i, CastShadow) for i in p.node.recipe):
        return tuple(volume), 0.0  # it would turn dark, or throw a shadow along the edge of the sheet
    lift = depth * style.lift * max(0.004 * diagonal, min(0.1 * p.size, 0.022 * diagonal))
    shadow = round(style.shadow * min(max(p.leaves / _MOSTLY, 0.4), 1.0), 3)  # what it leaves to be seen is all in it
    alone = p.on is None or p.on.role == "ground" or p.inside < 0.93
    if alone and p.role not in _WORDS:
        return (*volume, CastShadow(shadow)), tidy_length(lift)
    if alone or p.size > 0.05 * diagonal:
        return (*volume, CastShadow(round(shadow * 0.9, 3))), tidy_length(lift * 0.35)
    return (*volume, ContactShadow(tidy_length(0.004 * diagonal * depth), opacity=0.35)), 0.0
