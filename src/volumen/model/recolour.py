"""Shifting colours: hue, lightness, chroma and contrast of one colour, of all that a paint holds, of whole branches."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import overload

import numpy as np
from msgspec.structs import replace

from volumen.colour import oklab
from volumen.model.ingredients import Fill, Ingredient, InnerGlow, Line, OuterGlow
from volumen.model.nodes import Document
from volumen.model.tree import find, update_nodes, walk
from volumen.shading.mesh_paints import mesh_colours, with_colours
from volumen.shading.paint import GRADIENTS, Colour, Coloured, LaidMesh, MeshPaint, Paint, Solid, Stop


def shifted(colour: Colour, hue: float, lightness: float, chroma: float, contrast: float = 0.0) -> Colour:
    """A colour turned by ``hue`` degrees, lighter by ``lightness`` (-1..1), its chroma times 1 + ``chroma``.

    ``contrast`` (-1 and up) draws lightness away from middle grey. Chroma gives way where the screen cannot show it.
    """
    return shifted_all([colour], hue, lightness, chroma, contrast)[colour]


def shifted_all(
    colours: Iterable[Colour], hue: float, lightness: float, chroma: float, contrast: float = 0.0
) -> dict[Colour, Colour]:
    """Many colours shifted in one go, by the colours that they were; see ``shifted``."""
    given = list(colours)
    if not given:
        return {}
    lch = oklab.to_lch(oklab.from_srgb(np.array([c.rgb for c in given])))
    l = 0.6 + (lch[:, 0] - 0.6) * (1 + contrast)
    l = l + (1 - l) * lightness if lightness > 0 else l * (1 + lightness)
    lch = np.stack([l, np.maximum(lch[:, 1] * (1 + chroma), 0.0), (lch[:, 2] + hue) % 360], axis=1)
    rgb = oklab.lch_to_srgb(lch).tolist()
    return {c: Colour(r, g, b, c.a) for c, (r, g, b) in zip(given, rgb, strict=True)}


@overload
def paint_with(paint: Paint, change: Callable[[Colour], Colour]) -> Paint: ...
@overload
def paint_with(paint: Coloured, change: Callable[[Colour], Colour]) -> Coloured: ...
def paint_with(paint: Coloured, change: Callable[[Colour], Colour]) -> Coloured:
    """A paint with all its colours changed."""
    if isinstance(paint, Solid):
        return replace(paint, colour=change(paint.colour), swatch=None)
    if isinstance(paint, LaidMesh):
        return with_colours(paint, map(change, mesh_colours(paint)))
    if isinstance(paint, MeshPaint):
        return replace(paint, points=tuple(replace(p, colour=change(p.colour), slopes=None) for p in paint.points))
    assert isinstance(paint, GRADIENTS)
    return replace(paint, stops=stops_with(paint.stops, change), link=None)


def stops_with(stops: tuple[Stop, ...], change: Callable[[Colour], Colour]) -> tuple[Stop, ...]:
    """Stops with all their colours changed."""
    return tuple(replace(s, colour=change(s.colour), swatch=None) for s in stops)


_COLOURS = ("colour", "light", "shade")  # the fields of ingredients that hold one


def map_colours(document: Document, ids: Iterable[int], change: Callable[[Colour], Colour]) -> Document:
    """Change every colour in some branches; what followed a swatch or a saved gradient no longer does."""
    wanted = {n.id for i in ids if (node := find(document, i)) is not None for n in walk(node)}
    return update_nodes(
        document, wanted, lambda n: replace(n, recipe=tuple(ingredient_with(i, change) for i in n.recipe))
    )


def recolour(
    document: Document, ids: Iterable[int], hue: float = 0.0, lightness: float = 0.0, chroma: float = 0.0,
    contrast: float = 0.0,
) -> Document:  # fmt: skip
    """Shift every colour in some branches; see ``shifted``."""
    known: dict[Colour, Colour] = {}

    def change(c: Colour) -> Colour:
        if c not in known:
            known[c] = shifted(c, hue, lightness, chroma, contrast)
        return known[c]

    return map_colours(document, ids, change)


def ingredient_with(i: Ingredient, change: Callable[[Colour], Colour]) -> Ingredient:
    """An ingredient with all its colours changed."""
    if isinstance(i, Fill | Line):
        return replace(i, paint=paint_with(i.paint, change))
    tones: dict[str, object] = {f: change(v) for f in _COLOURS if isinstance(v := getattr(i, f, None), Colour)}
    if isinstance(i, OuterGlow | InnerGlow):
        tones["stops"] = stops_with(i.stops, change)
    return replace(i, **tones) if tones else i


def colours_of(i: Ingredient) -> list[Colour]:
    """All colours of an ingredient, each once."""
    found: dict[Colour, None] = {}

    def note(colour: Colour) -> Colour:
        found[colour] = None
        return colour

    ingredient_with(i, note)
    return list(found)
