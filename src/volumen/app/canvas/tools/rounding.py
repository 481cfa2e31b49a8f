"""Rounding on the canvas: a dot at each corner is dragged inwards; the radius stays live in the recipe."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, dot
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import GripTool, near
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Affine, Point, apply, mean_scale, multiply
from volumen.geometry.rounding import Corner, corners
from volumen.model.ingredients import Rounding
from volumen.model.nodes import Document, Shape
from volumen.model.tree import find, world_of
from volumen.outline.outlines import form_changes, outline_before

replace = msgspec.structs.replace
_GAP = 16.0  # pixels from a sharp corner to its dot


class RoundingTool(GripTool):
    """Drags corners round."""

    name = "rounding"
    icon = "squircle"
    keys = "C"
    toolbox = (Shown(Stage.CARVE, 30),)
    hint = "Drag a corner's dot to round all corners, with <b>Alt</b> only that one. Double-click makes a corner sharp again."

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.grabbed: Corner | None = None
        self.alone = False

    def target(self) -> tuple[Shape, list[Corner], Affine, int | None] | None:
        """The selected shape, the corners that its rounding acts on, its place on the canvas, where the rounding is."""
        shape = self.session.only_shape
        if shape is None:
            return None
        at = next((k for k, i in enumerate(shape.recipe) if isinstance(i, Rounding)), None)
        world = world_of(self.session.document, shape.id)
        path = outline_before(shape, at, world)
        return shape, corners(path), multiply(self.sheet.viewport.affine(), world), at

    def radius_of(self, shape: Shape, at: int | None, corner: Corner) -> float:
        i = shape.recipe[at] if at is not None else None
        if not isinstance(i, Rounding):
            return 0.0
        return dict(i.own).get(corner.index, i.radius if i.everywhere else 0.0)

    def _dot(self, m: Affine, corner: Corner, radius: float) -> Point:
        away = _GAP / mean_scale(m) + radius
        return apply(m, (corner.at[0] + corner.inward[0] * away, corner.at[1] + corner.inward[1] * away))

    def grip_at(self, p: Pointer) -> Corner | None:
        self.alone = p.alt
        found = self.target()
        if found is None:
            return None
        shape, all_corners, m, at = found
        dots = ((corner, self._dot(m, corner, self.radius_of(shape, at, corner))) for corner in all_corners)
        return next((corner for corner, dot_at in dots if near(dot_at, p.at, 7)), None)

    def move(self, p: Pointer) -> None:
        found = self.target()
        if found is None or self.grabbed is None or self.before is None:
            return
        _, _, m, _ = found
        c = apply(m, self.grabbed.at)
        tip = apply(m, (self.grabbed.at[0] + self.grabbed.inward[0], self.grabbed.at[1] + self.grabbed.inward[1]))
        size = math.dist(c, tip) or 1.0
        along = ((p.at[0] - c[0]) * (tip[0] - c[0]) + (p.at[1] - c[1]) * (tip[1] - c[1])) / size
        radius = max((along - _GAP) / mean_scale(m), 0.0)
        self.readout = f"radius {radius * mean_scale(m) / self.sheet.viewport.scale:.1f}"
        self._set(self.before, found[0].id, radius)

    def _set(self, document: Document, node_id: int, radius: float) -> None:
        assert self.grabbed is not None
        shape = find(document, node_id)
        assert isinstance(shape, Shape)
        at = next((k for k, i in enumerate(shape.recipe) if isinstance(i, Rounding)), None)
        recipe = list(shape.recipe)
        if at is None:
            recipe.insert(len(form_changes(shape.recipe)), Rounding(0.0, not self.alone))
            at = next(k for k, i in enumerate(recipe) if isinstance(i, Rounding))
        old = recipe[at]
        assert isinstance(old, Rounding)
        if self.alone:
            own = dict(old.own)
            own[self.grabbed.index] = radius
            recipe[at] = replace(old, own=tuple(sorted(own.items())))
        else:
            recipe[at] = replace(old, radius=radius, everywhere=True, own=())
        self.session.preview(objects.set_fields(document, [node_id], recipe=tuple(recipe)))

    def release(self, p: Pointer) -> None:
        self.let_go("round corners")

    def double(self, p: Pointer) -> None:
        found, self.grabbed = self.target(), self.grip_at(p)
        if found is not None and self.grabbed is not None:
            self.alone = True
            self._set(self.session.document, found[0].id, 0.0)
            self.let_go("sharpen corner")

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        found = self.target()
        if found is None:
            return
        shape, all_corners, m, at = found
        for corner in all_corners[:400]:
            held = self.grabbed is not None and self.grabbed.index == corner.index
            dot(painter, self._dot(m, corner, self.radius_of(shape, at, corner)), AMBER if held else HALO, 4)
        self.tell(painter, self.readout)
