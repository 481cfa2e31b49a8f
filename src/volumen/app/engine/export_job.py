"""Exports in a process of their own: the window stays free, and cancelling leaves no half file."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, QTimer

from volumen.formats import native
from volumen.formats.written_apart import write_outputs
from volumen.model.nodes import Document
from volumen.processes import end, started

if TYPE_CHECKING:
    from volumen.formats.outputs import Task


class ExportJob(QObject):
    """Writes some files, all or none. ``progress`` gets 0..1, ``done`` an error message or nothing."""

    def __init__(
        self, document: Document, tasks: list[Task], progress: Callable[[float], None], done: Callable[[str], None],
    ) -> None:  # fmt: skip
        super().__init__()
        self.tasks, self._progress, self._done = tasks, progress, done
        self.remark = ""  # how close the vector form comes
        self._process, self._connection = started(write_outputs, native.encode(document), tasks, name="volumen-export")
        self._timer = QTimer(self, interval=40)
        self._timer.timeout.connect(self._poll)
        self._timer.start()

    def _poll(self) -> None:
        try:
            while self._connection.poll():
                message = self._connection.recv()
                if isinstance(message, tuple):
                    self.remark = message[0]
                    continue
                if isinstance(message, str):
                    self._end(message)
                    return
                self._progress(message)
        except (EOFError, OSError):
            self._clear_away()
            self._end("the export stopped unexpectedly; the old files, if there were some, are intact")

    def _end(self, message: str) -> None:
        self._timer.stop()
        self._process.join(1)
        self._connection.close()
        self._done(message)

    def cancel(self) -> None:
        """Stop at once. Files are put in place only when all are complete, so the old ones stay."""
        self._timer.stop()
        end(self._process, self._connection)
        self._clear_away()
        self._done("cancelled")

    def _clear_away(self) -> None:
        from volumen.formats.outputs import remove_left

        for folder in {t.path.parent for t in self.tasks}:
            remove_left(folder)
