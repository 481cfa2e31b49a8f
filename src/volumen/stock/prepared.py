"""Artwork on stock: what is prepared once, and the picture of it under a lamp."""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from volumen.caching import by_value
from volumen.geometry.path import Box
from volumen.stock.cloth import bag
from volumen.stock.fields import Field
from volumen.stock.folded import card
from volumen.stock.light import StockLamp
from volumen.stock.photograph import OnPhotograph
from volumen.stock.plate import sign
from volumen.stock.poster import poster
from volumen.stock.scene import Layer, Scene, Slot
from volumen.stock.screens import screens
from volumen.stock.stocks import (
    Cloth,
    Folded,
    InkMode,
    Photograph,
    Plate,
    Poster,
    Screens,
    Stock,
    StockProblem,
    Table,
    checked,
)
from volumen.stock.turned import on_table

WIDTHS = (350, 700, 1050, 1400)  # that stock is prepared at; pictures between them are scaled


def width_for(wanted: int) -> int:
    """The least prepared width that is enough."""
    return next((w for w in WIDTHS if w >= wanted), WIDTHS[-1])


def size_of(stock: Stock) -> tuple[int, int]:
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
        return OnPhotograph(thing, aspect, width)
    except StockProblem:
        raise
    except (IndexError, ValueError, ZeroDivisionError, FloatingPointError) as error:
        raise StockProblem(f"'{stock.name}' cannot be drawn: nothing of its slot is seen") from error


class OnStock(NamedTuple):
    """The picture of artwork on stock (h, w, 3; encoded), and where the artwork lies there."""

    picture: Field
    scene: Scene | OnPhotograph
    boxes: dict[float, Box]  # the part of the sheet in slots, by their aspect

    @property
    def largest(self) -> tuple[Layer, Slot]:
        """The layer and the slot that show most of the artwork."""
        if isinstance(self.scene, OnPhotograph):
            return Layer(self.picture, self.picture), self.scene.slot
        both = [(layer, s) for layer in self.scene.layers for s in layer.slots]
        return max(both, key=lambda found: float(found[1].mask.sum()))


def on_stock(
    stock: Stock, colour: str, ink: InkMode, lamp: StockLamp, width: int, sheet: tuple[float, float],
    artwork: Callable[[Box, int], Field], per_mm: float = 0.0,
) -> OnStock:  # fmt: skip
    """A sheet's artwork on stock, fitted to its slots, or with user units ``per_mm`` in its own size on the main one.
    ``artwork`` gives a part of the sheet (user units) so many pixels wide, premultiplied. Raises StockProblem."""
    scene = scene_for(checked(stock), colour, ink, width, sheet)
    slots = [scene.slot] if isinstance(scene, OnPhotograph) else [s for l in scene.layers for s in l.slots]
    if not slots:
        raise StockProblem(f"nothing of the printed part of '{stock.name}' is seen")
    boxes = {s.aspect: box_for(s.aspect, sheet, per_mm * stock.width if s is slots[0] else 0.0) for s in slots}
    made = {a: artwork(box, max(s.size[0] for s in slots if s.aspect == a)) for a, box in boxes.items()}
    arts = [made[s.aspect] for s in slots]
    if isinstance(scene, OnPhotograph):
        return OnStock(scene.shown(arts[0]), scene, boxes)
    return OnStock(scene.shown(arts, lamp), scene, boxes)


def scene_for(stock: Stock, colour: str, ink: InkMode, width: int, sheet: tuple[float, float]) -> Scene | OnPhotograph:
    """A stock prepared for a sheet; where it takes the sheet's own proportions, for those."""
    thing = stock.thing
    own = isinstance(thing, Poster | Folded | Photograph)
    aspect = sheet[0] / sheet[1] if own else stock.width / stock.height
    first = next(iter(stock.colours.values()), thing.white if isinstance(thing, Photograph) else "#e4d8bd")
    return prepared(stock, stock.colours.get(colour, first), ink, float(np.clip(round(aspect, 4), 0.4, 4.0)), width)


def box_for(aspect: float, sheet: tuple[float, float], wide: float = 0.0) -> Box:
    """The part of the sheet (user units) that fills a slot: all of it, with room on two sides where the slot is
    wider or higher; or what is ``wide`` units in its middle."""
    w, h = sheet
    if not wide:
        wide = max(w, h * aspect)
    high = wide / aspect
    return ((w - wide) / 2, (h - high) / 2, (w + wide) / 2, (h + high) / 2)
