"""Whose keys they are: a click into a panel leaves them to the sheet, unless it goes into a field for typing or a list."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWindow
from PySide6.QtWidgets import (
    QAbstractItemView,
    QAbstractSpinBox,
    QApplication,
    QComboBox,
    QLineEdit,
    QMainWindow,
    QPlainTextEdit,
    QTextEdit,
    QWidget,
)
from shiboken6 import isValid

from volumen.app.widgets.ease import EaseBox
from volumen.app.widgets.stopbar import StopBar

_TYPED_INTO = (QLineEdit, QPlainTextEdit, QTextEdit, QAbstractSpinBox)
_LISTS = (QAbstractItemView, StopBar, EaseBox)  # they go on by arrows and Delete; letters stay tools
_OF_LISTS = frozenset({
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End,
    Qt.Key.Key_PageUp, Qt.Key.Key_PageDown, Qt.Key.Key_Space, Qt.Key.Key_Delete, Qt.Key.Key_Backspace,
    Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_Backtab,
})  # fmt: skip
LEAVING = (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Escape)


def is_typed_into(widget: QWidget | None) -> bool:
    """Whether letters are words there."""
    if isinstance(widget, QComboBox):
        return widget.isEditable()
    return isinstance(widget, _TYPED_INTO)


class KeysOfSheet(QObject):
    """Gives the keys of a window back to its sheet. ``sheet`` tells which widget that is at the moment."""

    def __init__(self, window: QMainWindow, sheet: Callable[[], QWidget]) -> None:
        super().__init__(window)
        self._window, self._sheet = window, sheet
        self._watched: QWindow | None = None
        self._list: QWidget | None = None  # a list that the mouse went to: its letters go to the sheet
        self._before: QWidget | None = None  # what had the focus when the mouse was pressed
        self._pressed_in: QWidget | None = None
        QApplication.instance().focusChanged.connect(self._focus_changed)  # type: ignore[union-attr]

    def watch(self, window: QWindow | None) -> None:
        """Follow the mouse on the screen's window, where it is seen before any widget takes it."""
        if window is not None and window is not self._watched:
            self._watched = window
            window.installEventFilter(self)

    def give_back(self) -> None:
        self._sheet().setFocus()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self._watched:
            if event.type() == QEvent.Type.MouseButtonPress and isinstance(event, QMouseEvent):
                self._before = self._window.focusWidget()
                self._pressed_in = self._window.childAt(event.position().toPoint())
            elif event.type() == QEvent.Type.MouseButtonRelease:
                QTimer.singleShot(0, self._clicked)
        elif event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            return self._of_list(watched, event)
        return False

    def _clicked(self) -> None:
        """A click is over, and what it led to is done."""
        before, pressed_in = self._before, self._pressed_in
        if not isValid(self._window) or QApplication.activeModalWidget() is not None:
            return
        now = self._window.focusWidget()
        if now is None or not is_typed_into(now):
            if now is not self._list:
                self.give_back()
            return
        was_there = before is not None and isValid(before) and now is before
        inside = pressed_in is not None and isValid(pressed_in) and (pressed_in is now or now.isAncestorOf(pressed_in))
        if was_there and not inside:
            self.give_back()

    def _focus_changed(self, _old: QWidget | None, now: QWidget | None) -> None:
        """What is left by the keyboard gives it back to the sheet; so does what the mouse pressed. With Tab all is reached
        as before."""
        if not isValid(self._window):
            return
        self._leave_list()
        if now is None:
            if self._window.isActiveWindow():
                self.give_back()
            return
        if now.window() is not self._window or not QApplication.mouseButtons() or is_typed_into(now):
            return
        if isinstance(now, _LISTS):
            self._list = now
            now.installEventFilter(self)
        elif now is not self._sheet():
            self.give_back()

    def _leave_list(self) -> None:
        if self._list is not None and isValid(self._list):
            self._list.removeEventFilter(self)
        self._list = None

    def _of_list(self, watched: QObject, event: QKeyEvent) -> bool:
        """A key in a list that was clicked: what moves about in it is its own, what is a tool's goes to the sheet, which
        has the focus when the key itself comes."""
        held = event.modifiers() & ~(Qt.KeyboardModifier.KeypadModifier | Qt.KeyboardModifier.ShiftModifier)
        is_letter = held == Qt.KeyboardModifier.NoModifier and bool(event.text().strip())
        if watched is not self._list or not is_letter or event.key() in _OF_LISTS:
            return False
        self.give_back()
        QApplication.sendEvent(self._sheet(), event)
        return event.isAccepted()
