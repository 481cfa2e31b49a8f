"""Spot inks in a picture: which paints are printed with one, and the plates that pictures are taken apart into.

Only plain colours and gradients whose every stop is a tint of one ink are printed with it, without grain. What light
makes of such a colour, what is blended, softened or blurred is made of the process colours. On a plate, process colours
behave as white: normally laid on it they knock the ink out, multiplied they leave it. That is how transparency treats
spot colours in PDF (ISO 32000-1, 11.7.4.2).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from msgspec.structs import replace

from volumen.model.nodes import Document
from volumen.model.recolour import paint_with
from volumen.picture.instructions import Bitmap, Chunk, FillPath, Item, Layer, Picture, Soft, SpotInk, StrokePath
from volumen.shading.paint import Colour, Drawn, Linear, Meshed, Radial, ReliefPaint, Solid, Stop, is_field, tinted
from volumen.shading.ramp import plain_stops

_CLOSE = 1e-4  # of a colour to that of a tint
_WHITE = Colour(1.0, 1.0, 1.0)

Inks = dict[int, SpotInk]


def spot_inks(document: Document) -> Inks:
    """The spot inks of a document by the ids of their swatches."""
    found = {s.id: SpotInk(s.ink.name, s.colour.rgb, s.ink.overprints) for s in document.palette.swatches if s.ink}
    return {i: ink for i, ink in found.items() if ink.name.strip()}


def ink_of(paint: Drawn, inks: Inks) -> int | None:
    """The swatch of the ink that a paint is printed with; None for process colours."""
    if not inks or is_field(paint):
        return None
    if isinstance(paint, Solid):
        return paint.swatch if _prints(paint.swatch, paint.colour, paint.tint, inks) else None
    if not isinstance(paint, Linear | Radial) or not paint.stops:
        return None
    first = paint.stops[0].swatch
    same = all(s.swatch == first and _prints(s.swatch, s.colour, s.tint, inks) for s in paint.stops)
    return first if same else None


def _prints(swatch: int | None, colour: Colour, tint: float, inks: Inks) -> bool:
    """Whether a colour is still that of an ink at a tint; light changes colours and keeps what they refer to."""
    if swatch is None or swatch not in inks:
        return False
    look = tinted(Colour(*inks[swatch].rgb), tint)
    return all(abs(a - b) <= _CLOSE for a, b in zip(look.rgb, colour.rgb, strict=True))


def used_inks(picture: Picture) -> Inks:
    """Those inks that something is printed with."""
    found: set[int] = set()

    def note(items: tuple[Item, ...]) -> None:
        for i in items:
            if isinstance(i, FillPath | StrokePath):
                ink = ink_of(i.paint, picture.inks)
                if ink is not None:
                    found.add(ink)
            elif isinstance(i, Layer) and not i.softened:
                note(i.items)

    if picture.inks:
        note(picture.items)
    return {k: ink for k, ink in picture.inks.items() if k in found}


def process_picture(picture: Picture) -> Picture:
    """What is left for the process colours: white where an ink is knocked out of them, nothing where it overprints."""

    def change(paint: Drawn) -> Drawn | None:
        ink = ink_of(paint, picture.inks)
        if ink is None:
            return paint
        return None if picture.inks[ink].overprints else _white(paint)

    return _mapped(picture, change, None, picture.ground)


def plate_picture(picture: Picture, swatch: int) -> Picture:
    """The plate of one ink, in greys on white: black prints solid."""

    def change(paint: Drawn) -> Drawn | None:
        ink = ink_of(paint, picture.inks)
        if ink == swatch:
            return _tints(paint, picture.inks[swatch])
        if ink is not None and picture.inks[ink].overprints:
            return None
        if isinstance(paint, ReliefPaint) and paint.part == "shade":
            return None
        return _white(paint)

    return _mapped(picture, change, _WHITE, _WHITE)


def _white(paint: Drawn) -> Drawn:
    """A paint in white, as clear as it is where it is clear."""
    if isinstance(paint, ReliefPaint):
        return replace(paint, colour=_WHITE)
    made = replace(paint_with(paint, lambda c: _WHITE.with_alpha(c.a)), grain=None)
    if isinstance(made, Solid | Meshed):
        return made
    return replace(made, stops=tuple(replace(s, grain=0.0) for s in made.stops))


def tint_stops(paint: Linear | Radial, ink: SpotInk) -> list[tuple[float, float, float]]:
    """The tints of a gradient of one ink: (at, tint, alpha), to be mixed evenly between stops."""
    way = np.array(ink.rgb) - 1
    long = float(way @ way) or 1.0
    return [
        (s[0], min(max(float((np.array(s[1:4]) - 1) @ way) / long, 0.0), 1.0), s[4])
        for s in plain_stops(paint.stops, paint.oklab)
    ]


def _tints(paint: Drawn, ink: SpotInk) -> Drawn:
    """A paint of one ink as greys: its tints."""
    if isinstance(paint, Solid):
        return Solid(_grey(paint.tint, paint.colour.a))
    assert isinstance(paint, Linear | Radial)
    stops = tuple(Stop(at, _grey(tint, alpha)) for at, tint, alpha in tint_stops(paint, ink))
    return replace(paint, stops=stops, oklab=False)


def _grey(tint: float, alpha: float) -> Colour:
    return Colour(1 - tint, 1 - tint, 1 - tint, alpha)


def _mapped(
    picture: Picture, change: Callable[[Drawn], Drawn | None], soft: Colour | None, ground: Colour | None
) -> Picture:
    """A picture with its paints changed, or left out; ``soft``: the colour that soft silhouettes take."""

    def each(items: tuple[Item, ...]) -> tuple[Item, ...]:
        out: list[Item] = []
        for i in items:
            if isinstance(i, FillPath | StrokePath):
                paint = change(i.paint)
                if paint is not None:
                    out.append(i if paint is i.paint else replace(i, paint=paint))
            elif isinstance(i, Layer):
                out.append(replace(i, items=each(i.items)))
            elif isinstance(i, Soft) and soft is not None:
                ramp = tuple((*soft.rgb, r[3]) for r in i.ramp)
                out.append(replace(i, colour=soft.with_alpha(i.colour.a), ramp=ramp))
            elif not isinstance(i, Bitmap):
                out.append(i)
        return tuple(out)

    chunks = tuple(Chunk(c.node, each(c.items), c.box) for c in picture.chunks)
    return Picture(picture.width, picture.height, ground, chunks, inks=picture.inks)
