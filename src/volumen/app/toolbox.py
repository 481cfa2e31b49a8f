"""The tools of the stage, as labelled rows; the current tool's options under its row."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QLabel, QScrollArea, QVBoxLayout, QWidget

from volumen.app import theme
from volumen.app.arrange_panel import ArrangePanel, Arranger
from volumen.app.canvas import Canvas
from volumen.app.commands import Registry
from volumen.app.lamp_options import LampOptions
from volumen.app.session import STAGES, Session
from volumen.app.tool_options import ToolOptions
from volumen.app.widgets.painting import painted


@dataclass(frozen=True, slots=True)
class ToolRow:
    """A row: a canvas tool (``tool``), or a command that acts at once (``command``).
    Rows with ``more`` are folded away until asked for."""

    title: str
    icon: str
    command: str
    tool: str = ""
    key: str = ""
    more: bool = False


MOVE = ToolRow("Move", "move", "tool.move", "move")
POINTS = ToolRow("Points", "spline", "tool.points", "points")
STAGE_ROWS: tuple[tuple[ToolRow, ...], ...] = (
    (
        MOVE,
        ToolRow("Ellipse", "circle", "tool.ellipse", "ellipse"),
        ToolRow("Rectangle", "square", "tool.rectangle", "rectangle"),
        ToolRow("Polygon", "hexagon", "tool.polygon", "polygon", more=True),
        ToolRow("Star", "star", "tool.star", "star", more=True),
        ToolRow("Drop", "droplet", "tool.drop", "drop", more=True),
        ToolRow("Cloud", "cloud", "tool.cloud", "cloud", more=True),
        ToolRow("Segment", "slash", "tool.segment", "segment", more=True),
        ToolRow("Arc", "rainbow", "tool.arc", "arc", more=True),
        ToolRow("Spiral", "shell", "tool.spiral", "spiral", more=True),
        ToolRow("Pen", "pen-tool", "tool.pen", "pen"),
        ToolRow("Freehand", "pencil", "tool.freehand", "freehand"),
        ToolRow("Nib", "brush", "tool.nib", "nib"),
        POINTS,
        ToolRow("Text", "type", "tool.text", "text"),
        ToolRow("Guides", "ruler", "tool.guides", "guides"),
        ToolRow("Reference", "image", "file.place"),
        ToolRow("Level", "minus", "tool.level", "level", more=True),
    ),
    (
        MOVE,
        POINTS,
        ToolRow("Areas", "puzzle", "tool.areas", "areas"),
        ToolRow("Rounding", "squircle", "tool.rounding", "rounding"),
        ToolRow("Bend", "waves", "tool.bend", "bend"),
        ToolRow("Widths", "chart-spline", "tool.widths", "widths"),
        ToolRow("Offset", "scaling", "add.offset"),
        ToolRow("Thickness", "pen-line", "add.thickness"),
        ToolRow("Union", "squares-unite", "combine.union"),
        ToolRow("Subtract", "squares-subtract", "combine.subtract"),
        ToolRow("Intersect", "squares-intersect", "combine.intersect"),
        ToolRow("Exclude", "squares-exclude", "combine.exclude"),
        ToolRow("Divide", "split", "combine.divide"),
        ToolRow("Cut hidden", "layers", "combine.cut_hidden"),
        ToolRow("Hold inside", "circle-dot", "object.hold", more=True),
        ToolRow("Release", "square-stack", "object.ungroup", more=True),
        ToolRow("Knockout", "circle-slash-2", "object.knockout", more=True),
        ToolRow("Form to path", "waypoints", "object.to_path", more=True),
        ToolRow("Freeze", "snowflake", "object.freeze"),
    ),
    (
        MOVE,
        ToolRow("Spindle", "blend", "tool.spindle", "spindle"),
        ToolRow("Eyedropper", "pipette", "tool.eyedropper", "eyedropper"),
        ToolRow("Ramp", "move-diagonal", "tool.ramp", "ramp", more=True),
        ToolRow("Mesh", "grid-3x3", "tool.mesh", "mesh"),
        ToolRow("Recolour", "contrast", "tool.recolour", "recolour"),
        ToolRow("Fill", "paint-bucket", "add.fill"),
        ToolRow("Line", "slash", "add.line"),
        ToolRow("Stepped blend", "layers-2", "colour.blend"),
        ToolRow("Match", "git-fork", "tool.match", "match", more=True),
        ToolRow("Hatch", "tally-3", "colour.hatch", more=True),
        ToolRow("Shaded form", "eclipse", "colour.shade_form", more=True),
        ToolRow("Widths", "chart-spline", "tool.widths", "widths", more=True),
    ),
    (
        ToolRow("Lamp", "sun", "tool.lamp", "lamp", "hold L"),
        MOVE,
        ToolRow("Body", "eclipse", "add.body"),
        ToolRow("Sliver", "moon", "add.sliver"),
        ToolRow("Relief", "pyramid", "add.relief"),
        ToolRow("Shadow", "cloud-fog", "add.shadow"),
        ToolRow("Glow", "sparkles", "add.glow"),
        ToolRow("Choose by eye", "grid-3x3", "choose.blend modes"),
        ToolRow("Light check", "scan-search", "tool.light check", "light check"),
        ToolRow("Edge light", "sunrise", "add.edge_light", more=True),
        ToolRow("Contact shadow", "minus", "add.contact", more=True),
        ToolRow("Inner shadow", "circle-dot", "add.inner_shadow", more=True),
        ToolRow("Inner glow", "sparkle", "add.inner_glow", more=True),
        ToolRow("Ground glow", "sunset", "add.ground_glow", more=True),
        ToolRow("Blur", "droplet", "add.blur", more=True),
        ToolRow("Feathered edge", "feather", "add.feather", more=True),
        ToolRow("Grain", "tally-3", "add.grain", more=True),
        ToolRow("Colour shift", "contrast", "add.adjust", more=True),
        ToolRow("Rim", "circle-dashed", "add.rim", more=True),
        ToolRow("Closed seams", "puzzle", "add.seams", more=True),
    ),
    (),
)


class Row(QWidget):
    clicked = Signal()

    def __init__(self, row: ToolRow, key: str) -> None:
        super().__init__()
        self.row, self.key = row, key
        self.chosen = self.hovered = False
        self.setFixedHeight(26)
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

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        if self.chosen or self.hovered or self.hasFocus():
            painter.fillRect(self.rect(), QColor(theme.CARD if self.chosen else "#e8e6e0"))
        if self.chosen:
            painter.fillRect(QRectF(0, 0, 3, self.height()), QColor(theme.AMBER_DARK))
        painter.drawPixmap(15, 5, theme.icon_pixmap(self.row.icon))
        painter.drawText(self.rect().adjusted(41, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, self.row.title)
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


class Toolbox(QScrollArea):
    def __init__(self, session: Session, registry: Registry, canvas: Canvas, arranger: Arranger) -> None:
        super().__init__()
        self.session, self.registry, self.canvas = session, registry, canvas
        self.rows: list[Row] = []
        self.unfolded = False
        self.arranging = False
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setObjectName("side")
        body = QWidget()
        body.setObjectName("side")
        self.column = QVBoxLayout(body)
        self.column.setContentsMargins(0, 10, 0, 8)
        self.column.setSpacing(0)
        self.heading = QLabel()
        self.heading.setObjectName("heading")
        self.heading.setContentsMargins(14, 0, 0, 6)
        self.column.addWidget(self.heading)
        self.lamp_options = LampOptions(session)
        self.options = ToolOptions(session, canvas)
        self.arrange = ArrangePanel(session, arranger)
        self.fold = FoldRow()
        self.fold.clicked.connect(self._toggle_fold)
        self.arrange_fold = FoldRow()
        self.arrange_fold.clicked.connect(self._toggle_arrange)
        for widget in (self.lamp_options, self.options, self.arrange, self.fold, self.arrange_fold):
            self.column.addWidget(widget)
        self.column.addStretch(1)
        self.setWidget(body)
        session.on("stage", self.rebuild)
        session.on("tool", self._tool_changed)
        self.rebuild()

    def fit_height(self) -> None:
        """As high as its rows need, but leaving the pile its share."""
        widget, window = self.widget(), self.window()
        if widget is not None:
            widget.layout().activate()  # type: ignore[union-attr]
            self.setFixedHeight(min(widget.sizeHint().height() + 2, max(int(window.height() * 0.62), 200)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.fit_height)

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
        specs = STAGE_ROWS[self.session.stage]
        self.heading.setText(STAGES[self.session.stage].upper())
        self.rows = []
        at = 1
        for spec in specs:
            if spec.more and not self.unfolded and spec.tool != self.session.tool:
                continue
            command = self.registry[spec.command]
            row = Row(spec, spec.key or (command.keys if len(command.keys) < 8 and "+" not in command.keys[:5] else ""))
            row.clicked.connect(self._runner(spec.command))
            self.rows.append(row)
            self.column.insertWidget(at, row)
            at += 1
        self.fold.setVisible(any(s.more for s in specs))
        self.fold.show_text("fewer" if self.unfolded else "more", self.unfolded)
        self.arrange_fold.show_text("Arrange by number", self.arranging)
        self._place_options()

    def _place_options(self) -> None:
        """Put the options under the row that they belong to."""
        tool = self.canvas.tool
        for widget in (self.options, self.lamp_options, self.arrange, self.arrange_fold, self.fold):
            self.column.removeWidget(widget)
        at = 1
        for row in self.rows:
            chosen = row.row.tool == self.session.tool and bool(row.row.tool)
            row.chosen = chosen
            row.update()
            self.column.insertWidget(at, row)
            at += 1
            if chosen:
                self.options.build(tool)
                self.column.insertWidget(at, self.options)
                at += 1
            if row.row.tool == "move":
                self.column.insertWidget(at, self.arrange_fold)
                self.column.insertWidget(at + 1, self.arrange)
                at += 2
            if row.row.tool == "lamp":
                self.column.insertWidget(at, self.lamp_options)
                at += 1
        self.column.insertWidget(at, self.fold)
        self.lamp_options.setVisible(self.session.stage == 3)
        self.options.setVisible(bool(tool.options) and any(r.chosen for r in self.rows))
        self.arrange_fold.setVisible(self.session.tool == "move" and self.session.stage < 3)
        self.arrange.setVisible(self.arranging and self.session.tool == "move" and self.session.stage < 3)
        QTimer.singleShot(0, self.fit_height)

    def _tool_changed(self) -> None:
        shown = {r.row.tool for r in self.rows}
        folded = any(s.more and s.tool in shown for s in STAGE_ROWS[self.session.stage]) and not self.unfolded
        if self.session.tool not in shown or folded:
            self.rebuild()
        else:
            self._place_options()

    def _runner(self, command: str) -> Callable[[], bool]:
        return lambda: self.registry.run(command)

    def refresh(self) -> None:
        self._place_options()
