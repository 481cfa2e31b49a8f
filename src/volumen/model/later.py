"""Ingredients that only a newer Volumen knows: kept as they are, shown nowhere."""

from __future__ import annotations

import msgspec


class Later(msgspec.Struct, frozen=True):
    """One such ingredient: of which node, at which place of its recipe, its kind, and all of it as JSON."""

    node: int
    index: int
    kind: str
    data: str
