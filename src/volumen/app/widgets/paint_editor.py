"""Editing a paint in its card: its kind, its colour or its stops, how it runs, its grain."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from volumen.app.widgets.colours import ColourPanel
from volumen.app.widgets.gradient_numbers import GradientNumbers
from volumen.app.widgets.segment import ListBox, narrow, segment
from volumen.app.widgets.slider import SliderRow
from volumen.app.widgets.stopbar import StopBar
from volumen.edit.gradients import converted, distributed, evened_out, kind_of
from volumen.edit.meshes import with_mesh_colour
from volumen.geometry.affine import IDENTITY, Affine
from volumen.geometry.path import Box
from volumen.shading.paint import (
    GRADIENTS,
    Along,
    Colour,
    Conic,
    Grain,
    Inward,
    Linear,
    MeshPaint,
    Paint,
    Radial,
    Solid,
    Stop,
)
from volumen.shading.ramp import reversed_stops

replace = msgspec.structs.replace
_KINDS = (("plain", Solid), ("linear", Linear), ("radial", Radial))
_OTHERS = (("conic", Conic), ("inwards", Inward), ("along line", Along), ("across line", "across"))
_MESH_NOTE = "A gradient mesh: choose points with the Mesh tool to colour them."
_SPREADS = ("pad", "reflect", "repeat")


class PaintEditor(QWidget):
    """Edits a paint: its kind, stops and numbers."""

    preview = Signal(object)
    done = Signal(object)
    stop_chosen = Signal(int)

    def __init__(self) -> None:
        super().__init__()
        self.paint: Paint = Solid(Colour(0.5, 0.5, 0.5))
        self.box: Box | None = None
        self.index = 0
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(self._kind_row())
        self.points: tuple[tuple[int, int], ...] = ()
        self.note = QLabel(_MESH_NOTE)
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        column.addWidget(self.note)
        self.bar = StopBar()
        column.addWidget(self.bar)
        self.run = self._run_row()
        column.addWidget(self.run)
        self.numbers = GradientNumbers()
        self.numbers.preview.connect(self.preview)
        self.numbers.done.connect(self.done)
        column.addWidget(self.numbers)
        self.colours = ColourPanel()
        column.addWidget(self.colours)
        self.with_tint: Callable[[Paint, float, int], Paint] = lambda paint, tint, stop: paint
        self.tint = self._slider(column, "tint", 0, 1, 100, lambda p, v: self.with_tint(p, v, self.index))
        self.inward_depth = self._slider(column, "depth", 0, 100, 1, lambda p, v: replace(p, depth=max(v, 0.0)))
        self.stop_grain = self._slider(column, "grain here", 0, 0.3, 100, self._with_stop_grain)
        self.grain = self._slider(column, "grain", 0, 0.3, 100, self._with_grain)
        self.grain_size = self._slider(column, "its size", 0.3, 8, 1, self._with_grain_size)
        self.seed = self._slider(column, "its seed", 1, 99, 1, lambda _p, v: self._grain(seed=max(round(v), 0)))
        self.mono = QCheckBox("grain in lightness only")
        self.mono.clicked.connect(lambda on: self.done.emit(self._grain(mono=on)))
        column.addWidget(self.mono)
        self.bar.preview.connect(self.preview)
        self.bar.done.connect(self.done)
        self.bar.chosen.connect(self.stop_chosen)
        self.colours.preview.connect(lambda c: self.preview.emit(self._with(c)))
        self.colours.done.connect(lambda c: self.done.emit(self._with(c)))

    def _kind_row(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(2)
        self.buttons: dict[object, QToolButton] = {}
        for label, kind in _KINDS:
            button = segment(label)
            button.clicked.connect(lambda _=False, k=kind: self._convert(k))
            self.buttons[kind] = button
            row.addWidget(button)
        self.others = narrow(ListBox())
        self.others.setAccessibleName("other kinds of paint")
        self.others.addItem("more", None)
        for label, other in _OTHERS:
            self.others.addItem(label, other)
        self.others.activated.connect(self._other_chosen)
        row.addWidget(self.others, 1)
        return row

    def _run_row(self) -> QWidget:
        """What is done to all stops at once, and how they go on."""
        holder = QWidget()
        both = QVBoxLayout(holder)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(3)
        row = QHBoxLayout()
        row.setSpacing(3)
        self.acts: dict[str, QToolButton] = {}
        for label, tip, act in (
            ("reverse", "turn the order of the stops round", reversed_stops),
            ("space", "stops at even distances", distributed),
            ("even", "move the stops so that colour changes evenly", self._evened),
        ):
            button = segment(label, checkable=False)
            button.setToolTip(tip)
            button.clicked.connect(lambda _=False, a=act: self._rearrange(a))
            self.acts[label] = button
            row.addWidget(button, 1)
        self.reverse = self.acts["reverse"]
        both.addLayout(row)
        row = QHBoxLayout()
        row.setSpacing(3)
        self.spread = narrow(ListBox())
        self.spread.setAccessibleName("beyond its ends")
        self.spread.setToolTip("what comes beyond the ends")
        self.spread.addItems(_SPREADS)
        self.spread.activated.connect(lambda n: self.done.emit(replace(self.paint, spread=_SPREADS[n])))
        row.addWidget(self.spread, 1)
        self.mix = narrow(ListBox())
        self.mix.setAccessibleName("colours are mixed in")
        self.mix.setToolTip("colours are mixed in")
        self.mix.addItems(("mix in OKLab", "mix in sRGB"))
        self.mix.activated.connect(lambda n: self.done.emit(replace(self.paint, oklab=n == 0)))
        row.addWidget(self.mix, 1)
        both.addLayout(row)
        return holder

    def _slider(
        self,
        column: QVBoxLayout,
        label: str,
        low: float,
        high: float,
        factor: float,
        change: Callable[[Any, float], Paint],
    ) -> SliderRow:
        row = SliderRow(label, low, high, " %" if factor == 100 else "", factor, 0, 1e6)
        row.preview.connect(lambda v: self.preview.emit(change(self.paint, v)))
        row.done.connect(lambda v: self.done.emit(change(self.paint, v)))
        column.addWidget(row)
        return row

    def show_paint(
        self, paint: Paint, index: int, box: Box | None, points: tuple[tuple[int, int], ...] = (),
        place: Affine = IDENTITY,
    ) -> None:  # fmt: skip
        self.paint, self.box, self.points = paint, box, points
        self.numbers.show_paint(paint, place)
        for kind, button in self.buttons.items():
            button.setChecked(kind_of(paint) is kind)
        other = next((n for n, (_, k) in enumerate(_OTHERS, 1) if k == kind_of(paint)), 0)
        self.others.setCurrentIndex(other)
        stopped = isinstance(paint, GRADIENTS)
        self.note.setVisible(isinstance(paint, MeshPaint))
        self.bar.setVisible(stopped)
        self.run.setVisible(stopped)
        self.spread.setVisible(isinstance(paint, Linear | Radial | Inward))
        self.colours.setVisible(not isinstance(paint, MeshPaint) or bool(points))
        if isinstance(paint, MeshPaint):
            self._show_mesh(paint)
        self.inward_depth.setVisible(isinstance(paint, Inward))
        self.stop_grain.setVisible(stopped and paint.grain is not None)
        self.grain_size.setVisible(paint.grain is not None)
        self.mono.setVisible(paint.grain is not None)
        self.seed.setVisible(paint.grain is not None)
        self.grain.show_value(paint.grain.amount if paint.grain else 0.0)
        if paint.grain is not None:
            self.grain_size.show_value(paint.grain.size)
            self.seed.show_value(paint.grain.seed)
            self.mono.setChecked(paint.grain.mono)
        of = self._tinted(paint, index)
        self.tint.setVisible(of is not None and of.swatch is not None)
        self.tint.show_value(of.tint if of is not None else 1.0)
        if isinstance(paint, Inward):
            self.inward_depth.show_value(paint.depth)
        if isinstance(paint, Solid):
            self.colours.show_colour(paint.colour)
        elif isinstance(paint, GRADIENTS) and paint.stops:
            self.index = min(index, len(paint.stops) - 1)
            self.bar.show_gradient(paint, self.index)
            self.colours.show_colour(paint.stops[self.index].colour)
            self.stop_grain.show_value(paint.stops[self.index].grain)
            self.mix.setCurrentIndex(0 if paint.oklab else 1)
            if isinstance(paint, Linear | Radial | Inward):
                self.spread.setCurrentText(paint.spread)

    def _tinted(self, paint: Paint, index: int) -> Solid | Stop | None:
        """What of a paint may follow a swatch: all of it, or the stop in hand."""
        if isinstance(paint, GRADIENTS) and paint.stops:
            return paint.stops[min(index, len(paint.stops) - 1)]
        return paint if isinstance(paint, Solid) else None

    def _show_mesh(self, paint: MeshPaint) -> None:
        wide = paint.columns + (0 if paint.ring else 1)
        numbers = [i * wide + j for i, j in self.points if i * wide + j < len(paint.points)]
        count = len(numbers)
        self.note.setText(f"{count} mesh point{'s' if count != 1 else ''} in hand" if count else _MESH_NOTE)
        if numbers:
            self.colours.show_colour(paint.points[numbers[0]].colour)

    def _with(self, colour: Colour) -> Paint:
        if isinstance(self.paint, MeshPaint):
            return with_mesh_colour(self.paint, self.points, colour)
        if isinstance(self.paint, Solid):
            return Solid(colour, grain=self.paint.grain)
        return self._with_stop(colour=colour, swatch=None)

    def _with_stop(self, **fields: object) -> Paint:
        if not isinstance(self.paint, GRADIENTS) or not self.paint.stops:
            return self.paint
        stops = list(self.paint.stops)
        stops[self.index] = replace(stops[self.index], **fields)
        return replace(self.paint, stops=tuple(stops))

    def _with_stop_grain(self, _paint: Paint, value: float) -> Paint:
        return self._with_stop(grain=max(value, 0.0))

    def _grain(self, **fields: object) -> Paint:
        return replace(self.paint, grain=replace(self.paint.grain or Grain(), **fields))

    def _with_grain(self, paint: Paint, value: float) -> Paint:
        return replace(paint, grain=None) if value <= 0 else self._grain(amount=value)

    def _with_grain_size(self, _paint: Paint, value: float) -> Paint:
        return self._grain(size=max(value, 0.05))

    def _convert(self, kind: object) -> None:
        changed = converted(self.paint, kind, self.box)
        if changed is self.paint:
            if kind in self.buttons:
                self.buttons[kind].setChecked(True)
        else:
            self.done.emit(changed)

    def _other_chosen(self, n: int) -> None:
        if n:
            self._convert(self.others.itemData(n))

    def _evened(self, stops: tuple[Stop, ...]) -> tuple[Stop, ...]:
        return evened_out(stops, isinstance(self.paint, GRADIENTS) and self.paint.oklab)

    def _rearrange(self, act: Callable[[tuple[Stop, ...]], tuple[Stop, ...]]) -> None:
        if isinstance(self.paint, GRADIENTS):
            self.done.emit(replace(self.paint, stops=act(self.paint.stops)))
