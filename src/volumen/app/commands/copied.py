"""What was copied, in the forms that other programs take: made in a process of its own, while the hand goes on."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QByteArray, QMimeData, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QImage

from volumen.formats import native
from volumen.formats.written_apart import make_copies
from volumen.geometry.path import union_box
from volumen.model.nodes import Document, Group
from volumen.outline.boxes import node_box
from volumen.processes import end, started

MIME = "application/vnd.volumen.nodes"
SVG_MIME = "image/svg+xml"
_TEXT, _IMAGE = "text/plain", "application/x-qt-image"
_LOOK_MS = 200
_MOST_SECONDS = 60.0  # that a program which asks for a form may have to wait for it


class Copied(QMimeData):
    """Branches of a document for Volumen itself, and as SVG and PNG for other programs."""

    def __init__(self, document: Document, branches: tuple[Group, ...]) -> None:
        super().__init__()
        self._own = native.encode_branches(branches)
        self._made: tuple[bytes, bytes] | None = None
        self._seen = union_box(node_box(b) for b in branches) is not None
        self._timer = QTimer(self, interval=_LOOK_MS)
        self._timer.timeout.connect(self._look)
        if self._seen:
            bare = native.encode(replace(document, root=replace(document.root, children=())))
            self._process, self._connection = started(make_copies, bare, self._own, name="volumen-copy")
            self._timer.start()

    def formats(self) -> list[str]:
        return [MIME, SVG_MIME, _TEXT, _IMAGE] if self._seen else [MIME]

    def retrieveData(self, mime: str, kind: Any) -> Any:
        """One form; the first that is asked for may have to be waited for."""
        if mime == MIME:
            return QByteArray(self._own)
        if not self.hasFormat(mime):
            return None
        svg, png = self._forms()
        if mime == _IMAGE:
            return QImage.fromData(png)
        return svg.decode() if mime == _TEXT else QByteArray(svg)

    def _forms(self) -> tuple[bytes, bytes]:
        if self._made is None:
            QGuiApplication.setOverrideCursor(Qt.CursorShape.WaitCursor)
            try:
                self._look(_MOST_SECONDS)
            finally:
                QGuiApplication.restoreOverrideCursor()
        return self._made or (b"", b"")

    def _look(self, seconds: float = 0.0) -> None:
        """Take what the process has made, if it has."""
        try:
            if self._made is None and self._connection.poll(seconds):
                self._made = self._connection.recv()
        except (EOFError, OSError):
            self._made = b"", b""
        if self._made is not None:
            self.stop()

    def stop(self) -> None:
        """End the process: all is made, or no longer wanted."""
        self._timer.stop()
        if self._seen and not self._connection.closed:
            end(self._process, self._connection)
