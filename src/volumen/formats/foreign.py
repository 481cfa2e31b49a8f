"""Reading files that come from elsewhere: what each kind gives, in a form that can travel between processes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from volumen.formats.files import FileProblem
from volumen.model.nodes import Asset, Document, Group, Swatch

_TRIAL = 400  # pixels wide that a file for the press is drawn to see whether it can be


class FileToRead(msgspec.Struct, frozen=True):
    """A file, or data that is called ``name``, and what it is read as: one of ``READERS``."""

    kind: str
    path: str = ""
    data: bytes = b""
    name: str = ""


class Artwork(msgspec.Struct, tag="artwork"):
    """A document, with what had to be changed or left out."""

    document: Document
    notes: list[str]


class Drawing(msgspec.Struct, tag="drawing"):
    """The content of an SVG as one group, with what was left out."""

    content: Group
    notes: list[str]


class Picture(msgspec.Struct, tag="picture"):
    """A bitmap to be placed, with its size in pixels."""

    asset: Asset
    width: int
    height: int


class Swatches(msgspec.Struct, tag="swatches"):
    """The colours of a palette file."""

    swatches: list[Swatch]


class Printable(msgspec.Struct, tag="printable"):
    """A file that a press can print: its size in mm."""

    width: float
    height: float


class Refused(msgspec.Struct, tag="refused"):
    """Why a file cannot be read."""

    message: str


Result = Artwork | Drawing | Picture | Swatches | Printable


def _artwork(f: FileToRead) -> Artwork:
    from volumen.formats import native

    return Artwork(*native.read(Path(f.path)))


def _svg_artwork(f: FileToRead) -> Artwork:
    from volumen.formats.svg.read import open_svg

    return Artwork(*open_svg(Path(f.path)))


def _svg(f: FileToRead) -> Drawing:
    from volumen.formats.files import read_bytes
    from volumen.formats.svg.read import MAX_BYTES, read_svg

    data = f.data or read_bytes(Path(f.path), MAX_BYTES)
    found = read_svg(data, f.name or Path(f.path).name)
    return Drawing(Group(-1, Path(f.path).stem or "pasted", found.nodes), found.notes)


def _picture(f: FileToRead) -> Picture:
    from volumen.formats.images import place

    return Picture(*place(Path(f.path)))


def _scan(f: FileToRead) -> Picture:
    from volumen.formats.scans import scan

    return Picture(*scan(Path(f.path)))


def _straightened(f: FileToRead) -> Picture:
    from volumen.formats.scans import straighten

    return Picture(*straighten(f.data))


def _palette(f: FileToRead) -> Swatches:
    from volumen.formats.palettes import read_palette

    return Swatches(read_palette(Path(f.path)))


def _printable(f: FileToRead) -> Printable:
    from volumen.colour.press_settings import Press
    from volumen.devices.cover import DeviceProblem
    from volumen.devices.press import read_plates

    try:
        return Printable(*read_plates(Path(f.path), Press(), wide=_TRIAL).size)
    except DeviceProblem as problem:
        raise FileProblem(str(problem)) from problem


READERS: dict[str, Callable[[FileToRead], Result]] = {
    "artwork": _artwork, "svg artwork": _svg_artwork, "svg": _svg, "picture": _picture, "palette": _palette,
    "scan": _scan, "straightened scan": _straightened, "printable": _printable,
}  # fmt: skip


def read_here(file: FileToRead) -> Result:
    """Read a file in this process. Raises FileProblem, whatever is wrong with it."""
    name = file.name or Path(file.path).name
    try:
        return READERS[file.kind](file)
    except FileProblem:
        raise
    except MemoryError as error:
        raise FileProblem(f"'{name}' needs more memory than reading a file may take; it is not opened") from error
    except RecursionError as error:
        raise FileProblem(f"'{name}' is nested too deep; it is not opened") from error
    except Exception as error:  # a fault of a reader, or of a library, is the file's end, not the program's
        raise FileProblem(f"'{name}' cannot be read: {type(error).__name__}: {error}"[:400]) from error
