"""The canvas: shows the worker's picture, paints handles over it at once, and gives gestures to the tools."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import (
    QDragEnterEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QTabletEvent,
    QWheelEvent,
)

from volumen.app.canvas.guide_painting import RULER, field_of, paint_bleed, paint_guides, paint_rulers, paint_snap
from volumen.app.canvas.sheet import SNAP_REACH, Pointer
from volumen.app.canvas.sheet_view import SheetView
from volumen.app.canvas.swatch_drag import dropped
from volumen.app.canvas.tools import TOOLS
from volumen.app.canvas.tools.base import Tool
from volumen.app.canvas.tools.guides import GuidesTool
from volumen.app.canvas.tools.lamp import LampTool
from volumen.app.canvas.tools.shapes import DEFAULT_FILL
from volumen.app.canvas.tools.spindle import SpindleTool
from volumen.app.engine.frames import FrameLink
from volumen.app.state.colouring import give_colour
from volumen.app.state.news import News, Stage
from volumen.app.state.session import Session
from volumen.app.widgets.painting import painted
from volumen.geometry.affine import Point
from volumen.geometry.engine import PathOpError
from volumen.geometry.snap import Snap, SnapField

MUTE_KEY = Qt.Key.Key_Z  # held: without the open ingredient


class Canvas(SheetView):
    """The sheet as a widget; implements ``ToolSheet`` for its tools."""

    def __init__(self, session: Session, link: FrameLink) -> None:
        super().__init__(session, link)
        self.pointer: Point | None = None
        self.last_colour = DEFAULT_FILL
        self.tools: dict[str, Tool] = {t.name: t for t in (kind(self) for kind in TOOLS)}
        guides = self.tools["guides"]
        assert isinstance(guides, GuidesTool)
        self.guides = guides
        self.snapped: Snap | None = None
        self._field: tuple[object, SnapField, object] | None = None
        self.setAcceptDrops(True)
        self._gesture: Tool | None = None
        self._panning: Point | None = None
        self._space = False
        self._pressure: float | None = None
        self.lamp_held = False
        session.unfinished = lambda: self.tool.unfinished()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("sheet")
        self.setMinimumSize(200, 160)
        link.frame_ready.connect(self.update)
        session.on((News.DOCUMENT, News.SELECTION, News.ACTIVE, News.TOOL, News.STAGE, News.LOOK), self.update)
        session.on((News.TOOL,), self._tool_changed)
        self._current = session.tool

    # -- the view

    @property
    def tool(self) -> Tool:
        return self.tools[self.session.tool]

    @property
    def lamp(self) -> LampTool:
        tool = self.tools["lamp"]
        assert isinstance(tool, LampTool)
        return tool

    def _tool_changed(self) -> None:
        self.tools[self._current].leave()
        self._current = self.session.tool
        self.setCursor(self.tool.cursor)

    # -- what is under way

    def end_unfinished(self) -> None:
        """End what is half drawn or half typed, as before a save."""
        if self.tool.unfinished() is not None:
            self.tool.leave()

    def drop(self) -> None:
        """All that is under way goes: another document comes, or something went wrong."""
        gesture, self._gesture, self._panning, self.snapped = self._gesture, None, None, None
        for tool in {gesture or self.tool, self.tool}:
            tool.drop()
        self.session.cancel()
        self.update()

    # -- snapping

    def snap(self, p: Pointer, origin: Point | None = None, without: tuple[int, ...] = ()) -> Point:
        """Where a point being placed goes: to what is near it, or where the pointer is."""
        self.snapped = None
        if self.session.snapping:
            self.snapped = self.snap_field(without).snap(
                p.sheet, SNAP_REACH / self.viewport.scale, self.session.snap_kinds, origin
            )
        return self.snapped.at if self.snapped else p.sheet

    def snap_field(self, without: tuple[int, ...] = ()) -> SnapField:
        """What can be snapped to; made anew only when the document has changed since the gesture began."""
        document = self.session.history.committed
        key = (id(document), without)
        if self._field is None or self._field[0] != key:
            self._field = (key, field_of(document, set(without)), document)
        return self._field[1]

    # -- painting

    @painted
    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        sheet = self.session.document.sheet
        self._behind.paint(painter, self, (sheet, self.viewport), self._paint_sheet)
        self._paint_picture(painter)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_bleed(painter, self)
        if self.session.stage != Stage.LIGHT:
            paint_guides(painter, self)
        self.tool.paint(painter)
        if self.snapped is not None and self.pointer is not None:
            paint_snap(painter, self)
        if self.session.rulers:
            paint_rulers(painter, self)
        if self.session.tool != "lamp" and (self.session.stage == Stage.LIGHT or self.lamp_held):
            self.lamp.paint(painter)

    # -- events

    def _pointer(self, event: QMouseEvent) -> Pointer:
        at = (event.position().x(), event.position().y())
        held = event.modifiers()
        return Pointer(
            at, self.viewport.to_sheet(at),
            bool(held & Qt.KeyboardModifier.ShiftModifier),
            bool(held & Qt.KeyboardModifier.ControlModifier),
            bool(held & Qt.KeyboardModifier.AltModifier),
            self._pressure,
        )  # fmt: skip

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        p = self._pointer(event)
        if event.button() == Qt.MouseButton.MiddleButton or (
            self._space and event.button() == Qt.MouseButton.LeftButton
        ):
            self._panning = p.at
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton and self.session.rulers and min(p.at) < RULER:
            self._gesture = self.guides
            self.guides.from_ruler(p)
        elif event.button() == Qt.MouseButton.LeftButton:
            grabs = self.lamp_held or (self.session.stage == Stage.LIGHT and self.lamp.on_sun(p.at))
            self._gesture = self.lamp if grabs else self.tool
            self._gesture.press(p)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        p = self._pointer(event)
        self.pointer = p.at
        if self._panning is not None:
            self.set_viewport(self.viewport.moved(p.at[0] - self._panning[0], p.at[1] - self._panning[1]))
            self._panning = p.at
        elif self._gesture is not None:
            self._gesture.move(p)
        else:
            self.tool.hover(p)
        self.session.tell(News.POINTER)

    def tabletEvent(self, event: QTabletEvent) -> None:
        """Only the pressure is taken; the mouse event that follows does the rest."""
        self._pressure = event.pressure() if event.type() != QEvent.Type.TabletRelease else None
        event.ignore()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._panning is not None:
            self._panning = None
            self.setCursor(self.tool.cursor)
        elif self._gesture is not None and event.button() == Qt.MouseButton.LeftButton:
            gesture, self._gesture = self._gesture, None
            gesture.release(self._pointer(event))
            self.snapped = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self.tool.double(self._pointer(event))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if dropped(event.mimeData()) is not None:
            event.acceptProposedAction()
        else:
            event.ignore()  # files go to the window

    def dropEvent(self, event: QDropEvent) -> None:
        """A swatch goes to the stop under it, else to the object under it."""
        found = dropped(event.mimeData())
        if found is None:
            event.ignore()
            return
        at = (event.position().x(), event.position().y())
        p = Pointer(at, self.viewport.to_sheet(at))
        if not (isinstance(self.tool, SpindleTool) and self.tool.take_colour(p, found[1], found[0])):
            chain = self.tool.under(p)
            if chain:
                self.session.select(chain[-1:])
                give_colour(self.session, found[1], found[0])
        event.acceptProposedAction()

    def leaveEvent(self, event: QEvent) -> None:
        self.pointer = None
        self.session.tell(News.POINTER)

    def wheelEvent(self, event: QWheelEvent) -> None:
        at = (event.position().x(), event.position().y())
        steps, held = event.angleDelta(), event.modifiers()
        if held & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.0015 ** steps.y(), at)
        elif held & Qt.KeyboardModifier.ShiftModifier:
            self.set_viewport(self.viewport.moved(steps.y() / 2, 0))
        else:
            self.set_viewport(self.viewport.moved(steps.x() / 2, steps.y() / 2))

    def event(self, event: QEvent) -> bool:
        """Keys that the tool needs are kept from being taken as shortcuts."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            gesture = self._gesture or self.tool
            if (
                gesture.wants(event.key()) or (gesture.typing and event.text())
            ) and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                event.accept()
                return True
        try:
            return super().event(event)
        except PathOpError as problem:  # outlines for which there is no answer: what was under way is undone
            self.drop()
            self.session.say(str(problem))
            return True
        except Exception:  # a fault of our own: the gesture is undone before it is told
            self.drop()
            raise

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self._gesture is not None:
            abandoned, self._gesture, self.snapped = self._gesture, None, None
            abandoned.abandon()
            self.update()
            return
        gesture = self._gesture or self.tool
        if gesture.typing and event.text().isprintable() and event.text():
            gesture.text(event.text())
            self.update()
        elif event.key() == Qt.Key.Key_Space and not event.isAutoRepeat():
            self._space = True
            self.setCursor(Qt.CursorShape.OpenHandCursor)
        elif event.key() == Qt.Key.Key_L and not event.modifiers() and not event.isAutoRepeat():
            self.lamp_held = True
            self.update()
        elif event.key() == MUTE_KEY and not event.modifiers() and not event.isAutoRepeat():
            self.session.set_look(muted=True)
        elif gesture.key(event.key()):
            self.update()
        else:
            super().keyPressEvent(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        if event.isAutoRepeat():
            return
        if event.key() == Qt.Key.Key_Space:
            self._space = False
            self.setCursor(self.tool.cursor)
        elif event.key() == Qt.Key.Key_L:
            self.lamp_held = False
            self.update()
        elif event.key() == MUTE_KEY and self.session.muted:
            self.session.set_look(muted=False)
        else:
            super().keyReleaseEvent(event)

    def focusOutEvent(self, event: QEvent) -> None:
        self._space = self.lamp_held = False
        if self.session.muted:
            self.session.set_look(muted=False)
        self.update()
