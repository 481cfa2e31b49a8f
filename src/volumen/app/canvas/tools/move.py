"""Select, move, scale, turn about a movable centre, duplicate by drag."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import HALO, INK, brackets, diamond, dot, halo_line, tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool, near, rounded_to
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.edit.arrange import keep_lengths
from volumen.geometry.affine import Affine, Point, mean_scale, rotation, scaling, translation
from volumen.geometry.path import Box
from volumen.model.nodes import Document
from volumen.model.tree import find, world_of
from volumen.outline.hit import hit_guide, hit_member, touches

# Where a handle sits on the box, and which opposite point stays when it is dragged.
_HANDLES = {
    "nw": (0.0, 0.0), "n": (0.5, 0.0), "ne": (1.0, 0.0), "e": (1.0, 0.5),
    "se": (1.0, 1.0), "s": (0.5, 1.0), "sw": (0.0, 1.0), "w": (0.0, 0.5),
}  # fmt: skip
_TURN_GAP = 26


class MoveTool(Tool):
    """Chooses, moves, scales and turns objects."""

    name = "move"
    icon = "move"
    keys = "M"
    toolbox = (Shown(Stage.DRAW, 0), Shown(Stage.CARVE, 0), Shown(Stage.COLOUR, 0), Shown(Stage.LIGHT, 10))
    hint = "Click selects, double-click goes inside. <b>Alt</b> drags a copy, <b>Shift</b> keeps direction, <b>Ctrl</b> selects inside or moves the centre."

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.mode = ""
        self.start = Pointer((0, 0), (0, 0))
        self.before: Document | None = None
        self.box: Box | None = None
        self.centre: Point | None = None  # a moved centre; None is the middle of the box
        self.centre_for: tuple[int, ...] = ()
        self.copies: list[int] = []
        self.grip: Point | None = None
        self.last: Affine | None = None  # the transform of the last gesture, for doing it again
        self.readout = ""
        self.marquee: tuple[Point, Point] | None = None
        self.leaves: int | None = None  # what a Shift-click takes out of the selection

    # -- the box and its handles

    def selection_box(self) -> Box | None:
        return objects.selection_box(self.session.document, self.session.selection)

    def turn_centre(self, box: Box) -> Point:
        if self.centre is not None and self.centre_for == self.session.selection:
            return self.centre
        return ((box[0] + box[2]) / 2, (box[1] + box[3]) / 2)

    def _handle_places(self, box: Box) -> dict[str, Point]:
        to = self.sheet.viewport.to_canvas
        places = {
            k: to((box[0] + fx * (box[2] - box[0]), box[1] + fy * (box[3] - box[1])))
            for k, (fx, fy) in _HANDLES.items()
        }
        places["turn"] = (places["n"][0], places["n"][1] - _TURN_GAP)
        places["centre"] = to(self.turn_centre(box))
        return places

    def _grabbed(self, at: Point, ctrl: bool) -> str:
        box = self.selection_box()
        if box is None:
            return ""
        places = self._handle_places(box)
        small = min(places["e"][0] - places["w"][0], places["s"][1] - places["n"][1]) < 30
        for name in ("turn", "nw", "ne", "se", "sw", "n", "e", "s", "w"):
            if not (small and len(name) == 1) and near(places[name], at, 8):
                return name
        # Only with Ctrl: otherwise a drag from the middle of an object would move the centre instead of it.
        return "centre" if ctrl and near(places["centre"], at, 7) else ""

    # -- gestures

    def press(self, p: Pointer) -> None:
        session = self.session
        self.start, self.before, self.readout, self.leaves = p, session.document, "", None
        self.mode = self._grabbed(p.at, p.ctrl)
        self.box = self.selection_box()
        if self.mode:
            return
        if self._holds_guide(p):
            self.mode = "move"
            return
        chain = self.under(p)
        if session.isolated is not None:  # only what lies inside the isolated branch can be chosen
            chain = chain[chain.index(session.isolated) + 1 :] if session.isolated in chain else []
        guide = hit_guide(session.document, session.selection, p.sheet) if not chain and not p.shift else None
        if guide is not None:
            chain = [guide]
        if not chain:
            self.mode = "marquee"
            self.marquee = (p.sheet, p.sheet)
            if not p.shift:
                session.select(())
            return
        target = self._target(chain, p.ctrl)
        if p.shift:  # what is chosen already leaves the selection when it is let go where it was pressed
            self.leaves = target if target in session.selection else None
            if self.leaves is None:
                session.select((*session.selection, target))
        elif target not in session.selection and not set(chain) & set(session.selection):
            session.select((target,))
        self.mode = "move" if session.selection else ""
        self.box = self.selection_box()
        near_point = None
        if session.snapping:
            kinds = session.snap_kinds & {"points", "crossings", "midpoints"}
            near_point = self.sheet.snap_field().snap(p.sheet, 7 / self.sheet.viewport.scale, kinds)
        self.grip = near_point.at if near_point else None  # a point taken hold of snaps to other points

    def _holds_guide(self, p: Pointer) -> bool:
        """Whether what is chosen alone is not painted, and the pointer is in its inside: it is moved by that."""
        chosen = self.session.selection
        return len(chosen) == 1 and not p.shift and hit_guide(self.session.document, chosen, p.sheet) == chosen[0]

    def _target(self, chain: list[int], deep: bool) -> int:
        """The outermost group under the pointer; inside a shape that holds others, the innermost."""
        from volumen.model.nodes import Group

        if deep:
            return chain[-1]
        for node_id in chain:
            if isinstance(find(self.session.document, node_id), Group):
                return node_id
        return chain[-1]

    def move(self, p: Pointer) -> None:
        if not self.mode or self.before is None:
            return
        if self.mode == "marquee":
            assert self.marquee is not None
            self.marquee = (self.marquee[0], p.sheet)
            self.sheet.update()
        elif self.mode == "centre":
            self.centre, self.centre_for = self.sheet.snap(p), self.session.selection
            self.sheet.update()
        elif self.mode == "move":
            self._drag(p)
        elif self.box is not None:
            m = self._turn(p) if self.mode == "turn" else self._scale(p)
            self.last = m
            document = objects.transform(self.before, self.session.selection, m)
            if self.session.keep_lengths and self.mode != "turn":
                document = keep_lengths(document, self.session.selection, mean_scale(m))
            self.session.preview(document)

    def _drag(self, p: Pointer) -> None:
        dx, dy = p.sheet[0] - self.start.sheet[0], p.sheet[1] - self.start.sheet[1]
        if not self.session.history.in_gesture and near(p.at, self.start.at, 3):
            return
        if p.shift:
            dx, dy = (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)
        assert self.before is not None
        (sx, sy), why = self._snapped(dx, dy)
        dx, dy = dx + (sx if not p.shift or dx else 0.0), dy + (sy if not p.shift or dy else 0.0)
        self.last = translation(dx, dy)
        document, ids = self.before, list(self.session.selection)
        if p.alt or self.copies:
            document, self.copies = objects.duplicate(document, ids)
            ids = self.copies
        self.readout = f"{dx:+.1f}  {dy:+.1f}" + (f"   {why}" if why else "")
        self.session.preview(objects.transform(document, ids, translation(dx, dy)))

    def _snapped(self, dx: float, dy: float) -> tuple[Point, str]:
        """What the moving box, or the point it was grabbed at, falls into place with."""
        session = self.session
        if not session.snapping or self.box is None:
            return (0.0, 0.0), ""
        reach = 7 / self.sheet.viewport.scale
        field = self.sheet.snap_field(session.selection)
        grip = field.snap(
            (self.grip[0] + dx, self.grip[1] + dy), reach, session.snap_kinds & {"points", "crossings", "midpoints"}
        ) if self.grip is not None else None  # fmt: skip
        if grip is not None and self.grip is not None:
            return (grip.at[0] - self.grip[0] - dx, grip.at[1] - self.grip[1] - dy), f"{grip.note} to {grip.note}"
        l, t, r, b = self.box
        return field.snap_box((l + dx, t + dy, r + dx, b + dy), reach, session.snap_kinds)

    def _turn(self, p: Pointer) -> Affine:
        assert self.box is not None
        cx, cy = self.turn_centre(self.box)
        a = math.degrees(math.atan2(self.start.sheet[1] - cy, self.start.sheet[0] - cx))
        b = math.degrees(math.atan2(p.sheet[1] - cy, p.sheet[0] - cx))
        angle = (b - a + 180) % 360 - 180
        if p.shift:
            angle = rounded_to(angle, 15)
        self.readout = f"{angle:.1f}°"
        return rotation(angle, (cx, cy))

    def _scale(self, p: Pointer) -> Affine:
        assert self.box is not None
        l, t, r, b = self.box
        fx, fy = _HANDLES[self.mode]
        w, h = max(r - l, 1e-6), max(b - t, 1e-6)
        anchor = (l + (1 - fx) * w, t + (1 - fy) * h)
        if p.alt:
            anchor = self.turn_centre(self.box)
        grip = (l + fx * w, t + fy * h)
        dx, dy = p.sheet[0] - self.start.sheet[0], p.sheet[1] - self.start.sheet[1]
        sx = (grip[0] + dx - anchor[0]) / (grip[0] - anchor[0]) if fx != 0.5 and grip[0] != anchor[0] else 1.0
        sy = (grip[1] + dy - anchor[1]) / (grip[1] - anchor[1]) if fy != 0.5 and grip[1] != anchor[1] else 1.0
        if len(self.mode) == 2 and not p.shift:  # corners keep the proportions unless Shift frees them
            k = sx if abs(sx - 1) > abs(sy - 1) else sy
            sx = sy = k
        sx, sy = (s if abs(s) > 1e-3 else 1e-3 for s in (sx, sy))
        self.readout = f"{abs(sx) * 100:.0f} %" if sx == sy else f"{sx * 100:.0f} % × {sy * 100:.0f} %"
        return scaling(sx, sy, anchor)

    def release(self, p: Pointer) -> None:
        labels = {"move": "duplicate" if self.copies else "move", "turn": "turn"}
        if self.mode == "marquee" and self.marquee is not None:
            self._select_marquee(p.shift)
        elif self.leaves is not None and not self.session.history.in_gesture:
            self.session.select([i for i in self.session.selection if i != self.leaves])
        elif self.session.history.in_gesture:
            copies = self.copies
            self.session.commit(labels.get(self.mode, "scale"))
            if copies:
                self.session.select(copies)
        self.mode, self.copies, self.before, self.marquee, self.readout = "", [], None, None, ""
        self.sheet.update()

    def _select_marquee(self, add: bool) -> None:
        assert self.marquee is not None
        (x0, y0), (x1, y1) = self.marquee
        frame = (min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
        document = self.session.document
        found = []
        inside = find(document, self.session.isolated) if self.session.isolated is not None else None
        parent = inside or document.root
        world = world_of(document, parent.id)
        found += [n.id for n in parent.children if not n.locked and touches(n, world, frame)]
        self.session.select((*self.session.selection, *found) if add else tuple(found))

    def double(self, p: Pointer) -> None:
        chain = self.under(p)
        guide = hit_guide(self.session.document, self.session.selection, p.sheet)
        if guide is not None:
            self.session.select((guide,))
        elif chain:
            inner = hit_member(self.session.document, chain[-1], p.sheet)
            self.session.select((chain[-1] if inner is None or chain[-1] not in self.session.selection else inner,))

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.mode:
            self.session.cancel()
            self.mode, self.copies, self.marquee = "", [], None
            self.sheet.update()
            return True
        return False

    # -- painting

    def paint(self, painter: QPainter) -> None:
        if self.marquee is not None:
            to = self.sheet.viewport.to_canvas
            a, b = to(self.marquee[0]), to(self.marquee[1])
            painter.setPen(QPen(QColor(theme.VERMILION), 1, Qt.PenStyle.DashLine))
            painter.setBrush(QColor(200, 64, 42, 22))
            painter.drawRect(QRectF(QPointF(*a), QPointF(*b)).normalized())
            return
        box = self.selection_box()
        if box is None:
            return
        places = self._handle_places(box)
        rect = QRectF(QPointF(*places["nw"]), QPointF(*places["se"]))
        brackets(painter, rect)
        if self.mode == "move" and self.session.history.in_gesture:
            tag(painter, (rect.right() + 8, rect.bottom() + 6), self.readout)
            return
        if min(rect.width(), rect.height()) >= 30:
            for name in ("n", "e", "s", "w"):
                diamond(painter, places[name], radius=3.6)
            halo_line(
                painter, (places["centre"][0] - 5, places["centre"][1]), (places["centre"][0] + 5, places["centre"][1])
            )
            halo_line(
                painter, (places["centre"][0], places["centre"][1] - 5), (places["centre"][0], places["centre"][1] + 5)
            )
        halo_line(painter, (places["n"][0], places["n"][1] - 5), (places["turn"][0], places["turn"][1] + 5))
        dot(painter, places["turn"], HALO, 4.5, INK)
        if self.readout:
            tag(painter, (rect.right() + 8, rect.bottom() + 6), self.readout)
