"""Spot inks: colours with a plate of their own."""

from __future__ import annotations

import msgspec


class Ink(msgspec.Struct, frozen=True):
    """A spot ink: printed from a plate of its own under a ``name``. ``lab``: how it looks (CIE L*a*b*, D50), where that
    was measured. It ``overprints`` what lies beneath it, or is knocked out of it."""

    name: str
    lab: tuple[float, float, float] | None = None
    overprints: bool = False
