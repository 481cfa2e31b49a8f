"""Several outputs in one go: which files they make, written all or none."""

from __future__ import annotations

import multiprocessing
import os
import re
import shutil
import tempfile
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import NamedTuple

import msgspec

from volumen.colour.press_settings import Press
from volumen.formats.export import export
from volumen.formats.files import FileProblem, decoded, problem, read_bytes, write_bytes
from volumen.formats.options import ExportOptions
from volumen.formats.pure_vector import Closeness
from volumen.model.nodes import Document
from volumen.model.outputs import BITMAPS, FOR_PRESS, Output
from volumen.model.tree import find
from volumen.outline.alone import branches_alone

PART = ".volumen-outputs-"
_MOST_BYTES = 2**20
_VERSION = 1


class Task(NamedTuple):
    """One file to write."""

    path: Path
    options: ExportOptions


class _Kept(msgspec.Struct):
    version: int
    outputs: tuple[Output, ...]


def tasks_for(
    document: Document, outputs: Iterable[Output], selection: tuple[int, ...], folder: Path, stem: str, press: Press
) -> list[Task]:
    """The files that outputs make in a folder, each under its own name. Raises FileProblem where there is nothing."""
    found: list[Task] = []
    taken: set[str] = set()
    outputs = list(outputs)
    for output in outputs:
        for words, nodes in _parts(document, output, selection):
            told = [stem, *([output.name] if output.name and len(outputs) > 1 else []), *words]
            name = _free(" ".join(_plain(w) for w in told), output.kind, taken)
            found.append(Task(folder / name, options_for(document, output, nodes, press, stem)))
    return found


def _parts(document: Document, output: Output, selection: tuple[int, ...]) -> list[tuple[list[str], tuple[int, ...]]]:
    if output.of == "sheet":
        return [([], ())]
    if output.of == "selection":
        if not selection:
            raise FileProblem("nothing is selected: choose what shall be exported, or export the sheet")
        return [([], selection)]
    named = [n for n in document.root.children if n.visible]
    if not named:
        raise FileProblem("there is no object on the sheet that could be exported")
    return [([n.name], (n.id,)) for n in named]


def options_for(
    document: Document, output: Output, nodes: tuple[int, ...], press: Press, title: str
) -> ExportOptions:  # fmt: skip
    """What an output asks of the exporter. ``width`` is that of what is exported: of the sheet, or of the branches."""
    sheet = document.sheet
    wide = sheet.width
    if nodes and (found := branches_alone(document, nodes)) is not None:
        wide = found[1][2] - found[1][0]
    scale = output.width / wide if output.width else output.dpi / 96
    node = find(document, nodes[0]) if len(nodes) == 1 else None
    return ExportOptions(
        scale=scale, dpi=output.dpi, flat=output.flat, ground="none" if output.clear else "sheet",
        title=node.name if node is not None else title, pure_vector=output.pure_vector, bleed=output.bleed,
        marks=output.marks, nodes=nodes, depth=output.depth if output.kind in ("png", "tif") else 8,
        quality=output.quality if output.quality < 100 else None,
        press=press if output.inks and output.kind in FOR_PRESS else None,
        stock=output.stock if output.kind in BITMAPS else None, text=output.text and output.kind == "pdf",
    )  # fmt: skip


def write_all(document: Document, tasks: list[Task], tell: Callable[[float], None]) -> list[Closeness | None]:
    """Write all files, or none: they are made beside their places and moved there at the end. Raises FileProblem."""
    if not tasks:
        return []
    folder = tasks[0].path.parent
    try:
        parent = multiprocessing.parent_process()
        whose = os.getpid() if parent is None else parent.pid
        aside = Path(tempfile.mkdtemp(prefix=f"{PART}{whose}-", dir=folder))
    except OSError as error:
        raise problem("write in", folder, error) from error
    try:
        close = []
        for k, task in enumerate(tasks):

            def told(share: float, k: int = k) -> None:
                tell((k + share) / len(tasks))

            close.append(export(document, aside / task.path.name, task.options, told))
        for task in tasks:
            _move(aside / task.path.name, task.path)
        return close
    finally:
        shutil.rmtree(aside, ignore_errors=True)


def _move(part: Path, path: Path) -> None:
    """Put a finished file in its place; what a link points to is written over, not the link."""
    if path.is_symlink():
        write_bytes(path, part.read_bytes())
        return
    try:
        os.replace(part, path)
    except OSError as error:
        raise problem("write", path, error) from error


def remove_left(folder: Path) -> None:
    """Remove what a stopped run, a process of this one, left beside its files."""
    for left in folder.glob(f"{PART}{os.getpid()}-*"):
        shutil.rmtree(left, ignore_errors=True)


def read_kept(path: Path) -> tuple[Output, ...]:
    """The outputs kept in a file; none where there is no such file. Raises FileProblem."""
    if not path.exists():
        return ()
    kept = decoded(read_bytes(path, _MOST_BYTES), _Kept, path.name, "kept outputs")
    if kept.version > _VERSION:
        raise FileProblem(f"'{path.name}' was written by a newer Volumen; its outputs are left alone")
    return kept.outputs


def write_kept(path: Path, outputs: tuple[Output, ...]) -> None:
    """Keep outputs in a file, in a folder that is made where there is none. Raises FileProblem."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise problem("write", path, error) from error
    write_bytes(path, msgspec.json.format(msgspec.json.encode(_Kept(_VERSION, outputs))))


def _plain(word: str) -> str:
    """A word as a part of a file name on any system."""
    return re.sub(r'[\x00-\x1f/\\:*?"<>|]+', "-", word).strip(" .")[:80] or "untitled"


def _free(stem: str, suffix: str, taken: set[str]) -> str:
    name, k = f"{stem}.{suffix}", 2
    while name.lower() in taken:
        name, k = f"{stem} {k}.{suffix}", k + 1
    taken.add(name.lower())
    return name
