"""Memory of the window over a long day: what was worked out for states that are gone is given back at rest."""

from __future__ import annotations

from PySide6.QtCore import QObject, QTimer

from volumen.app.state.news import News
from volumen.app.state.session import Session
from volumen.caching import forget_all, give_back

_REST_MS = 5000
_MANY = 300  # changes: what a few of them leave is little, and the next hand may want it


class Tidying(QObject):
    """Counts changes, and tidies after many of them as soon as hands have rested for a while."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.changes = 0
        self._rest = QTimer(self, singleShot=True, interval=_REST_MS)
        self._rest.timeout.connect(self.tidy)
        session.on((News.DOCUMENT,), self._changed)

    def _changed(self) -> None:
        self.changes += 1
        if self.changes >= _MANY:
            self._rest.start()  # again from now

    def tidy(self) -> None:
        """Forget what can be worked out again."""
        if self.session.history.in_gesture:
            self._rest.start()
            return
        self.changes = 0
        forget_all()
        give_back()
