"""Pen: click corners, drag smooth points, close on the first point; and the points of a finished path."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.handles import AMBER, HALO, INK, VERMILION, diamond, dot, halo_line, halo_stroke, qt_path
from volumen.app.tools.base import Pointer, Tool, near
from volumen.build.forms import source_outline
from volumen.build.hit import hit
from volumen.edit import objects
from volumen.edit.freeze import to_path
from volumen.geometry.affine import Affine, Point, apply, invert, multiply
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Document, PathForm, PathPoint, PathRun, Shape
from volumen.model.tree import walk, world_of
from volumen.shading.paint import Solid, colour

INK_LINE = Line(Solid(colour("#20242a")), 2.0)


class PenTool(Tool):
    name = "pen"
    hint = "Click for a corner, drag for a smooth point. <b>Backspace</b> takes the last point back, click the first point to close, <b>Enter</b> ends the path open."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, canvas) -> None:  # type: ignore[no-untyped-def]
        super().__init__(canvas)
        self.points: list[PathPoint] = []
        self.dragging = False
        self.closing = False

    def press(self, p: Pointer) -> None:
        at = self._held(p)
        if len(self.points) > 1 and near(self._canvas(self.points[0].at), p.at):
            self.closing = True
            at = self.points[0].at
        else:
            self.points.append(PathPoint(at, at, at))
        self.dragging = True
        self.canvas.update()

    def _held(self, p: Pointer) -> Point:
        """Shift keeps the new point level with, or straight above, the last one."""
        if p.shift and self.points:
            x, y = self.points[-1].at
            return (p.sheet[0], y) if abs(p.sheet[0] - x) > abs(p.sheet[1] - y) else (x, p.sheet[1])
        return p.sheet

    def move(self, p: Pointer) -> None:
        if not (self.dragging and self.points):
            return
        index = 0 if self.closing else -1
        point = self.points[index]
        (x, y), (hx, hy) = point.at, p.sheet
        if near(self._canvas(point.at), p.at, 3):
            return
        arrive = (2 * x - hx, 2 * y - hy)
        if self.closing:
            self.points[0] = PathPoint((x, y), arrive, point.leave, False)
        else:
            self.points[-1] = PathPoint((x, y), arrive, (hx, hy), True)
        self.canvas.update()

    def release(self, p: Pointer) -> None:
        self.dragging = False
        if self.closing:
            self.finish(True)

    def hover(self, p: Pointer) -> None:
        if self.points:
            self.canvas.update()

    def double(self, p: Pointer) -> None:
        self.finish(False)

    def finish(self, closed: bool) -> None:
        """Turn the points into a shape: filled when closed, a line when open."""
        points, self.points, self.closing, self.dragging = self.points, [], False, False
        if len(points) > 1:
            document = self.session.document
            taken = any(n.name == "path" for n in walk(document.root))
            name = objects.copy_name(document, "path") if taken else "path"
            recipe = (Fill(Solid(self.canvas.last_colour)),) if closed else (INK_LINE,)
            document, made = objects.add_shape(document, PathForm((PathRun(tuple(points), closed),)), recipe, name)
            self.session.apply("draw path", document)
            self.session.select((made,))
        self.canvas.update()

    def undo(self) -> bool:
        if not self.points:
            return False
        self.points.pop()
        self.canvas.update()
        return True

    def wants(self, key: int) -> bool:
        return bool(self.points) and key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Escape)

    def leave(self) -> None:
        self.finish(False)

    def key(self, key: int) -> bool:
        if not self.points:
            return False
        if key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            return self.undo()
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape):
            self.finish(False)
            return True
        return False

    def _canvas(self, p: Point) -> Point:
        return self.canvas.viewport.to_canvas(p)

    def paint(self, painter: QPainter) -> None:
        self.canvas.paint_outlines(painter)
        if not self.points:
            return
        points = list(self.points)
        if self.canvas.pointer is not None and not self.dragging:
            at = self.canvas.viewport.to_sheet(self.canvas.pointer)
            points.append(PathPoint(at, at, at))
        path = source_outline(PathForm((PathRun(tuple(points), self.closing),)))
        halo_stroke(painter, qt_path(path, self.canvas.viewport.affine()))
        last = self.points[0 if self.closing else -1]
        for handle in (last.arrive, last.leave):
            if handle != last.at:
                halo_line(painter, self._canvas(last.at), self._canvas(handle))
                dot(painter, self._canvas(handle), INK, 3)
        for i, point in enumerate(self.points):
            mark = dot if point.smooth else diamond
            mark(painter, self._canvas(point.at), AMBER if i == 0 and len(self.points) > 1 else HALO)


class PointsTool(Tool):
    """Move the points and handles of a path; a primitive becomes a path at the first change."""

    name = "points"
    hint = "Drag points and handles. Double-click a point to switch corner and smooth, <b>Delete</b> removes it, <b>Alt</b> breaks a handle."

    def __init__(self, canvas) -> None:  # type: ignore[no-untyped-def]
        super().__init__(canvas)
        self.chosen: tuple[int, int] | None = None
        self.part = "at"
        self.before: Document | None = None

    def _shape(self) -> tuple[Shape, PathForm, Affine] | None:
        shape = self.session.only_shape
        if shape is None:
            return None
        form = shape.form
        if not isinstance(form, PathForm):
            ghost = to_path(self.session.document, shape.id)
            changed = next(n for n in walk(ghost.root) if n.id == shape.id)
            assert isinstance(changed, Shape) and isinstance(changed.form, PathForm)
            form = changed.form
        world = world_of(self.session.document, shape.id)
        return shape, form, multiply(self.canvas.viewport.affine(), world)

    def press(self, p: Pointer) -> None:
        found = self._shape()
        self.before = self.session.document
        if found:
            _, form, m = found
            candidates = [(r, i, part, getattr(point, part))
                          for r, run in enumerate(form.runs) for i, point in enumerate(run.points)
                          for part in ("at", "leave", "arrive")]  # fmt: skip
            candidates.sort(key=lambda c: (c[2] != "at", (c[0], c[1]) != self.chosen))
            for r, i, part, at in candidates:
                shown = part == "at" or (r, i) == self.chosen
                if shown and near(apply(m, at), p.at, 7):
                    self.chosen, self.part = (r, i), part
                    self.canvas.update()
                    return
        self.chosen = None
        chain = hit(self.session.document, p.sheet, 4 / self.canvas.viewport.scale)
        self.session.select((chain[-1],) if chain else ())
        self.canvas.update()

    def move(self, p: Pointer) -> None:
        found = self._shape()
        if not found or self.chosen is None or self.before is None:
            return
        shape, form, m = found
        inverse = invert(m)
        if inverse is None:
            return
        self._change(form, shape, lambda q: _moved_point(q, self.part, apply(inverse, p.at), p.alt), preview=True)

    def _change(self, form: PathForm, shape: Shape, change, preview: bool) -> None:  # type: ignore[no-untyped-def]
        assert self.chosen is not None
        r, i = self.chosen
        run = form.runs[r]
        points = list(run.points)
        points[i] = change(points[i])
        runs = list(form.runs)
        runs[r] = PathRun(tuple(points), run.closed)
        document = objects.set_form(self.before or self.session.document, shape.id, PathForm(tuple(runs)))
        if preview:
            self.session.preview(document)
        else:
            self.session.apply("change point", document)

    def release(self, p: Pointer) -> None:
        self.session.commit("move point")
        self.before = None

    def double(self, p: Pointer) -> None:
        found = self._shape()
        if found and self.chosen:
            self._change(found[1], found[0], _toggled, preview=False)

    def wants(self, key: int) -> bool:
        return self.chosen is not None and key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete)

    def key(self, key: int) -> bool:
        found = self._shape()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and found and self.chosen:
            shape, form, _ = found
            r, i = self.chosen
            points = form.runs[r].points[:i] + form.runs[r].points[i + 1 :]
            runs = list(form.runs)
            runs[r] = PathRun(points, form.runs[r].closed)
            kept = tuple(run for run in runs if len(run.points) > 1)
            document = self.session.document
            document = (
                objects.set_form(document, shape.id, PathForm(kept)) if kept else objects.delete(document, [shape.id])
            )
            self.chosen = None
            self.session.apply("delete point", document)
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        self.canvas.paint_outlines(painter)
        found = self._shape()
        if not found:
            return
        _, form, m = found
        for r, run in enumerate(form.runs):
            for i, point in enumerate(run.points):
                at = apply(m, point.at)
                chosen = self.chosen == (r, i)
                if chosen:
                    for handle in (point.arrive, point.leave):
                        if handle != point.at:
                            halo_line(painter, at, apply(m, handle))
                            dot(painter, apply(m, handle), INK, 3)
                mark = dot if point.smooth else diamond
                mark(painter, at, VERMILION if chosen else HALO)


def _moved_point(q: PathPoint, part: str, to: Point, broken: bool) -> PathPoint:
    if part == "at":
        dx, dy = to[0] - q.at[0], to[1] - q.at[1]
        return PathPoint(to, (q.arrive[0] + dx, q.arrive[1] + dy), (q.leave[0] + dx, q.leave[1] + dy), q.smooth)
    smooth = q.smooth and not broken
    other = "leave" if part == "arrive" else "arrive"
    fields: dict[str, object] = {part: to, "smooth": smooth}
    if smooth:
        ox, oy = getattr(q, other)
        length = ((ox - q.at[0]) ** 2 + (oy - q.at[1]) ** 2) ** 0.5
        dx, dy = q.at[0] - to[0], q.at[1] - to[1]
        size = (dx * dx + dy * dy) ** 0.5
        if size > 1e-9:
            fields[other] = (q.at[0] + dx / size * length, q.at[1] + dy / size * length)
    return msgspec.structs.replace(q, **fields)


def _toggled(q: PathPoint) -> PathPoint:
    if q.smooth or q.arrive != q.at or q.leave != q.at:
        return PathPoint(q.at, q.at, q.at)
    return PathPoint(q.at, (q.at[0] - 30, q.at[1]), (q.at[0] + 30, q.at[1]), True)
