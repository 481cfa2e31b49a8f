"""What would go wrong in print with paints: steps that show, whites that are none, inks that light takes apart."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from msgspec.structs import replace

from volumen.colour.press import levels_of, separated, total_ink
from volumen.colour.press_settings import Press
from volumen.geometry.affine import mean_scale
from volumen.model.ingredients import Body, Fill, Ingredient, Line
from volumen.model.nodes import Document, Node
from volumen.model.sheet import PER_UNIT
from volumen.picture.spots import Inks, ink_of, spot_inks
from volumen.shading.paint import GRADIENTS, Colour, Grain, Linear, Paint, Radial, Solid
from volumen.shading.ramp import plain_stops

MM = PER_UNIT["mm"]
WIDEST_STEP = 0.5  # mm, of one tone; wider ones are seen as bands
LEAST_DPI = 200.0
_FAINT = 4.0  # percent of ink that print as dots and not as a tone
_QUIET = Grain(0.008, 1.0)  # hides steps of one level and is not seen itself


@dataclass(frozen=True, slots=True)
class PaintFault:
    """``what`` in a word, how much, and how it is mended, in words."""

    what: str
    message: str
    mend: str = ""


def paint_faults(document: Document, node: Node, scale: float, press: Press) -> Iterator[PaintFault]:
    """Of the paints of one node; ``scale`` from its units to those of the sheet."""
    inks = spot_inks(document)
    lit = any(isinstance(i, Body) and i.on for i in node.recipe)
    for i in node.recipe:
        if not (isinstance(i, Fill | Line) and i.on):
            continue
        yield from _bands(i.paint, scale)
        if ink_of(i.paint, inks) is None:
            yield from _faint(i.paint, press)
        yield from _taken_apart(i.paint, inks, lit)


def _bands(paint: Paint, scale: float) -> Iterator[PaintFault]:
    """Gradients whose steps are wider than what is not seen: a change of so few levels over so long a way."""
    if not isinstance(paint, Linear | Radial) or paint.grain is not None or any(s.grain > 0 for s in paint.stops):
        return
    if isinstance(paint, Linear):
        long = math.dist(paint.start, paint.end)
    else:
        long = paint.radius * mean_scale(paint.transform)
    widest = 0.0
    stops = plain_stops(paint.stops, paint.oklab)
    for a, b in zip(stops, stops[1:], strict=False):
        levels = max(abs(x - y) for x, y in zip(a[1:], b[1:], strict=True)) * 255
        if levels > 0.5:  # what does not change at all has no steps
            widest = max(widest, (b[0] - a[0]) * long * scale / MM / levels)
    if widest > WIDEST_STEP:
        message = f"a gradient in steps of {widest:.1f} mm; over {WIDEST_STEP} mm they show"
        yield PaintFault("bands", message, "a little grain")


def _faint(paint: Paint, press: Press) -> Iterator[PaintFault]:
    """Colours next to white that print as a few dots."""
    if not isinstance(paint, Solid) or paint.colour.rgb == (1.0, 1.0, 1.0):
        return
    ink = float(total_ink(separated(levels_of([paint.colour.rgb]), press))[0])
    if 0 < ink < _FAINT:
        yield PaintFault("white", f"nearly white: {ink:.0f} % ink prints as scattered dots", "the white of the paper")


def _taken_apart(paint: Paint, inks: Inks, lit: bool) -> Iterator[PaintFault]:
    """Paints that follow a spot ink and are not printed with it."""
    used = _swatches(paint) & set(inks)
    if not used or (ink_of(paint, inks) is not None and not lit):
        return
    names = ", ".join(ink.name for k, ink in inks.items() if k in used)
    why = "light changes its colour" if lit else "it holds grain, other colours, or a gradient that PDF has not"
    yield PaintFault("spot ink", f"follows {names} but prints with the process colours: {why}")


def _swatches(paint: Paint) -> set[int | None]:
    if isinstance(paint, Solid):
        return {paint.swatch}
    return {s.swatch for s in paint.stops} if isinstance(paint, GRADIENTS) else set()


def mended_paint(i: Ingredient, what: str, press: Press, scale: float) -> Ingredient:
    """An ingredient without one kind of fault; ``scale`` from its units to those of the sheet."""
    if not isinstance(i, Fill | Line):
        return i
    if what == "bands" and any(_bands(i.paint, scale)):
        return replace(i, paint=replace(i.paint, grain=_QUIET))
    if what == "white" and any(_faint(i.paint, press)) and isinstance(i.paint, Solid):
        return replace(i, paint=replace(i.paint, colour=Colour(1, 1, 1, i.paint.colour.a), swatch=None))
    return i
