"""Closed seams: shapes that share edges, drawn so that no hairline opens between them."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial, reduce

from msgspec.structs import replace

from volumen.caching import Cache
from volumen.geometry.affine import IDENTITY, Affine, mean_scale
from volumen.geometry.engine import PathOpError, combine, outline_of_line
from volumen.geometry.path import Path
from volumen.model.recolour import paint_with
from volumen.outline.derived import derived
from volumen.picture.instructions import Clip, FillPath, Item, Layer, Soft, StrokePath
from volumen.shading.mesh_paints import mesh_colours
from volumen.shading.paint import Colour, Gradient, Meshed, Radial, ReliefPaint, Solid, is_field, mean_colour

# Wide enough to reach under both sides of a hairline however small the picture is shown; the outline of the whole
# holds it in.
_UNDERLAY = 5.0
_OVERLAP = 0.01  # of their area that pieces side by side may share
_MOST_ABUTTING = 60  # thin pieces of several alphas, whose outlines are united
_seamed: Cache[Layer] = Cache("closed seams", 500)


def closed_seams(items: Sequence[Item], whole: Path, world: Affine) -> Item:
    """Items over underlays of themselves: every opaque area is first drawn with a margin, so that no hairline opens
    between two that share an edge.

    All of it is held inside the outline of the whole; where shadows, glows or blurs must reach beyond it, the underlays
    only.
    The same items give the same layer.
    """
    key = (tuple(map(id, items)), id(whole), world)
    hit = _seamed.get(key)
    if hit is not None:
        return hit
    return _seamed.put(key, (items, whole), _seamless(items, whole, world))


def _seamless(items: Sequence[Item], whole: Path, world: Affine) -> Layer:
    held = Clip(whole, world)
    shares = [_hides(item) for item in items]
    alphas = sorted({round(a, 3) for a in shares if a is not None})
    if alphas and alphas[0] > 0 and alphas != [1.0] and (len(alphas) == 1 or _abut(items)):
        over = [item for item, share in zip(items, shares, strict=True) if share is None]
        beyond = any(_reaches_out(i) for i in over)
        layers = _levels([i for i, share in zip(items, shares, strict=True) if share is not None], alphas, whole, world)
        return Layer((*layers, *over), clip=None if beyond else held, isolated=True)
    under = _under_all(items, shares)
    if any(_reaches_out(i) for i in items):
        return Layer((Layer(under, clip=held), *items), isolated=True)
    return Layer((*under, *items), clip=held, isolated=True)


def _under_all(items: Sequence[Item], shares: Sequence[float | None]) -> tuple[Item, ...]:
    """The underlays of what is opaque. Where other pieces let things through, they stay within what is opaque, or they
    would be seen as bands beneath the edges of those."""
    under = tuple(u for item in items for u in _underlays(item))
    opaque = [item for item, share in zip(items, shares, strict=True) if share == 1]
    if not under or all(share in (1, None) for share in shares) or len(opaque) > _MOST_ABUTTING:
        return under
    solid = _united(_paths(opaque))
    return (Layer(under, clip=Clip(solid, IDENTITY)),) if solid is not None else ()


def _reaches_out(item: Item) -> bool:
    """Whether an item may lie beyond the outlines of things, as shadows, glows, blurs and pools of light do."""
    if isinstance(item, FillPath):
        return isinstance(item.paint, Radial) and bool(item.paint.stops) and item.paint.stops[-1].colour.a <= 0
    return isinstance(item, Soft) or (isinstance(item, Layer) and item.softened)


def _levels(pieces: list[Item], alphas: list[float], whole: Path, world: Affine) -> list[Layer]:
    """Thin pieces as layers of solid ones, for what is thin hides no underlay: all of them as thin as the thinnest,
    over that those that hide more with what is missing, and so on: 1 - a = (1 - a before) (1 - a of this layer)."""
    out, before = [], 0.0
    for alpha in alphas:
        some = [p for p in pieces if (_hides(p) or 0.0) > alpha - 5e-4]
        outline, place = (whole, world) if len(some) == len(pieces) else (_united(_paths(some)), IDENTITY)
        solid = [_solid(p) for p in some]
        layer = _seamless(solid, outline, place) if outline is not None else Layer(tuple(solid), isolated=True)
        out.append(replace(layer, opacity=1 - (1 - alpha) / (1 - before)))
        before = alpha
    return out


def _abut(items: Sequence[Item]) -> bool:
    """Whether plain pieces lie side by side: what lies over another one is meant to let it through."""
    paths = _paths([i for i in items if _hides(i) is not None])
    whole = _united(paths) if len(paths) <= _MOST_ABUTTING else None
    return whole is not None and sum(abs(p.area()) for p in paths) <= abs(whole.area()) * (1 + _OVERLAP)


def _fills(piece: Item) -> list[FillPath]:
    """The fills of a piece that hides something."""
    if isinstance(piece, Layer):
        return [f for i in piece.items for f in _fills(i)]
    return [piece] if isinstance(piece, FillPath) else []


def _paths(pieces: Sequence[Item]) -> list[Path]:
    """The outlines of pieces on the sheet."""
    return [fill.path.transformed(fill.transform) for p in pieces for fill in _fills(p)]


def _united(paths: Sequence[Path]) -> Path | None:
    """The outline of all; None where it cannot be told."""
    try:
        return reduce(partial(combine, operation="union"), paths)
    except PathOpError:
        return None


def _hides(item: Item) -> float | None:
    """How much a plain fill, or a layer of solid ones, hides: -1 where that is not the same all over it, None for what
    is laid over such things."""
    if isinstance(item, Layer) and item.clip is None and item.blend == "normal" and not item.softened:
        return item.opacity if item.items and all(_hides(i) == 1 for i in item.items) else None
    if not isinstance(item, FillPath) or item.blend != "normal" or isinstance(item.paint, ReliefPaint):
        return None
    paint = item.paint
    if isinstance(paint, Solid):
        return paint.colour.a * item.opacity
    alphas = {c.a for c in _colours(paint)}
    return alphas.pop() * item.opacity if len(alphas) == 1 else -1.0


def _colours(paint: Gradient | Meshed) -> list[Colour]:
    return mesh_colours(paint) if isinstance(paint, Meshed) else [s.colour for s in paint.stops]


def _solid(item: Item) -> Item:
    """The same without what it lets through."""
    if isinstance(item, Layer):
        return replace(item, opacity=1.0)
    assert isinstance(item, FillPath) and not isinstance(item.paint, ReliefPaint)
    return replace(item, paint=paint_with(item.paint, lambda c: c.with_alpha(1.0)), opacity=1.0)


def _underlays(item: Item) -> list[Item]:
    if isinstance(item, Layer) and item.at_rest and item.clip is None:
        return [u for i in item.items for u in _underlays(i)]
    if not isinstance(item, FillPath) or isinstance(item.paint, ReliefPaint) or (_hides(item) or 0.0) < 1:
        return []
    paint = item.paint
    width = _UNDERLAY / max(mean_scale(item.transform), 1e-9)
    if is_field(paint) and not isinstance(paint, Meshed):
        wide = partial(outline_of_line, item.path, width, "round", "round", 4.0)
        band = derived(item.path, ("wide", width), wide)
        return [FillPath(band, item.transform, paint, course=item.course or item.path), item]
    if isinstance(paint, Meshed):  # beyond its border a mesh has no colours: its mean stands for them
        paint = Solid(mean_colour(_colours(paint)))
    return [StrokePath(item.path, item.transform, paint, width, "round", "round"), item]
