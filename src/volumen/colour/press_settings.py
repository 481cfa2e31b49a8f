"""How artwork is printed: what is set of a press, and kept with the document."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import msgspec

Intent = Literal["relative", "perceptual"]
SHIPPED = {"coated": "coated-fogra39l.icc", "uncoated": "uncoated-fogra29l.icc"}
_LIMITS = {"coated": 300.0, "uncoated": 260.0}


class Press(msgspec.Struct, frozen=True):
    """How is printed. ``profile``: 'coated', 'uncoated' or the path of an ICC output profile for CMYK.

    ``intent`` and ``black_point`` tell how colours become inks. ``paper`` shows the print with the white of its
    paper. ``limit`` is the most ink that the paper takes, in percent; None is that of the stock.
    """

    profile: str = "coated"
    intent: Intent = "relative"
    black_point: bool = True
    paper: bool = False
    limit: float | None = None

    @property
    def ink_limit(self) -> float:
        """The most ink, in percent of all four."""
        return self.limit if self.limit is not None else _LIMITS.get(self.profile, 300.0)

    @property
    def nearest(self) -> Press:
        """The same press bringing each colour as near as it can: what colours are judged by."""
        return msgspec.structs.replace(self, intent="relative", black_point=True, paper=False)

    @property
    def name(self) -> str:
        """What people call it."""
        return self.profile if self.profile in SHIPPED else Path(self.profile).stem
