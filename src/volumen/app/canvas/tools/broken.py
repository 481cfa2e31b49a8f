"""Broken lines: pieces of lines and of the edges of blocks are clicked away, and back."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPen

from volumen.app import theme
from volumen.app.canvas.handles import qt_path
from volumen.app.canvas.sheet import Pointer, ToolSheet
from volumen.app.canvas.tools.base import Tool
from volumen.app.state.news import Stage
from volumen.app.state.registry import Shown
from volumen.edit.broken import Piece, piece_at, pieces_of, turned_over
from volumen.model.nodes import Document

_REACH = 6.0  # pixels


class BrokenTool(Tool):
    """Leaves single pieces of a line out."""

    name = "broken"
    icon = "broken"
    keys = "Shift+X"
    toolbox = (Shown(Stage.CARVE, 55, folded=True), Shown(Stage.COLOUR, 125, folded=True))
    hint = "Click a piece of a line, or of a block's edges, to leave it out; click its gap to put it back."
    cursor = Qt.CursorShape.PointingHandCursor

    def __init__(self, sheet: ToolSheet) -> None:
        super().__init__(sheet)
        self.hovered: Piece | None = None
        self._known: tuple[Document, int, list[Piece]] | None = None

    def pieces(self) -> list[Piece]:
        """The pieces of the selected object, kept until the document changes."""
        s = self.session
        if len(s.selection) != 1:
            return []
        if self._known is None or self._known[0] is not s.document or self._known[1] != s.selection[0]:
            self._known = (s.document, s.selection[0], pieces_of(s.document, s.selection[0]))
        return self._known[2]

    def _at(self, p: Pointer) -> Piece | None:
        return piece_at(self.pieces(), p.sheet, _REACH / self.sheet.viewport.scale)

    def hover(self, p: Pointer) -> None:
        self.hovered = self._at(p)
        self.sheet.update()

    def press(self, p: Pointer) -> None:
        piece = self._at(p)
        if piece is None:
            self.session.select(self.under(p, 6.0)[-1:])
            if self.session.selection and not self.pieces():
                self.session.say("it has no line and no edges: add a line first, or give its block edges")
            piece = self._at(p)
        if piece is not None:
            s = self.session
            made = turned_over(s.document, s.selection[0], piece)
            if made is s.document:
                s.say("left out by lot: change the share that is left out, or the seed")
            else:
                s.apply("leave out a piece" if piece.drawn else "put a piece back", made)
        self.hover(p)

    def leave(self) -> None:
        self.hovered, self._known = None, None

    def paint(self, painter: QPainter) -> None:
        view = self.sheet.viewport.affine()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(theme.VERMILION), 1.2, Qt.PenStyle.DotLine))
        for piece in self.pieces():
            if not piece.drawn:
                painter.drawPath(qt_path(piece.path, view))
        if self.hovered is not None:
            painter.setPen(QPen(QColor(theme.AMBER), 3.5))
            painter.drawPath(qt_path(self.hovered.path, view))
            self.tell(painter, "leave out" if self.hovered.drawn else "put back")
