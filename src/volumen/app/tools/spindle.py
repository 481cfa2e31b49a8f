"""The spindle: a gradient's line on the canvas, its stops as drops, midpoints between them."""

from __future__ import annotations

import msgspec
import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app import theme
from volumen.app.handles import AMBER, HALO, INK, diamond, dot, drop, halo_line
from volumen.app.tools.base import Pointer, Tool, near
from volumen.edit import recipes
from volumen.geometry.affine import Affine, Point, apply, invert, multiply
from volumen.model.ingredients import Fill, Line
from volumen.model.nodes import Shape
from volumen.model.tree import world_of
from volumen.shading.paint import Colour, Gradient, Linear, Radial, Stop
from volumen.shading.ramp import ramp, sorted_stops

replace = msgspec.structs.replace


def active_gradient(shape: Shape | None, active: int | None) -> tuple[int, Gradient] | None:
    """The gradient that handles belong to: of the open card, else the topmost one of the shape."""
    if shape is None:
        return None
    order = list(range(len(shape.recipe) - 1, -1, -1))
    if active is not None and active < len(shape.recipe):
        order.insert(0, active)
    for i in order:
        ingredient = shape.recipe[i]
        if isinstance(ingredient, Fill | Line) and ingredient.on and isinstance(ingredient.paint, Linear | Radial):
            return i, ingredient.paint
    return None


def with_stop_at(gradient: Gradient, at: float) -> tuple[Gradient, int]:
    """The gradient with a stop more, of the colour already there; the stop's index."""
    stops = sorted_stops(gradient.stops)
    r, g, b, a = (float(v) for v in ramp(stops, np.array([at]), gradient.oklab)[0])
    stops = sorted_stops((*stops, Stop(at, Colour(r, g, b, a))))
    return replace(gradient, stops=stops), max(i for i, s in enumerate(stops) if s.at == at)


class SpindleTool(Tool):
    name = "spindle"
    hint = "Drag ends, stops and midpoints. Double-click the line for a new stop, <b>Delete</b> removes the chosen one, <b>Shift</b> steps 15°."

    def __init__(self, canvas) -> None:  # type: ignore[no-untyped-def]
        super().__init__(canvas)
        self.part: tuple[str, int] | None = None

    def _found(self) -> tuple[Shape, int, Gradient, Affine] | None:
        shape = self.session.only_shape
        found = active_gradient(shape, self.session.active)
        if shape is None or found is None:
            return None
        index, gradient = found
        m = multiply(self.canvas.viewport.affine(), world_of(self.session.document, shape.id))
        if isinstance(gradient, Radial):
            m = multiply(m, gradient.transform)
        return shape, index, gradient, m

    def _ends(self, gradient: Gradient, m: Affine) -> tuple[Point, Point]:
        if isinstance(gradient, Linear):
            return apply(m, gradient.start), apply(m, gradient.end)
        cx, cy = gradient.centre
        return apply(m, gradient.focus), apply(m, (cx + gradient.radius, cy))

    def _places(self, gradient: Gradient, m: Affine) -> list[tuple[tuple[str, int], Point]]:
        """All handles, those that win a contest first."""
        a, b = self._ends(gradient, m)
        nx, ny = _normal(a, b)
        out: list[tuple[tuple[str, int], Point]] = []
        for i, stop in enumerate(gradient.stops):
            x, y = _between(a, b, stop.at)
            out.append((("stop", i), (x + nx * 13, y + ny * 13)))
        for i, (s, t) in enumerate(zip(gradient.stops, gradient.stops[1:], strict=False)):
            if t.at - s.at > 0.02:
                out.append((("middle", i), _between(a, b, s.at + (t.at - s.at) * s.middle)))
        if isinstance(gradient, Radial):
            if gradient.focus != gradient.centre:
                out.append((("focus", 0), a))
            out.append((("end", 0), b))
            out.append((("centre", 0), apply(m, gradient.centre)))
        else:
            out += [(("start", 0), a), (("end", 0), b)]
        return out

    def press(self, p: Pointer) -> None:
        found = self._found()
        self.part = None
        if found:
            _, index, gradient, m = found
            for part, at in self._places(gradient, m):
                if near(at, p.at, 8):
                    if part == ("centre", 0) and p.alt:
                        part = ("focus", 0)
                    self.part = part
                    self.session.set_active(index, part[1] if part[0] == "stop" else self.session.active_stop)
                    return
        chain = self.under(p)
        if not self._on_line(p):
            self.session.select((chain[-1],) if chain else ())

    def _on_line(self, p: Pointer) -> float | None:
        found = self._found()
        if not found:
            return None
        a, b = self._ends(found[2], found[3])
        t, distance = _project(a, b, p.at)
        return t if distance < 9 and -0.02 <= t <= 1.02 else None

    def move(self, p: Pointer) -> None:
        found = self._found()
        if self.part is None or not found:
            return
        shape, index, gradient, m = found
        changed = self._dragged(gradient, m, p)
        document = recipes.edit_alike(self.session.document, [shape.id], index, shape.recipe[index], paint=changed)
        self.session.preview(document)

    def _dragged(self, gradient: Gradient, m: Affine, p: Pointer) -> Gradient:
        assert self.part is not None
        kind, i = self.part
        a, b = self._ends(gradient, m)
        if kind in ("stop", "middle"):
            t = min(max(_project(a, b, p.at)[0], 0.0), 1.0)
            return self._slid(gradient, kind, i, t)
        inverse = invert(m)
        if inverse is None:
            return gradient
        x, y = apply(inverse, p.at)
        if isinstance(gradient, Linear):
            fixed = gradient.end if kind == "start" else gradient.start
            at = _stepped(fixed, (x, y)) if p.shift else (x, y)
            return replace(gradient, **{kind: at})
        cx, cy = gradient.centre
        if kind == "centre":
            fx, fy = gradient.focus
            return replace(gradient, centre=(x, y), focus=(fx + x - cx, fy + y - cy))
        if kind == "focus":
            return replace(gradient, focus=(x, y))
        return replace(gradient, radius=max(((x - cx) ** 2 + (y - cy) ** 2) ** 0.5, 1e-3))

    def _slid(self, gradient: Gradient, kind: str, i: int, t: float) -> Gradient:
        stops = list(gradient.stops)
        if kind == "stop":  # a stop moves between its neighbours, so the order never changes under the hand
            low = stops[i - 1].at if i else 0.0
            high = stops[i + 1].at if i + 1 < len(stops) else 1.0
            stops[i] = replace(stops[i], at=min(max(t, low), high))
        else:
            span = stops[i + 1].at - stops[i].at
            stops[i] = replace(stops[i], middle=min(max((t - stops[i].at) / max(span, 1e-6), 0.02), 0.98))
        return replace(gradient, stops=tuple(stops))

    def release(self, p: Pointer) -> None:
        self.session.commit("change gradient")
        self.part = None

    def double(self, p: Pointer) -> None:
        t, found = self._on_line(p), self._found()
        if t is None or not found:
            return
        shape, index, gradient, _ = found
        changed, stop = with_stop_at(gradient, min(max(t, 0.0), 1.0))
        self.session.cancel()
        document = recipes.edit_alike(self.session.document, [shape.id], index, shape.recipe[index], paint=changed)
        self.session.apply("add stop", document)
        self.session.set_active(index, stop)

    def wants(self, key: int) -> bool:
        return key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self._found() is not None

    def key(self, key: int) -> bool:
        found = self._found()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and found and len(found[2].stops) > 1:
            shape, index, gradient, _ = found
            i = min(self.session.active_stop, len(gradient.stops) - 1)
            stops = gradient.stops[:i] + gradient.stops[i + 1 :]
            document = recipes.edit_alike(
                self.session.document, [shape.id], index, shape.recipe[index], paint=replace(gradient, stops=stops)
            )
            self.session.apply("delete stop", document)
            self.session.set_active(index, max(i - 1, 0))
            return True
        return False

    def paint(self, painter: QPainter) -> None:
        self.canvas.paint_outlines(painter)
        found = self._found()
        if not found:
            return
        _, _, gradient, m = found
        a, b = self._ends(gradient, m)
        normal = _normal(a, b)
        halo_line(painter, a, b)
        for i, (s, t) in enumerate(zip(gradient.stops, gradient.stops[1:], strict=False)):
            if t.at - s.at > 0.02:
                diamond(painter, _between(a, b, s.at + (t.at - s.at) * gradient.stops[i].middle), HALO, 3.4)
        dot(painter, b, AMBER, 4.5)
        if isinstance(gradient, Radial):
            dot(painter, apply(m, gradient.centre), HALO, 4.5)
        dot(painter, a, HALO, 3.5 if isinstance(gradient, Radial) else 4.5, INK)
        for i, stop in enumerate(gradient.stops):
            drop(painter, _between(a, b, stop.at), normal, theme.qcolor(stop.colour.rgb), i == self.session.active_stop)


def _between(a: Point, b: Point, t: float) -> Point:
    return (a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t)


def _normal(a: Point, b: Point) -> Point:
    dx, dy = b[0] - a[0], b[1] - a[1]
    n = (dx * dx + dy * dy) ** 0.5 or 1.0
    return (-dy / n, dx / n)


def _project(a: Point, b: Point, p: Point) -> tuple[float, float]:
    """The parameter of the nearest point on the line a-b, and its distance from p."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    size = dx * dx + dy * dy or 1e-9
    t = ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / size
    x, y = _between(a, b, t)
    return t, ((p[0] - x) ** 2 + (p[1] - y) ** 2) ** 0.5


def _stepped(fixed: Point, at: Point) -> Point:
    """``at`` turned about ``fixed`` to the nearest 15 degrees."""
    z = complex(at[0] - fixed[0], at[1] - fixed[1])
    angle = round(np.angle(z, deg=True) / 15) * 15
    z = abs(z) * np.exp(1j * np.radians(angle))
    return (fixed[0] + float(z.real), fixed[1] + float(z.imag))
