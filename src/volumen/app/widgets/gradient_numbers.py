"""Where a gradient lies, in numbers on the sheet: its ends, or centre, radius, focus, and its turn."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Protocol

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from volumen.app.widgets.number import NumberField
from volumen.geometry.affine import IDENTITY, Affine, Point, apply, invert, mean_scale, multiply, rotation
from volumen.shading.carried import carried
from volumen.shading.paint import Conic, Linear, Paint, Radial

_POINTS: dict[type, tuple[str, ...]] = {Linear: ("start", "end"), Radial: ("centre", "focus"), Conic: ("centre",)}


def turn_of(paint: Paint) -> float:
    """The direction of a gradient in degrees, 0 to the right, clockwise."""
    if isinstance(paint, Linear):
        return math.degrees(math.atan2(paint.end[1] - paint.start[1], paint.end[0] - paint.start[0]))
    if isinstance(paint, Radial):
        return math.degrees(math.atan2(paint.transform[1], paint.transform[0]))
    return paint.turn if isinstance(paint, Conic) else 0.0


def turned(paint: Paint, turn: float) -> Paint:
    """A gradient turned to a direction: a linear one about its start, others about their centre."""
    by = turn - turn_of(paint)
    if isinstance(paint, Linear):
        return replace(paint, end=apply(rotation(by, paint.start), paint.end))
    if isinstance(paint, Radial):
        centre = apply(paint.transform, paint.centre)
        return replace(paint, transform=multiply(rotation(by, centre), paint.transform))
    return replace(paint, turn=turn) if isinstance(paint, Conic) else paint


class Emitter(Protocol):
    """A signal of an object."""

    def emit(self, *values: object) -> None: ...


class GradientNumbers(QWidget):
    """Fields for the gradient that is shown; ``done`` carries the changed paint, in the object's own coordinates."""

    preview = Signal(object)
    done = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.paint: Paint | None = None
        self.place: Affine = IDENTITY
        self.grid = QGridLayout(self)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setHorizontalSpacing(4)
        self.grid.setVerticalSpacing(2)
        self.fields: dict[str, NumberField] = {}
        self._rows: dict[str, list[QWidget]] = {}
        for row, (name, parts) in enumerate(
            (("start", "xy"), ("end", "xy"), ("centre", "xy"), ("focus", "xy"), ("radius", "r"), ("turn", "t"))
        ):
            label = QLabel(name)
            label.setObjectName("quiet")
            label.setFixedWidth(76)
            self.grid.addWidget(label, row, 0)
            self._rows[name] = [label]
            for k, part in enumerate(parts):
                field = NumberField(f"{name} {part}" if parts == "xy" else name, "°" if part == "t" else "")
                field.set_length(part != "t").low = 1e-3 if part == "r" else -1e9
                key = f"{name} {part}" if parts == "xy" else name
                field.preview.connect(self._sender(key, self.preview))
                field.done.connect(self._sender(key, self.done))
                self.fields[key] = field
                self._rows[name].append(field)
                self.grid.addWidget(field, row, 1 + k)

    def _sender(self, key: str, signal: Emitter) -> Callable[[float], None]:
        return lambda value: signal.emit(self.changed(key, value))

    def show_paint(self, paint: Paint, place: Affine) -> None:
        """Show where a gradient lies; ``place`` is that of the object on the sheet."""
        self.paint, self.place = paint, place
        names = _POINTS.get(type(paint), ())
        shown = {*names, *(("radius",) if isinstance(paint, Radial) else ()), *(("turn",) if names else ())}
        for name, widgets in self._rows.items():
            for widget in widgets:
                widget.setVisible(name in shown)
        self.setVisible(bool(names))
        if not names:
            return
        for name in names:
            x, y = apply(self.place, self._point(paint, name))
            self.fields[f"{name} x"].show_value(x)
            self.fields[f"{name} y"].show_value(y)
        on_sheet = carried(paint, place)
        self.fields["turn"].show_value(turn_of(on_sheet))
        if isinstance(paint, Radial):
            self.fields["radius"].show_value(paint.radius * mean_scale(multiply(place, paint.transform)))

    def _point(self, paint: Paint, name: str) -> Point:
        point: Point = getattr(paint, name)
        return apply(paint.transform, point) if isinstance(paint, Radial) else point

    def changed(self, key: str, value: float) -> Paint:
        """The paint with one number changed."""
        paint, back = self.paint, invert(self.place)
        assert paint is not None
        if back is None:
            return paint
        if key == "turn":
            return carried(turned(carried(paint, self.place), value), back)
        if key == "radius" and isinstance(paint, Radial):
            scale = mean_scale(multiply(self.place, paint.transform)) or 1.0
            return replace(paint, radius=max(value / scale, 1e-6))
        name, _, part = key.partition(" ")
        x, y = apply(self.place, self._point(paint, name))
        at = apply(back, (value, y) if part == "x" else (x, value))
        if isinstance(paint, Radial):
            inner = invert(paint.transform)
            if inner is None:
                return paint
            if name == "centre":  # the focus goes along
                old = self._point(paint, "centre")
                move = (1.0, 0.0, 0.0, 1.0, at[0] - old[0], at[1] - old[1])
                return carried(paint, move)
            at = apply(inner, at)
        return replace(paint, **{name: at})
