"""Artwork on stock: what is prepared once, and the picture of it under a lamp."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from volumen.caching import by_value
from volumen.geometry.path import Box
from volumen.model.sheet import PER_UNIT
from volumen.stock.cloth import bag
from volumen.stock.fields import Field
from volumen.stock.folded import card
from volumen.stock.light import StockLamp
from volumen.stock.photograph import OnPhotograph
from volumen.stock.plate import sign
from volumen.stock.poster import poster
from volumen.stock.scene import InkMode, Scene, Slot
from volumen.stock.screens import screens
from volumen.stock.stocks import Cloth, Folded, Photograph, Plate, Poster, Screens, Stock, StockProblem, Table
from volumen.stock.turned import on_table

WIDTHS = (350, 700, 1050, 1400)  # that stock is prepared at; pictures between them are scaled


def width_for(wanted: int) -> int:
    """The least prepared width that is enough."""
    return next((w for w in WIDTHS if w >= wanted), WIDTHS[-1])


def size_of(stock: Stock, aspect: float = 1.0) -> tuple[int, int]:
    """The size of a stock's picture, 700 pixels wide; a photograph has its own."""
    high = {Cloth: 820, Plate: 520, Poster: 760, Table: 630, Folded: 644, Screens: 500}
    return 700, high.get(type(stock.thing), 602)


@by_value("prepared stock", 6)
def prepared(stock: Stock, colour: str, ink: InkMode, aspect: float, width: int) -> Scene | OnPhotograph:
    """A stock in a colour (#rrggbb) for artwork of an aspect, ready to be lit. Raises StockProblem."""
    thing = stock.thing
    try:
        if isinstance(thing, Cloth):
            return bag(thing, colour, ink, width)
        if isinstance(thing, Plate):
            return sign(thing, colour, aspect, width)
        if isinstance(thing, Poster):
            return poster(thing, aspect, width)
        if isinstance(thing, Table):
            return on_table(thing, colour, aspect, width)
        if isinstance(thing, Folded):
            return card(thing, colour, aspect, width)
        if isinstance(thing, Screens):
            return screens(thing, width)
        return OnPhotograph(thing, width)
    except StockProblem:
        raise
    except (IndexError, ValueError, ZeroDivisionError, FloatingPointError) as error:
        raise StockProblem(f"'{stock.name}' cannot be drawn: nothing of its slot is seen") from error


def on_stock(
    stock: Stock, colour: str, ink: InkMode, lamp: StockLamp, width: int, sheet: tuple[float, float],
    artwork: Callable[[Box, int], Field],
) -> Field:  # fmt: skip
    """The picture (h, w, 3; encoded) of a sheet's artwork on stock. ``artwork`` gives a part of the sheet (user units)
    so many pixels wide, premultiplied. Raises StockProblem."""
    scene = scene_for(stock, colour, ink, width, sheet)
    if isinstance(scene, OnPhotograph):
        return scene.shown(artwork(box_for(stock, scene.slot.aspect, sheet), _pixels([scene.slot])))
    slots = [s for layer in scene.layers for s in layer.slots]
    wide: dict[float, Field] = {}
    for aspect in {s.aspect for s in slots}:
        of = [s for s in slots if s.aspect == aspect]
        wide[aspect] = artwork(box_for(stock, aspect, sheet), _pixels(of))
    return scene.shown([wide[s.aspect] for s in slots], lamp)


def scene_for(stock: Stock, colour: str, ink: InkMode, width: int, sheet: tuple[float, float]) -> Scene | OnPhotograph:
    """A stock prepared for a sheet; where it takes the sheet's own proportions, for those."""
    thing = stock.thing
    own = isinstance(thing, Poster | Folded)
    aspect = sheet[0] / sheet[1] if own else stock.width / stock.height
    first = next(iter(stock.colours.values()), thing.white if isinstance(thing, Photograph) else "#e4d8bd")
    return prepared(stock, stock.colours.get(colour, first), ink, float(np.clip(round(aspect, 4), 0.4, 4.0)), width)


def box_for(stock: Stock, aspect: float, sheet: tuple[float, float]) -> Box:
    """The part of the sheet (user units) that fills a slot: all of it, with room on two sides where the slot is
    wider or higher."""
    w, h = sheet
    wide, high = max(w, h * aspect), max(h, w / aspect)
    return ((w - wide) / 2, (h - high) / 2, (w + wide) / 2, (h + high) / 2)


def printed_size(stock: Stock, sheet: tuple[float, float]) -> float:
    """By how much artwork is scaled to fit the slot: 1 where it is printed at its own size."""
    box = box_for(stock, stock.width / stock.height, sheet)
    return stock.width * PER_UNIT["mm"] / (box[2] - box[0])


def _pixels(slots: list[Slot]) -> int:
    return max(s.size[0] for s in slots)
