"""Reading files that come from elsewhere: what each kind gives, in a form that can travel between processes."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import msgspec

from volumen.colour.press import ProfileProblem
from volumen.colour.press_settings import Press
from volumen.devices.cover import DeviceProblem
from volumen.formats.files import FileProblem
from volumen.model.nodes import Asset, Document, Group, Swatch
from volumen.stock.stocks import Stock, StockProblem, read_stock

_TRIAL = 400  # pixels wide that a file for the press is drawn to see whether it can be


class FileToRead(msgspec.Struct, frozen=True):
    """A file, or data that is called ``name``, and what it is read as: one of ``READERS``."""

    kind: str
    path: str = ""
    data: bytes = b""
    name: str = ""
    options: dict[str, float | str] = {}


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


class PrintedSheet(msgspec.Struct, tag="printed sheet"):
    """What a press makes of a file, as PNG."""

    png: bytes
    width: int
    height: int


class Findings(msgspec.Struct, tag="findings"):
    """What is wrong with a PDF for the press."""

    wrong: list[str]


class StockFile(msgspec.Struct, tag="stock file"):
    """A stock of someone's own."""

    stock: Stock


class Refused(msgspec.Struct, tag="refused"):
    """Why a file cannot be read."""

    message: str


Result = Artwork | Drawing | Picture | Swatches | Printable | PrintedSheet | Findings | StockFile
_PROBLEMS = (DeviceProblem, ProfileProblem, StockProblem)  # whose message says all


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
    from volumen.devices.scanner import Scan
    from volumen.formats.scans import scan

    return Picture(*scan(Path(f.path), msgspec.convert(f.options, Scan)))


def _straightened(f: FileToRead) -> Picture:
    from volumen.formats.scans import straighten, straightened_file

    return Picture(*(straighten(f.data) if f.data else straightened_file(Path(f.path))))


def _palette(f: FileToRead) -> Swatches:
    from volumen.formats.palettes import read_palette

    return Swatches(read_palette(Path(f.path)))


def _printable(f: FileToRead) -> Printable:
    from volumen.devices.press import read_plates

    return Printable(*read_plates(Path(f.path), Press(), wide=_TRIAL).size)


def _printed(f: FileToRead) -> PrintedSheet:
    from volumen.devices.press import PressRun, print_sheet, read_plates
    from volumen.formats.bitmaps import opaque_png

    press, run = Press(str(f.options["profile"])), msgspec.convert(f.options, PressRun)
    sheet = print_sheet(read_plates(Path(f.path), press, float(f.options["dpi"])), press, run).pixels
    return PrintedSheet(opaque_png(sheet), sheet.shape[1], sheet.shape[0])


def _findings(f: FileToRead) -> Findings:
    from volumen.formats.files import read_bytes
    from volumen.formats.pdf.checker import MOST_BYTES, PdfProblem, press_findings

    path = Path(f.path)
    try:
        return Findings(press_findings(read_bytes(path, MOST_BYTES)))
    except PdfProblem as problem:
        raise FileProblem(f"'{path.name}': {problem}") from problem


def _stock(f: FileToRead) -> StockFile:
    return StockFile(read_stock(Path(f.path)))


READERS: dict[str, Callable[[FileToRead], Result]] = {
    "artwork": _artwork, "svg artwork": _svg_artwork, "svg": _svg, "picture": _picture, "palette": _palette,
    "scan": _scan, "straightened scan": _straightened, "printable": _printable, "printed": _printed,
    "findings": _findings, "stock": _stock,
}  # fmt: skip


def read_here(file: FileToRead) -> Result:
    """Read a file in this process. Raises FileProblem, whatever is wrong with it."""
    name = file.name or Path(file.path).name
    try:
        return READERS[file.kind](file)
    except FileProblem:
        raise
    except _PROBLEMS as problem:
        raise FileProblem(str(problem)) from problem
    except MemoryError as error:
        raise FileProblem(f"'{name}' needs more memory than reading a file may take; it is not opened") from error
    except RecursionError as error:
        raise FileProblem(f"'{name}' is nested too deep; it is not opened") from error
    except Exception as error:  # a fault of a reader, or of a library, is the file's end, not the program's
        raise FileProblem(f"'{name}' cannot be read: {type(error).__name__}: {error}"[:400]) from error
