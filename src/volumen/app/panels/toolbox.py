"""The tools of the stage, as labelled rows; the current tool's options under its row."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QLabel, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.canvas.arranger import Arranger
from volumen.app.canvas.canvas import Canvas
from volumen.app.panels.arrange_panel import ArrangePanel
from volumen.app.panels.first_light_panel import FirstLightPanel
from volumen.app.panels.lamp_options import LampOptions
from volumen.app.panels.tool_options import ToolOptions
from volumen.app.state.news import News, Stage
from volumen.app.state.registry import Command, Registry, offered
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.app.widgets.scrolled import Scrolled


class ToolRow(QWidget):
    """One row: a tool, or a command that acts at once."""

    clicked = Signal()

    def __init__(self, command: Command, key: str) -> None:
        super().__init__()
        self.command, self.key = command, key
        self.chosen = self.hovered = False
        self.setFixedHeight(26)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(command.short)
        self.setToolTip(command.short + (f"  ({key})" if key else ""))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.clicked.emit()
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event: object) -> None:
        self.hovered = True
        self.update()

    def leaveEvent(self, event: object) -> None:
        self.hovered = False
        self.update()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.chosen or self.hovered or self.hasFocus():
            painter.fillRect(self.rect(), QColor(theme.CARD if self.chosen else "#e8e6e0"))
        if self.chosen:
            painter.fillRect(QRectF(0, 0, 3, self.height()), QColor(theme.AMBER_DARK))
        painter.drawPixmap(15, 5, theme.icon_pixmap(self.command.icon))
        painter.drawText(self.rect().adjusted(41, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.command.short)
        painter.setPen(QColor(theme.SOFT_INK))
        painter.drawText(
            self.rect().adjusted(0, 0, -14, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self.key
        )


class FoldRow(QWidget):
    """A quiet row that unfolds more."""

    clicked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.text, self.open = "", False
        self.setFixedHeight(22)
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def show_text(self, text: str, is_open: bool) -> None:
        self.text, self.open = text, is_open
        self.setAccessibleName(text)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        icon = "chevron-down" if self.open else "chevron-right"
        painter.drawPixmap(24, 4, theme.icon_pixmap(icon, theme.SOFT_INK, 13))
        painter.setPen(QColor(theme.SOFT_INK))
        painter.drawText(self.rect().adjusted(41, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.text)


class Toolbox(Scrolled):
    """What the stage offers, in rows, with the options of the tool in hand."""

    def __init__(self, session: Session, registry: Registry, canvas: Canvas, arranger: Arranger) -> None:
        super().__init__(QWidget(), share=0.62)
        self.session, self.registry, self.canvas = session, registry, canvas
        self.rows: list[ToolRow] = []
        self.unfolded = False
        self.arranging = False
        self.column = QVBoxLayout(self.body)
        self.column.setContentsMargins(0, 10, 0, 8)
        self.column.setSpacing(0)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        self.heading.setContentsMargins(14, 0, 0, 6)
        self.column.addWidget(self.heading)
        self.lamp_options = LampOptions(session)
        self.first_light = FirstLightPanel(session)
        self.options = ToolOptions(session, canvas)
        self.arrange = ArrangePanel(session, arranger)
        self.fold = FoldRow()
        self.fold.clicked.connect(self._toggle_fold)
        self.arrange_fold = FoldRow()
        self.arrange_fold.clicked.connect(self._toggle_arrange)
        for widget in (self.lamp_options, self.first_light, self.options, self.arrange, self.fold, self.arrange_fold):
            self.column.addWidget(widget)
        self.column.addStretch(1)
        session.on((News.STAGE,), self.rebuild)
        session.on((News.TOOL,), self._tool_changed)
        session.on((News.DOCUMENT,), self._show_dials)
        self.rebuild()

    def _show_dials(self) -> None:
        """The dials of first light stand there while the document has some."""
        shown = self.session.stage == Stage.LIGHT and self.session.document.first_light is not None
        if shown == self.first_light.isHidden():
            self.first_light.setVisible(shown)

    def _toggle_fold(self) -> None:
        self.unfolded = not self.unfolded
        self.rebuild()

    def _toggle_arrange(self) -> None:
        self.arranging = not self.arranging
        self.rebuild()

    def rebuild(self) -> None:
        for row in self.rows:
            self.column.removeWidget(row)
            row.hide()
            row.deleteLater()
        specs = offered(self.registry, self.session.stage)
        self.heading.setText(self.session.stage.name)
        self.rows = []
        at = 1
        for shown, command in specs:
            if shown.folded and not self.unfolded and command.tool != self.session.tool:
                continue
            keys = command.keys if len(command.keys) < 8 and "+" not in command.keys[:5] else ""
            row = ToolRow(command, command.key_hint or keys)
            row.clicked.connect(self._runner(command.id))
            self.rows.append(row)
            self.column.insertWidget(at, row)
            at += 1
        self.fold.setVisible(any(shown.folded for shown, _ in specs))
        self.fold.show_text("fewer" if self.unfolded else "more", self.unfolded)
        self.arrange_fold.show_text("Arrange by number", self.arranging)
        self._place_options()

    def _place_options(self) -> None:
        """Put the options under the row that they belong to."""
        tool = self.canvas.tool
        for widget in (self.options, self.lamp_options, self.first_light, self.arrange, self.arrange_fold, self.fold):
            self.column.removeWidget(widget)
        at = 1
        for row in self.rows:
            chosen = row.command.tool == self.session.tool and bool(row.command.tool)
            row.chosen = chosen
            row.update()
            self.column.insertWidget(at, row)
            at += 1
            if chosen:
                self.options.build(tool)
                self.column.insertWidget(at, self.options)
                at += 1
            if row.command.tool == "move":
                self.column.insertWidget(at, self.arrange_fold)
                self.column.insertWidget(at + 1, self.arrange)
                at += 2
            if row.command.tool == "lamp":
                self.column.insertWidget(at, self.lamp_options)
                at += 1
            if row.command.id == "light.first":
                self.column.insertWidget(at, self.first_light)
                at += 1
        self.column.insertWidget(at, self.fold)
        self.lamp_options.setVisible(self.session.stage == Stage.LIGHT)
        self._show_dials()
        self.options.setVisible(bool(tool.options) and any(r.chosen for r in self.rows))
        self.arrange_fold.setVisible(self.session.tool == "move" and self.session.stage < Stage.LIGHT)
        self.arrange.setVisible(self.arranging and self.session.tool == "move" and self.session.stage < Stage.LIGHT)
        QTimer.singleShot(0, self, self.settle)  # when what is new is shown

    def _tool_changed(self) -> None:
        shown = {r.command.tool for r in self.rows}
        rows = offered(self.registry, self.session.stage)
        folded = any(row.folded and c.tool in shown for row, c in rows) and not self.unfolded
        if self.session.tool not in shown or folded:
            self.rebuild()
        else:
            self._place_options()

    def _runner(self, command: str) -> Callable[[], bool]:
        return lambda: self.registry.run(command)

    def refresh(self) -> None:
        self._place_options()
