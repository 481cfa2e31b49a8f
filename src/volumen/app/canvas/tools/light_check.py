"""Light check: what disagrees with the lamp is outlined and named; a click, or one button, puts it right."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.lights import Disagreement, disagreements, put_right
from volumen.edit.objects import selection_box
from volumen.geometry.affine import apply
from volumen.geometry.path import Box, in_box, transform_box
from volumen.model.nodes import Document


class LightCheckTool(Tool):
    """Shows what disagrees with the lamp and puts it right."""

    name = "light check"
    icon = "scan-search"
    toolbox = (Shown(Stage.LIGHT, 80),)
    hint = "What disagrees with the lamp is marked. Click one to select it, <b>Alt</b>-click to let it follow the lamp."
    options = (
        Act("Put all right", "all_right", "let everything marked follow the lamp"),
        Act("Put these right", "selection_right", "let what is selected follow the lamp"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self._of: Document | None = None
        self._found: list[Disagreement] = []

    def found(self) -> list[Disagreement]:
        """What disagrees now; worked out once for each state of the document."""
        if self._of is not self.session.document:
            self._of, self._found = self.session.document, disagreements(self.session.document)
        return self._found

    def press(self, p: Pointer) -> None:
        for d in self.found():
            box = self._box(d.node)
            if box is not None and in_box(box, *p.at):
                self.session.select((d.node,))
                if p.alt:
                    self._right([x for x in self.found() if x.node == d.node])
                return
        self.session.select(())

    def all_right(self) -> None:
        self._right(self.found())

    def selection_right(self) -> None:
        self._right([d for d in self.found() if d.node in self.session.selection])

    def _right(self, found: list[Disagreement]) -> None:
        if found:
            self.session.apply("follow the lamp", put_right(self.session.document, found))
            count = len(found)
            self.session.say(f"{count} thing{'' if count == 1 else 's'} put right")
        else:
            self.session.say("nothing there disagrees with the lamp")

    def _box(self, node_id: int) -> Box | None:
        """The box of a node on the canvas."""
        box = selection_box(self.session.document, [node_id])
        return transform_box(box, self.sheet.viewport.affine()) if box is not None else None

    def paint(self, painter: QPainter) -> None:
        self.sheet.paint_outlines(painter)
        shown: set[int] = set()
        for d in self.found():
            box = self._box(d.node)
            if box is None or d.node in shown:
                continue
            shown.add(d.node)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(theme.VERMILION), 1.6, Qt.PenStyle.DashLine))
            painter.drawRect(QRectF(box[0] - 3, box[1] - 3, box[2] - box[0] + 6, box[3] - box[1] + 6))
            why = [x.message for x in self.found() if x.node == d.node]
            tag(painter, (box[0], box[3] + 8), why[0] if len(why) == 1 else f"{why[0]}, and {len(why) - 1} more")
        if not self.found():
            x, y = apply(self.sheet.viewport.affine(), (8.0, 8.0))
            tag(painter, (max(x, 12.0), max(y, 12.0)), "everything agrees with the lamp")
