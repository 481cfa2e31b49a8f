"""What a card is made of, as data: kinds of rows, and the whole of a card."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from volumen.model.ingredients import BLEND_MODES


@dataclass(frozen=True, slots=True)
class Number:
    """A slider row. The slider spans low..high; typed values may leave it down to hard_low, up to hard_high."""

    field: str
    label: str
    low: float
    high: float
    unit: str = ""
    factor: float = 1.0
    hard_low: float = -math.inf
    hard_high: float = math.inf


@dataclass(frozen=True, slots=True)
class Choice:
    field: str
    label: str
    options: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Auto:
    """A colour or number that may be left to the light (None), or be one's own."""

    field: str
    label: str
    auto: str
    own: Any
    number: Number | None = None


@dataclass(frozen=True, slots=True)
class Switch:
    """Something that is so or not."""

    field: str
    label: str


@dataclass(frozen=True, slots=True)
class Easing:
    """A curve of how far a run has come, drawn by its two handles."""

    field: str
    label: str


@dataclass(frozen=True, slots=True)
class Special:
    """Rows with a widget of their own: ``paint``, ``materials``, ``receivers``, ``other``, ``dashes``, ``profile``,
    ``colour``, ``light``, ``shade``, ``glow``, ``fit``."""

    kind: str


Row = Number | Choice | Auto | Switch | Easing | Special

OPACITY = Number("opacity", "opacity", 0, 1, " %", 100, 0, 1)
BLEND = Choice("blend", "blend mode", BLEND_MODES)


@dataclass(frozen=True, slots=True)
class CardSpec:
    title: str
    icon: str
    heading: str
    rows: tuple[Row, ...]


JOINS = Choice("join", "corners", ("miter", "round", "bevel"))
