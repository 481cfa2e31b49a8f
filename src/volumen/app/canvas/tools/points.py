"""Points: everything about the points of a path, one or many at a time. A primitive becomes a path at the first change."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from volumen.app import theme
from volumen.app.canvas.handles import HALO, INK, VERMILION, diamond, dot, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Flag, Option, near
from volumen.app.canvas.tools.points_acts import PointsActs
from volumen.app.state.news import News, Stage
from volumen.app.state.registry import Shown
from volumen.edit import points as edit
from volumen.edit.points import Place
from volumen.geometry.affine import Affine, Point, apply, apply_vector, invert
from volumen.geometry.curve import nearest
from volumen.model.nodes import Document, PathForm
from volumen.model.tree import world_of


class PointsTool(PointsActs):
    """Works on the points and handles of paths."""

    name = "points"
    icon = "spline"
    keys = "O"
    toolbox = (Shown(Stage.DRAW, 130), Shown(Stage.CARVE, 10))
    hint = "Drag points, handles, segments; from empty ground a lasso. Double-click adds or turns a point, <b>Alt</b> breaks a handle."
    options = (
        Option("x", "x", 0, -1e6, 1e6, is_length=True),
        Option("y", "y", 0, -1e6, 1e6, is_length=True),
        Act("corner", "make_corner"), Act("smooth", "make_smooth"), Act("symmetric", "make_symmetric"),
        Act("break", "cut"), Act("join", "join"), Act("start here", "start_here"),
        Act("align x", "align_x", "Bring the chosen points one above another"),
        Act("align y", "align_y", "Bring the chosen points level with each other"),
        Act("onto a line", "onto_line", "Bring the chosen points onto the straight line that fits them best"),
        Act("space x", "space_x"), Act("space y", "space_y"), Act("reverse", "reverse"),
        Option("tolerance", "simplify", 0.5, 0, 10, "", 0.001, is_length=True),
        Act("simplify", "simplify", "Fewest points within the tolerance"),
        Act("drop needless", "tidy", "Remove points that the curve does not need"),
        Flag("keep", "deleting keeps the curve", True),
    )  # fmt: skip

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.part = ""  # what is being dragged: at, arrive, leave, segment, lasso
        self.place = 0.0
        self.run = 0
        self.before: Document | None = None
        self.origin: PathForm | None = None
        self.start: Point = (0.0, 0.0)
        self.lasso: list[Point] = []

    # -- what is worked on

    # -- the pointer

    def press(self, p: Pointer) -> None:
        self.before, self.start, self.part = self.session.document, p.sheet, ""
        found = self.target()
        if found is not None:
            _, self.origin, m = found
            if self._grab_point(self.origin, m, p) or self._grab_segment(self.origin, m, p):
                self.sheet.update()
                return
        chain = self.under(p)
        if chain and chain[-1] not in self.session.selection:
            self.chosen = []
            self.session.select((chain[-1],))
        else:
            self.part, self.lasso = "lasso", [p.at]
            if not p.shift:
                self.chosen = []
        self.sheet.update()

    def _grab_point(self, form: PathForm, m: Affine, p: Pointer) -> bool:
        shown = set(self.chosen)
        best: tuple[int, Place, str] | None = None
        for r, run in enumerate(form.runs):
            for i, point in enumerate(run.points):
                for part in ("at", "leave", "arrive"):
                    if part != "at" and ((r, i) not in shown or getattr(point, part) == point.at):
                        continue
                    if near(apply(m, getattr(point, part)), p.at, 7):
                        rank = (0 if (r, i) in shown else 1) if part == "at" else 2
                        if best is None or rank < best[0]:
                            best = (rank, (r, i), part)
        if best is None:
            return False
        _, place, self.part = best
        if self.part == "at":
            if p.shift:
                self.chosen = [c for c in self.chosen if c != place] if place in self.chosen else [*self.chosen, place]
            elif place not in self.chosen:
                self.chosen = [place]
            else:
                self.chosen = [place, *(c for c in self.chosen if c != place)]
        else:
            self.chosen = [place, *(c for c in self.chosen if c != place)]
        return True

    def _grab_segment(self, form: PathForm, m: Affine, p: Pointer) -> bool:
        from volumen.outline.forms import source_outline

        inverse = invert(m)
        if inverse is None:
            return False
        found = nearest(source_outline(form), apply(inverse, p.at))
        if found is None or not near(apply(m, found.at), p.at, 6):
            return False
        self.part, self.run, self.place = "segment", found.contour, found.place
        return True

    def move(self, p: Pointer) -> None:
        if self.part == "lasso":
            self.lasso.append(p.at)
            self.sheet.update()
            return
        found = self.target()
        if found is None or self.before is None or self.origin is None or not self.part:
            return
        shape = found[0]
        if not self.session.history.in_gesture and near(p.at, self.sheet.viewport.to_canvas(self.start), 2):
            return
        inverse = invert(world_of(self.before, shape.id))
        if inverse is None:
            return
        self.session.preview(self._put(self.before, shape, self._moved(self.origin, inverse, p, shape.id)))

    def _moved(self, form: PathForm, inverse: Affine, p: Pointer, shape_id: int) -> PathForm:
        if self.part == "at":
            r, i = self.chosen[0]
            world = invert(inverse)
            assert world is not None
            at = apply(world, form.runs[r].points[i].at)
            free = Pointer(p.at, (at[0] + p.sheet[0] - self.start[0], at[1] + p.sheet[1] - self.start[1]), p.shift)
            to = self.sheet.snap(free, without=(shape_id,))
            if p.shift:
                dx, dy = to[0] - at[0], to[1] - at[1]
                to = (to[0], at[1]) if abs(dx) > abs(dy) else (at[0], to[1])
            dx, dy = apply_vector(inverse, (to[0] - at[0], to[1] - at[1]))
            return edit.move(form, self.chosen, dx, dy)
        if self.part == "segment":
            dx, dy = apply_vector(inverse, (p.sheet[0] - self.start[0], p.sheet[1] - self.start[1]))
            return edit.drag_segment(form, self.run, self.place, dx, dy)
        to = apply(inverse, p.sheet)
        return edit.change(form, self.chosen[:1], lambda q: edit.drag_handle(q, self.part, to, p.alt))

    def abandon(self) -> None:
        super().abandon()
        self.before, self.part, self.lasso = None, "", []

    def release(self, p: Pointer) -> None:
        if self.part == "lasso":
            self._take_lasso(p)
        else:
            self.session.commit("move point" if self.part != "segment" else "bend segment")
        self.before, self.part, self.lasso = None, "", []
        self.session.tell(News.ACTIVE)
        self.sheet.update()

    def _take_lasso(self, p: Pointer) -> None:
        found = self.target()
        if len(self.lasso) < 4:
            chain = self.under(p)
            if not chain:
                self.session.select(())
            return
        if found is None:
            return
        ring = QPolygonF([QPointF(*q) for q in self.lasso])
        inside = [
            (r, i)
            for r, run in enumerate(found[1].runs)
            for i, point in enumerate(run.points)
            if ring.containsPoint(QPointF(*apply(found[2], point.at)), Qt.FillRule.OddEvenFill)
        ]
        self.chosen = list(dict.fromkeys([*self.chosen, *inside]))

    def double(self, p: Pointer) -> None:
        found = self.target()
        if found is None:
            return
        form, m = found[1:]
        if self._grab_point(form, m, p) and self.part == "at":
            r, i = self.chosen[0]
            q = form.runs[r].points[i]
            plain = q.smooth or q.arrive != q.at or q.leave != q.at
            self._apply("change point", edit.set_kind(form, [(r, i)], "corner" if plain else "smooth"))
        elif self._grab_segment(form, m, p):
            form, place = edit.add_point(form, self.run, self.place)
            self.chosen = [place]
            self._apply("add point", form)
        self.part = ""

    # -- keys and buttons

    def wants(self, key: int) -> bool:
        arrows = (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down)
        return bool(self.chosen) and key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete, *arrows)

    def key(self, key: int) -> bool:
        found = self.target()
        if found is None or not self.chosen:
            return False
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            form = edit.delete_points(found[1], self.chosen, bool(self.values["keep"]))
            self.chosen = []
            self._apply("delete points", form)
            return True
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        if key in steps:
            self._apply("move point", edit.move(found[1], self.chosen, *steps[Qt.Key(key)]))
            return True
        return False

    def option_changed(self, name: str, final: bool) -> None:
        found = self.target()
        if name in ("x", "y") and found and self.chosen:
            world = world_of(self.session.document, found[0].id)
            inverse = invert(world)
            if inverse is None:
                return
            r, i = self.chosen[0]
            at = apply(world, found[1].runs[r].points[i].at)
            to = (self.values["x"], at[1]) if name == "x" else (at[0], self.values["y"])
            dx, dy = apply_vector(inverse, (to[0] - at[0], to[1] - at[1]))
            form = edit.move(found[1], self.chosen, dx, dy)
            self.session.preview(self._put(self.session.document, found[0], form))
            if final:
                self.session.commit("place point")
        elif name == "tolerance" and found:
            fewer = edit.simplified(found[1], self.values["tolerance"])
            self.session.say(f"simplify: {edit.count(found[1])} points now, {edit.count(fewer)} at this tolerance")

    def refresh_options(self) -> None:
        """Bring x and y up to the first chosen point."""
        found = self.target()
        if found and self.chosen:
            r, i = self.chosen[0]
            self.values["x"], self.values["y"] = apply(
                world_of(self.session.document, found[0].id), found[1].runs[r].points[i].at
            )

    # -- painting

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if len(self.lasso) > 1:
            painter.setPen(QPen(QColor(theme.VERMILION), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(200, 64, 42, 22))
            painter.drawPolygon(QPolygonF([QPointF(*q) for q in self.lasso]))
        found = self.target()
        if not found:
            return
        _, form, m = found
        chosen = set(self.chosen)
        for r, run in enumerate(form.runs):
            for i, point in enumerate(run.points):
                at = apply(m, point.at)
                if (r, i) in chosen:
                    for handle in (point.arrive, point.leave):
                        if handle != point.at:
                            halo_line(painter, at, apply(m, handle))
                            dot(painter, apply(m, handle), INK, 3)
                mark = dot if point.smooth else diamond
                mark(painter, at, VERMILION if (r, i) in chosen else HALO)
