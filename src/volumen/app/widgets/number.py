"""A number to scrub, type and step: drag sideways, or click and type a value with units and arithmetic."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QApplication, QLineEdit, QToolTip, QWidget
from shiboken6 import isValid

from volumen.app.widgets.units import LENGTH_UNIT
from volumen.model.sheet import PER_UNIT

UNITS = {**PER_UNIT, "cm": 10 * PER_UNIT["mm"]}
_OPERATORS: dict[type, Callable[..., float]] = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv,
    ast.Pow: operator.pow, ast.USub: operator.neg, ast.UAdd: operator.pos,
}  # fmt: skip


def evaluate(text: str, size: float = 1.0) -> float:
    """The value of a sum such as ``12.5``, ``(40 + 8) / 3`` or ``18mm + 2pt``; lengths come out in units of ``size``
    user units.

    Raises ValueError for anything else.
    """
    plain = text.strip().replace(",", ".").replace("%", "").replace("°", "").replace("−", "-")
    plain = re.sub(r"(?<=[\d.])\s*(mm|cm|in|pt|px)\b", lambda m: f"*{UNITS[m[1]] / size!r}", plain)

    def value(node: ast.AST) -> float:
        if isinstance(node, ast.Expression):
            return value(node.body)
        if isinstance(node, ast.Constant) and isinstance(node.value, int | float):
            return float(node.value)
        if isinstance(node, ast.BinOp) and type(node.op) in _OPERATORS:
            return _OPERATORS[type(node.op)](value(node.left), value(node.right))
        if isinstance(node, ast.UnaryOp) and type(node.op) in _OPERATORS:
            return _OPERATORS[type(node.op)](value(node.operand))
        raise ValueError(f"'{text}' is not a number")

    try:
        result = value(ast.parse(plain, mode="eval"))
    except (SyntaxError, ZeroDivisionError, OverflowError, TypeError, RecursionError, MemoryError) as error:
        raise ValueError(f"'{text}' is not a number") from error
    if isinstance(result, complex) or not math.isfinite(result) or abs(result) > 1e9:
        raise ValueError(f"'{text}' is out of range")
    return result


_MIXED = "differ"


def take_typed() -> None:
    """What is typed in a field and not entered yet counts, before something else is done."""
    field = QApplication.focusWidget()
    if isinstance(field, NumberField):
        field.take()


class NumberField(QLineEdit):
    """``preview`` while scrubbing, ``done`` when a value stands, ``refused`` with the reason when one cannot."""

    preview = Signal(float)
    done = Signal(float)
    refused = Signal(str)

    def __init__(
        self, label: str, unit: str = "", step: float = 1.0, low: float = -math.inf, high: float = math.inf,
        digits: int = 1, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.setObjectName("number")
        self.setAccessibleName(label)
        self.unit, self.step, self.low, self.high, self.digits = unit, step, low, high, digits
        self.value = 0.0
        self.mixed = False
        self.is_length = False
        self._edited = False  # by keys, and not taken yet
        self._press: tuple[float, float] | None = None
        self._scrubbing = False
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self._show_tip()
        self.returnPressed.connect(self._typed)
        self.textEdited.connect(self._note_edit)
        self.show_value(0.0)

    def set_length(self, is_length: bool = True) -> NumberField:
        """The value is a length in user units, shown and typed in the unit of the sheet."""
        if is_length != self.is_length:
            self.is_length = is_length
            if is_length:
                LENGTH_UNIT.on_change(self._unit_changed)
            self._unit_changed()
        return self

    def _unit_changed(self) -> None:
        if isValid(self):
            self._show_tip()
            self._write()

    def _show_tip(self) -> None:
        where = f" in {LENGTH_UNIT.name}" if self.is_length and LENGTH_UNIT.name != "px" else ""
        self.setToolTip(f"{self.accessibleName()}{where}: drag to change, or click and type")

    @property
    def _size(self) -> float:
        return LENGTH_UNIT.size if self.is_length else 1.0

    def show_value(self, value: float, mixed: bool = False) -> None:
        """Show a value; ``mixed`` marks that the selected objects differ."""
        self.value, self.mixed = value, mixed
        if not self._edited or not self.hasFocus() or self._scrubbing:
            self._write()

    def _note_edit(self) -> None:
        self._edited = True

    def _refuse(self, why: str) -> None:
        """Say beside the field what could not be taken."""
        self.refused.emit(why)
        QToolTip.showText(self.mapToGlobal(self.rect().bottomLeft()), why, self)

    def _said(self, value: float) -> str:
        if not math.isfinite(value):
            return "any number"
        digits = LENGTH_UNIT.digits(self.digits) if self.is_length else self.digits
        text = f"{value / self._size:.{digits}f}"
        if "." in text:
            text = text.rstrip("0").rstrip(".")
        return (text if text != "-0" else "0") + self.unit

    def _write(self) -> None:
        self._edited = False
        self.setText(_MIXED if self.mixed else self._said(self.value))

    def _held(self, value: float) -> float:
        held = min(max(value, self.low), self.high)
        return float(round(held)) if self.digits == 0 else held

    def _typed(self) -> None:
        self._edited = False
        if self.text() == (_MIXED if self.mixed else self._said(self.value)):
            return  # a look at a value does not round it
        try:
            asked = evaluate(self.text(), self._size) * self._size
        except ValueError as error:
            self._refuse(str(error))
            self._write()
            return
        value = self._held(asked)
        if not self.low <= asked <= self.high:
            self._refuse(f"{self.accessibleName()}: {self._said(self.low)} to {self._said(self.high)}")
        if value != self.value or self.mixed:
            self.value, self.mixed = value, False
            self.done.emit(value)
        if isValid(self):  # what was changed may have built its card anew
            self._write()
            self.selectAll()

    def take(self) -> None:
        """Take what was typed since the last value stood, as if it were entered."""
        if self._edited and self.text() != "":
            self._typed()

    def focusInEvent(self, event: QFocusEvent) -> None:
        super().focusInEvent(event)
        self.setCursor(Qt.CursorShape.IBeamCursor)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        if event.reason() != Qt.FocusReason.PopupFocusReason:
            self.take()
        if isValid(self):
            self.deselect()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.hasFocus():
            super().mousePressEvent(event)
            return
        self._press = (event.position().x(), self.value)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            super().mouseMoveEvent(event)
            return
        dx = event.position().x() - self._press[0]
        if not self._scrubbing and abs(dx) < 3:
            return
        self._scrubbing = True
        coarse = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        value = self._held(self._press[1] + round(dx / 2) * self._step() * coarse)
        if value != self.value:
            self.value, self.mixed = value, False
            self._write()
            self.preview.emit(value)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._press is None:
            super().mouseReleaseEvent(event)
            return
        self._press = None
        if self._scrubbing:
            self._scrubbing = False
            self.done.emit(self.value)
        else:
            self.setFocus(Qt.FocusReason.MouseFocusReason)
            self.selectAll()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            coarse = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            sign = 1 if event.key() == Qt.Key.Key_Up else -1
            self.value, self.mixed = self._held(self.value + sign * coarse * self._step()), False
            self._write()
            self.done.emit(self.value)
        elif event.key() == Qt.Key.Key_Escape:
            self._write()
            self.clearFocus()
        else:
            super().keyPressEvent(event)

    def _step(self) -> float:
        return LENGTH_UNIT.step(self.step) if self.is_length else self.step

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()
