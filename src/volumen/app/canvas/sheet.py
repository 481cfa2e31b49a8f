"""What a tool may ask of the sheet that it works on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QSize
from PySide6.QtGui import QImage, QPainter

from volumen.app.state.session import Session
from volumen.app.state.viewport import Viewport
from volumen.geometry.affine import Point
from volumen.geometry.path import Box
from volumen.geometry.snap import Snap, SnapField
from volumen.model.nodes import Document
from volumen.shading.paint import Colour

SNAP_REACH = 9.0  # pixels from which a point is drawn to something


@dataclass(frozen=True, slots=True)
class Pointer:
    """A pointer event: where on canvas (pixels) and sheet (user units), and which modifiers are held."""

    at: Point
    sheet: Point
    shift: bool = False
    ctrl: bool = False
    alt: bool = False
    pressure: float | None = None


class PaintedOn(Protocol):
    """Something painted on: its size and how many pixels a unit of it has."""

    def size(self) -> QSize: ...

    def devicePixelRatioF(self) -> float: ...


class ToolSheet(PaintedOn, Protocol):
    """The sheet as its tools see it. Places are pixels of the canvas, or units of the sheet where that is said."""

    session: Session
    viewport: Viewport
    pointer: Point | None  # None while it is elsewhere
    snapped: Snap | None  # what the point that is being placed is drawn to
    last_colour: Colour  # what new shapes are filled with

    def width(self) -> int: ...

    def height(self) -> int: ...

    def update(self) -> None:
        """Paint again soon."""

    def snap(self, p: Pointer, origin: Point | None = None, without: tuple[int, ...] = ()) -> Point:
        """Where a point being placed goes (sheet units): to what is near it, or where the pointer is."""

    def snap_field(self, without: tuple[int, ...] = ()) -> SnapField:
        """What can be snapped to, but for some branches."""

    def paint_outlines(self, painter: QPainter) -> None:
        """The outlines of what is selected."""

    def picture(self) -> QImage:
        """The artwork as it was drawn last, in device pixels."""

    def seen_round(self, at: Point, size: int) -> tuple[QImage, Point] | None:
        """A picture of what is seen round a place, on the canvas or in the window outside it, and where in the picture
        the place is; None outside the window."""

    def ask_picture(self, document: Document, box: Box, side: int, done: Callable[[QImage], None]) -> None:
        """Ask for a picture of a part of the sheet as a document would show it; ``done`` gets it later, if it comes."""

    def drop_pictures(self) -> None:
        """What was asked for and has not begun is not wanted any more."""

    def holds(self, at: Point) -> bool:
        """Whether a place lies on the canvas."""
