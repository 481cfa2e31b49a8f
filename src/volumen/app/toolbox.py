"""The tools of the stage, as labelled rows; the current tool's options under its row."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import msgspec
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.commands import Registry
from volumen.app.session import Session
from volumen.app.widgets.balls import ball_pixmap
from volumen.app.widgets.number import NumberField
from volumen.shading.lamp import lamp_on_dome
from volumen.shading.paint import Colour


@dataclass(frozen=True, slots=True)
class ToolRow:
    """A row: a canvas tool (``tool``), or a command that acts at once (``command``)."""

    title: str
    icon: str
    command: str
    tool: str = ""
    key: str = ""


MOVE = ToolRow("Move", "move", "tool.move", "move")
STAGE_ROWS: tuple[tuple[ToolRow, ...], ...] = (
    (
        MOVE,
        ToolRow("Ellipse", "circle", "tool.ellipse", "ellipse"),
        ToolRow("Rectangle", "square", "tool.rectangle", "rectangle"),
        ToolRow("Pen", "pen-tool", "tool.pen", "pen"),
        ToolRow("Points", "spline", "tool.points", "points"),
    ),
    (
        MOVE,
        ToolRow("Points", "spline", "tool.points", "points"),
        ToolRow("Hold inside", "circle-dot", "object.hold"),
        ToolRow("Release", "square-stack", "object.ungroup"),
        ToolRow("Form to path", "waypoints", "object.to_path"),
        ToolRow("Freeze", "snowflake", "object.freeze"),
    ),
    (
        MOVE,
        ToolRow("Spindle", "blend", "tool.spindle", "spindle"),
        ToolRow("Fill", "paint-bucket", "add.fill"),
        ToolRow("Line", "slash", "add.line"),
    ),
    (
        ToolRow("Lamp", "sun", "tool.lamp", "lamp", "hold L"),
        MOVE,
        ToolRow("Body", "eclipse", "add.body"),
        ToolRow("Sliver", "moon", "add.sliver"),
        ToolRow("Shadow", "cloud-fog", "add.shadow"),
        ToolRow("Glow", "sparkles", "add.glow"),
        ToolRow("Blur", "droplet", "add.blur"),
    ),
    (),
)


class Row(QWidget):
    clicked = Signal()

    def __init__(self, row: ToolRow, key: str) -> None:
        super().__init__()
        self.row, self.key = row, key
        self.chosen = self.hovered = False
        self.setFixedHeight(28)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(row.title)
        self.setToolTip(row.title + (f"  ({key})" if key else ""))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit()

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
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

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.chosen or self.hovered or self.hasFocus():
            painter.fillRect(self.rect(), QColor(theme.CARD if self.chosen else "#e8e6e0"))
        if self.chosen:
            painter.fillRect(QRectF(0, 0, 3, self.height()), QColor(theme.AMBER_DARK))
        painter.drawPixmap(15, 6, theme.icon_pixmap(self.row.icon))
        painter.drawText(self.rect().adjusted(41, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.row.title)
        painter.setPen(QColor(theme.SOFT_INK))
        painter.drawText(
            self.rect().adjusted(0, 0, -14, 0), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, self.key
        )


class LampBall(QWidget):
    """A shaded ball to drag the lamp on."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFixedSize(64, 64)
        self.setAccessibleName("lamp ball")
        self.setToolTip("Drag on the ball to place the light")
        self.setCursor(Qt.CursorShape.CrossCursor)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        lamp = self.session.document.lamp
        painter.drawPixmap(3, 3, ball_pixmap("ball", "clay", Colour(0.72, 0.71, 0.69), lamp, 58))
        r = 28 * math.cos(math.radians(lamp.height))
        at = QPointF(32 + lamp.toward[0] * r, 32 + lamp.toward[1] * r)
        painter.setPen(QPen(QColor(theme.AMBER_DARK), 2))
        painter.setBrush(QColor(theme.AMBER))
        painter.drawEllipse(at, 4.5, 4.5)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._to(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.session.commit("move lamp")

    def _to(self, event: QMouseEvent) -> None:
        dx, dy = event.position().x() - 32, event.position().y() - 32
        lamp = lamp_on_dome(self.session.document.lamp, dx / 28, dy / 28)
        self.session.preview(msgspec.structs.replace(self.session.document, lamp=lamp))


class LampOptions(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setStyleSheet(f"LampOptions {{ background: {theme.CARD}; }}")
        row = QHBoxLayout(self)
        row.setContentsMargins(26, 4, 12, 8)
        self.ball = LampBall(session)
        row.addWidget(self.ball)
        column = QVBoxLayout()
        column.setSpacing(1)
        self.fields: dict[str, NumberField] = {}
        for name, unit, low, high, factor in (
            ("bearing", "°", -1e6, 1e6, 1),
            ("height", "°", 0, 90, 1),
            ("strength", " %", 0, 1000, 100),
            ("size", " %", 0, 1000, 100),
        ):
            line = QHBoxLayout()
            label = QLabel({"size": "softness"}.get(name, name))
            label.setObjectName("quiet")
            field = NumberField(f"lamp {name}", unit, 1, low, high)
            field.setFixedWidth(54)
            field.preview.connect(lambda v, n=name, f=factor: self._set(n, v / f, False))
            field.done.connect(lambda v, n=name, f=factor: self._set(n, v / f, True))
            self.fields[name] = field
            line.addWidget(label)
            line.addWidget(field)
            column.addLayout(line)
        row.addLayout(column, 1)
        session.on("document", self.refresh)
        self.refresh()

    def _set(self, name: str, value: float, final: bool) -> None:
        if name == "bearing":
            value %= 360
        document = self.session.document
        lamp = msgspec.structs.replace(document.lamp, **{name: value})
        self.session.preview(msgspec.structs.replace(document, lamp=lamp))
        if final:
            self.session.commit("change lamp")

    def refresh(self) -> None:
        lamp = self.session.document.lamp
        for name, factor in (("bearing", 1), ("height", 1), ("strength", 100), ("size", 100)):
            self.fields[name].show_value(getattr(lamp, name) * factor)
        self.ball.update()


class Toolbox(QWidget):
    def __init__(self, session: Session, registry: Registry) -> None:
        super().__init__()
        self.session, self.registry = session, registry
        self.rows: list[Row] = []
        self.setObjectName("side")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 10, 0, 8)
        self.column.setSpacing(0)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        self.heading.setContentsMargins(14, 0, 0, 6)
        self.column.addWidget(self.heading)
        self.lamp_options = LampOptions(session)
        self.column.addWidget(self.lamp_options)
        session.on("stage", self.rebuild)
        session.on("tool stage", self.refresh)
        self.rebuild()

    def rebuild(self) -> None:
        from volumen.app.session import STAGES

        for row in self.rows:
            self.column.removeWidget(row)
            row.hide()
            row.deleteLater()
        self.column.removeWidget(self.lamp_options)
        self.heading.setText(STAGES[self.session.stage].upper())
        self.rows = []
        for spec in STAGE_ROWS[self.session.stage]:
            command = self.registry[spec.command]
            row = Row(spec, spec.key or (command.keys if len(command.keys) == 1 else ""))
            row.clicked.connect(self._runner(spec.command))
            self.rows.append(row)
            self.column.addWidget(row)
            if spec.tool == "lamp":
                self.column.addWidget(self.lamp_options)
        self.lamp_options.setVisible(self.session.stage == 3)
        self.refresh()

    def _runner(self, command: str) -> Callable[[], bool]:
        return lambda: self.registry.run(command)

    def refresh(self) -> None:
        for row in self.rows:
            chosen = row.row.tool == self.session.tool and bool(row.row.tool)
            if chosen != row.chosen:
                row.chosen = chosen
                row.update()
