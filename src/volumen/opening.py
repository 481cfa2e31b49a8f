"""Opening documents by name: files, SVG and the demos."""

from __future__ import annotations

from pathlib import Path

from volumen.demo import DEMOS
from volumen.formats import native
from volumen.formats.apart import Apart
from volumen.formats.foreign import Artwork, FileToRead
from volumen.library import Document


def open_file(name: str | Path) -> tuple[Document, list[str]]:
    """A ``.volumen`` file, an SVG, or a demo (``demo:NAME``), and in words what had to be changed or left out of it.

    Raises FileProblem for what cannot be read, and KeyError for a demo that is not there.
    """
    text = str(name)
    if text.startswith("demo:"):
        return DEMOS[text[5:]][1](), []
    if text.lower().endswith(".svg"):
        found = Apart().read(FileToRead("svg artwork", text))
        assert isinstance(found, Artwork)
        return found.document, found.notes
    return native.read(Path(text))


def open(name: str | Path) -> Document:
    """The document of a file or demo; see ``open_file``."""
    return open_file(name)[0]
