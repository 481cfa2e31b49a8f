"""How coarsely drafts are drawn, so that they keep up with a hand."""

from __future__ import annotations

from dataclasses import dataclass

_LATE = 11.0  # ms: with the build, a frame must not take more than 16
COARSEST = 3


@dataclass
class Pace:
    """How many times smaller drafts of large areas are drawn, so that they keep up with a hand."""

    shrink: int = 2
    late: int = 0

    def took(self, ms: float) -> None:
        """A draft took so long. The first at a size finds nothing kept and says little: two late ones count."""
        self.late = self.late + 1 if ms > _LATE else 0
        if self.late >= 2 and self.shrink < COARSEST:
            self.shrink, self.late = self.shrink + 1, 0
        elif self.shrink > 2 and ms * (self.shrink / (self.shrink - 1)) ** 2 < _LATE / 2:
            self.shrink -= 1
