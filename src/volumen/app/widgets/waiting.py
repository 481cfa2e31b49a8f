"""Passing time while something long is under way: first without hands, then with a dialog that stops it."""

from __future__ import annotations

import time

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QProgressDialog, QWidget

_SHOWN_AFTER = 0.4  # seconds
_STEP = 0.02  # seconds of work between two looks at the window


class Waiting:
    """``asks`` says whether a dialog may come up; without one, as while a slider is held, hands wait for the end."""

    def __init__(self, parent: QWidget, title: str, text: str, asks: bool = True) -> None:
        self._parent, self._title, self._text, self._asks = parent, title, text, asks
        self._begun = self._looked = time.monotonic()
        self._dialog: QProgressDialog | None = None

    def __enter__(self) -> Waiting:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def stops(self) -> bool:
        """For work in this thread, asked often: lets the window live now and then. Whether the person has stopped it."""
        if time.monotonic() - self._looked < _STEP:
            return False
        going_on = self.wait(0.0)
        self._looked = time.monotonic()
        return not going_on

    def wait(self, seconds: float) -> bool:
        """Let the window live for some seconds. False when the person has stopped it."""
        if self._asks and self._dialog is None and time.monotonic() - self._begun > _SHOWN_AFTER:
            self._dialog = QProgressDialog(self._text, "Stop", 0, 0, self._parent)
            self._dialog.setWindowTitle(self._title)
            self._dialog.setWindowModality(Qt.WindowModality.WindowModal)
            self._dialog.setMinimumDuration(0)
            self._dialog.show()
        loop = QEventLoop()
        QTimer.singleShot(round(seconds * 1000), loop.quit)
        flag = QEventLoop.ProcessEventsFlag
        loop.exec(flag.AllEvents if self._dialog is not None else flag.ExcludeUserInputEvents)
        return self._dialog is None or not self._dialog.wasCanceled()

    def close(self) -> None:
        """The work has ended."""
        if self._dialog is not None:
            ours = QGuiApplication.applicationState() == Qt.ApplicationState.ApplicationActive
            no_other = QApplication.activeWindow() in (None, self._dialog)
            self._dialog.reset()
            self._dialog.deleteLater()
            if ours and no_other:  # the keys go to the window again, without a window manager as well
                self._parent.activateWindow()
                QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)  # before the next key
            self._dialog = None
