"""Bend on the canvas: the points of a free cage, or one grip for the amount of the other bends."""

from __future__ import annotations

import msgspec
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, INK, dot, halo_line, tag
from volumen.app.canvas.sheet import Pointer
from volumen.app.canvas.tools.base import Act, GripTool, near
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects, recipes
from volumen.geometry.affine import Affine, Point, apply, invert, multiply
from volumen.geometry.bend import CAGE, REST, cage_points
from volumen.geometry.path import Box
from volumen.model.ingredients import Bend
from volumen.model.nodes import Shape
from volumen.model.tree import world_of
from volumen.outline.outlines import outline_before

replace = msgspec.structs.replace


class BendTool(GripTool):
    """Drags the cage or the amount of a bend."""

    name = "bend"
    icon = "waves"
    keys = "Q"
    toolbox = (Shown(Stage.CARVE, 40),)
    hint = (
        "Drag the grip to bend the selected shape. A cage has sixteen points to drag; <b>Shift</b> moves a whole row."
    )
    options = (
        Act("arc", "start_arc"), Act("swell", "start_swell"), Act("ripple", "start_ripple"),
        Act("pinch", "start_pinch"), Act("cage", "start_cage"),
    )  # fmt: skip

    def target(self) -> tuple[Shape, int, Bend, Box, Affine] | None:
        """The selected shape, its (last) bend and where it is in the recipe, the box it bends, its place on the canvas."""
        shape = self.session.only_shape
        if shape is None:
            return None
        places = [k for k, i in enumerate(shape.recipe) if isinstance(i, Bend) and i.on]
        if not places:
            return None
        at = places[-1]
        bend = shape.recipe[at]
        assert isinstance(bend, Bend)
        world = world_of(self.session.document, shape.id)
        box = outline_before(shape, at, world).bounds()
        m = multiply(self.sheet.viewport.affine(), world)
        return (shape, at, bend, box, m) if box is not None else None

    def _grips(self, bend: Bend, box: Box, m: Affine) -> list[Point]:
        if bend.kind == "cage":
            return [apply(m, (float(x), float(y))) for x, y in cage_points(box, bend.cage)]
        cx, cy, h = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2, (box[3] - box[1]) / 2
        return [apply(m, (cx, cy - bend.amount * max(h, (box[2] - box[0]) / 2)))]

    def grip_at(self, p: Pointer) -> int | None:
        found = self.target()
        grips = self._grips(*found[2:]) if found is not None else []
        return next((k for k, grip in enumerate(grips) if near(grip, p.at, 8)), None)

    def move(self, p: Pointer) -> None:
        found = self.target()
        if found is None or self.grabbed is None or self.before is None:
            return
        shape, at, bend, box, m = found
        inverse = invert(m)
        if inverse is None:
            return
        x, y = apply(inverse, p.at)
        w, h = max(box[2] - box[0], 1e-9) / 2, max(box[3] - box[1], 1e-9) / 2
        cx, cy = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2
        if bend.kind == "cage":
            bent = replace(bend, cage=_moved(bend.cage, self.grabbed, ((x - cx) / w, (y - cy) / h), p.shift))
        else:
            bent = replace(bend, amount=(cy - y) / max(h, w))
        recipe = (*shape.recipe[:at], bent, *shape.recipe[at + 1 :])
        self.session.preview(objects.set_fields(self.before, [shape.id], recipe=recipe))

    def release(self, p: Pointer) -> None:
        self.let_go("bend")

    def _start(self, kind: str) -> None:
        if self.session.only_shape is None:
            self.session.say("select one shape to bend")
            return
        found = self.target()
        if found is not None:
            shape, at, bend, _, _ = found
            recipe = (*shape.recipe[:at], replace(bend, kind=kind), *shape.recipe[at + 1 :])
            self.session.apply("change bend", objects.set_fields(self.session.document, [shape.id], recipe=recipe))
        else:
            made = Bend(kind, 0.0 if kind == "cage" else 0.4)  # type: ignore[arg-type]
            self.session.apply("bend", recipes.add(self.session.document, self.session.selection, made))

    def start_arc(self) -> None:
        self._start("arc")

    def start_swell(self) -> None:
        self._start("swell")

    def start_ripple(self) -> None:
        self._start("ripple")

    def start_pinch(self) -> None:
        self._start("pinch")

    def start_cage(self) -> None:
        self._start("cage")

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        found = self.target()
        if found is None:
            return
        _, _, bend, box, m = found
        grips = self._grips(bend, box, m)
        if bend.kind == "cage":
            for j in range(CAGE):
                for i in range(CAGE):
                    k = j * CAGE + i
                    if i + 1 < CAGE:
                        halo_line(painter, grips[k], grips[k + 1], INK, dashed=True)
                    if j + 1 < CAGE:
                        halo_line(painter, grips[k], grips[k + CAGE], INK, dashed=True)
        else:
            middle = apply(m, ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2))
            halo_line(painter, middle, grips[0])
            tag(painter, (grips[0][0] + 12, grips[0][1] - 10), f"{bend.kind} {bend.amount * 100:.0f} %")
        for k, grip in enumerate(grips):
            dot(painter, grip, AMBER if k == self.grabbed else HALO, 4.5)


def _moved(cage: tuple[Point, ...], index: int, to: Point, whole_row: bool) -> tuple[Point, ...]:
    """A cage with one point moved, or with its row moved along."""
    cage = cage if len(cage) == CAGE * CAGE else REST
    dx, dy = to[0] - cage[index][0], to[1] - cage[index][1]
    row = index // CAGE
    return tuple(
        (x + dx, y + dy) if k == index or (whole_row and k // CAGE == row) else (x, y) for k, (x, y) in enumerate(cage)
    )
