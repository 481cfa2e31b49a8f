"""The unit that lengths are shown and typed in: one for the window, that of its sheet."""

from __future__ import annotations

from collections.abc import Callable
from weakref import WeakMethod

from volumen.model.sheet import PER_UNIT, Unit

_DIGITS = {"px": 1, "mm": 2, "in": 3, "pt": 2}
_STEPS = {"px": 1.0, "mm": PER_UNIT["mm"] / 4, "in": PER_UNIT["in"] / 64, "pt": PER_UNIT["pt"] / 2}


class LengthUnit:
    """Fields of lengths ask it, and are told when it changes."""

    def __init__(self) -> None:
        self.name: Unit = "px"
        self._told: list[WeakMethod[Callable[[], None]]] = []

    @property
    def size(self) -> float:
        """User units in one."""
        return PER_UNIT[self.name]

    def digits(self, wanted: int) -> int:
        """Digits after the point that a length is shown with; ``wanted`` are those of pixels."""
        return wanted if self.name == "px" else _DIGITS[self.name]

    def step(self, wanted: float) -> float:
        """One step of a hand in user units, for one of ``wanted`` pixels."""
        return wanted if self.name == "px" else wanted * _STEPS[self.name]

    def said(self, length: float) -> str:
        """A length in user units, as status lines say it."""
        return f"{length / self.size:.{_DIGITS[self.name]}f}"

    def on_change(self, call: Callable[[], None]) -> None:
        """Call a method of what lives no longer than it likes."""
        self._told = [m for m in self._told if m() is not None]
        self._told.append(WeakMethod(call))

    def use(self, name: Unit) -> None:
        if name == self.name:
            return
        self.name = name
        for method in self._told:
            if (call := method()) is not None:
                call()


LENGTH_UNIT = LengthUnit()
