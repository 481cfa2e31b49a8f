"""Gradient meshes by hand: points, handles, lines put in where they are wanted, colours from a picture."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF, QTransform

from volumen.app.canvas.handles import INK, VERMILION, diamond
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Flag, Option, near
from volumen.app.canvas.tools.mesh_acts import MeshActs
from volumen.app.canvas.tools.mesh_at_hand import Index
from volumen.app.canvas.tools.mesh_paint import paint_net
from volumen.app.canvas.tools.mesh_shape import REACH, border, corner_at, error_veil, nearest_line
from volumen.app.engine.mesh_job import FitJob
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.colour.srgb import Floats
from volumen.edit import meshes
from volumen.formats.files import FileProblem
from volumen.formats.images import pixels_of
from volumen.geometry.affine import Affine, Point, apply, apply_vector, invert, multiply
from volumen.geometry.curve import points_at
from volumen.model.tree import world_of
from volumen.shading import mesh_edit
from volumen.shading.mesh import Mesh
from volumen.shading.mesh_fit import Fitted, refined


class MeshTool(MeshActs):
    """Makes gradient meshes and works on their points, rows and columns."""

    name = "mesh"
    icon = "grid-3x3"
    keys = "V"
    toolbox = (Shown(Stage.COLOUR, 40),)
    hint = "Drag points, handles or a lasso, <b>Shift</b> adds. Double-click a line for one across it, <b>Delete</b> takes it out."
    options = (
        Option("columns", "columns", 4, 1, 16, "", 1, whole=True, hard_high=100),
        Option("rows", "rows", 4, 1, 16, "", 1, whole=True, hard_high=100),
        Act(
            "Lay mesh", "lay", "a mesh whose border follows the outline; click four places on it to choose its corners"
        ),
        Act("Lay ring", "lay_ring", "a mesh round the middle, for round things"),
        Act("Gradient", "lay_gradient", "a mesh that shows the gradient the shape has"),
        Act("Row", "whole_row", "choose the whole row of the chosen points"),
        Act("Column", "whole_column", "choose the whole column of the chosen points"),
        Act("All", "all_points", "choose all points"),
        Act("Smooth", "smooth", "lines run smoothly through the chosen points"),
        Act("Straight", "straight", "straight lines between the chosen points"),
        Act("Relax", "relax", "draw the chosen points to the middle of their neighbours"),
        Act("Crease", "crease", "colour bends at the chosen points, or no longer"),
        Act("Mirror", "mirror", "the right half as the mirror image of the left"),
        Act("Mend", "mend", "pull folded patches flat"),
        Act("Sample", "sample", "each point takes the picture's colour under it"),
        Act("Fit", "fit", "solve all colours so that the mesh comes nearest to the picture"),
        Act("Refine", "refine", "one line more where the error is worst, then fit"),
        Flag("move_points", "fitting may move points"),
        Flag("show_error", "show the error that is left"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.grabbed: tuple[str, Index, int] | None = None
        self.lasso: list[Point] = []
        self.start: tuple[Point, Mesh] | None = None
        self.job: FitJob | None = None
        self.done = 0.0
        self.error: tuple[QImage, Affine] | None = None  # a veil over the picture, and the way back from its pixels
        self.readout = ""

    # -- gestures

    def press(self, p: Pointer) -> None:
        shown = self.shown()
        self.grabbed, self.lasso = None, []
        if shown is None:
            if not self._take_corner(p.at):
                self.session.select(self.under(p)[-1:])
            return
        mesh, _ = shown
        hit = self._hit(mesh, p.at)
        found = self.found()
        assert found is not None
        self.start = (p.sheet, found[3])
        if hit is None:
            self.lasso = [p.at]
            return
        self.grabbed = hit
        if hit[0] == "point":
            if p.shift:
                rest = tuple(i for i in self.points if i != hit[1])
                self.choose(rest if hit[1] in self.points else (*self.points, hit[1]))
            elif hit[1] not in self.points:
                self.choose((hit[1],))

    def _take_corner(self, at: Point) -> bool:
        """Choose a corner for a mesh to be laid, or choose it no longer; False away from the outline."""
        shape = self.session.only_shape
        contour = border(shape, world_of(self.session.document, shape.id)) if shape is not None else None
        if shape is None or contour is None:
            return False
        taken = corner_at(contour, self.place(shape), at)
        if taken is None:
            return False
        chosen = self._chosen_corners(shape)
        close = [c for c in chosen if abs(c - taken) < 0.05]
        kept = tuple(c for c in chosen if c not in close)
        self.corners = (shape.id, kept if close else (*kept, taken)[-4:])
        self.session.say(f"{len(self.corners[1])} of 4 corners chosen for Lay mesh")
        self.sheet.update()
        return True

    def _paint_corners(self, painter: QPainter) -> None:
        shape = self.session.only_shape
        contour = border(shape, world_of(self.session.document, shape.id)) if shape is not None else None
        if shape is None or contour is None:
            return
        chosen = [c for c in self._chosen_corners(shape) if c <= len(contour.segments)]
        for at in points_at(contour, np.array(chosen))[0].tolist() if chosen else ():
            diamond(painter, apply(self.place(shape), (at[0], at[1])), VERMILION, 5)

    def _hit(self, mesh: Mesh, at: Point) -> tuple[str, Index, int] | None:
        d = np.hypot(mesh.at[..., 0] - at[0], mesh.at[..., 1] - at[1])
        i, j = np.unravel_index(int(d.argmin()), d.shape)
        if d[i, j] <= REACH:
            return "point", (int(i), int(j)), 0
        for point in self.points:
            if point[0] < d.shape[0] and point[1] < d.shape[1]:
                for k in range(4):
                    x, y = mesh.handles[point[0], point[1], k].tolist()
                    if near((x, y), at, 6):
                        return "handle", point, k
        return None

    def move(self, p: Pointer) -> None:
        if self.lasso:
            self.lasso.append(p.at)
            self.sheet.update()
            return
        found = self.found()
        if self.grabbed is None or self.start is None or found is None:
            return
        kind, point, which = self.grabbed
        back = invert(world_of(self.session.document, found[0].id))
        if back is None:
            return
        dx, dy = apply_vector(back, (p.sheet[0] - self.start[0][0], p.sheet[1] - self.start[0][1]))
        before = self.start[1]
        if kind == "point":
            self.put(mesh_edit.moved(before, self.points, dx, dy))
        else:
            x, y = before.handles[point[0], point[1], which].tolist()
            self.put(mesh_edit.with_handle(before, point, which, (x + dx, y + dy), not p.alt))

    def release(self, p: Pointer) -> None:
        if self.lasso:
            self._choose_inside(p)
        else:
            self.session.commit("move mesh points")
        self.grabbed, self.lasso, self.start = None, [], None
        self.sheet.update()

    def _choose_inside(self, p: Pointer) -> None:
        shown = self.shown()
        if shown is None:
            return
        if (
            len(self.lasso) < 3
            or max(abs(q[0] - self.lasso[0][0]) + abs(q[1] - self.lasso[0][1]) for q in self.lasso) < 5
        ):
            chain = self.under(p)
            if chain and chain[-1] not in self.session.selection:
                self.session.select(chain[-1:])
            self.choose(())
            return
        area = QPolygonF([QPointF(*q) for q in self.lasso])
        inside = [
            (i, j) for i, j in np.ndindex(*shown[0].at.shape[:2])
            if area.containsPoint(QPointF(*shown[0].at[i, j].tolist()), Qt.FillRule.OddEvenFill)
        ]  # fmt: skip
        self.choose(tuple(dict.fromkeys((*self.points, *inside) if p.shift else inside)))

    def double(self, p: Pointer) -> None:
        """A line put across the one under the pointer."""
        shown = self.shown()
        self.lasso = []
        if shown is None:
            return
        line = nearest_line(shown[0], p.at)
        if line is None:
            return
        kind, patch, t = line
        put_in = mesh_edit.insert_column if kind == "row" else mesh_edit.insert_row
        self.choose(())
        self.change("put a line in", lambda m: put_in(m, patch, min(max(t, 0.02), 0.98)))

    def wants(self, key: int) -> bool:
        return key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and bool(self.points)

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape:
            if self.job is not None:
                self.job.cancel()
            elif self.session.history.in_gesture:
                self.session.cancel()
                self.grabbed = None
            else:
                self.choose(())
            return True
        if self.wants(key):
            self.take_out()
            return True
        return False

    # -- what the buttons do

    # -- against a picture

    def _picture(self) -> tuple[Floats, Affine, Mesh] | None:
        """The reference picture's pixels, the map onto them, and the mesh."""
        found = self.found()
        if found is None:
            self.session.say("select a shape with a mesh, or lay one first")
            return None
        reference = meshes.reference_for(self.session.document, self.session.selection)
        if reference is None:
            self.session.say("place a reference picture first")
            return None
        image, asset = reference
        try:
            pixels = pixels_of(asset.data)
        except FileProblem as problem:
            self.session.say(str(problem))
            return None
        place = meshes.to_picture(self.session.document, found[0], image, (pixels.shape[1], pixels.shape[0]))
        return None if place is None else (pixels, place, found[3])

    def sample(self) -> None:
        picture = self._picture()
        if picture is not None:
            pixels, place, mesh = picture
            self.put(meshes.picked_colours(mesh, place, pixels), "take colours from the picture")

    def fit(self) -> None:
        picture = self._picture()
        if picture is not None and self.job is None:
            self._start(picture[2].transformed(picture[1]), picture[0], picture[1])

    def refine(self) -> None:
        picture = self._picture()
        if picture is not None and self.job is None:
            self.choose(())
            self._start(refined(picture[2].transformed(picture[1]), picture[0]), picture[0], picture[1])

    def _start(self, mesh: Mesh, pixels: Floats, place: Affine) -> None:
        self.done = 0.0
        self.job = FitJob(mesh, pixels, 6 if self.values["move_points"] else 0)
        self.job.progress.connect(self._progress)
        self.job.done.connect(lambda result, error: self._fitted(result, error, place))
        self.session.say("fitting the mesh; Escape stops it")

    def _progress(self, done: float) -> None:
        self.done = done
        self.sheet.update()

    def _fitted(self, result: Fitted | None, error: str, place: Affine) -> None:
        job, self.job = self.job, None
        if job is not None:
            job.wait()
        back = invert(place)
        if result is None or back is None:
            self.session.say(error or "fitting stopped; the mesh is as it was")
            self.sheet.update()
            return
        self.error = (error_veil(result.error), back)
        self.put(result.mesh.transformed(back), "fit mesh")
        self.session.say(f"the mesh differs from the picture by {result.mean:.2f} on average (CIEDE2000)")

    def leave(self) -> None:
        if self.job is not None:
            self.job.cancel()

    # -- drawing

    def paint(self, painter: QPainter) -> None:
        shown = self.shown()
        if shown is None:
            self.sheet.paint_outlines(painter)
            self._paint_corners(painter)
            return
        mesh, m = shown
        if self.values["show_error"] and self.error is not None:
            self._paint_error(painter, m)
        paint_net(painter, mesh, self.points)
        if self.lasso:
            painter.setPen(QPen(INK, 1, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(255, 255, 255, 40))
            painter.drawPolygon(QPolygonF([QPointF(*q) for q in self.lasso]))
        if self.job is not None:
            self.tell(painter, f"fitting {self.done * 100:.0f} %")

    def _paint_error(self, painter: QPainter, m: Affine) -> None:
        assert self.error is not None
        veil, back = self.error
        painter.save()
        painter.setTransform(QTransform(*multiply(m, back)), True)
        painter.drawImage(0, 0, veil)
        painter.restore()
