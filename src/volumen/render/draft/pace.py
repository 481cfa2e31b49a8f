"""How coarsely drafts are drawn, so that they keep up with a hand."""

from __future__ import annotations

from dataclasses import dataclass

_FRAME = 16.0  # ms that a frame may take
_REST = 1.5  # of them on the way between window and worker
_LEAST = 4.0
_FEW = 30_000
_HEAVY = 60.0  # ms without haste: drafts of such a sheet begin smaller
COARSEST = 4


@dataclass
class Pace:
    """How many times smaller drafts of large areas are drawn; ``room`` is what a frame leaves for drawing, in ms."""

    shrink: int = 2
    late: int = 0
    room: float = 11.0
    fresh: bool = True

    def expect(self, ms: float) -> None:
        """A sheet took so long without haste. Before the first draft of all that tells how coarse it must be."""
        if self.fresh and ms > _HEAVY:
            self.shrink = 3
        self.late, self.fresh = 0, False

    def built(self, ms: float) -> None:
        """A picture took so long to build."""
        self.room = max(_FRAME - _REST - ms, _LEAST)

    def took(self, ms: float, pixels: int) -> None:
        """A draft of so many pixels, at its own size, took so long.

        The first at a size finds nothing kept and says little: two late ones count. Where few pixels are drawn, time
        goes elsewhere, and fewer would only be a blur.
        """
        self.late = self.late + 1 if ms > self.room else 0
        if self.late >= 2 and self.shrink < COARSEST and pixels > _FEW:
            self.shrink, self.late = self.shrink + 1, 0
        elif self.shrink > 2 and ms * (self.shrink / (self.shrink - 1)) ** 2 < self.room / 2:
            self.shrink -= 1
