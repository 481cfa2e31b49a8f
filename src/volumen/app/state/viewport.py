"""The view of the sheet: scale and offset, in logical pixels of the canvas."""

from __future__ import annotations

from dataclasses import dataclass

from volumen.geometry.affine import Affine, Point
from volumen.geometry.path import Box

SMALLEST, LARGEST = 0.01, 256.0


@dataclass(frozen=True, slots=True)
class Viewport:
    """x on canvas = x on sheet · scale + dx."""

    scale: float = 1.0
    dx: float = 0.0
    dy: float = 0.0

    def to_canvas(self, p: Point) -> Point:
        return (p[0] * self.scale + self.dx, p[1] * self.scale + self.dy)

    def to_sheet(self, p: Point) -> Point:
        return ((p[0] - self.dx) / self.scale, (p[1] - self.dy) / self.scale)

    def affine(self, ratio: float = 1.0) -> Affine:
        """The map in device pixels for a screen of that pixel ratio."""
        return (self.scale * ratio, 0.0, 0.0, self.scale * ratio, self.dx * ratio, self.dy * ratio)

    def zoomed(self, factor: float, at: Point) -> Viewport:
        """Scaled about a point of the canvas."""
        scale = min(max(self.scale * factor, SMALLEST), LARGEST)
        k = scale / self.scale
        return Viewport(scale, at[0] - (at[0] - self.dx) * k, at[1] - (at[1] - self.dy) * k)

    def moved(self, dx: float, dy: float) -> Viewport:
        return Viewport(self.scale, self.dx + dx, self.dy + dy)


def fitted(box: Box, width: float, height: float, margin: float) -> Viewport:
    """The view that shows a box of the sheet in the middle of a canvas, with a margin in pixels."""
    w, h = max(box[2] - box[0], 1e-6), max(box[3] - box[1], 1e-6)
    scale = min((width - 2 * margin) / w, (height - 2 * margin) / h)
    scale = min(max(scale, SMALLEST), LARGEST)
    return Viewport(scale, round(width / 2 - (box[0] + w / 2) * scale), round(height / 2 - (box[1] + h / 2) * scale))
