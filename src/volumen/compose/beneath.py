"""What shadows can fall on: all surfaces beneath the node that is built now, back to front."""

from __future__ import annotations

from array import array
from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from volumen.geometry.affine import Affine, apply, invert
from volumen.geometry.engine import contains
from volumen.geometry.path import Box, Path
from volumen.shading.paint import Colour

_FEW = 100  # surfaces that are looked through one by one
_OFTEN = 2  # questions after which the boxes of a longer run are laid side by side


@dataclass(slots=True)
class Surface:
    """Something a shadow can fall on."""

    box: Box
    path: Path
    world: Affine
    colour: Colour

    def moved_to(self, world: Affine) -> Surface:
        """The same surface in another place that turns and scales it alike."""
        dx, dy = world[4] - self.world[4], world[5] - self.world[5]
        l, t, r, b = self.box
        return Surface((l + dx, t + dy, r + dx, b + dy), self.path, world, self.colour)

    def holds(self, x: float, y: float) -> bool:
        """Whether a place on the sheet inside its box lies on it."""
        inverse = invert(self.world)
        return inverse is not None and contains(self.path, *apply(inverse, (x, y)))


@dataclass(slots=True)
class Run:
    """Surfaces one after another, of which the first ``count`` lie beneath; one that still grows has its ``boxes``."""

    surfaces: list[Surface] = field(default_factory=list)
    count: int = 0
    boxes: array[float] | None = None
    grows: bool = False
    asked: int = 0

    def add(self, surface: Surface) -> None:
        """Put a surface in front of the others of a run that still grows."""
        assert self.boxes is not None
        self.surfaces.append(surface)
        self.boxes.extend(surface.box)
        self.count += 1

    def near(self, x: float, y: float) -> Iterator[Surface]:
        """The surfaces whose boxes hold a place, front to back."""
        self.asked += 1
        if self.boxes is None and self.asked > _OFTEN and self.count > _FEW:
            self.boxes = array("d", [v for s in self.surfaces[: self.count] for v in s.box])
        if self.boxes is None or self.count <= _FEW:
            for k in range(self.count - 1, -1, -1):
                surface = self.surfaces[k]
                l, t, r, b = surface.box
                if l <= x <= r and t <= y <= b:
                    yield surface
            return
        lefts, tops, rights, bottoms = np.array(self.boxes).reshape(-1, 4).T
        for k in np.flatnonzero((lefts <= x) & (x <= rights) & (tops <= y) & (y <= bottoms))[::-1].tolist():
            yield self.surfaces[k]


class Beneath:
    """Runs of surfaces, back to front."""

    def __init__(self) -> None:
        self.runs: list[Run] = []

    def add(self, surface: Surface) -> None:
        """Put a surface in front of all others."""
        if not self.runs or not self.runs[-1].grows:
            self.runs.append(Run(boxes=array("d"), grows=True))
        self.runs[-1].add(surface)

    def add_run(self, surfaces: list[Surface], count: int) -> None:
        """Put the first ``count`` of some surfaces in front of all others."""
        self.runs.append(Run(surfaces, count))

    def mark(self) -> int:
        """Where the runs of all that is added from now on begin, for another to be put ``instead``."""
        if self.runs and self.runs[-1].grows:
            self.runs.append(Run(boxes=array("d"), grows=True))
            return len(self.runs) - 1
        return len(self.runs)

    def instead(self, mark: int, surfaces: list[Surface]) -> None:
        """Put a run in place of all that was added since a mark."""
        self.runs[mark:] = [Run(surfaces, len(surfaces))]

    def front(self, x: float, y: float) -> Surface | None:
        """The front-most surface under a place on the sheet."""
        for run in reversed(self.runs):
            for surface in run.near(x, y):
                if surface.holds(x, y):
                    return surface
        return None
