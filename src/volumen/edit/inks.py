"""Spot inks of the palette: a swatch becomes one, or is none any more."""

from __future__ import annotations

from msgspec.structs import replace

from volumen.colour.relatives import from_measured_lab
from volumen.edit.palette import set_swatch, swatch
from volumen.model.inks import Ink
from volumen.model.nodes import Document
from volumen.shading.paint import GRADIENTS, Colour, Paint, Solid, tinted

# Names that PDF keeps for the plates of a press (ISO 32000-1, 8.6.6.4), and what people call those.
_TAKEN = {"cyan", "magenta", "yellow", "black", "all", "none", "red", "green", "blue", "gray"}
_LONGEST = 100  # letters


class InkProblem(ValueError):
    """An ink that cannot be; the message says why."""


def set_ink(document: Document, swatch_id: int, ink: Ink | None) -> Document:
    """Make a swatch a spot ink, or none (None). With a look in L*a*b* its colour becomes that. Raises InkProblem for a
    name that is empty or taken."""
    if ink is not None:
        ink = replace(ink, name=ink.name.strip())
        _check_name(document, swatch_id, ink.name)
    document = set_swatch(document, swatch_id, ink=ink)
    if ink is None or ink.lab is None:
        return document
    return set_swatch(document, swatch_id, colour=look_of(ink.lab))


def look_of(lab: tuple[float, float, float]) -> Colour:
    """The colour of an ink that was measured, as near as a screen has it."""
    return Colour(*from_measured_lab(*lab))


def _check_name(document: Document, swatch_id: int, name: str) -> None:
    if not name:
        raise InkProblem("a spot ink needs a name: the press calls its plate by it")
    if len(name) > _LONGEST:
        raise InkProblem(f"a name of up to {_LONGEST} letters, please")
    if name.lower() in _TAKEN:
        raise InkProblem(f"'{name}' is the name of a plate that every press has; choose another")
    for s in document.palette.swatches:
        if s.id != swatch_id and s.ink is not None and s.ink.name.lower() == name.lower():
            raise InkProblem(f"there is an ink '{s.ink.name}' already (swatch '{s.name}'); each has a name of its own")


def with_tint(document: Document, paint: Paint, tint: float, stop: int = 0) -> Paint:
    """A paint, or one of its stops, at a tint of the swatch that it refers to; the same where it refers to none."""
    tint = min(max(tint, 0.0), 1.0)
    if isinstance(paint, Solid):
        found = swatch(document, paint.swatch)
        if found is None:
            return paint
        return replace(paint, colour=tinted(found.colour, tint).with_alpha(paint.colour.a), tint=tint)
    if isinstance(paint, GRADIENTS) and stop < len(paint.stops):
        s = paint.stops[stop]
        found = swatch(document, s.swatch)
        if found is not None:
            made = replace(s, colour=tinted(found.colour, tint).with_alpha(s.colour.a), tint=tint)
            return replace(paint, stops=(*paint.stops[:stop], made, *paint.stops[stop + 1 :]))
    return paint


def with_named_inks(document: Document) -> Document:
    """A document whose spot inks all have names of their own: files may hold others."""
    seen: set[str] = set()
    swatches = []
    for s in document.palette.swatches:
        if s.ink is not None:
            name, k = s.ink.name.strip() or s.name.strip() or "ink", 2
            base = name
            while name.lower() in seen or name.lower() in _TAKEN:
                name, k = f"{base} {k}", k + 1
            seen.add(name.lower())
            s = s if name == s.ink.name else replace(s, ink=replace(s.ink, name=name))
        swatches.append(s)
    if all(a is b for a, b in zip(swatches, document.palette.swatches, strict=True)):
        return document
    return replace(document, palette=replace(document.palette, swatches=tuple(swatches)))
