"""Autosave: the newest document is written every few seconds, with what is half drawn and half typed."""

from __future__ import annotations

import threading
from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer

from volumen.app.engine.recovery import About, Keeper
from volumen.app.state.session import Session
from volumen.formats.files import FileProblem
from volumen.model.nodes import Document

EVERY_MS = 8000


class Autosave(QObject):
    """Writes in a thread: the document is immutable, so nothing needs to wait for it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.keeper = Keeper()
        self.wants_preview: Callable[[], None] = lambda: None  # asks for a new ``preview``, to come when it comes
        self.preview: bytes | None = None
        self._written: Document | None = None
        self._problem = ""
        self._thread: threading.Thread | None = None
        self.timer = QTimer(self, interval=EVERY_MS)
        self.timer.timeout.connect(self.tick)
        self.timer.start()

    def tick(self) -> None:
        """Write if there is something new; say it if the last writing failed."""
        if self._problem:
            self.session.say(f"autosave: {self._problem}")
            self._problem = ""
        if not self.session.unsaved:
            self.clear()
            return
        document = self.session.at_hand
        if document == self._written or self.busy:
            return
        self._written = document
        about = About(self.session.name, str(self.session.path or ""))
        self._thread = threading.Thread(target=self._write, args=(document, about, self.preview), daemon=True)
        self._thread.start()
        self.wants_preview()

    @property
    def busy(self) -> bool:
        return self._thread is not None and self._thread.is_alive()

    def wait(self, seconds: float = 10.0) -> None:
        if self._thread is not None:
            self._thread.join(seconds)

    def _write(self, document: Document, about: About, preview: bytes | None) -> None:
        try:
            self.keeper.write(document, about, preview)
        except Exception as problem:  # whatever it is, the next tick tries again
            self._written = None
            self._problem = str(problem) if isinstance(problem, FileProblem) else f"{type(problem).__name__}: {problem}"

    def clear(self) -> None:
        """Nothing needs recovery any more."""
        self.wait(5)
        self.keeper.clear()
        self._written = None

    def close(self) -> None:
        self.timer.stop()
        self.clear()
        self.keeper.close()
