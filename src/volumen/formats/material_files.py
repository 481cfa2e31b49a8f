"""Materials as JSON files, to share between documents."""

from __future__ import annotations

from pathlib import Path

import msgspec

from volumen.formats.files import FileProblem, problem, write_bytes
from volumen.shading.materials import Material

_MAX_BYTES = 1 << 20


class _File(msgspec.Struct):
    materials: list[Material]


def read_materials(path: Path) -> list[Material]:
    """The materials of a JSON file. Raises FileProblem."""
    try:
        if path.stat().st_size > _MAX_BYTES:
            raise FileProblem(f"'{path.name}' is too large for materials; it is not read")
        data = path.read_bytes()
    except OSError as error:
        raise problem("open", path, error) from error
    try:
        found = msgspec.json.decode(data, type=_File).materials
    except msgspec.DecodeError as error:
        raise FileProblem(f"'{path.name}' holds no materials that can be read: {error}") from error
    if not found:
        raise FileProblem(f"'{path.name}' holds no materials")
    return found


def write_materials(materials: tuple[Material, ...], path: Path) -> None:
    """Write materials as JSON. Raises FileProblem."""
    data = msgspec.json.format(msgspec.json.encode(_File(list(materials))), indent=2)
    write_bytes(path, data)
