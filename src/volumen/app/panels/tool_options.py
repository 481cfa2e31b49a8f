"""The options of the tool in use: its numbers, switches and buttons, under its row."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QCheckBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.canvas.canvas import Canvas
from volumen.app.canvas.tools.base import Act, Flag, Option, Tool
from volumen.app.canvas.tools.points import PointsTool
from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.app.widgets.number import NumberField
from volumen.app.widgets.slider import SliderRow


class ToolOptions(QWidget):
    """The options of the tool in hand."""

    def __init__(self, session: Session, canvas: Canvas) -> None:
        super().__init__()
        self.session, self.canvas = session, canvas
        self.sliders: dict[str, SliderRow] = {}
        self.numbers: dict[str, NumberField] = {}
        self.buttons: dict[str, QPushButton] = {}
        self.setObjectName("options")
        self.setStyleSheet(f"QWidget#options {{ background: {theme.CARD}; }}")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 2, 12, 8)
        self.column.setSpacing(2)
        session.on((News.ACTIVE, News.DOCUMENT, News.SELECTION), self.show_values)

    def build(self, tool: Tool) -> None:
        """Make the widgets of a tool's options anew."""
        while (item := self.column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.sliders, self.numbers, self.buttons = {}, {}, {}
        acts: list[Act] = []
        for option in tool.options:
            if isinstance(option, Act):
                acts.append(option)
                continue
            if acts:
                self._grid(tool, acts)
                acts = []
            if isinstance(option, Flag):
                self.column.addWidget(self._flag(tool, option))
            else:
                self.column.addWidget(self._place(tool, option) if option.high >= 1e6 else self._number(tool, option))
        if acts:
            self._grid(tool, acts)
        self.setVisible(bool(tool.options))
        self.show_values()

    def _number(self, tool: Tool, option: Option) -> SliderRow:
        row = SliderRow(option.label, option.low, option.high, option.unit, 1.0, option.hard_low, option.hard_high)
        row.number.set_length(option.is_length)
        row.preview.connect(self._setter(tool, option, False))
        row.done.connect(self._setter(tool, option, True))
        row.number.refused.connect(self.session.say)
        row.narrow()
        self.sliders[option.name] = row
        return row

    def _place(self, tool: Tool, option: Option) -> QWidget:
        """A number without a slider: for what has no usual range."""
        holder = QWidget()
        line = QHBoxLayout(holder)
        line.setContentsMargins(0, 0, 0, 0)
        label = QLabel(option.label)
        label.setObjectName("quiet")
        label.setFixedWidth(58)
        field = NumberField(option.label, option.unit, 1, option.hard_low, option.hard_high)
        field.set_length(option.is_length)
        field.preview.connect(self._setter(tool, option, False))
        field.done.connect(self._setter(tool, option, True))
        field.refused.connect(self.session.say)
        line.addWidget(label)
        line.addWidget(field, 1)
        self.numbers[option.name] = field
        return holder

    def _setter(self, tool: Tool, option: Option, final: bool) -> Callable[[float], None]:
        def take(value: float) -> None:
            tool.values[option.name] = round(value) if option.whole else value
            tool.option_changed(option.name, final)
            self.canvas.update()

        return take

    def _flag(self, tool: Tool, flag: Flag) -> QCheckBox:
        check = QCheckBox(flag.label)
        check.setChecked(bool(tool.values[flag.name]))

        def take(on: bool) -> None:
            tool.values[flag.name] = on
            tool.option_changed(flag.name, True)

        check.toggled.connect(take)
        return check

    def _grid(self, tool: Tool, acts: list[Act]) -> None:
        holder = QWidget()
        grid = QGridLayout(holder)
        grid.setContentsMargins(0, 2, 0, 2)
        grid.setSpacing(3)
        columns = 3 if max(len(a.label) for a in acts) < 11 else (2 if max(len(a.label) for a in acts) < 16 else 1)
        for k, act in enumerate(acts):
            button = QPushButton(act.label)
            button.setObjectName("small")
            button.setToolTip(act.tip or act.label)
            button.clicked.connect(self._runner(tool, act.method))
            self.buttons[act.method] = button
            grid.addWidget(button, k // columns, k % columns)
        self.column.addWidget(holder)

    def _runner(self, tool: Tool, method: str) -> Callable[[], None]:
        def run() -> None:
            getattr(tool, method)()
            self.canvas.setFocus()

        return run

    def show_values(self) -> None:
        tool = self.canvas.tool
        if isinstance(tool, PointsTool):
            tool.refresh_options()
        for name, value in tool.values.items():
            if name in self.sliders:
                self.sliders[name].show_value(value, False)
            elif name in self.numbers:
                self.numbers[name].show_value(value)
