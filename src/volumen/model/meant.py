"""What the artist means as it is though it disagrees with the lamp."""

from __future__ import annotations

import msgspec


class MeantSo(msgspec.Struct, frozen=True):
    """One kind of disagreement (``what``, in a word) of one node that the light check leaves alone."""

    node: int
    what: str
