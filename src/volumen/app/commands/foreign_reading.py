"""Files from elsewhere are read apart while the window lives on; what takes longer can be stopped."""

from __future__ import annotations

import time
from pathlib import Path
from typing import TypeVar

from PySide6.QtCore import QEventLoop, Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from volumen.formats.apart import Apart
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Artwork, Drawing, FileToRead, Picture, Result, Swatches, read_here
from volumen.formats.native import unpacked_size

R = TypeVar("R", Artwork, Drawing, Picture, Swatches)
_SMALL = 3 * 2**20  # bytes of our own artwork, unpacked, that are read at once: half a second
_SHOWN_AFTER = 0.4  # seconds


class Reading:
    """Reads for one window."""

    def __init__(self, parent: QWidget) -> None:
        self.parent, self._apart = parent, Apart()
        self.under_way = False

    def prepare(self) -> None:
        """A file is being chosen: the process that reads it starts meanwhile."""
        if not self.under_way:
            self._apart.prepare()

    def artwork(self, path: Path) -> Artwork:
        """Volumen's own file, or an SVG as a document. Raises FileProblem."""
        if path.suffix.lower() == ".svg":
            return self._read(FileToRead("svg artwork", str(path)), Artwork)
        file = FileToRead("artwork", str(path))
        if unpacked_size(path) <= _SMALL:
            found = read_here(file)
            assert isinstance(found, Artwork)
            return found
        return self._read(file, Artwork)

    def svg(self, path: Path) -> Drawing:
        return self._read(FileToRead("svg", str(path)), Drawing)

    def svg_data(self, data: bytes, name: str) -> Drawing:
        return self._read(FileToRead("svg", data=data, name=name), Drawing)

    def picture(self, path: Path) -> Picture:
        return self._read(FileToRead("picture", str(path)), Picture)

    def palette(self, path: Path) -> Swatches:
        return self._read(FileToRead("palette", str(path)), Swatches)

    def close(self) -> None:
        """No file is wanted any more: a process that waits for one ends."""
        if not self.under_way:
            self._apart.close()

    def _read(self, file: FileToRead, kind: type[R]) -> R:
        if self.under_way:
            raise FileProblem("another file is being read; stop that first")
        self.under_way = True
        waiting = _Waiting(self.parent, file.name or Path(file.path).name)
        try:
            found: Result = self._apart.read(file, waiting.wait)
        finally:
            self.under_way = False
            waiting.close()
        assert isinstance(found, kind)
        return found


class _Waiting:
    """Passes time while a file is read: first without hands, then with a dialog that stops it."""

    def __init__(self, parent: QWidget, name: str) -> None:
        self._parent, self._name = parent, name
        self._begun = time.monotonic()
        self._dialog: QProgressDialog | None = None

    def wait(self, seconds: float) -> bool:
        if self._dialog is None and time.monotonic() - self._begun > _SHOWN_AFTER:
            self._dialog = QProgressDialog(f"Reading '{self._name}' …", "Stop", 0, 0, self._parent)
            self._dialog.setWindowTitle("Reading")
            self._dialog.setWindowModality(Qt.WindowModality.WindowModal)
            self._dialog.setMinimumDuration(0)
            self._dialog.show()
        loop = QEventLoop()
        QTimer.singleShot(round(seconds * 1000), loop.quit)
        flag = QEventLoop.ProcessEventsFlag
        loop.exec(flag.AllEvents if self._dialog is not None else flag.ExcludeUserInputEvents)
        return self._dialog is None or not self._dialog.wasCanceled()

    def close(self) -> None:
        if self._dialog is not None:
            self._dialog.reset()
            self._dialog.deleteLater()
