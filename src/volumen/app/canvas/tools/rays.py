"""Rays by hand: drawn from their centre, and shaped by grips for the centre, both ends and the widest place."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, diamond, dot, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Option, near, rounded_to
from volumen.app.canvas.tools.shapes import DrawTool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Affine, Point, apply, invert, multiply
from volumen.model.nodes import RaysForm, Shape
from volumen.model.tree import world_of

replace = msgspec.structs.replace


class RaysTool(DrawTool):
    """Draws rays; on selected ones their grips."""

    name = "rays"
    icon = "sunrise"
    keys = "Shift+Y"
    toolbox = (Shown(Stage.DRAW, 95, folded=True),)
    label = "rays"
    hint = "Drag from the centre outwards to draw rays, <b>Alt</b> for parallel ones. Drag the grips of selected rays; <b>Shift</b> steps 15°."
    options = (
        Option("count", "count", 24, 1, 200, "", 1, True, 5000),
        Option("width", "width", 50, 0, 100, " %", 0, hard_high=100),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.grabbed: str | None = None

    def target(self) -> tuple[Shape, RaysForm, Affine] | None:
        """The selected rays and their place on the canvas."""
        shape = self.session.only_shape
        if shape is None or not isinstance(shape.form, RaysForm):
            return None
        return shape, shape.form, multiply(self.sheet.viewport.affine(), world_of(self.session.document, shape.id))

    def _grips(self, form: RaysForm, m: Affine) -> dict[str, Point]:
        """The grips by name, on the canvas: along the first ray, or before and behind the middle of parallel ones."""
        (x, y), t = form.centre, math.radians(form.angle)
        first = form.inner if form.kind == "radial" else -form.reach
        at = {"reach": form.reach, "widest": first + (form.reach - first) * form.widest}
        if form.kind == "radial":
            at["inner"] = form.inner
        grips = {k: apply(m, (x + r * math.cos(t), y + r * math.sin(t))) for k, r in at.items()}
        return {**grips, "centre": apply(m, form.centre)}

    def grip_at(self, p: Pointer) -> str | None:
        found = self.target()
        grips = self._grips(*found[1:]) if found is not None else {}
        return next((k for k, at in grips.items() if near(at, p.at, 7)), None)

    def press(self, p: Pointer) -> None:
        self.grabbed = self.grip_at(p)
        self.pressed, self.before, self.made = p, self.session.document, None
        self.start = self.sheet.snap(p)

    def move(self, p: Pointer) -> None:
        if self.start is None or self.pressed is None or self.before is None:
            return
        if self.grabbed is not None:
            self._drag(p)
            return
        if self.made is None and near(p.at, self.pressed.at, 2):
            return
        to = self.sheet.snap(p)
        reach = max(math.dist(self.start, to), 0.1)
        angle = math.degrees(math.atan2(to[1] - self.start[1], to[0] - self.start[0]))
        self.size = f"reach {reach:.1f}"
        self.put(
            RaysForm(
                "parallel" if p.alt else "radial", self.start, rounded_to(angle, 15) if p.shift else angle,
                count=int(self.values["count"]), reach=reach, wide=self.values["width"] / 100,
            )
        )  # fmt: skip

    def _drag(self, p: Pointer) -> None:
        found = self.target()
        back = invert(found[2]) if found is not None else None
        if found is None or back is None or self.before is None:
            return
        shape, form, _ = found
        snapped = self.sheet.snap(p, without=(shape.id,)) if self.grabbed == "centre" else p.sheet
        x, y = apply(back, self.sheet.viewport.to_canvas(snapped))
        made = _dragged(form, self.grabbed or "", (x, y), p.shift)
        self.session.preview(objects.set_fields(self.before, [shape.id], form=made))

    def release(self, p: Pointer) -> None:
        if self.grabbed is not None:
            self.session.commit("shape rays")
            self.grabbed = None
            self.reset()
            return
        self.finish()

    def reset(self) -> None:
        self.grabbed = None
        super().reset()

    def paint(self, painter: QPainter) -> None:
        super().paint(painter)
        found = self.target()
        if found is None:
            return
        grips = self._grips(*found[1:])
        halo_line(painter, grips["centre"], grips["reach"], dashed=True)
        for name, at in grips.items():
            (diamond if name == "centre" else dot)(painter, at, AMBER if name in ("centre", self.grabbed) else HALO)


def _dragged(form: RaysForm, grip: str, at: Point, stepped: bool) -> RaysForm:
    """Rays with one of their grips at a place; ``reach`` turns them too."""
    if grip == "centre":
        return replace(form, centre=at)
    dx, dy = at[0] - form.centre[0], at[1] - form.centre[1]
    t = math.radians(form.angle)
    along = dx * math.cos(t) + dy * math.sin(t)
    if grip == "reach":
        angle = math.degrees(math.atan2(dy, dx))
        return replace(form, reach=max(math.hypot(dx, dy), 0.1), angle=rounded_to(angle, 15) if stepped else angle)
    if grip == "inner":
        return replace(form, inner=min(max(along, 0.0), form.reach))
    first = form.inner if form.kind == "radial" else -form.reach
    return replace(form, widest=min(max((along - first) / max(form.reach - first, 1e-9), 0.0), 1.0))
