"""Files from elsewhere are read apart while the window lives on; what takes longer can be stopped."""

from __future__ import annotations

from pathlib import Path
from typing import TypeVar

from PySide6.QtWidgets import QWidget

from volumen.app.widgets.waiting import Waiting
from volumen.formats.apart import Apart
from volumen.formats.files import FileProblem
from volumen.formats.foreign import Artwork, Drawing, FileToRead, Picture, Printable, Result, Swatches, read_here
from volumen.formats.native import unpacked_size

R = TypeVar("R", Artwork, Drawing, Picture, Printable, Swatches)
_SMALL = 3 * 2**20  # bytes of our own artwork, unpacked, that are read at once: half a second


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

    def scan(self, path: Path) -> Picture:
        return self._read(FileToRead("scan", str(path)), Picture)

    def straightened(self, data: bytes, name: str) -> Picture:
        return self._read(FileToRead("straightened scan", data=data, name=name), Picture)

    def palette(self, path: Path) -> Swatches:
        return self._read(FileToRead("palette", str(path)), Swatches)

    def printable(self, path: Path) -> Printable:
        return self._read(FileToRead("printable", str(path)), Printable)

    def close(self) -> None:
        """No file is wanted any more: a process that waits for one ends."""
        if not self.under_way:
            self._apart.close()

    def _read(self, file: FileToRead, kind: type[R]) -> R:
        if self.under_way:
            raise FileProblem("another file is being read; stop that first")
        self.under_way = True
        name = file.name or Path(file.path).name
        try:
            with Waiting(self.parent, "Reading", f"Reading '{name}' …") as waiting:
                found: Result = self._apart.read(file, waiting.wait)
        finally:
            self.under_way = False
        assert isinstance(found, kind)
        return found
