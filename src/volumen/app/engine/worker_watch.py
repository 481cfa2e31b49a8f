"""Whether the worker lives and answers: a slow one is told, a hung or dead one is replaced, and not without end."""

from __future__ import annotations

import time
from pathlib import Path

from PySide6.QtCore import QObject, QTimer, Signal

from volumen.model.nodes import Document
from volumen.render.worker.client import RenderClient

LOOK_MS = 400
LATE = 5.0  # seconds without an answer, after which that is told
STOPPED = 25.0  # seconds without an answer and without any work, after which the worker is replaced,
HUNG = 180.0  # and with work: some pictures take long; all grow with what the last ones took
_TIMES_USUAL = 8.0
_DELAYS = (0, 500, 2000)  # milliseconds before each new start; after the last, the document must change first
_ASLEEP = 4.0  # seconds between two looks: this process itself was stopped, so the worker may have been too


def processor_time(pid: int | None) -> int | None:
    """What a process has worked, in ticks of a hundredth of a second; None if that cannot be told."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
        return int(fields[11]) + int(fields[12])
    except (OSError, ValueError, IndexError):
        return None


class WorkerWatch(QObject):
    """``late`` and ``given_up`` are to be told; ``ending`` comes before the old worker is gone, and after ``replaced``
    all must be asked anew."""

    late = Signal()
    ending = Signal()
    replaced = Signal()
    given_up = Signal()

    def __init__(self, parent: QObject, client: RenderClient) -> None:
        super().__init__(parent)
        self.client = client
        self.patience = 1.0  # shortens or lengthens both times
        self._since: float | None = None  # when the answer that is owed was begun
        self._looked = time.monotonic()
        self._usual = 0.0
        self._spent = 0  # processor time of the worker when it was last looked at
        self._told = False
        self._failed = 0  # workers that ended since one has drawn a picture
        self._starting = False
        self._refused: Document | None = None  # drawing it ended worker after worker
        self._last: Document | None = None
        self._timer = QTimer(self, interval=LOOK_MS)
        self._timer.timeout.connect(self.look)
        self._timer.start()

    def may_ask(self, document: Document) -> bool:
        """Whether there is a worker to ask; one is started again when what it could not draw has changed."""
        self._last = document
        if self._refused is not None and document is not self._refused:
            self._refused, self._failed = None, 0
            self._replace()
        return not self._starting and self._refused is None

    def asked(self) -> None:
        if self._since is None:
            self._since, self._told = time.monotonic(), False

    def heard(self, waiting: bool) -> None:
        """An answer came; whether another is owed."""
        now = time.monotonic()
        if self._since is not None:
            self._usual = max(0.9 * self._usual, now - self._since)
        self._since, self._told = (now if waiting else None), False

    def drawn(self) -> None:
        self._failed = 0

    def look(self) -> None:
        """Is the worker there, and does it answer?"""
        now, before = time.monotonic(), self._looked
        self._looked = now
        if self._starting or self._refused is not None:
            return
        if not self.client.alive:
            self._replace()
            return
        if self._since is None:
            return
        if now - before > _ASLEEP:
            self._since = now
        waited = now - self._since
        usual = _TIMES_USUAL * self._usual
        if waited > ((HUNG if self._works() else STOPPED) + usual) * self.patience:
            self._replace()
        elif waited > (LATE + usual) * self.patience and not self._told:
            self._told = True
            self.late.emit()

    def _works(self) -> bool:
        """Whether the worker has had processor time since it was last looked at."""
        spent = processor_time(self.client.process.pid)
        if spent is None:
            return False
        works, self._spent = spent != self._spent, spent
        return works

    @property
    def refused(self) -> bool:
        """Whether what is shown cannot be drawn, and nothing is tried until it changes."""
        return self._refused is not None

    def _replace(self) -> None:
        self.ending.emit()
        self.client.end()
        self._since = None
        if self._failed >= len(_DELAYS):
            self._refused = self._last
            self.given_up.emit()
            return
        delay = _DELAYS[self._failed]
        self._failed += 1
        if delay == 0:
            self._start()
        else:
            self._starting = True
            QTimer.singleShot(delay, self, self._start)

    def _start(self) -> None:
        if self._stopped:
            return
        self._starting = False
        self.client.start()
        self.replaced.emit()

    @property
    def _stopped(self) -> bool:
        return not self._timer.isActive()

    def stop(self) -> None:
        self._timer.stop()
