"""What first light gave to a drawing, so that its dials work as long as nobody changed it by hand."""

from __future__ import annotations

import msgspec


class Given(msgspec.Struct, frozen=True):
    """What one object got: the last ``count`` ingredients of its recipe; its lift before; a number to see whether
    anything of that was changed."""

    id: int
    count: int
    lift: float = 0.0
    mark: int = 0


class FirstLight(msgspec.Struct, frozen=True):
    """The style by name, ``depth`` 0 (flat) to 2, ``softness`` 0 to 1, the objects that it was asked for (``of``; none
    are all), and what each piece got; ``left`` are those that were changed by hand since, which it leaves alone.
    ``lamp_size`` is that of the lamp before, where all was lit."""

    style: str = "enamel"
    depth: float = 1.0
    softness: float = 0.4
    of: tuple[int, ...] = ()
    lamp_size: float | None = None
    given: tuple[Given, ...] = ()
    left: tuple[int, ...] = ()
