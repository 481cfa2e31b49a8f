"""Light check: what disagrees with the lamp is outlined and named, shown before and after, put right or meant so."""

from __future__ import annotations

from functools import partial

import msgspec
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import tag
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Act, Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.light_check import Disagreement, alike, disagreements, meant, put_right
from volumen.edit.objects import selection_box
from volumen.geometry.affine import apply
from volumen.geometry.path import Box, grow_box, in_box, transform_box
from volumen.model.nodes import Document

_SIDE = 132  # pixels of the pictures before and after
_GAP = 6.0


class LightCheckTool(Tool):
    """Shows what disagrees with the lamp and puts it right."""

    name = "light check"
    icon = "scan-search"
    toolbox = (Shown(Stage.LIGHT, 80),)
    hint = (
        "What disagrees with the lamp is marked: point at it to see it before and after. Click selects,"
        " <b>Alt</b>-click lets it follow the lamp."
    )
    options = (
        Act("Put all right", "all_right", "let everything marked follow the lamp"),
        Act("Put these right", "selection_right", "let what is selected follow the lamp"),
        Act("Put its like right", "alike_right", "let all that disagrees as the selection does follow the lamp"),
        Act("Meant so", "meant_so", "let the selection be as it is: it is marked no more"),
        Act("Ask again", "ask_again", "mark what was meant so, too"),
    )

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self._of: Document | None = None
        self._found: list[Disagreement] = []
        self._pointed: tuple[Document, int] | None = None  # the state, and the node pointed at
        self._pictures: dict[str, QImage] = {}

    def found(self) -> list[Disagreement]:
        """What disagrees now; worked out once for each state of the document."""
        if self._of is not self.session.document:
            self._of, self._found = self.session.document, disagreements(self.session.document)
        return self._found

    def press(self, p: Pointer) -> None:
        node = self._under(p)
        self.session.select(() if node is None else (node,))
        if node is not None and p.alt:
            self._right(self._of_nodes((node,)))

    def hover(self, p: Pointer) -> None:
        node = self._under(p)
        pointed = None if node is None else (self.session.document, node)
        if pointed != self._pointed:
            self._pointed, self._pictures = pointed, {}
            self.sheet.drop_pictures()
            if node is not None:
                self._ask(node)
            self.sheet.update()

    def leave(self) -> None:
        self._pointed = None

    def _under(self, p: Pointer) -> int | None:
        """What is marked under the pointer, the smallest of several."""
        boxes = ((d.node, box) for d in self.found() if (box := self._box(d.node)) is not None and in_box(box, *p.at))
        return min(boxes, key=lambda b: (b[1][2] - b[1][0]) * (b[1][3] - b[1][1]), default=(None, None))[0]

    def _ask(self, node: int) -> None:
        """Ask the worker for the pictures of a node before and after."""
        document = self.session.document
        box = selection_box(document, [node])
        if box is None:
            return
        box = grow_box(box, 0.15 * max(box[2] - box[0], box[3] - box[1], 1.0))
        after = put_right(document, self._of_nodes((node,)))
        for name, state in (("before", document), ("after", after)):
            self.sheet.ask_picture(state, box, _SIDE, partial(self._take, (document, node), name))

    def _take(self, of: tuple[Document, int], name: str, image: QImage) -> None:
        if self._pointed == of:
            self._pictures[name] = image
            self.sheet.update()

    # -- what the buttons do

    def all_right(self) -> None:
        self._right(self.found())

    def selection_right(self) -> None:
        self._right(self._of_nodes(self.session.selection))

    def alike_right(self) -> None:
        self._right(alike(self.found(), self._of_nodes(self.session.selection)))

    def meant_so(self) -> None:
        found = self._of_nodes(self.session.selection)
        if found:
            self.session.apply("meant so", meant(self.session.document, found))
            self.session.say("left as it is: the light check marks it no more")
        else:
            self.session.say("select something that is marked first")

    def ask_again(self) -> None:
        document = self.session.document
        if document.meant_so:
            self.session.apply("ask again", msgspec.structs.replace(document, meant_so=()))
        else:
            self.session.say("nothing was meant so")

    def _of_nodes(self, ids: tuple[int, ...]) -> list[Disagreement]:
        return [d for d in self.found() if d.node in ids]

    def _right(self, found: list[Disagreement]) -> None:
        if found:
            self.session.apply("follow the lamp", put_right(self.session.document, found))
            count = len(found)
            self.session.say(f"{count} thing{'' if count == 1 else 's'} put right")
        else:
            self.session.say("nothing there disagrees with the lamp")

    # -- what is shown

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
        elif self._pointed is not None and self._pointed[0] is self.session.document and len(self._pictures) == 2:
            self._paint_pair(painter, self._pointed[1])

    def _paint_pair(self, painter: QPainter, node: int) -> None:
        """The pictures before and after, beside what they are of."""
        box, room = self._box(node), painter.viewport()
        if box is None:
            return
        images = [self._pictures["before"], self._pictures["after"]]
        wide, high = sum(i.width() for i in images) + 3 * _GAP, max(i.height() for i in images) + 2 * _GAP + 18
        x = box[2] + 12 if box[2] + 12 + wide < room.right() else max(box[0] - 12 - wide, room.left() + 4.0)
        y = min(max(box[1], room.top() + 4.0), room.bottom() - high - 4)
        painter.setPen(QPen(QColor(theme.SOFT_INK), 1))
        painter.setBrush(QColor(theme.CARD))
        painter.drawRoundedRect(QRectF(x, y, wide, high), 6, 6)
        painter.setPen(QColor(theme.INK))
        for image, words in zip(images, ("before", "after"), strict=True):
            painter.drawText(QRectF(x + _GAP, y + 3, image.width(), 18), Qt.AlignmentFlag.AlignLeft, words)
            painter.drawImage(QRectF(x + _GAP, y + 21, image.width(), image.height()), image)
            x += image.width() + _GAP
