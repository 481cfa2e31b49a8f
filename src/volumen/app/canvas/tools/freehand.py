"""Freehand lines, smoothed as they are drawn; and the nib, whose width follows pressure or speed."""

from __future__ import annotations

import math
import time

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPainterPath

from volumen.app.canvas.handles import halo_stroke
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Flag, Option, near
from volumen.app.canvas.tools.shapes import INK_LINE, DrawTool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.strokes import pressure_profile, smoothed
from volumen.geometry.fit import fit_points
from volumen.geometry.path import Path
from volumen.model.ingredients import Fill, Line, Recipe
from volumen.model.nodes import PathForm
from volumen.outline.forms import path_form
from volumen.shading.paint import Solid


class FreehandTool(DrawTool):
    """Draws a path as the hand goes."""

    name = "freehand"
    icon = "pencil"
    keys = "H"
    toolbox = (Shown(Stage.DRAW, 110),)
    label = "freehand"
    hint = "Draw; the line is smoothed when you let go. End on its start to close it. <b>Shift</b> keeps it unsmoothed."
    options: tuple[Option | Flag | Act, ...] = (
        Option("smoothing", "smoothing", 4, 0, 20, "", 0), Flag("fill", "close and fill"),
    )  # fmt: skip

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.trail: list[tuple[float, float, float]] = []  # x, y on the sheet, and pressure or seconds

    def press(self, p: Pointer) -> None:
        self.start = p.sheet
        self.before = self.session.document
        self.trail = [(*p.sheet, self._third(p))]

    def _third(self, p: Pointer) -> float:
        return time.perf_counter()

    def move(self, p: Pointer) -> None:
        if self.start is not None and math.dist(self.trail[-1][:2], p.sheet) * self.sheet.viewport.scale >= 1.0:
            self.trail.append((*p.sheet, self._third(p)))
            self.sheet.update()

    def release(self, p: Pointer) -> None:
        if len(self.trail) > 2:
            self._make(p)
            self.finish()
        self.trail = []
        self.reset()

    def abandon(self) -> None:
        self.trail = []
        super().abandon()

    def _make(self, p: Pointer) -> None:
        rows = np.array(self.trail)
        first = (float(rows[0, 0]), float(rows[0, 1]))
        closed = bool(self.values["fill"]) or (len(rows) > 8 and near(self.sheet.viewport.to_canvas(first), p.at, 9))
        self.put(self.fitted(rows[:, :2], 0.0 if p.shift else self.values["smoothing"], closed))

    def fitted(self, points: np.ndarray, smoothing: float, closed: bool) -> PathForm:
        """The drawn row as a path; smoothing is in pixels of the screen."""
        scale = self.sheet.viewport.scale
        smooth = smoothed(points, smoothing / scale, closed)
        tolerance = max(0.25, 0.35 * smoothing) / scale
        return path_form(Path((fit_points(smooth, tolerance, closed, 60.0 if smoothing > 0 else 30.0),)))

    def recipe(self) -> Recipe:
        return (Fill(Solid(self.sheet.last_colour)),) if self.values.get("fill") else (INK_LINE,)

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if len(self.trail) > 1:
            path = QPainterPath(QPointF(*self.sheet.viewport.to_canvas(self.trail[0][:2])))
            for x, y, _ in self.trail[1:]:
                path.lineTo(QPointF(*self.sheet.viewport.to_canvas((x, y))))
            halo_stroke(painter, path)


class NibTool(FreehandTool):
    """Draws a line whose width follows pressure or speed."""

    name = "nib"
    icon = "brush"
    keys = "I"
    toolbox = (Shown(Stage.DRAW, 120),)
    label = "nib stroke"
    hint = "Draw with a pen's pressure; with a mouse quick is thin and slow is thick. The width stays live in the line's profile."
    options = (
        Option("width", "width", 12, 1, 60, "", 0.1, is_length=True),
        Option("smoothing", "smoothing", 4, 0, 20, "", 0),
        Option("least", "thinnest", 15, 0, 100, " %", 0),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.by_pressure = False

    def _third(self, p: Pointer) -> float:
        self.by_pressure = p.pressure is not None
        return p.pressure if p.pressure is not None else time.perf_counter()

    def _make(self, p: Pointer) -> None:
        rows = np.array(self.trail)
        least = self.values["least"] / 100
        self._profile = pressure_profile(rows, self.by_pressure, least, self.sheet.viewport.scale)
        self.put(self.fitted(rows[:, :2], self.values["smoothing"], False))

    def recipe(self) -> Recipe:
        return (Line(INK_LINE.paint, self.values["width"], "round", "round", profile=self._profile),)
