"""Drawing ellipses and rectangles by dragging their box."""

from __future__ import annotations

from PySide6.QtCore import Qt

from volumen.app.handles import tag
from volumen.app.tools.base import Pointer, Tool, near
from volumen.edit import objects
from volumen.model.ingredients import Fill
from volumen.model.nodes import Document, EllipseForm, Form, RectangleForm
from volumen.shading.paint import Solid, colour

DEFAULT_FILL = colour("#2b8577")


class BoxTool(Tool):
    """The common drag: corner to corner, Shift for equal sides, Alt from the centre."""

    label = ""
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, canvas) -> None:  # type: ignore[no-untyped-def]
        super().__init__(canvas)
        self.start: Pointer | None = None
        self.before: Document | None = None
        self.made: int | None = None
        self.size = ""

    def form(self, x: float, y: float, w: float, h: float) -> Form:
        raise NotImplementedError

    def press(self, p: Pointer) -> None:
        self.start, self.before, self.made = p, self.session.document, None

    def move(self, p: Pointer) -> None:
        if self.start is None or self.before is None or (self.made is None and near(p.at, self.start.at, 2)):
            return
        x0, y0 = self.start.sheet
        w, h = p.sheet[0] - x0, p.sheet[1] - y0
        if p.shift:
            side = max(abs(w), abs(h))
            w, h = side if w >= 0 else -side, side if h >= 0 else -side
        if p.alt:
            x0, y0, w, h = x0 - w, y0 - h, 2 * w, 2 * h
        x, y, w, h = min(x0, x0 + w), min(y0, y0 + h), abs(w), abs(h)
        self.size = f"{w:.1f} × {h:.1f}"
        recipe = (Fill(Solid(self.canvas.last_colour)),)
        name = objects.copy_name(self.before, self.label) if self._taken() else self.label
        document, self.made = objects.add_shape(self.before, self.form(x, y, w, h), recipe, name)
        self.session.preview(document)

    def _taken(self) -> bool:
        from volumen.model.tree import walk

        return self.before is not None and any(n.name == self.label for n in walk(self.before.root))

    def release(self, p: Pointer) -> None:
        if self.made is not None:
            self.session.commit(f"draw {self.label}")
            self.session.select((self.made,))
        self.start = self.before = self.made = None
        self.canvas.update()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.start is not None:
            self.session.cancel()
            self.start = self.before = self.made = None
            return True
        return False

    def paint(self, painter) -> None:  # type: ignore[no-untyped-def]
        self.canvas.paint_outlines(painter)
        if self.made is not None and self.canvas.pointer is not None:
            tag(painter, (self.canvas.pointer[0] + 14, self.canvas.pointer[1] + 12), self.size)


class EllipseTool(BoxTool):
    name = "ellipse"
    label = "ellipse"
    hint = "Drag to draw an ellipse. <b>Shift</b> makes a circle, <b>Alt</b> draws from the centre."

    def form(self, x: float, y: float, w: float, h: float) -> Form:
        return EllipseForm(x, y, w, h)


class RectangleTool(BoxTool):
    name = "rectangle"
    label = "rectangle"
    hint = "Drag to draw a rectangle; set its corner radius in the recipe. <b>Shift</b> makes a square, <b>Alt</b> draws from the centre."

    def form(self, x: float, y: float, w: float, h: float) -> Form:
        return RectangleForm(x, y, w, h)
