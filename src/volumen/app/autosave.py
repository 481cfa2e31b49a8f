"""Autosave and recovery: the newest document is written beside the others of this person every few seconds."""

from __future__ import annotations

import os
import threading
from pathlib import Path

import platformdirs
from PySide6.QtCore import QObject, QTimer

from volumen.app.session import Session
from volumen.formats import native
from volumen.formats.files import FileProblem
from volumen.model.nodes import Document

EVERY_MS = 8000


def folder() -> Path:
    return Path(os.environ.get("VOLUMEN_STATE", platformdirs.user_state_dir("volumen"))) / "recovery"


def _alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True


def left_behind() -> list[Path]:
    """Recovery files of windows that are gone, the newest first."""
    files = []
    for file in folder().glob("*.volumen") if folder().is_dir() else ():
        pid = file.stem.rpartition("-")[2]
        if pid.isdigit() and not _alive(int(pid)):
            files.append(file)
    return sorted(files, key=lambda f: f.stat().st_mtime, reverse=True)


class Autosave(QObject):
    """Writes in a thread: the document is immutable, so nothing needs to wait for it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._written: Document | None = None
        self._file: Path | None = None
        self._thread: threading.Thread | None = None
        self.timer = QTimer(self, interval=EVERY_MS)
        self.timer.timeout.connect(self.tick)
        self.timer.start()

    def tick(self) -> None:
        """Write if there is something new; the file is named after the document and this process."""
        document = self.session.history.committed
        if not self.session.history.changed:
            self.clear()
            return
        if document is self._written or (self._thread is not None and self._thread.is_alive()):
            return
        name = "".join(c if c.isalnum() or c in " _" else "_" for c in self.session.name)[:60]
        target = folder() / f"{name}-{os.getpid()}.volumen"
        if self._file not in (None, target):
            self.clear()
        self._written, self._file = document, target
        self._thread = threading.Thread(target=self._write, args=(document, target), daemon=True)
        self._thread.start()

    def _write(self, document: Document, target: Path) -> None:
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            native.save(document, target)
        except (FileProblem, OSError) as problem:
            self._written = None
            self.session.note = f"autosave: {problem}"

    def clear(self) -> None:
        """Nothing needs recovery any more."""
        if self._thread is not None:
            self._thread.join(5)
        if self._file is not None:
            self._file.unlink(missing_ok=True)
        self._file = self._written = None

    def close(self) -> None:
        self.timer.stop()
        self.clear()
