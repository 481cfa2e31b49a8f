"""Values of the command line: what no picture can hold is refused as wrong usage, in words."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any, NamedTuple

import click


class Finite(click.FloatRange):
    """A number within a range; infinity and what is no number are refused too."""

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> float:
        number = float(super().convert(value, param, ctx))
        if not math.isfinite(number):
            self.fail(f"'{value}' is no number that can be used", param, ctx)
        return number


class LampPlace(NamedTuple):
    """Where a lamp hangs, in degrees."""

    bearing: float
    height: float


class _LampType(click.ParamType[LampPlace]):
    """``BEARING,HEIGHT``."""

    name = "lamp"

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> LampPlace:
        if isinstance(value, LampPlace):
            return value
        try:
            bearing, height = (float(v) for v in str(value).split(","))
        except ValueError:
            self.fail("--lamp takes two numbers, as in 300,45", param, ctx)
        if not (0 <= height <= 90 and abs(bearing) < 1e6):
            self.fail("the lamp's height lies between 0 and 90 degrees", param, ctx)
        return LampPlace(bearing % 360, height)


LAMP = _LampType()


class Target(click.Path):
    """A file to write, whose suffix says its format: one of those that the command can write."""

    def __init__(self, *suffixes: str) -> None:
        super().__init__(dir_okay=False, path_type=Path)
        self.suffixes = suffixes

    def convert(self, value: object, param: click.Parameter | None, ctx: click.Context | None) -> Path:
        path = Path(str(super().convert(value, param, ctx)))  # type: ignore[arg-type]
        if path.suffix.lower() not in self.suffixes:
            self.fail(f"'{path.name}': the output must end in {' or '.join(self.suffixes)}", param, ctx)
        return path
