"""Drawing forms: those in a box by dragging it, lines and arcs by their points, spirals from their centre."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app.canvas.handles import AMBER, dot
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Option, Tool, near, rounded_to
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit import objects
from volumen.geometry.affine import Point
from volumen.model.ingredients import Fill, Line, Recipe
from volumen.model.nodes import (
    ArcForm,
    CloudForm,
    Document,
    DropForm,
    EllipseForm,
    Form,
    PolygonForm,
    RectangleForm,
    SegmentForm,
    SpiralForm,
    StarForm,
)
from volumen.shading.paint import Solid, colour

DEFAULT_FILL = colour("#2b8577")
INK_LINE = Line(Solid(colour("#0d1c2a")), 3.0, "round", "round")
SIZE = (
    Option("width", "wide", 120, 0, 400, "", 0.01, is_length=True),
    Option("height", "high", 120, 0, 400, "", 0.01, is_length=True),
)


class DrawTool(Tool):
    """What tools that make a new shape share."""

    label = ""
    cursor = Qt.CursorShape.CrossCursor

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.start: Point | None = None
        self.pressed: Pointer | None = None
        self.before: Document | None = None
        self.made: int | None = None
        self.size = ""

    def recipe(self) -> Recipe:
        return (Fill(Solid(self.sheet.last_colour)),)

    def put(self, form: Form) -> None:
        """Show the shape as it would become."""
        assert self.before is not None
        name = objects.free_name(self.before, self.label)
        parent = self.session.isolated
        document, self.made = objects.add_shape(self.before, form, self.recipe(), name, parent)
        self.session.preview(document)

    def finish(self) -> None:
        if self.made is not None:
            self.session.commit(f"draw {self.label}")
            self.session.select((self.made,))
        self.reset()

    def reset(self) -> None:
        self.start = self.before = self.made = self.pressed = None
        self.sheet.snapped = None
        self.sheet.update()

    def hover(self, p: Pointer) -> None:
        self.sheet.snap(p)
        self.sheet.update()

    def key(self, key: int) -> bool:
        if key == Qt.Key.Key_Escape and self.start is not None:
            self.session.cancel()
            self.reset()
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        if self.made is not None:
            self.tell(painter, self.size)


class BoxTool(DrawTool):
    """Corner to corner; Shift for equal sides, Alt from the centre; a click makes one of the typed size."""

    def form(self, x: float, y: float, w: float, h: float) -> Form:
        raise NotImplementedError

    def press(self, p: Pointer) -> None:
        self.start, self.pressed = self.sheet.snap(p), p
        self.before, self.made = self.session.document, None

    def move(self, p: Pointer) -> None:
        if self.start is None or self.pressed is None or (self.made is None and near(p.at, self.pressed.at, 2)):
            return
        x0, y0 = self.start
        to = self.sheet.snap(p)
        w, h = to[0] - x0, to[1] - y0
        if p.shift:
            side = max(abs(w), abs(h))
            w, h = side if w >= 0 else -side, side if h >= 0 else -side
        if p.alt:
            x0, y0, w, h = x0 - w, y0 - h, 2 * w, 2 * h
        x, y, w, h = min(x0, x0 + w), min(y0, y0 + h), abs(w), abs(h)
        self.size = f"{w:.1f} × {h:.1f}"
        self.put(self.form(x, y, w, h))

    def release(self, p: Pointer) -> None:
        if self.made is None and self.start is not None:
            w, h = self.values["width"], self.values["height"]
            self.put(self.form(self.start[0] - w / 2, self.start[1] - h / 2, w, h))
        self.finish()


def _hint(what: str) -> str:
    return f"Drag to draw {what}, or click for one of the size typed at the left. <b>Shift</b> keeps it even, <b>Alt</b> draws from the centre."


def box_tool(
    tool_name: str, what: str, make: Callable[..., Form], row: tuple[str, str, int],
    extra: tuple[Option, ...] = (), whole: tuple[str, ...] = (),
) -> type[BoxTool]:  # fmt: skip
    """A tool for a form in a box: its ``row`` (icon, keys, place in the toolbox; from 30 on folded away), and in
    ``extra`` the form's own numbers, by its field names."""

    class Made(BoxTool):
        name = tool_name
        label = tool_name
        icon, keys = row[:2]
        toolbox = (Shown(Stage.DRAW, row[2], folded=row[2] >= 30),)
        hint = _hint(what)
        options = (*SIZE, *extra)

        def form(self, x: float, y: float, w: float, h: float) -> Form:
            own = {o.name: self.values[o.name] for o in extra}
            numbers = {k: int(v) if k in whole else v for k, v in own.items()}
            return make(x, y, w, h, **numbers)

    Made.__name__ = f"{tool_name.title()}Tool"
    return Made


EllipseTool = box_tool(
    "ellipse", "an ellipse", EllipseForm, ("circle", "E", 10), (Option("sweep", "sweep", 360, 1, 360, "°", 0.1),)
)
RectangleTool = box_tool(
    "rectangle",
    "a rectangle",
    RectangleForm,
    ("square", "R", 20),
    (Option("radius", "radius", 0, 0, 80, "", 0, is_length=True),),
)
PolygonTool = box_tool(
    "polygon", "a polygon", PolygonForm, ("hexagon", "Shift+R", 30),
    (Option("sides", "sides", 6, 3, 24, "", 3, True, 1000), Option("turn", "turn", 0, -180, 180, "°")), ("sides",),
)  # fmt: skip
StarTool = box_tool(
    "star", "a star", StarForm, ("star", "Shift+E", 40),
    (Option("points", "points", 5, 3, 40, "", 2, True, 1000), Option("inner", "inner", 0.45, 0.05, 1, "", 0)), ("points",),
)  # fmt: skip
DropTool = box_tool(
    "drop", "a drop", DropForm, ("droplet", "Shift+O", 50),
    (Option("bulge", "bulge", 0.5, 0, 1, "", 0, hard_high=1), Option("point", "point", 1, 0, 1, "", 0, hard_high=1)),
)  # fmt: skip
CloudTool = box_tool(
    "cloud", "a lobed cloud", CloudForm, ("cloud", "Shift+C", 60),
    (Option("count", "lobes", 9, 3, 60, "", 3, True, 1000), Option("depth", "depth", 0.8, 0, 1.5, "", 0, hard_high=1.5)), ("count",),
)  # fmt: skip


class SegmentTool(DrawTool):
    """Draws straight lines."""

    name = "segment"
    icon = "slash"
    keys = "Shift+L"
    toolbox = (Shown(Stage.DRAW, 70, folded=True),)
    label = "segment"
    hint = "Drag to draw a straight line. <b>Shift</b> steps 15°, <b>Alt</b> draws from its middle."

    def recipe(self) -> Recipe:
        return (INK_LINE,)

    def press(self, p: Pointer) -> None:
        self.start, self.pressed, self.before, self.made = self.sheet.snap(p), p, self.session.document, None

    def move(self, p: Pointer) -> None:
        if self.start is None or self.pressed is None or (self.made is None and near(p.at, self.pressed.at, 2)):
            return
        (x, y), to = self.start, self.sheet.snap(p, self.start)
        length, angle = math.dist((x, y), to), math.degrees(math.atan2(to[1] - y, to[0] - x))
        if p.shift:
            angle = rounded_to(angle, 15)
            to = (x + length * math.cos(math.radians(angle)), y + length * math.sin(math.radians(angle)))
        self.size = f"{length:.1f} · {angle:.1f}°"
        self.put(SegmentForm((2 * x - to[0], 2 * y - to[1]) if p.alt else (x, y), to))

    def release(self, p: Pointer) -> None:
        self.finish()


class ArcTool(DrawTool):
    """Draws an arc through three points."""

    name = "arc"
    icon = "rainbow"
    keys = "Shift+A"
    toolbox = (Shown(Stage.DRAW, 80, folded=True),)
    label = "arc"
    hint = "Click the two ends of an arc, then a point that it runs through."

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.points: list[Point] = []

    def recipe(self) -> Recipe:
        return (INK_LINE,)

    def press(self, p: Pointer) -> None:
        self.points.append(self.sheet.snap(p))
        self.start = self.points[0]
        if len(self.points) == 3:
            if self.before is None:
                self.before = self.session.document
            self.put(ArcForm(self.points[0], self.points[2], self.points[1]))
            self.finish()

    def hover(self, p: Pointer) -> None:
        at = self.sheet.snap(p)
        if len(self.points) == 2:
            self.before = self.session.history.committed
            self.put(ArcForm(self.points[0], at, self.points[1]))
            self.size = ""
        self.sheet.update()

    def reset(self) -> None:
        self.points = []
        super().reset()

    def leave(self) -> None:
        self.session.cancel()
        self.reset()

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        for p in self.points:
            dot(painter, self.sheet.viewport.to_canvas(p), AMBER, 4)


class SpiralTool(DrawTool):
    """Draws spirals from their centre."""

    name = "spiral"
    icon = "shell"
    keys = "Shift+Q"
    toolbox = (Shown(Stage.DRAW, 90, folded=True),)
    label = "spiral"
    hint = "Drag from the centre outwards to draw a spiral. <b>Shift</b> steps 15°."
    options = (
        Option("turns", "turns", 3, -12, 12, "", -1000, hard_high=1000),
        Option("inner", "inner", 0, 0, 100, "", 0, is_length=True),
    )

    def recipe(self) -> Recipe:
        return (INK_LINE,)

    def press(self, p: Pointer) -> None:
        self.start, self.pressed, self.before, self.made = self.sheet.snap(p), p, self.session.document, None

    def move(self, p: Pointer) -> None:
        if self.start is None or self.pressed is None or (self.made is None and near(p.at, self.pressed.at, 2)):
            return
        to = self.sheet.snap(p)
        radius = math.dist(self.start, to)
        angle = math.degrees(math.atan2(to[1] - self.start[1], to[0] - self.start[0]))
        angle = rounded_to(angle, 15) if p.shift else angle
        self.size = f"radius {radius:.1f}"
        inner = min(self.values["inner"], radius)
        self.put(SpiralForm(self.start, radius, inner, self.values["turns"] or 1.0, angle))

    def release(self, p: Pointer) -> None:
        self.finish()


SHAPE_TOOLS: tuple[type[Tool], ...] = (
    EllipseTool, RectangleTool, PolygonTool, StarTool, DropTool, CloudTool, SegmentTool, ArcTool, SpiralTool,
)  # fmt: skip
