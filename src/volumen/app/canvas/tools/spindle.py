"""The spindle: a gradient's line on the canvas, its stops as drops, midpoints between them."""

from __future__ import annotations

import math

import msgspec
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from volumen.app import theme
from volumen.app.canvas.handles import AMBER, HALO, INK, diamond, dot, drop, halo_line
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Flag, Tool, near
from volumen.app.canvas.tools.spindle_shape import (
    GEOMETRIC,
    Geometric,
    active_gradient,
    at_parameter,
    dragged,
    ends,
    normal_at,
    parameter_near,
    side_point,
    slid,
)
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.compose.light import light_at
from volumen.edit import gradients, palette, recipes
from volumen.edit.gradients import with_stop_at
from volumen.geometry.affine import Affine, Point, apply, invert, multiply
from volumen.model.nodes import Document, Shape
from volumen.model.tree import find, update_nodes, world_of
from volumen.shading.carried import carried
from volumen.shading.paint import GRADIENTS, Colour, Linear, Paint, Radial

replace = msgspec.structs.replace
_LAMP_REACH = 4.0  # degrees within which the spindle turns into the lamp's direction
Found = tuple[Shape, int, Geometric, Affine]


class SpindleTool(Tool):
    """Works on a gradient by its line, stops and midpoints."""

    name = "spindle"
    icon = "blend"
    keys = "G"
    toolbox = (Shown(Stage.COLOUR, 10),)
    hint = "Drag ends, stops, midpoints, or across the shape. Double-click for a stop, <b>Shift</b> 15°, <b>Alt</b> at a centre: focus."
    options = (
        Flag("together", "all selected as one", True),
        Act("As one", "as_one", "stretch the first one's gradient over everything selected"),
        Act("Keep", "keep", "put this gradient into the palette and link to it"),
        Act("Detach", "detach", "no longer follow the palette's gradient"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.part: tuple[str, int] | None = None
        self.before: Document | None = None
        self.readout = ""

    def _found(self) -> Found | None:
        shape = next((n for n in self.session.nodes if isinstance(n, Shape)), None)
        found = active_gradient(shape, self.session.active)
        if shape is None or found is None:
            return None
        index, gradient = found
        m = multiply(self.sheet.viewport.affine(), world_of(self.session.document, shape.id))
        return shape, index, gradient, m

    def _places(self, gradient: Geometric, m: Affine) -> list[tuple[tuple[str, int], Point]]:
        """All handles, those that win a contest first."""
        out: list[tuple[tuple[str, int], Point]] = []
        for i, stop in enumerate(gradient.stops):
            (x, y), (nx, ny) = at_parameter(gradient, m, stop.at), normal_at(gradient, m, stop.at)
            out.append((("stop", i), (x + nx * 13, y + ny * 13)))
        for i, (s, t) in enumerate(zip(gradient.stops, gradient.stops[1:], strict=False)):
            if t.at - s.at > 0.02:
                out.append((("middle", i), at_parameter(gradient, m, s.at + (t.at - s.at) * s.middle)))
        a, b = ends(gradient, m)
        if isinstance(gradient, Linear):
            return [*out, (("start", 0), a), (("end", 0), b)]
        if isinstance(gradient, Radial):
            if gradient.focus != gradient.centre:
                out.append((("focus", 0), a))
            out.append((("side", 0), side_point(gradient, m)))
        out.append((("end", 0), b))
        centre = multiply(m, gradient.transform) if isinstance(gradient, Radial) else m
        out.append((("centre", 0), apply(centre, gradient.centre)))
        return out

    # -- gestures

    def press(self, p: Pointer) -> None:
        found = self._found()
        self.part, self.before = None, self.session.document
        if found:
            _, index, gradient, m = found
            for part, at in self._places(gradient, m):
                if near(at, p.at, 8):
                    if part == ("centre", 0) and p.alt:
                        part = ("focus", 0)
                    self.part = part
                    self.session.set_active(index, part[1] if part[0] == "stop" else self.session.active_stop)
                    return
        if self._on_line(p) is not None:
            return
        chain = self.under(p)
        if found and chain and chain[-1] in self.session.selection and isinstance(found[2], Linear):
            self.part = ("new", 0)  # a drag across the shape lays the gradient anew
            self.pressed = p
            return
        self.session.select((chain[-1],) if chain else ())

    def _on_line(self, p: Pointer) -> float | None:
        found = self._found()
        if not found:
            return None
        t, distance = parameter_near(found[2], found[3], p.at)
        return t if distance < 9 and -0.02 <= t <= 1.02 else None

    def move(self, p: Pointer) -> None:
        found = self._found()
        if self.part is None or not found:
            return
        _, _, gradient, m = found
        kind, i = self.part
        if kind in ("stop", "middle"):
            self._show(slid(gradient, kind, i, parameter_near(gradient, m, p.at)[0]))
            return
        inverse = invert(m)
        if inverse is None:
            return
        at = self._snapped(p, gradient, m)
        if kind == "new":
            assert isinstance(gradient, Linear)
            if not near(self.pressed.at, p.at, 4):
                self._show(replace(gradient, start=apply(inverse, self.pressed.at), end=apply(inverse, at)))
            return
        self._show(dragged(gradient, kind, apply(inverse, at), p.shift))

    def _snapped(self, p: Pointer, gradient: Geometric, m: Affine) -> Point:
        """The pointer, drawn to what snapping finds, or turned into the lamp's direction."""
        self.readout = ""
        if p.ctrl or self.part is None:
            return p.at
        if isinstance(gradient, Linear) and self.part[0] in ("start", "end", "new") and not p.shift:
            a, b = ends(gradient, m)
            fixed = self.pressed.at if self.part[0] == "new" else (b if self.part[0] == "start" else a)
            lamp = light_at(self.session.document, self.session.selection[0]).lamp
            turned = lamp_aligned(fixed, p.at, lamp.toward)
            if turned is not None:
                self.readout = "lamp"
                return turned
        to = self.sheet.snap(p)
        if self.sheet.snapped is None:
            return p.at
        self.readout = self.sheet.snapped.note
        return self.sheet.viewport.to_canvas(to)

    def _show(self, gradient: Paint) -> None:
        found = self._found()
        if found:
            self.session.preview(self._with(found, gradient))

    def _with(self, found: Found, gradient: Paint) -> Document:
        """The document with a changed gradient, on everything that shares it, and wherever it is linked."""
        shape, index, old, _ = found
        document = recipes.edit_alike(self.session.document, [shape.id], index, shape.recipe[index], paint=gradient)
        others = [n.id for n in self.session.nodes if isinstance(n, Shape) and n.id != shape.id]
        if others and self.values["together"]:
            world = world_of(document, shape.id)
            on_sheet, was = carried(gradient, world), carried(old, world)
            same = [i for i in others if shares(document, i, was)]
            document = gradients.spread(document, same, on_sheet)
            # Turned copies carry the same gradient in their own coordinates: they follow there.
            alike = [i for i in others if i not in same and carries(document, i, old)]
            document = update_nodes(
                document, alike, lambda n: gradients.with_paint(n, gradient) if isinstance(n, Shape) else n
            )
        return palette.follow_link(document, gradient)

    def abandon(self) -> None:
        super().abandon()
        self.part, self.readout = None, ""

    def release(self, p: Pointer) -> None:
        self.session.commit("change gradient")
        self.part, self.readout = None, ""
        self.sheet.update()

    def double(self, p: Pointer) -> None:
        t, found = self._on_line(p), self._found()
        if t is None or not found:
            return
        changed, stop = with_stop_at(found[2], min(max(t, 0.0), 1.0))
        self.session.cancel()
        self.session.apply("add stop", self._with(found, changed))
        self.session.set_active(found[1], stop)

    def wants(self, key: int) -> bool:
        return key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete) and self._found() is not None

    def key(self, key: int) -> bool:
        found = self._found()
        if key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and found and len(found[2].stops) > 1:
            gradient = found[2]
            i = min(self.session.active_stop, len(gradient.stops) - 1)
            stops = gradient.stops[:i] + gradient.stops[i + 1 :]
            self.session.apply("delete stop", self._with(found, replace(gradient, stops=stops)))
            self.session.set_active(found[1], max(i - 1, 0))
            return True
        return False

    def take_colour(self, p: Pointer, colour: Colour, swatch: int | None) -> bool:
        """A colour dropped on the canvas: the stop under it takes it. False if there is none."""
        found = self._found()
        if not found:
            return False
        _, index, gradient, m = found
        for (kind, i), at in self._places(gradient, m):
            if kind == "stop" and near(at, p.at, 12):
                stops = list(gradient.stops)
                stops[i] = replace(stops[i], colour=colour, swatch=swatch)
                self.session.apply("colour of a stop", self._with(found, replace(gradient, stops=tuple(stops))))
                self.session.set_active(index, i)
                return True
        return False

    # -- options

    def as_one(self) -> None:
        """One gradient over everything selected."""
        ids = [n.id for n in self.session.nodes if isinstance(n, Shape)]
        if len(ids) < 2:
            self.session.say("select several objects; the first one's gradient is taken")
            return
        self.session.apply("gradient across", gradients.across(self.session.document, ids))

    def keep(self) -> None:
        found = self._found()
        if not found:
            self.session.say("select an object with a gradient first")
            return
        shape, index, gradient, _ = found
        document, link = palette.save_gradient(self.session.document, gradient, f"{shape.name} gradient")
        document = recipes.edit_alike(
            document, [shape.id], index, shape.recipe[index], paint=replace(gradient, link=link)
        )
        self.session.apply("keep gradient", document)

    def detach(self) -> None:
        found = self._found()
        if found:
            shape, index, gradient, _ = found
            document = recipes.edit_alike(
                self.session.document, [shape.id], index, shape.recipe[index], paint=replace(gradient, link=None)
            )
            self.session.apply("detach gradient", document)

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        found = self._found()
        if not found:
            return
        _, _, gradient, m = found
        a, b = ends(gradient, m)
        if isinstance(gradient, Linear | Radial):
            halo_line(painter, a, b)
        else:
            ring = [at_parameter(gradient, m, k / 48) for k in range(49)]
            for p, q in zip(ring, ring[1:], strict=False):
                halo_line(painter, p, q)
        if isinstance(gradient, Radial):
            side = side_point(gradient, m)
            halo_line(painter, apply(multiply(m, gradient.transform), gradient.centre), side)
            dot(painter, side, HALO, 3.5, INK)
        for s, t in zip(gradient.stops, gradient.stops[1:], strict=False):
            if t.at - s.at > 0.02:
                diamond(painter, at_parameter(gradient, m, s.at + (t.at - s.at) * s.middle), HALO, 3.4)
        dot(painter, b, AMBER, 4.5)
        if not isinstance(gradient, Linear):
            centre = multiply(m, gradient.transform) if isinstance(gradient, Radial) else m
            dot(painter, apply(centre, gradient.centre), HALO, 4.5)
        dot(painter, a, HALO, 3.5 if isinstance(gradient, Radial) else 4.5, INK)
        for i, stop in enumerate(gradient.stops):
            at, side = at_parameter(gradient, m, stop.at), normal_at(gradient, m, stop.at)
            drop(painter, at, side, theme.qcolor(stop.colour.rgb), i == self.session.active_stop)
        self.tell(painter, self.readout)


def lamp_aligned(fixed: Point, at: Point, toward: Point) -> Point | None:
    """``at`` turned about ``fixed`` into the lamp's direction, or away from it, if it is nearly there."""
    dx, dy = at[0] - fixed[0], at[1] - fixed[1]
    size = math.hypot(dx, dy)
    if size < 12:
        return None
    for sign in (1, -1):
        x, y = toward[0] * sign, toward[1] * sign
        if abs(math.degrees(math.atan2(dx * y - dy * x, dx * x + dy * y))) < _LAMP_REACH:
            return (fixed[0] + x * size, fixed[1] + y * size)
    return None


def carries(document: Document, node_id: int, paint: Paint) -> bool:
    """Whether a shape's topmost fill has a paint, in its own coordinates."""
    node = find(document, node_id)
    return isinstance(node, Shape) and gradients.paint_of(node) == paint


def shares(document: Document, node_id: int, on_sheet: Paint) -> bool:
    """Whether a shape's gradient lies on the sheet where another one does, with the same stops."""
    node = find(document, node_id)
    paint = gradients.paint_of(node) if isinstance(node, Shape) else None
    if not isinstance(paint, GRADIENTS) or type(paint) is not type(on_sheet):
        return False
    own = carried(paint, world_of(document, node_id))
    if not isinstance(own, GEOMETRIC) or not isinstance(on_sheet, GEOMETRIC) or own.stops != on_sheet.stops:
        return False
    one, other = ends(own, (1, 0, 0, 1, 0, 0)), ends(on_sheet, (1, 0, 0, 1, 0, 0))
    return all(abs(p - q) < 0.05 for u, v in zip(one, other, strict=True) for p, q in zip(u, v, strict=True))
