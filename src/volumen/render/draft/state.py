"""What drafts of a viewport know from one to the next."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from volumen.caching import Cache, MixedCache
from volumen.picture.instructions import Item
from volumen.render.draft.pace import Pace


class DraftState:
    """``kept`` are covers, masks and composed runs, ``seen`` the items of the last draft by identity, ``pace`` how
    coarsely they are drawn, ``room`` where they are enlarged. ``ready`` says whether the compiled loops are loaded;
    until then frames are drawn in full."""

    def __init__(self, most_bytes: int = 120_000_000) -> None:
        self.kept: MixedCache = Cache("drafts", most_bytes=most_bytes)
        self.seen: dict[int, Item] = {}
        self.pace = Pace()
        self.ready = True
        self.room: NDArray[np.uint8] = np.empty(0, np.uint8)

    def clear(self) -> None:
        """Forget what is kept; the pace stays."""
        self.kept.clear()
        self.seen = {}
