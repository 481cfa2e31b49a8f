"""Pen: click corners, drag smooth points, go on with and join open paths, change what is already drawn."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, HALO, INK, diamond, dot, halo_line, halo_stroke, qt_path
from volumen.app.canvas.sheet import SNAP_REACH, Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool, near
from volumen.app.canvas.tools.shapes import INK_LINE
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.edit.joining import turned_round
from volumen.edit.points import drag_handle, open_run, points_on_sheet, shifted, with_run
from volumen.geometry.affine import Affine, Point, apply
from volumen.geometry.snap import Snap
from volumen.model.ingredients import Fill
from volumen.model.nodes import Document, PathForm, PathPoint, PathRun, Shape
from volumen.model.tree import find, walk, world_of
from volumen.outline.forms import source_outline
from volumen.shading.paint import Solid

replace = msgspec.structs.replace
_MOST_ENDS = 4000


class PenTool(Tool):
    """Draws paths point by point."""

    name = "pen"
    icon = "pen-tool"
    keys = "P"
    toolbox = (Shown(Stage.DRAW, 100),)
    hint = "Click corners, drag smooth points; <b>Alt</b> breaks a handle, <b>Ctrl</b> moves earlier ones. End on an open end to join, <b>Enter</b> ends."
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.points: list[PathPoint] = []
        self.continued: int | None = None  # the open path that is being gone on with
        self.from_first = False  # at its first point
        self.closing = False
        self.dragging = ""  # new, a part of an earlier point, or nothing
        self.index = -1

    # -- the pointer

    def press(self, p: Pointer) -> None:
        if p.ctrl and self._grab(p):
            return
        at = self._held(p)
        if not self.points:
            if not self._continue(p):
                self.points = [PathPoint(at, at, at)]
            self.index, self.dragging = len(self.points) - 1, "new"
        elif len(self.points) > 1 and near(self._canvas(self.points[0].at), p.at):
            self.closing, self.index, self.dragging = True, 0, "new"
        elif self._join(p):
            return
        else:
            self.points.append(PathPoint(at, at, at))
            self.index, self.dragging = len(self.points) - 1, "new"
        self.sheet.update()

    def _grab(self, p: Pointer) -> bool:
        """Take hold of an earlier point or handle."""
        for i in range(len(self.points) - 1, -1, -1):
            for part in ("leave", "arrive", "at"):
                if near(self._canvas(getattr(self.points[i], part)), p.at, 7):
                    self.index, self.dragging = i, part
                    return True
        return False

    def _held(self, p: Pointer) -> Point:
        """Where a new point goes: snapped, or with Shift level with or straight above the last one."""
        origin = self.points[-1].at if self.points else None
        at = self.sheet.snap(p, origin)
        if p.shift and origin is not None:
            x, y = origin
            self.sheet.snapped = None
            return (at[0], y) if abs(at[0] - x) > abs(at[1] - y) else (x, at[1])
        return at

    def move(self, p: Pointer) -> None:
        if not (self.dragging and self.points):
            return
        point = self.points[self.index]
        if self.dragging == "at":
            to = self.sheet.snap(p)
            self.points[self.index] = shifted(point, to[0] - point.at[0], to[1] - point.at[1])
        elif self.dragging in ("arrive", "leave"):
            self.points[self.index] = drag_handle(point, self.dragging, self._along_tangent(point.at, p), p.alt)
        elif not near(self._canvas(point.at), p.at, 3):
            self._pull(point, p)
        self.sheet.update()

    def _pull(self, point: PathPoint, p: Pointer) -> None:
        """Pull handles out of the point just set; Alt leaves the arriving one where it is."""
        (x, y), (hx, hy) = point.at, self._along_tangent(point.at, p)
        arrive = (2 * x - hx, 2 * y - hy)
        if self.closing:
            self.points[0] = PathPoint((x, y), arrive, point.leave)
        elif p.alt or (self.continued is not None and self.index == 0):
            self.points[self.index] = PathPoint((x, y), point.arrive, (hx, hy))
        else:
            self.points[self.index] = PathPoint((x, y), arrive, (hx, hy), True)

    def _along_tangent(self, at: Point, p: Pointer) -> Point:
        """Where a handle goes: onto the tangent of a circle or outline that its point lies on, if that is near."""
        self.sheet.snapped = None
        reach = SNAP_REACH / self.sheet.viewport.scale
        if not self.session.snapping or "tangents" not in self.session.snap_kinds:
            return p.sheet
        way = self.sheet.snap_field().tangent(at, reach * 0.1)
        if way is None:
            return p.sheet
        dx, dy = p.sheet[0] - at[0], p.sheet[1] - at[1]
        along, across = dx * way[0] + dy * way[1], dx * way[1] - dy * way[0]
        if abs(across) > reach:
            return p.sheet
        to = (at[0] + along * way[0], at[1] + along * way[1])
        self.sheet.snapped = Snap(to, "tangents", "tangent")
        return to

    def release(self, p: Pointer) -> None:
        self.dragging = ""
        self.sheet.snapped = None
        if self.closing:
            self.finish(True)

    def hover(self, p: Pointer) -> None:
        self.sheet.snap(p, self.points[-1].at if self.points else None)
        self.sheet.update()

    def double(self, p: Pointer) -> None:
        self.finish(False)

    # -- open paths already there

    def _end_under(self, p: Pointer, without: int | None = None) -> tuple[Shape, bool, Affine] | None:
        """An open single path with an end under the pointer: the shape, whether it is its first point, its place."""
        document = self.session.document
        for count, node in enumerate(walk(document.root)):
            if count > _MOST_ENDS:
                break
            run = open_run(node)
            if run is None or node.id == without or not node.visible or node.locked:
                continue
            world = world_of(document, node.id)
            for first, point in ((False, run.points[-1]), (True, run.points[0])):
                if near(self._canvas(apply(world, point.at)), p.at, 8):
                    assert isinstance(node, Shape)
                    return node, first, world
        return None

    def _continue(self, p: Pointer) -> bool:
        """Go on with an open path whose end is clicked."""
        found = self._end_under(p)
        if found is None:
            return False
        shape, first, world = found
        self.points = points_on_sheet(shape, world, reverse=first)
        self.continued, self.from_first = shape.id, first
        return True

    def _join(self, p: Pointer) -> bool:
        """End on the open end of another path: both become one."""
        found = self._end_under(p, self.continued)
        if found is None:
            return False
        other, first, world = found
        self.points += points_on_sheet(other, world, reverse=not first)
        gone = other.id
        self.finish(False, also=gone)
        return True

    # -- ending

    def finish(self, closed: bool, also: int | None = None) -> None:
        """Turn the points into a shape: filled when closed, a line when open. ``also`` goes into it."""
        ended = self._ended(closed, also) if len(self.points) > 1 else None
        self._drop()
        if ended is not None:
            self.session.apply("draw path", ended[0])
            self.session.select((ended[1],))
        self.sheet.snapped = None
        self.sheet.update()

    def _ended(self, closed: bool, also: int | None = None) -> tuple[Document, int]:
        """The document with the path, and the path's id."""
        run = PathRun(tuple(self.points), closed)
        document = self.session.document
        if also is not None:
            document = objects.delete(document, [also])
        if self.continued is not None and find(document, self.continued) is not None:
            if self.from_first:  # whatever runs along it keeps its direction
                run = turned_round(run)
            return with_run(document, self.continued, run), self.continued
        recipe = (Fill(Solid(self.sheet.last_colour)),) if closed else (INK_LINE,)
        name = objects.free_name(document, "path")
        return objects.add_shape(document, PathForm((run,)), recipe, name, self.session.isolated)

    def _drop(self) -> None:
        self.points, self.continued, self.closing, self.dragging = [], None, False, ""
        self.from_first = False

    def drop(self) -> None:
        self._drop()
        self.session.cancel()

    def unfinished(self) -> Document | None:
        if len(self.points) < 2:
            return None
        document = self._ended(False)[0]
        return None if document == self.session.history.committed else document

    def undo(self) -> bool:
        if not self.points:
            return False
        self.points.pop()
        if not self.points:
            self.continued = None
        self.sheet.update()
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

    # -- painting

    def _canvas(self, p: Point) -> Point:
        return self.sheet.viewport.to_canvas(p)

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if not self.points:
            return
        points = list(self.points)
        if self.sheet.pointer is not None and not self.dragging:
            snap = self.sheet.snapped
            at = snap.at if snap else self.sheet.viewport.to_sheet(self.sheet.pointer)
            points.append(PathPoint(at, at, at))
        path = source_outline(PathForm((PathRun(tuple(points), self.closing),)))
        halo_stroke(painter, qt_path(path, self.sheet.viewport.affine()))
        for point in self.points[-2:] if not self.closing else self.points[:1]:
            for handle in (point.arrive, point.leave):
                if handle != point.at:
                    halo_line(painter, self._canvas(point.at), self._canvas(handle))
                    dot(painter, self._canvas(handle), INK, 3)
        for i, point in enumerate(self.points):
            mark = dot if point.smooth else diamond
            mark(painter, self._canvas(point.at), AMBER if i == 0 and len(self.points) > 1 else HALO)
